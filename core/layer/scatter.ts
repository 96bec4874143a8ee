// Numbers without order that are the same each time, for copies and specks.

/** 0 up to 1, of a seed, a copy and what it is for: the finaliser of MurmurHash3 (A. Appleby, public domain), twice. */
export function unit(seed: number, copy: number, what: number): number {
  let h = Math.imul(seed + 1, 0x9e3779b1) ^ Math.imul(copy + 1, 0x85ebca77) ^ Math.imul(what + 1, 0xc2b2ae3d)
  for (let i = 0; i < 2; i++) {
    h ^= h >>> 16
    h = Math.imul(h, 0x85ebca6b)
    h ^= h >>> 13
    h = Math.imul(h, 0xc2b2ae35)
    h ^= h >>> 16
  }
  return (h >>> 0) / 4294967296
}
/** The numbers of one thing after another, 0 up to 1 each (mulberry32, T. Ettinger, public domain): for many things. */
export function unitsOf(seed: number, thing: number): () => number {
  let state = Math.imul(seed + 1, 0x9e3779b1) ^ Math.imul(thing + 1, 0x85ebca77)
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}
/** -1 up to 1. */
export const about = (seed: number, copy: number, what: number): number => unit(seed, copy, what) * 2 - 1

/** Steps that fill one, two or three dimensions evenly, however many are taken (M. Roberts 2018, after Weyl). */
const STEPS = [
  [0.6180339887498949],
  [0.7548776662466927, 0.5698402909980532],
  [0.8191725133961645, 0.6710436067037893, 0.5497004779019703],
] as const
/** Along one of so many dimensions, 0 up to 1: from a seed on each copy stands where there is most room. */
export function evenly(seed: number, copy: number, dimensions: 1 | 2 | 3, which: number): number {
  const step = STEPS[dimensions - 1]![which]!
  return (unit(seed, which, 97) + copy * step) % 1
}
