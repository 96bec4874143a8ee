// Strokes of a round tip one after another: each gives (or takes) as much as the nearest of its pieces says, however
// often it crosses itself; an edge that is hard covers as much of a pixel as lies within it.
import { StrokeMatteArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { alongPiece, between, CELL_SHIFT, halfPlane, held, pieceOf, ramp, smooth, softness, squareFrom } from '../drawn'

/** A hard edge is looked at in so many squares of a pixel's side. */
const PARTS: i32 = 4
const PART: f32 = 0.25


@final
@unmanaged
export class StrokeMatte extends StrokeMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const out = this.out.single(x0, y)
    memory.fill(out, 0, (<usize>(x1 - x0)) << 2)
    const line = (y - this.top) >> CELL_SHIFT
    if (y < this.top || line >= this.lines) return
    const last = min(x1, this.left + (this.columns << CELL_SHIFT))
    for (let x = max(x0, this.left); x < last;) {
      const column = (x - this.left) >> CELL_SHIFT
      const ends = min(last, this.left + ((column + 1) << CELL_SHIFT))
      const cell = this.cellRows + ((<usize>(line * this.columns + column)) << 2)
      const begin = this.cells + ((<usize>(<i32>load<f32>(cell))) << 2)
      const end = this.cells + ((<usize>(<i32>load<f32>(cell, 4))) << 2)
      if (begin < end)
        for (let from = x; from < ends; from += 4) {
          const value = this.four(from, y, begin, end)
          const to = out + ((<usize>(from - x0)) << 2)
          store<f32>(to, f32x4.extract_lane(value, 0))
          if (from + 1 < ends) store<f32>(to, f32x4.extract_lane(value, 1), 4)
          if (from + 2 < ends) store<f32>(to, f32x4.extract_lane(value, 2), 8)
          if (from + 3 < ends) store<f32>(to, f32x4.extract_lane(value, 3), 12)
        }
      x = ends
    }
  }

  four(x: i32, y: i32, begin: usize, end: usize): v128 {
    const across = f32x4.add(f32x4.splat(<f32>x), f32x4(0.5, 1.5, 2.5, 3.5))
    const down = f32x4.splat(<f32>y + HALF)
    let sum = f32x4.splat(0)
    for (let at = begin; at < end;) {
      const first = at
      const stroke = load<f32>(pieceOf(this.pieces, at), 44)
      // The greatest of the stroke's pieces, and how soft it is there
      let most = f32x4.splat(-1e9)
      let outer = f32x4.splat(0)
      let inner = f32x4.splat(0)
      let edge = f32x4.splat(1e9)
      for (; at < end; at += 4) {
        const piece = pieceOf(this.pieces, at)
        if (load<f32>(piece, 44) != stroke) break
        const right = f32x4.sub(across, v128.load32_splat(piece))
        const under = f32x4.sub(down, v128.load32_splat(piece, 4))
        const t = alongPiece(piece, right, under)
        const far = f32x4.sub(between(piece + 20, t), f32x4.sqrt(squareFrom(piece, right, under, t)))
        const ownOuter = between(piece + 28, t)
        const ownInner = between(piece + 36, t)
        const value = ramp(far, ownOuter, ownInner)
        const more = f32x4.gt(value, most)
        most = f32x4.max(value, most)
        outer = v128.bitselect(ownOuter, outer, more)
        inner = v128.bitselect(ownInner, inner, more)
        edge = v128.bitselect(far, edge, more)
      }
      const soft = softness(outer, inner)
      let hard = held(most)
      // Only the edge of a hard one has to be looked at closely
      const close = v128.and(f32x4.lt(f32x4.abs(edge), f32x4.splat(<f32>1.5)), f32x4.lt(soft, f32x4.splat(1)))
      if (v128.any_true(close)) {
        const lanes = i32x4.bitmask(close)
        if (lanes & 1) hard = f32x4.replace_lane(hard, 0, this.covered(<f32>x, <f32>y, first, at))
        if (lanes & 2) hard = f32x4.replace_lane(hard, 1, this.covered(<f32>(x + 1), <f32>y, first, at))
        if (lanes & 4) hard = f32x4.replace_lane(hard, 2, this.covered(<f32>(x + 2), <f32>y, first, at))
        if (lanes & 8) hard = f32x4.replace_lane(hard, 3, this.covered(<f32>(x + 3), <f32>y, first, at))
      }
      const shape = f32x4.add(hard, f32x4.mul(soft, f32x4.sub(smooth(held(most)), hard)))
      const told = this.strokes + ((<usize>(<i32>stroke)) << 3)
      const own = f32x4.mul(shape, v128.load32_splat(told))
      const rest = f32x4.sub(f32x4.splat(1), own)
      sum = load<f32>(told, 4) != 0 ? f32x4.mul(sum, rest) : f32x4.add(f32x4.mul(sum, rest), own)
    }
    return sum
  }

  /** How much of a pixel lies within the pieces of a hard stroke, each part of it cut by the nearest one's edge. */
  covered(x: f32, y: f32, begin: usize, end: usize): f32 {
    let sum: f32 = 0
    for (let j = 0; j < PARTS; j++)
      for (let i = 0; i < PARTS; i++) {
        const px = x + (<f32>i + HALF) * PART
        const py = y + (<f32>j + HALF) * PART
        let most: f32 = -1e9
        let nx: f32 = 1
        let ny: f32 = 0
        for (let at = begin; at < end; at += 4) {
          const piece = pieceOf(this.pieces, at)
          const right = px - load<f32>(piece)
          const under = py - load<f32>(piece, 4)
          const dx = load<f32>(piece, 8)
          const dy = load<f32>(piece, 12)
          const t = min<f32>(1, max<f32>(0, (right * dx + under * dy) * load<f32>(piece, 16)))
          const ex = right - t * dx
          const ey = under - t * dy
          const away = sqrt<f32>(ex * ex + ey * ey)
          const far = load<f32>(piece, 20) + t * load<f32>(piece, 24) - away
          if (far <= most) continue
          most = far
          nx = away > 0 ? ex / away : ONE
          ny = away > 0 ? ey / away : 0
        }
        sum += halfPlane(most * <f32>PARTS, nx, ny)
      }
    return sum * PART * PART
  }
}
