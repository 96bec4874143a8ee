// Kernels of cards that stand on the ground: what they throw on it and what it mirrors of them; records.ts has them with
// all others. place: where all of that is (CARD_PLACE bytes, layout/pool.ts).
import { kernel, maybe, number, pointer, raster, whole } from './record'

const LEVELS = {
  level0: raster('colour'),
  level1: raster('colour'),
  level2: raster('colour'),
  level3: raster('colour'),
  level4: raster('colour'),
}
/**
 * How much of the light of each channel a card takes where a pixel shows ground or wall; beside it the most of the three.
 * lights: as many times four places of lights (CARD_LIGHTS): those by which all that falls there is counted, then those
 * that the card may stop. sky: what it takes of that (CardSky).
 */
export const CardShadow = kernel('CardShadow', {
  ...LEVELS,
  out: raster('colour'),
  place: pointer,
  lights: pointer,
  counted: whole,
  groups: whole,
  sky: maybe('colour'),
})
/**
 * What a card takes of the sky round its foot: CARD_SKY_HEADINGS across and one more, CARD_SKY_ROWS down. lights: as many
 * times four ways of the sky.
 */
export const CardSky = kernel('CardSky', {
  ...LEVELS,
  out: raster('colour'),
  place: pointer,
  lights: pointer,
  groups: whole,
})
/**
 * What ground (wall 0) or a wall (1) mirrors of a card. facets: ways that a rough one mirrors to (CARD_FACETS; as many as
 * can be parted by four), each as wide as `spread` at one metre. index: of refraction. fade: metres above the ground from which on nothing is mirrored.
 * hides: how much of what was mirrored there before.
 */
export const CardMirror = kernel('CardMirror', {
  ...LEVELS,
  out: raster('colour'),
  place: pointer,
  facets: pointer,
  count: whole,
  wall: whole,
  spread: number,
  index: number,
  fade: number,
  amount: number,
  hides: number,
})
/** Metres along the view axis of the ground or the wall, so many times; 0 where neither is seen. */
export const GroundDepth = kernel('GroundDepth', { out: raster('single'), place: pointer, times: number })
