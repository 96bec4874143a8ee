// The harbour that the plate is photographed from: quay, setts, puddle, bollards, sea, breakwater, headland. Rendered
// by the same core.
import type { Scene } from '../core/scene/scene'
import type { Vector3 } from '../core/scene/vector'
import { fractal, noise, random, smooth } from './noise'
import { box, join, netIndices, terrain, tube, turned, type Mesh } from './mesh'
import { paint, painted, planks, stone } from './textures'
import { object, surface, texture } from './parts'
import { AREA, INLAND, onQuay, quayTextures, waves } from './quay'
import { skyPanorama } from './sky'

const SEA_LEVEL = -2.3
/** How far along the edge the bollard with the rope stands, metres. */
const BOLLARD = 6.1

/**
 * Fish crates of slats on posts, three to a pile: straight edges of the plate in three directions. Metres; turned about
 * the upright.
 */
export const CRATES = { at: [-1.95, 0, -5.8] as Vector3, turn: -35, width: 1.2, depth: 1, tier: 0.36, tiers: 3 }
function crates(): Mesh {
  const { width, depth, tier, tiers, at, turn } = CRATES
  const slat = 0.085
  const thick = 0.016
  const own = random(311)
  const parts: Mesh[] = []
  for (let level = 0; level < tiers; level++) {
    const y0 = level * tier
    const x1 = width / 2
    const z1 = depth / 2
    for (let row = 0; row < 3; row++) {
      // Slats end a little unevenly, but lie true
      const low = y0 + 0.03 + row * 0.108
      const high = low + slat
      const end = (): number => own() * 0.012
      for (const side of [-1, 1]) {
        parts.push(
          box(
            [-x1 + end(), low, side > 0 ? z1 - thick : -z1],
            [x1 - end(), high, side > 0 ? z1 : -z1 + thick],
            0.004,
            1.6,
          ),
        )
        parts.push(
          box(
            [side > 0 ? x1 - thick : -x1, low + 0.002, -z1 + thick + end()],
            [side > 0 ? x1 : -x1 + thick, high - 0.002, z1 - thick - end()],
            0.004,
            1.6,
          ),
        )
      }
    }
    for (const sx of [-1, 1])
      for (const sz of [-1, 1]) {
        const px = sx * (x1 - thick - 0.028)
        const pz = sz * (z1 - thick - 0.028)
        parts.push(box([px - 0.028, y0 + 0.004, pz - 0.028], [px + 0.028, y0 + tier - 0.004, pz + 0.028], 0.004, 1.6))
      }
    for (let row = 0; row < 8; row++)
      parts.push(
        box(
          [-x1 + thick, y0 + 0.03, -z1 + thick + row * 0.118],
          [x1 - thick, y0 + 0.048, -z1 + thick + row * 0.118 + 0.1],
          0.004,
          1.6,
        ),
      )
  }
  const mesh = join(...parts)
  const angle = (turn * Math.PI) / 180
  const c = Math.cos(angle)
  const s = Math.sin(angle)
  for (const key of ['positions', 'normals'] as const) {
    const list = mesh[key]
    const shift = key === 'positions' ? at : [0, 0, 0]
    for (let i = 0; i < list.length; i += 3) {
      const x = list[i]!
      const z = list[i + 2]!
      list[i] = c * x + s * z + shift[0]!
      list[i + 1]! += shift[1]!
      list[i + 2] = -s * x + c * z + shift[2]!
    }
  }
  return mesh
}

/**
 * The sea as rings about the camera, each farther by the same ratio. Its waves are one tile of 13 m; where they lie is
 * drawn out of line at every scale, for tiles in rows show as rays toward the horizon.
 */
function openSea(): Mesh {
  const mesh: Mesh = { positions: [], normals: [], uvs: [], indices: [] }
  const rings = 180
  const spokes = 240
  const [near, far] = [3, 24000]
  for (let ring = 0; ring <= rings; ring++)
    for (let spoke = 0; spoke <= spokes; spoke++) {
      const radius = near * (far / near) ** (ring / rings)
      const angle = -Math.PI * (spoke / spokes)
      const x = Math.cos(angle) * radius
      const z = Math.sin(angle) * radius
      const place = [x, z]
      for (const size of [30, 120, 480, 1920, 7680])
        for (const axis of [0, 1]) place[axis]! += (noise(x / size, z / size, size + axis) - 0.5) * size * 0.45
      mesh.positions.push(x, SEA_LEVEL, z)
      mesh.normals.push(0, 1, 0)
      mesh.uvs.push(place[0]! / 13, place[1]! / 13)
    }
  netIndices(mesh, spokes, rings)
  return mesh
}

export function harbour(textureSize = 4096): Scene {
  const ground = quayTextures(textureSize)
  const materials = [
    surface({
      name: 'setts',
      roughness: 1,
      metallic: 0,
      baseTexture: texture(ground.colour, 'clamp'),
      metallicRoughnessTexture: texture(ground.surface, 'clamp'),
      normalTexture: texture(ground.bumps, 'clamp'),
    }),
    surface({
      name: 'sea',
      baseColour: [0.012, 0.02, 0.024, 1],
      roughness: 0.16,
      normalTexture: texture(waves(1024)),
      normalScale: 1,
    }),
    surface({ name: 'rubble', baseTexture: texture(paint(512, 512, stone)), roughness: 0.85 }),
    surface({ name: 'headland', baseColour: [0.045, 0.055, 0.05, 1], roughness: 1 }),
    surface({
      name: 'bollard',
      baseTexture: texture(paint(512, 512, painted(0.06, 0.065, 0.07, 31))),
      roughness: 0.45,
    }),
    surface({ name: 'hemp', baseColour: [0.2, 0.165, 0.105, 1], roughness: 0.95 }),
    surface({ name: 'crate wood', baseTexture: texture(paint(1024, 1024, planks)), roughness: 0.72 }),
    surface({ name: 'beacon', baseColour: [0.45, 0.44, 0.42, 1], roughness: 0.7 }),
  ]
  // Quay: top as one surface whose texture lies by edge coordinates, and its wall down to the water
  const quay: Mesh = { positions: [], normals: [], uvs: [], indices: [] }
  for (const [u, w] of [
    [AREA.u0, AREA.depth],
    [AREA.u0 + AREA.width, AREA.depth],
    [AREA.u0 + AREA.width, 0],
    [AREA.u0, 0],
  ] as const) {
    quay.positions.push(...onQuay(u, w))
    quay.normals.push(0, 1, 0)
    quay.uvs.push((u - AREA.u0) / AREA.width, w / AREA.depth)
  }
  quay.indices.push(0, 1, 2, 0, 2, 3)
  const wallMesh: Mesh = { positions: [], normals: [], uvs: [], indices: [0, 1, 2, 0, 2, 3] }
  for (const [u, y] of [
    [AREA.u0, 0],
    [60, 0],
    [60, -4],
    [AREA.u0, -4],
  ] as const) {
    wallMesh.positions.push(...onQuay(u, 0, y))
    wallMesh.normals.push(-INLAND[0], 0, -INLAND[2])
    wallMesh.uvs.push(u, y)
  }
  const sea = openSea()
  const rubble = terrain(
    -72,
    13,
    -78,
    -64,
    300,
    60,
    (x, z) => {
      const across = 1 - Math.abs((z + 71) / 6.4)
      const end = smooth(13, 8, x)
      const bulk = Math.min(1, Math.max(0, across * 1.7)) * 2.9 * end
      return (
        SEA_LEVEL -
        0.5 +
        bulk +
        (bulk > 0.2
          ? (fractal(x * 0.9, z * 0.9, 4, 3) - 0.5) * 1.5 +
            (Math.floor(fractal(x * 0.5, z * 0.7, 2, 8) * 9) / 9 - 0.5) * 0.9
          : 0)
      )
    },
    0.3,
  )
  const land = terrain(
    -900,
    40,
    -1200,
    -760,
    220,
    30,
    (x, z) =>
      SEA_LEVEL -
      3 +
      smooth(30, -260, x) *
        smooth(-760, -860, z) *
        (24 + fractal(x * 0.009, z * 0.006, 5, 6) * 66 + smooth(-300, -620, x) * 34),
    0.01,
  )
  const bollard = (u: number, w: number): Mesh =>
    turned(
      [
        [0.2, 0],
        [0.2, 0.03],
        [0.14, 0.06],
        [0.125, 0.2],
        [0.13, 0.36],
        [0.19, 0.42],
        [0.2, 0.47],
        [0.17, 0.53],
        [0.08, 0.57],
        [0, 0.58],
      ],
      onQuay(u, w),
      48,
      1,
    )
  const loops: Vector3[] = []
  for (let i = 0; i <= 160; i++) {
    const a = (i / 160) * Math.PI * 2 * 3.2
    const m = onQuay(BOLLARD, 0.72)
    loops.push([
      m[0] + Math.cos(a) * (0.155 + i * 0.00008),
      0.13 + i * 0.0012,
      m[2] + Math.sin(a) * (0.155 + i * 0.00008),
    ])
  }
  for (let i = 0; i <= 40; i++) {
    const t = i / 40
    const m = onQuay(BOLLARD + t * 1.1, 0.55 - t * 0.62)
    loops.push([m[0], Math.max(-2, 0.3 - t * 0.22 - Math.max(0, t - 0.85) * 9), m[2]])
  }
  return {
    objects: [
      object('quay', quay, 0),
      object('quay wall', wallMesh, 2),
      object('sea', sea, 1),
      object('breakwater', rubble, 2),
      object('headland', land, 3),
      object('bollards', join(bollard(BOLLARD, 0.72), bollard(9.2, 0.74), bollard(15.2, 0.72)), 4),
      object('mooring rope', tube(loops, 0.024, 8), 5),
      object(
        'beacon',
        join(
          turned(
            [
              [0.5, 0],
              [0.42, 2.4],
              [0.62, 2.5],
              [0.62, 2.65],
              [0.3, 2.7],
              [0.3, 3.5],
              [0.4, 3.6],
              [0, 4.1],
            ],
            [8, 0.3, -71],
            24,
          ),
          box([7, -0.4, -72.2], [9, 0.4, -69.8], 0.05),
        ),
        7,
      ),
      object('crates', crates(), 6),
    ],
    materials,
    lights: [],
    cameras: [],
    notes: [],
    environment: { ...skyPanorama(1024), turn: 0, gain: [1, 1, 1], seenByCamera: true },
  }
}

/** Haze that far things fade into, and how many metres take most of their contrast. */
export const HAZE: [number, number, number] = [0.265, 0.262, 0.272]
export const HAZE_REACH = 620
