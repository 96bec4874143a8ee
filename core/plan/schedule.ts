// In which order a picture is computed, and how much memory that takes: pure, so it can be known before anything is done.
// Operators that need no neighbours are run together, band by band, on pictures of one band only; a picture is laid out
// whole only where something needs more of it than its own pixel, where several need it, or where it is to be kept.
import { around, common, heightOf, holds, isEmpty, NOWHERE, widthOf, type Box } from '../engine/box'
import { Clear, Fill, Shift, ShiftSingle } from '../../kernels/records'
import { PIXEL_BYTES, type Kernel, type PixelKind } from '../../kernels/record'
import { inRow } from '../formula/body'
import { fitsRow, rowOf } from '../formula/compile'
import { formOf, isPointKernel, type PointKernel } from '../formula/point'
import { nodesOf, type KernelNode, type Node } from './node'

/** Where a picture stands while a program runs: laid out, or of one band. */
export type Operand = { node: Node } | { slot: number }
export interface PlannedStep {
  kernel: Kernel
  area: Box
  pictures: Record<string, Operand>
  given: Readonly<Record<string, unknown>>
  tables: Readonly<Record<string, Float32Array>>
}
export type Action =
  | { kind: 'make'; node: Node; box: Box }
  | { kind: 'run'; node: Node; box: Box; steps: PlannedStep[]; slots: number; streams: Stream[] }
  | { kind: 'drop'; node: Node }
/** A file that one program alone reads: it is made rows by rows as the program goes, and never laid out whole. */
export interface Stream {
  node: Node
  /** What of it an area of the program's result needs. */
  needs: (area: Box) => Box
}
/** Rows that a program with streams makes at a time. */
export const STREAM_ROWS = 64
export interface Schedule {
  actions: Action[]
  /** Greatest sum of bytes that are laid out at a time, beside what was there before. */
  peak: number
  /** The nodes that were found ready. */
  ready: Set<string>
}

export const bytesOf = (node: Node, box: Box): number => widthOf(box) * heightOf(box) * PIXEL_BYTES[node.pixel]

export interface ScheduleOptions {
  /** Whether a picture is there already, for an area. */
  there?: (node: Node, box: Box) => boolean
  /** What stays laid out after it was used, by key. */
  keep?: ReadonlySet<string>
  /** Files of more bytes than this together are streamed. */
  streamFrom?: number
}

/** How to compute an area of a picture. The area must lie in its window. */
export function schedule(root: Node, box: Box, options: ScheduleOptions = {}): Schedule {
  return new Scheduler(root, box, options).done()
}

class Scheduler {
  private demand = new Map<string, Box>()
  private uses = new Map<string, number>()
  /** To be laid out whole. */
  private laid = new Set<string>()
  private ready = new Set<string>()
  private made = new Set<string>()
  private actions: Action[] = []
  private live = 0
  private peak = 0
  private streaming = false

  constructor(
    private root: Node,
    box: Box,
    private options: ScheduleOptions,
  ) {
    this.demand.set(root.key, common(box, root.window))
    this.laid.add(root.key)
    const nodes = nodesOf(root)
    for (const node of nodes.toReversed()) this.ask(node)
    const files = nodes.filter(node => isFile(node) && !this.ready.has(node.key))
    this.streaming =
      files.reduce((sum, node) => sum + bytesOf(node, this.box(node)), 0) > (options.streamFrom ?? Infinity)
  }

  private isStreamed(node: Node): boolean {
    const { key } = node
    return (
      this.streaming &&
      isFile(node) &&
      this.uses.get(key) === 1 &&
      key !== this.root.key &&
      !this.ready.has(key) &&
      !this.made.has(key) &&
      !this.options.keep?.has(key)
    )
  }

  /** What a node needs of its inputs; those that use it have been asked before. */
  private ask(node: Node): void {
    const area = this.demand.get(node.key)
    if (!area || isEmpty(area)) return
    if (this.options.there?.(node, area)) {
      this.ready.add(node.key)
      return
    }
    if (node.by === 'script' || (this.uses.get(node.key) ?? 0) > 1 || this.options.keep?.has(node.key))
      this.laid.add(node.key)
    for (const [i, input] of node.inputs.entries()) {
      const needed = common(node.needs ? node.needs(area, i) : area, input.window)
      this.demand.set(input.key, around(this.demand.get(input.key) ?? NOWHERE, needed))
      if (isEmpty(needed)) continue
      this.uses.set(input.key, (this.uses.get(input.key) ?? 0) + 1)
      if (node.needs || node.by === 'script') this.laid.add(input.key)
    }
  }

  done(): Schedule {
    if (!isEmpty(this.box(this.root))) this.lay(this.root)
    return { actions: this.actions, peak: this.peak, ready: this.ready }
  }

  private box(node: Node): Box {
    return this.demand.get(node.key) ?? NOWHERE
  }

  /** Lays a picture out whole, after all that it needs. */
  private lay(node: Node): void {
    if (this.made.has(node.key) || this.ready.has(node.key)) return
    const box = this.box(node)
    const read: Node[] = []
    let action: Action
    if (node.by === 'script') {
      for (const input of node.inputs) {
        if (isEmpty(common(box, input.window))) continue
        this.lay(input)
        read.push(input)
      }
      action = { kind: 'make', node, box }
    } else {
      const program = new ProgramWriter(box, read)
      this.write(node, box, program, { node })
      const { steps, slots, streams } = program
      action = { kind: 'run', node, box, steps, slots, streams }
    }
    this.live += bytesOf(node, box)
    const beside = action.kind === 'run' ? streamBytes(action.streams, box) : 0
    this.peak = Math.max(this.peak, this.live + beside)
    this.made.add(node.key)
    this.actions.push(action)
    for (const used of read) this.release(used)
  }

  /** Sees to it that a program can read a picture: laid out before, or made along with it. */
  private reach(input: Node, program: ProgramWriter, needs: (area: Box) => Box): void {
    if (this.isStreamed(input)) {
      program.streams.push({ node: input, needs: area => common(needs(area), input.window) })
      return
    }
    this.lay(input)
    program.read.push(input)
  }

  private release(node: Node): void {
    const left = this.uses.get(node.key)! - 1
    this.uses.set(node.key, left)
    if (left > 0 || this.ready.has(node.key) || this.options.keep?.has(node.key) || node.key === this.root.key) return
    this.live -= bytesOf(node, this.box(node))
    this.actions.push({ kind: 'drop', node })
  }

  /** What must be laid out before a program can make a node, beside files. */
  private barriers(node: Node, found = new Map<string, Node>()): Map<string, Node> {
    if (this.ready.has(node.key) || this.made.has(node.key) || isEmpty(this.box(node))) return found
    if (this.laid.has(node.key)) {
      if (node.inputs.length) found.set(node.key, node)
    } else for (const input of node.inputs) this.barriers(input, found)
    return found
  }

  /** Lays out what would be in the way of making several inputs in one program. */
  private clearWay(inputs: readonly Node[]): void {
    const before = inputs.map(input => this.barriers(input))
    if (before.filter(({ size }) => size).length < 2) return
    // What several of them need comes first; what is then left to one of them only is laid out with it
    for (const [i, own] of before.entries())
      for (const [key, node] of own) if (before.some((other, k) => k > i && other.has(key))) this.lay(node)
    const left = inputs.filter(input => this.barriers(input).size)
    for (const input of left.slice(0, -1)) {
      this.laid.add(input.key)
      this.lay(input)
    }
  }

  /** Adds the steps that make an area of a node, in `out` or where there is room, and says where it is. */
  private write(node: KernelNode, area: Box, program: ProgramWriter, out?: Operand): Operand {
    if (node.needs) {
      const pictures: Record<string, Operand> = {}
      node.inputs.forEach((input, i) => {
        if (isEmpty(common(node.needs!(area, i), input.window))) return
        this.reach(input, program, part => node.needs!(common(part, area), i))
        pictures[node.names[i]!] = { node: input }
      })
      const to = out ?? program.take()
      // Of nothing nothing is made
      if (!Object.keys(pictures).length && node.inputs.length) program.clear(to, area, node.pixel)
      else program.add(node, area, { ...pictures, out: to })
      return to
    }
    if (isPointKernel(node.kernel)) return this.writeRow(node, area, program, out)
    const only = node.only
    this.clearWay(node.inputs)
    const pictures: Record<string, Operand> = {}
    let to = out
    const where = only && node.inputs[node.names.indexOf(only.where)]!
    const worked = where ? common(area, where.window) : area
    node.inputs.forEach((input, i) => {
      const name = node.names[i]!
      const first = only?.elsewhere === name
      pictures[name] = this.operand(input, first ? area : worked, program, {
        out: first ? to : undefined,
        whole: first,
      })
      if (first) to = pictures[name]
    })
    if (only) program.add(node, worked, { ...pictures, out: to! })
    else {
      // The result may take the place of what it was made of
      to ??= Object.entries(pictures).find(
        ([name, operand]) => 'slot' in operand && pixelOf(node, name) === node.pixel,
      )?.[1]
      to ??= program.take()
      program.add(node, area, { ...pictures, out: to })
    }
    for (const operand of Object.values(pictures)) if (operand !== to) program.give(operand)
    return to!
  }

  /** A point with those before it, as far as they follow each other and nothing else asks for what is between. */
  private writeRow(last: KernelNode, area: Box, program: ProgramWriter, out?: Operand): Operand {
    const row: KernelNode[] = []
    let source: Node = last
    let pictures = 1
    while (
      source.by === 'kernel' &&
      isPointKernel(source.kernel) &&
      (source === last || (!this.ready.has(source.key) && !this.laid.has(source.key) && holds(source.window, area))) &&
      fitsRow(row.length + 1, pictures + source.inputs.length - 1)
    ) {
      row.unshift(source)
      pictures += source.inputs.length - 1
      source = source.inputs[source.names.indexOf('source')]!
    }
    const read = row.flatMap(({ inputs, names }, place) =>
      inputs.flatMap((input, i) =>
        names[i] === 'source' && place > 0 ? [] : [{ name: inRow(names[i]!, place), input }],
      ),
    )
    this.clearWay(read.map(({ input }) => input))
    const operands: Record<string, Operand> = {}
    for (const { name, input } of read)
      operands[name] = this.operand(input, area, program, { out: undefined, whole: false })
    const from = operands.source!
    const to = out ?? ('slot' in from ? from : program.take())
    const given = row.flatMap(({ given }, place) =>
      Object.entries(given).map(([name, value]) => [inRow(name, place), value] as const),
    )
    const kernel = rowOf(
      row.map(({ kernel, given, names }) => formOf(kernel as PointKernel, given, names.includes('matte'))),
    )
    if (!isEmpty(area))
      program.steps.push({
        kernel,
        area,
        pictures: { ...operands, out: to },
        given: Object.fromEntries(given),
        tables: Object.fromEntries(
          row.flatMap(({ tables }, place) =>
            Object.entries(tables).map(([name, table]) => [inRow(name, place), table] as const),
          ),
        ),
      })
    for (const operand of Object.values(operands)) if (operand !== to) program.give(operand)
    return to
  }

  /** An input where a step can read it at each pixel of an area; whole: in room of its own, to be written over. */
  private operand(
    input: Node,
    area: Box,
    program: ProgramWriter,
    { out, whole }: { out?: Operand; whole: boolean },
  ): Operand {
    const part = common(area, input.window)
    if (isEmpty(part)) {
      const to = out ?? program.take()
      program.clear(to, area, input.pixel)
      return to
    }
    if (this.ready.has(input.key) || this.laid.has(input.key)) {
      this.reach(input, program, rows => common(rows, area))
      if (!whole && holds(input.window, area)) return { node: input }
      const to = out ?? program.take()
      program.steps.push({
        kernel: emptyOf(input.pixel).shift,
        area,
        pictures: { source: { node: input }, out: to },
        given: { dx: 0, dy: 0 },
        tables: {},
      })
      return to
    }
    const to = this.write(input as KernelNode, part, program, out)
    for (const rim of rimOf(area, part)) program.clear(to, rim, input.pixel)
    return to
  }
}

class ProgramWriter {
  readonly steps: PlannedStep[] = []
  readonly streams: Stream[] = []
  slots = 0
  private free: number[] = []
  constructor(
    readonly area: Box,
    /** What it reads of pictures that are laid out. */
    readonly read: Node[],
  ) {}

  take(): Operand {
    return { slot: this.free.pop() ?? ++this.slots }
  }
  give(operand: Operand): void {
    if ('slot' in operand) this.free.push(operand.slot)
  }
  add({ kernel, given, tables }: KernelNode, area: Box, pictures: Record<string, Operand>): void {
    if (!isEmpty(area)) this.steps.push({ kernel, area, pictures, given, tables })
  }
  clear(out: Operand, area: Box, pixel: PixelKind): void {
    const { kernel, given } = emptyOf(pixel)
    if (!isEmpty(area)) this.steps.push({ kernel, area, pictures: { out }, given, tables: {} })
  }
}

/** How nothing is laid where a picture has no pixels, and how the rest of it is brought beside that. */
function emptyOf(pixel: PixelKind): { shift: Kernel; kernel: Kernel; given: Record<string, number> } {
  if (pixel === 'ranks') throw new Error('Coverage is only ever asked for where it is.')
  return pixel === 'single'
    ? { shift: ShiftSingle, kernel: Fill, given: { value: 0 } }
    : { shift: Shift, kernel: Clear, given: {} }
}
const pixelOf = (node: KernelNode, name: string): string =>
  (node.kernel.arguments[name] as unknown as { pixel: string }).pixel

const isFile = (node: Node): boolean => node.by === 'script' && node.inputs.length === 0

/** The parts of an area that a program with streams makes one after another. */
export function streamParts({ left, top, right, bottom }: Box): Box[] {
  const parts: Box[] = []
  for (let from = top; from < bottom; from += STREAM_ROWS)
    parts.push({ left, top: from, right, bottom: Math.min(bottom, from + STREAM_ROWS) })
  return parts
}
const streamBytes = (streams: readonly Stream[], box: Box): number =>
  streams.length
    ? Math.max(
        ...streamParts(box).map(part => streams.reduce((sum, { node, needs }) => sum + bytesOf(node, needs(part)), 0)),
      )
    : 0

/** What of an area lies round a part of it. */
function rimOf(area: Box, part: Box): Box[] {
  return [
    { ...area, bottom: part.top },
    { ...area, top: part.bottom },
    { ...part, left: area.left, right: part.left },
    { ...part, left: part.right, right: area.right },
  ].filter(box => !isEmpty(box))
}
