// Kernels of planes in the scene; records.ts has them with all others. At the middle of a pixel a plane is so near that
// one over its metres along the view axis is a x + b y + c. close: metres that it is taken for nearer.
import { kernel, maybe, number, raster } from './record'

/** Metres to a plane; NO_DEPTH where it is not before the camera. */
export const PlaneDepth = kernel('PlaneDepth', {
  out: raster('single'),
  a: number,
  b: number,
  c: number,
  close: number,
})
/** 1 where a plane is nearer than what stands at a pixel, or than a distance, else 0. */
export const PlaneShare = kernel('PlaneShare', {
  than: maybe('single'),
  out: raster('single'),
  a: number,
  b: number,
  c: number,
  close: number,
  distance: number,
})
