// What the scene will look like, refined sample by sample while one works: path-traced, laid over the plate with its
// shadow.
import type { Evaluator } from '../../core/compose/evaluate'
import { boxOf } from '../../core/engine/box'
import type { Pool } from '../../core/engine/pool'
import { displayCodes } from '../../core/compose/deliver'
import { compileScene, type CompiledScene } from '../../core/render/compile'
import { denoisePasses, guidePasses } from '../../core/render/denoise'
import type { RenderedPasses } from '../../core/render/planes'
import { Render } from '../../core/render/render'
import type { Camera, Scene } from '../../core/scene/scene'
import type { ShotDocument } from '../../core/shot/document'
import type { ScenePreview } from './messages'

const SAMPLES = 256
/** Samples grow by this much from one picture to the next. */
const SHOWN_GROWTH = 1.3

export class ScenePreviewer {
  private compiled?: CompiledScene
  private render?: Render
  private nextShown = 1
  constructor(
    private pool: Pool,
    private evaluator: Evaluator,
  ) {}

  /**
   * One more round; `restart` after anything changed. plain: with its noise. A picture comes only when there is so much
   * more in it that it is worth the making.
   */
  async step(
    document: ShotDocument,
    frame: number,
    width: number,
    restart: boolean,
    plain: boolean,
    scene: () => Scene & { camera: Camera },
  ): Promise<ScenePreview> {
    const height = Math.max(1, Math.round((width * document.frame.height) / document.frame.width))
    if (restart || !this.render) {
      this.render?.dispose()
      this.compiled?.dispose()
      this.render = undefined
      const made = scene()
      // Here nothing else shows what a layer lays
      const description = { ...made, objects: made.objects.map(one => (one.laid ? { ...one, hidden: false } : one)) }
      this.compiled = compileScene(this.pool.kernels, description)
      this.render = new Render(this.pool, this.compiled, {
        width,
        height,
        samples: SAMPLES,
        passes: [
          ...['beauty', 'alpha', 'shadow', 'depth', 'object_id'],
          ...guidePasses(['beauty'], description.materials),
          ...(description.volumes?.length ? ['volume'] : []),
        ],
        keepNoise: true,
        settle: true,
        camera: description.camera,
        maxBounces: 3,
        clampIndirect: 8,
        seeEnvironment: description.environment?.seenByCamera,
      })
      this.nextShown = 1
    }
    if (!this.render.done) this.render.step(this.render.samplesSoFar < 2 ? 1 : 2)
    const samples = this.render.done ? SAMPLES : this.render.samplesSoFar
    if (samples < this.nextShown && !this.render.done) return { samples }
    this.nextShown = samples * (plain ? 1 : SHOWN_GROWTH)
    const passes = { ...this.render.snapshot(false) }
    if (!plain) Object.assign(passes, denoisePasses(this.pool, passes))
    const plate = await this.evaluator.evaluate({ document, frame, shrink: 1, show: { kind: 'plate', straight: true } })
    const { kernels } = this.pool
    // The first look may be coarse; then the render lies over the plate as sharp as that is
    const coarse = samples < 2
    const size = coarse || plate.width < passes.width ? passes : plate
    const pointer = kernels.allocate(size.width * size.height * 16)
    try {
      layOver(
        passes,
        kernels.floats(plate.pointer, plate.width * plate.height * 4),
        plate,
        kernels.floats(pointer, size.width * size.height * 4),
        size,
      )
      const codes = displayCodes(this.pool, { pointer, ...boxOf(size.width, size.height) }, document.view)
      return {
        samples,
        picture: {
          width: passes.width,
          height: passes.height,
          shown: { width: size.width, height: size.height, codes },
          ids: passes.objectId.slice(),
          depth: passes.depth.slice(),
          // A figure is no thing that could be picked at this station
          names: this.compiled!.objects.map(({ name, laid }) => (laid ? '' : name)),
        },
      }
    } finally {
      kernels.dispose(pointer)
    }
  }
}

interface Size {
  width: number
  height: number
}
/**
 * What is rendered, with its shadow, over the plate: the render smoothly spread, the plate's pixels as they are
 * (nearest where it is larger).
 */
function layOver(passes: RenderedPasses, plate: Float32Array, plateSize: Size, out: Float32Array, size: Size): void {
  const { width, height, alpha, shadow, light, volume } = passes
  const count = width * height
  const own = new Float32Array(count * 7)
  const parts = Object.values(light!)
  for (let i = 0; i < count; i++) {
    // Air lies over all of it
    const clear = volume ? 1 - volume[i * 4 + 3]! : 1
    own[i * 7] = (1 - alpha[i]!) * clear
    for (let c = 0; c < 3; c++) {
      let sum = 0
      for (const part of parts) sum += part[i * 3 + c]!
      own[i * 7 + 1 + c] = sum * clear + (volume ? volume[i * 4 + c]! : 0)
      own[i * 7 + 4 + c] = shadow![i * 3 + c]!
    }
  }
  const columns = new Int32Array(size.width * 2)
  const shares = new Float32Array(size.width)
  const plateColumns = new Int32Array(size.width)
  for (let x = 0; x < size.width; x++) {
    const at = Math.min(width - 1, Math.max(0, ((x + 0.5) * width) / size.width - 0.5))
    const low = Math.floor(at)
    columns[x * 2] = low * 7
    columns[x * 2 + 1] = Math.min(width - 1, low + 1) * 7
    shares[x] = at - low
    plateColumns[x] = Math.floor(((x + 0.5) * plateSize.width) / size.width) * 4
  }
  for (let y = 0; y < size.height; y++) {
    const at = Math.min(height - 1, Math.max(0, ((y + 0.5) * height) / size.height - 0.5))
    const low = Math.floor(at)
    const v = at - low
    const top = low * width * 7
    const bottom = Math.min(height - 1, low + 1) * width * 7
    const plateRow = Math.floor(((y + 0.5) * plateSize.height) / size.height) * plateSize.width * 4
    for (let x = 0, to = y * size.width * 4; x < size.width; x++, to += 4) {
      const l = columns[x * 2]!
      const r = columns[x * 2 + 1]!
      const u = shares[x]!
      const from = plateRow + plateColumns[x]!
      const a = (1 - u) * (1 - v)
      const b = u * (1 - v)
      const c = (1 - u) * v
      const d = u * v
      const p = top + l
      const q = top + r
      const s = bottom + l
      const t = bottom + r
      const open = own[p]! * a + own[q]! * b + own[s]! * c + own[t]! * d
      for (let k = 0; k < 3; k++)
        out[to + k] =
          plate[from + k]! *
            open *
            (own[p + 4 + k]! * a + own[q + 4 + k]! * b + own[s + 4 + k]! * c + own[t + 4 + k]! * d) +
          own[p + 1 + k]! * a +
          own[q + 1 + k]! * b +
          own[s + 1 + k]! * c +
          own[t + 1 + k]! * d
      out[to + 3] = 1
    }
  }
}
