// What stands about in the harbour at night: boats, walls of blocks, lamps, lights in roofs, the far shore.
import type { Vector3 } from '../core/scene/vector'
import { box, empty, join, netIndices, quad, terrain, tube, turned, type Mesh } from './mesh'
import { fractal, random, smooth } from './noise'
import type { House } from './roofs'

/** Top of the quay and of the pier; where water stands when it is there; the floor of the basin. Metres. */
export const QUAY_TOP = 1.2
export const PIER_TOP = 1.5
export const HIGH_WATER = -0.5
export const FLOOR = -2.6
/** The wall that words are painted on: the gable of the store. */
export const STORE: House = {
  low: [-9, -30],
  high: [-2.5, -20],
  base: QUAY_TOP,
  eave: 6.4,
  ridge: 9.4,
  along: 'z',
  seed: 71,
}

/** A clinker boat on the mud, keel down and leaning. */
export function boat(at: Vector3, turn: number, lean: number): Mesh {
  const parts: Mesh[] = []
  const [length, beam, tall] = [5.2, 1.75, 0.85]
  const rib = (t: number): number => Math.sin(Math.PI * Math.min(1, 0.06 + t * 0.97)) ** 0.6
  const edge = (t: number, plank: number, side: number): Vector3 => {
    const share = plank / 6
    const half = (beam / 2) * rib(t) * Math.sin((0.16 + share * 0.84) * (Math.PI / 2))
    const sheer = 0.18 * (2 * t - 1) ** 2 * share
    return [side * (half + 0.006 * plank), tall * share ** 1.35 + sheer + 0.1, (t - 0.5) * length]
  }
  for (const side of [-1, 1])
    for (let plank = 0; plank < 6; plank++)
      for (let k = 0; k < 24; k++) {
        const [a, b] = [edge(k / 24, plank, side), edge((k + 1) / 24, plank, side)]
        const [c, d] = [edge((k + 1) / 24, plank + 1, side), edge(k / 24, plank + 1, side)]
        // Both faces are seen
        parts.push(side > 0 ? quad(a, b, c, d, 0.3) : quad(b, a, d, c, 0.3))
      }
  for (const side of [-1, 1])
    parts.push(
      tube(
        Array.from({ length: 25 }, (_, k) => edge(k / 24, 6, side)),
        0.035,
        8,
      ),
    )
  parts.push(
    tube(
      Array.from(
        { length: 25 },
        (_, k) => [0, 0.06 + 0.1 * Math.abs(k / 12 - 1) ** 4, (k / 24 - 0.5) * length] as Vector3,
      ),
      0.05,
      8,
    ),
  )
  for (const z of [-1.1, 0.1, 1.3]) parts.push(box([-0.72, 0.55, z - 0.13], [0.72, 0.59, z + 0.13], 0.008, 0.6))
  const mesh = join(...parts)
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  const [cl, sl] = [Math.cos(lean), Math.sin(lean)]
  for (const key of ['positions', 'normals'] as const) {
    const list = mesh[key]
    const shift = key === 'positions' ? at : [0, 0, 0]
    for (let i = 0; i < list.length; i += 3) {
      const [x, y, z] = [list[i]! * cl - list[i + 1]! * sl, list[i]! * sl + list[i + 1]! * cl, list[i + 2]!]
      list[i] = c * x + s * z + shift[0]!
      list[i + 1] = y + shift[1]!
      list[i + 2] = -s * x + c * z + shift[2]!
    }
  }
  return mesh
}

/** Courses of dressed blocks along a wall that runs along x or z, its face outward by so much of unevenness. */
export function blocks(
  axis: 'x' | 'z',
  from: number,
  to: number,
  face: number,
  out: 1 | -1,
  low: number,
  high: number,
  seed: number,
): Mesh {
  const next = random(seed)
  const parts: Mesh[] = []
  for (let y = low; y < high - 0.05;) {
    const top = Math.min(high, y + 0.42 + next() * 0.16)
    for (let at = from - next() * 0.9; at < to;) {
      const end = Math.min(to, at + 0.7 + next() * 0.9)
      const depth = face + out * (next() - 0.4) * 0.035
      const [near, far] = [Math.min(depth, face - out * 0.5), Math.max(depth, face - out * 0.5)]
      const begin = Math.max(from, at)
      if (end - begin > 0.05)
        parts.push(
          axis === 'x'
            ? box([begin + 0.008, y + 0.008, near], [end - 0.008, top - 0.008, far], 0.025, 0.5)
            : box([near, y + 0.008, begin + 0.008], [far, top - 0.008, end - 0.008], 0.025, 0.5),
        )
      at = end
    }
    y = top
  }
  return join(...parts)
}

/** Wet flats and sea as far as one sees, in rings about the camera beyond the basin. */
export function farShore(): Mesh {
  const mesh = empty()
  const [rings, spokes] = [40, 90]
  for (let ring = 0; ring <= rings; ring++)
    for (let spoke = 0; spoke <= spokes; spoke++) {
      const radius = 90 * 260 ** (ring / rings)
      const angle = -Math.PI * (spoke / spokes)
      const [x, z] = [Math.cos(angle) * radius, Math.sin(angle) * radius]
      mesh.positions.push(x, FLOOR - 0.45, z)
      mesh.normals.push(0, 1, 0)
      mesh.uvs.push(x * 0.03, z * 0.03)
    }
  netIndices(mesh, spokes, rings)
  return mesh
}
/** Rising ground behind the houses. */
export const hills = (): Mesh =>
  terrain(
    -420,
    6,
    -460,
    -96,
    120,
    100,
    (x, z) =>
      FLOOR -
      1 +
      smooth(8, -70, x + (fractal(z * 0.02, 3, 3, 5) - 0.5) * 30) *
        smooth(-92, -150, z) *
        (9 + fractal(x * 0.02, z * 0.02, 5, 9) * 22),
    0.02,
  )

/** A lamp over the quay's edge, and what it hangs from. */
export function streetLamp(z: number): { post: Mesh; bulb: Mesh } {
  const [x, y] = [1.5, QUAY_TOP + 4.1]
  return {
    post: join(
      tube(
        [
          [x, QUAY_TOP, z],
          [x, y + 0.5, z],
        ],
        0.055,
        12,
      ),
      turned(
        [
          [0.16, 0],
          [0.16, 0.1],
          [0.1, 0.4],
          [0.07, 0.9],
          [0.055, 1],
        ],
        [x, QUAY_TOP, z],
        16,
      ),
      tube(
        [
          [x, y + 0.45, z],
          [x + 0.3, y + 0.52, z + 0.05],
          [x + 0.62, y + 0.3, z + 0.1],
        ],
        0.026,
        8,
      ),
      turned(
        [
          [0.24, 0.02],
          [0.22, 0.07],
          [0.1, 0.16],
          [0.03, 0.24],
          [0, 0.24],
        ],
        [x + 0.62, y + 0.05, z + 0.1],
        24,
      ),
    ),
    bulb: turned(
      [
        [0, -0.1],
        [0.07, -0.07],
        [0.09, 0],
        [0.06, 0.06],
        [0, 0.07],
      ],
      [x + 0.62, y, z + 0.1],
      20,
    ),
  }
}
/** The lamp over the words on the store's gable: a hood on a bracket, its bulb within. */
export function signLamp(): { post: Mesh; bulb: Mesh } {
  const [x, y, z] = [(STORE.low[0] + STORE.high[0]) / 2, STORE.ridge - 0.95, STORE.high[1]]
  return {
    post: join(
      tube(
        [
          [x, y + 0.1, z],
          [x, y + 0.42, z + 0.5],
          [x, y + 0.3, z + 0.85],
        ],
        0.02,
        8,
      ),
      turned(
        [
          [0.2, -0.02],
          [0.19, 0.03],
          [0.1, 0.13],
          [0.03, 0.2],
          [0, 0.2],
        ],
        [x, y + 0.1, z + 0.85],
        24,
      ),
    ),
    bulb: turned(
      [
        [0, -0.06],
        [0.045, -0.04],
        [0.055, 0],
        [0.04, 0.04],
        [0, 0.05],
      ],
      [x, y + 0.08, z + 0.85],
      16,
    ),
  }
}
/** A light in a roof: so far along it and up it from a place on its slope. */
export function roofLight(corner: Vector3, along: Vector3, up: Vector3, out: Vector3): { frame: Mesh; pane: Mesh } {
  const at = (a: number, u: number, o: number): Vector3 =>
    corner.map((value, i) => value + along[i]! * a + up[i]! * u + out[i]! * o) as Vector3
  const [wide, tall] = [0.62, 0.86]
  const rail = (a0: number, u0: number, a1: number, u1: number): Mesh =>
    tube([at(a0, u0, 0.07), at(a1, u1, 0.07)], 0.045, 6)
  return {
    frame: join(
      rail(0, 0, wide, 0),
      rail(0, tall, wide, tall),
      rail(0, 0, 0, tall),
      rail(wide, 0, wide, tall),
      rail(wide / 2, 0, wide / 2, tall),
    ),
    pane: quad(at(0, 0, 0.075), at(wide, 0, 0.075), at(wide, tall, 0.075), at(0, tall, 0.075)),
  }
}
