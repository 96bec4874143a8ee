// The brightness of a panorama from something in the plate that is known to be white or grey.
import { luminance } from '../colour/luminance'
import type { Environment } from '../scene/scene'
import type { Vector3 } from '../scene/vector'

export const luminanceOf = ([r, g, b]: readonly number[]): number => luminance(r!, g!, b!)

/**
 * Irradiance (linear Rec.709) of an environment on a surface that faces a unit normal, nothing before it: its radiance
 * times the cosine, over the hemisphere. The picture is latitude by longitude, its middle towards -Z, right is +X.
 */
export function irradianceOn(
  { pixels, width, height, turn }: Pick<Environment, 'pixels' | 'width' | 'height' | 'turn'>,
  normal: Vector3,
): Vector3 {
  const sum: Vector3 = [0, 0, 0]
  const step = ((2 * Math.PI) / width) * (Math.PI / height)
  for (let y = 0; y < height; y++) {
    const polar = ((y + 0.5) / height) * Math.PI
    const sine = Math.sin(polar)
    const up = Math.cos(polar) * normal[1]
    for (let x = 0; x < width; x++) {
      const azimuth = ((x + 0.5) / width - 0.5) * 2 * Math.PI + (turn * Math.PI) / 180
      const cosine = up + sine * (Math.sin(azimuth) * normal[0] - Math.cos(azimuth) * normal[2])
      if (cosine <= 0) continue
      const weight = cosine * sine * step
      const at = (y * width + x) * 4
      for (let c = 0; c < 3; c++) sum[c]! += pixels[at + c]! * weight
    }
  }
  return sum
}

/** Mean of a few pixels about a place of a picture (RGBA, scene-linear; u right, v down, 0..1). */
export function meanAbout(
  { pixels, width, height }: { pixels: Float32Array; width: number; height: number },
  u: number,
  v: number,
  radius = 2,
): Vector3 {
  const sum: Vector3 = [0, 0, 0]
  let count = 0
  const x0 = Math.floor(u * width)
  const y0 = Math.floor(v * height)
  for (let y = Math.max(0, y0 - radius); y <= Math.min(height - 1, y0 + radius); y++)
    for (let x = Math.max(0, x0 - radius); x <= Math.min(width - 1, x0 + radius); x++) {
      for (let c = 0; c < 3; c++) sum[c]! += pixels[(y * width + x) * 4 + c]!
      count++
    }
  return sum.map(value => value / Math.max(1, count)) as Vector3
}

/**
 * Stops that a panorama's strength must change by so that a matt surface that reflects so much (0..1) of an irradiance
 * is as bright as what the plate shows there: radiance is irradiance times reflectance over pi (Lambert). Throws where
 * either is dark.
 */
export function stopsToMatch(shown: Vector3, irradiance: Vector3, reflects: number): number {
  const wanted = luminanceOf(shown)
  const gives = (luminanceOf(irradiance) * reflects) / Math.PI
  if (!(wanted > 1e-5)) throw new Error('That place of the plate is black: click something white or grey.')
  if (!(gives > 1e-9)) throw new Error('The panorama gives no light on that side.')
  return Math.log2(wanted / gives)
}
