// A picture out of focus, square by square. What it shows is parted by the size of its circles of confusion into steps,
// each of which a kernel of the opening's shape spreads out; large ones on a picture halved, so that a step costs the
// same however large it is. Steps are laid from near to far: of each as much as is left of the opening, which what is
// nearer has not covered. So what is near lies over what is sharp and is seen through at its border, nothing far bleeds on
// what is near, and one surface that goes through many steps stays whole.
import { FocusArguments } from '../../build/arguments'
import { HALF, ONE } from '../constants'
import * as L from '../layout'

const TILE: i32 = L.FOCUS_TILE
const SIDE: i32 = L.FOCUS_SIDE
const KERNEL_SIDE: i32 = L.MOST_OPENING * 2 + 1
/** Pixels across in which the barrel hides the same part of the opening. */
const PART: i32 = 32
const STEP_BYTES: usize = 16
/** As much of a pixel as counts for all of it. */
const ALL: f32 = 0.9999
const NOTHING: f32 = 1e-6

// Cells of a step, what of each is covered; the same spread out; what is left of each pixel of the square; its light
let cells: usize = 0
let covers: usize = 0
let spread: usize = 0
let spreadCovers: usize = 0
let left: usize = 0
let light: usize = 0
/**
 * The kernel as the barrel leaves it; which of its columns count, a pair for each row; of each row of cells the first and
 * the last that have any (the last less than the first: none), and which rows of the result are made.
 */
let kernel: usize = 0
let ends: usize = 0
let rowsHeld: usize = 0
let rowsMade: usize = 0
export function initFocus(scratch: usize): void {
  cells = scratch + L.SCRATCH_FOCUS
  covers = cells + ((<usize>(SIDE * SIDE)) << 4)
  spread = covers + ((<usize>(SIDE * SIDE)) << 2)
  spreadCovers = spread + ((<usize>((TILE + 2) * (TILE + 2))) << 4)
  light = spreadCovers + ((<usize>((TILE + 2) * (TILE + 2))) << 2) + 64
  left = light + ((<usize>(TILE * TILE)) << 4)
  kernel = left + ((<usize>(TILE * TILE)) << 2)
  ends = kernel + ((<usize>(KERNEL_SIDE * KERNEL_SIDE)) << 2)
  rowsHeld = ends + ((<usize>KERNEL_SIDE) << 3)
  rowsMade = rowsHeld + ((<usize>SIDE) << 3)
}

// Of the step that is laid: halvings, cells of the result (from, to) and of what it is made of, half the kernel's side
let halvings: i32 = 0
let half: i32 = 0
let toLeft: i32 = 0
let toTop: i32 = 0
let toRight: i32 = 0
let toBottom: i32 = 0
let fromLeft: i32 = 0
let fromTop: i32 = 0
let across: i32 = 0
let down: i32 = 0
/** Cells from a row of the result to the next: a few more than it has, for four are written at a time. */
let pitch: i32 = 0
/** Columns of cells that have any, and of the result. */
let firstCell: i32 = 0
let lastCell: i32 = 0
let firstMade: i32 = 0
let lastMade: i32 = 0
/** All that is looked at is covered whole: alpha says then what is covered. */
let opaque: bool = false
/** Greatest reach of a circle, pixels. */
let reach: i32 = 0


@final @unmanaged
export class Focus extends FocusArguments {
  block(x0: i32, y0: i32, x1: i32, y1: i32): void {
    reach = 0
    for (let i = 0; i < this.steps; i++) {
      const step = this.table + <usize>i * STEP_BYTES
      reach = max(reach, (<i32>load<f32>(step, 8) + 2) << (<i32>load<f32>(step, 4)))
    }
    for (let ty = <i32>floor<f32>(<f32>y0 / <f32>TILE) * TILE; ty < y1; ty += TILE)
      for (let tx = <i32>floor<f32>(<f32>x0 / <f32>TILE) * TILE; tx < x1; tx += TILE)
        this.square(tx, ty, max(x0, tx), max(y0, ty), min(x1, tx + TILE), min(y1, ty + TILE))
  }

  square(tx: i32, ty: i32, x0: i32, y0: i32, x1: i32, y1: i32): void {
    memory.fill(light, 0, (<usize>(TILE * TILE)) << 4)
    for (let at = left, end = left + ((<usize>(TILE * TILE)) << 2); at < end; at += 4) store<f32>(at, 1)
    const steps = this.steps
    opaque = this.allCovered(tx, ty)
    let least: f32 = 1e9
    let most: f32 = -1e9
    const span = this.span
    for (let y = max(span.top, (ty - reach) >> 3); y <= min(span.bottom - 1, (ty + TILE + reach) >> 3); y++)
      for (let x = max(span.left, (tx - reach) >> 3); x <= min(span.right - 1, (tx + TILE + reach) >> 3); x++) {
        const at = span.colour(x, y)
        least = min(least, load<f32>(at))
        most = max(most, max(load<f32>(at, 4), load<f32>(at, 12)))
      }
    const first = max(1 - steps, <i32>floor<f32>(least))
    const last = min(steps - 1, <i32>ceil<f32>(most))
    for (let step = first; step <= last; step++) {
      if (!this.gather(step, x0, y0, x1, y1)) continue
      this.spreadOut(step)
      this.lay(tx, ty, x0, y0, x1, y1)
      if (!this.isOpen(tx, ty, x0, y0, x1, y1)) break
    }
    for (let y = y0; y < y1; y++) {
      let to = this.out.colour(x0, y)
      let from = light + ((<usize>((y - ty) * TILE + (x0 - tx))) << 4)
      let rest = left + ((<usize>((y - ty) * TILE + (x0 - tx))) << 2)
      for (let x = x0; x < x1; x++, to += 16, from += 16, rest += 4) {
        // What nothing is known of is as what is known
        const covered = ONE - load<f32>(rest)
        const whole: f32 = covered > NOTHING ? ONE / covered : 0
        v128.store(to, f32x4.mul(v128.load(from), f32x4.splat(whole)))
      }
    }
  }

  /** Whether all that a square may be made of is covered whole. */
  allCovered(tx: i32, ty: i32): bool {
    const source = this.source
    const behind = this.behind
    const parts = this.parts
    const x0 = max(source.left, tx - reach)
    const x1 = min(source.right, tx + TILE + reach)
    for (let y = max(source.top, ty - reach); y < min(source.bottom, ty + TILE + reach); y++)
      for (let x = x0; x < x1; x++) {
        if (load<f32>(source.colour(x, y), 12) < ALL) return false
        if (load<f32>(parts.colour(x, y), 8) > <f32>L.NO_STEP && load<f32>(behind.colour(x, y), 12) < ALL) return false
      }
    return true
  }

  /** The cells of a step, about what of the square is asked for; false where there is nothing in them. */
  gather(step: i32, x0: i32, y0: i32, x1: i32, y1: i32): bool {
    const head = this.table + <usize>abs<i32>(step) * STEP_BYTES
    halvings = <i32>load<f32>(head, 4)
    half = <i32>load<f32>(head, 8)
    const around = halvings ? 1 : 0
    toLeft = (x0 >> halvings) - around
    toTop = (y0 >> halvings) - around
    toRight = ((x1 - 1) >> halvings) + 1 + around
    toBottom = ((y1 - 1) >> halvings) + 1 + around
    fromLeft = toLeft - half
    fromTop = toTop - half
    across = toRight + half - fromLeft
    down = toBottom + half - fromTop
    const side = 1 << halvings
    const area = ONE / <f32>(side * side)
    const source = this.source
    const parts = this.parts
    const behind = this.behind
    const span = this.span
    const wanted = <f32>step
    let any = false
    let low = across
    let high = -1
    const none = f32x4.splat(0)
    const one = f32x4.splat(1)
    const step4 = f32x4.splat(wanted)
    for (let row = 0; row < down; row++) {
      store<i32>(rowsHeld + ((<usize>row) << 3), across)
      store<i32>(rowsHeld + ((<usize>row) << 3), -1, 4)
    }
    // Squares that have any of it
    const left = max(parts.left, fromLeft << halvings)
    const top = max(parts.top, fromTop << halvings)
    const right = min(parts.right, (fromLeft + across) << halvings)
    const bottom = min(parts.bottom, (fromTop + down) << halvings)
    if (left >= right || top >= bottom) return false
    for (let sy = max(span.top, top >> 3); sy <= min(span.bottom - 1, (bottom - 1) >> 3); sy++)
      for (let sx = max(span.left, left >> 3); sx <= min(span.right - 1, (right - 1) >> 3); sx++) {
        const reached = span.colour(sx, sy)
        const before = load<f32>(reached) < wanted + 1 && load<f32>(reached, 4) > wanted - 1
        const after = load<f32>(reached, 8) < wanted + 1 && load<f32>(reached, 12) > wanted - 1
        if (!before && !after) continue
        for (let y = max(top, sy << 3); y < min(bottom, (sy + 1) << 3); y++) {
          const row = (y >> halvings) - fromTop
          const held = rowsHeld + ((<usize>row) << 3)
          let x = max(left, sx << 3)
          const end = min(right, (sx + 1) << 3)
          let part = parts.colour(x, y)
          let pixel = source.colour(x, y)
          let back = behind.colour(x, y)
          for (; x < end; x++, part += 16, pixel += 16, back += 16) {
            // How much of it is on this step, by the lane: 1 what is before, 2 what is behind
            const on = f32x4.sub(one, f32x4.abs(f32x4.sub(v128.load(part), step4)))
            if (!(i32x4.bitmask(f32x4.gt(on, none)) & 6)) continue
            any = true
            if (load<i32>(held, 4) < 0) {
              // What is in no row that has any is never looked at
              memory.fill(cells + ((<usize>(row * across)) << 4), 0, (<usize>across) << 4)
              if (!opaque) memory.fill(covers + ((<usize>(row * across)) << 2), 0, (<usize>across) << 2)
            }
            const column = (x >> halvings) - fromLeft
            if (column < low) low = column
            if (column > high) high = column
            if (column < load<i32>(held)) store<i32>(held, column)
            if (column > load<i32>(held, 4)) store<i32>(held, column, 4)
            const share = load<f32>(part)
            const mine = f32x4.extract_lane(on, 1)
            let sum = none
            let cover: f32 = 0
            if (mine > 0) {
              let own = v128.load(pixel)
              if (share < 1) {
                own = f32x4.sub(own, f32x4.mul(v128.load(back), f32x4.splat(ONE - share)))
                own = f32x4.max(own, none)
              }
              if (opaque) own = f32x4.replace_lane(own, 3, share)
              cover = mine * area
              sum = f32x4.mul(own, f32x4.splat(cover))
              cover *= share
            }
            const its = f32x4.extract_lane(on, 2)
            if (its > 0) {
              let own = v128.load(back)
              if (opaque) own = f32x4.replace_lane(own, 3, 1)
              sum = f32x4.add(sum, f32x4.mul(own, f32x4.splat(its * area)))
              cover += its * area
            }
            const cell = <usize>(row * across + column)
            const to = cells + (cell << 4)
            v128.store(to, f32x4.add(v128.load(to), sum))
            if (!opaque) {
              const hidden = covers + (cell << 2)
              store<f32>(hidden, load<f32>(hidden) + cover)
            }
          }
        }
      }
    firstCell = low
    lastCell = high
    return any
  }

  /** The kernel of a step as it is at a place of the picture, and where its rows begin and end. */
  shape(step: i32, x: f32, y: f32): void {
    const head = this.table + <usize>abs<i32>(step) * STEP_BYTES
    const weights = this.table + ((<usize>load<f32>(head, 12)) << 2)
    const side = half * 2 + 1
    const count = side * side
    // What is far is seen the other way round: here it is asked from where light comes, not where it goes
    for (let i = 0; i < count; i++)
      store<f32>(kernel + ((<usize>i) << 2), load<f32>(weights + ((<usize>(step > 0 ? count - 1 - i : i)) << 2)))
    if (this.catsEye > 0 && half > 0) {
      const radius = load<f32>(head) / <f32>(1 << halvings)
      const fx = ((x - this.middleX) / this.corner) * this.catsEye
      const fy = ((y - this.middleY) / this.corner) * this.catsEye
      const way: f32 = step > 0 ? -1 : 1
      let sum: f32 = 0
      for (let row = 0; row < side; row++)
        for (let column = 0; column < side; column++) {
          const at = kernel + ((<usize>(row * side + column)) << 2)
          // Places of the opening, counted down
          const ax = (<f32>(column - half) / radius) * way
          const ay = (<f32>(row - half) / radius) * way
          const beyond = ONE - sqrt<f32>((ax - fx) * (ax - fx) + (ay - fy) * (ay - fy))
          const weight = load<f32>(at) * max<f32>(0, min<f32>(1, beyond * radius + HALF))
          store<f32>(at, weight)
          sum += weight
        }
      const whole: f32 = sum > 0 ? ONE / sum : 0
      for (let i = 0; i < count; i++)
        store<f32>(kernel + ((<usize>i) << 2), load<f32>(kernel + ((<usize>i) << 2)) * whole)
    }
    for (let row = 0; row < side; row++) {
      let first = 0
      let last = side
      const at = kernel + ((<usize>(row * side)) << 2)
      while (first < side && load<f32>(at + ((<usize>first) << 2)) == 0) first++
      while (last > first && load<f32>(at + ((<usize>(last - 1)) << 2)) == 0) last--
      store<i32>(ends + ((<usize>row) << 3), first)
      store<i32>(ends + ((<usize>row) << 3), last, 4)
    }
  }

  /** Cells through the kernel, which changes over the picture where the barrel hides a part of the opening. */
  spreadOut(step: i32): void {
    const width = toRight - toLeft
    const height = toBottom - toTop
    // Only what cells that have any can reach
    const begin = max(0, firstCell - 2 * half)
    const close = min(width, lastCell + 1)
    firstMade = begin + toLeft
    lastMade = close - 1 + toLeft
    pitch = width + 3
    const side = half * 2 + 1
    for (let y = 0; y < height; y++) {
      let any = false
      for (let row = 0; row < side && !any; row++) any = load<i32>(rowsHeld + ((<usize>(y + row)) << 3), 4) >= 0
      store<u8>(rowsMade + y, any)
    }
    // Rows beside those that are made are read with them, between cells; and a cell before and after the columns
    const start = <usize>max(0, begin - 1)
    const count = <usize>min(pitch, close + 3) - start
    for (let y = 0; y < height; y++) {
      if (
        !load<u8>(rowsMade + y) &&
        !(y > 0 && load<u8>(rowsMade + y - 1)) &&
        !(y + 1 < height && load<u8>(rowsMade + y + 1))
      )
        continue
      memory.fill(spread + ((<usize>(y * pitch) + start) << 4), 0, count << 4)
      memory.fill(spreadCovers + ((<usize>(y * pitch) + start) << 2), 0, count << 2)
    }
    if (this.catsEye <= 0 || half == 0) {
      this.shape(step, 0, 0)
      this.spreadPart(begin, 0, close, height)
      return
    }
    const part = max(4, PART >> halvings)
    for (let y = <i32>floor<f32>(<f32>toTop / <f32>part) * part; y < toBottom; y += part)
      for (let x = <i32>floor<f32>(<f32>(toLeft + begin) / <f32>part) * part; x < toLeft + close; x += part) {
        const cell = <f32>(1 << halvings)
        this.shape(step, (<f32>x + <f32>part * HALF) * cell, (<f32>y + <f32>part * HALF) * cell)
        this.spreadPart(
          max(begin, x - toLeft),
          max(0, y - toTop),
          min(close, x + part - toLeft),
          min(height, y + part - toTop),
        )
      }
  }

  spreadPart(begin: i32, top: i32, close: i32, bottom: i32): void {
    const side = half * 2 + 1
    for (let y = top; y < bottom; y++) {
      if (!load<u8>(rowsMade + y)) continue
      for (let x = begin; x < close; x += 4) {
        let a = f32x4.splat(0)
        let b = a
        let c = a
        let d = a
        let cover = a
        for (let row = 0; row < side; row++) {
          const held = rowsHeld + ((<usize>(y + row)) << 3)
          // Of four results in a row the cells that have any
          const first = max(load<i32>(ends + ((<usize>row) << 3)), load<i32>(held) - x - 3)
          const last = min(load<i32>(ends + ((<usize>row) << 3), 4), load<i32>(held, 4) - x + 1)
          if (first >= last) continue
          let weight = kernel + ((<usize>(row * side + first)) << 2)
          const cell = (y + row) * across + x + first
          let from = cells + ((<usize>cell) << 4)
          const end = kernel + ((<usize>(row * side + last)) << 2)
          if (opaque)
            for (; weight < end; weight += 4, from += 16) {
              const w = v128.load32_splat(weight)
              a = f32x4.add(a, f32x4.mul(v128.load(from), w))
              b = f32x4.add(b, f32x4.mul(v128.load(from, 16), w))
              c = f32x4.add(c, f32x4.mul(v128.load(from, 32), w))
              d = f32x4.add(d, f32x4.mul(v128.load(from, 48), w))
            }
          else {
            let hidden = covers + ((<usize>cell) << 2)
            for (; weight < end; weight += 4, from += 16, hidden += 4) {
              const w = v128.load32_splat(weight)
              a = f32x4.add(a, f32x4.mul(v128.load(from), w))
              b = f32x4.add(b, f32x4.mul(v128.load(from, 16), w))
              c = f32x4.add(c, f32x4.mul(v128.load(from, 32), w))
              d = f32x4.add(d, f32x4.mul(v128.load(from, 48), w))
              cover = f32x4.add(cover, f32x4.mul(v128.load(hidden), w))
            }
          }
        }
        // The last few are written beyond the part: what comes next writes over them, and nothing reads them beyond the row
        const to = spread + ((<usize>(y * pitch + x)) << 4)
        v128.store(to, a)
        v128.store(to, b, 16)
        v128.store(to, c, 32)
        v128.store(to, d, 48)
        if (opaque)
          cover = f32x4(
            f32x4.extract_lane(a, 3),
            f32x4.extract_lane(b, 3),
            f32x4.extract_lane(c, 3),
            f32x4.extract_lane(d, 3),
          )
        v128.store(spreadCovers + ((<usize>(y * pitch + x)) << 2), cover)
      }
    }
  }

  /** Lays it behind what is there. */
  lay(tx: i32, ty: i32, x0: i32, y0: i32, x1: i32, y1: i32): void {
    const scale = ONE / <f32>(1 << halvings)
    // Between cells up to half a cell further to each side is reached, with the empty ones there
    const around = (1 << halvings) >> 1
    x0 = max(x0, (firstMade << halvings) - around)
    x1 = min(x1, ((lastMade + 1) << halvings) + around)
    for (let y = y0; y < y1; y++) {
      const py = (<f32>y + HALF) * scale - HALF
      const cy = <i32>floor<f32>(py)
      if (!load<u8>(rowsMade + cy - toTop) && !(halvings && load<u8>(rowsMade + cy - toTop + 1))) continue
      let rest = left + ((<usize>((y - ty) * TILE + (x0 - tx))) << 2)
      let to = light + ((<usize>((y - ty) * TILE + (x0 - tx))) << 4)
      const fy = py - <f32>cy
      const line = (cy - toTop) * pitch
      for (let x = x0; x < x1; x++, rest += 4, to += 16) {
        const there = load<f32>(rest)
        if (there <= NOTHING) continue
        let colour: v128
        let cover: f32
        if (halvings) {
          const px = (<f32>x + HALF) * scale - HALF
          const cx = <i32>floor<f32>(px)
          const fx = px - <f32>cx
          const cell = line + (cx - toLeft)
          const at = spread + ((<usize>cell) << 4)
          const below = at + ((<usize>pitch) << 4)
          const u = f32x4.splat(fx)
          const upper = f32x4.add(v128.load(at), f32x4.mul(u, f32x4.sub(v128.load(at, 16), v128.load(at))))
          const lower = f32x4.add(v128.load(below), f32x4.mul(u, f32x4.sub(v128.load(below, 16), v128.load(below))))
          colour = f32x4.add(upper, f32x4.mul(f32x4.splat(fy), f32x4.sub(lower, upper)))
          const c = spreadCovers + ((<usize>cell) << 2)
          const d = c + ((<usize>pitch) << 2)
          const e = load<f32>(c) + fx * (load<f32>(c, 4) - load<f32>(c))
          const f = load<f32>(d) + fx * (load<f32>(d, 4) - load<f32>(d))
          cover = e + fy * (f - e)
        } else {
          const cell = (y - toTop) * pitch + (x - toLeft)
          colour = v128.load(spread + ((<usize>cell) << 4))
          cover = load<f32>(spreadCovers + ((<usize>cell) << 2))
        }
        if (cover <= NOTHING) continue
        const take = min<f32>(cover, there)
        v128.store(to, f32x4.add(v128.load(to), f32x4.mul(colour, f32x4.splat(take / cover))))
        store<f32>(rest, there - take)
      }
    }
  }

  /** Whether anything more can be seen. */
  isOpen(tx: i32, ty: i32, x0: i32, y0: i32, x1: i32, y1: i32): bool {
    for (let y = y0; y < y1; y++)
      for (let x = x0, rest = left + ((<usize>((y - ty) * TILE + (x0 - tx))) << 2); x < x1; x++, rest += 4)
        if (load<f32>(rest) > NOTHING) return true
    return false
  }
}
