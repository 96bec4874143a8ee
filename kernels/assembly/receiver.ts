// What a shadow or a mirror image falls on: level ground, and an upright wall; whichever of both a ray meets first.
import * as L from './layout'

/** Metres along the view axis to where four rays meet it; nothing above 0 where they do not. */
export let groundT: v128 = i32x4.splat(0)
/** The place there. */
export let groundX: v128 = i32x4.splat(0)
export let groundY: v128 = i32x4.splat(0)
export let groundZ: v128 = i32x4.splat(0)
/** The ray, one metre along the view axis. */
export let rayX: v128 = i32x4.splat(0)
export let rayY: v128 = i32x4.splat(0)
export let rayZ: v128 = i32x4.splat(0)
/** All bits where it is the wall. */
export let isWall: v128 = i32x4.splat(0)

/** A row of the rays: what of a direction a pixel has, for across, down and the first. */
@inline
function along(place: usize, x: v128, y: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(v128.load32_splat(place), x), f32x4.mul(v128.load32_splat(place, 12), y)),
    v128.load32_splat(place, 24),
  )
}

/** Of four places of the picture (pixels) what they show of the ground and the wall. */
@inline
export function receive(place: usize, x: v128, y: v128): void {
  const zero = f32x4.splat(0)
  rayX = along(place + L.CARD_RAYS, x, y)
  rayY = along(place + L.CARD_RAYS + 4, x, y)
  rayZ = along(place + L.CARD_RAYS + 8, x, y)
  const eyeX = v128.load32_splat(place, L.CARD_EYE)
  const eyeY = v128.load32_splat(place, L.CARD_EYE + 4)
  const eyeZ = v128.load32_splat(place, L.CARD_EYE + 8)
  groundT = f32x4.div(f32x4.sub(v128.load32_splat(place, L.CARD_GROUND), eyeY), rayY)
  isWall = zero
  if (load<f32>(place, L.CARD_WALL_THERE) > 0) {
    const wallT = f32x4.div(
      f32x4.sub(v128.load32_splat(place, L.CARD_WALL_AT), v128.load32_splat(place, L.CARD_WALL_AT + 4)),
      f32x4.add(
        f32x4.mul(rayX, v128.load32_splat(place, L.CARD_WALL)),
        f32x4.mul(rayZ, v128.load32_splat(place, L.CARD_WALL + 4)),
      ),
    )
    isWall = v128.and(f32x4.gt(wallT, zero), v128.not(v128.and(f32x4.gt(groundT, zero), f32x4.le(groundT, wallT))))
    groundT = v128.bitselect(wallT, groundT, isWall)
  }
  groundX = f32x4.add(eyeX, f32x4.mul(groundT, rayX))
  groundY = f32x4.add(eyeY, f32x4.mul(groundT, rayY))
  groundZ = f32x4.add(eyeZ, f32x4.mul(groundT, rayZ))
}
