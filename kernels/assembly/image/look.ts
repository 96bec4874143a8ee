// What stands at places of the picture, one ray each, without light: for lines round things. The area counts places.
import { LookArguments } from '../../build/arguments'
import { aim, axial, rayX, rayY, rayZ, stepOn } from '../film'
import * as L from '../layout'
import { MAX_LAYERS } from '../path'
import * as S from '../surface'
import { closestHit, hitDistance, hitPlace, hitTriangle, hitU, hitV } from '../traverse'


@final @unmanaged
export class Look extends LookArguments {
  block(_x0: i32, y0: i32, x1: i32, y1: i32): void {
    const render = this.record
    const fine = this.fine
    const first = this.first
    const scene = <usize>load<u32>(render, L.RENDER_SCENE)
    const camera = render + L.RENDER_CAMERA
    const ox = load<f32>(camera)
    const oy = load<f32>(camera, 4)
    const oz = load<f32>(camera, 8)
    const step: f32 = <f32>1 / <f32>fine
    let to = this.out + <usize>(y0 * x1) * L.LOOK_STRIDE
    for (let y = y0; y < y1; y++)
      for (let x = 0; x < x1; x++, to += L.LOOK_STRIDE) {
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
}
