// From a shot document to pixels: a chain of operators, each result kept by key, so that only what changed is computed
// again.
import * as L from '../../kernels/assembly/layout'
import { blendKernel } from '../layer/modes'
import type { Lens } from '../match/lens'
import { CLEAN_AMOUNT, lightLayer, LIGHT_PARTS, passOf } from '../render/passes'
import { namesOf, unpacking } from '../render/openpasses'
import {
  DESK_NEUTRAL,
  DESK_ROWS,
  type DeskColumn,
  type MatteSettings,
  type PictureLayer,
  type RenderLayer,
  type ShotDocument,
  type TreatmentSettings,
} from '../shot/document'
import { lensOf, workingFrame } from '../shot/lens'
import { inOrder, type Rows } from '../shot/rows'
import { valueAt } from '../time/curve'
import { perSecond } from '../time/rate'
import { treatmentOf } from '../treatment/registry'
import { isNeutral } from '../treatment/treatment'
import { operatorKey } from '../engine/key'
import { RasterCache, type Raster } from './cache'
import { float, type Argument, type Pool } from '../engine/pool'
import { sized, type Size } from './size'
import { Sources, type LoadBlob } from './sources'
import { showPass } from './showpass'

export type Show =
  | { kind: 'finish' }
  | { kind: 'build' }
  | { kind: 'plate'; /** Without the bend of its lens, as one works on it. */ straight?: boolean }
  | { kind: 'pass'; id: string; near?: number; far?: number }
  | { kind: 'matte'; matte: MatteSettings }

export interface Without {
  id?: string
  treatments?: boolean
  clean?: boolean
}

export interface Request {
  document: ShotDocument
  frame: number
  /** 1 full size, 2 half, 4 a quarter. */
  shrink: 1 | 2 | 4
  show: Show
  /** For playing: clips by their small pictures where they have them. */
  small?: boolean
  /** Left out for comparison: a treatment or layer by id, all treatments, or that noise is taken out. */
  without?: Without
}

export interface Keyed {
  key: string
  raster: Raster
}

const DEFAULT_BUDGET = 1100 * 1048576
/** Most that a group of light is brightened by. */
const MOST_GAIN = 64
const FAR = 1e30
/** Drift and sway may carry a value past its range. */
const within = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value))

export class Evaluator {
  readonly cache: RasterCache
  readonly sources: Sources

  constructor(
    readonly pool: Pool,
    load: LoadBlob,
    budget = DEFAULT_BUDGET,
  ) {
    this.cache = new RasterCache(pool.kernels, budget)
    this.sources = new Sources(pool, this.cache, load)
  }

  /** Computes what is asked for. The raster stays valid until the next call. */
  async evaluate(request: Request): Promise<Keyed> {
    await this.sources.prepare(request.document, request.frame, {
      plateOnly: request.show.kind === 'plate',
      small: request.small,
    })
    return unpacking(() => {
      this.cache.begin()
      return this.shown(request)
    })
  }

  /** The frame as it is sent. */
  frameSize({ document, shrink }: Pick<Request, 'document' | 'shrink'>): Size {
    return sized({ ...document.frame, left: 0, top: 0 }, shrink)
  }
  /** The straight frame on which the build works: with room round it for what the lens will bend in. */
  workSize({ document, shrink }: Pick<Request, 'document' | 'shrink'>): Size {
    return sized(workingFrame(document), shrink)
  }

  private shown(request: Request): Keyed {
    const frame = this.frameSize(request)
    const size = this.workSize(request)
    const { show, document } = request
    if (show.kind === 'plate')
      return show.straight ? this.cropped(this.plate(request, size), size, frame) : this.plateAsTaken(request, frame)
    if (show.kind === 'pass')
      return this.sources.passes ? this.cropped(showPass(this, show, size), size, frame) : this.black(frame)
    if (show.kind === 'matte')
      return this.sources.passes
        ? this.cropped(this.grey(this.matte(show.matte, size, false), size), size, frame)
        : this.black(frame)
    const built = this.build(request, size)
    if (show.kind === 'build') return this.cropped(built, size, frame)
    const lens = lensOf(document, request.frame)
    return this.treatments(
      lens ? this.throughLens(built, size, frame, lens, true) : built,
      document.finish,
      request,
      frame,
      false,
    )
  }

  /** What of the working frame lies in the frame. */
  cropped(picture: Keyed, size: Size, frame: Size): Keyed {
    if (size.width === frame.width && size.height === frame.height) return picture
    return this.operator(frame, ['crop', 1, picture.key], out => {
      const { kernels } = this.pool
      const from = kernels.floats(picture.raster.pointer, size.width * size.height * 4)
      const to = kernels.floats(out.pointer, frame.width * frame.height * 4)
      const left = size.left / size.shrink
      const top = size.top / size.shrink
      for (let y = 0; y < frame.height; y++) {
        const start = ((y + top) * size.width + left) * 4
        to.set(from.subarray(start, start + frame.width * 4), y * frame.width * 4)
      }
    })
  }

  /** Bent into the frame as the lens would have it, or straightened into the working frame. */
  private throughLens(picture: Keyed, from: Size, to: Size, lens: Lens, bent: boolean): Keyed {
    const middle = (size: Size): [Argument, Argument] => [
      float((size.left + size.frameWidth / 2) / size.shrink),
      float((size.top + size.frameHeight / 2) / size.shrink),
    ]
    const half = float(to.frameWidth / 2 / to.shrink)
    return this.operator(to, ['lens', 1, picture.key, lens, bent, from], out =>
      this.run(L.KERNEL_LENS, to, [
        to.width,
        to.height,
        picture.raster.pointer,
        out.pointer,
        from.width,
        from.height,
        ...middle(to),
        half,
        ...middle(from),
        half,
        float(lens.k1),
        float(lens.k2),
        bent ? 1 : 0,
      ]),
    )
  }

  /** One band of rows after another of a kernel over a picture of that size. */
  run(kernel: number, size: Size, args: readonly Argument[]): void {
    this.pool.run(kernel, Math.ceil(size.height / L.BAND_ROWS), args)
  }

  operator(size: Size, parts: unknown[], make: (out: Raster) => void, bytes = 16): Keyed {
    const key = operatorKey(...parts, size)
    return { key, raster: this.cache.filled(key, size.width, size.height, bytes, make) }
  }

  black(size: Size): Keyed {
    return this.operator(size, ['black', 1], out =>
      this.pool.kernels.floats(out.pointer, size.width * size.height * 4).fill(0),
    )
  }

  private plate(request: Request, size: Size): Keyed {
    const frame = this.frameSize(request)
    const lens = lensOf(request.document, request.frame)
    const taken = this.plateAsTaken(request, frame)
    return lens && request.document.plate ? this.throughLens(taken, frame, size, lens, false) : taken
  }

  private plateAsTaken({ document, frame }: Request, size: Size): Keyed {
    const source = document.plate && this.sources.picture(document.plate, frame, document.rate)
    if (!source) return this.black(size)
    const aspect = document.plate!.clip?.pixelAspect
    return this.sources.scaled(
      source.key,
      size,
      source.raster,
      true,
      () => source.raster,
      aspect ? perSecond(aspect) : 1,
    )
  }

  private build(request: Request, size: Size): Keyed {
    const { document, frame, without } = request
    const on = (layer: { on: boolean; id: string }): boolean => layer.on && without?.id !== layer.id
    const layers = inOrder(document.build.layers)
    const plateLayer = layers.find(layer => layer.kind === 'plate')
    const renderLayer = layers.find((layer): layer is RenderLayer => layer.kind === 'render')
    let picture = this.black(size)
    if (plateLayer && on(plateLayer)) {
      const plate = this.treatments(this.plate(request, size), plateLayer.treatments, request, size, false)
      picture =
        valueAt(plateLayer.opacity, frame) === 1
          ? plate
          : this.blend(picture, plate, 'over', valueAt(plateLayer.opacity, frame), size)
    }
    const rendered =
      renderLayer && on(renderLayer) && this.sources.passes ? this.render(renderLayer, request, size) : undefined
    if (renderLayer && rendered) {
      const strength = valueAt(renderLayer.shadow, frame)
      if (strength !== 0 && this.sources.passes!.planes.has('shadow.R')) {
        const ratio = this.trimmedShadow(request, this.cleanAmount(renderLayer, request), size)
        const below = picture
        picture = this.operator(size, ['shadow', 1, below.key, ratio.key, strength], out =>
          this.run(L.KERNEL_MULTIPLY_RATIO, size, [
            size.width,
            size.height,
            below.raster.pointer,
            ratio.raster.pointer,
            out.pointer,
            float(strength),
          ]),
        )
      }
    }
    if (renderLayer && rendered && this.sources.passes!.planes.has('wet.R')) {
      const amount = valueAt(renderLayer.wet ?? 1, frame)
      const below = picture
      const wet = this.sources.colour(passOf('wet')!.channels, 0, size)
      if (amount !== 0)
        picture = this.operator(size, ['wet', 1, below.key, wet.key, amount], out =>
          this.run(L.KERNEL_ADD, size, [
            size.width,
            size.height,
            below.raster.pointer,
            wet.raster.pointer,
            out.pointer,
            float(amount),
            0,
          ]),
        )
    }
    // Far to near; the render is laid in slices between the pictures
    const pictures = layers
      .filter((layer): layer is PictureLayer => layer.kind === 'picture' && on(layer))
      .map(layer => ({ layer, distance: valueAt(layer.distance, frame) }))
      .sort((a, b) => b.distance - a.distance)
    let far = FAR
    const layRender = (near: number): void => {
      if (!renderLayer || !rendered) return
      const slice = near <= 0 && far >= FAR ? rendered : this.slice(rendered, near, far, size)
      picture = this.blend(picture, slice, renderLayer.mode, within(valueAt(renderLayer.opacity, frame), 0, 1), size)
    }
    for (const { layer, distance } of pictures) {
      layRender(distance)
      far = distance
      const placed = this.placed(layer, request, size)
      if (placed)
        picture = this.blend(
          picture,
          this.treatments(placed, layer.treatments, request, size, false),
          layer.mode,
          within(valueAt(layer.opacity, frame), 0, 1),
          size,
        )
    }
    layRender(0)
    return renderLayer && rendered ? this.throughAir(picture, renderLayer, frame, size) : picture
  }

  /** What the air takes of the picture, and the light that it sends. */
  private throughAir(picture: Keyed, layer: RenderLayer, frame: number, size: Size): Keyed {
    const amount = within(valueAt(layer.air ?? 1, frame), 0, 1)
    if (amount === 0 || !this.sources.passes!.planes.has('volume.A')) return picture
    const light = this.sources.colour(['volume.R', 'volume.G', 'volume.B'], 0, size)
    const cover = this.sources.colour(['volume.A'], 0, size)
    return this.operator(size, ['air', 2, picture.key, light.key, cover.key, amount], out =>
      this.run(L.KERNEL_ADD, size, [
        size.width,
        size.height,
        picture.raster.pointer,
        light.raster.pointer,
        out.pointer,
        float(amount),
        cover.raster.pointer,
      ]),
    )
  }

  /** The shadow pass with each catcher's own density and tint. */
  private trimmedShadow({ document, frame }: Request, clean: number, size: Size): Keyed {
    const ratio = this.sources.light(passOf('shadow')!.channels, 1, size, clean)
    const file = this.sources.passes!
    const table = new Float32Array((file.objectNames.length + 1) * 4)
    let changed = false
    ;['', ...file.objectNames].forEach((name, index) => {
      const own = document.scene.objects[name]
      const entry = [
        Math.max(0, valueAt(own?.shadowDensity ?? 1, frame)),
        ...(own?.shadowColour ?? [0, 0, 0]).map(value => Math.max(0, valueAt(value, frame))),
      ]
      table.set(entry, index * 4)
      changed ||= entry[0] !== 1 || entry[1] !== 0 || entry[2] !== 0 || entry[3] !== 0
    })
    if (!changed || !file.planes.has('catcher_id.I')) return ratio
    const numbers = this.sources.single('catcher_id.I', size)
    return this.operator(size, ['trim', 1, ratio.key, numbers.key, [...table]], out => {
      const placed = this.pool.kernels.place(table)
      this.run(L.KERNEL_TRIM_RATIO, size, [
        size.width,
        size.height,
        ratio.raster.pointer,
        numbers.raster.pointer,
        out.pointer,
        placed,
      ])
      this.pool.kernels.dispose(placed)
    })
  }

  blend(backdrop: Keyed, source: Keyed, mode: string, opacity: number, size: Size): Keyed {
    if (opacity <= 0) return backdrop
    return this.operator(size, ['blend', 1, backdrop.key, source.key, mode, opacity], out =>
      this.run(L.KERNEL_BLEND, size, [
        size.width,
        size.height,
        backdrop.raster.pointer,
        source.raster.pointer,
        out.pointer,
        blendKernel(mode),
        float(opacity),
        0,
      ]),
    )
  }

  private slice(source: Keyed, near: number, far: number, size: Size): Keyed {
    const before = far >= FAR ? undefined : this.frontShare(far, size)
    const nearer = near <= 0 ? undefined : this.frontShare(near, size)
    return this.operator(size, ['slice', 2, source.key, before?.key, nearer?.key], out =>
      this.run(L.KERNEL_DEPTH_SLICE, size, [
        size.width,
        size.height,
        source.raster.pointer,
        out.pointer,
        before?.raster.pointer ?? 0,
        nearer?.raster.pointer ?? 0,
      ]),
    )
  }

  /** How much of what covers each pixel is nearer than a distance. */
  private frontShare(distance: number, size: Size): Keyed {
    const depth = this.sources.single('depth.Z', size)
    const coverage = this.sources.coverage('objects', size)
    return this.operator(
      size,
      ['front share', 1, coverage.key, depth.key, distance],
      out =>
        this.run(L.KERNEL_FRONT_SHARE, size, [
          size.width,
          size.height,
          coverage.raster.pointer,
          depth.raster.pointer,
          out.pointer,
          float(distance),
        ]),
      4,
    )
  }

  /** The render from its parts by the desk, then the layer's treatments. */
  private render(layer: RenderLayer, request: Request, size: Size): Keyed {
    const { document, frame } = request
    const file = this.sources.passes!
    const clean = this.cleanAmount(layer, request)
    const parts = LIGHT_PARTS.map(part => this.sources.part(part, size, clean))
    const coverage = this.sources.coverage('objects', size)
    const occlusion = file.planes.has('occlusion.Y') ? this.sources.single('occlusion.Y', size) : undefined
    const gains = this.gains(document, layer, frame, file.objectNames)
    const relit = this.operator(
      size,
      ['desk', 1, parts.map(part => part.key), coverage.key, occlusion?.key, [...gains]],
      out => {
        const table = this.pool.kernels.place(gains)
        this.run(L.KERNEL_DESK, size, [
          size.width,
          size.height,
          ...parts.map(part => part.raster.pointer),
          coverage.raster.pointer,
          occlusion?.raster.pointer ?? 0,
          out.pointer,
          table,
        ])
        this.pool.kernels.dispose(table)
      },
    )
    return this.treatments(
      this.outlined(this.underLights(relit, document, frame, clean, size), layer, frame, size),
      layer.treatments,
      request,
      size,
      true,
    )
  }

  /** The render with its outline taken out of it, or inked on it. */
  private outlined(render: Keyed, { ink }: RenderLayer, frame: number, size: Size): Keyed {
    if (!ink || !this.sources.passes!.planes.has('outline.Y')) return render
    const strength = within(valueAt(ink.strength, frame), 0, 1)
    const bite = within(valueAt(ink.bite, frame), 0, 1)
    const colour = ink.colour.map(value => Math.max(0, valueAt(value, frame)))
    if (strength === 0 && bite === 0) return render
    const line = this.sources.colour(['outline.Y'], 0, size)
    return this.operator(size, ['ink', 1, render.key, line.key, strength, bite, colour], out =>
      this.run(L.KERNEL_INK, size, [
        size.width,
        size.height,
        render.raster.pointer,
        out.pointer,
        line.raster.pointer,
        float(bite),
        float(strength),
        0,
        ...colour.map(float),
      ]),
    )
  }

  /** How much of the noise is taken out of the light. */
  private cleanAmount(layer: RenderLayer, { frame, without }: Request): number {
    return without?.clean ? 0 : within(valueAt(layer.clean ?? CLEAN_AMOUNT, frame), 0, 1)
  }

  /** The render as it is when groups of light are brighter or darker than rendered. */
  private underLights(render: Keyed, document: ShotDocument, frame: number, clean: number, size: Size): Keyed {
    const lights = this.sources.passes!.lights
    const gains = lights.map(name => within(valueAt(document.build.desk.lights?.[name] ?? 1, frame), 0, MOST_GAIN))
    if (gains.every(gain => gain === 1)) return render
    const groups = lights.map(name => this.sources.light(passOf(lightLayer(name))!.channels, 0, size, clean))
    return this.operator(size, ['relight', 1, render.key, groups.map(group => group.key), gains], out => {
      const table = new ArrayBuffer(groups.length * 8)
      const view = new DataView(table)
      groups.forEach(({ raster }, i) => {
        view.setUint32(i * 8, raster.pointer, true)
        view.setFloat32(i * 8 + 4, gains[i]!, true)
      })
      const placed = this.pool.kernels.place(new Uint8Array(table))
      this.run(L.KERNEL_RELIGHT, size, [
        size.width,
        size.height,
        render.raster.pointer,
        out.pointer,
        groups.length,
        placed,
      ])
      this.pool.kernels.dispose(placed)
    })
  }

  private gains(document: ShotDocument, layer: RenderLayer, frame: number, names: string[]): Float32Array {
    const { everything, objects } = document.build.desk
    const read = (column: DeskColumn | undefined, row: (typeof DESK_ROWS)[number]): number =>
      valueAt(column?.[row] ?? DESK_NEUTRAL[row], frame)
    const occlusion = valueAt(layer.occlusion, frame)
    const stride = L.DESK_ROW / 4
    const out = new Float32Array((names.length + 1) * stride)
    ;[undefined, ...names].forEach((name, index) => {
      const own = name === undefined ? undefined : objects[name]
      DESK_ROWS.forEach((row, at) => {
        const whole = read(everything, row)
        const part = read(own, row)
        const value =
          row === 'occlusion' ? occlusion * whole * part : row === 'exposure' ? 2 ** (whole + part) : whole * part
        out[index * stride + at] = value
      })
    })
    return out
  }

  private placed(layer: PictureLayer, { document, frame }: Request, size: Size): Keyed | undefined {
    const source = this.sources.picture(layer.picture, frame, document.rate)
    if (!source) return undefined
    const scale = Math.max(1e-4, valueAt(layer.scale, frame))
    const angle = (valueAt(layer.rotation, frame) * Math.PI) / 180
    const x = valueAt(layer.x, frame) + size.left
    const y = valueAt(layer.y, frame) + size.top
    // Result pixel -> frame pixel -> about the middle, turned back, unscaled -> source pixel
    // A small picture has fewer pixels than the one for which the scale was said
    const fewer = source.raster.width / layer.picture.width
    const cos = (Math.cos(angle) / scale) * fewer
    const sin = (Math.sin(angle) / scale) * fewer
    const k = size.shrink
    // Pixels that are not square are as wide as they say
    const aspect = layer.picture.clip ? perSecond(layer.picture.clip.pixelAspect) : 1
    const map = [
      (cos * k) / aspect,
      (sin * k) / aspect,
      source.raster.width / 2 - (cos * x + sin * y) / aspect,
      -sin * k,
      cos * k,
      source.raster.height / 2 + sin * x - cos * y,
    ]
    return this.operator(size, ['place', 1, source.key, map], out =>
      this.run(L.KERNEL_PLACE, size, [
        size.width,
        size.height,
        source.raster.pointer,
        out.pointer,
        source.raster.width,
        source.raster.height,
        ...map.map(float),
        0,
      ]),
    )
  }

  private treatments(
    input: Keyed,
    lines: Rows<TreatmentSettings>,
    request: Request,
    size: Size,
    relative: boolean,
  ): Keyed {
    let picture = input
    if (request.without?.treatments) return picture
    for (const settings of inOrder(lines)) {
      if (!settings.on || request.without?.id === settings.id) continue
      const treatment = treatmentOf(settings.kind)
      const values = Object.fromEntries(
        treatment.parameters.map(parameter => [
          parameter.id,
          within(
            valueAt(settings.values[parameter.id] ?? parameter.neutral, request.frame),
            parameter.low,
            parameter.high,
          ),
        ]),
      )
      const strength = within(valueAt(settings.strength, request.frame), 0, 1)
      if (strength === 0 || isNeutral(treatment, values)) continue
      const matte = settings.matte && this.sources.passes ? this.matte(settings.matte, size, relative) : undefined
      if (settings.matte && !matte) continue
      const before = picture
      picture = this.operator(size, [treatment.id, 1, before.key, values, strength, matte?.key], out =>
        this.run(treatment.kernel, size, [
          size.width,
          size.height,
          before.raster.pointer,
          out.pointer,
          matte?.raster.pointer ?? 0,
          float(strength),
          treatment.unpremultiplied ? 1 : 0,
          0,
          ...treatment.words(values, { width: size.width, height: size.height, shrink: size.shrink }),
        ]),
      )
    }
    return picture
  }

  /**
   * Coverage of the named things, one float a pixel; relative: as a share of what covers the pixel (for premultiplied
   * layers).
   */
  matte(settings: MatteSettings, size: Size, relative: boolean): Keyed {
    const coverage = this.sources.coverage(settings.of, size, settings.seen)
    const names = namesOf(this.sources.passes!, settings.of)
    return this.operator(
      size,
      ['matte', 1, coverage.key, settings, relative],
      out => {
        const selection = this.pool.kernels.place(
          Float32Array.from([0, ...names.map(name => (settings.names.includes(name) ? 1 : 0))]),
        )
        this.run(L.KERNEL_COVERAGE, size, [
          size.width,
          size.height,
          coverage.raster.pointer,
          out.pointer,
          selection,
          settings.invert ? 1 : 0,
          relative ? 1 : 0,
        ])
        this.pool.kernels.dispose(selection)
      },
      4,
    )
  }

  /** One float a pixel as a grey picture. */
  grey(single: Keyed, size: Size): Keyed {
    return this.operator(size, ['grey', 1, single.key], out => {
      const from = this.pool.kernels.floats(single.raster.pointer, size.width * size.height)
      const to = this.pool.kernels.floats(out.pointer, size.width * size.height * 4)
      for (let i = 0; i < from.length; i++) {
        to.fill(from[i]!, i * 4, i * 4 + 3)
        to[i * 4 + 3] = 1
      }
    })
  }
}
