// Pictures brought to other places. What a treatment of shape does is a map: for each pixel of the result the place that it
// shows. Several in a row are one map, and the picture is taken from its first state at once.
import { boxOf, grown, type Box } from '../engine/box'
import { MotionCarried, OwnPlaces, Resample, ResampleSingle } from '../../kernels/records'
import { RESAMPLE_PHASES } from '../../kernels/assembly/layout'
import { beyondBrought } from './beyond'
import { point } from '../formula/point'
import { raster } from '../../kernels/record'
import { finite } from './finite'
import { kernelNode, type Node } from './node'
import { pointNode, whole } from './pointNode'
import { NO_DEPTH, type Filter, type Picture, type Shaping } from './picture'

interface Size {
  width: number
  height: number
}

/** A picture after one more: of one that was only shaped, both at once. */
export function reshaped(picture: Picture, next: Shaping, size: Size): Picture {
  const before = picture.shaped
  const joins = before && before.made === picture.colour && before.by.every(({ pure }) => pure)
  const from = joins ? before.from : picture
  const by = joins ? [...before.by, next] : [next]
  // It may come to lie anywhere in the frame; beyond that nothing is seen of it
  const window = boxOf(size.width, size.height)
  const places = placesOf(by, window)
  const colour = resampled(from.colour, places, by, window)
  return {
    colour,
    depth: () => single(from.depth(), places, window, 0, NO_DEPTH),
    byDepth: (say, parted) => single(from.byDepth(say, parted), places, window, 1, 0),
    beyond: beyondBrought(
      from,
      share => resampledAt(share, places, 'straight', window, by[0]!.goesOn),
      ({ depth, byDepth }) => ({
        depth: () => single(depth(), places, window, 0, NO_DEPTH),
        byDepth: (say, parted) => single(byDepth(say, parted), places, window, 1, 0),
      }),
    ),
    motion: from.motion || by.some(({ moving }) => moving) ? () => motionOf(from, by, window) : undefined,
    shaped: { made: colour, from, by },
  }
}

/** Of each pixel of the result the place of the first picture. */
function placesOf(by: readonly Shaping[], window: Box): Node {
  const own: Node = kernelNode(OwnPlaces, {}, { window: grown(window, 1) })
  return [...by].reverse().reduce<Node>((places, { alter }) => alter(places), own)
}

function motionOf({ motion }: Picture, by: readonly Shaping[], window: Box): Node {
  const own = motion?.()
  const [map, next, before] = [
    by,
    by.map(shaping => shaping.moving?.next ?? shaping),
    by.map(shaping => shaping.moving?.before ?? shaping),
  ].map(all => placesOf(all, window))
  return kernelNode(
    MotionCarried,
    { map: map!, next: next!, before: before!, motion: own },
    { window, needs: (area, input) => (input === 3 ? own!.window : grown(area, 1)) },
  )
}

function resampled(colour: Node, map: Node, by: readonly Shaping[], window: Box): Node {
  return resampledAt(finite(colour), map, by.at(-1)!.filter, window, by[0]!.goesOn)
}
/** A picture at places. goesOn: beyond its edge, too. */
export const resampledAt = (source: Node, map: Node, filter: Filter, window: Box, goesOn = true): Node =>
  kernelNode(
    Resample,
    { source, map, weights: weightsOf(filter), ring: filter === 'sharp' ? 0.15 : 0, edge: goesOn ? 1 : 0 },
    { window, needs: (area, input) => (input === 0 ? source.window : grown(area, 1)), told: filter },
  )

/** Nothing of the drawing's edge is in it. */
const COVERED = 0.999
const SharpWithin = point('SharpWithin', { sharp: raster('colour') }, ({ colour, alpha, colours: { sharp } }) =>
  colour.map((channel, which) => alpha.isAtLeast(COVERED).choose(sharp.colour[which], channel)),
)
/**
 * A cut-out at places: sharp where it covers a pixel; straight at its edge, where a sharp filter would leave colour without
 * cover and cover without colour, which is seen as a rim.
 */
export function cutOutAt(source: Node, map: Node, window: Box): Node {
  const straight = resampledAt(source, map, 'straight', window, false)
  return pointNode(SharpWithin, whole(straight), { sharp: resampledAt(source, map, 'sharp', window, false) })
}

const single = (source: Node, map: Node, window: Box, how: 0 | 1, nothing: number): Node =>
  kernelNode(
    ResampleSingle,
    { source, map, how, nothing },
    { window, needs: (area, input) => (input === 0 ? source.window : area) },
  )

const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x))
/**
 * Weights over the distance in pixels: Lanczos with three lobes (C. Duchon 1979); the filter of D. Mitchell and A. Netravali
 * (SIGGRAPH 1988) with B = C = 1/3; straight between two.
 */
export const FILTER_WEIGHTS: Record<Filter, (x: number) => number> = {
  sharp: x => (Math.abs(x) < 3 ? sinc(x) * sinc(x / 3) : 0),
  soft: x => {
    const t = Math.abs(x)
    if (t < 1) return (7 * t ** 3 - 12 * t * t + 16 / 3) / 6
    return t < 2 ? ((-7 / 3) * t ** 3 + 12 * t * t - 20 * t + 32 / 3) / 6 : 0
  },
  straight: x => Math.max(0, 1 - Math.abs(x)),
}
const tables = new Map<Filter, Float32Array>()
function weightsOf(filter: Filter): Float32Array {
  let table = tables.get(filter)
  if (!table) {
    const rows = Array.from({ length: RESAMPLE_PHASES + 1 }, (_, phase) => {
      const row = Array.from({ length: 6 }, (__, i) => FILTER_WEIGHTS[filter](i - 2 - phase / RESAMPLE_PHASES))
      const sum = row.reduce((total, value) => total + value, 0)
      return row.map(value => (Math.abs(value) < 1e-12 ? 0 : value / sum))
    })
    tables.set(filter, (table = Float32Array.from(rows.flat())))
  }
  return table
}
