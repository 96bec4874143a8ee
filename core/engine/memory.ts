// The one shared memory that kernels work in: a first-fit allocator over it, and the compiled module. Only the thread
// that owns the
// Kernels object allocates; workers of a pool only run bands (pool.ts).
import { CONTROL_SIZE, FORMULA_FIRST, MAXIMUM_PAGES, MOST_FORMULAS, SCRATCH_SIZE } from '../../kernels/assembly/layout'

export interface KernelExports {
  heapBase(): number
  initWorker(scratch: number, thread: number): void
  runBand(band: number): void
  denoiseRoom(layers: number): number
  casts(): number
  resetCasts(): void
  beginHierarchy(nodes: number, packets: number): void
  buildTriangles(
    start: number,
    count: number,
    triangles: number,
    vertices: number,
    flags: number,
    temporary: number,
  ): number
  buildPlaces(count: number, boxes: number, codes: number, temporary: number): number
  boundsOut(out: number): void
  builtNodes(): number
  builtPackets(): number
  castRays(scene: number, rays: number, out: number, count: number, any: number): void
  restoreBytes(source: number, out: number, size: number): void
  lightPicked(scene: number, x: number, y: number, z: number, nx: number, ny: number, nz: number, pick: number): number
  lightChance(scene: number, x: number, y: number, z: number, nx: number, ny: number, nz: number, light: number): number
  sampleNumber(x: number, y: number, index: number, seed: number, pair: number, second: number): number
}

const PAGE = 65536
const INITIAL_PAGES = 256

export class OutOfMemory extends Error {
  constructor(bytes: number) {
    super(
      `The picture needs ${Math.ceil(bytes / 1048576)} MiB more than the 2 GiB that one shot may take. Choose a smaller size or fewer passes.`,
    )
  }
}

/** The module as one thread runs it; rows of points are put into the table. */
export interface Started {
  exports: KernelExports
  table: WebAssembly.Table
}
/** Starts the module in one thread over a shared memory. Each thread needs scratch of its own. */
export function startKernels(
  module: WebAssembly.Module,
  memory: WebAssembly.Memory,
  own?: { scratch: number; thread: number },
): Started {
  const table = new WebAssembly.Table({ initial: FORMULA_FIRST + MOST_FORMULAS, element: 'anyfunc' })
  const exports = new WebAssembly.Instance(module, { env: { memory, table } }).exports as unknown as KernelExports
  if (own) exports.initWorker(own.scratch, own.thread)
  return { exports, table }
}

export class Kernels {
  readonly memory: WebAssembly.Memory
  readonly exports: KernelExports
  readonly table: WebAssembly.Table
  /** Free ranges by address, never adjacent to each other. */
  private free: { start: number; size: number }[] = []
  private sizes = new Map<number, number>()
  private end: number
  /** Asked to give something back when there is no room; false: there is nothing to give. */
  reclaim: () => boolean = () => false

  constructor(readonly module: WebAssembly.Module) {
    this.memory = new WebAssembly.Memory({ initial: INITIAL_PAGES, maximum: MAXIMUM_PAGES, shared: true })
    const { exports, table } = startKernels(module, this.memory)
    this.exports = exports
    this.table = table
    const start = Math.max(CONTROL_SIZE, (this.exports.heapBase() + 63) & ~63)
    this.end = INITIAL_PAGES * PAGE
    this.free = [{ start, size: this.end - start }]
    this.exports.initWorker(this.allocate(SCRATCH_SIZE), 0)
  }

  /** Bytes in use, and the most that ever were. */
  used = 0
  peak = 0

  /** Room for `bytes`, 64-aligned, contents undefined. Throws OutOfMemory. */
  allocate(bytes: number): number {
    for (;;)
      try {
        return this.take(bytes)
      } catch (error) {
        if (!this.reclaim()) throw error
      }
  }

  private take(bytes: number): number {
    const size = Math.max(64, Math.ceil(bytes / 64) * 64)
    let index = this.free.findIndex(range => range.size >= size)
    if (index < 0) {
      const last = this.free[this.free.length - 1]
      const tail = last && last.start + last.size === this.end ? last.size : 0
      const pages = Math.ceil((size - tail) / PAGE)
      // Grows by an eighth more than asked, so that many small requests do not grow page by page
      const wanted = Math.min(MAXIMUM_PAGES - this.end / PAGE, Math.max(pages, Math.ceil(this.end / PAGE / 8)))
      if (wanted < pages) throw new OutOfMemory(size)
      try {
        this.memory.grow(wanted)
      } catch {
        throw new OutOfMemory(size)
      }
      this.release(this.end, wanted * PAGE)
      this.end += wanted * PAGE
      index = this.free.findIndex(range => range.size >= size)
    }
    const range = this.free[index]!
    const start = range.start
    range.start += size
    range.size -= size
    if (range.size === 0) this.free.splice(index, 1)
    this.sizes.set(start, size)
    this.used += size
    this.peak = Math.max(this.peak, this.used)
    return start
  }

  /** Gives back what allocate returned; 0 is ignored. */
  dispose(pointer: number): void {
    if (!pointer) return
    const size = this.sizes.get(pointer)
    if (size === undefined) throw new Error('A part of the shared memory was freed twice.')
    this.sizes.delete(pointer)
    this.used -= size
    this.release(pointer, size)
  }

  /** Gives back the end of an allocation beyond `bytes`. */
  shrink(pointer: number, bytes: number): void {
    const size = this.sizes.get(pointer)!
    const kept = Math.max(64, Math.ceil(bytes / 64) * 64)
    if (kept >= size) return
    this.sizes.set(pointer, kept)
    this.used -= size - kept
    this.release(pointer + kept, size - kept)
  }

  private release(start: number, size: number): void {
    let index = this.free.findIndex(range => range.start > start)
    if (index < 0) index = this.free.length
    this.free.splice(index, 0, { start, size })
    const next = this.free[index + 1]
    const previous = this.free[index - 1]
    if (next && start + size === next.start) {
      this.free[index]!.size += next.size
      this.free.splice(index + 1, 1)
    }
    if (previous && previous.start + previous.size === start) {
      previous.size += this.free[index]!.size
      this.free.splice(index, 1)
    }
  }

  floats(pointer: number, length: number): Float32Array<SharedArrayBuffer> {
    return new Float32Array(this.memory.buffer as unknown as SharedArrayBuffer, pointer, length)
  }
  words(pointer: number, length: number): Int32Array<SharedArrayBuffer> {
    return new Int32Array(this.memory.buffer as unknown as SharedArrayBuffer, pointer, length)
  }
  bytes(pointer: number, length: number): Uint8Array<SharedArrayBuffer> {
    return new Uint8Array(this.memory.buffer as unknown as SharedArrayBuffer, pointer, length)
  }

  /** Copies an array into fresh room. */
  place(data: Float32Array | Int32Array | Uint32Array | Uint8Array): number {
    const pointer = this.allocate(data.byteLength)
    this.bytes(pointer, data.byteLength).set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength))
    return pointer
  }
}
