// Rays of pixels and places of the world, for water.
import { HALF } from './constants'
import * as L from './layout'

/** The ray of a pixel, one metre along the view axis. */
export let wayX: f32 = 0
export let wayY: f32 = 0
export let wayZ: f32 = 0

/** Of a pixel's middle. */
@inline
export function lookAlong(place: usize, x: f32, y: f32): void {
  const px = x + HALF
  const py = y + HALF
  wayX = load<f32>(place) * px + load<f32>(place, 12) * py + load<f32>(place, 24)
  wayY = load<f32>(place, 4) * px + load<f32>(place, 16) * py + load<f32>(place, 28)
  wayZ = load<f32>(place, 8) * px + load<f32>(place, 20) * py + load<f32>(place, 32)
}

/** Metres along the view axis to the level where the ray meets it; 0 where it does not before the shore. */
@inline
export function metresToLevel(place: usize): f32 {
  const high = load<f32>(place, L.WATER_EYE + 4) - load<f32>(place, L.WATER_LEVEL)
  if (!(high > 0) || !(wayY < 0)) return 0
  const metres = high / -wayY
  return metres < load<f32>(place, L.WATER_SHORE) ? metres : 0
}
