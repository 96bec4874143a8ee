// Places in the opening of the lens (core/lens/aperture.ts says its shape): as many everywhere as it is bright there.
import { HALF, ONE } from './constants'
import * as L from './layout'
import { draw, randomX, randomY } from './random'

/** Times that a place is drawn which the barrel hides. */
const MOST_DRAWN: u32 = 6
const TURN: f32 = 6.283185307179586

/** Radii of a round opening that lets as much light through, to the right and up. */
export let openingX: f32 = 0
export let openingY: f32 = 0

/** px, py: the place of the picture. */
export function drawOpening(render: usize, px: f32, py: f32, dimension: u32): void {
  const blades = load<i32>(render, L.RENDER_BLADES)
  const rim = load<f32>(render, L.RENDER_RIM)
  const wide = load<f32>(render, L.RENDER_SQUEEZE)
  const catsEye = load<f32>(render, L.RENDER_CATS_EYE)
  const width = <f32>load<i32>(render, L.RENDER_WIDTH) * HALF
  const height = <f32>load<i32>(render, L.RENDER_HEIGHT) * HALF
  const corner = ONE / sqrt<f32>(width * width + height * height)
  const fx = (px - width) * corner * catsEye
  const fy = (height - py) * corner * catsEye
  for (let turn: u32 = 0; turn < MOST_DRAWN; turn++) {
    draw(dimension + turn)
    // Brightness 1 + rim (2 s² - 1) at s along a ray from the middle: of it within s, s² + rim (s⁴ - s²)
    const u = randomX
    const inner = ONE - rim
    const square = abs<f32>(rim) < 1e-4 ? u : (sqrt<f32>(inner * inner + 4 * rim * u) - inner) / (2 * rim)
    const s = sqrt<f32>(max<f32>(0, min<f32>(1, square)))
    let x: f32
    let y: f32
    if (blades < 3) {
      const angle = randomY * TURN
      x = s * <f32>Math.cos(angle)
      y = s * <f32>Math.sin(angle)
    } else {
      const along = randomY * <f32>blades
      const side = floor<f32>(along)
      const sector = TURN / <f32>blades
      const reach = sqrt<f32>(TURN / (<f32>blades * <f32>Math.sin(sector)))
      const a = load<f32>(render, L.RENDER_TURN) + side * sector
      const b = a + sector
      const t = along - side
      x = s * reach * (<f32>Math.cos(a) * (ONE - t) + <f32>Math.cos(b) * t)
      y = s * reach * (<f32>Math.sin(a) * (ONE - t) + <f32>Math.sin(b) * t)
    }
    openingX = x / wide
    openingY = y * wide
    const dx = openingX - fx
    const dy = openingY - fy
    if (catsEye <= 0 || dx * dx + dy * dy <= 1) return
  }
}
