// Bands of work over the threads of a pool. The thread that asks works too and waits until all bands are done; workers
// wait on an
// Atomics word between jobs. A band writes only its own rows, so results do not depend on who takes which.
import {
  CONTROL_ARGUMENTS,
  CONTROL_BAND_COUNT,
  CONTROL_DONE,
  CONTROL_GENERATION,
  CONTROL_KERNEL,
  CONTROL_NEXT_BAND,
} from '../../kernels/assembly/layout'
import { Kernels, startKernels } from './memory'
import { SCRATCH_SIZE } from '../../kernels/assembly/layout'

/** What a worker is told once; it then runs serveBands until the pool stops. */
export interface WorkerStart {
  module: WebAssembly.Module
  memory: WebAssembly.Memory
  scratch: number
}

const STOP = -1

/** The whole life of a pool worker (blocks its thread). */
export function serveBands(start: WorkerStart): void {
  const exports = startKernels(start.module, start.memory, start.scratch)
  const control = new Int32Array(start.memory.buffer, 0, 64)
  let seen = 0
  for (;;) {
    Atomics.wait(control, CONTROL_GENERATION >> 2, seen)
    const generation = Atomics.load(control, CONTROL_GENERATION >> 2)
    if (generation === seen) continue
    seen = generation
    const kernel = Atomics.load(control, CONTROL_KERNEL >> 2)
    if (kernel === STOP) return
    takeBands(exports, control, kernel)
    Atomics.add(control, CONTROL_DONE >> 2, 1)
    Atomics.notify(control, CONTROL_DONE >> 2)
  }
}

function takeBands(
  exports: { runBand(kernel: number, band: number): void },
  control: Int32Array,
  kernel: number,
): void {
  const count = Atomics.load(control, CONTROL_BAND_COUNT >> 2)
  for (;;) {
    const band = Atomics.add(control, CONTROL_NEXT_BAND >> 2, 1)
    if (band >= count) return
    exports.runBand(kernel, band)
  }
}

export class Pool {
  private control: Int32Array
  private workers = 0

  constructor(readonly kernels: Kernels) {
    this.control = kernels.words(0, 64)
  }

  get threads(): number {
    return this.workers + 1
  }

  /** What to hand to one more worker, which must then call serveBands with it. Add all workers before the first run. */
  addWorker(): WorkerStart {
    this.workers++
    return { module: this.kernels.module, memory: this.kernels.memory, scratch: this.kernels.allocate(SCRATCH_SIZE) }
  }

  /**
   * Runs all bands of a kernel. Arguments: numbers that are integers go in as i32, others as f32; wrap a float in
   * float().
   */
  run(kernel: number, bands: number, args: readonly Argument[]): void {
    const words = this.control
    const base = CONTROL_ARGUMENTS >> 2
    if (args.length > words.length - base)
      throw new Error(`Kernel ${kernel} was given ${args.length} words; there is room for ${words.length - base}.`)
    const floats = new Float32Array(words.buffer as SharedArrayBuffer, 0, 64)
    for (let i = 0; i < args.length; i++) {
      const value = args[i]!
      if (typeof value === 'number') words[base + i] = value
      else floats[base + i] = value.float
    }
    if (this.workers === 0 || bands < 2) {
      for (let band = 0; band < bands; band++) this.kernels.exports.runBand(kernel, band)
      return
    }
    Atomics.store(words, CONTROL_NEXT_BAND >> 2, 0)
    Atomics.store(words, CONTROL_BAND_COUNT >> 2, bands)
    Atomics.store(words, CONTROL_DONE >> 2, 0)
    Atomics.store(words, CONTROL_KERNEL >> 2, kernel)
    Atomics.add(words, CONTROL_GENERATION >> 2, 1)
    Atomics.notify(words, CONTROL_GENERATION >> 2)
    takeBands(this.kernels.exports, words, kernel)
    for (let done; (done = Atomics.load(words, CONTROL_DONE >> 2)) < this.workers;)
      Atomics.wait(words, CONTROL_DONE >> 2, done)
  }

  /** Ends the workers. */
  stop(): void {
    Atomics.store(this.control, CONTROL_KERNEL >> 2, STOP)
    Atomics.add(this.control, CONTROL_GENERATION >> 2, 1)
    Atomics.notify(this.control, CONTROL_GENERATION >> 2)
  }
}

export type Argument = number | { float: number }
export const float = (value: number): Argument => ({ float: value })
