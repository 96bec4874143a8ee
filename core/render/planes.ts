// What a render keeps a pixel, laid out for the passes that are asked for, and the planes made from it.
import type { SampleLimits } from '../shot/schema/passes'
import * as L from '../../kernels/assembly/layout'
import { Resolve, ResolveCoverage } from '../../kernels/records'
import { boxOf } from '../engine/box'
import type { Pool } from '../engine/pool'
import { NO_DEPTH, type LightPart } from './passes'
import type { PixelLayout } from './pixelLayout'

export interface Coverage {
  ranks: number
  /** Per pixel and rank: index + 1 (0 for none) and share of the pixel, greatest first. */
  index: Uint16Array
  weight: Float32Array
}

/**
 * What noise is measured by, RGB triples: the sum of every second sample over all samples, and the mean square of what
 * samples gave.
 */
export interface Halves {
  odd: Float32Array
  squares: Float32Array
}
/**
 * Of matt light, of light mirrored and let through, and of all light (core/render/noise.ts); the shadow of every second
 * sample.
 */
export interface Noise {
  matt: Halves
  sent: Halves
  whole: Halves
  shadowOdd?: Float32Array
}

/** What is seen through glass, or mirrored. */
export interface Beyond {
  depth: Float32Array
  objectId: Uint32Array
  albedo: Float32Array
  normal: Float32Array
}

/** Passes of a picture. What is not asked for is not there. Rows from the top; several channels are interleaved. */
export interface RenderedPasses {
  width: number
  height: number
  samples: number
  /** Samples of each pixel, and those after which a kind of pass got no more. */
  counts: Uint32Array
  limits: SampleLimits
  alpha: Float32Array
  /** RGB triples. */
  light?: Record<LightPart, Float32Array>
  /** Share of the pixel that surfaces with light of their own have. */
  shining?: Float32Array
  rawDirect?: Float32Array
  rawIndirect?: Float32Array
  /** RGB triples, by the number of the group. */
  groups?: Float32Array[]
  albedo?: Float32Array
  normal?: Float32Array
  normalCamera?: Float32Array
  facing?: Float32Array
  depth: Float32Array
  depthMean?: Float32Array
  position?: Float32Array
  rest?: Float32Array
  uv?: Float32Array
  motionForward?: Float32Array
  motionBack?: Float32Array
  occlusion?: Float32Array
  shadow?: Float32Array
  /** Share of the pixel that ground has which the shadow falls on. */
  groundShare?: Float32Array
  shadowObjects?: Float32Array
  shadowChosen?: Float32Array
  wet?: Float32Array
  mist?: Float32Array
  /** RGBA. */
  volume?: Float32Array
  /** Made once the samples are there. */
  outline?: Float32Array
  objectId: Uint32Array
  materialId: Uint32Array
  /** Number of the catcher on which a pixel's shadow falls, 0 for none. */
  catcherId: Uint32Array
  noise?: Noise
  through?: Beyond
  mirrored?: Beyond
  /** Cryptomatte, by the pass. */
  coverage: Record<string, Coverage>
}

/** The beauty: sum of the six light passes, RGB triples. */
export function beautyOf(passes: RenderedPasses): Float32Array {
  if (!passes.light) throw new Error('These passes were rendered without light.')
  return sumOf(passes.light)
}

export function sumOf({
  diffuse_direct: a,
  diffuse_indirect: b,
  reflection: c,
  refraction: r,
  emission: d,
  environment: e,
}: Record<LightPart, Float32Array>): Float32Array {
  const out = new Float32Array(a.length)
  // Summed in float64 and rounded once, in the order of LIGHT_PARTS
  for (let i = 0; i < out.length; i++) out[i] = a[i]! + b[i]! + c[i]! + r[i]! + d[i]! + e[i]!
  return out
}

export function blankPasses(width: number, height: number, layout: PixelLayout): RenderedPasses {
  const pixels = width * height
  const { ranks } = layout
  const floats = (there: number | boolean, channels: number, value = 0): Float32Array | undefined =>
    there ? (value ? new Float32Array(pixels * channels).fill(value) : new Float32Array(pixels * channels)) : undefined
  const colour = (): Float32Array => new Float32Array(pixels * 3)
  const beyond = (there: number): Beyond | undefined =>
    there
      ? { depth: floats(true, 1, NO_DEPTH)!, objectId: new Uint32Array(pixels), albedo: colour(), normal: colour() }
      : undefined
  return {
    width,
    height,
    samples: 0,
    counts: new Uint32Array(pixels),
    limits: {},
    alpha: new Float32Array(pixels),
    shining: floats(layout.light, 1),
    light: layout.light
      ? {
          diffuse_direct: colour(),
          diffuse_indirect: colour(),
          reflection: colour(),
          refraction: colour(),
          emission: colour(),
          environment: colour(),
        }
      : undefined,
    rawDirect: floats(layout.raw, 3),
    rawIndirect: floats(layout.raw, 3),
    groups: layout.groups ? Array.from({ length: layout.groupCount }, colour) : undefined,
    albedo: floats(layout.surface, 3),
    normal: floats(layout.surface, 3),
    normalCamera: floats(layout.surface, 3),
    facing: floats(layout.surface, 1),
    depthMean: floats(layout.surface, 1, NO_DEPTH),
    depth: floats(true, 1, NO_DEPTH)!,
    position: floats(layout.place, 3),
    rest: floats(layout.rest, 3),
    uv: floats(layout.place, 2),
    motionForward: floats(layout.motion, 2),
    motionBack: floats(layout.motion, 2),
    occlusion: floats(layout.occlusion, 1, 1),
    shadow: floats(layout.shadow, 3, 1),
    groundShare: floats(layout.shadow, 1),
    objectId: new Uint32Array(pixels),
    materialId: new Uint32Array(pixels),
    catcherId: new Uint32Array(pixels),
    shadowObjects: floats(layout.shadowObjects, 3, 1),
    shadowChosen: floats(layout.shadowChosen, 3, 1),
    wet: floats(layout.wet, 3),
    mist: floats(layout.mist, 1, 1),
    volume: floats(layout.volume, 4),
    noise: layout.noise
      ? {
          matt: { odd: colour(), squares: colour() },
          sent: { odd: colour(), squares: colour() },
          whole: { odd: colour(), squares: colour() },
          shadowOdd: layout.shadow ? new Float32Array(pixels * 3).fill(1) : undefined,
        }
      : undefined,
    through: beyond(layout.through),
    mirrored: beyond(layout.mirrored),
    coverage: Object.fromEntries(
      Object.keys(layout.coverage).map(id => [
        id,
        { ranks, index: new Uint16Array(pixels * ranks), weight: new Float32Array(pixels * ranks) },
      ]),
    ),
  }
}

/**
 * Makes the planes of rows that the accumulator holds. firstRow: of the picture. axes: the camera's right, up and back.
 */
export function resolvePlanes(
  pool: Pool,
  accumulator: number,
  layout: PixelLayout,
  rows: number,
  firstRow: number,
  limits: SampleLimits,
  axes: readonly number[],
  out: RenderedPasses,
  coverage: boolean,
): void {
  const { kernels } = pool
  const { width } = out
  const pixels = rows * width
  const first = firstRow * width
  const area = boxOf(width, rows)
  const room = kernels.allocate(pixels * 4 * Math.max(4, layout.ranks * 2))
  try {
    // Fields of the numbers that say whether the middle and the nearest met something
    type Met = readonly [number, number]
    const HEAD: Met = [L.PIXEL_OBJECT_CENTRE, L.PIXEL_OBJECT_NEAREST]
    const plane = (
      to: Float32Array | undefined,
      field: number,
      channels: number,
      how: number,
      other = 0,
      nothing = 0,
      met = HEAD,
      most = 0,
    ): void => {
      if (!to) return
      pool.run(Resolve, area, {
        accumulator,
        out: room,
        stride: layout.stride,
        field,
        channels,
        how,
        most,
        other,
        metCentre: met[0],
        metNearest: met[1],
        nothing,
      })
      to.set(kernels.floats(room, pixels * channels), first * channels)
    }
    const words = (to: Uint32Array, field: number, how: number, other = 0, met = HEAD): void => {
      pool.run(Resolve, area, {
        accumulator,
        out: room,
        stride: layout.stride,
        field,
        channels: 1,
        how,
        most: 0,
        other,
        metCentre: met[0],
        metNearest: met[1],
        nothing: 0,
      })
      to.set(new Uint32Array(kernels.words(room, pixels).buffer, room, pixels), first)
    }
    const lit = (to: Float32Array | undefined, field: number): void =>
      plane(to, field, 3, L.RESOLVE_MEAN, 0, 0, HEAD, limits.light)
    words(out.counts, L.PIXEL_COUNT, L.RESOLVE_WORD)
    plane(out.alpha, L.PIXEL_ALPHA, 1, L.RESOLVE_MEAN)
    for (let i = first; i < first + pixels; i++) if (out.alpha[i]! > 1) out.alpha[i] = 1
    plane(out.depth, L.PIXEL_DEPTH_CENTRE, 1, L.RESOLVE_CHOICE, L.PIXEL_DEPTH_NEAREST, NO_DEPTH)
    words(out.objectId, L.PIXEL_OBJECT_CENTRE, L.RESOLVE_CHOICE, L.PIXEL_OBJECT_NEAREST)
    words(out.materialId, L.PIXEL_MATERIAL_CENTRE, L.RESOLVE_CHOICE, L.PIXEL_MATERIAL_NEAREST)
    words(out.catcherId, L.PIXEL_CATCHER, L.RESOLVE_WORD)
    plane(out.shining, L.PIXEL_SHINING, 1, L.RESOLVE_MEAN, 0, 0, HEAD, limits.light)
    if (out.light) for (const [part, field] of LIGHT_FIELDS) lit(out.light[part], layout.light + field)
    lit(out.rawDirect, layout.raw + L.RAW_DIRECT)
    lit(out.rawIndirect, layout.raw + L.RAW_INDIRECT)
    out.groups?.forEach((group, i) => lit(group, layout.groups + i * 3))
    plane(out.albedo, layout.surface + L.SURFACE_ALBEDO, 3, L.RESOLVE_MEAN)
    plane(out.normal, layout.surface + L.SURFACE_NORMAL, 3, L.RESOLVE_DIRECTION)
    if (out.normal && out.normalCamera) turned(out.normal, out.normalCamera, first, pixels, axes)
    plane(out.facing, layout.surface + L.SURFACE_FACING, 1, L.RESOLVE_SHARE, L.PIXEL_ALPHA)
    plane(out.depthMean, layout.surface + L.SURFACE_DEPTH, 1, L.RESOLVE_SHARE, L.PIXEL_ALPHA, NO_DEPTH)
    plane(out.position, layout.place + L.PLACE_POSITION, 3, L.RESOLVE_WORD)
    plane(out.rest, layout.rest, 3, L.RESOLVE_WORD)
    plane(out.uv, layout.place + L.PLACE_UV, 2, L.RESOLVE_WORD)
    plane(out.motionForward, layout.place + L.PLACE_FORWARD, 2, L.RESOLVE_WORD)
    plane(out.motionBack, layout.place + L.PLACE_BACK, 2, L.RESOLVE_WORD)
    plane(out.occlusion, layout.occlusion, 1, L.RESOLVE_SHARE, layout.occlusion + 1, 1)
    // Where the ground ends within a pixel, the plate beyond it is in no shadow
    const ground: Met = [layout.shadow + L.SHADOW_SHARE, 0]
    const all: Met = [0, 0]
    plane(
      out.shadow,
      layout.shadow + L.SHADOW_WITH,
      3,
      L.RESOLVE_RATIO,
      layout.shadow + L.SHADOW_WITHOUT,
      1,
      ground,
      limits.shadow,
    )
    plane(out.groundShare, layout.shadow + L.SHADOW_SHARE, 1, L.RESOLVE_MEAN, 0, 0, HEAD, limits.shadow)
    plane(
      out.shadowObjects,
      layout.shadowObjects + L.SHADOW_WITH,
      3,
      L.RESOLVE_RATIO,
      layout.shadowObjects + L.SHADOW_WITHOUT,
      1,
      all,
    )
    plane(
      out.shadowChosen,
      layout.shadowChosen + L.SHADOW_WITH,
      3,
      L.RESOLVE_RATIO,
      layout.shadowChosen + L.SHADOW_WITHOUT,
      1,
      all,
    )
    plane(out.mist, layout.mist, 1, L.RESOLVE_MEAN)
    if (out.mist) for (let i = first; i < first + pixels; i++) out.mist[i] = Math.max(0, out.mist[i]! + 1)
    plane(out.volume, layout.volume, 4, L.RESOLVE_MEAN, 0, 0, HEAD, limits.light)
    if (out.wet) {
      const part = new Float32Array(out.wet.length)
      const begin = first * 3
      const end = (first + pixels) * 3
      out.wet.fill(0, begin, end)
      for (const [, field] of LIGHT_FIELDS) {
        lit(part, layout.wet + field)
        for (let i = begin; i < end; i++) out.wet[i]! += part[i]!
      }
    }
    if (out.noise) {
      const { matt, sent, whole, shadowOdd } = out.noise
      const mean = (to: Float32Array, field: number): void => lit(to, layout.noise + field)
      mean(matt.odd, L.NOISE_MATT)
      mean(sent.odd, L.NOISE_SENT)
      mean(whole.odd, L.NOISE_SEEN)
      mean(matt.squares, L.NOISE_SQUARES_MATT)
      mean(sent.squares, L.NOISE_SQUARES_SENT)
      mean(whole.squares, L.NOISE_SQUARES)
      for (let i = first * 3; i < (first + pixels) * 3; i++) whole.odd[i]! += matt.odd[i]! + sent.odd[i]!
      plane(
        shadowOdd,
        layout.noise + L.NOISE_SHADOW + L.SHADOW_WITH,
        3,
        L.RESOLVE_RATIO,
        layout.noise + L.NOISE_SHADOW + L.SHADOW_WITHOUT,
        1,
        ground,
        limits.shadow,
      )
    }
    for (const [to, block] of [
      [out.through, layout.through],
      [out.mirrored, layout.mirrored],
    ] as const) {
      if (!to) continue
      const met: Met = [block + L.BEYOND_OBJECT_CENTRE, block + L.BEYOND_OBJECT_NEAREST]
      plane(to.depth, block + L.BEYOND_DEPTH_CENTRE, 1, L.RESOLVE_CHOICE, block + L.BEYOND_DEPTH_NEAREST, NO_DEPTH, met)
      words(to.objectId, met[0], L.RESOLVE_CHOICE, met[1], met)
      plane(to.albedo, block + L.BEYOND_ALBEDO, 3, L.RESOLVE_MEAN, 0, 0, HEAD, limits.beyond)
      plane(to.normal, block + L.BEYOND_NORMAL, 3, L.RESOLVE_DIRECTION)
    }
    if (!coverage) return
    for (const [id, to] of Object.entries(out.coverage)) {
      const field = layout.coverage[id]!
      const weights = room
      const index = room + pixels * layout.ranks * 4
      const count = pixels * layout.ranks
      pool.run(ResolveCoverage, area, {
        accumulator,
        index,
        weight: weights,
        stride: layout.stride,
        field,
        slots: layout.slots,
        ranks: layout.ranks,
        most: /^(through|mirrored)_/.test(id) ? (limits.beyond ?? 0) : 0,
      })
      to.weight.set(kernels.floats(weights, count), first * layout.ranks)
      to.index.set(new Uint16Array(kernels.words(room, pixels).buffer, index, count), first * layout.ranks)
    }
  } finally {
    kernels.dispose(room)
  }
}

const LIGHT_FIELDS: readonly [LightPart, number][] = [
  ['diffuse_direct', L.LIGHT_DIFFUSE_DIRECT],
  ['diffuse_indirect', L.LIGHT_DIFFUSE_INDIRECT],
  ['reflection', L.LIGHT_REFLECTION],
  ['refraction', L.LIGHT_REFRACTION],
  ['emission', L.LIGHT_EMISSION],
  ['environment', L.LIGHT_ENVIRONMENT],
]

/** Directions of the world in the camera's axes. */
function turned(from: Float32Array, to: Float32Array, first: number, pixels: number, axes: readonly number[]): void {
  for (let i = first * 3; i < (first + pixels) * 3; i += 3)
    for (let k = 0; k < 3; k++)
      to[i + k] = from[i]! * axes[k * 3]! + from[i + 1]! * axes[k * 3 + 1]! + from[i + 2]! * axes[k * 3 + 2]!
}
