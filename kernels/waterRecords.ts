// Kernels of standing water; records.ts has them with all others. place: where the camera and the water are (WATER_PLACE
// bytes, layout/water.ts).
import { kernel, maybe, number, pointer, raster, whole } from './record'

/**
 * Where water is seen: how it slopes to x and z, metres along the view axis to it, and how much its slopes that are finer
 * than a pixel vary. Nothing where none is seen. waves: as many times four of them (WAVE_FOUR).
 */
export const WaterSurface = kernel('WaterSurface', {
  out: raster('colour'),
  place: pointer,
  waves: pointer,
  groups: whole,
})
/** Metres of a surface, or nothing where there is none. */
export const WaterMetres = kernel('WaterMetres', { surface: raster('colour'), out: raster('single'), nothing: number })
/** The nearest of each square of WATER_BLOCK pixels, no farther than `most`. */
export const NearestOfBlock = kernel('NearestOfBlock', { depth: raster('single'), out: raster('single'), most: number })
/**
 * What water shows: what is mirrored in it by Fresnel, what lies under it, and the glitter of lamps (as many times
 * WATER_LAMP). far: what is seen where nothing stands. clear: how much of what lies under it is seen. rough: how much
 * slopes vary that are told nowhere. rays: of each pixel at most, 1 or 4.
 */
export const WaterMirror = kernel('WaterMirror', {
  surface: raster('colour'),
  level0: raster('colour'),
  level1: raster('colour'),
  level2: raster('colour'),
  level3: raster('colour'),
  level4: raster('colour'),
  far: raster('colour'),
  depth: raster('single'),
  nearest: raster('single'),
  matte: maybe('single'),
  out: raster('colour'),
  place: pointer,
  lamps: pointer,
  count: whole,
  rays: whole,
  mirrors: number,
  clear: number,
  rough: number,
})
/** What stands in water is wet so high above it, metres: darker by `amount`. */
export const WetRim = kernel('WetRim', {
  source: raster('colour'),
  depth: raster('single'),
  out: raster('colour'),
  place: pointer,
  high: number,
  amount: number,
})
