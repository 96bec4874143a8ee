// Kernels of what a lens does; records.ts has them with all others.
import { FOCUS_TILE } from './assembly/layout'
import { block, kernel, maybe, number, pointer, raster, whole } from './record'

/** Radius of the circle of confusion, pixels, less than nothing before the focus: atInfinity (1 - distance / depth), bounded. */
export const Circle = kernel('Circle', {
  depth: raster('single'),
  out: raster('single'),
  atInfinity: number,
  distance: number,
  most: number,
})
/** A picture that goes on beyond its edge as in a mirror. */
export const Mirrored = kernel('Mirrored', { source: raster('colour'), out: raster('colour') })
/** The same of one number a pixel. */
export const MirroredSingle = kernel('MirroredSingle', { source: raster('single'), out: raster('single') })
/** What covers a pixel counted by how much each does, each as it is beside the pixel, of one number a pixel. */
export const ShareByCover = kernel('ShareByCover', {
  coverage: raster('ranks'),
  share: raster('single'),
  out: raster('single'),
})
/** Circles of pixels that show one thing alone; NOT_ALONE where several are mixed. mean: of all that covers. */
export const CircleAlone = kernel('CircleAlone', {
  circle: raster('single'),
  mean: raster('single'),
  out: raster('single'),
})
/** Four pixels as one, of those that are farthest of them: their mean circle (NOT_ALONE where there is none). */
export const FarHalveCircle = kernel('FarHalveCircle', {
  circle: raster('single'),
  out: raster('single'),
  within: number,
})
/** The same of their colour. */
export const FarHalve = kernel('FarHalve', {
  source: raster('colour'),
  circle: raster('single'),
  out: raster('colour'),
  within: number,
})
const FAR_LEVELS = {
  circle: raster('single'),
  mean: raster('single'),
  alone: raster('single'),
  circle1: raster('single'),
  circle2: raster('single'),
  circle3: maybe('single'),
  circle4: maybe('single'),
  circle5: maybe('single'),
  circle6: maybe('single'),
  circle7: maybe('single'),
}
/**
 * The circle of what stands behind what a pixel shows, by what is farther round it (NOT_ALONE where that is not seen), and
 * how that was found: of what was found close by, the circle of the nearest thing there, its mean and that of what is
 * behind; else the level, beyond FOUND_ON_LEVEL in the place of that mean. alone: CircleAlone, then FarHalveCircle of it,
 * and of that.
 */
export const BehindCircle = kernel('BehindCircle', { ...FAR_LEVELS, out: raster('colour') })
/** Its colour. behind: what BehindCircle found. */
export const Behind = kernel('Behind', {
  ...FAR_LEVELS,
  behind: raster('colour'),
  source: raster('colour'),
  colour1: raster('colour'),
  colour2: raster('colour'),
  colour3: maybe('colour'),
  colour4: maybe('colour'),
  colour5: maybe('colour'),
  colour6: maybe('colour'),
  colour7: maybe('colour'),
  out: raster('colour'),
})
/**
 * What each pixel is made of: how much of it the nearer thing covers, on which step of the table that is, on which what
 * is behind it (NO_STEP: nothing is known), and nothing.
 */
export const FocusParts = kernel('FocusParts', {
  circle: raster('single'),
  mean: raster('single'),
  alone: raster('single'),
  behind: raster('colour'),
  out: raster('colour'),
  table: pointer,
  steps: whole,
})
/** Of squares of FOCUS_CELL pixels the least and greatest step of what is before, and of what is behind. */
export const FocusSpan = kernel('FocusSpan', { parts: raster('colour'), out: raster('colour') })
/**
 * The picture out of focus. table: core/lens/focus.ts. middle, corner: of the frame, and from there to its corner, for
 * openings that the barrel hides in part.
 */
export const Focus = block(
  'Focus',
  {
    source: raster('colour'),
    parts: raster('colour'),
    behind: raster('colour'),
    span: raster('colour'),
    out: raster('colour'),
    table: pointer,
    steps: whole,
    catsEye: number,
    middleX: number,
    middleY: number,
    corner: number,
  },
  FOCUS_TILE,
)
