// The harbour light as a glTF scene: a rendered tower on the head of the pier, its lantern and the two beams that turn
// in it; the pier that catches its light and shadow, and the houses that hide what is behind them.
import { KHRLightsPunctual } from '@gltf-transform/extensions'
import type { Node } from '@gltf-transform/core'
import type { Vector3 } from '../core/scene/vector'
import { sceneMaker } from './gltf'
import { box, join, quad, tube, turned, type Mesh } from './mesh'
import { fractal, mix, smooth } from './noise'
import { HOUSES, LIGHT_AT, PIER } from './night'
import { FLOOR, PIER_TOP } from './nightThings'
import { house } from './roofs'
import * as T from './textures'

/** Of the lamp over the pier, metres. */
const LANTERN = 11.2
/** Where one of the beams goes, degrees: from into the scene (-Z) to the right; and how far up. */
const BEAM = { heading: -100, up: 0.6, inner: 1.1, outer: 3.1, intensity: 95000 }
const LIGHT: Vector3 = [1, 0.9, 0.72]

/** Whitewash over granite: rain marks, rust under the gallery, damp at the foot. v runs up. */
const whitewash: T.Painter = (u, v) => {
  const lumps = fractal(u * 90, v * 50, 4, 13)
  const streak = smooth(0.45, 0.75, fractal(u * 60, v * 3, 5, 17))
  const damp = smooth(0.3, 0, v + (fractal(u * 9, 2, 4, 7) - 0.5) * 0.2)
  const rust = smooth(0.6, 0.8, fractal(u * 40, v * 2.5, 4, 29)) * smooth(0.6, 1, v)
  const k = mix(0.68, 0.82, lumps) * mix(1, 0.82, streak) * mix(1, 0.55, damp)
  return [mix(k, 0.5, rust * 0.5), mix(k * 0.985, 0.34, rust * 0.5), mix(k * 0.94, 0.22, rust * 0.5), 1]
}

export async function lightTower(): Promise<Uint8Array> {
  const { document, scene, material, put: place, write } = sceneMaker('Harbour light')
  const root = document.createNode('harbour light').setTranslation(LIGHT_AT)
  scene.addChild(root)
  const put = (
    name: string,
    mesh: Mesh,
    look: ReturnType<typeof material>,
    parent: Node | null = root,
    extras?: object,
  ) => place(name, mesh, look, parent, extras)
  const white = material('whitewash', {
    picture: T.paint(512, 256, (u, v, x, y) => whitewash(u, 1 - v, x, y)),
    rough: 0.6,
    bumps: T.normals(256, 256, (x, y) => fractal(x / 4.5, y / 7, 4, 13), 1.4),
  })
  const red = material('red iron', { picture: T.paint(256, 256, T.painted(0.34, 0.06, 0.045, 11)), rough: 0.38 })
  const dark = material('dark iron', { picture: T.paint(256, 256, T.painted(0.1, 0.11, 0.115, 31)), rough: 0.42 })
  const granite = material('granite', { picture: T.paint(256, 256, T.stone), rough: 0.7 })
  const pane = material('lantern glass', {
    base: [0.92, 0.95, 0.95, 1],
    clear: T.paint(128, 128, T.glass),
    rough: 0.05,
    double: true,
  })
  const lens = material('lens', { base: [0.03, 0.03, 0.03, 1], emission: LIGHT, strength: 30, rough: 0.2 })
  const ground = material('pier stand-in', { base: [0.16, 0.16, 0.155, 1], rough: 0.55 })
  const holds = material('house stand-in', { base: [0.2, 0.2, 0.2, 1], rough: 0.9 })

  put(
    'footing',
    turned(
      [
        [2.35, -0.02],
        [2.35, 0.3],
        [2.2, 0.36],
        [2.2, 0.62],
        [1.95, 0.66],
        [0, 0.66],
      ],
      [0, 0, 0],
      12,
      3,
    ),
    granite,
  )
  const shaft: [number, number][] = Array.from({ length: 25 }, (_, i) => {
    const t = i / 24
    // A curve that is steeper below
    return [mix(1.78, 1.16, 1 - (1 - t) ** 1.5), 0.64 + t * 8.5]
  })
  const tower = turned(shaft, [0, 0, 0], 96, 1)
  for (let i = 1; i < tower.uvs.length; i += 2)
    tower.uvs[i] = 1 - (tower.positions[((i - 1) / 2) * 3 + 1]! - 0.64) / 8.5
  put('tower', tower, white)
  put(
    'band',
    turned(
      [
        [1.5, 3.4],
        [1.51, 3.42],
        [1.37, 5.2],
        [1.36, 5.22],
      ],
      [0, 0, 0],
      96,
      4,
    ),
    red,
  )
  put(
    'gallery',
    turned(
      [
        [1.16, 8.9],
        [1.35, 9.05],
        [1.82, 9.3],
        [1.86, 9.34],
        [1.86, 9.46],
        [1.8, 9.5],
        [0, 9.5],
      ],
      [0, 0, 0],
      64,
      3,
    ),
    dark,
  )
  const rail: Mesh[] = []
  const ring = (y: number, radius: number, thick: number): Mesh =>
    tube(
      Array.from(
        { length: 49 },
        (_, i) => [Math.cos((i / 24) * Math.PI) * radius, y, Math.sin((i / 24) * Math.PI) * radius] as Vector3,
      ),
      thick,
      6,
    )
  for (const y of [9.85, 10.2, 10.52]) rail.push(ring(y, 1.78, y > 10.4 ? 0.03 : 0.018))
  for (let i = 0; i < 24; i++) {
    const a = (i / 12) * Math.PI
    rail.push(
      tube(
        [
          [Math.cos(a) * 1.78, 9.46, Math.sin(a) * 1.78],
          [Math.cos(a) * 1.78, 10.52, Math.sin(a) * 1.78],
        ],
        0.018,
        6,
      ),
    )
  }
  put('railing', join(...rail), dark)
  put(
    'lantern wall',
    turned(
      [
        [1.02, 9.48],
        [1.02, 10.25],
        [0.98, 10.28],
      ],
      [0, 0, 0],
      48,
      3,
    ),
    red,
  )
  const bars: Mesh[] = [ring(10.3, 0.98, 0.035), ring(12.05, 0.98, 0.04)]
  const panes: Mesh[] = []
  for (let i = 0; i < 10; i++) {
    const [a, b] = [(i / 5) * Math.PI, ((i + 1) / 5) * Math.PI]
    const [p, q] = [a, b].map(angle => [Math.cos(angle) * 0.97, 0, Math.sin(angle) * 0.97] as Vector3) as [
      Vector3,
      Vector3,
    ]
    bars.push(
      tube(
        [
          [p[0], 10.28, p[2]],
          [p[0], 12.05, p[2]],
        ],
        0.026,
        8,
      ),
    )
    panes.push(quad([q[0], 10.3, q[2]], [p[0], 10.3, p[2]], [p[0], 12.03, p[2]], [q[0], 12.03, q[2]]))
  }
  put('lantern bars', join(...bars), dark)
  put('lantern glass', join(...panes), pane)
  put(
    'dome',
    join(
      turned(
        [
          [1.16, 12.02],
          [1.18, 12.08],
          [1.1, 12.2],
          [0.9, 12.55],
          [0.55, 12.86],
          [0.2, 12.98],
          [0.18, 13.08],
          [0.24, 13.2],
          [0.16, 13.34],
          [0.04, 13.4],
          [0.03, 14.1],
          [0, 14.12],
        ],
        [0, 0, 0],
        64,
        2,
      ),
      turned(
        [
          [0, 12.05],
          [1.16, 12.02],
        ],
        [0, 0, 0],
        48,
      ),
    ),
    red,
  )
  put(
    'lens',
    turned(
      [
        [0, 10.72],
        [0.2, 10.75],
        [0.3, 10.95],
        [0.33, LANTERN],
        [0.3, 11.45],
        [0.2, 11.65],
        [0, 11.68],
      ],
      [0, 0, 0],
      48,
    ),
    lens,
  )
  put(
    'lens stand',
    turned(
      [
        [0.34, 10.25],
        [0.14, 10.4],
        [0.14, 10.74],
        [0, 10.74],
      ],
      [0, 0, 0],
      24,
    ),
    dark,
  )
  // A door toward the quay, steps, a window over it
  put('door', box([-2.02, 0.6, -0.42], [-1.55, 2.3, 0.42], 0.02), dark)

  const punctual = document.createExtension(KHRLightsPunctual)
  const heading = (BEAM.heading * Math.PI) / 180
  for (const [name, turn] of [
    ['beam', 0],
    ['back beam', Math.PI],
  ] as const) {
    const light = punctual
      .createLight(name)
      .setType('spot')
      .setColor(LIGHT)
      .setIntensity(BEAM.intensity)
      .setInnerConeAngle((BEAM.inner * Math.PI) / 180)
      .setOuterConeAngle((BEAM.outer * Math.PI) / 180)
    const [y, up] = [-(heading + turn) / 2, (BEAM.up * Math.PI) / 360]
    // About Y, then up about its own X
    const rotation: [number, number, number, number] = [
      Math.sin(up) * Math.cos(y),
      Math.cos(up) * Math.sin(y),
      -Math.sin(up) * Math.sin(y),
      Math.cos(up) * Math.cos(y),
    ]
    const own = document.createNode(name).setRotation(rotation).setExtension('KHR_lights_punctual', light)
    // Out of its glass: what the lens throws is not in its own way
    own.setTranslation([Math.sin(heading + turn) * 1.1, LANTERN, -Math.cos(heading + turn) * 1.1])
    root.addChild(own)
  }

  const { x0, x1, z0, z1 } = PIER
  put('pier', box([x0, FLOOR - 0.5, z0], [x1, PIER_TOP, z1], 0.02), ground, null, { role: 'catcher' })
  const houses = HOUSES.map(house)
  put(
    'houses',
    join(...houses.flatMap(({ walls, decks, chimneys, ridges }) => [walls, decks, chimneys, ridges])),
    holds,
    null,
    { role: 'holdout' },
  )
  return write()
}
