// The sun in an environment picture: found, measured, and taken out so that it can be a light of its own with a sharp
// shadow.
import { luminanceAt } from '../colour/luminance'
import type { Vector3 } from './vector'

export interface FoundSun {
  /** Degrees in the picture as it stands: 0 at its middle, positive to the right; and above the horizon. */
  azimuth: number
  elevation: number
  /** Apparent diameter in degrees. */
  diameter: number
  /** Irradiance at right angles, above what the sky round it gives. */
  irradiance: Vector3
  /** The picture with the sky round it in its place. */
  without: Float32Array
}

/**
 * Finds the one small brightest thing. pixels: RGBA, rows from the top. undefined when nothing stands out (40 times the
 * average of the sky).
 */
export function findSun(pixels: Float32Array, width: number, height: number): FoundSun | undefined {
  const luminance = (i: number): number => luminanceAt(pixels, i * 4)
  let best = 0
  let peak = 0
  let sum = 0
  let weight = 0
  for (let y = 0; y < height; y++) {
    const sine = Math.sin(((y + 0.5) / height) * Math.PI)
    for (let x = 0; x < width; x++) {
      const value = luminance(y * width + x)
      if (value > peak) {
        peak = value
        best = y * width + x
      }
      sum += value * sine
      weight += sine
    }
  }
  const average = sum / weight
  if (!(peak > 40 * average)) return undefined
  // Everything joined to the peak that is brighter than a tenth of it (and well above the sky)
  const floor = Math.max(peak * 0.1, average * 8)
  const seen = new Uint8Array(width * height)
  const list = [best]
  seen[best] = 1
  for (let at = 0; at < list.length; at++) {
    const i = list[at]!
    const x = i % width
    const y = (i - x) / width
    for (const [nx, ny] of [
      [(x + 1) % width, y],
      [(x + width - 1) % width, y],
      [x, y + 1],
      [x, y - 1],
    ] as const) {
      if (ny < 0 || ny >= height) continue
      const k = ny * width + nx
      if (!seen[k] && luminance(k) > floor) {
        seen[k] = 1
        list.push(k)
      }
    }
  }
  const cell = (((2 * Math.PI) / width) * Math.PI) / height
  const direction = (i: number): Vector3 => {
    const x = i % width
    const y = (i - x) / width
    const phi = ((x + 0.5) / width - 0.5) * 2 * Math.PI
    const theta = ((y + 0.5) / height) * Math.PI
    return [Math.sin(phi) * Math.sin(theta), Math.cos(theta), -Math.cos(phi) * Math.sin(theta)]
  }
  const solid = (i: number): number => Math.sin(((Math.floor(i / width) + 0.5) / height) * Math.PI) * cell
  const middle: Vector3 = [0, 0, 0]
  let whole = 0
  for (const i of list) {
    const d = direction(i)
    const w = luminance(i) * solid(i)
    for (let k = 0; k < 3; k++) middle[k]! += d[k]! * w
    whole += solid(i)
  }
  const long = Math.hypot(...middle)
  const centre = middle.map(value => value / long) as Vector3
  // Sky round it: the median of a ring just outside the bright patch (each channel for itself)
  const radius = Math.acos(Math.max(-1, 1 - whole / (2 * Math.PI)))
  const outer = Math.max(radius * 2.5, radius + (3 * Math.PI) / height)
  const ring: number[] = []
  let reach = 0
  for (const i of list) {
    const d = direction(i)
    reach = Math.max(reach, Math.acos(Math.min(1, d[0] * centre[0] + d[1] * centre[1] + d[2] * centre[2])))
  }
  for (let i = 0; i < seen.length; i++) {
    const d = direction(i)
    const apart = Math.acos(Math.min(1, Math.max(-1, d[0] * centre[0] + d[1] * centre[1] + d[2] * centre[2])))
    if (apart > Math.max(radius * 1.5, reach * 1.1) && apart < Math.max(outer, reach * 1.8)) ring.push(i)
  }
  const sky = [0, 1, 2].map(c => {
    const values = ring.map(i => pixels[i * 4 + c]!).sort((a, b) => a - b)
    return values.length ? values[values.length >> 1]! : average
  })
  const without = pixels.slice()
  const irradiance: Vector3 = [0, 0, 0]
  // The glow just outside the patch belongs to it too
  const wide = Math.max(radius * 1.5, reach * 1.1)
  for (let i = 0; i < seen.length; i++) {
    const d = direction(i)
    const cosine = d[0] * centre[0] + d[1] * centre[1] + d[2] * centre[2]
    if (!seen[i] && Math.acos(Math.min(1, Math.max(-1, cosine))) > wide) continue
    for (let c = 0; c < 3; c++) {
      const over = Math.max(0, pixels[i * 4 + c]! - sky[c]!)
      irradiance[c]! += over * solid(i) * Math.max(0, cosine)
      without[i * 4 + c] = pixels[i * 4 + c]! - over
    }
  }
  return {
    azimuth: (Math.atan2(centre[0], -centre[2]) * 180) / Math.PI,
    elevation: (Math.asin(Math.min(1, Math.max(-1, centre[1]))) * 180) / Math.PI,
    diameter: Math.max(0.1, (2 * radius * 180) / Math.PI),
    irradiance,
    without,
  }
}

/**
 * Where most of the light above the horizon comes from: degrees as in FoundSun. The brightest tenth of the sky,
 * weighted by its light.
 */
export function mainLightOf(
  pixels: Float32Array,
  width: number,
  height: number,
): { azimuth: number; elevation: number } {
  const step = Math.max(1, Math.floor(width / 512))
  const found: { light: number; x: number; y: number; z: number }[] = []
  for (let y = 0; y < height / 2; y += step) {
    const theta = ((y + 0.5) / height) * Math.PI
    const sine = Math.sin(theta)
    for (let x = 0; x < width; x += step) {
      const i = (y * width + x) * 4
      const phi = ((x + 0.5) / width - 0.5) * 2 * Math.PI
      found.push({
        light: luminanceAt(pixels, i) * sine,
        x: Math.sin(phi) * sine,
        y: Math.cos(theta),
        z: -Math.cos(phi) * sine,
      })
    }
  }
  found.sort((a, b) => b.light - a.light)
  let x = 0
  let y = 0
  let z = 0
  for (const entry of found.slice(0, Math.ceil(found.length / 10))) {
    x += entry.x * entry.light
    y += entry.y * entry.light
    z += entry.z * entry.light
  }
  return { azimuth: (Math.atan2(x, -z) * 180) / Math.PI, elevation: (Math.atan2(y, Math.hypot(x, z)) * 180) / Math.PI }
}
