// Kernels that render, and that put together what was rendered.
import { block, kernel, maybe, number, pointer, raster, whole } from './record'

/**
 * The render put together from its parts, each object with its own gains (rows of DESK_ROW bytes, row 0 for what has no
 * object). Alpha stands in the direct light.
 */
export const Desk = kernel('Desk', {
  direct: raster('colour'),
  indirect: raster('colour'),
  reflection: raster('colour'),
  refraction: raster('colour'),
  emission: raster('colour'),
  environment: raster('colour'),
  coverage: raster('ranks'),
  occlusion: maybe('single'),
  out: raster('colour'),
  gains: pointer,
})
/** A picture as it would be with one group of light more or less: times `before` over `after`. */
export const Relight = kernel('Relight', {
  source: raster('colour'),
  before: raster('colour'),
  after: raster('colour'),
  out: raster('colour'),
})
/** sum + gain * light: of nothing where there is no sum yet. */
export const SumLight = kernel('SumLight', {
  sum: maybe('colour'),
  light: raster('colour'),
  out: raster('colour'),
  gain: number,
})
/** A picture times a number of each object (one f32 by its number), as much as each covers a pixel. */
export const GainOfEach = kernel('GainOfEach', {
  source: raster('colour'),
  coverage: raster('ranks'),
  out: raster('colour'),
  gains: pointer,
})
/** The shadow with each catcher's density and tint (four f32 by its number). */
export const TrimRatio = kernel('TrimRatio', {
  ratio: raster('colour'),
  numbers: raster('single'),
  out: raster('colour'),
  table: pointer,
})
/** What of chosen objects (one f32 each) covers a pixel; relative: as a share of all that covers it. */
export const CoverageMatte = kernel('CoverageMatte', {
  coverage: raster('ranks'),
  out: raster('single'),
  selection: pointer,
  invert: whole,
  relative: whole,
})
/**
 * Share of what covers a pixel that is nearer than a distance in metres. ahead: chosen objects (one f32 each) that count as
 * nearer wherever they are, where any is.
 */
export const FrontShare = kernel('FrontShare', {
  coverage: raster('ranks'),
  depth: raster('single'),
  than: maybe('single'),
  out: raster('single'),
  distance: number,
  ahead: pointer,
  isAhead: whole,
})
/** Metres of what covers a pixel most. */
export const CoverDepth = kernel('CoverDepth', {
  coverage: raster('ranks'),
  depth: raster('single'),
  out: raster('single'),
})
/** Rows of a render: the area counts rows of its strip. */
export const RenderRows = block('RenderRows', { record: pointer })
/** What stands at places of the picture (LOOK_STRIDE bytes each), so many to a pixel each way, from a first row on. */
export const Look = block('Look', { record: pointer, out: pointer, fine: whole, first: whole })
/** A plane of a render made of its sums (kernels/assembly/image/resolve.ts says what each is). */
export const Resolve = block('Resolve', {
  accumulator: pointer,
  out: pointer,
  stride: whole,
  field: whole,
  channels: whole,
  how: whole,
  most: whole,
  other: whole,
  metCentre: whole,
  metNearest: whole,
  nothing: number,
})
/** Objects (u16 number) and their shares (f32) of each pixel, the greatest first. */
export const ResolveCoverage = block('ResolveCoverage', {
  accumulator: pointer,
  index: pointer,
  weight: pointer,
  stride: whole,
  field: whole,
  slots: whole,
  ranks: whole,
  most: whole,
})
/** Noise taken out of planes of f32 (kernels/assembly/image/denoise.ts says how they lie). */
export const Denoise = block('Denoise', {
  planes: pointer,
  out: pointer,
  room: pointer,
  weights: pointer,
  left: pointer,
  plane: whole,
  stride: whole,
  padding: whole,
  guides: whole,
  layers: whole,
  radius: whole,
  step: whole,
  gain: number,
})
