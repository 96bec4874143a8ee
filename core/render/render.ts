// Drives the path tracer: settings in, samples in rounds, passes out.
import * as L from '../../kernels/assembly/layout'
import type { Pool } from '../engine/pool'
import type { Camera } from '../scene/scene'
import type { CompiledScene } from './compile'
import { CRYPTO_RANKS, NO_DEPTH, PASSES, type LightPart } from './passes'

export interface RenderSettings {
  width: number
  height: number
  samples: number
  passes: readonly string[]
  camera: Camera
  seed?: number
  maxBounces?: number
  /** Metres that occlusion rays reach; Infinity for all the way. */
  occlusionReach?: number
  /** Upper bound of one indirect contribution (scene-linear); 0 for none. */
  clampIndirect?: number
  /** Whether camera rays that meet nothing show the environment. */
  seeEnvironment?: boolean
  /** Radius of the Blackman-Harris pixel filter in pixels. */
  filterRadius?: number
}

export interface Coverage {
  ranks: number
  /** Per pixel and rank: index + 1 (0 for none) and share of the pixel, greatest first. */
  index: Uint16Array
  weight: Float32Array
}

export interface RenderedPasses {
  width: number
  height: number
  samples: number
  alpha: Float32Array
  /** RGB triples. */
  light?: Record<LightPart, Float32Array>
  albedo: Float32Array
  normal: Float32Array
  depth: Float32Array
  occlusion?: Float32Array
  shadow?: Float32Array
  objectId: Uint32Array
  materialId: Uint32Array
  /** Number of the catcher on which a pixel's shadow falls, 0 for none. */
  catcherId: Uint32Array
  cryptoObject: Coverage
  cryptoMaterial: Coverage
}

/** Most memory that one accumulator takes; larger pictures are rendered strip by strip. */
const STRIP_BYTES = 600 * 1048576
const PIXEL_BYTES = L.PIXEL_STRIDE * 4

/** Offsets in pixels such that even steps along the table follow the filter (inverse cumulative, 257 entries). */
export function filterTable(radius: number): Float32Array {
  const steps = 4096, cumulative = new Float64Array(steps + 1)
  for (let i = 0; i < steps; i++) {
    const t = (i + 0.5) / steps
    // Blackman-Harris window (F. J. Harris 1978, minimum 4-term)
    cumulative[i + 1] = cumulative[i]! + 0.35875 - 0.48829 * Math.cos(2 * Math.PI * t) + 0.14128 * Math.cos(4 * Math.PI * t) - 0.01168 * Math.cos(6 * Math.PI * t)
  }
  const out = new Float32Array(257)
  let at = 0
  for (let i = 0; i <= 256; i++) {
    const target = cumulative[steps]! * i / 256
    while (at < steps - 1 && cumulative[at + 1]! < target) at++
    const part = (target - cumulative[at]!) / Math.max(1e-12, cumulative[at + 1]! - cumulative[at]!)
    out[i] = ((at + Math.min(1, part)) / steps * 2 - 1) * radius
  }
  return out
}

/** One render in progress. Call step until done, then finish. */
export class Render {
  private record: number
  private table: number
  private accumulator: number
  private rowsPerStrip: number
  private firstRow = 0
  private samplesDone = 0
  private result: RenderedPasses
  private flags: number
  readonly started = Date.now()

  constructor(private pool: Pool, private scene: CompiledScene, readonly settings: RenderSettings) {
    const kernels = pool.kernels
    const { width, height } = settings
    this.rowsPerStrip = Math.max(1, Math.min(height, Math.floor(STRIP_BYTES / (width * PIXEL_BYTES))))
    this.record = kernels.allocate(L.RENDER_SIZE)
    this.table = kernels.place(filterTable(settings.filterRadius ?? 1.5))
    this.accumulator = kernels.allocate(this.rowsPerStrip * width * PIXEL_BYTES)
    const needs = new Set(PASSES.filter(pass => settings.passes.includes(pass.id)).map(pass => pass.needs))
    this.flags = (needs.has('light') ? L.DO_LIGHT : 0) | (needs.has('occlusion') ? L.DO_OCCLUSION : 0) | (needs.has('shadow') ? L.DO_SHADOW : 0) | (settings.seeEnvironment ? L.DO_SEE_ENVIRONMENT : 0)
    this.result = blankPasses(settings, needs.has('light'), needs.has('occlusion'), needs.has('shadow'))
    this.writeRecord()
    this.clear()
  }

  private writeRecord(): void {
    const { kernels } = this.pool
    const { width, height, camera } = this.settings
    const words = kernels.words(this.record, L.RENDER_SIZE / 4), floats = kernels.floats(this.record, L.RENDER_SIZE / 4)
    words[L.RENDER_ACCUMULATOR >> 2] = this.accumulator
    words[L.RENDER_WIDTH >> 2] = width
    words[L.RENDER_HEIGHT >> 2] = height
    words[L.RENDER_SEED >> 2] = this.settings.seed ?? 0
    words[L.RENDER_MAX_BOUNCES >> 2] = this.settings.maxBounces ?? 6
    words[L.RENDER_FLAGS >> 2] = this.flags
    floats[L.RENDER_OCCLUSION_REACH >> 2] = Math.min(1e30, this.settings.occlusionReach ?? 1e30)
    floats[L.RENDER_CLAMP >> 2] = this.settings.clampIndirect ?? 0
    const m = camera.matrix
    floats.set([m[12]!, m[13]!, m[14]!, m[0]!, m[1]!, m[2]!, m[4]!, m[5]!, m[6]!, m[8]!, m[9]!, m[10]!], L.RENDER_CAMERA >> 2)
    const tangent = camera.sensorWidth / 2 / camera.focalLength
    floats[L.RENDER_TAN_X >> 2] = tangent
    floats[L.RENDER_TAN_Y >> 2] = tangent * height / width
    floats[L.RENDER_SHIFT_X >> 2] = camera.shiftX
    floats[L.RENDER_SHIFT_Y >> 2] = camera.shiftY
    words[L.RENDER_FILTER >> 2] = this.table
    words[L.RENDER_SCENE >> 2] = this.scene.pointer
  }

  private get rows(): number { return Math.min(this.rowsPerStrip, this.settings.height - this.firstRow) }
  private clear(): void { this.pool.kernels.bytes(this.accumulator, this.rows * this.settings.width * PIXEL_BYTES).fill(0) }

  /** 0..1 */
  get progress(): number {
    const { height, samples } = this.settings
    return (this.firstRow + this.rows * this.samplesDone / samples) / height
  }
  get done(): boolean { return this.firstRow >= this.settings.height }
  /** Samples that every pixel of the picture has so far (of the strip being rendered when there are several). */
  get samplesSoFar(): number { return this.samplesDone }
  /** Whether snapshots show the whole picture. */
  get wholePicture(): boolean { return this.rowsPerStrip >= this.settings.height }

  /** One more round: at most `most` samples a pixel, on at most `rows` rows from `from` (the pool returns between calls). */
  step(most: number): void {
    if (this.done) return
    const { kernels } = this.pool
    const count = Math.min(most, this.settings.samples - this.samplesDone)
    const words = kernels.words(this.record, L.RENDER_SIZE / 4)
    words[L.RENDER_FIRST_ROW >> 2] = this.firstRow
    words[L.RENDER_ROW_OFFSET >> 2] = this.firstRow
    words[L.RENDER_SAMPLE_START >> 2] = this.samplesDone
    words[L.RENDER_SAMPLE_COUNT >> 2] = count
    this.pool.run(L.KERNEL_RENDER, this.rows, [this.record])
    this.samplesDone += count
    if (this.samplesDone >= this.settings.samples) {
      this.resolve()
      this.firstRow += this.rows
      this.samplesDone = 0
      if (!this.done) this.clear()
    }
  }

  /** The passes as they stand; while strips are missing those rows are empty. coverage: false leaves the Cryptomatte passes as they were. */
  snapshot(coverage = true): RenderedPasses {
    if (!this.done && this.samplesDone > 0) this.resolve(coverage)
    return this.result
  }

  private resolve(coverage = true): void {
    const { width } = this.settings
    const pixels = this.rows * width
    resolvePixels(this.pool.kernels.floats(this.accumulator, pixels * L.PIXEL_STRIDE), this.pool.kernels.words(this.accumulator, pixels * L.PIXEL_STRIDE), pixels, this.firstRow * width, this.samplesDone, this.result, coverage)
    this.result.samples = this.samplesDone
  }

  dispose(): void {
    for (const pointer of [this.record, this.table, this.accumulator]) this.pool.kernels.dispose(pointer)
  }
}

function blankPasses(settings: RenderSettings, light: boolean, occlusion: boolean, shadow: boolean): RenderedPasses {
  const pixels = settings.width * settings.height
  const colour = (): Float32Array => new Float32Array(pixels * 3)
  const coverage = (): Coverage => ({ ranks: CRYPTO_RANKS, index: new Uint16Array(pixels * CRYPTO_RANKS), weight: new Float32Array(pixels * CRYPTO_RANKS) })
  return {
    width: settings.width, height: settings.height, samples: 0, alpha: new Float32Array(pixels),
    light: light ? { diffuse_direct: colour(), diffuse_indirect: colour(), reflection: colour(), emission: colour(), environment: colour() } : undefined,
    albedo: colour(), normal: colour(), depth: new Float32Array(pixels).fill(NO_DEPTH), occlusion: occlusion ? new Float32Array(pixels).fill(1) : undefined,
    shadow: shadow ? colour().fill(1) : undefined, objectId: new Uint32Array(pixels), materialId: new Uint32Array(pixels), catcherId: new Uint32Array(pixels), cryptoObject: coverage(), cryptoMaterial: coverage(),
  }
}

const PARTS: readonly [LightPart, number][] = [['diffuse_direct', L.PIXEL_DIFFUSE_DIRECT], ['diffuse_indirect', L.PIXEL_DIFFUSE_INDIRECT], ['reflection', L.PIXEL_REFLECTION], ['emission', L.PIXEL_EMISSION], ['environment', L.PIXEL_ENVIRONMENT]]

// One plane after another: each loop then works on one kind of array, which the compiler makes fast
function means(sums: Float32Array, field: number, channels: number, pixels: number, scale: number, out: Float32Array, first: number): void {
  for (let i = 0, at = field, to = first * channels; i < pixels; i++, at += L.PIXEL_STRIDE) for (let c = 0; c < channels; c++, to++) out[to] = sums[at + c]! * scale
}
function resolvePixels(sums: Float32Array, words: Int32Array, pixels: number, first: number, samples: number, out: RenderedPasses, coverage: boolean): void {
  const scale = 1 / samples
  means(sums, L.PIXEL_ALPHA, 1, pixels, scale, out.alpha, first)
  for (let i = first; i < first + pixels; i++) if (out.alpha[i]! > 1) out.alpha[i] = 1
  if (out.light) for (const [part, field] of PARTS) means(sums, field, 3, pixels, scale, out.light[part], first)
  means(sums, L.PIXEL_ALBEDO, 3, pixels, scale, out.albedo, first)
  resolveShape(sums, words, pixels, first, out)
  if (out.occlusion) resolveRatio(sums, L.PIXEL_OCCLUSION, L.PIXEL_OCCLUSION_WEIGHT, 1, pixels, out.occlusion, first)
  if (out.shadow) resolveRatio(sums, L.PIXEL_SHADOW_WITH, L.PIXEL_SHADOW_WITHOUT, 3, pixels, out.shadow, first)
  if (!coverage) return
  for (let i = 0, at = 0; i < pixels; i++, at += L.PIXEL_STRIDE) {
    resolveCoverage(sums, words, at + L.PIXEL_CRYPTO_OBJECT, scale, out.cryptoObject, first + i)
    resolveCoverage(sums, words, at + L.PIXEL_CRYPTO_MATERIAL, scale, out.cryptoMaterial, first + i)
  }
}

function resolveShape(sums: Float32Array, words: Int32Array, pixels: number, first: number, { normal, depth, objectId, materialId, catcherId }: RenderedPasses): void {
  for (let i = 0, at = 0, to = first; i < pixels; i++, at += L.PIXEL_STRIDE, to++) {
    const nx = sums[at + L.PIXEL_NORMAL]!, ny = sums[at + L.PIXEL_NORMAL + 1]!, nz = sums[at + L.PIXEL_NORMAL + 2]!, size = Math.sqrt(nx * nx + ny * ny + nz * nz), share = size > 1e-6 ? 1 / size : 0
    normal[to * 3] = nx * share; normal[to * 3 + 1] = ny * share; normal[to * 3 + 2] = nz * share
    const centre = words[at + L.PIXEL_OBJECT_CENTRE]!
    depth[to] = centre ? sums[at + L.PIXEL_DEPTH_CENTRE]! : sums[at + L.PIXEL_DEPTH_NEAREST]! || NO_DEPTH
    objectId[to] = centre || words[at + L.PIXEL_OBJECT_NEAREST]!
    materialId[to] = centre ? words[at + L.PIXEL_MATERIAL_CENTRE]! : words[at + L.PIXEL_MATERIAL_NEAREST]!
    catcherId[to] = words[at + L.PIXEL_CATCHER]!
  }
}

/** One sum over another; 1 where there is nothing to divide by. A single weight stands for all channels. */
function resolveRatio(sums: Float32Array, over: number, under: number, channels: number, pixels: number, out: Float32Array, first: number): void {
  for (let i = 0, at = 0, to = first * channels; i < pixels; i++, at += L.PIXEL_STRIDE) for (let c = 0; c < channels; c++, to++) { const weight = sums[at + under + c]!; out[to] = weight > 0 ? sums[at + over + c]! / weight : 1 }
}

function resolveCoverage(sums: Float32Array, words: Int32Array, at: number, scale: number, out: Coverage, pixel: number): void {
  // Insertion sort of the few slots, greatest share first
  let count = 0
  const base = pixel * out.ranks
  for (let slot = 0; slot < L.CRYPTO_SLOTS; slot++) {
    const index = words[at + slot * 2]!
    if (!index) break
    const weight = sums[at + slot * 2 + 1]! * scale
    let rank = Math.min(count, out.ranks)
    while (rank > 0 && out.weight[base + rank - 1]! < weight) {
      if (rank < out.ranks) { out.weight[base + rank] = out.weight[base + rank - 1]!; out.index[base + rank] = out.index[base + rank - 1]! }
      rank--
    }
    if (rank < out.ranks) { out.weight[base + rank] = weight; out.index[base + rank] = index }
    count = Math.min(out.ranks, count + 1)
  }
  for (let rank = count; rank < out.ranks; rank++) { out.weight[base + rank] = 0; out.index[base + rank] = 0 }
}
