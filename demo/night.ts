// The inner harbour at night and low water, that the third shot is photographed from: wet roofs, a lamp on the quay, a
// basin that has run dry, the pier that a light is to stand on. Rendered by the same core.
import { kelvinToRgb } from '../core/colour/kelvin'
import type { Scene } from '../core/scene/scene'
import type { Vector3 } from '../core/scene/vector'
import { fractal, mix, smooth } from './noise'
import { box, join, quad, terrain, turned, tube, type Mesh } from './mesh'
import { harling, pools, setts, shoreColour, slate } from './nightTextures'
import {
  blocks,
  boat,
  farShore,
  FLOOR,
  hills,
  PIER_TOP,
  QUAY_TOP,
  roofLight,
  signLamp,
  STORE,
  streetLamp,
} from './nightThings'
import { object, surface, texture } from './parts'
import { panorama } from './sky'
import { house, windowOf, type House, type HouseParts, type Window } from './roofs'
import { normals, paint, painted, planks, stone } from './textures'

/** Above the roofs, over the quay to the head of the pier. */
export const NIGHT_CAMERA = { focalLength: 40, sensorWidth: 36, x: 0, y: 11, z: 0, heading: 0, pitch: -9, bank: 0.3 }
/** Where the light stands on the pier, and how far the pier's top reaches about it. */
export const LIGHT_AT: Vector3 = [14, PIER_TOP, -62]
export const PIER = { x0: 10.6, x1: 70, z0: -65.2, z1: -58.8 }

export const HOUSES: House[] = [
  { low: [-13, -18.2], high: [0.4, -12], base: 0, eave: 4.3, ridge: 6.9, along: 'x', seed: 11, chimneys: [0.34, 0.94] },
  { ...STORE, chimneys: [0.93] },
  { low: [-17.5, -31], high: [-10.2, -22], base: 0, eave: 5.2, ridge: 8.3, along: 'x', seed: 23, chimneys: [0.8] },
  {
    low: [-7.6, -41],
    high: [-1.6, -33],
    base: QUAY_TOP,
    eave: 4.7,
    ridge: 7.3,
    along: 'z',
    seed: 31,
    chimneys: [0.06, 0.94],
  },
  { low: [-8, -52], high: [-2, -42.5], base: QUAY_TOP, eave: 4.2, ridge: 6.7, along: 'z', seed: 47, chimneys: [0.9] },
  { low: [-18, -47], high: [-10.5, -36], base: 0, eave: 5.6, ridge: 8.4, along: 'x', seed: 59, chimneys: [0.12, 0.86] },
  { low: [-15, -66], high: [-6, -57], base: QUAY_TOP, eave: 4.6, ridge: 7.4, along: 'x', seed: 67, chimneys: [0.5] },
]
/** Those with someone in. */
const LIT: Window[] = [
  { at: [-1.6, 2.5, -36.2], faces: 'x', wide: 0.9, tall: 1.15 },
  { at: [-2, 2.3, -46.5], faces: 'x', wide: 0.9, tall: 1.1 },
  { at: [-12.4, 4.1, -22], faces: 'z', wide: 0.85, tall: 1.1 },
  { at: [-12.2, 4.3, -36], faces: 'z', wide: 0.9, tall: 1.1 },
]
const DARK: Window[] = [
  { at: [-1.6, 2.5, -38.6], faces: 'x', wide: 0.9, tall: 1.15 },
  { at: [-2, 2.3, -49.2], faces: 'x', wide: 0.9, tall: 1.1 },
  { at: [-2.5, 3.2, -23], faces: 'x', wide: 0.8, tall: 1 },
  { at: [-2.5, 3.2, -27], faces: 'x', wide: 0.8, tall: 1 },
]

/** Radiance of the sky: cloud that the harbour's own lamps light a little from below, at night. */
function nightSky(turn: number, elevation: number): Vector3 {
  const height = smooth(0, 60, Math.max(0, elevation))
  const low = Math.exp(-((Math.max(0, elevation) / 9) ** 2))
  const cloud = fractal(turn * 22, Math.sqrt(Math.max(0, elevation) + 2) * 2.4, 5, 3)
  const base = [0, 1, 2].map(c => mix([0.026, 0.034, 0.05][c]!, [0.008, 0.0115, 0.0195][c]!, height))
  const k = mix(0.78, 1.18, cloud)
  return base.map((value, c) => (value + low * [0.011, 0.0105, 0.011][c]!) * k) as Vector3
}
export const nightPanorama = (width: number) => panorama(width, nightSky, () => [0.006, 0.0065, 0.0075])

const LAMP = kelvinToRgb(2300)
const glow = (radiance: number): Vector3 => LAMP.map(value => (value / Math.max(...LAMP)) * radiance) as Vector3

export function nightHarbour(): Scene {
  const bumps = (size: number, lift: (u: number, v: number) => number, strength: number) =>
    texture(normals(size, size, (x, y) => lift(x / size, y / size), strength))
  const surfaceOf = (size: number, rough: (u: number, v: number) => number) =>
    texture(paint(size, size, (u, v) => [1, rough(u, v), 0, 1]))
  const materials = [
    surface({
      name: 'slate',
      baseTexture: texture(paint(1024, 1024, slate)),
      // Rain has run over all of them, and dried from few
      metallicRoughnessTexture: surfaceOf(512, (u, v) =>
        mix(0.16, 0.42, smooth(0.4, 0.7, fractal(u * 9, v * 9, 5, 33))),
      ),
      roughness: 1,
      normalTexture: bumps(512, (u, v) => fractal(u * 50, v * 80, 4, 3), 1.6),
    }),
    surface({
      name: 'harling',
      baseTexture: texture(paint(1024, 1024, harling)),
      roughness: 0.8,
      normalTexture: bumps(512, (u, v) => fractal(u * 60, v * 60, 4, 13), 3),
    }),
    surface({ name: 'stone', baseTexture: texture(paint(1024, 1024, stone)), roughness: 0.5 }),
    surface({
      name: 'setts',
      baseTexture: texture(paint(1024, 1024, setts)),
      metallicRoughnessTexture: surfaceOf(512, (u, v) =>
        mix(0.09, 0.4, smooth(0.42, 0.6, fractal(u * 6, v * 6, 5, 29))),
      ),
      roughness: 1,
      normalTexture: bumps(1024, (u, v) => setts(u, v, 0, 0)[1] * 3, 2),
    }),
    surface({
      name: 'shore',
      baseTexture: texture(paint(1024, 1024, shoreColour)),
      metallicRoughnessTexture: surfaceOf(1024, (u, v) => mix(0.5, 0.06, pools(u, v))),
      roughness: 1,
      normalTexture: bumps(1024, (u, v) => fractal(u * 80, v * 60, 5, 9) * (1 - pools(u, v)) * 2, 3),
    }),
    surface({ name: 'iron', baseTexture: texture(paint(512, 512, painted(0.12, 0.15, 0.155, 11))), roughness: 0.4 }),
    surface({ name: 'wood', baseTexture: texture(paint(512, 512, planks)), roughness: 0.6 }),
    surface({ name: 'ridge tile', baseColour: [0.11, 0.062, 0.045, 1], roughness: 0.5 }),
    surface({ name: 'lamp', baseColour: [0.02, 0.02, 0.02, 1], emission: glow(700) }),
    surface({ name: 'lit pane', baseColour: [0.05, 0.04, 0.03, 1], emission: glow(0.5), roughness: 0.2 }),
    surface({ name: 'dark pane', baseColour: [0.012, 0.014, 0.018, 1], roughness: 0.08 }),
    surface({ name: 'tar', baseColour: [0.022, 0.024, 0.026, 1], roughness: 0.35 }),
    surface({ name: 'sign lamp', baseColour: [0.02, 0.02, 0.02, 1], emission: glow(520) }),
    surface({ name: 'hills', baseColour: [0.03, 0.034, 0.03, 1], roughness: 1 }),
  ]
  const houses = HOUSES.map(house)
  const all = (which: keyof HouseParts): Mesh => join(...houses.map(parts => parts[which]))
  const slopeOf = ({ eave, ridge, low, high, along }: House): [number, number] => {
    const half = (along === 'x' ? high[1] - low[1] : high[0] - low[0]) / 2
    const length = Math.hypot(half, ridge - eave)
    return [half / length, (ridge - eave) / length]
  }
  const [front] = HOUSES as [House]
  const [c, s] = slopeOf(front)
  const [storeC, storeS] = slopeOf(STORE)
  const lit = [
    ...LIT.map(windowOf),
    roofLight([-5.4, front.ridge - 1.35 * s, -15.1 + 1.35 * c], [1, 0, 0], [0, s, -c], [0, c, s]),
    roofLight(
      [-5.75 + 1.9 * storeC, STORE.ridge - 1.9 * storeS, -23.4],
      [0, 0, -1],
      [-storeC, storeS, 0],
      [storeS, storeC, 0],
    ),
  ]
  const dark = DARK.map(windowOf)
  const shore = terrain(
    3.4,
    120,
    -240,
    -6,
    220,
    340,
    (x, z) =>
      FLOOR +
      (fractal(x * 0.06, z * 0.06, 4, 5) - 0.5) * 0.7 +
      (fractal(x * 0.7, z * 0.5, 4, 7) - 0.5) * 0.16 +
      smooth(9, 3.4, x) * 0.5,
    0.11,
  )
  const lamps = [-27, -46, -70].map(streetLamp)
  const bollard = (z: number): Mesh =>
    turned(
      [
        [0.17, 0],
        [0.13, 0.06],
        [0.12, 0.34],
        [0.18, 0.42],
        [0.15, 0.5],
        [0, 0.55],
      ],
      [2.9, QUAY_TOP, z],
      24,
    )
  const ladder = (z: number): Mesh =>
    join(
      ...[-0.22, 0.22].map(dz => box([3.53, FLOOR, z + dz - 0.03], [3.59, QUAY_TOP + 0.1, z + dz + 0.03], 0.006)),
      ...Array.from({ length: 11 }, (_, i) =>
        tube(
          [
            [3.56, FLOOR + 0.4 + i * 0.32, z - 0.22],
            [3.56, FLOOR + 0.4 + i * 0.32, z + 0.22],
          ],
          0.018,
          6,
        ),
      ),
    )
  return {
    objects: [
      object('roofs', join(all('slates'), all('decks')), 0),
      object('walls', all('walls'), 1),
      object('ridges', all('ridges'), 7),
      object('chimneys', all('chimneys'), 2),
      object('frames', join(...[...lit, ...dark].map(({ frame }) => frame)), 6),
      object('lit panes', join(...lit.map(({ pane }) => pane)), 9),
      object('dark panes', join(...dark.map(({ pane }) => pane)), 10),
      object(
        'lane',
        quad([-40, QUAY_TOP, -10], [3.5, QUAY_TOP, -10], [3.5, QUAY_TOP, -95], [-40, QUAY_TOP, -95], 9),
        3,
      ),
      object(
        'quay wall',
        join(
          blocks('z', -95, -8, 3.5, 1, FLOOR - 0.4, QUAY_TOP - 0.24, 5),
          box([2.7, QUAY_TOP - 0.24, -95], [3.56, QUAY_TOP + 0.02, -8], 0.03, 0.4),
        ),
        2,
      ),
      object(
        'pier',
        join(
          box([PIER.x0 + 0.3, FLOOR - 1, PIER.z0 + 0.3], [PIER.x1, PIER_TOP - 0.02, PIER.z1 - 0.3], 0.05, 0.4),
          blocks('x', PIER.x0, PIER.x1, PIER.z1, 1, FLOOR - 0.4, PIER_TOP, 9),
          blocks('z', PIER.z0, PIER.z1, PIER.x0, -1, FLOOR - 0.4, PIER_TOP, 13),
        ),
        2,
      ),
      object('shore', shore, 4),
      object('lamp posts', join(...[...lamps, signLamp()].map(({ post }) => post)), 5),
      object('lamps', join(...lamps.map(({ bulb }) => bulb)), 8),
      object('sign lamp', signLamp().bulb, 12),
      object('far shore', farShore(), 4),
      object('hills', hills(), 13),
      object('bollards', join(bollard(-31), bollard(-39), bollard(-47)), 5),
      object('ladders', join(ladder(-34), ladder(-50)), 5),
      object(
        'boats',
        join(boat([7.4, FLOOR + 0.1, -35.5], 0.5, 0.2), boat([10.4, FLOOR - 0.05, -44], -0.35, -0.24)),
        11,
      ),
    ],
    materials,
    lights: [],
    cameras: [],
    notes: [],
    environment: { ...nightPanorama(1024), turn: 0, gain: [1, 1, 1], seenByCamera: true },
  }
}

/** Haze that far things fade into, and how many metres take most of their contrast. */
export const NIGHT_HAZE: Vector3 = [0.03, 0.036, 0.046]
export const NIGHT_REACH = 150
