// The sky of blue hour as a panorama: slate blue above to a thin peach band at the horizon, overcast, soft.
import { fractal, mix, smooth } from './noise'

const TOP = [0.055, 0.082, 0.125]
const MIDDLE = [0.13, 0.175, 0.235]
const BAND = [0.5, 0.36, 0.265]
const HAZE = [0.31, 0.285, 0.275]

/** Radiance (scene-linear) towards a direction: azimuth in turns (0.5 is ahead), elevation in degrees. */
export function skyRadiance(turn: number, elevation: number): [number, number, number] {
  const e = Math.max(0, elevation)
  const lit = 0.5 + 0.5 * Math.cos((turn - 0.46) * 2 * Math.PI)
  const band = Math.exp(-(((e - 2.4) / 2.3) ** 2)) * mix(0.3, 1, lit ** 2)
  const haze = Math.exp(-((e / 5) ** 2))
  // Long flat clouds: stretched along the horizon, closer together near it
  const across = turn * 36
  const up = Math.sqrt(e + 1.5) * 3.4
  const cloud = smooth(0.42, 0.66, fractal(across * 0.5, up * 1.9, 6, 5, 0.52))
  const fine = fractal(across * 2.2, up * 5, 5, 9)
  const height = smooth(2, 42, e)
  return [0, 1, 2].map(c => {
    let value = mix(MIDDLE[c]!, TOP[c]!, height)
    value = mix(value, BAND[c]!, band * 0.92)
    value = mix(value, HAZE[c]!, haze * 0.55)
    const under = mix(0.76, 0.58, height)
    const rim = [1.18, 1.02, 0.9][c]!
    value *= mix(1, under * (band > 0.2 ? rim : 1), cloud * (0.35 + 0.65 * smooth(3, 9, e)))
    return value * (0.93 + fine * 0.14)
  }) as [number, number, number]
}

interface Panorama {
  width: number
  height: number
  pixels: Float32Array
}
/** A picture of all directions: the sky by its turn and elevation, and below the horizon the ground by its elevation. */
export function panorama(
  width: number,
  sky: (turn: number, elevation: number) => readonly number[],
  ground: (elevation: number) => readonly number[],
): Panorama {
  const height = width / 2
  const pixels = new Float32Array(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const elevation = 90 - ((y + 0.5) / height) * 180
      // A row below the horizon too, or what is drawn between the rows darkens it
      const seen = elevation >= -180 / height ? sky((x + 0.5) / width, elevation) : ground(elevation)
      pixels.set([...seen, 1], (y * width + x) * 4)
    }
  return { width, height, pixels }
}
export const skyPanorama = (width = 1024): Panorama =>
  panorama(width, skyRadiance, elevation =>
    [0.045, 0.05, 0.056].map(value => value * (0.75 + 0.25 * Math.exp(elevation / 20))),
  )
