// Kernels of elements; records.ts has them with all others.
import { four, kernel, maybe, number, pointer, raster, whole } from './record'

/**
 * A copy of an element where it was brought to. place: the places of its picture that it shows, in pixels of that.
 * across, down: one over the picture's width and height; aspect: width over height. black: 1 where it stands on black: of
 * each channel `level` is nothing, and it hides what is behind it by so much of its brightness. edges: it fades in from
 * them over so many heights. gone: 0 all of it is there, 1 nothing, in patches, `patches` of them a height. Light: ambient, and of `lights` (as many
 * times ELEMENT_LIGHT bytes: place and the square of its size, power) by the distance to what the pixel shows, at first + x right + y low in
 * the world.
 */
export const ElementPart = kernel('ElementPart', {
  source: raster('colour'),
  place: raster('colour'),
  out: raster('colour'),
  ambient: four,
  first: four,
  right: four,
  low: four,
  lights: pointer,
  count: whole,
  across: number,
  down: number,
  aspect: number,
  black: whole,
  level: number,
  hides: number,
  edges: number,
  gone: number,
  patches: number,
  seed: whole,
})

/**
 * How much of what a thick, even thing covers is nearer than a distance, or than what stands at each pixel: it goes from
 * `near` on over 1 / scale metres, and light is lost in it evenly (Beer and Lambert).
 */
export const ThickShare = kernel('ThickShare', {
  source: raster('colour'),
  than: maybe('single'),
  distance: number,
  out: raster('single'),
  near: number,
  scale: number,
})

const SPECKS = {
  /** As many times SPECK bytes, from far to near. */
  specks: pointer,
  /** Of SPECK_ROWS rows each the number of its first one in `order`, one after another, and where the last ends. */
  rows: pointer,
  order: pointer,
}
/** Specks, each over those behind it. covers: how much of what is behind it each hides. */
export const Specks = kernel('Specks', { ...SPECKS, out: raster('colour'), covers: number })
/** How much of the cover of specks is nearer than a distance, or than what stands at each pixel, as the fourth; 1 where there is none. */
export const SpeckShare = kernel('SpeckShare', {
  ...SPECKS,
  than: maybe('single'),
  distance: number,
  out: raster('colour'),
  covers: number,
})
/** Metres of the speck that is seen most at each pixel; `nothing` where there is none. */
export const SpeckDepth = kernel('SpeckDepth', { ...SPECKS, out: raster('single'), nothing: number })
