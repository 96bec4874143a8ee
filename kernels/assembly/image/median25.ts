// The middle one of five by five. Columns of five in order are shared by the pixels that see them, and of two neighbours
// the four columns both see are put in order row by row once. In a square that is in order down and along, 12 of the 25 have
// 13 or more on one side of them and so cannot be the middle one; of the 13 that are left it is found by leaving out the
// least and the greatest of as many as must hold it, again and again.
import { Raster } from '../raster'
import { greater, lesser, middleBetween, middleOf } from './order'

/** Pixels at a time, whose columns lie in the thread's own room: an even number. */
const AT_A_TIME: i32 = 128
/** Bytes from a row of columns in order to the next: of the pixels and two more to each side. */
const ROW: usize = (<usize>(AT_A_TIME + 4)) << 4

export function medianOf25(source: Raster, out: Raster, x0: i32, x1: i32, y: i32, room: usize): void {
  for (let left = x0; left < x1; left += AT_A_TIME) {
    const count = min(AT_A_TIME, x1 - left)
    sortColumns(source, left - 2, y - 2, count + 4, room)
    const to = out.colour(left, y)
    for (let x = 0; x < count; x += 2) pair(room + ((<usize>x) << 4), to + ((<usize>x) << 4), x + 1 < count)
  }
}

/** Columns of five, each in order, the least above. */
function sortColumns(source: Raster, left: i32, top: i32, count: i32, room: usize): void {
  const row = (<usize>source.stride) << 4
  let from = source.colour(left, top)
  let to = room
  for (const end = room + ((<usize>count) << 4); to < end; to += 16, from += 16) {
    let a = v128.load(from)
    let b = v128.load(from + row)
    let c = v128.load(from + row * 2)
    let d = v128.load(from + row * 3)
    let e = v128.load(from + row * 4)
    let less = lesser(a, b)
    b = greater(a, b)
    a = less
    less = lesser(d, e)
    e = greater(d, e)
    d = less
    less = lesser(c, e)
    e = greater(c, e)
    c = less
    less = lesser(c, d)
    d = greater(c, d)
    c = less
    less = lesser(a, d)
    d = greater(a, d)
    a = less
    less = lesser(a, c)
    c = greater(a, c)
    v128.store(to, less)
    less = lesser(b, e)
    v128.store(to + ROW * 4, greater(b, e))
    b = less
    less = lesser(b, c)
    c = greater(b, c)
    v128.store(to + ROW, less)
    v128.store(to + ROW * 2, lesser(c, d))
    v128.store(to + ROW * 3, greater(c, d))
  }
}

/** Four in order, of a row that two neighbours share. */
let first: v128 = f32x4.splat(0)
let next: v128 = f32x4.splat(0)
let third: v128 = f32x4.splat(0)
let last: v128 = f32x4.splat(0)


@inline
function sortShared(at: usize): void {
  let a = v128.load(at, 16)
  let b = v128.load(at, 32)
  let c = v128.load(at, 48)
  let d = v128.load(at, 64)
  let less = lesser(a, b)
  b = greater(a, b)
  a = less
  less = lesser(c, d)
  d = greater(c, d)
  c = less
  first = lesser(a, c)
  c = greater(a, c)
  less = lesser(b, d)
  last = greater(b, d)
  next = lesser(less, c)
  third = greater(less, c)
}

/** Two neighbours, the left one's columns beginning at `at`. */
function pair(at: usize, to: usize, both: bool): void {
  sortShared(at)
  let own = v128.load(at)
  let other = v128.load(at, 80)
  // Of the least ones the two greatest, of the next the three greatest, of the middle ones the three in the middle, …
  const a0 = middleBetween(third, own, last)
  const a1 = greater(own, last)
  const otherA0 = middleBetween(third, other, last)
  const otherA1 = greater(other, last)
  at += ROW
  sortShared(at)
  own = v128.load(at)
  other = v128.load(at, 80)
  const b0 = middleBetween(next, own, third)
  const b1 = middleBetween(third, own, last)
  const b2 = greater(own, last)
  const otherB0 = middleBetween(next, other, third)
  const otherB1 = middleBetween(third, other, last)
  const otherB2 = greater(other, last)
  at += ROW
  sortShared(at)
  own = v128.load(at)
  other = v128.load(at, 80)
  const c0 = middleBetween(first, own, next)
  const c1 = middleBetween(next, own, third)
  const c2 = middleBetween(third, own, last)
  const otherC0 = middleBetween(first, other, next)
  const otherC1 = middleBetween(next, other, third)
  const otherC2 = middleBetween(third, other, last)
  at += ROW
  sortShared(at)
  own = v128.load(at)
  other = v128.load(at, 80)
  const d0 = lesser(own, first)
  const d1 = middleBetween(first, own, next)
  const d2 = middleBetween(next, own, third)
  const otherD0 = lesser(other, first)
  const otherD1 = middleBetween(first, other, next)
  const otherD2 = middleBetween(next, other, third)
  at += ROW
  sortShared(at)
  own = v128.load(at)
  other = v128.load(at, 80)
  v128.store(
    to,
    middleOfThirteen(a0, a1, b0, b1, b2, c0, c1, c2, d0, d1, d2, lesser(own, first), middleBetween(first, own, next)),
  )
  if (!both) return
  v128.store(
    to + 16,
    middleOfThirteen(
      otherA0,
      otherA1,
      otherB0,
      otherB1,
      otherB2,
      otherC0,
      otherC1,
      otherC2,
      otherD0,
      otherD1,
      otherD2,
      lesser(other, first),
      middleBetween(first, other, next),
    ),
  )
}

/** Each letter is a row whose values are in order. The least of all begins one of b, c, d or is a0, the greatest ends one. */
@inline
function middleOfThirteen(
  a0: v128,
  a1: v128,
  b0: v128,
  b1: v128,
  b2: v128,
  c0: v128,
  c1: v128,
  c2: v128,
  d0: v128,
  d1: v128,
  d2: v128,
  e0: v128,
  e1: v128,
): v128 {
  // The least and the greatest of all 13 go
  let p = greater(a0, b0)
  let q = greater(c0, d0)
  let r = greater(lesser(a0, b0), lesser(c0, d0))
  let s = lesser(b2, c2)
  let t = lesser(d2, e1)
  let u = lesser(greater(b2, c2), greater(d2, e1))
  let v = c1
  // Of the 11 left 7 hold the middle one: those of pairs are told apart, then the least and the greatest go
  let less = lesser(p, s)
  s = greater(p, s)
  p = less
  less = lesser(q, t)
  t = greater(q, t)
  q = less
  less = lesser(r, u)
  u = greater(r, u)
  r = less
  less = lesser(p, q)
  q = greater(p, q)
  v = greater(v, lesser(less, r))
  r = greater(less, r)
  let more = greater(s, t)
  s = lesser(s, t)
  v = lesser(v, greater(more, u))
  u = lesser(more, u)
  // Of 5 left and one more
  p = a1
  less = lesser(q, s)
  s = greater(q, s)
  q = less
  less = lesser(r, u)
  u = greater(r, u)
  r = less
  less = lesser(v, p)
  p = greater(v, p)
  v = greater(less, lesser(q, r))
  q = greater(q, r)
  p = lesser(p, greater(s, u))
  s = lesser(s, u)
  // Of 4 and one more
  t = e0
  less = lesser(q, s)
  s = greater(q, s)
  q = less
  less = lesser(v, p)
  p = greater(v, p)
  t = greater(t, lesser(q, less))
  q = greater(q, less)
  t = lesser(t, greater(s, p))
  s = lesser(s, p)
  // Of 3 and one more
  less = lesser(q, s)
  s = greater(q, s)
  q = greater(less, lesser(t, b1))
  s = lesser(s, greater(t, b1))
  return middleOf(q, s, d1)
}
