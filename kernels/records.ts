// Every kernel that the pool can run. A new one: its record and its line in KERNELS here, its class in
// kernels/assembly/image.
import {
  BrightnessMatte,
  DepthMatte,
  DiscMax,
  GrowMatte,
  NoiseMatte,
  ShapeMatte,
  StrokeMatte,
  WidenMax,
} from './matteRecords'
import {
  Behind,
  BehindCircle,
  Circle,
  CircleAlone,
  FarHalve,
  FarHalveCircle,
  Focus,
  FocusParts,
  FocusSpan,
  Mirrored,
  MirroredSingle,
  ShareByCover,
} from './focusRecords'
import {
  AlikePatches,
  Along,
  Bilateral,
  BlurColumns,
  BlurRows,
  BoxColumns,
  BoxRows,
  Doubled,
  HalveSoft,
  FogShare,
  FogUneven,
  Kuwahara,
  Median,
  MotionBlur,
  MotionCarried,
  MotionCells,
  MotionNear,
  MotionOfMove,
  MotionOver,
  MotionPath,
  NoisePair,
  OwnPlaces,
  Resample,
  ResampleSingle,
  Slopes,
  Turned,
  WhiteNoise,
} from './nearRecords'
import { AlikeFrames, AlongWay, FromBlocks, MatchBlocks, MeshPlaces, NoiseInSpace, StrokeNoise } from './flowRecords'
import { CardMirror, CardShadow, CardSky, GroundDepth } from './cardRecords'
import { ElementPart, SpeckDepth, Specks, SpeckShare, ThickShare } from './elementRecords'
import { PlaneDepth, PlaneShare } from './planeRecords'
import {
  CoverDepth,
  CoverageMatte,
  Denoise,
  Desk,
  FrontShare,
  GainOfEach,
  Look,
  Relight,
  RenderRows,
  Resolve,
  ResolveCoverage,
  SumLight,
  TrimRatio,
} from './renderRecords'
import { NearestOfBlock, WaterMetres, WaterMirror, WaterSurface, WetRim } from './waterRecords'
import { four, kernel, maybe, number, pointer, raster, whole, type Kernel } from './record'

export * from './cardRecords'
export * from './elementRecords'
export * from './flowRecords'
export * from './focusRecords'
export * from './matteRecords'
export * from './nearRecords'
export * from './planeRecords'
export * from './renderRecords'
export * from './waterRecords'

/** Colour with another number a pixel as its fourth. */
export const WithAlpha = kernel('WithAlpha', {
  source: raster('colour'),
  alpha: raster('single'),
  out: raster('colour'),
})

// Mattes

/** 0 up to a distance in metres, then growing evenly to 1 at one over `scale` beyond. */
export const DepthRamp = kernel('DepthRamp', {
  depth: raster('single'),
  out: raster('single'),
  near: number,
  scale: number,
})
/** Metres of what covers most of a pixel where a picture lies over another. */
export const DepthOver = kernel('DepthOver', {
  backdrop: raster('single'),
  below: raster('colour'),
  source: raster('colour'),
  depth: raster('single'),
  out: raster('single'),
  opacity: number,
})
export const Blend = kernel('Blend', {
  backdrop: raster('colour'),
  source: raster('colour'),
  out: raster('colour'),
  matte: maybe('single'),
  mode: whole,
  opacity: number,
})
/** out = source (1 + strength (ratio - 1)). */
export const MultiplyRatio = kernel('MultiplyRatio', {
  source: raster('colour'),
  ratio: raster('colour'),
  out: raster('colour'),
  strength: number,
})
/** Light added to a picture, after what takes of it (in the first of four floats). */
export const AddLight = kernel('AddLight', {
  source: raster('colour'),
  light: raster('colour'),
  cover: maybe('colour'),
  out: raster('colour'),
  amount: number,
})
/** The line (in the first of four floats) bitten out of a picture, or inked on it. */
export const Ink = kernel('Ink', {
  source: raster('colour'),
  line: raster('colour'),
  out: raster('colour'),
  colour: four,
  bite: number,
  strength: number,
})
/** Two mattes joined; how: 0 and also (a + b - ab), 1 but not (a (1 - b)), 2 only where (ab), 3 what not both hold (a + b - 2ab). */
export const JoinMattes = kernel('JoinMattes', {
  first: raster('single'),
  second: raster('single'),
  out: raster('single'),
  how: whole,
})
/** What is not in a matte. */
export const TurnOver = kernel('TurnOver', { source: raster('single'), out: raster('single') })
/** One float of four, 0..1; which: 0 red to 3 alpha. What is no number is 0. */
export const ShareOf = kernel('ShareOf', { source: raster('colour'), out: raster('single'), which: whole })
/** What of a picture lies between two ends: shares in front of the far one (none: all), of the near one (none: none). */
export const DepthSlice = kernel('DepthSlice', {
  source: raster('colour'),
  far: maybe('single'),
  near: maybe('single'),
  out: raster('colour'),
})

// Pictures brought to a place and size

/** Affine map from result pixels to source pixels: x = a X + b Y + c, y = d X + e Y + f. edge: 1 repeats it, 0 is empty. */
export const Place = kernel('Place', {
  source: raster('colour'),
  out: raster('colour'),
  a: number,
  b: number,
  c: number,
  d: number,
  e: number,
  f: number,
  edge: whole,
})
/** Mean of two by two. */
export const Halve = kernel('Halve', { source: raster('colour'), out: raster('colour') })
/** first + share (second - first), share by a matte where there is one. */
export const Mix = kernel('Mix', {
  first: raster('colour'),
  second: raster('colour'),
  matte: maybe('single'),
  out: raster('colour'),
  share: number,
})
/** Middles of result and source, half widths of the frame in both, the two terms, and which is made: bent (1) or straight. */
const BEND = {
  middleX: number,
  middleY: number,
  half: number,
  sourceX: number,
  sourceY: number,
  sourceHalf: number,
  k1: number,
  k2: number,
  bent: whole,
}
/**
 * Radial distortion about a middle, in half widths of the frame: the result is the bent picture (1) or the straight one
 * (0).
 */
export const Lens = kernel('Lens', { source: raster('colour'), out: raster('colour'), ...BEND })
/**
 * What is said of a pixel by its distance, where a picture lies over another: of each as much as one sees of it.
 */
export const ShareOver = kernel('ShareOver', {
  backdrop: raster('single'),
  below: raster('colour'),
  source: raster('single'),
  colour: raster('colour'),
  out: raster('single'),
  opacity: number,
})
/** The same for one number a pixel, from the nearest or (smooth) between four; `nothing` beyond the source. */
export const LensSingle = kernel('LensSingle', {
  source: raster('single'),
  out: raster('single'),
  ...BEND,
  smooth: whole,
  nothing: number,
})
/** The same number everywhere. */
export const Fill = kernel('Fill', { out: raster('single'), value: number })
/** The same pixels at another place: result pixel x, y is source pixel x + dx, y + dy; nothing where there is none. */
export const Shift = kernel('Shift', { source: raster('colour'), out: raster('colour'), dx: whole, dy: whole })
/** The same for one number a pixel; 0 where there is none. */
export const ShiftSingle = kernel('ShiftSingle', {
  source: raster('single'),
  out: raster('single'),
  dx: whole,
  dy: whole,
})
/** One colour all over. */
export const Wash = kernel('Wash', { out: raster('colour'), colour: four })
/** Nothing. */
export const Clear = kernel('Clear', { out: raster('colour') })
/** One number a pixel as a grey picture. */
export const Grey = kernel('Grey', { source: raster('single'), out: raster('colour') })

// What the eye is shown

/**
 * 8-bit codes RGBA. thresholds: least value of each code; guess: a code by the upper 16 bits of the float. channel: 0
 * colour, 1..4 one channel, 5 luminance.
 */
export const Display = kernel('Display', {
  source: raster('colour'),
  out: raster('single'),
  thresholds: pointer,
  guess: pointer,
  gain: number,
  channel: whole,
})

// The renderer

/** Those of the compiled module: the number of a kernel is its place here. */
export const KERNELS: readonly Kernel[] = [
  RenderRows,
  BlurRows,
  BlurColumns,
  BoxRows,
  BoxColumns,
  WithAlpha,
  DepthRamp,
  DepthMatte,
  BrightnessMatte,
  NoiseMatte,
  ShapeMatte,
  StrokeMatte,
  GrowMatte,
  WidenMax,
  DiscMax,
  DepthOver,
  ShareOver,
  Blend,
  MultiplyRatio,
  AddLight,
  Ink,
  Desk,
  Relight,
  SumLight,
  GainOfEach,
  TrimRatio,
  CoverageMatte,
  JoinMattes,
  TurnOver,
  ShareOf,
  FrontShare,
  CoverDepth,
  DepthSlice,
  Place,
  Halve,
  Mix,
  Lens,
  LensSingle,
  Fill,
  Shift,
  ShiftSingle,
  Wash,
  Clear,
  Grey,
  Display,
  Look,
  Resolve,
  ResolveCoverage,
  Denoise,
  Circle,
  Mirrored,
  MirroredSingle,
  ShareByCover,
  CircleAlone,
  FarHalveCircle,
  FarHalve,
  BehindCircle,
  Behind,
  FocusParts,
  FocusSpan,
  Focus,
  AlikePatches,
  Along,
  Turned,
  Median,
  MotionBlur,
  MotionCarried,
  MotionCells,
  MotionNear,
  MotionOfMove,
  MotionOver,
  MotionPath,
  Bilateral,
  Doubled,
  HalveSoft,
  FogShare,
  FogUneven,
  WhiteNoise,
  Slopes,
  Kuwahara,
  OwnPlaces,
  Resample,
  ResampleSingle,
  NoisePair,
  AlongWay,
  MeshPlaces,
  NoiseInSpace,
  StrokeNoise,
  MatchBlocks,
  FromBlocks,
  AlikeFrames,
  CardShadow,
  CardSky,
  CardMirror,
  GroundDepth,
  ElementPart,
  ThickShare,
  Specks,
  SpeckShare,
  SpeckDepth,
  WaterSurface,
  WaterMetres,
  NearestOfBlock,
  WaterMirror,
  WetRim,
  PlaneDepth,
  PlaneShare,
]
