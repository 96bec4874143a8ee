// Where what was measured of two pictures is best seen: a small part of each, to be looked at beside each other.
import type { Box } from '../engine/box'
import type { MeasureId, Pair } from './beside'

/** Pixels of a part. */
export const PART = { width: 44, height: 28 }
/** Parts begin at every fourth of that. */
const STEPS = 4
/** So much of a part shows what is looked at of the render; where none does, so much at least. */
const ALL = 0.98
const MOST = 0.6

interface Cell {
  light: number
  squares: number
  slope: number
  held: number
}
const SORTS = {
  darkest: ({ light }: Cell): number => -light,
  brightest: ({ light }: Cell): number => light,
  sharpest: ({ slope }: Cell): number => slope,
  /** What is black or burnt out shows no grain. */
  evenest: ({ light, squares }: Cell): number =>
    light < EVEN.dark || light > EVEN.bright ? -Infinity : light ** 2 - squares,
} as const
const EVEN = { dark: 0.12, bright: 0.92 }
/** By which of them each is best seen; all others are seen anywhere. */
const SEEN_IN: Partial<Record<MeasureId, keyof typeof SORTS>> = {
  blacks: 'darkest',
  whites: 'brightest',
  sharpness: 'sharpest',
  grain: 'evenest',
  noise: 'evenest',
}
export type Showing = Partial<Record<MeasureId, { plate?: Box; render?: Box }>>

/** In pixels of the pair; a part is left out where none shows it. */
export function showingOf({ plate, render, mask, width }: Pair): Showing {
  const height = mask.length / width
  const everywhere = new Uint8Array(mask.length).fill(1)
  const [ofPlate, ofRender] = [partsOf(plate, everywhere, width, height), partsOf(render, mask, width, height)]
  const best = (parts: readonly Part[], sort: keyof typeof SORTS): Box | undefined =>
    parts.reduce<Part | undefined>((found, part) => {
      const score = SORTS[sort](part)
      return score > (found ? SORTS[sort](found) : -Infinity) ? part : found
    }, undefined)?.box
  return Object.fromEntries(
    Object.entries(SEEN_IN).map(([id, sort]) => [id, { plate: best(ofPlate, sort), render: best(ofRender, sort) }]),
  )
}

interface Part extends Cell {
  box: Box
}
/** Every part of a picture that shows enough of what is looked at, with its means. */
function partsOf(pixels: Float32Array, mask: Uint8Array, width: number, height: number): Part[] {
  const [wide, high] = [PART.width / STEPS, PART.height / STEPS]
  const [across, down] = [Math.floor(width / wide), Math.floor(height / high)]
  // As light as it is seen, about: the cube root of its luminance (Rec.709)
  const lights = Float32Array.from(mask, (_, i) =>
    Math.cbrt(Math.max(0, 0.2126 * pixels[i * 4]! + 0.7152 * pixels[i * 4 + 1]! + 0.0722 * pixels[i * 4 + 2]!)),
  )
  const cells = Array.from({ length: across * down }, (_, cell): Cell => {
    const [left, top] = [(cell % across) * wide, Math.floor(cell / across) * high]
    const sum: Cell = { light: 0, squares: 0, slope: 0, held: 0 }
    for (let y = top; y < top + high; y++)
      for (let x = left; x < left + wide; x++) {
        const i = y * width + x
        const light = lights[i]!
        sum.light += light
        sum.squares += light * light
        sum.held += mask[i]!
        // At its border it is not what is looked at that changes
        if (x + 1 < width && y + 1 < height && mask[i + 1] && mask[i + width])
          sum.slope += Math.hypot(lights[i + 1]! - light, lights[i + width]! - light)
      }
    return sum
  })
  const parts: Part[] = []
  for (let y = 0; y + STEPS <= down; y++)
    for (let x = 0; x + STEPS <= across; x++) {
      const sum: Cell = { light: 0, squares: 0, slope: 0, held: 0 }
      for (let cy = y; cy < y + STEPS; cy++)
        for (let cx = x; cx < x + STEPS; cx++)
          for (const key of Object.keys(sum) as (keyof Cell)[]) sum[key] += cells[cy * across + cx]![key]
      const count = PART.width * PART.height
      const box = {
        ...{ left: x * wide, top: y * high },
        ...{ right: x * wide + PART.width, bottom: y * high + PART.height },
      }
      parts.push({
        ...{ light: sum.light / count, squares: sum.squares / count },
        ...{ slope: sum.slope / count, held: sum.held / count, box },
      })
    }
  const whole = parts.filter(({ held }) => held >= ALL)
  return whole.length ? whole : parts.filter(({ held }) => held >= MOST)
}
