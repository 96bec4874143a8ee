// The side that light comes from, as a picture's shading tells it: things are brighter on the side that faces the
// light, so that brightness grows toward it on the whole. (Its tilt by the mean of the gradients' directions: A. P.
// Pentland, "Finding the illuminant direction", JOSA 72 (1982); here by the gradients of the logarithm, so that
// colours of things and strength of light count alike, softened, since small texture faces all ways.)
import type { Box } from '../engine/box'

export interface LightSide {
  /** Degrees that the light comes from in the picture: 0 from the right, 90 from above, 180 from the left. */
  degrees: number
  /** 0 no side at all, 1 all of it brightens the same way. */
  agreed: number
}
/** Smaller than that share of what is looked at is texture. */
const SOFT = 1 / 24

/**
 * light: of each pixel, rows of `width`; NaN is not looked at. In a window, or all over. Undefined where less than a
 * twelfth of that is looked at.
 */
export function lightSideOf(light: Float32Array, width: number, window?: Box): LightSide | undefined {
  const height = Math.floor(light.length / width)
  const box = window ?? { left: 0, top: 0, right: width, bottom: height }
  const side = Math.max(2, Math.round(Math.max(box.right - box.left, box.bottom - box.top) * SOFT))
  const [columns, rows] = [Math.floor((box.right - box.left) / side), Math.floor((box.bottom - box.top) / side)]
  const cells = new Float64Array(columns * rows)
  let known = 0
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      let [sum, count] = [0, 0]
      for (let y = 0; y < side; y++)
        for (let x = 0; x < side; x++) {
          const value = light[(box.top + row * side + y) * width + box.left + column * side + x]!
          if (!(value > 0)) continue
          sum += value
          count++
        }
      const isKnown = count > (side * side) / 2
      cells[row * columns + column] = isKnown ? Math.log(sum / count) : NaN
      if (isKnown) known++
    }
  if (known < Math.max(12, (columns * rows) / 12)) return undefined
  let [right, up, all] = [0, 0, 0]
  for (let row = 1; row < rows - 1; row++)
    for (let column = 1; column < columns - 1; column++) {
      const i = row * columns + column
      const gx = cells[i + 1]! - cells[i - 1]!
      const gy = cells[i - columns]! - cells[i + columns]!
      if (!Number.isFinite(gx + gy)) continue
      right += gx
      up += gy
      all += Math.hypot(gx, gy)
    }
  if (!(all > 0)) return undefined
  return { degrees: ((Math.atan2(up, right) * 180) / Math.PI + 360) % 360, agreed: Math.hypot(right, up) / all }
}
