import { MIDDLE_GREY } from '../colour/luminance'
import { value } from '../declare/field'
import { boxOf, grown } from '../engine/box'
import { BadInput } from '../formats/errors'
import { point } from '../formula/point'
import { gaussian, gaussianTaps } from '../plan/gaussian'
import { kernelNode } from '../plan/node'
import { pointNode } from '../plan/pointNode'
import { raster, shade, splat } from '../../kernels/record'
import { WhiteNoise } from '../../kernels/records'
import type { Likeness } from '../measure/likeness'
import { DARKEST, NOISE_VALUES } from './noiseOf'
import { treatment } from './treatment'

const Grain = point(
  'Grain',
  { noise: raster('colour'), deviation: shade, growth: splat },
  ({ colour, colours, alpha, values }) => {
    const strength = colour.map(channel => channel.atLeast(DARKEST).over(MIDDLE_GREY).power(values.growth))
    return colour.map((channel, which) =>
      channel.plus(
        alpha.isAbove(0).choose(strength[which].times(values.deviation[which]).times(colours.noise.colour[which]), 0),
      ),
    )
  },
)

export const grain = treatment({
  id: 'grain',
  label: 'Grain',
  help: 'The noise of a camera or film on what is too clean, another on every frame. Its slip says what is too clean: what was rendered, and not the plate, which has its own. Like the plate: measured from what is flat in it.',
  group: 'Lens',
  sentence:
    'Grain of {amount} at middle grey ({channels} by channel), growing {growth} with light, {size} wide, {together} alike in all channels, seed {seed}',
  beside: true,
  values: {
    ...NOISE_VALUES,
    size: value(0, 16, {
      label: 'size',
      help: 'Standard deviation of one grain, in pixels of the full frame; 0 pixel by pixel.',
      unit: 'px',
      pixels: 'size',
      step: 0.01,
      digits: 2,
      first: 0.7,
    }),
    together: value(0, 1, {
      label: 'together',
      help: 'Correlation of the channels: 1 grey, 0 each its own.',
      step: 0.004,
      first: 0.3,
    }),
    seed: value(0, 9999, { label: 'seed', help: 'Another number, other grain.', step: 1, digits: 0, first: 1 }),
  },
  neutral: ['amount'],
  shown: { amount: 0.25, size: 1.6 },
  likened: likeGrain,
  likenedBy: 'grain',
  plan: (input, { amount, channels, growth, size, together, seed }) => {
    const { width, height, shrink } = input
    // Of a picture made smaller grains are as wide as theirs and the pixels' own width tell
    const wide = Math.sqrt(size * size + (1 - 1 / (shrink * shrink)) / 12)
    const window = grown(boxOf(width, height), Math.ceil(wide * 4) + 2)
    const number = (Math.round(seed) * 100003 + input.frame) | 0
    const white = kernelNode(
      WhiteNoise,
      { number, own: Math.sqrt(1 - together), together: Math.sqrt(together) },
      { window },
    )
    const noise = gaussian(white, wide, { width, height })
    const deviation = (amount * MIDDLE_GREY * deviationOfMean(size * shrink, shrink)) / deviationLeft(wide)
    const [red, green, blue] = channels
    return pointNode(
      Grain,
      input,
      { noise, deviation: [red * deviation, green * deviation, blue * deviation], growth },
      { straight: true },
    )
  },
})

/** What deviation of numbers without order is left where they are softened. */
export function deviationLeft(sigma: number): number {
  if (sigma < 0.05) return 1
  // Along rows and columns each: of a sum of such numbers the root of the sum of the weights' squares
  return alikeOf(gaussianTaps(sigma), 0)
}
/** Sum over all taps of each times the one so far from it. */
function alikeOf(taps: Float32Array, apart: number): number {
  let sum = 0
  const at = (i: number): number => taps[Math.abs(i)] ?? 0
  for (let i = -taps.length - apart; i < taps.length; i++) sum += at(i) * at(i + apart)
  return sum
}
/** Of the mean of a square so many pixels across, of grain so wide whose own deviation is 1. */
export function deviationOfMean(sigma: number, side: number): number {
  const taps = sigma < 0.05 ? Float32Array.of(1) : gaussianTaps(sigma)
  let sum = 0
  for (let i = 0; i < side; i++) for (let j = 0; j < side; j++) sum += alikeOf(taps, Math.abs(i - j))
  return sum / (side * side) / alikeOf(taps, 0)
}

const rounded = (value: number, digits = 3): number => Number(value.toFixed(digits))
/** What another picture has. Throws BadInput where that shows nothing flat. */
export function likeGrain(_own: Likeness, { grain }: Likeness): Record<string, number | number[]> {
  if (!grain) throw new BadInput('Nothing there is flat enough to measure its grain: draw a frame round sky or a wall.')
  const { amount, channels, growth, size, together } = grain
  return {
    amount: rounded(Math.min(2, amount), 4),
    channels: channels.map(value => rounded(value)),
    growth: rounded(growth),
    size: rounded(size),
    together: rounded(together),
  }
}
