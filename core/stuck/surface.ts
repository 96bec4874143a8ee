// A surface as it is seen on one frame, by where each of its points was at rest: finds on it what is seen on another frame.
// Needs no surface coordinates: a thing may turn, move and bend, its points keep their place at rest.

/** What a render says of each pixel of a frame. */
export interface RestSeen {
  width: number
  height: number
  /** Places at rest, metres. */
  x: ArrayLike<number>
  y: ArrayLike<number>
  z: ArrayLike<number>
  /** Which thing it is: whole numbers that are the same on all frames, 0 for none. */
  thing: ArrayLike<number>
}

/** Steps toward a place; each brings it a pixel or many nearer. */
const STEPS = 12
/** How far from the middle of a pixel its own plane is believed, in pixels. */
const REACH = 0.75
/** How far off that plane a place may lie, of the way from one pixel to the next. */
const OFF = 0.6
/** From one pixel to the next goes no more than so many times the way to the other side: beyond that is another part. */
const JUMP = 8
/** Pixels of the surface that stand in for it when it is looked for from nowhere, at most. */
const MOST_POINTS = 400_000

export class RestSurface {
  /** Pixels by the cell of space that they lie in: starts of cells in `points`. */
  private starts: Int32Array
  private points: Int32Array
  private cell = 1
  /** Of the pixel that is looked at: kept, since it is asked for at every step. */
  private run = new Float64Array(6)

  constructor(private seen: RestSeen) {
    const { width, height, thing } = seen
    let count = 0
    for (let i = 0; i < thing.length; i++) if (thing[i]) count++
    const step = Math.max(1, Math.ceil(Math.sqrt(count / MOST_POINTS)))
    const chosen: number[] = []
    let [sum, ways] = [0, 0]
    for (let y = 0; y < height; y += step)
      for (let x = 0; x < width; x += step) {
        const i = y * width + x
        if (!thing[i]) continue
        chosen.push(i)
        if (x + 1 < width && thing[i + 1] === thing[i]) {
          sum += Math.sqrt(this.squared(i, i + 1))
          ways++
        }
      }
    // Cells somewhat wider than from one point to the next, so that one of those about a place has some
    this.cell = Math.max(1e-6, ways ? (2.5 * step * sum) / ways : 1)
    const buckets = Math.max(1, chosen.length)
    const keys = Int32Array.from(chosen, i => this.bucket(...this.cellOf(seen.x[i]!, seen.y[i]!, seen.z[i]!), buckets))
    this.starts = new Int32Array(buckets + 1)
    for (const key of keys) this.starts[key + 1]!++
    for (let key = 0; key < buckets; key++) this.starts[key + 1]! += this.starts[key]!
    const next = this.starts.slice()
    this.points = new Int32Array(chosen.length)
    keys.forEach((key, k) => {
      this.points[next[key]!++] = chosen[k]!
    })
  }

  private cellOf(x: number, y: number, z: number): [number, number, number] {
    return [Math.floor(x / this.cell), Math.floor(y / this.cell), Math.floor(z / this.cell)]
  }
  /** M. Teschner et al., "Optimized Spatial Hashing", 2003: the cells of space in a table. */
  private bucket(i: number, j: number, k: number, buckets: number): number {
    return ((Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)) >>> 0) % buckets
  }
  private squared(i: number, j: number): number {
    const { x, y, z } = this.seen
    const [dx, dy, dz] = [x[i]! - x[j]!, y[i]! - y[j]!, z[i]! - z[j]!]
    return dx * dx + dy * dy + dz * dz
  }

  /** How much its places change from a pixel to the next, across and down, into `run`; whether neighbours on it tell. */
  private runAt(i: number, column: number, row: number): boolean {
    const { width, height, thing } = this.seen
    const own = thing[i]
    const left = column > 0 && thing[i - 1] === own ? i - 1 : -1
    const right = column + 1 < width && thing[i + 1] === own ? i + 1 : -1
    const above = row > 0 && thing[i - width] === own ? i - width : -1
    const below = row + 1 < height && thing[i + width] === own ? i + width : -1
    return this.way(i, left, right, 0) && this.way(i, above, below, 3)
  }
  /** From a pixel to the next along a direction, by both neighbours or by the one that is on the same part. */
  private way(i: number, before: number, after: number, to: 0 | 3): boolean {
    if (before < 0 && after < 0) return false
    const back = before < 0 ? Infinity : this.squared(i, before)
    const on = after < 0 ? Infinity : this.squared(i, after)
    const isFirst = on > JUMP * JUMP * back
    const isLast = back > JUMP * JUMP * on
    const from = isLast ? i : before
    const next = isFirst ? i : after
    const span = isFirst || isLast ? 1 : 2
    const { x, y, z } = this.seen
    this.run[to] = (x[next]! - x[from]!) / span
    this.run[to + 1] = (y[next]! - y[from]!) / span
    this.run[to + 2] = (z[next]! - z[from]!) / span
    return true
  }

  /**
   * Where on this frame a place of a thing is seen: its pixels, whose middles lie at halves; undefined where it is not. near: a
   * place from which it is not far, as that of the pixel beside.
   */
  find(thing: number, x: number, y: number, z: number, near?: readonly [number, number]): [number, number] | undefined {
    const place = [x, y, z] as const
    const found = near && this.follow(thing, place, near[0], near[1])
    if (found) return found
    const from = this.nearest(thing, place)
    if (from < 0) return undefined
    const { width } = this.seen
    return this.follow(thing, place, (from % width) + 0.5, Math.floor(from / width) + 0.5)
  }

  /** Newton's steps over the pixels of the thing. */
  private follow(
    thing: number,
    [x, y, z]: readonly [number, number, number],
    px: number,
    py: number,
  ): [number, number] | undefined {
    const { width, height, thing: things, x: xs, y: ys, z: zs } = this.seen
    const { run } = this
    let last = -1
    for (let step = 0; step < STEPS; step++) {
      const column = Math.floor(px)
      const row = Math.floor(py)
      if (column < 0 || row < 0 || column >= width || row >= height) return undefined
      const i = row * width + column
      if (things[i] !== thing || !this.runAt(i, column, row)) return undefined
      const [ax, ay, az, bx, by, bz] = [run[0]!, run[1]!, run[2]!, run[3]!, run[4]!, run[5]!]
      const [rx, ry, rz] = [x - xs[i]!, y - ys[i]!, z - zs[i]!]
      const aa = ax * ax + ay * ay + az * az
      const ad = ax * bx + ay * by + az * bz
      const dd = bx * bx + by * by + bz * bz
      const ra = rx * ax + ry * ay + rz * az
      const rd = rx * bx + ry * by + rz * bz
      const det = aa * dd - ad * ad
      if (!(det > 1e-12 * aa * dd)) return undefined
      const u = (ra * dd - rd * ad) / det
      const v = (rd * aa - ra * ad) / det
      const inside = Math.abs(u) <= REACH && Math.abs(v) <= REACH
      // It may go to and fro between two pixels of which either is near enough
      if (inside || i === last) {
        if (!inside) return undefined
        const off = Math.hypot(rx - u * ax - v * bx, ry - u * ay - v * by, rz - u * az - v * bz)
        return off <= OFF * Math.sqrt(Math.max(aa, dd)) ? [column + 0.5 + u, row + 0.5 + v] : undefined
      }
      last = i
      px = column + 0.5 + u
      py = row + 0.5 + v
    }
    return undefined
  }

  /** The pixel of a thing that is nearest to a place at rest, of those in the cells about it; -1 where there is none. */
  private nearest(thing: number, [x, y, z]: readonly [number, number, number]): number {
    const { x: xs, y: ys, z: zs, thing: things } = this.seen
    const buckets = this.starts.length - 1
    const [ci, cj, ck] = this.cellOf(x, y, z)
    let found = -1
    let least = (2 * this.cell) ** 2
    for (let k = ck - 1; k <= ck + 1; k++)
      for (let j = cj - 1; j <= cj + 1; j++)
        for (let i = ci - 1; i <= ci + 1; i++) {
          const key = this.bucket(i, j, k, buckets)
          for (let at = this.starts[key]!, end = this.starts[key + 1]!; at < end; at++) {
            const point = this.points[at]!
            if (things[point] !== thing) continue
            const far = (xs[point]! - x) ** 2 + (ys[point]! - y) ** 2 + (zs[point]! - z) ** 2
            if (far < least) {
              least = far
              found = point
            }
          }
        }
    return found
  }
}

/**
 * Where on the frame that a surface is of each pixel of another is seen: x, y, and whether it is (1 or 0), four numbers a pixel
 * with the thing last.
 */
export function seenOn(surface: RestSurface, there: RestSeen): Float32Array {
  const { width, height, x, y, z, thing } = there
  const out = new Float32Array(width * height * 4)
  for (let row = 0, i = 0; row < height; row++)
    for (let column = 0; column < width; column++, i++) {
      const own = thing[i]!
      if (!own) continue
      // What is beside it is seen beside it, as a rule
      const beside = column > 0 && out[(i - 1) * 4 + 2] && thing[i - 1] === own ? i - 1 : -1
      const above = row > 0 && out[(i - width) * 4 + 2] && thing[i - width] === own ? i - width : -1
      const near = beside >= 0 ? beside : above
      const found = surface.find(
        own,
        x[i]!,
        y[i]!,
        z[i]!,
        near < 0
          ? undefined
          : [out[near * 4]! + (near === beside ? 1 : 0), out[near * 4 + 1]! + (near === beside ? 0 : 1)],
      )
      out[i * 4 + 3] = own
      if (!found) continue
      out[i * 4] = found[0]
      out[i * 4 + 1] = found[1]
      out[i * 4 + 2] = 1
    }
  return out
}
