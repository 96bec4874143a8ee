// The bell house as a glTF scene: what the demo renders into its plate.
import type { Material, Node } from '@gltf-transform/core'
import type { Vector3 } from '../core/scene/vector'
import { kelvinToRgb } from '../core/colour/kelvin'
import { PUDDLE, puddleDepth } from './quay'
import { bellMesh, netDrape } from './bellParts'
import { sceneMaker } from './gltf'
import { box, join, quad, tube, turned, type Mesh } from './mesh'
import * as T from './textures'

/** Where the house stands in the plate's world, metres. */
export const HOUSE: Vector3 = [2.15, 0, -9.3]
const TURN = -0.42

export async function bellHouse(): Promise<Uint8Array> {
  const { document, scene, material, put: place, write } = sceneMaker('Hallin Ness')
  const root = document
    .createNode('bell house')
    .setTranslation(HOUSE)
    .setRotation([0, Math.sin(TURN / 2), 0, Math.cos(TURN / 2)])
  scene.addChild(root)
  const put = (name: string, mesh: Mesh, look: Material, parent: Node | null = root, extras?: object): Node =>
    place(name, mesh, look, parent, extras)

  const paintBumps = T.normals(
    256,
    256,
    (x, y) => (x % 64 < 1 ? 0 : Math.sin(x * 0.9) * 0.02 + T.seeded(x * 7919 + y)() * 0.05),
    0.6,
  )
  const iron = material('painted iron', {
    picture: T.paint(512, 512, T.painted(0.115, 0.15, 0.155, 11)),
    rough: 0.42,
    bumps: paintBumps,
  })
  const roofing = material('lead roof', {
    picture: T.paint(512, 512, T.painted(0.2, 0.215, 0.22, 23)),
    metallic: 0.55,
    rough: 0.5,
  })
  const plinthStone = material('granite', {
    picture: T.paint(1024, 1024, T.stone),
    rough: 0.78,
    bumps: T.normals(
      512,
      512,
      (x, y) =>
        T.seeded(Math.floor(x / 2) * 31 + Math.floor(y / 2) * 17)() * 0.35 + Math.sin(x / 9) * Math.sin(y / 13) * 0.4,
      0.9,
    ),
  })
  const bell = material('bronze', {
    picture: T.paint(1024, 512, T.bronze),
    surface: T.paint(1024, 512, T.bronzeRough),
    metallic: 1,
    rough: 1,
  })
  const pane = material('glass', {
    base: [0.9, 0.93, 0.94, 1],
    clear: T.paint(512, 512, T.glass),
    rough: 0.06,
    double: true,
  })
  const lampColour = kelvinToRgb(2400)
  const top = Math.max(...lampColour)
  const bulb = material('lamp glow', {
    base: [0.02, 0.02, 0.02, 1],
    emission: lampColour.map(value => value / top) as Vector3,
    strength: 75,
    rough: 0.4,
  })
  const brass = material('brass', { base: [0.6, 0.42, 0.18, 1], metallic: 1, rough: 0.32 })
  const cord = material('net cord', { picture: T.paint(1024, 1024, T.net), alpha: 'MASK', rough: 0.9, double: true })
  const hemp = material('hemp', { picture: T.paint(256, 512, T.rope), rough: 0.92 })
  const boardPaint = material('painted board', { picture: T.paint(1024, 220, T.board), rough: 0.5 })
  const ground = material('quay stand-in', { base: [0.1, 0.1, 0.105, 1], rough: 0.85 })

  // Plinth of dressed blocks, two courses, uneven joints
  const random = T.seeded(5)
  const blocks: Mesh[] = []
  for (const [course, y0, y1] of [
    [0, 0, 0.34],
    [1, 0.34, 0.62],
  ] as const) {
    const half = 1.22 - course * 0.07
    for (const side of [0, 1, 2, 3]) {
      for (let at = -half + (side % 2 ? 0.26 : 0); at < half - 0.01;) {
        const width = Math.min(half - at, 0.42 + random() * 0.36)
        const out = half + (random() - 0.5) * 0.014
        const low: Vector3 =
          side % 2
            ? [side === 1 ? out - 0.26 : -out, y0 + 0.004, at + 0.004]
            : [at + 0.004, y0 + 0.004, side === 0 ? out - 0.26 : -out]
        const high: Vector3 =
          side % 2
            ? [side === 1 ? out : -out + 0.26, y1 - 0.004, at + width - 0.004]
            : [at + width - 0.004, y1 - 0.004, side === 0 ? out : -out + 0.26]
        blocks.push(box(low, high, 0.012, 0.7))
        at += width
      }
    }
  }
  blocks.push(box([-1, 0, -1], [1, 0.56, 1], 0.01, 0.7))
  put('plinth', join(...blocks), plinthStone)
  put('floor', box([-1.16, 0.6, -1.16], [1.16, 0.68, 1.16], 0.02, 0.8), plinthStone)

  // Frame of eight posts with rails; panes between; a door side towards the quay
  const posts: Mesh[] = []
  const panes: Mesh[] = []
  const R = 1.02
  const H0 = 0.68
  const H1 = 2.62
  for (let i = 0; i < 8; i++) {
    const a = ((i + 0.5) * Math.PI) / 4
    const b = ((i + 1.5) * Math.PI) / 4
    const p: Vector3 = [Math.cos(a) * R, 0, Math.sin(a) * R]
    const q: Vector3 = [Math.cos(b) * R, 0, Math.sin(b) * R]
    posts.push(
      tube(
        [
          [p[0], H0, p[2]],
          [p[0], H1, p[2]],
        ],
        0.034,
        12,
        2,
      ),
    )
    for (const [y, r] of [
      [H0 + 0.05, 0.03],
      [1.32, 0.016],
      [1.98, 0.016],
      [H1 - 0.03, 0.03],
    ] as const)
      posts.push(
        tube(
          [
            [p[0], y, p[2]],
            [q[0], y, q[2]],
          ],
          r,
          8,
          2,
        ),
      )
    const m: Vector3 = [(p[0] + q[0]) / 2, 0, (p[2] + q[2]) / 2]
    posts.push(
      tube(
        [
          [m[0], H0, m[2]],
          [m[0], H1, m[2]],
        ],
        0.013,
        8,
        2,
      ),
    )
    for (const [y0, y1] of [
      [H0 + 0.07, 1.31],
      [1.33, 1.97],
      [1.99, H1 - 0.05],
    ] as const)
      for (const [s, e] of [
        [p, m],
        [m, q],
      ] as const)
        panes.push(quad([e[0], y0, e[2]], [s[0], y0, s[2]], [s[0], y1, s[2]], [e[0], y1, e[2]]))
  }
  put(
    'iron frame',
    join(
      ...posts,
      turned(
        [
          [1.0, 0],
          [1.09, 0.01],
          [1.1, 0.06],
          [1.04, 0.1],
          [0.96, 0.1],
        ],
        [0, H1 - 0.02, 0],
        8,
      ),
    ),
    iron,
  )
  put('glass panes', join(...panes), pane)
  const roofProfile: [number, number][] = [
    [1.3, 0],
    [1.31, 0.03],
    [1.26, 0.07],
    [0.98, 0.25],
    [0.62, 0.52],
    [0.3, 0.8],
    [0.14, 0.98],
    [0.11, 1.06],
    [0.16, 1.1],
    [0.16, 1.16],
    [0.06, 1.22],
    [0.03, 1.5],
    [0, 1.52],
  ]
  put(
    'roof',
    join(
      turned(roofProfile, [0, H1 + 0.06, 0], 96, 2),
      turned(
        [
          [0, 0.02],
          [1.3, 0],
        ],
        [0, H1 + 0.05, 0],
        48,
      ),
    ),
    roofing,
  )
  const seams: Mesh[] = []
  for (let i = 0; i < 16; i++) {
    const a = (i * Math.PI) / 8
    seams.push(
      tube(
        roofProfile.slice(1, 7).map(([r, h]) => [Math.cos(a) * r, H1 + 0.07 + h, Math.sin(a) * r] as Vector3),
        0.012,
        6,
        2,
      ),
    )
  }
  put('roof seams', join(...seams), roofing)

  // The bell: lip, waist, shoulder, crown; inside as well
  put('bell', bellMesh(), bell)
  put(
    'clapper',
    join(
      tube(
        [
          [0, 2.0, 0],
          [0.03, 1.2, 0],
        ],
        0.022,
        8,
      ),
      turned(
        [
          [0, 0],
          [0.06, 0.02],
          [0.085, 0.08],
          [0.06, 0.14],
          [0, 0.16],
        ],
        [0.03, 1.05, 0],
        32,
      ),
    ),
    iron,
  )
  put(
    'yoke',
    join(
      box([-0.98, 2.24, -0.06], [0.98, 2.36, 0.06], 0.015),
      tube(
        [
          [0, 2.18, 0],
          [0, 2.3, 0],
        ],
        0.07,
        16,
      ),
    ),
    iron,
  )

  // Two lamps on brackets under the eaves, in front
  for (const [name, angle, height] of [
    ['lamp left', 1.22, 2.3],
    ['lamp right', 0.1, 2.3],
  ] as const) {
    const x = Math.cos(angle) * 1.2
    const z = Math.sin(angle) * 1.2
    put(
      name,
      turned(
        [
          [0, -0.09],
          [0.05, -0.08],
          [0.078, -0.03],
          [0.08, 0.03],
          [0.055, 0.085],
          [0, 0.095],
        ],
        [x, height, z],
        32,
      ),
      bulb,
    )
    put(
      `${name} fitting`,
      join(
        turned(
          [
            [0.13, 0.06],
            [0.125, 0.075],
            [0.06, 0.13],
            [0.03, 0.15],
            [0.02, 0.2],
            [0, 0.2],
          ],
          [x, height + 0.02, z],
          32,
        ),
        tube(
          [
            [x, height + 0.2, z],
            [x, height + 0.3, z],
            [Math.cos(angle) * 1.04, height + 0.32, Math.sin(angle) * 1.04],
          ],
          0.014,
          8,
        ),
      ),
      brass,
    )
  }

  // Name board on the quay side, rope net hung over the plinth, a coil at the foot
  const facing = Math.PI * 0.375 + 0.2
  const fx = Math.cos(facing)
  const fz = Math.sin(facing)
  put(
    'name board',
    quad(
      [fx * 1.2 + fz * -0.62, 0.86, fz * 1.2 + fx * 0.62],
      [fx * 1.2 + fz * 0.62, 0.86, fz * 1.2 - fx * 0.62],
      [fx * 1.17 + fz * 0.62, 1.12, fz * 1.17 - fx * 0.62],
      [fx * 1.17 + fz * -0.62, 1.12, fz * 1.17 + fx * 0.62],
    ),
    boardPaint,
  )
  put('rope net', netDrape(), cord)
  const coil: Vector3[] = []
  for (let i = 0; i <= 420; i++) {
    const t = i / 420
    const turns = 5.3 * Math.PI * 2 * t
    const r = 0.34 - 0.05 * Math.sin(t * 9) - t * 0.05
    coil.push([
      -0.62 + Math.cos(turns) * r,
      0.035 + Math.floor(t * 4) * 0.038 + 0.012 * Math.sin(turns * 1.3),
      1.72 + Math.sin(turns) * r,
    ])
  }
  for (let i = 0; i <= 30; i++) coil.push([-0.3 - i * 0.035, 0.03, 1.98 + Math.sin(i * 0.22) * 0.16 + i * 0.012])
  put('rope coil', tube(coil, 0.021, 9, 3), hemp)

  // Standing water in front: mirrors house and sky, its edge thinning out
  const film = T.paint(512, 256, (u, v) => [
    0.012,
    0.014,
    0.016,
    0.94 * puddleDepth(PUDDLE[0] + (u - 0.5) * 5, PUDDLE[2] + (v - 0.5) * 2),
  ])
  put(
    'standing water',
    quad(
      [PUDDLE[0] - 2.5, 0.006, PUDDLE[2] + 1],
      [PUDDLE[0] + 2.5, 0.006, PUDDLE[2] + 1],
      [PUDDLE[0] + 2.5, 0.006, PUDDLE[2] - 1],
      [PUDDLE[0] - 2.5, 0.006, PUDDLE[2] - 1],
    ),
    material('water', { picture: film, alpha: 'BLEND', rough: 0.16 }),
    null,
  )

  // The ground that catches the shadow
  put('quay', quad([-60, 0, 30], [60, 0, 30], [60, 0, -12.4], [-60, 0, -12.4]), ground, null, { role: 'catcher' })
  const yfov = 2 * Math.atan(12 / 35)
  const camera = document
    .createCamera('plate camera')
    .setType('perspective')
    .setYFov(yfov)
    .setAspectRatio(1.5)
    .setZNear(0.1)
    .setExtras({ sensorWidth: 36 })
  scene.addChild(
    document.createNode('plate camera').setCamera(camera).setTranslation([0, 1.62, 0]).setRotation(cameraRotation()),
  )
  return write()
}

export const CAMERA = { focalLength: 35, sensorWidth: 36, x: 0, y: 1.62, z: 0, heading: 0, pitch: -2.1, bank: 0.5 }
function cameraRotation(): [number, number, number, number] {
  const p = (CAMERA.pitch * Math.PI) / 360
  const b = (CAMERA.bank * Math.PI) / 360
  const [sx, cx, sz, cz] = [Math.sin(p), Math.cos(p), Math.sin(b), Math.cos(b)]
  return [sx * cz, -sx * sz, cx * sz, cx * cz]
}
