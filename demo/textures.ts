// Pictures on the demo's surfaces: stone, bronze, glass, rope, a name board.
import type { CodedPicture } from '../core/formats/png/png'
import { fractal, mix, noise, random, smooth } from './noise'

export type Painter = (u: number, v: number, x: number, y: number) => [number, number, number, number]

export function paint(width: number, height: number, painter: Painter): CodedPicture {
  const data = new Uint8Array(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const value = painter((x + 0.5) / width, (y + 0.5) / height, x, y)
      for (let c = 0; c < 4; c++)
        data[(y * width + x) * 4 + c] = Math.max(0, Math.min(255, Math.round(value[c]! * 255)))
    }
  return { width, height, channels: 4, maximum: 255, data }
}

/** Normal map of a height function in texels. */
export function normals(
  width: number,
  height: number,
  lift: (x: number, y: number) => number,
  strength: number,
): CodedPicture {
  const grid = new Float32Array(width * height)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) grid[y * width + x] = lift(x, y)
  const at = (x: number, y: number): number => grid[((y + height) % height) * width + ((x + width) % width)]!
  return paint(width, height, (_u, _v, x, y) => {
    const dx = (at(x - 1, y) - at(x + 1, y)) * strength
    const dy = (at(x, y + 1) - at(x, y - 1)) * strength
    const l = Math.hypot(dx, dy, 1)
    return [(dx / l) * 0.5 + 0.5, (-dy / l) * 0.5 + 0.5, (1 / l) * 0.5 + 0.5, 1]
  })
}

export const bronze: Painter = (u, v) => {
  const grain = fractal(u * 22, v * 22, 5, 3)
  const streak = fractal(u * 46, v * 3, 4, 9)
  // Verdigris gathers where rain runs, polish stays on the rim (small v is the crown)
  const green = smooth(0.5, 0.68, fractal(u * 7, v * 5, 5, 21) * 0.75 + streak * 0.35 - smooth(0.72, 0.95, v) * 0.35)
  const brown = [mix(0.42, 0.62, grain), mix(0.27, 0.42, grain), mix(0.12, 0.2, grain)]
  const patina = [0.24 + grain * 0.12, 0.42 + grain * 0.14, 0.37 + grain * 0.12]
  return [
    mix(brown[0]!, patina[0]!, green * 0.85),
    mix(brown[1]!, patina[1]!, green * 0.85),
    mix(brown[2]!, patina[2]!, green * 0.85),
    1,
  ]
}
export const bronzeRough: Painter = (u, v) => {
  const streak = fractal(u * 46, v * 3, 4, 9)
  const green = smooth(0.5, 0.68, fractal(u * 7, v * 5, 5, 21) * 0.75 + streak * 0.35 - smooth(0.72, 0.95, v) * 0.35)
  return [
    1,
    mix(0.24, 0.68, green) + (fractal(u * 90, v * 90, 3, 5) - 0.5) * 0.18 - smooth(0.8, 0.97, v) * 0.08,
    mix(1, 0.35, green),
    1,
  ]
}

/** How clear a pane is: faint smears and dust take some of it, so that it is seen. */
export const glass: Painter = (u, v) => {
  const smear = smooth(0.52, 0.8, fractal(u * 4 + fractal(u * 3, v * 3, 3, 4) * 2, v * 9, 5, 31))
  const edge = Math.max(smooth(0.42, 0.5, Math.abs(u - 0.5)), smooth(0.42, 0.5, Math.abs(v - 0.5)))
  const drops = smooth(0.77, 0.83, noise(u * 90, v * 90, 8)) * 0.25
  const clear = 1 - (0.02 + smear * 0.09 + edge * 0.12 + drops * 0.12)
  return [clear, clear, clear, 1]
}
export const painted =
  (r: number, g: number, b: number, seed: number): Painter =>
  (u, v) => {
    const wear = fractal(u * 6, v * 6, 6, seed)
    const rust = smooth(0.6, 0.75, fractal(u * 13, v * 9, 5, seed + 5))
    const k = 0.75 + wear * 0.5
    return [mix(r * k, 0.24, rust * 0.7), mix(g * k, 0.13, rust * 0.7), mix(b * k, 0.075, rust * 0.7), 1]
  }
/** Weathered wood with what is left of pale paint; grain runs along u. */
export const planks: Painter = (u, v) => {
  const grain = fractal(u * 5, v * 70, 5, 71)
  const knots = smooth(0.7, 0.8, fractal(u * 9, v * 16, 4, 77))
  const paintLeft = smooth(0.42, 0.6, fractal(u * 8, v * 14, 6, 83) + (grain - 0.5) * 0.4)
  const k = mix(0.32, 0.5, grain) * mix(1, 0.6, knots)
  return [
    mix(k, 0.44 + grain * 0.1, paintLeft),
    mix(k * 0.96, 0.47 + grain * 0.1, paintLeft),
    mix(k * 0.9, 0.46 + grain * 0.09, paintLeft),
    1,
  ]
}
export const stone: Painter = (u, v) => {
  const a = fractal(u * 9, v * 9, 7, 41)
  const b = fractal(u * 3, v * 3, 4, 47)
  const lichen = smooth(0.63, 0.7, fractal(u * 16, v * 16, 5, 53)) * smooth(0.45, 0.6, b)
  const k = mix(0.16, 0.46, a) * mix(0.75, 1.15, b)
  return [mix(k * 1.03, 0.45, lichen * 0.7), mix(k, 0.43, lichen * 0.7), mix(k * 0.94, 0.3, lichen * 0.7), 1]
}
/** Diamond mesh of twisted cord; alpha is the cord. */
export const net: Painter = (u, v) => {
  const cells = 13
  const wobble = (fractal(u * 9, v * 9, 3, 61) - 0.5) * 0.16
  const a = (u + v) * cells + wobble
  const b = (u - v) * cells + wobble * 0.7
  const da = Math.abs(a - Math.round(a))
  const db = Math.abs(b - Math.round(b))
  const near = Math.min(da, db)
  const knot = Math.hypot(da, db)
  const width = 0.075 + (noise(u * 60, v * 60, 3) - 0.5) * 0.02
  const on = near < width || knot < 0.17
  const twist = 0.75 + 0.25 * Math.sin((da < db ? b : a) * 42)
  const k = (0.3 + fractal(u * 20, v * 20, 4, 67) * 0.22) * twist
  return [k * 1.1, k * 0.94, k * 0.68, on ? 1 : 0]
}
export const rope: Painter = (u, v) => {
  const twist = Math.sin((v * 26 + u * 3) * Math.PI * 2) * 0.5 + 0.5
  const k = mix(0.17, 0.42, twist) * (0.8 + fractal(u * 14, v * 60, 4, 71) * 0.4)
  return [k * 1.12, k * 0.96, k * 0.66, 1]
}

/** Sign writer's capitals as strokes in a box 4 wide and 7 high, y down: only those the board needs. */
const arc = (x: number, y: number, rx: number, ry: number, from: number, to: number): number[] =>
  Array.from({ length: 13 }, (_, i) => {
    const a = ((from + ((to - from) * i) / 12) * Math.PI) / 180
    return [x + Math.cos(a) * rx, y - Math.sin(a) * ry]
  }).flat()
const LETTERS: Record<string, number[][]> = {
  H: [
    [0.3, 0, 0.3, 7],
    [3.7, 0, 3.7, 7],
    [0.3, 3.4, 3.7, 3.4],
  ],
  A: [
    [0, 7, 2, 0, 4, 7],
    [0.8, 4.6, 3.2, 4.6],
  ],
  L: [[0.5, 0, 0.5, 7, 3.8, 7]],
  I: [[2, 0, 2, 7]],
  N: [[0.3, 7, 0.3, 0, 3.7, 7, 3.7, 0]],
  E: [
    [3.7, 0, 0.5, 0, 0.5, 7, 3.8, 7],
    [0.5, 3.4, 3.2, 3.4],
  ],
  S: [[...arc(2, 1.7, 1.7, 1.7, 20, 270), ...arc(2, 5.2, 1.8, 1.8, 90, -160)]],
  ' ': [],
}
const toStroke = (x: number, y: number, points: number[]): number => {
  let nearest = Infinity
  for (let i = 0; i + 3 < points.length; i += 2) {
    const ax = points[i]!
    const ay = points[i + 1]!
    const dx = points[i + 2]! - ax
    const dy = points[i + 3]! - ay
    const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / Math.max(1e-9, dx * dx + dy * dy)))
    nearest = Math.min(nearest, Math.hypot(x - ax - dx * t, y - ay - dy * t))
  }
  return nearest
}
export const board: Painter = (u, v) => {
  const text = 'HALLIN NESS'
  const pitch = 5.6
  const columns = text.length * pitch + 7
  const x = u * columns - 4.2
  const y = ((v - 0.24) / 0.52) * 7
  const at = Math.floor(x / pitch)
  // A brush is not a ruler: edges waver a little
  const waver = (fractal(u * 60, v * 14, 3, 83) - 0.5) * 0.3
  const distance = Math.min(
    ...(LETTERS[text[at] ?? ' '] ?? []).map(points => toStroke(x - at * pitch - 0.6, y, points)),
    9,
  )
  const frame = smooth(0.483, 0.487, Math.abs(u - 0.5)) + smooth(0.425, 0.44, Math.abs(v - 0.5))
  const wood = fractal(u * 5, v * 40, 5, 73)
  const worn = smooth(0.62, 0.72, fractal(u * 24, v * 12, 5, 79))
  const ground = [0.055 + wood * 0.04, 0.1 + wood * 0.05, 0.13 + wood * 0.06]
  const paint = [0.76 - worn * 0.3, 0.72 - worn * 0.3, 0.6 - worn * 0.26]
  const on = Math.min(1, 1 - smooth(0.5, 0.68, distance + waver) + frame) * (1 - smooth(0.75, 0.95, worn))
  return [mix(ground[0]!, paint[0]!, on), mix(ground[1]!, paint[1]!, on), mix(ground[2]!, paint[2]!, on), 1]
}
export const seeded = random
