// Computes what was planned, and keeps what may be asked for again: what was asked for last, what comes from files, and
// what stayed the same while something made from it changed (so that a value that is dragged costs only what follows
// it). All of it lives in the kernels' memory under one budget.
import { common, heightOf, holds, sameBox, widthOf, type Box } from '../engine/box'
import { Stopped, type Pool, type Step } from '../engine/pool'
import { Shift } from '../../kernels/records'
import type { Raster } from '../../kernels/record'
import { kernelNode, nodesOf, type Node } from './node'
import { bytesOf, schedule, streamParts, type Action, type PlannedStep, type Schedule } from './schedule'

interface Kept {
  raster: Raster
  bytes: number
}
/** Thrown where a picture needs more memory than there is, before anything is computed. */
export class TooLarge extends Error {
  constructor(
    readonly needed: number,
    readonly budget: number,
  ) {
    super(`The picture needs ${Math.ceil(needed / 1048576)} MiB; there are ${Math.floor(budget / 1048576)}.`)
  }
}

export interface RunOptions {
  /** Asked between bands; true ends the work with Stopped. */
  stop?: () => boolean
}

/** Bytes of a picture of one band that stay near the processor. */
const BAND_BYTES = 65536
const LEAST_STRIP = 16
/** Of the budget, for pictures that were looked at before. */
const ROOTS_SHARE = 1 / 3
const STREAM_SHARE = 0.6

export class Runner {
  /** By key, that used last at the end. */
  private kept = new Map<string, Kept>()
  private keptBytes = 0
  /** Keys of the picture before, to see what stayed. */
  private before = new Set<string>()
  /** What must stay while it is used: of the picture at hand, then that picture. */
  private pinned: ReadonlySet<string> = new Set()
  /** Whole pictures that were asked for, that used last at the end. */
  private roots: string[] = []
  /** A part of a picture that is there, which was asked for last: not worth keeping. */
  private part?: string
  private liveBytes = 0
  /** Pictures laid out since the start, for tests of what is computed again. */
  computed = 0

  constructor(
    readonly pool: Pool,
    private budget: number,
    /** Files of more bytes together are not kept as pictures: they are made along with what reads them. */
    private streamFrom = budget * STREAM_SHARE,
  ) {
    // Whoever else works in this memory comes first
    pool.kernels.reclaim = () => this.dropOldest()
  }

  /** Bytes that are kept. */
  get held(): number {
    return this.keptBytes
  }

  has(key: string): boolean {
    return this.kept.has(key)
  }

  /**
   * An area of a picture, laid out whole; it stays as it is until the next call. Throws TooLarge before anything is
   * computed, and Stopped.
   */
  async run(root: Node, box: Box, { stop }: RunOptions = {}): Promise<Raster> {
    const area = common(box, root.window)
    if (this.part) this.forget(this.part)
    this.part = undefined
    const larger = this.kept.get(root.key)?.raster
    if (larger && holds(larger, area) && !sameBox(larger, area)) return this.partOf(root, area, stop)
    const all = nodesOf(root)
    const stayed = this.stayed(all)
    const there = (node: Node, part: Box): boolean => {
      const kept = this.kept.get(node.key)
      return !!kept && holds(kept.raster, part)
    }
    const options = { there, keep: stayed, streamFrom: this.streamFrom }
    const plan = schedule(root, area, options)
    if (plan.actions.length) {
      if (plan.peak + this.bytesKept(plan.ready) <= this.budget) {
        await this.execute(plan, root, undefined, stop)
      } else await this.inStrips(root, area, there, stop)
    }
    this.before = new Set(all.map(node => node.key))
    this.pinned = new Set([root.key])
    this.trimRoots(root.key)
    return this.touch(root.key)
  }

  /** A part of a picture that is there whole: of a pixel that is pointed at, say. */
  private async partOf(root: Node, area: Box, stop: RunOptions['stop']): Promise<Raster> {
    const node = kernelNode(Shift, { source: root, dx: 0, dy: 0 }, { window: area })
    await this.execute(schedule(node, area, { there: other => other.key === root.key }), node, undefined, stop)
    this.part = node.key
    this.pinned = new Set([root.key, node.key])
    return this.touch(node.key)
  }

  /** The same in one piece where it fits, else strip by strip from the top, of which nothing is kept. */
  async eachStrip(
    root: Node,
    box: Box,
    use: (strip: Raster) => void | Promise<void>,
    { stop }: RunOptions = {},
  ): Promise<void> {
    const strips = this.strips(root, common(box, root.window), () => false, 0)
    if (strips.length === 1) return use(await this.run(root, box, { stop }))
    for (const strip of strips) {
      const plan = schedule(root, strip, { streamFrom: this.streamFrom })
      await this.execute(plan, root, undefined, stop)
      this.pinned = new Set([root.key])
      await use(this.touch(root.key))
      this.forget(root.key)
    }
  }

  /** What was there in the picture before and is now an input of something new. */
  private stayed(all: readonly Node[]): Set<string> {
    const found = new Set<string>()
    for (const node of all)
      if (!this.before.has(node.key))
        for (const input of node.inputs) if (this.before.has(input.key)) found.add(input.key)
    return found
  }

  private bytesKept(keys: Iterable<string>): number {
    let sum = 0
    for (const key of keys) sum += this.kept.get(key)?.bytes ?? 0
    return sum
  }

  /** Whole pictures of before are worth a part of the memory only: they come back when one goes back and forth. */
  private trimRoots(key: string): void {
    this.roots = [...this.roots.filter(other => other !== key && this.kept.has(other)), key]
    while (this.roots.length > 1 && this.bytesKept(this.roots) > this.budget * ROOTS_SHARE)
      this.forget(this.roots.shift()!)
  }

  /** Strips of an area of which each fits beside so many bytes. Throws TooLarge. */
  private strips(root: Node, area: Box, there: (node: Node, part: Box) => boolean, beside: number): Box[] {
    for (let rows = heightOf(area); ; rows = Math.ceil(rows / 2 / LEAST_STRIP) * LEAST_STRIP) {
      const strips: Box[] = []
      for (let top = area.top; top < area.bottom; top += rows)
        strips.push({ ...area, top, bottom: Math.min(area.bottom, top + rows) })
      const needed =
        Math.max(
          ...strips.map(strip => {
            const { peak, ready } = schedule(root, strip, { there, streamFrom: this.streamFrom })
            return peak + this.bytesKept(ready)
          }),
        ) + beside
      if (needed <= this.budget) return strips
      if (rows <= LEAST_STRIP) throw new TooLarge(needed, this.budget)
    }
  }

  private async inStrips(
    root: Node,
    area: Box,
    there: (node: Node, part: Box) => boolean,
    stop: RunOptions['stop'],
  ): Promise<void> {
    const bytes = bytesOf(root, area)
    const strips = this.strips(root, area, there, bytes)
    const out = this.allocate(bytes, area)
    this.liveBytes = bytes
    try {
      for (const strip of strips) {
        const plan = schedule(root, strip, { there, streamFrom: this.streamFrom })
        await this.execute(plan, root, out, stop)
      }
      this.keep(root.key, out, bytes)
    } catch (error) {
      this.pool.kernels.dispose(out.pointer)
      throw error
    } finally {
      this.liveBytes = 0
    }
  }

  /** Runs a schedule. into: where the root goes; it is kept otherwise. */
  private async execute(
    { actions, ready }: Schedule,
    root: Node,
    into: Raster | undefined,
    stop: RunOptions['stop'],
  ): Promise<void> {
    const live = new Map<string, Raster>()
    const nodes = new Map(actions.map(({ node }) => [node.key, node]))
    this.pinned = ready
    const beside = this.liveBytes
    const letGo = (key: string): void => {
      const raster = live.get(key)
      if (!raster) return
      const node = nodes.get(key)!
      const bytes = bytesOf(node, raster)
      live.delete(key)
      this.liveBytes -= bytes
      this.keep(key, raster, bytes)
    }
    const tables: number[] = []
    const rasterOf = (key: string): Raster => live.get(key) ?? this.touch(key)
    try {
      for (const action of actions) {
        const { node } = action
        if (action.kind === 'drop') {
          letGo(node.key)
          // What comes from files is wanted again sooner than it can be made again
          if (node.inputs.length || into) this.forget(node.key)
          continue
        }
        if (stop?.()) throw new Stopped()
        for (const file of action.kind === 'run' ? action.streams.map(stream => stream.node) : [node])
          if (file.by === 'script') await file.wants?.()
        if (into && node.key === root.key) this.make(action, into, rasterOf, tables, stop)
        else {
          const bytes = bytesOf(node, action.box)
          const raster = this.allocate(bytes, action.box)
          this.liveBytes += bytes
          try {
            this.make(action, raster, rasterOf, tables, stop)
          } catch (error) {
            this.pool.kernels.dispose(raster.pointer)
            this.liveBytes -= bytes
            throw error
          }
          live.set(node.key, raster)
        }
        this.computed++
      }
    } finally {
      // What is whole is kept, also of work that was stopped: it is likely wanted by what comes next
      for (const key of [...live.keys()]) letGo(key)
      for (const pointer of tables) this.pool.kernels.dispose(pointer)
      this.liveBytes = beside
    }
  }

  private make(
    action: Extract<Action, { kind: 'make' | 'run' }>,
    out: Raster,
    rasterOf: (key: string) => Raster,
    tables: number[],
    stop: RunOptions['stop'],
  ): void {
    const { kernels } = this.pool
    const { node } = action
    if (action.kind === 'make') {
      if (node.by === 'script')
        node.make(
          out,
          node.inputs.map(input => rasterOf(input.key)),
          kernels,
        )
      return
    }
    const { box, streams } = action
    const placed = action.steps.map(({ tables: own }) =>
      Object.entries(own).map(([name, table]) => {
        const pointer = kernels.place(table)
        tables.push(pointer)
        return [name, pointer] as const
      }),
    )
    for (const area of streams.length ? streamParts(box) : [box]) {
      const own = new Map<string, Raster>()
      try {
        for (const { node: file, needs } of streams) {
          const part = needs(area)
          const raster = this.allocate(bytesOf(file, part), part)
          own.set(file.key, raster)
          if (file.by === 'script') file.make(raster, [], kernels)
        }
        const steps = action.steps.map(({ kernel, area, pictures, given }: PlannedStep, i): Step => {
          const all: Record<string, unknown> = { ...given, ...Object.fromEntries(placed[i]!) }
          for (const [name, operand] of Object.entries(pictures))
            all[name] =
              'slot' in operand
                ? operand
                : operand.node.key === node.key
                  ? out
                  : (own.get(operand.node.key) ?? rasterOf(operand.node.key))
          return { kernel, area, given: all }
        })
        this.pool.runProgram({
          steps,
          area,
          rows: Math.max(
            1,
            ...action.steps.map(({ kernel }) => kernel.rows ?? 1),
            Math.min(16, Math.floor(BAND_BYTES / 16 / widthOf(box))),
          ),
          slots: action.slots,
          stop,
        })
      } finally {
        for (const { pointer } of own.values()) kernels.dispose(pointer)
      }
    }
  }

  /** Room for an area; what is kept and not needed now goes where there is none. */
  private allocate(bytes: number, { left, top, right, bottom }: Box): Raster {
    while (this.keptBytes + this.liveBytes + bytes > this.budget && this.dropOldest()) {
      /* until it fits or nothing may go */
    }
    return { pointer: this.pool.kernels.allocate(bytes), left, top, right, bottom }
  }

  private keep(key: string, raster: Raster, bytes: number): void {
    this.forget(key)
    this.kept.set(key, { raster, bytes })
    this.keptBytes += bytes
  }

  private touch(key: string): Raster {
    const kept = this.kept.get(key)!
    this.kept.delete(key)
    this.kept.set(key, kept)
    return kept.raster
  }

  private forget(key: string): void {
    const kept = this.kept.get(key)
    if (!kept) return
    this.kept.delete(key)
    this.keptBytes -= kept.bytes
    this.pool.kernels.dispose(kept.raster.pointer)
  }

  /** Gives everything back. */
  clear(): void {
    for (const key of [...this.kept.keys()]) this.forget(key)
    this.roots = []
    this.before = new Set()
  }

  private dropOldest(): boolean {
    for (const key of this.kept.keys()) {
      if (this.pinned.has(key)) continue
      this.forget(key)
      return true
    }
    return false
  }
}
