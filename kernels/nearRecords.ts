// Kernels of treatments that see their neighbourhood; records.ts has them with all others. Each reads beyond a pixel only
// where its source has pixels: core/plan/room.ts gives it that room.
import { block, four, kernel, maybe, number, pointer, raster, whole } from './record'

/** Sums along rows: the middle tap, then those beside it on both sides. edge: 1 goes on beyond it as in a mirror, 0 is empty. */
export const BlurRows = kernel('BlurRows', {
  source: raster('colour'),
  out: raster('colour'),
  weights: pointer,
  reach: whole,
  edge: whole,
})
/** The same along columns. */
export const BlurColumns = kernel('BlurColumns', {
  source: raster('colour'),
  out: raster('colour'),
  weights: pointer,
  reach: whole,
  edge: whole,
})

/** Means of so many pixels to each side along rows, of those from low up to high. */
export const BoxRows = kernel('BoxRows', {
  source: raster('colour'),
  out: raster('colour'),
  reach: whole,
  low: whole,
  high: whole,
})
/** The same down columns. */
export const BoxColumns = block(
  'BoxColumns',
  { source: raster('colour'), out: raster('colour'), reach: whole, low: whole, high: whole },
  64,
)
/**
 * A sum of taps in a row, each between four pixels. taps: for each two whole numbers (how far across, down) and four
 * weights (of the pixel there, the next across, down, and across and down), and how much of red, green and blue, as floats.
 */
export const Along = kernel('Along', { source: raster('colour'), out: raster('colour'), taps: pointer, count: whole })
/**
 * The mean along a way about a point: round it (turn: whole angle, radians) or toward it and away (share of the distance).
 * most: taps at most.
 */
export const Turned = kernel('Turned', {
  source: raster('colour'),
  out: raster('colour'),
  middleX: number,
  middleY: number,
  turn: number,
  toward: number,
  most: whole,
})
/** Of each channel the middle one of the square so many pixels to each side. */
export const Median = kernel('Median', { source: raster('colour'), out: raster('colour'), radius: whole })
/**
 * The mean of a disc, each pixel by how near it is and how alike. spatial: a weight for each square distance up to
 * radius²; alike: -log2(e) / 2 sigma², of the square distance of straight colours, which are given beside.
 */
export const Bilateral = block(
  'Bilateral',
  {
    source: raster('colour'),
    straight: raster('colour'),
    out: raster('colour'),
    radius: whole,
    spatial: pointer,
    alike: number,
  },
  16,
)
/**
 * Means of pixels so many to each side by how alike the patches about them are (kernels/assembly/image/alikePatches.ts).
 * over: -log2(e) over what the sum of squares of a patch may be. less: what noise alone makes of that sum.
 */
export const AlikePatches = kernel('AlikePatches', {
  source: raster('colour'),
  straight: raster('colour'),
  out: raster('colour'),
  search: whole,
  patch: whole,
  over: number,
  less: number,
})
/**
 * Share of light that is lost on the way from the camera: 1 - 2^-(metres of air / half), air thinning by halves above the
 * ground. ray: (x, y, z of the right, down and forward step through a pixel; the camera's height above the ground) of
 * which only heights are needed: rise = riseX x + riseY y + rise0 for a step of one metre along the view axis.
 */
export const FogShare = kernel('FogShare', {
  depth: raster('single'),
  /** How much thicker it is on each way than in the mean. */
  uneven: maybe('single'),
  out: raster('single'),
  half: number,
  height: number,
  from: number,
  most: number,
  thinning: number,
  sideX: number,
  sideY: number,
  middleX: number,
  middleY: number,
  rise0: number,
  riseX: number,
  riseY: number,
})
/**
 * How much thicker uneven air is on the way from the camera to each pixel than even air. right, up, forward: of the camera,
 * in the world; eye: where it stands, less how far the air has drifted. ground: height up to which it is thickest. fine: of
 * its patches to a metre. farthest: metres after which nothing is left to lose.
 */
export const FogUneven = kernel('FogUneven', {
  depth: raster('single'),
  out: raster('single'),
  ...{ right: four, up: four, forward: four, eye: four },
  ...{ sideX: number, sideY: number, middleX: number, middleY: number },
  ...{ from: number, thinning: number, ground: number, farthest: number },
  ...{ uneven: number, fine: number, seed: whole },
})
/**
 * Numbers without order, of mean 0 and deviation 1, for three channels: the same for a place of the frame and a number.
 * together: how much of each is that of all.
 */
export const WhiteNoise = kernel('WhiteNoise', { out: raster('colour'), number: whole, own: number, together: number })
/** Products of the slopes of a picture's lightness across and down (xx, xy, yy). */
export const Slopes = kernel('Slopes', { source: raster('colour'), out: raster('colour') })
/** A picture half as large, by a bell over four by four; the last pixel goes on beyond its edge. */
export const HalveSoft = kernel('HalveSoft', { source: raster('colour'), out: raster('colour') })
/** A picture twice as large, straight between its pixels. edge: 1 the last pixel goes on, 0 nothing is beyond. */
export const Doubled = kernel('Doubled', { source: raster('colour'), out: raster('colour'), edge: whole })
/** Anisotropic Kuwahara filter (kernels/assembly/image/kuwahara.ts). */
export const Kuwahara = kernel('Kuwahara', {
  source: raster('colour'),
  slopes: raster('colour'),
  out: raster('colour'),
  radius: number,
  stretch: number,
  sharpness: number,
})

/** Of each pixel its own middle (x, y in the first two), 1 and 1: what maps begin with. */
export const OwnPlaces = kernel('OwnPlaces', { out: raster('colour') })
/**
 * A picture brought to other places. map: of each result pixel the place that it shows (x, y) and how much of it is seen.
 * weights: rows of six for a place between two pixels, RESAMPLE_PHASES from one to the next. ring: of the range of the four
 * pixels about a place so much more may be made. edge: 1 the last pixel goes on, 0 nothing.
 */
export const Resample = kernel('Resample', {
  source: raster('colour'),
  map: raster('colour'),
  out: raster('colour'),
  weights: pointer,
  ring: number,
  edge: whole,
})
/** The same for one number a pixel: the nearest (how 0), or straight between four (1); `nothing` beyond. */
export const ResampleSingle = kernel('ResampleSingle', {
  source: raster('single'),
  map: raster('colour'),
  out: raster('single'),
  how: whole,
  nothing: number,
})
/** Two numbers of gradient noise, about -1 to 1, at each place of a map over `scale`. */
export const NoisePair = kernel('NoisePair', {
  map: raster('colour'),
  out: raster('colour'),
  scale: number,
  boil: number,
  octaves: whole,
  seed: whole,
})

/**
 * How each pixel goes while the shutter is open, from where it goes in a frame and whence it came (x, y forward, x, y back,
 * pixels): its place after t frames is (x, y) t + (z, w) t², as after even acceleration. From `open` to `close` (frames) it
 * goes no farther than `most` pixels from where it is.
 */
export const MotionPath = kernel('MotionPath', {
  source: raster('colour'),
  out: raster('colour'),
  open: number,
  close: number,
  most: number,
})
/** Of each square of MOTION_CELL pixels the path that leads farthest (fast 1), or the least far. */
export const MotionCells = kernel('MotionCells', {
  paths: raster('colour'),
  out: raster('colour'),
  open: number,
  close: number,
  fast: whole,
})
/**
 * The farthest path of those cells from which one comes here, of `most` cells about; where `other` is given, the one that
 * differs most from it, of the fast and the slow.
 */
export const MotionNear = kernel('MotionNear', {
  fast: raster('colour'),
  slow: raster('colour'),
  other: maybe('colour'),
  out: raster('colour'),
  open: number,
  close: number,
  most: whole,
})
/** What is seen while a shutter is open (kernels/assembly/image/motionBlur.ts). */
export const MotionBlur = kernel('MotionBlur', {
  source: raster('colour'),
  paths: raster('colour'),
  depth: raster('single'),
  first: raster('colour'),
  second: raster('colour'),
  out: raster('colour'),
  open: number,
  close: number,
})
/** Of two pictures in four numbers a pixel, that of what covers most of it. */
export const MotionOver = kernel('MotionOver', {
  backdrop: raster('colour'),
  below: raster('colour'),
  source: raster('colour'),
  motion: raster('colour'),
  out: raster('colour'),
  opacity: number,
})
/**
 * Where pixels go that are brought along by (a x + b y + c, d x + e y + f): the first six to a frame on, the other six to a
 * frame ago.
 */
export const MotionOfMove = kernel('MotionOfMove', {
  out: raster('colour'),
  ...{ a: number, b: number, c: number, d: number, e: number, f: number },
  ...{ backA: number, backB: number, backC: number, backD: number, backE: number, backF: number },
})
/**
 * Where pixels go that show other places of a picture: map, and what that is a frame on and a frame ago. motion: of the
 * picture itself.
 */
export const MotionCarried = kernel('MotionCarried', {
  map: raster('colour'),
  next: raster('colour'),
  before: raster('colour'),
  motion: maybe('colour'),
  out: raster('colour'),
})
