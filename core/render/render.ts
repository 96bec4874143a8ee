// Drives the path tracer: settings in, samples in rounds, passes out.
import type { OutlineSettings, SampleLimits } from '../shot/schema/passes'
import * as L from '../../kernels/assembly/layout'
import { RenderRows } from '../../kernels/records'
import { boxOf } from '../engine/box'
import type { Pool } from '../engine/pool'
import type { Camera } from '../scene/scene'
import type { Aperture } from '../lens/aperture'
import type { CompiledScene } from './compile'
import { OUTLINE, outlineOf } from './outline'
import { filterTable } from './filterTable'
import { KEPT_HEAD, keptHead, putKeptHead, putRows, rowsKept } from './keptrows'
import { anyNeeds, MIST } from './passes'
import { settle } from './settle'
import { quietPixels, varianceByHalves, varianceOf } from './noise'
import { pixelLayout, type PixelLayout } from './pixelLayout'
import { blankPasses, resolvePlanes, sumOf, type RenderedPasses } from './planes'

export interface RenderSettings {
  width: number
  height: number
  samples: number
  passes: readonly string[]
  camera: Camera
  /** A lens with an opening in place of a pinhole. */
  lens?: TrueLens
  seed?: number
  maxBounces?: number
  /** Metres that occlusion rays reach; Infinity for all the way. */
  occlusionReach?: number
  /** Power of what is left of the reach by which far things darken less; 0: all darken alike. */
  occlusionFalloff?: number
  /** Degrees between the surface's normal and the widest occlusion ray, 1 to 90. */
  occlusionCone?: number
  /** Metres between which the mist rises. */
  mist?: { near: number; far: number }
  outline?: OutlineSettings
  limits?: SampleLimits
  /** Keeps what noise is measured by, though no pass shows it. */
  keepNoise?: boolean
  /** Most memory for the sums of a strip; 600 MB when not said. */
  stripBytes?: number
  /**
   * Once the samples are there: fireflies are bounded by what is about them, edges of lamps made smooth, and ground that
   * is hardly seen takes the shadow beside it (core/render/settle.ts). Noise must be kept.
   */
  settle?: boolean
  /** Noise (standard deviation over brightness) at which a pixel gets no more samples; noise must be kept. */
  noiseLevel?: number
  /** Upper bound of one indirect contribution (scene-linear); 0 for none. */
  clampIndirect?: number
  /** Whether camera rays that meet nothing show the environment. */
  seeEnvironment?: boolean
  /** Radius of the Blackman-Harris pixel filter in pixels. */
  filterRadius?: number
  /** Ranks of Cryptomatte, 1 to 8. */
  cryptoRanks?: number
  /** The camera a frame ago and a frame on, for motion; the scene must have been compiled with its places there. */
  moving?: { previous: Camera; next: Camera }
  /**
   * What is there at several moments of equal length, one after another, while the shutter is open; the scene and the
   * camera beside are those of the frame itself. Left out: nothing moves.
   */
  moments?: readonly Moment[]
}

/** The same things, lamps and materials as at the frame, wherever they are. */
export interface Moment {
  scene: CompiledScene
  camera: Camera
  /** As RenderSettings has it; that of the frame where it is not said. */
  moving?: RenderSettings['moving']
}

/** What the lens of a camera with a focal length in millimetres is. */
export interface TrueLens {
  fNumber: number
  /** Of the plane of focus, metres along the view. */
  distance: number
  aperture: Aperture
  /** Passes of data say what the ray through the middle of the lens meets. */
  sharpData?: boolean
}

/** Most memory that one accumulator takes; larger pictures are rendered strip by strip. */
const STRIP_BYTES = 600 * 1048576

/** Samples after which noise is looked at first, and by what they grow to the next look. */
const FIRST_CHECK = 16
const CHECK_GROWTH = 1.5

/** Steps of the golden ratio: however few come first they lie evenly, and go along with no other sequence of samples. */
const GOLDEN = (Math.sqrt(5) - 1) / 2

/** One render in progress. Call step until done, then finish. */
export class Render {
  private record: number
  private table: number
  private accumulator: number
  private rowsPerStrip: number
  private firstRow = 0
  private samplesDone = 0
  private nextCheck = FIRST_CHECK
  private result: RenderedPasses
  private flags: number
  private layout: PixelLayout
  readonly started = Date.now()

  constructor(
    private pool: Pool,
    private scene: CompiledScene,
    readonly settings: RenderSettings,
  ) {
    const kernels = pool.kernels
    const { width, height } = settings
    this.layout = pixelLayout(settings.passes, settings.cryptoRanks, scene.lightGroups.length, settings.keepNoise)
    this.rowsPerStrip = Math.max(
      1,
      Math.min(height, Math.floor((settings.stripBytes ?? STRIP_BYTES) / (width * this.layout.stride * 4))),
    )
    this.record = kernels.allocate(L.RENDER_SIZE)
    this.table = kernels.place(filterTable(settings.filterRadius ?? 1.5))
    this.accumulator = kernels.allocate(this.rowsPerStrip * width * this.layout.stride * 4)
    this.flags =
      (settings.seeEnvironment ? L.DO_SEE_ENVIRONMENT : 0) |
      (this.layout.motion && settings.moving ? L.DO_MOTION : 0) |
      (settings.lens?.sharpData ? L.DO_SHARP_DATA : 0)
    this.result = blankPasses(width, height, this.layout)
    this.result.limits = settings.limits ?? {}
    this.writeRecord()
    this.clear()
  }

  private writeRecord(): void {
    const { kernels } = this.pool
    const { width, height, camera } = this.settings
    const words = kernels.words(this.record, L.RENDER_SIZE / 4)
    const floats = kernels.floats(this.record, L.RENDER_SIZE / 4)
    words[L.RENDER_ACCUMULATOR >> 2] = this.accumulator
    words[L.RENDER_WIDTH >> 2] = width
    words[L.RENDER_HEIGHT >> 2] = height
    words[L.RENDER_SEED >> 2] = this.settings.seed ?? 0
    words[L.RENDER_MAX_BOUNCES >> 2] = this.settings.maxBounces ?? 6
    words[L.RENDER_FLAGS >> 2] = this.flags
    floats[L.RENDER_OCCLUSION_REACH >> 2] = Math.min(1e30, this.settings.occlusionReach ?? 1e30)
    floats[L.RENDER_OCCLUSION_FALLOFF >> 2] = this.settings.occlusionFalloff ?? 0
    floats[L.RENDER_OCCLUSION_SINE >> 2] =
      Math.sin((Math.min(90, Math.max(1, this.settings.occlusionCone ?? 90)) * Math.PI) / 180) ** 2
    floats[L.RENDER_MIST_NEAR >> 2] = (this.settings.mist ?? MIST).near
    floats[L.RENDER_MIST_FAR >> 2] = (this.settings.mist ?? MIST).far
    floats[L.RENDER_CLAMP >> 2] = this.settings.clampIndirect ?? 0
    const { lens } = this.settings
    // What the memory held before is still there
    floats[L.RENDER_OPENING >> 2] = 0
    if (lens) {
      const { blades, turn, squeeze, rim, catsEye } = lens.aperture
      floats[L.RENDER_OPENING >> 2] = camera.focalLength / lens.fNumber / 2000
      floats[L.RENDER_FOCUS >> 2] = lens.distance
      words[L.RENDER_BLADES >> 2] = blades
      floats[L.RENDER_TURN >> 2] = (turn * Math.PI) / 180
      floats[L.RENDER_SQUEEZE >> 2] = Math.sqrt(squeeze)
      floats[L.RENDER_RIM >> 2] = rim
      floats[L.RENDER_CATS_EYE >> 2] = catsEye
    }
    this.show({ scene: this.scene, camera })
    const { light, surface, place, occlusion, shadow, through, mirrored, coverage, stride, slots } = this.layout
    const names = (id: string): number => coverage[id] ?? 0
    words.set(
      [
        light,
        surface,
        place,
        occlusion,
        shadow,
        names('crypto_object'),
        names('crypto_material'),
        names('crypto_asset'),
        stride,
        slots,
      ],
      L.RENDER_LIGHT >> 2,
    )
    words.set(
      [
        through,
        names('through_crypto_object'),
        names('through_crypto_material'),
        mirrored,
        names('mirrored_crypto_object'),
        names('mirrored_crypto_material'),
      ],
      L.RENDER_BEYOND >> 2,
    )
    words[L.RENDER_GROUPS >> 2] = this.layout.groups
    words[L.RENDER_RAW >> 2] = this.layout.raw
    words[L.RENDER_NOISE >> 2] = this.layout.noise
    words[L.RENDER_SHADOW_ON >> 2] = this.layout.shadowObjects
    words[L.RENDER_SHADOW_CHOSEN >> 2] = this.layout.shadowChosen
    words[L.RENDER_CATCHER_LIGHT >> 2] = this.layout.wet
    words[L.RENDER_MIST >> 2] = this.layout.mist
    words[L.RENDER_VOLUME >> 2] = this.layout.volume
    words[L.RENDER_REST >> 2] = this.layout.rest
    const { light: lit = 0, shadow: shaded = 0, occlusion: open = 0, beyond = 0 } = this.settings.limits ?? {}
    words.set([lit, shaded, open, beyond], L.RENDER_MOST_LIGHT >> 2)
    words[L.RENDER_FILTER >> 2] = this.table
  }

  private writeCamera(to: number, { matrix: m, sensorWidth, focalLength, shiftX, shiftY }: Camera): void {
    const { width, height } = this.settings
    const tangent = sensorWidth / 2 / focalLength
    this.pool.kernels
      .floats(this.record, L.RENDER_SIZE / 4)
      .set(
        [
          ...[m[12]!, m[13]!, m[14]!, m[0]!, m[1]!, m[2]!, m[4]!, m[5]!, m[6]!, m[8]!, m[9]!, m[10]!],
          ...[tangent, (tangent * height) / width, shiftX, shiftY],
        ],
        to >> 2,
      )
  }
  /** What samples see from now on. */
  private show({ scene, camera, moving = this.settings.moving }: Moment): void {
    this.pool.kernels.words(this.record, L.RENDER_SIZE / 4)[L.RENDER_SCENE >> 2] = scene.pointer
    this.writeCamera(L.RENDER_CAMERA, camera)
    this.writeCamera(L.RENDER_NEXT, moving?.next ?? camera)
    this.writeCamera(L.RENDER_PREVIOUS, moving?.previous ?? camera)
  }

  private get rows(): number {
    return Math.min(this.rowsPerStrip, this.settings.height - this.firstRow)
  }
  private clear(): void {
    this.pool.kernels.bytes(this.accumulator, this.rows * this.settings.width * this.layout.stride * 4).fill(0)
  }

  /** 0..1 */
  get progress(): number {
    const { height, samples } = this.settings
    return (this.firstRow + (this.rows * this.samplesDone) / samples) / height
  }
  get done(): boolean {
    return this.firstRow >= this.settings.height
  }
  /** Samples that every pixel of the picture has so far (of the strip being rendered when there are several). */
  get samplesSoFar(): number {
    return this.samplesDone
  }
  /** Whether snapshots show the whole picture. */
  get wholePicture(): boolean {
    return this.rowsPerStrip >= this.settings.height
  }

  /**
   * One more round: at most `most` samples a pixel, on at most `rows` rows from `from` (the pool returns between
   * calls).
   */
  step(most: number): void {
    if (this.done) return
    const { kernels } = this.pool
    const count = Math.min(most, this.settings.samples - this.samplesDone)
    const words = kernels.words(this.record, L.RENDER_SIZE / 4)
    words[L.RENDER_FIRST_ROW >> 2] = this.firstRow
    words[L.RENDER_ROW_OFFSET >> 2] = this.firstRow
    const { moments } = this.settings
    const run = (samples: number): void => {
      words[L.RENDER_SAMPLE_COUNT >> 2] = samples
      this.pool.run(RenderRows, boxOf(1, this.rows), { record: this.record }, 1)
      this.samplesDone += samples
    }
    if (!moments) run(count)
    else
      for (let i = 0; i < count; i++) {
        this.show(moments[Math.floor((((this.samplesDone + 0.5) * GOLDEN) % 1) * moments.length)]!)
        run(1)
      }
    if (
      this.settings.noiseLevel !== undefined &&
      this.layout.noise &&
      this.samplesDone >= this.nextCheck &&
      this.samplesDone < this.settings.samples
    ) {
      this.nextCheck = this.samplesDone * CHECK_GROWTH
      if (this.rest(this.settings.noiseLevel)) {
        this.finishStrip()
        return
      }
    }
    if (this.samplesDone >= this.settings.samples) this.finishStrip()
  }

  /** Ends with the samples that are there: what of the picture has none yet stays empty. */
  finishNow(): void {
    if (!this.done && this.samplesDone > 0) this.finishStrip()
  }

  private finishStrip(): void {
    this.resolve()
    this.firstRow += this.rows
    this.samplesDone = 0
    this.nextCheck = FIRST_CHECK
    if (!this.done) this.clear()
    else if (this.settings.settle) settle(this.result)
  }

  /** Lets pixels rest that are quiet enough; true when all are. */
  private rest(level: number): boolean {
    this.resolve(false)
    const { width } = this.settings
    const begin = this.firstRow * width
    const count = this.rows * width
    const { result } = this
    const part = (plane: Float32Array): Float32Array => plane.subarray(begin * 3, (begin + count) * 3)
    const { light, shadow } = result
    const counts = result.counts.subarray(begin, begin + count)
    const {
      whole: { odd, squares },
      shadowOdd,
    } = result.noise!
    const rests = new Uint8Array(count).fill(1)
    const also = (plane: Float32Array, variance: Float32Array): void => {
      const quiet = quietPixels(plane, variance, width, this.rows, level)
      for (let i = 0; i < count; i++) rests[i]! &= quiet[i]!
    }
    if (light) {
      const beauty = part(sumOf(light))
      also(beauty, varianceOf(beauty, { odd: part(odd), squares: part(squares) }, counts, width, this.rows))
    }
    // Real ground has no light of its own here, but a shadow that may be noisy
    if (shadow && shadowOdd)
      also(part(shadow), varianceByHalves(part(shadow), part(shadowOdd), counts, width, this.rows))
    const words = this.pool.kernels.words(this.accumulator, count * this.layout.stride)
    let loud = 0
    for (let i = 0; i < count; i++) {
      words[i * this.layout.stride + L.PIXEL_RESTS] = rests[i]!
      if (!rests[i]) loud++
    }
    return loud === 0
  }

  /**
   * The passes as they stand; while strips are missing those rows are empty. coverage: false leaves the Cryptomatte
   * passes as they were.
   */
  snapshot(coverage = true): RenderedPasses {
    if (!this.done && this.samplesDone > 0) {
      this.resolve(coverage)
      if (this.settings.settle && this.wholePicture) settle(this.result)
    }
    if (this.done && !this.result.outline && anyNeeds(this.settings.passes, 'outline'))
      this.result.outline = this.outline()
    return this.result
  }

  private resolve(coverage = true): void {
    const { matrix: m } = this.settings.camera
    resolvePlanes(
      this.pool,
      this.accumulator,
      this.layout,
      this.rows,
      this.firstRow,
      this.settings.limits ?? {},
      [m[0]!, m[1]!, m[2]!, m[4]!, m[5]!, m[6]!, m[8]!, m[9]!, m[10]!],
      this.result,
      coverage,
    )
    this.result.samples = Math.max(this.result.samples, this.samplesDone)
  }

  /** Lines round things; they need no samples, and are made when asked for. */
  private outline(): Float32Array {
    this.show({ scene: this.scene, camera: this.settings.camera })
    const { width, height, camera, outline = OUTLINE } = this.settings
    const { matrix: m, sensorWidth, focalLength, shiftX, shiftY } = camera
    const tangent = sensorWidth / 2 / focalLength
    // From the camera through a place of the picture, one metre along the view axis
    const ray = (px: number, py: number): readonly [number, number, number] => {
      const a = ((px / width) * 2 - 1 + shiftX) * tangent
      const b = ((1 - (py / height) * 2 + shiftY) * tangent * height) / width
      return [m[0]! * a + m[4]! * b - m[8]!, m[1]! * a + m[5]! * b - m[9]!, m[2]! * a + m[6]! * b - m[10]!]
    }
    return outlineOf(this.pool, this.record, width, height, outline, ray)
  }

  /** The strip being rendered: large pictures are rendered in several, from above. */
  get strip(): number {
    return Math.floor(this.firstRow / this.rowsPerStrip)
  }

  /**
   * What a stopped render needs to go on in this strip later; undefined where nothing is there yet. The strips above
   * are kept by keptStrip.
   */
  kept(): Uint8Array | undefined {
    if (this.done || (this.samplesDone === 0 && this.firstRow === 0)) return undefined
    const size = this.samplesDone ? this.rows * this.settings.width * this.layout.stride * 4 : 0
    const out = new Uint8Array(KEPT_HEAD + size)
    putKeptHead(out, { strip: this.strip, samples: this.samplesDone, check: this.nextCheck, said: size })
    out.set(this.pool.kernels.bytes(this.accumulator, size), KEPT_HEAD)
    return out
  }
  /** The passes on a strip that is done. */
  keptStrip(strip: number): Uint8Array {
    return rowsKept(
      this.result,
      strip * this.rowsPerStrip,
      Math.min(this.rowsPerStrip, this.settings.height - strip * this.rowsPerStrip),
    )
  }

  /**
   * Goes on from what kept() gave for the same scene and settings, and keptStrip of each strip above; false when it
   * does not fit.
   */
  goOn(bytes: Uint8Array, strips: readonly Uint8Array[] = []): boolean {
    const head = this.done ? undefined : keptHead(bytes)
    if (!head) return false
    const { strip, samples, check, said } = head
    const { height, width } = this.settings
    const first = strip * this.rowsPerStrip
    const rows = Math.min(this.rowsPerStrip, height - first)
    if (
      !Number.isInteger(strip) ||
      strip < 0 ||
      first >= height ||
      !(samples >= 0 && samples < this.settings.samples) ||
      strips.length !== strip
    )
      return false
    if (said !== (samples ? rows * width * this.layout.stride * 4 : 0) || bytes.length !== KEPT_HEAD + said)
      return false
    if (!strips.every((above, i) => putRows(this.result, i * this.rowsPerStrip, this.rowsPerStrip, above))) return false
    this.firstRow = first
    if (samples) this.pool.kernels.bytes(this.accumulator, said).set(bytes.subarray(KEPT_HEAD))
    else this.clear()
    this.samplesDone = samples
    this.nextCheck = check
    if (strip) this.result.samples = this.settings.samples
    return true
  }

  dispose(): void {
    for (const pointer of [this.record, this.table, this.accumulator]) this.pool.kernels.dispose(pointer)
  }
}
