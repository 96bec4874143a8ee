// Pictures on the surfaces of the harbour at night: slates, harling, the shore, setts.
import { fractal, mix, noise, random, smooth } from './noise'
import type { Painter } from './textures'

/** Slate, each laid on another place of it: blue greys, some brown, rain marks. */
export const slate: Painter = (u, v) => {
  const tone = noise(u * 3, v * 3, 5)
  const grain = fractal(u * 60, v * 90, 4, 3)
  const brown = smooth(0.55, 0.8, noise(u * 4, v * 4, 9))
  const moss = smooth(0.66, 0.76, fractal(u * 12, v * 12, 5, 27))
  const k = mix(0.24, 0.4, tone) * mix(0.8, 1.2, grain)
  return [
    mix(k * mix(0.93, 1.14, brown), 0.3, moss * 0.7),
    mix(k, 0.33, moss * 0.7),
    mix(k * mix(1.1, 0.9, brown), 0.2, moss * 0.7),
    1,
  ]
}
/** Lime over rubble: uneven, stained under the eaves and at the foot. */
export const harling: Painter = (u, v) => {
  const lumps = fractal(u * 60, v * 60, 4, 13)
  const stain = smooth(0.42, 0.7, fractal(u * 5, v * 3, 6, 17))
  const k = mix(0.62, 0.8, lumps) * mix(1, 0.72, stain)
  return [k, k * mix(0.97, 0.95, stain), k * mix(0.92, 0.83, stain), 1]
}
/** Mud and sand that the tide left: ripples, weed, pools that shine. */
export const shoreColour: Painter = (u, v) => {
  const ripple = Math.sin((v * 150 + fractal(u * 8, v * 8, 4, 3) * 9) * Math.PI * 2) * 0.5 + 0.5
  const weed = smooth(0.55, 0.66, fractal(u * 11, v * 13, 6, 7))
  const k = mix(0.3, 0.42, fractal(u * 30, v * 30, 5, 5)) * mix(0.88, 1.05, ripple)
  return [mix(k * 1.05, 0.13, weed), mix(k * 0.95, 0.14, weed), mix(k * 0.78, 0.075, weed), 1]
}
export const pools = (u: number, v: number): number => smooth(0.5, 0.56, fractal(u * 9 + 3, v * 16, 5, 21))
export const setts: Painter = (u, v) => {
  const row = Math.floor(v * 44)
  const shift = random(row + 400)()
  const column = Math.floor(u * 30 + shift)
  const own = random(Math.imul(row + 77, 92821) ^ column)()
  const [du, dv] = [u * 30 + shift - column - 0.5, v * 44 - row - 0.5]
  const joint = smooth(0.5, 0.42, Math.max(Math.abs(du), Math.abs(dv)) + (fractal(u * 90, v * 120, 3, 7) - 0.5) * 0.1)
  const k = mix(0.24, 0.44, own) * mix(0.75, 1.2, fractal(u * 120, v * 160, 4, 11)) * mix(0.35, 1, joint)
  return [k * 1.02, k, k * 0.95, 1]
}
