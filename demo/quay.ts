// The quay's ground: where it lies, its setts, its puddle, and the waves beside it.
import type { CodedPicture } from '../core/formats/png/png'
import { normalized, type Vector3 } from '../core/scene/vector'
import { fractal, mix, noise, random, smooth } from './noise'
import { normals } from './textures'

// The quay's edge: from left and near to right and far
export const START: Vector3 = [-7, 0, -6.2]
export const ALONG = normalized([13, 0, -9.8])
export const INLAND: Vector3 = [-ALONG[2], 0, ALONG[0]]
export const onQuay = (u: number, w: number, y = 0): Vector3 => [
  START[0] + ALONG[0] * u + INLAND[0] * w,
  y,
  START[2] + ALONG[2] * u + INLAND[2] * w,
]
export const AREA = { u0: -4, w0: 0, width: 26, depth: 13 }
/** The puddle, in the world: 0 outside, 1 in its middle. */
export const PUDDLE: Vector3 = [0.35, 0, -5.75]
export function puddleDepth(x: number, z: number): number {
  const dx = (x - PUDDLE[0]) / 1.75
  const dz = (z - PUDDLE[2]) / 0.62
  // Broad bays only: seen so flat, anything finer is combed into streaks
  const r = Math.hypot(dx + dz * 0.35, dz) + (fractal(x * 0.9, z * 0.8, 2, 91) - 0.5) * 0.8
  return smooth(1.02, 0.82, r)
}

interface Sett {
  id: number
  du: number
  dw: number
  edge: number
}
const ROW = 0.135
/** Which sett a place belongs to, and how far from its middle and joint. */
function sett(u: number, w: number): Sett {
  const bent = w + (noise(u * 0.35, 2, 3) - 0.5) * 0.09
  const row = Math.floor(bent / ROW)
  const seed = Math.imul(row + 500, 7919)
  const width = 0.19
  const shift = random(seed)() * width
  let cell = Math.floor((u + shift) / width)
  const border = (n: number): number => n * width + (random(Math.imul(n + 9000, 31) ^ seed)() - 0.5) * width * 0.5
  const at = u + shift
  if (at < border(cell)) cell--
  if (at > border(cell + 1)) cell++
  const a = border(cell)
  const b = border(cell + 1)
  const du = ((at - (a + b) / 2) / (b - a)) * 2
  const dw = (bent / ROW - row - 0.5) * 2
  const edge = Math.min(((1 - Math.abs(du)) * (b - a)) / 2, ((1 - Math.abs(dw)) * ROW) / 2)
  return { id: Math.imul(cell + 77, 92821) ^ seed, du, dw, edge }
}

export function quayTextures(size: number): { colour: CodedPicture; surface: CodedPicture; bumps: CodedPicture } {
  const width = size
  const height = size / 2
  const lift = new Float32Array(width * height)
  const colour = new Uint8Array(width * height * 4)
  const surface = new Uint8Array(width * height * 4)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const u = AREA.u0 + ((x + 0.5) / width) * AREA.width
      const w = AREA.w0 + ((y + 0.5) / height) * AREA.depth
      const world = onQuay(u, w)
      const i = y * width + x
      const coping = w < 0.62
      const s = coping ? copingStone(u, w) : sett(u, w)
      const own = random(s.id)
      const tone = own()
      const tiltU = (own() - 0.5) * 0.35
      const tiltW = (own() - 0.5) * 0.35
      const warm = own()
      const inside = smooth(0.002, coping ? 0.012 : 0.016, s.edge + (fractal(u * 60, w * 60, 2, 7) - 0.5) * 0.009)
      const dome = coping ? 0 : (1 - Math.max(s.du ** 4, s.dw ** 4)) * 0.45
      const micro = fractal(u * 34, w * 34, 5, 13)
      const grit = noise(u * 150, w * 150, 5)
      const water = puddleDepth(world[0], world[2])
      lift[i] = mix(
        (inside * (1.1 + dome + s.du * tiltU + s.dw * tiltW) + micro * 0.42 + grit * 0.14) * (coping ? 0.7 : 1),
        1.3,
        water * 0.985,
      )
      const stain = smooth(0.45, 0.72, fractal(u * 0.55, w * 0.8, 6, 17))
      const damp = smooth(0.4, 0.62, fractal(u * 0.42 + 9, w * 0.5, 5, 29))
      let k = mix(0.085, 0.19, tone) * mix(0.7, 1.25, micro) * (coping ? 1.35 : 1)
      k *= mix(1, 0.55, stain * 0.8) * mix(1, 0.62, damp)
      k = mix(0.028, k, inside)
      const moss = (1 - inside) * smooth(0.5, 0.66, fractal(u * 1.6, w * 1.6, 4, 37)) * 0.8
      const lichen = coping ? smooth(0.66, 0.71, fractal(u * 7, w * 7, 5, 43)) : 0
      k = mix(k, k * 0.42, water)
      colour.set(
        [
          r8(mix(k * mix(1, 1.12, warm), 0.3, lichen)),
          r8(mix(mix(k, 0.05, moss * 0.4), 0.29, lichen)),
          r8(mix(k * mix(1, 0.88, warm), 0.21, lichen) * (1 - moss * 0.4)),
          255,
        ],
        i * 4,
      )
      const rough = mix(
        mix(0.62, 0.3, damp) + (micro - 0.5) * 0.24 + (1 - inside) * 0.2,
        0.035,
        smooth(0.25, 0.8, water),
      )
      surface.set([255, Math.round(Math.min(1, Math.max(0.03, rough)) * 255), 0, 255], i * 4)
    }
  }
  return {
    colour: { width, height, channels: 4, maximum: 255, data: colour },
    surface: { width, height, channels: 4, maximum: 255, data: surface },
    bumps: normals(width, height, (x, y) => lift[y * width + x]!, 1.15),
  }
}
/** sRGB code of a linear value. */
const r8 = (value: number): number =>
  Math.round(Math.min(1, Math.max(0, value <= 0.0031308 ? value * 12.92 : 1.055 * value ** (1 / 2.4) - 0.055)) * 255)
function copingStone(u: number, w: number): Sett {
  const length = 1.15
  const cell = Math.floor(u / length)
  const a = cell * length + (random(cell + 4000)() - 0.5) * 0.4
  const b = (cell + 1) * length + (random(cell + 4001)() - 0.5) * 0.4
  if (u < a) return copingStone(u - length * 0.5, w)
  const du = ((u - a) / (b - a)) * 2 - 1
  const dw = (w / 0.62) * 2 - 1
  return { id: cell * 131 + 9, du, dw, edge: Math.min(((1 - Math.abs(du)) * length) / 2, (1 - Math.abs(dw)) * 0.31) }
}

/** Waves that join at the borders of the tile: sines of whole numbers of periods. */
export function waves(size: number): CodedPicture {
  const next = random(99)
  const list = Array.from({ length: 46 }, () => {
    const k = 2 + Math.floor(next() ** 1.6 * 30)
    const angle = (next() - 0.5) * 2.3 + 0.5
    return {
      x: Math.round(Math.cos(angle) * k),
      y: Math.round(Math.sin(angle) * k),
      phase: next() * 6.28,
      height: 1 / (k + 2) ** 1.05,
    }
  })
  return normals(
    size,
    size,
    (x, y) =>
      list.reduce(
        (sum, wave) => sum + wave.height * Math.sin(((x * wave.x + y * wave.y) / size) * 2 * Math.PI + wave.phase),
        0,
      ),
    5.2,
  )
}
