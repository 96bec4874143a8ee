import { value } from '../declare/field'
import { finite } from '../plan/finite'
import { spread, halvingsTo } from '../plan/spread'
import type { Tap } from '../plan/along'
import { luminance } from '../colour/luminance'
import type { SmallPicture } from '../formats/picture/small'
import { treatment } from './treatment'

/** Pixels across to which a shape is laid tap by tap; larger ones on a picture made smaller. */
const MOST_ACROSS = 20

/**
 * The shape so many pixels wide, as taps: each the mean of what it covers. Each channel by its own, so that a coloured shape
 * parts the light and loses none of it; one in which a channel has nothing spreads that as its brightness. part: how much
 * is left of what lies so far from the middle, in shares of its longer side; all of it where it is not said.
 */
export function tapsOf(
  { width, height, pixels }: SmallPicture,
  across: number,
  part: (far: number) => number = () => 1,
): Tap[] {
  const scale = Math.max(1e-3, across) / Math.max(width, height)
  const [columns, rows] = [width, height].map(side => Math.max(1, Math.ceil(side * scale - 1e-6)))
  const sums = Array.from({ length: columns! * rows! }, () => [0, 0, 0, 0] as [number, number, number, number])
  const whole = [0, 0, 0, 0]
  // Every pixel of the shape falls on the taps that it covers, by how much of each
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4
      const own = [0, 1, 2].map(c => (Number.isFinite(pixels[at + c]!) ? Math.max(0, pixels[at + c]!) : 0))
      const shown = [...own, luminance(own[0]!, own[1]!, own[2]!)]
      const kept = part(Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) / Math.max(width, height))
      shown.forEach((light, c) => {
        whole[c]! += light
      })
      for (const [column, wide] of covered(x, width, columns!, scale))
        for (const [row, high] of covered(y, height, rows!, scale)) {
          const sum = sums[row * columns! + column]!
          shown.forEach((light, c) => {
            sum[c]! += (light * kept * wide * high) / (scale * scale)
          })
        }
    }
  if (!(whole[3]! > 0)) return []
  return sums.flatMap((sum, i): Tap[] => {
    const shade = [0, 1, 2].map(c => (whole[c]! > whole[3]! * 1e-6 ? sum[c]! / whole[c]! : sum[3] / whole[3]!))
    const weight = sum[3] / whole[3]!
    if (weight === 0) return []
    // Light goes out from a spark as the shape lies: a pixel shows what stands on the other side of it
    return [
      {
        x: (columns! - 1) / 2 - (i % columns!),
        y: (rows! - 1) / 2 - Math.floor(i / columns!),
        weight,
        shade: shade.map(share => share / weight) as [number, number, number],
      },
    ]
  })
}
/** The taps along a side that a pixel of the shape covers, each by how much; the shape lies in the middle of them. */
function covered(at: number, side: number, taps: number, scale: number): [tap: number, share: number][] {
  const from = (taps - side * scale) / 2 + at * scale
  const to = from + scale
  const found: [number, number][] = []
  for (let tap = Math.floor(from); tap < Math.min(taps, Math.ceil(to)); tap++) {
    const share = Math.min(to, tap + 1) - Math.max(from, tap)
    if (share > 1e-9) found.push([Math.max(0, tap), share])
  }
  return found
}

export const shaped = treatment({
  id: 'shaped',
  label: 'Blur by a shape',
  help: 'Softens by a small picture of a file: every spark becomes that picture, as out of focus through an opening of that shape, or as a measured point spread has it. No light is won or lost.',
  group: 'Softness',
  sentence: 'Blur by a shape {size} wide',
  beside: true,
  tabled: 'picture',
  values: {
    size: value(0, 600, {
      label: 'size',
      help: 'Of its longer side, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.2,
      digits: 1,
      neutral: 0,
      first: 24,
    }),
  },
  shown: { size: 18 },
  plan: ({ colour, width, height, small }, { size }) => {
    const clean = finite(colour)
    const found = small?.()
    if (!found || size < 1) return clean
    const times = halvingsTo(size, MOST_ACROSS)
    const taps = tapsOf(found, size / 2 ** times)
    return taps.length ? spread(clean, { width, height }, times, taps, { beyond: 'a mirror' }) : clean
  },
})
