// Kernels that go along a direction at each pixel, find where parts of a picture are in another, and bend it by a mesh;
// records.ts has them with all others.
import { block, kernel, maybe, number, pointer, raster, whole } from './record'

/**
 * A sum along a way that leads through each pixel. way: its direction there (x, y of length 1, whichever of both ways; 0, 0
 * where there is none and the pixel stays). weights: the middle one, then those of steps to both sides, `step` pixels each.
 */
export const AlongWay = block(
  'AlongWay',
  {
    source: raster('colour'),
    way: raster('colour'),
    out: raster('colour'),
    weights: pointer,
    count: whole,
    step: number,
  },
  64,
)
/** Two numbers of gradient noise at places of the world (x, y, z), `scale` of its periods to a metre. */
export const NoiseInSpace = kernel('NoiseInSpace', {
  places: raster('colour'),
  out: raster('colour'),
  scale: number,
  octaves: whole,
  seed: whole,
})
/** Gradient noise at places of the world, of about so many pixels to its period wherever those are; grey. */
export const StrokeNoise = kernel('StrokeNoise', {
  places: raster('colour'),
  out: raster('colour'),
  period: number,
  seed: whole,
})
/** Of each place the one that a mesh of so many points brings there. mesh: how far each is moved (x, y, pixels), row by row. */
export const MeshPlaces = kernel('MeshPlaces', {
  map: raster('colour'),
  out: raster('colour'),
  mesh: pointer,
  columns: whole,
  rows: whole,
  width: number,
  height: number,
})
/**
 * How far parts of a picture are off in another (x, y in pixels; by how much both differ there). A pixel of the result is a
 * square of BLOCK_SIDE; compared is what lies round it, too. start: the same of both pictures halved. search: how far about
 * what that says. most: how far off at most. stay: by so much a pixel's way more both must be more alike.
 */
export const MatchBlocks = kernel('MatchBlocks', {
  source: raster('colour'),
  other: raster('colour'),
  start: maybe('colour'),
  out: raster('colour'),
  search: whole,
  most: whole,
  stay: number,
})
/** A picture brought from where MatchBlocks says that it is. most: how far off at most. */
export const FromBlocks = kernel('FromBlocks', {
  source: raster('colour'),
  blocks: raster('colour'),
  out: raster('colour'),
  most: whole,
})
/**
 * Red, green and blue of another frame added up, each pixel by how alike the patches about both are (as AlikePatches has
 * it), with how much that was beside. less: what noise alone makes of the sum of squares.
 */
export const AlikeFrames = kernel('AlikeFrames', {
  sum: maybe('colour'),
  other: raster('colour'),
  straight: raster('colour'),
  otherStraight: raster('colour'),
  out: raster('colour'),
  search: whole,
  patch: whole,
  over: number,
  less: number,
})
