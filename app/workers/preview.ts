// What the scene will look like, refined sample by sample while one works: path-traced, laid over the plate with its shadow.
import type { Evaluator } from '../../core/build/evaluate'
import type { Pool } from '../../core/engine/pool'
import { viewOf } from '../../core/colour/view'
import { compileScene, type CompiledScene } from '../../core/render/compile'
import { Render } from '../../core/render/render'
import type { Camera, Scene } from '../../core/scene/scene'
import type { ShotDocument } from '../../core/shot/document'
import type { ScenePreview } from './messages'

const SAMPLES = 256

export class ScenePreviewer {
  private compiled?: CompiledScene
  private render?: Render
  constructor(private pool: Pool, private evaluator: Evaluator) {}

  /** One more round; `restart` after anything changed. */
  async step(document: ShotDocument, frame: number, width: number, restart: boolean, scene: () => Scene & { camera: Camera }): Promise<ScenePreview> {
    const height = Math.max(1, Math.round(width * document.frame.height / document.frame.width))
    if (restart || !this.render) {
      this.render?.dispose()
      this.compiled?.dispose()
      this.render = undefined
      const description = scene()
      this.compiled = compileScene(this.pool.kernels, description)
      this.render = new Render(this.pool, this.compiled, { width, height, samples: SAMPLES, passes: ['beauty', 'alpha', 'shadow', 'depth', 'object_id'], camera: description.camera, maxBounces: 3, clampIndirect: 8, seeEnvironment: description.environment?.seenByCamera })
    }
    if (!this.render.done) this.render.step(this.render.samplesSoFar < 2 ? 1 : 2)
    const passes = this.render.snapshot()
    const plate = await this.evaluator.evaluate({ document, frame, shrink: 1, show: { kind: 'plate', straight: true } })
    const pixels = this.pool.kernels.floats(plate.raster.pointer, plate.raster.width * plate.raster.height * 4)
    const { encode } = viewOf(document.view)
    const codes = new Uint8ClampedArray(passes.width * passes.height * 4)
    const light = passes.light!
    for (let y = 0; y < passes.height; y++) {
      const row = Math.floor((y + 0.5) * plate.raster.height / passes.height) * plate.raster.width
      for (let x = 0; x < passes.width; x++) {
        const i = y * passes.width + x, from = (row + Math.floor((x + 0.5) * plate.raster.width / passes.width)) * 4
        const open = 1 - passes.alpha[i]!
        for (let c = 0; c < 3; c++) {
          const k = i * 3 + c
          const value = pixels[from + c]! * passes.shadow![k]! * open + light.diffuse_direct[k]! + light.diffuse_indirect[k]! + light.reflection[k]! + light.emission[k]! + light.environment[k]!
          codes[i * 4 + c] = encode(value > 0 ? value : 0) * 255
        }
        codes[i * 4 + 3] = 255
      }
    }
    return { width: passes.width, height: passes.height, codes, samples: this.render.done ? SAMPLES : this.render.samplesSoFar, ids: passes.objectId.slice(), depth: passes.depth.slice(), names: this.compiled!.objects.map(object => object.name) }
  }
}
