// A picture cut in depth, so that others stand between its parts: the colour of a pixel on the border of two things is
// split between them by what they look like next to it. What is behind is given as it would be without what is before it,
// so that the parts laid over each other are the picture again, whatever stands between them elsewhere (Porter and Duff
// 1984: F over B = F + (1 - alpha of F) B, solved for B).
import { DepthSliceArguments } from '../../build/arguments'
import { ONE } from '../constants'
import { CUT_REACH } from '../layout'
import { Raster } from '../raster'

// From so much cover on what is behind is taken for hidden: there is too little left of it to be told
const HIDES: f32 = 0.9999

/** What of a pixel's colour lies in front, where the share map says so. */
function frontOf(source: Raster, shares: Raster, x: i32, y: i32): v128 {
  const value = v128.load(source.colour(x, y))
  const share = load<f32>(shares.single(x, y))
  const alpha = f32x4.extract_lane(value, 3)
  if (share >= 1 || alpha <= 0 || (share > 0 && share * alpha > HIDES)) return value
  if (share <= 0) return f32x4.splat(0)
  // Means of what is wholly in front and wholly behind around it, with alpha divided out
  let front = f32x4.splat(0)
  let back = f32x4.splat(0)
  const lastY = min(min(shares.bottom, source.bottom) - 1, y + CUT_REACH)
  const lastX = min(min(shares.right, source.right) - 1, x + CUT_REACH)
  for (let qy = max(max(shares.top, source.top), y - CUT_REACH); qy <= lastY; qy++) {
    for (let qx = max(max(shares.left, source.left), x - CUT_REACH); qx <= lastX; qx++) {
      const s = load<f32>(shares.single(qx, qy))
      if (s > 0 && s < 1) continue
      const colour = v128.load(source.colour(qx, qy))
      if (s >= 1) front = f32x4.add(front, colour)
      else back = f32x4.add(back, colour)
    }
  }
  const weightFront = f32x4.extract_lane(front, 3)
  const weightBack = f32x4.extract_lane(back, 3)
  const inFront = share * alpha
  const behind = alpha - inFront
  if (weightFront <= 0 || weightBack <= 0) return f32x4.mul(value, f32x4.splat(share))
  const near = f32x4.mul(front, f32x4.splat(inFront / weightFront))
  const far = f32x4.mul(back, f32x4.splat(behind / weightBack))
  // The two make the pixel, but for a rest: it is shared, and neither part may take more than there is
  const rest = f32x4.sub(value, f32x4.add(near, far))
  const part = f32x4.add(near, f32x4.mul(rest, f32x4.splat(share)))
  const bounded = f32x4.max(f32x4.splat(0), f32x4.min(part, f32x4.max(value, f32x4.splat(0))))
  return f32x4.replace_lane(bounded, 3, inFront)
}


@final @unmanaged
export class DepthSlice extends DepthSliceArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const zero = f32x4.splat(0)
    let from = this.source.colour(x0, y)
    let to = this.out.colour(x0, y)
    let far: usize = this.far.there ? this.far.single(x0, y) : 0
    let near: usize = this.near.there ? this.near.single(x0, y) : 0
    for (let x = x0; x < x1; x++, from += 16, to += 16) {
      let value = v128.load(from)
      let inFar: f32 = 1
      let inNear: f32 = 0
      if (far) {
        inFar = load<f32>(far)
        far += 4
      }
      if (near) {
        inNear = load<f32>(near)
        near += 4
      }
      // Light without cover has no place in depth: it is of the part that has no near end
      if (f32x4.extract_lane(value, 3) <= 0) {
        v128.store(to, near ? zero : value)
        continue
      }
      // What lies before the near end as a whole is none of it, nor what lies behind the far one
      if (inNear < 1 && inFar > 0) {
        if (inFar < 1) value = frontOf(this.source, this.far, x, y)
        if (inNear > 0) {
          const nearer = frontOf(this.source, this.near, x, y)
          const hidden = f32x4.extract_lane(nearer, 3)
          value = f32x4.sub(value, nearer)
          // The parts of one pixel are taken apart twice: what little falls below nothing is nothing
          if (hidden > 0) value = f32x4.mul(f32x4.max(zero, value), f32x4.splat(hidden < 1 ? ONE / (ONE - hidden) : 0))
        }
        v128.store(to, value)
      } else v128.store(to, zero)
    }
  }
}
