// Lines round things: where one object, material or fold of a surface meets another, as a soft matte of a chosen width.
import type { OutlineSettings } from '../shot/schema/passes'
import * as L from '../../kernels/assembly/layout'
import { Look } from '../../kernels/records'
import { boxOf } from '../engine/box'
import type { Pool } from '../engine/pool'

export const OUTLINE: OutlineSettings = {
  width: 2,
  crease: 50,
  materials: true,
  distance: 0,
  waver: 0,
  waverSize: 0.2,
  side: 'both',
}

/** Places to a pixel each way: lines have so many squared steps from none to full. */
const FINE = 4
/** Widest that a line gets, however near. */
const WIDEST = 48
const STRIP_ROWS = 48
/** Share of the distance that one place may lie behind the plane of the other and still be the same surface. */
const STEP = 0.02

/** One f32 a pixel, 1 on lines. record: the render record. Throws OutOfMemory. */
export function outlineOf(
  pool: Pool,
  record: number,
  width: number,
  height: number,
  settings: OutlineSettings,
  ray: (px: number, py: number) => readonly [number, number, number],
): Float32Array {
  const out = new Float32Array(width * height)
  const margin =
    Math.ceil(Math.min(WIDEST, settings.width * (settings.distance > 0 ? 4 : 1)) * (1 + settings.waver)) + 1
  const across = width * FINE
  const rows = (STRIP_ROWS + margin * 2) * FINE
  const { kernels } = pool
  const room = kernels.allocate(across * rows * L.LOOK_STRIDE)
  try {
    for (let top = 0; top < height; top += STRIP_ROWS) {
      const first = Math.max(0, top - margin)
      const last = Math.min(height, top + STRIP_ROWS + margin)
      const fineRows = (last - first) * FINE
      pool.run(Look, boxOf(across, fineRows), { record, out: room, fine: FINE, first: first * FINE })
      const bottom = Math.min(height, top + STRIP_ROWS)
      const ids = new Int32Array(kernels.words(room, 0).buffer, room, across * fineRows * (L.LOOK_STRIDE / 4))
      const values = new Float32Array(ids.buffer, room, ids.length)
      const lines = linesOf(ids, values, across, fineRows, first * FINE, settings, ray)
      for (let y = top; y < bottom; y++)
        for (let x = 0; x < width; x++) {
          let sum = 0
          for (let j = 0; j < FINE; j++)
            for (let i = 0; i < FINE; i++) sum += lines[((y - first) * FINE + j) * across + x * FINE + i]!
          out[y * width + x] = sum / FINE / FINE
        }
    }
  } finally {
    kernels.dispose(room)
  }
  return out
}

const WORDS = L.LOOK_STRIDE / 4
/** What an edge is between: different things, or parts of one. */
const BORDER = 1
const FOLD = 2

/** 1 where a place lies on a line. */
function linesOf(
  ids: Int32Array,
  values: Float32Array,
  width: number,
  height: number,
  firstRow: number,
  settings: OutlineSettings,
  ray: (px: number, py: number) => readonly [number, number, number],
): Uint8Array {
  const seeds = new Uint8Array(width * height)
  const crease = Math.cos((Math.min(180, settings.crease) * Math.PI) / 180)
  const compare = (a: number, b: number, dx: number, dy: number): void => {
    const p = a * WORDS
    const q = b * WORDS
    if (!ids[p] && !ids[q]) return
    // Seeds stand on the nearer side
    const nearer = !ids[q] || (ids[p] && values[p + 2]! <= values[q + 2]!) ? a : b
    if (ids[p] !== ids[q]) {
      seeds[nearer] = BORDER
      return
    }
    if (settings.materials && ids[p + 1] !== ids[q + 1]) {
      seeds[nearer] ||= FOLD
      return
    }
    const facing = values[p + 3]! * values[q + 3]! + values[p + 4]! * values[q + 4]! + values[p + 5]! * values[q + 5]!
    if (facing < crease) {
      seeds[nearer] ||= FOLD
      return
    }
    // One thing before another part of itself: it lies behind the plane of the nearer, seen from either
    const za = values[p + 2]!
    const zb = values[q + 2]!
    if (Math.abs(za - zb) < STEP * Math.min(za, zb)) return
    const x = a % width
    const y = Math.floor(a / width) + firstRow
    const ra = ray((x + 0.5) / FINE, (y + 0.5) / FINE)
    const rb = ray((x + dx + 0.5) / FINE, (y + dy + 0.5) / FINE)
    const off = (k: number): number =>
      (rb[0] * zb - ra[0] * za) * values[k + 3]! +
      (rb[1] * zb - ra[1] * za) * values[k + 4]! +
      (rb[2] * zb - ra[2] * za) * values[k + 5]!
    if (Math.min(Math.abs(off(p)), Math.abs(off(q))) > STEP * Math.min(za, zb)) seeds[nearer] = BORDER
  }
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = y * width + x
      if (x + 1 < width) compare(at, at + 1, 1, 0)
      if (y + 1 < height) compare(at, at + width, 0, 1)
    }
  if (crease > -1) roundFolds(ids, values, width, height, crease, seeds)
  const nearest = nearestSeed(seeds, width, height)
  const out = new Uint8Array(width * height)
  for (let at = 0; at < out.length; at++) {
    const seed = nearest[at]!
    if (seed < 0) continue
    const sx = seed % width
    const sy = (seed - sx) / width
    const x = at % width
    const y = (at - x) / width
    const k = seed * WORDS
    // From the edge itself, which lies half a place beyond the seed
    const own = ids[at * WORDS] === ids[k]
    const distance = Math.hypot(x - sx, y - sy) + (own ? 0.5 : -0.5)
    const wide = widthAt(values, k, sx, sy + firstRow, settings, ray) * FINE
    const half = settings.side === 'both' || seeds[seed] === FOLD
    if (!half && own !== (settings.side === 'inside')) continue
    if (distance <= (half ? wide / 2 : wide)) out[at] = 1
  }
  return out
}

/** Places over which an edge may be rounded or cut off and still be one fold: a pixel and a half. */
const BLUNT = 6
/**
 * Folds over such edges: no two places beside each other face apart enough, those farther apart do. One seed in the
 * middle of each.
 */
function roundFolds(
  ids: Int32Array,
  values: Float32Array,
  width: number,
  height: number,
  crease: number,
  seeds: Uint8Array,
): void {
  const facing = (a: number, b: number): number =>
    values[a * WORDS + 3]! * values[b * WORDS + 3]! +
    values[a * WORDS + 4]! * values[b * WORDS + 4]! +
    values[a * WORDS + 5]! * values[b * WORDS + 5]!
  const folds = (from: number, step: number): boolean => {
    const first = ids[from * WORDS]!
    if (!first || facing(from, from + BLUNT * step) >= crease) return false
    for (let k = 1; k <= BLUNT; k++)
      if (ids[(from + k * step) * WORDS] !== first || seeds[from + k * step]) return false
    return !seeds[from]
  }
  const found: number[] = []
  const along = (start: number, step: number, count: number): void => {
    for (let i = 0, run = 0; i < count - BLUNT; i++) {
      const folded = folds(start + i * step, step)
      if (folded) run++
      if (run && (!folded || i === count - BLUNT - 1)) {
        found.push(start + (i - (folded ? 0 : 1) - ((run - 1) >> 1) + BLUNT / 2) * step)
        run = 0
      }
    }
  }
  for (let y = 0; y < height; y++) along(y * width, 1, width)
  for (let x = 0; x < width; x++) along(x, width, height)
  for (const at of found) seeds[at] = FOLD
}

function widthAt(
  values: Float32Array,
  at: number,
  x: number,
  y: number,
  { width, distance, waver, waverSize }: OutlineSettings,
  ray: (px: number, py: number) => readonly [number, number, number],
): number {
  const z = values[at + 2]!
  let wide = distance > 0 ? width * Math.min(4, distance / Math.max(1e-6, z)) : width
  if (waver > 0) {
    const r = ray((x + 0.5) / FINE, (y + 0.5) / FINE)
    wide *= 1 + waver * (2 * valueNoise((r[0] * z) / waverSize, (r[1] * z) / waverSize, (r[2] * z) / waverSize) - 1)
  }
  return Math.min(WIDEST, wide)
}

/** Smooth noise of the world, 0..1, from a hash of whole places about it. */
function valueNoise(x: number, y: number, z: number): number {
  const ix = Math.floor(x)
  const iy = Math.floor(y)
  const iz = Math.floor(z)
  const soft = (t: number): number => t * t * (3 - 2 * t)
  const fx = soft(x - ix)
  const fy = soft(y - iy)
  const fz = soft(z - iz)
  const at = (i: number, j: number, k: number): number => {
    let h = Math.imul(ix + i, 374761393) ^ Math.imul(iy + j, 668265263) ^ Math.imul(iz + k, 2147483647 - 1274126177)
    h = Math.imul(h ^ (h >>> 13), 1274126177)
    return ((h ^ (h >>> 16)) >>> 0) / 4294967296
  }
  const mix = (a: number, b: number, t: number): number => a + (b - a) * t
  return mix(
    mix(mix(at(0, 0, 0), at(1, 0, 0), fx), mix(at(0, 1, 0), at(1, 1, 0), fx), fy),
    mix(mix(at(0, 0, 1), at(1, 0, 1), fx), mix(at(0, 1, 1), at(1, 1, 1), fx), fy),
    fz,
  )
}

/**
 * For each place the nearest seed, -1 where there is none: exact (P. Felzenszwalb and D. Huttenlocher, "Distance
 * transforms of sampled functions", Theory of Computing 8, 2012).
 */
export function nearestSeed(seeds: Uint8Array, width: number, height: number): Int32Array {
  const column = new Int32Array(width * height).fill(-1)
  const out = new Int32Array(width * height).fill(-1)
  for (let x = 0; x < width; x++) {
    let last = -1
    for (let y = 0; y < height; y++) {
      if (seeds[y * width + x]) last = y
      column[y * width + x] = last
    }
    last = -1
    for (let y = height - 1; y >= 0; y--) {
      if (seeds[y * width + x]) last = y
      const above = column[y * width + x]!
      if (last >= 0 && (above < 0 || last - y < y - above)) column[y * width + x] = last
    }
  }
  const parabola = new Int32Array(width)
  const from = new Float64Array(width + 1)
  for (let y = 0; y < height; y++) {
    const row = y * width
    const rise = (x: number): number => (column[row + x]! - y) ** 2
    let count = 0
    for (let x = 0; x < width; x++) {
      if (column[row + x]! < 0) continue
      let cross = -Infinity
      while (count > 0) {
        const v = parabola[count - 1]!
        cross = (rise(x) + x * x - rise(v) - v * v) / (2 * (x - v))
        if (cross > from[count - 1]!) break
        count--
      }
      parabola[count] = x
      from[count] = count === 0 ? -Infinity : cross
      count++
    }
    for (let x = 0, k = 0; x < width && count; x++) {
      while (k + 1 < count && from[k + 1]! < x) k++
      out[row + x] = column[row + parabola[k]!]! * width + parabola[k]!
    }
  }
  return out
}
