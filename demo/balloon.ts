// The survey balloon as a glTF scene: striped envelope, net, basket with its instrument, mooring line; a stand-in for
// the sea that catches its shadow.
import type { Vector3 } from '../core/scene/vector'
import { sceneMaker } from './gltf'
import { box, join, quad, tube, turned, type Mesh } from './mesh'
import { fractal, mix, noise, smooth } from './noise'
import { paint, seeded } from './textures'

/** Gores in cream and faded red, seams, water marks; v runs from the foot to the crown. */
const canvas = paint(1024, 512, (u, v) => {
  const gore = Math.floor(u * 16)
  const within = u * 16 - gore
  const seam = smooth(0.5, 0.465, Math.abs(within - 0.5))
  const wear = fractal(u * 14, v * 10, 5, 51)
  const mark = smooth(0.5, 0.75, fractal(u * 3, v * 7, 5, 57))
  const weave = noise(u * 700, v * 350, 3)
  const red = gore % 4 === 0
  const band = v > 0.47 && v < 0.56
  const [r, g, b] = band ? [0.2, 0.27, 0.34] : red ? [0.52, 0.17, 0.1] : [0.74, 0.68, 0.55]
  const k = mix(0.78, 1.08, wear) * mix(0.6, 1, seam) * mix(1, 0.8, mark) * mix(0.95, 1.05, weave)
  return [r! * k, g! * k, b! * k, 1].map((value, i) => (i === 3 ? 1 : value ** (1 / 2.2))) as [
    number,
    number,
    number,
    number,
  ]
})

export async function balloonScene(): Promise<Uint8Array> {
  const { scene, document, material, put, write } = sceneMaker('Survey balloon')
  const cloth = material('canvas', { picture: canvas, rough: 0.75 })
  const cord = material('cord', { base: [0.22, 0.18, 0.12, 1], rough: 0.9 })
  const wicker = material('wicker', {
    picture: paint(256, 256, (u, v) => {
      const k =
        0.32 +
        0.3 * Math.abs(Math.sin(u * 60) * Math.cos(v * 60 + Math.floor(u * 19) * 1.57)) +
        noise(u * 90, v * 90, 6) * 0.12
      return [k, k * 0.8, k * 0.55, 1]
    }),
    rough: 0.85,
  })
  const brass = material('brass', { base: [0.6, 0.42, 0.18, 1], metallic: 1, rough: 0.3 })
  const sea = material('sea stand-in', { base: [0.05, 0.06, 0.065, 1], rough: 0.3 })
  const profile: [number, number][] = []
  // From the mouth up: a drop that rounds off into its crown
  for (let i = 0; i <= 40; i++) {
    const t = i / 40
    const angle = t * Math.PI
    const r = 4.2 * Math.sin(angle) ** 0.82 * mix(0.72, 1.1, t) + (i === 0 ? 0.45 : 0)
    const y = 1.2 + (10.4 * (1 - Math.cos(angle))) / 2
    profile.push([i === 40 ? 0 : Math.max(0.4, r), y])
  }
  const envelope = turned(profile, [0, 0, 0], 128)
  // Gores bulge between their seams
  for (let i = 0; i < envelope.positions.length; i += 3) {
    const angle = Math.atan2(envelope.positions[i + 2]!, envelope.positions[i]!)
    const bulge = 1 + 0.022 * Math.abs(Math.sin(angle * 8))
    envelope.positions[i]! *= bulge
    envelope.positions[i + 2]! *= bulge
  }
  for (let i = 1; i < envelope.uvs.length; i += 2)
    envelope.uvs[i] = 1 - (envelope.positions[((i - 1) / 2) * 3 + 1]! - 1.2) / 10.4
  const root = document.createNode('balloon rig')
  scene.addChild(root)
  put('balloon', envelope, cloth, root)
  const lines: Mesh[] = []
  for (let k = 0; k < 12; k++) {
    const a = (k / 12) * 2 * Math.PI
    const c = Math.cos(a)
    const s = Math.sin(a)
    lines.push(
      tube(
        [
          [c * 3.2, 3.6, s * 3.2],
          [c * 1.5, 1.0, s * 1.5],
          [c * 0.62, -1.5, s * 0.62],
        ] as Vector3[],
        0.022,
        6,
      ),
    )
  }
  lines.push(
    tube(
      Array.from({ length: 33 }, (_, i) => {
        const a = (i / 32) * 2 * Math.PI
        return [Math.cos(a) * 0.64, -1.5, Math.sin(a) * 0.64] as Vector3
      }),
      0.035,
      8,
    ),
  )
  put('lines', join(...lines), cord, root)
  const random = seeded(3)
  put(
    'basket',
    join(
      box([-0.62, -2.75, -0.62], [0.62, -1.75, 0.62], 0.07, 1.2),
      tube(
        Array.from({ length: 25 }, (_, i) => {
          const a = (i / 24) * 2 * Math.PI
          return [Math.cos(a) * 0.7, -1.72 + random() * 0.01, Math.sin(a) * 0.7] as Vector3
        }),
        0.06,
        8,
      ),
    ),
    wicker,
    root,
  )
  put(
    'instrument',
    join(
      turned(
        [
          [0.16, 0],
          [0.16, 0.35],
          [0.11, 0.4],
          [0, 0.4],
        ],
        [0.35, -3.2, 0.4],
        24,
      ),
      tube(
        [
          [0.35, -3.05, 0.4],
          [0.35, -3.1, 1.0],
        ],
        0.07,
        16,
      ),
    ),
    brass,
    root,
  )
  put(
    'mooring line',
    tube(
      Array.from({ length: 30 }, (_, i) => {
        const t = i / 29
        return [t * 9, -2.75 - t * t * 9.5 + Math.sin(t * Math.PI) * 1.3, t * 4] as Vector3
      }),
      0.03,
      6,
    ),
    cord,
    root,
  )
  put('sea', quad([-120, -1.55, -20], [120, -1.55, -20], [120, -1.55, -260], [-120, -1.55, -260]), sea, null, {
    role: 'catcher',
  })
  return write()
}

/** Where the balloon is at a frame (0 is the first): up and out of the fog, swinging a little. */
export function balloonPlace(i: number): { place: Vector3; turn: [number, number, number] } {
  const t = i / 47
  const ease = t * t * (3 - 2 * t)
  return {
    place: [-24 + ease * 25, 3.4 + ease * 1.6 + Math.sin(t * 5) * 0.25, -142 + ease * 56],
    turn: [-20 + t * 38, Math.sin(t * 6) * 2.5, Math.cos(t * 5) * 2.2],
  }
}
