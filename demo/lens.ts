// What a camera does to the light before it is a photograph: haze is the scene's; distortion, soft corners, vignette
// and grain are the lens's and the sensor's.
import { random } from './noise'

export interface LensData {
  k1: number
  vignette: number
  cornerBlur: number
  grain: number
}
export const LENS: LensData = { k1: -0.008, vignette: 0.28, cornerBlur: 1.3, grain: 0.011 }

/** Where a pixel of the photograph looks in the picture that is not bent, both from the middle of the first pixel. */
export function seenAt(width: number, height: number, { k1 }: LensData, x: number, y: number): [number, number] {
  const half = Math.hypot(width, height) / 2
  const dx = (x + 0.5 - width / 2) / half
  const dy = (y + 0.5 - height / 2) / half
  const k = 1 - k1 * (dx * dx + dy * dy)
  return [width / 2 + dx * half * k - 0.5, height / 2 + dy * half * k - 0.5]
}

/** Scene-linear RGB in (undistorted), scene-linear RGB out as the sensor got it. */
export function photograph(width: number, height: number, rgb: Float32Array, lens: LensData, seed = 7): Float32Array {
  const out = new Float32Array(rgb.length)
  const next = random(seed)
  const half = Math.hypot(width, height) / 2
  const gauss = (): number => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next())
  // Grain is correlated over about a pixel, and a little less in blue's company
  const grain = new Float32Array(width * height * 3)
  for (let i = 0; i < grain.length; i++) grain[i] = gauss()
  const at = (x: number, y: number, c: number): number => {
    const px = Math.min(width - 1.001, Math.max(0, x))
    const py = Math.min(height - 1.001, Math.max(0, y))
    const ix = Math.floor(px)
    const iy = Math.floor(py)
    const fx = px - ix
    const fy = py - iy
    const i = (iy * width + ix) * 3 + c
    return (
      (rgb[i]! * (1 - fx) + rgb[i + 3]! * fx) * (1 - fy) +
      (rgb[i + width * 3]! * (1 - fx) + rgb[i + width * 3 + 3]! * fx) * fy
    )
  }
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const dx = (x + 0.5 - width / 2) / half
      const dy = (y + 0.5 - height / 2) / half
      const r2 = dx * dx + dy * dy
      const [sx, sy] = seenAt(width, height, lens, x, y)
      const fall = 1 - lens.vignette * r2 * r2 - lens.vignette * 0.25 * r2
      const blur = lens.cornerBlur * Math.max(0, r2 - 0.25)
      for (let c = 0; c < 3; c++) {
        const fringe = 1 + (c - 1) * 0.0004
        const bx = width / 2 + (sx - width / 2) * fringe
        const by = height / 2 + (sy - height / 2) * fringe
        let value = at(bx, by, c)
        if (blur > 0.05)
          value =
            value * 0.4 +
            (at(bx - blur, by, c) + at(bx + blur, by, c) + at(bx, by - blur, c) + at(bx, by + blur, c)) * 0.15
        const i = (y * width + x) * 3 + c
        const g =
          (grain[i]! * 2 +
            grain[(y * width + Math.max(0, x - 1)) * 3 + c]! +
            grain[(Math.max(0, y - 1) * width + x) * 3 + c]!) /
          2.45
        out[i] = Math.max(0, value * fall + g * lens.grain * Math.sqrt(Math.max(0.003, value)))
      }
    }
  }
  return out
}
