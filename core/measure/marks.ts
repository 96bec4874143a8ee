// Pixels that one wants to know of: told apart one by one, counted, and marked on the picture.
import { LUMINANCE } from '../colour/luminance'

export interface Mark {
  id: string
  label: string
  help: string
  /** What it is marked with: a colour of its own, and lines that lean to a side of its own, or squares. */
  colour: readonly [number, number, number]
  lines: 'right' | 'left' | 'squares'
}
/** A pixel is of the first that fits. */
export const MARKS: readonly Mark[] = [
  {
    id: 'none',
    label: 'no number',
    help: 'A channel is not a number, or endless.',
    colour: [176, 63, 214],
    lines: 'squares',
  },
  { id: 'below', label: 'below 0', help: 'Its brightness is below nothing.', colour: [47, 111, 224], lines: 'left' },
  {
    id: 'outside',
    label: 'outside',
    help: 'A channel is below nothing: a colour outside of Rec.709, in which the shot is worked on.',
    colour: [18, 165, 160],
    lines: 'left',
  },
  {
    id: 'brightest',
    label: 'brightest',
    help: 'A channel is shown as the brightest that there is.',
    colour: [224, 102, 47],
    lines: 'right',
  },
]
const [NONE, BELOW, OUTSIDE, BRIGHTEST, PLAIN] = [0, 1, 2, 3, 4]
const [RED, GREEN, BLUE] = LUMINANCE

/** Which of MARKS a pixel is, by its scene-linear channels and whether one of its display codes is the last; 4 of none. */
export function markOf(r: number, g: number, b: number, brightest: boolean): number {
  // Of what is no number or endless the difference to itself is none, too
  const sum = r + g + b
  if (sum - sum !== 0) return NONE
  if (r < 0 || g < 0 || b < 0) return r * RED + g * GREEN + b * BLUE < 0 ? BELOW : OUTSIDE
  return brightest ? BRIGHTEST : PLAIN
}

/** Pixels to a line and the room beside it. */
const STEP = 8
const LINE = 3
/**
 * Marks on the display codes of a picture the pixels that are of some of MARKS; between the lines the picture stays.
 * pixels: scene-linear RGBA, rows of `width`; the lines go on over pictures whose first pixel lies at left and top.
 */
export function markLight(
  pixels: Float32Array,
  shown: Uint8ClampedArray,
  width: number,
  which: readonly string[],
  left = 0,
  top = 0,
): void {
  const wanted = MARKS.map(({ id }) => which.includes(id))
  const height = pixels.length / 4 / width
  for (let y = 0, at = 0; y < height; y++)
    for (let x = 0; x < width; x++, at += 4) {
      const brightest = shown[at] === 255 || shown[at + 1] === 255 || shown[at + 2] === 255
      const found = markOf(pixels[at]!, pixels[at + 1]!, pixels[at + 2]!, brightest)
      if (found === PLAIN || !wanted[found]) continue
      const { colour, lines } = MARKS[found]!
      const [u, v] = [x + left, y + top]
      const isLine =
        lines === 'squares'
          ? ((u >> 1) + (v >> 1)) % 2 === 0
          : (lines === 'right' ? u + v : u - v + 1e6 * STEP) % STEP < LINE
      if (isLine) shown.set(colour, at)
    }
}
