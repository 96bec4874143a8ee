// What stands at places of the picture, one ray each, without light: for lines round things.
import * as L from './layout'
import { aim, axial, rayX, rayY, rayZ, stepOn } from './film'
import { closestHit, hitDistance, hitPlace, hitTriangle, hitU, hitV } from './traverse'
import { MAX_LAYERS } from './path'
import * as S from './surface'
import { number, pointer, whole } from './words'

/**
 * Words: 0 places across, 1 rows of places, 2 render record, 3 out (LOOK_STRIDE a place), 4 places to a pixel each way,
 * 5 first row of places in the picture.
 */
export function lookBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const render = pointer(args, 2)
  const fine = whole(args, 4)
  const first = whole(args, 5)
  const scene = <usize>load<u32>(render, L.RENDER_SCENE)
  const camera = render + L.RENDER_CAMERA
  const ox = load<f32>(camera)
  const oy = load<f32>(camera, 4)
  const oz = load<f32>(camera, 8)
  const step: f32 = <f32>1 / <f32>fine
  let to = pointer(args, 3) + <usize>(y0 * width) * L.LOOK_STRIDE
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++, to += L.LOOK_STRIDE) {
      aim(render, (<f32>x + 0.5) * step, (<f32>(y + first) + 0.5) * step)
      store<i32>(to, 0)
      let near: f32 = 0
      for (let layer = 0; layer < MAX_LAYERS; layer++) {
        if (!closestHit(scene, ox, oy, oz, rayX, rayY, rayZ, near, 1e30, L.FLAG_HIDDEN)) break
        const distance = hitDistance
        S.loadSurface(scene, hitPlace, hitTriangle, hitU, hitV, rayX, rayY, rayZ)
        const role = load<i32>(<usize>load<u32>(scene, L.SCENE_OBJECTS) + <usize>S.surfaceObject * L.OBJECT_STRIDE)
        // Panes count as what they are, however clear
        const solid = S.glass == L.GLASS_PANE ? S.opacity / S.paneShare : S.opacity
        near = stepOn(distance)
        if (solid < 0.5 || (role == L.ROLE_CATCHER && S.surfaceFlags & L.OBJECT_LETS_THROUGH)) continue
        if (role != 0) break
        store<i32>(to, S.surfaceObject + 1)
        store<i32>(to, S.surfaceMaterial + 1, 4)
        store<f32>(to, axial(render, distance), 8)
        store<f32>(to, S.normalX, 12)
        store<f32>(to, S.normalY, 16)
        store<f32>(to, S.normalZ, 20)
        break
      }
    }
}

/**
 * Words: 2 in, 3 out, 4 line (in the first of four floats), 5 how much of it is bitten out, 6 how much of it is inked,
 * 8 colour.
 */
export function inkBand(args: usize, y0: i32, y1: i32): void {
  const width = whole(args, 0)
  const bite = number(args, 5)
  const strength = number(args, 6)
  const ink = f32x4(number(args, 8), number(args, 9), number(args, 10), 1)
  for (let i = y0 * width, end = y1 * width; i < end; i++) {
    const at = (<usize>i) << 4
    const line = load<f32>(pointer(args, 4) + at)
    const laid = line * strength
    const left = f32x4.mul(v128.load(pointer(args, 2) + at), f32x4.splat((<f32>1 - bite * line) * (<f32>1 - laid)))
    v128.store(pointer(args, 3) + at, f32x4.add(left, f32x4.mul(ink, f32x4.splat(laid))))
  }
}
