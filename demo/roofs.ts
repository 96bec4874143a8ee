// Houses of a harbour seen from above: harled walls, roofs of slates that lie one over the other, chimneys, windows.
import { normalized, type Vector3 } from '../core/scene/vector'
import { box, empty, face, join, turned, type Mesh } from './mesh'
import { random } from './noise'

export interface House {
  low: [x: number, z: number]
  high: [x: number, z: number]
  base: number
  eave: number
  ridge: number
  along: 'x' | 'z'
  seed: number
  /** Where chimneys stand along the ridge, 0..1. */
  chimneys?: number[]
}
export interface HouseParts {
  walls: Mesh
  slates: Mesh
  /** Boards beneath them, so that no light comes between. */
  decks: Mesh
  ridges: Mesh
  chimneys: Mesh
}

const plus = (a: Vector3, b: Vector3, by: number): Vector3 => [a[0] + b[0] * by, a[1] + b[1] * by, a[2] + b[2] * by]
const OVER = 0.28
/** From one row of slates to the next, metres. */
const ROW = 0.27

/** Slates of one slope: from a corner at the eave, so far along it and so far up. */
function slates(
  corner: Vector3,
  along: Vector3,
  up: Vector3,
  out: Vector3,
  length: number,
  height: number,
  seed: number,
): Mesh {
  const mesh = empty()
  const next = random(seed)
  const at = (across: number, rise: number, lift: number): Vector3 =>
    plus(plus(plus(corner, along, across), up, rise), out, lift)
  for (let row = 0; row * ROW < height; row++) {
    let left = -next() * 0.3
    while (left < length) {
      const wide = 0.24 + next() * 0.16
      const [from, to] = [Math.max(0, left + 0.004), Math.min(length, left + wide - 0.004)]
      left += wide
      if (to - from < 0.03) continue
      const low = row * ROW - next() * 0.018
      const high = Math.min(height, low + ROW * 1.5)
      const lift = 0.03 + next() * 0.012
      const askew = (next() - 0.5) * 0.014
      const own = next() * 40
      const before = mesh.uvs.length
      // Its face, and the edges that are seen: below and at both sides
      const [a, b, c, d] = [
        at(from, low, lift + askew),
        at(to, low, lift - askew),
        at(to, high, 0.004),
        at(from, high, 0.004),
      ]
      const under = 0.014
      const [e, f] = [plus(a, out, -under), plus(b, out, -under)]
      face(mesh, [a, b, c, d])
      face(mesh, [e, f, b, a])
      face(mesh, [e, a, d, plus(d, out, -0.003)])
      face(mesh, [b, f, plus(c, out, -0.003), c])
      for (let i = before; i < mesh.uvs.length; i++) mesh.uvs[i] = mesh.uvs[i]! * 0.45 + own * (i % 2 ? 0.37 : 0.61)
    }
  }
  return mesh
}

export function house({ low, high, base, eave, ridge, along, seed, chimneys = [] }: House): HouseParts {
  const [x0, z0] = low
  const [x1, z1] = high
  const walls = [box([x0, base, z0], [x1, eave, z1], 0.03, 0.35)]
  const isX = along === 'x'
  const half = (isX ? z1 - z0 : x1 - x0) / 2
  const middle = isX ? (z0 + z1) / 2 : (x0 + x1) / 2
  const gable = empty()
  for (const end of isX ? [x0, x1] : [z0, z1]) {
    const outward = end === (isX ? x1 : z1) ? 1 : -1
    const place = (across: number, y: number): Vector3 => (isX ? [end, y, across] : [across, y, end])
    const corners = [place(middle - half, eave - 0.03), place(middle + half, eave - 0.03), place(middle, ridge)]
    face(gable, outward === (isX ? -1 : 1) ? corners : corners.reverse(), 0.35)
  }
  walls.push(gable)
  const rise = ridge - eave
  const slope = Math.hypot(rise, half)
  const hang = (OVER * rise) / half
  const roofs: Mesh[] = []
  const bedding: Mesh[] = []
  for (const side of [-1, 1]) {
    const up: Vector3 = isX ? normalized([0, rise, -side * half]) : normalized([-side * half, rise, 0])
    const out: Vector3 = isX ? normalized([0, half, side * rise]) : normalized([side * rise, half, 0])
    const edge = middle + side * (half + OVER)
    // Along the eave so that along, up, out are right-handed
    const begin = side > 0 === isX ? 0 : 1
    const [from, to] = isX ? [x0 - OVER, x1 + OVER] : [z0 - OVER, z1 + OVER]
    const start = begin === 0 ? from : to
    const direction: Vector3 = isX ? [begin === 0 ? 1 : -1, 0, 0] : [0, 0, begin === 0 ? 1 : -1]
    const corner: Vector3 = isX ? [start, eave - hang, edge] : [edge, eave - hang, start]
    const tall = slope * (1 + OVER / half)
    roofs.push(slates(corner, direction, up, out, to - from, tall, seed + side))
    const deck = empty()
    const far = plus(corner, direction, to - from)
    face(deck, [corner, far, plus(far, up, tall), plus(corner, up, tall)])
    bedding.push(deck)
  }
  const [from, to] = isX ? [x0 - OVER, x1 + OVER] : [z0 - OVER, z1 + OVER]
  const tiles: Mesh[] = []
  const next = random(seed * 31)
  for (let at = from; at < to - 0.1;) {
    const end = Math.min(to, at + 0.42 + next() * 0.06)
    const y = ridge - 0.03 + (next() - 0.5) * 0.012
    tiles.push(
      isX
        ? box([at + 0.006, y, middle - 0.1], [end, y + 0.11, middle + 0.1], 0.045, 1)
        : box([middle - 0.1, y, at + 0.006], [middle + 0.1, y + 0.11, end], 0.045, 1),
    )
    at = end
  }
  const stacks: Mesh[] = []
  for (const share of chimneys) {
    const at = from + (to - from) * share
    const [cx, cz] = isX ? [at, middle] : [middle, at]
    const [wx, wz] = isX ? [0.34, 0.62] : [0.62, 0.34]
    stacks.push(
      box([cx - wx, ridge - 0.9, cz - wz], [cx + wx, ridge + 1.05, cz + wz], 0.02, 0.5),
      box([cx - wx - 0.06, ridge + 1.05, cz - wz - 0.06], [cx + wx + 0.06, ridge + 1.17, cz + wz + 0.06], 0.02, 0.5),
    )
    for (const pot of [-0.5, 0.5])
      stacks.push(
        turned(
          [
            [0.13, 0],
            [0.11, 0.42],
            [0.14, 0.46],
            [0.13, 0.5],
            [0.1, 0.5],
            [0.1, 0.1],
          ],
          [cx + (isX ? 0 : pot * 0.62), ridge + 1.17, cz + (isX ? pot * 0.62 : 0)],
          24,
        ),
      )
  }
  return {
    walls: join(...walls),
    slates: join(...roofs),
    decks: join(...bedding),
    ridges: join(...tiles),
    chimneys: join(...stacks),
  }
}

export interface Window {
  /** The middle of its sill, and the way it looks. */
  at: Vector3
  faces: 'x' | 'z'
  wide: number
  tall: number
}
/** Frame and bars of a window before a wall, and its pane. */
export function windowOf({ at: [x, y, z], faces, wide, tall }: Window): { frame: Mesh; pane: Mesh } {
  const place = (across: number, up: number, out: number): Vector3 =>
    faces === 'z' ? [x + across, y + up, z + out] : [x + out, y + up, z - across]
  const bar = (a0: number, u0: number, a1: number, u1: number, out0: number, out1: number): Mesh => {
    const [p, q] = [place(a0, u0, out0), place(a1, u1, out1)]
    const low = p.map((value, i) => Math.min(value, q[i]!)) as Vector3
    const high = p.map((value, i) => Math.max(value, q[i]!)) as Vector3
    return box(low, high, 0.006)
  }
  const h = wide / 2
  const frame = join(
    bar(-h - 0.09, -0.1, h + 0.09, -0.02, 0, 0.11),
    bar(-h - 0.07, -0.02, -h, tall + 0.06, 0, 0.05),
    bar(h, -0.02, h + 0.07, tall + 0.06, 0, 0.05),
    bar(-h, tall, h, tall + 0.06, 0, 0.05),
    bar(-h, -0.02, h, 0.03, 0, 0.05),
    bar(-h, tall / 2 - 0.02, h, tall / 2 + 0.02, 0, 0.045),
    bar(-0.012, 0.03, 0.012, tall, 0, 0.04),
  )
  const pane = empty()
  face(pane, [place(-h, 0, 0.012), place(h, 0, 0.012), place(h, tall, 0.012), place(-h, tall, 0.012)])
  return { frame, pane }
}
