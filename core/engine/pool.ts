// Programs of kernels, run band by band over the threads of a pool. The thread that asks works too and waits until all
// bands are done; workers wait on an Atomics word between programs. A band writes only its own rows, so results do not
// depend on who takes which.
import {
  BAND_ROWS,
  CONTROL_BAND_COUNT,
  CONTROL_DONE,
  CONTROL_FAILED,
  CONTROL_GENERATION,
  CONTROL_LEFT,
  CONTROL_NEXT_BAND,
  CONTROL_ROOM,
  CONTROL_ROWS,
  CONTROL_SLOT,
  CONTROL_STEP_COUNT,
  CONTROL_STEPS,
  CONTROL_STOP,
  CONTROL_THREAD_ROOM,
  SCRATCH_SIZE,
  STEP_ARGUMENTS,
} from '../../kernels/assembly/layout'
import { layoutOf, RASTER_BYTES, type ArgumentsOf, type Kernel, type Raster, type Slot } from '../../kernels/record'
import { KERNELS } from '../../kernels/records'
import type { Box } from './box'
import { formOf, isPointKernel } from '../formula/point'
import { isRowKernel, rowOf } from '../formula/compile'
import { inRow } from '../formula/body'
import { Formulas, FormulaTable } from './formulas'
import { startKernels, type Kernels } from './memory'

/** What a worker is told once; it then runs serveBands until the pool stops. */
export interface WorkerStart {
  module: WebAssembly.Module
  memory: WebAssembly.Memory
  scratch: number
  thread: number
}

/** The whole life of a pool worker (blocks its thread). */
export function serveBands(start: WorkerStart): void {
  const { exports, table } = startKernels(start.module, start.memory, start)
  const control = new Int32Array(start.memory.buffer, 0, 64)
  const formulas = new FormulaTable(control, start.memory, table)
  let seen = 0
  for (;;) {
    Atomics.wait(control, CONTROL_GENERATION >> 2, seen)
    const generation = Atomics.load(control, CONTROL_GENERATION >> 2)
    if (generation === seen) continue
    seen = generation
    if (Atomics.load(control, CONTROL_STOP >> 2)) return
    try {
      formulas.update()
      takeBands(exports, control)
    } catch (error) {
      // Who asks must not wait for ever
      console.error(error)
      Atomics.store(control, CONTROL_FAILED >> 2, 1)
    }
    Atomics.add(control, CONTROL_DONE >> 2, 1)
    Atomics.notify(control, CONTROL_DONE >> 2)
  }
}

/** Runs bands until there are none. Returns whether it was stopped, which ends the others too. */
function takeBands(exports: { runBand(band: number): void }, control: Int32Array, stop?: () => boolean): boolean {
  const count = Atomics.load(control, CONTROL_BAND_COUNT >> 2)
  for (;;) {
    if (stop?.()) {
      Atomics.store(control, CONTROL_NEXT_BAND >> 2, count)
      return true
    }
    const band = Atomics.add(control, CONTROL_NEXT_BAND >> 2, 1)
    if (band >= count) return false
    exports.runBand(band)
  }
}

/** Thrown where work was stopped between two bands. */
export class Stopped extends Error {
  constructor() {
    super('The work was stopped.')
  }
}

/** One kernel of a program: what it is given, and which pixels it makes. */
export interface Step {
  kernel: Kernel
  area: Box
  given: Readonly<Record<string, unknown>>
}
export const step = <K extends Kernel>(kernel: K, area: Box, given: ArgumentsOf<K>): Step => ({ kernel, area, given })

export interface Program {
  steps: readonly Step[]
  area: Box
  /** Rows of a band. */
  rows?: number
  /** Pictures of one band that the steps name by Slot, counted from 1. */
  slots?: number
  slotPixelBytes?: number
  /** Asked between bands. */
  stop?: () => boolean
}

interface Laid extends ReturnType<typeof layoutOf> {
  /** Of a row of points it is another one in each pool. */
  number?: number
}
const laidOut = (kernel: Kernel, number?: number): Laid => ({ number, ...layoutOf(kernel.arguments) })
const LAYOUTS = new WeakMap<Kernel, Laid>(KERNELS.map((kernel, number) => [kernel, laidOut(kernel, number)]))
const layoutFor = (kernel: Kernel): Laid => {
  let layout = LAYOUTS.get(kernel)
  if (!layout) LAYOUTS.set(kernel, (layout = laidOut(kernel)))
  return layout
}

/** A point by itself is a row of one. */
function asRow(step: Step): Step {
  const { kernel, area, given } = step
  if (!isPointKernel(kernel)) return step
  const row = rowOf([formOf(kernel, given, !!given.matte)])
  return {
    kernel: row,
    area,
    given: Object.fromEntries(Object.entries(given).map(([name, value]) => [inRow(name, 0), value])),
  }
}

export class Pool {
  private control: Int32Array
  private workers = 0
  /** Where the steps of the program at hand stand, and room for pictures of one band: kept from run to run. */
  private steps = { pointer: 0, bytes: 0 }
  private room = { pointer: 0, bytes: 0 }
  private formulas: Formulas
  private table: FormulaTable

  constructor(readonly kernels: Kernels) {
    this.control = kernels.words(0, 64)
    this.formulas = new Formulas(kernels, this.control)
    this.table = new FormulaTable(this.control, kernels.memory, kernels.table)
  }

  get threads(): number {
    return this.workers + 1
  }

  /** What to hand to one more worker, which must then call serveBands with it. Add all workers before the first run. */
  addWorker(): WorkerStart {
    this.workers++
    const { module, memory } = this.kernels
    return { module, memory, scratch: this.kernels.allocate(SCRATCH_SIZE), thread: this.workers }
  }

  /** One kernel over an area. rows: of a band. */
  run<K extends Kernel>(kernel: K, area: Box, given: ArgumentsOf<K>, rows = BAND_ROWS): void {
    this.runProgram({ steps: [step(kernel, area, given)], area, rows })
  }

  /** Runs a program over its area. Throws Stopped. */
  runProgram({ steps, area, rows = BAND_ROWS, slots = 0, slotPixelBytes = 16, stop }: Program): void {
    const bands = Math.ceil((area.bottom - area.top) / rows)
    if (bands <= 0 || area.right <= area.left) return
    this.write(steps.map(asRow))
    this.table.update()
    const slot = Math.ceil(((area.right - area.left) * rows * slotPixelBytes) / 64) * 64
    if (slots) this.grow(this.room, slot * slots * this.threads)
    const words = this.control
    words[CONTROL_STEPS >> 2] = this.steps.pointer
    words[CONTROL_STEP_COUNT >> 2] = steps.length
    words.set([area.left, area.top, area.right, area.bottom], CONTROL_LEFT >> 2)
    words[CONTROL_ROWS >> 2] = rows
    words[CONTROL_ROOM >> 2] = this.room.pointer
    words[CONTROL_THREAD_ROOM >> 2] = slot * slots
    words[CONTROL_SLOT >> 2] = slot
    Atomics.store(words, CONTROL_NEXT_BAND >> 2, 0)
    Atomics.store(words, CONTROL_BAND_COUNT >> 2, bands)
    Atomics.store(words, CONTROL_DONE >> 2, 0)
    const together = this.workers > 0 && bands > 1
    if (together) {
      Atomics.add(words, CONTROL_GENERATION >> 2, 1)
      Atomics.notify(words, CONTROL_GENERATION >> 2)
    }
    let stopped = false
    try {
      stopped = takeBands(this.kernels.exports, words, stop)
    } finally {
      if (together)
        for (let done; (done = Atomics.load(words, CONTROL_DONE >> 2)) < this.workers;)
          Atomics.wait(words, CONTROL_DONE >> 2, done)
    }
    if (Atomics.exchange(words, CONTROL_FAILED >> 2, 0)) throw new Error('A part of the picture could not be computed.')
    if (stopped) throw new Stopped()
  }

  private grow(kept: { pointer: number; bytes: number }, bytes: number): void {
    if (kept.bytes >= bytes) return
    this.kernels.dispose(kept.pointer)
    kept.pointer = 0
    kept.bytes = 0
    kept.pointer = this.kernels.allocate(bytes)
    kept.bytes = bytes
  }

  private write(steps: readonly Step[]): void {
    const layouts = steps.map(({ kernel }) => layoutFor(kernel))
    const numbers = this.formulas.numbersOf(steps.map(({ kernel }) => kernel).filter(isRowKernel)).values()
    this.grow(
      this.steps,
      layouts.reduce((sum, { bytes }) => sum + STEP_ARGUMENTS + bytes, 0),
    )
    let at = this.steps.pointer
    const words = this.kernels.words(0, (this.steps.pointer + this.steps.bytes) >> 2)
    const floats = new Float32Array(words.buffer)
    steps.forEach(({ kernel, area, given }, i) => {
      const { number = numbers.next().value!, places, rasters, bytes } = layouts[i]!
      const size = STEP_ARGUMENTS + bytes
      words.set([number, size, rasters, area.left, area.top, area.right, area.bottom, 0], at >> 2)
      for (const [name, place] of places) {
        const word = (at + STEP_ARGUMENTS + place) >> 2
        const value = given[name] ?? kernel.constants?.[name]
        switch (kernel.arguments[name]!.kind) {
          case 'raster': {
            const raster = value as Raster | Slot | undefined
            if (!raster) words.fill(0, word, word + RASTER_BYTES / 4)
            else if ('slot' in raster) words[word] = raster.slot
            else {
              const { pointer, left, top, right, bottom } = raster
              words.set([pointer, left, top, right, bottom, right - left], word)
            }
            break
          }
          case 'number':
            floats[word] = value as number
            break
          case 'four':
            floats.set(value as number[], word)
            break
          case 'splat':
            floats.fill(value as number, word, word + 4)
            break
          case 'shade':
            ;(value as number[]).forEach((channel, i) => floats.fill(channel, word + 4 * i, word + 4 * i + 4))
            break
          default:
            words[word] = value as number
        }
      }
      at += size
    })
  }

  /** Ends the workers. */
  stop(): void {
    Atomics.store(this.control, CONTROL_STOP >> 2, 1)
    Atomics.add(this.control, CONTROL_GENERATION >> 2, 1)
    Atomics.notify(this.control, CONTROL_GENERATION >> 2)
  }
}
