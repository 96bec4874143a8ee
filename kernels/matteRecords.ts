// Kernels of mattes; records.ts has them with all others.
import { kernel, maybe, number, pointer, raster, whole } from './record'

/** 1 between two distances in metres, with a soft end of so many metres outside each. */
export const DepthMatte = kernel('DepthMatte', {
  depth: raster('single'),
  out: raster('single'),
  near: number,
  far: number,
  soft: number,
  invert: whole,
})
/** 1 between two luminances of colour divided by alpha, with a soft end of so much outside each. */
export const BrightnessMatte = kernel('BrightnessMatte', {
  source: raster('colour'),
  out: raster('single'),
  low: number,
  high: number,
  soft: number,
  invert: whole,
})

/**
 * Gradient noise of three dimensions in octaves, about a half: of a frame that begins at left, top, scale one over pixels;
 * or of places, scale one over metres and left, top in patches.
 */
export const NoiseMatte = kernel('NoiseMatte', {
  out: raster('single'),
  place: maybe('colour'),
  left: number,
  top: number,
  scale: number,
  octaves: number,
  contrast: number,
  level: number,
  boil: number,
  seed: whole,
  invert: whole,
})
/** The straight pieces of drawn contours by the cells that they reach (core/matte/drawn/tables.ts). */
const CELLS = {
  pieces: pointer,
  cellRows: pointer,
  cells: pointer,
  left: whole,
  top: whole,
  columns: whole,
  lines: whole,
}
/**
 * How much of each pixel a closed contour covers, of its edges by rows; soft where it has cells: one a row, a pixel for
 * each column, its pieces in the order in which they begin, none of account farther off than `reach`; or, where that is 0,
 * cells of squares. bow: how far an arc leans off its chord at most.
 */
export const ShapeMatte = kernel('ShapeMatte', {
  out: raster('single'),
  edges: pointer,
  edgeRows: pointer,
  list: pointer,
  first: whole,
  last: whole,
  reach: number,
  bow: number,
  ...CELLS,
})
/** Strokes one after another; strokes: of each how much it gives, and whether it takes away. */
export const StrokeMatte = kernel('StrokeMatte', { out: raster('single'), strokes: pointer, ...CELLS })
/** The greatest value round each pixel (or the least) within a round reach of so many pixels. */
export const GrowMatte = kernel('GrowMatte', {
  source: raster('single'),
  out: raster('single'),
  radius: number,
  shrink: whole,
})
/** The greater of a pixel and that so many to the right of it. */
export const WidenMax = kernel('WidenMax', { source: raster('single'), out: raster('single'), step: whole })
/** The greatest value within a disc, by the greatest of spans that begin at each pixel. */
export const DiscMax = kernel('DiscMax', {
  one: raster('single'),
  two: raster('single'),
  four: raster('single'),
  eight: maybe('single'),
  sixteen: maybe('single'),
  thirtyTwo: maybe('single'),
  sixtyFour: maybe('single'),
  hundreds: maybe('single'),
  halfThousand: maybe('single'),
  thousand: maybe('single'),
  out: raster('single'),
  radius: number,
})

// Layers
