// A mesh that is moved by its points and smooth between them (E. Catmull, R. Rom, "A Class of Local Interpolating Splines",
// 1974, along both directions; beyond the outermost points it goes on straight). How far a place of the picture is moved is
// known; which place comes to a pixel is found from that step by step.
import { MeshPlacesArguments } from '../../build/arguments'
import { HALF } from '../constants'

const STEPS: i32 = 24
/** Pixels: nearer than that nobody sees it. */
const NEAR: f32 = 0.002


@inline
function spline(a: v128, b: v128, c: v128, d: v128, t: f32): v128 {
  const s = f32x4.splat(t)
  const cubic = f32x4.add(f32x4.sub(d, a), f32x4.mul(f32x4.splat(3), f32x4.sub(b, c)))
  const square = f32x4.sub(
    f32x4.add(f32x4.add(a, a), f32x4.mul(f32x4.splat(4), c)),
    f32x4.add(f32x4.mul(f32x4.splat(5), b), d),
  )
  const line = f32x4.sub(c, a)
  const rest = f32x4.mul(s, f32x4.add(line, f32x4.mul(s, f32x4.add(square, f32x4.mul(s, cubic)))))
  return f32x4.add(b, f32x4.mul(rest, f32x4.splat(HALF)))
}


@final
@unmanaged
export class MeshPlaces extends MeshPlacesArguments {
  row(x0: i32, x1: i32, y: i32): void {
    let from = this.map.colour(x0, y)
    let to = this.out.colour(x0, y)
    for (let x = x0; x < x1; x++, from += 16, to += 16) {
      const px = load<f32>(from)
      const py = load<f32>(from, 4)
      let ux = px
      let uy = py
      let share: f32 = 1
      let last: f32 = Infinity
      for (let i = 0; i < STEPS; i++) {
        const moved = this.moved(ux, uy)
        const dx = px - f32x4.extract_lane(moved, 0) - ux
        const dy = py - f32x4.extract_lane(moved, 1) - uy
        const far = abs<f32>(dx) + abs<f32>(dy)
        if (far < NEAR) break
        // Where it swings about the place it is brought nearer in smaller steps
        if (far > last * <f32>0.8) share *= HALF
        last = far
        ux += dx * share
        uy += dy * share
      }
      v128.store(to, f32x4(ux, uy, load<f32>(from, 8), load<f32>(from, 12)))
    }
  }

  /** A point of the mesh, and of those that go on straight beyond it. */
  point(column: i32, row: i32): v128 {
    if (column < 0) return this.beyond(0, row, 1, row)
    if (column >= this.columns) return this.beyond(this.columns - 1, row, this.columns - 2, row)
    if (row < 0) return this.beyond(column, 0, column, 1)
    if (row >= this.rows) return this.beyond(column, this.rows - 1, column, this.rows - 2)
    return v128.load64_zero(this.mesh + ((<usize>(row * this.columns + column)) << 3))
  }
  beyond(column: i32, row: i32, inner: i32, innerRow: i32): v128 {
    const edge = this.point(column, row)
    return f32x4.sub(f32x4.add(edge, edge), this.point(inner, innerRow))
  }

  moved(x: f32, y: f32): v128 {
    const u = max<f32>(0, min<f32>(1, x / this.width)) * <f32>(this.columns - 1)
    const v = max<f32>(0, min<f32>(1, y / this.height)) * <f32>(this.rows - 1)
    const column = min<i32>(this.columns - 2, <i32>floor<f32>(u))
    const line = min<i32>(this.rows - 2, <i32>floor<f32>(v))
    const s = u - <f32>column
    return spline(
      this.across(column, line - 1, s),
      this.across(column, line, s),
      this.across(column, line + 1, s),
      this.across(column, line + 2, s),
      v - <f32>line,
    )
  }


  @inline
  across(column: i32, row: i32, s: f32): v128 {
    return spline(
      this.point(column - 1, row),
      this.point(column, row),
      this.point(column + 1, row),
      this.point(column + 2, row),
      s,
    )
  }
}
