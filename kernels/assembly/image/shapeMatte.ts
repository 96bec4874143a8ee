// How much of each pixel lies within a closed contour: what its edges cover of every pixel that they cross, and to the
// right of them, summed up along the row (the signed areas of the accumulation buffer of FreeType's and of R. Levien's
// font rasteriser; exact for straight edges). A soft edge is laid by the distance to the nearest piece of the contour.
import { ShapeMatteArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import { alongPiece, CELL_SHIFT, CIRCLE, held, pieceOf, ramp, smooth, softness, squareFrom } from '../drawn'

/**
 * What is summed up is counted in whole parts of a pixel, so that it is the same to the bit wherever along the row one
 * begins, and nothing is left of what cancels out.
 */
const PARTS: f32 = 4194304


@inline
function share(sum: i32): f32 {
  return min<f32>(1, <f32>abs(sum) * (ONE / PARTS))
}


@inline
function gain(to: usize, parts: i32): void {
  store<i32>(to, load<i32>(to) + parts)
}


@final
@unmanaged
export class ShapeMatte extends ShapeMatteArguments {
  row(x0: i32, x1: i32, y: i32): void {
    const out = this.out.single(x0, y)
    const across = x1 - x0
    memory.fill(out, 0, (<usize>across) << 2)
    if (y >= this.first && y < this.last) {
      const row = this.edgeRows + ((<usize>(y - this.first)) << 2)
      const end = this.list + ((<usize>(<i32>load<f32>(row, 4))) << 2)
      for (let at = this.list + ((<usize>(<i32>load<f32>(row))) << 2); at < end; at += 4)
        this.edge(out, x0, across, <f32>y, this.edges + ((<usize>(<i32>load<f32>(at))) << 4))
      this.add(out, across)
    }
    if (!this.columns) return
    if (this.reach > 0) this.softenRow(out, x0, x1, y)
    else this.soften(out, x0, x1, y)
  }

  /** Sums up along the row; where nothing is gained the next four are as the last. */
  add(out: usize, across: i32): void {
    let sum = 0
    let x = 0
    for (const last = across - 4; x <= last; x += 4) {
      const to = out + ((<usize>x) << 2)
      let gains = v128.load(to)
      if (!v128.any_true(gains)) {
        if (sum) v128.store(to, f32x4.splat(share(sum)))
        continue
      }
      // Each with those before it
      gains = i32x4.add(
        gains,
        i8x16.shuffle(i32x4.splat(0), gains, 0, 1, 2, 3, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27),
      )
      gains = i32x4.add(
        gains,
        i8x16.shuffle(i32x4.splat(0), gains, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23),
      )
      gains = i32x4.add(gains, i32x4.splat(sum))
      sum = i32x4.extract_lane(gains, 3)
      const shares = f32x4.mul(f32x4.convert_i32x4_s(i32x4.abs(gains)), f32x4.splat(ONE / PARTS))
      v128.store(to, f32x4.min(f32x4.splat(1), shares))
    }
    for (; x < across; x++) {
      const to = out + ((<usize>x) << 2)
      sum += load<i32>(to)
      store<f32>(to, share(sum))
    }
  }

  edge(out: usize, x0: i32, across: i32, y: f32, edge: usize): void {
    let ax = load<f32>(edge)
    let ay = load<f32>(edge, 4)
    let bx = load<f32>(edge, 8)
    let by = load<f32>(edge, 12)
    const slope = (bx - ax) / (by - ay)
    const way: f32 = ay < by ? 1 : -1
    const high = max<f32>(min<f32>(ay, by), y)
    const low = min<f32>(max<f32>(ay, by), y + ONE)
    if (low <= high) return
    const a = ax + (high - ay) * slope
    const b = ax + (low - ay) * slope
    const from = min<f32>(a, b)
    const to = max<f32>(a, b)
    const cover = (low - high) * way
    const begin = <i32>floor<f32>(from)
    const end = <i32>floor<f32>(to)
    const per = end > begin ? cover / (to - from) : cover
    let before = 0
    // What it covers of the pixels that it crosses, and wholly of those to the right of them
    for (let x = max(begin, x0); x <= end; x++) {
      if (x >= x0 + across) return
      const near = max<f32>(from, <f32>x)
      const far = min<f32>(to, <f32>(x + 1))
      const rest = <f32>(x + 1) - (near + far) * HALF
      const passed = near - from
      const parts = <i32>nearest<f32>((end > begin ? passed + (far - near) * rest : rest) * per * PARTS)
      gain(out + ((<usize>(x - x0)) << 2), parts - before)
      before = parts
    }
    const next = max(end + 1, x0)
    if (next < x0 + across) gain(out + ((<usize>(next - x0)) << 2), <i32>nearest<f32>(cover * PARTS) - before)
  }

  /** Of a row's pieces those that a pixel may be near are a run: both its ends only ever go on. */
  softenRow(out: usize, x0: i32, x1: i32, y: i32): void {
    const line = y - this.top
    if (line < 0 || line >= this.lines) return
    const row = this.cellRows + ((<usize>line) << 2)
    let begin = this.cells + ((<usize>(<i32>load<f32>(row))) << 2)
    const last = this.cells + ((<usize>(<i32>load<f32>(row, 4))) << 2)
    const ends = min(x1, this.left + this.columns)
    let end = begin
    for (let x = max(x0, this.left); x < ends; x += 4) {
      while (begin < last && this.rightOf(begin) < <f32>x) begin += 4
      if (begin == last) return
      const left = this.leftOf(begin)
      if (left > <f32>(x + 4)) {
        x = <i32>left
        if (x >= ends) return
      }
      end = max(end, begin)
      while (end < last && this.leftOf(end) < <f32>(x + 4)) end += 4
      this.four(out + ((<usize>(x - x0)) << 2), x, min(4, ends - x), y, begin, end)
    }
  }

  /** From where to where along the row a piece may be of account. */
  @inline
  leftOf(at: usize): f32 {
    const piece = pieceOf(this.pieces, at)
    // Whole pixels: within one they stand in any order
    return floor<f32>(load<f32>(piece) + min<f32>(0, load<f32>(piece, 8)) - this.reach)
  }


  @inline
  rightOf(at: usize): f32 {
    const piece = pieceOf(this.pieces, at)
    return load<f32>(piece) + max<f32>(0, load<f32>(piece, 8)) + this.reach
  }

  soften(out: usize, x0: i32, x1: i32, y: i32): void {
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
        for (let from = x; from < ends; from += 4)
          this.four(out + ((<usize>(from - x0)) << 2), from, min(4, ends - from), y, begin, end)
      x = ends
    }
  }

  /** Up to four pixels from x on, by the nearest of pieces. */
  four(to: usize, x: i32, count: i32, y: i32, begin: usize, end: usize): void {
    const places = f32x4.add(f32x4.splat(<f32>x), f32x4(0.5, 1.5, 2.5, 3.5))
    const down = f32x4.splat(<f32>y + HALF)
    let least = f32x4.splat(Infinity)
    let limit = f32x4.splat(this.reach > 0 ? this.reach * this.reach : Infinity)
    const bow = f32x4.splat(this.bow)
    let along = f32x4.splat(0)
    let which = i32x4.splat(<i32>pieceOf(this.pieces, begin))
    for (let at = begin; at < end; at += 4) {
      const piece = pieceOf(this.pieces, at)
      const right = f32x4.sub(places, v128.load32_splat(piece))
      const under = f32x4.sub(down, v128.load32_splat(piece, 4))
      let t = alongPiece(piece, right, under)
      let square = squareFrom(piece, right, under, t)
      // No arc is nearer than its chord by more than it leans off that
      if (!v128.any_true(f32x4.lt(square, limit))) continue
      const radius = load<f32>(piece, CIRCLE)
      if (radius > 0) {
        // From the middle of its circle
        const cx = v128.load32_splat(piece, 20)
        const cy = v128.load32_splat(piece, 24)
        const dx = v128.load32_splat(piece, 8)
        const dy = v128.load32_splat(piece, 12)
        const x = f32x4.sub(right, cx)
        const y = f32x4.sub(under, cy)
        const away = f32x4.sqrt(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)))
        const across = f32x4.div(f32x4.splat(radius), f32x4.pmax(away, f32x4.splat(1e-6)))
        // Where the place of the circle nearest to it stands along the chord
        const foot = f32x4.add(
          f32x4.mul(f32x4.add(f32x4.mul(x, dx), f32x4.mul(y, dy)), across),
          f32x4.add(f32x4.mul(cx, dx), f32x4.mul(cy, dy)),
        )
        t = f32x4.mul(foot, v128.load32_splat(piece, 16))
        // Beyond its ends and on the far side of the circle an end is nearer
        const ahead = f32x4.add(
          f32x4.mul(x, f32x4.sub(f32x4.mul(dx, f32x4.splat(HALF)), cx)),
          f32x4.mul(y, f32x4.sub(f32x4.mul(dy, f32x4.splat(HALF)), cy)),
        )
        const on = v128.and(
          v128.and(f32x4.ge(t, f32x4.splat(0)), f32x4.le(t, f32x4.splat(1))),
          f32x4.gt(ahead, f32x4.splat(0)),
        )
        const off = f32x4.sub(away, f32x4.splat(radius))
        const endX = f32x4.sub(right, dx)
        const endY = f32x4.sub(under, dy)
        const toFirst = f32x4.add(f32x4.mul(right, right), f32x4.mul(under, under))
        const toLast = f32x4.add(f32x4.mul(endX, endX), f32x4.mul(endY, endY))
        const end = v128.and(f32x4.lt(toLast, toFirst), f32x4.splat(1))
        t = v128.bitselect(t, end, on)
        square = v128.bitselect(f32x4.mul(off, off), f32x4.pmin(toFirst, toLast), on)
      }
      const nearer = f32x4.lt(square, least)
      least = v128.bitselect(square, least, nearer)
      along = v128.bitselect(t, along, nearer)
      which = v128.bitselect(i32x4.splat(<i32>piece), which, nearer)
      const most = f32x4.add(f32x4.sqrt(least), bow)
      limit = f32x4.pmin(limit, f32x4.mul(most, most))
    }
    const outer = goingOn(which, 28, along)
    const inner = goingOn(which, 36, along)
    const covered = count == 4 ? v128.load(to) : partly(to, count)
    const far = f32x4.sqrt(least)
    const within = v128.bitselect(far, f32x4.neg(far), f32x4.ge(covered, f32x4.splat(HALF)))
    const soft = smooth(held(ramp(within, outer, inner)))
    const value = f32x4.add(covered, f32x4.mul(softness(outer, inner), f32x4.sub(soft, covered)))
    if (count == 4) v128.store(to, value)
    else put(to, value, count)
  }
}

/** Of four pieces what goes evenly along each, so far along them. */
function goingOn(pieces: v128, field: usize, along: v128): v128 {
  const a = <usize>i32x4.extract_lane(pieces, 0) + field
  const b = <usize>i32x4.extract_lane(pieces, 1) + field
  const c = <usize>i32x4.extract_lane(pieces, 2) + field
  const d = <usize>i32x4.extract_lane(pieces, 3) + field
  const begin = v128.load_lane<f32>(d, v128.load_lane<f32>(c, v128.load_lane<f32>(b, v128.load32_zero(a), 1), 2), 3)
  const gain = v128.load_lane<f32>(
    d,
    v128.load_lane<f32>(c, v128.load_lane<f32>(b, v128.load32_zero(a, 4), 1, 4), 2, 4),
    3,
    4,
  )
  return f32x4.add(begin, f32x4.mul(along, gain))
}

/** Fewer than four. */
function partly(from: usize, count: i32): v128 {
  let value = v128.load32_zero(from)
  if (count > 1) value = v128.load_lane<f32>(from, value, 1, 4)
  if (count > 2) value = v128.load_lane<f32>(from, value, 2, 8)
  return value
}
function put(to: usize, value: v128, count: i32): void {
  store<f32>(to, f32x4.extract_lane(value, 0))
  if (count > 1) store<f32>(to, f32x4.extract_lane(value, 1), 4)
  if (count > 2) store<f32>(to, f32x4.extract_lane(value, 2), 8)
}
