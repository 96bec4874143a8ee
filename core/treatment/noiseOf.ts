// Noise of a camera or film, as a model has it: what takes it out sees all brightnesses alike noisy.
import { MIDDLE_GREY } from '../colour/luminance'
import { threeValues, value } from '../declare/field'
import { point } from '../formula/point'
import { pointNode, whole } from '../plan/pointNode'
import type { Node } from '../plan/node'
import { shade, splat } from '../../kernels/record'
import { Divided } from './premultiply'

/** Darker than this noise does not change any more: light below nothing has it, too. */
export const DARKEST = 0.002
/** A growth that is so near to that of the light itself counts as so much less: its own formula is a logarithm. */
const NEAREST = 0.02

/** What the model is told by: of the treatment that lays it and of those that take it out. */
export const NOISE_VALUES = {
  amount: value(0, 2, {
    label: 'amount',
    help: 'Standard deviation at middle grey, as a share of it.',
    step: 0.001,
    digits: 3,
    neutral: 0,
    first: 0.04,
  }),
  channels: threeValues(['red', 'green', 'blue'], {
    help: 'How much of it each channel has.',
    hand: [0, 10],
    step: 0.004,
    first: [1, 0.85, 1.25],
  }),
  growth: value(0, 2, {
    label: 'growth',
    help: 'How it grows with the light: 0.5 as light itself is noisy, 1 in proportion, 0 everywhere the same.',
    step: 0.004,
    first: 0.6,
  }),
}

const Steadied = point('Steadied', { power: splat, factor: shade, dark: shade }, ({ colour, values: v }) =>
  colour.map((channel, which) =>
    channel.atLeast(DARKEST).power(v.power).times(v.factor[which]).plus(channel.atMost(DARKEST).times(v.dark[which])),
  ),
)

/**
 * Straight colours as numbers in which noise of the model has a deviation of 1 everywhere: the integral of one over that
 * of the light. (M. Bartlett, "The Use of Transformations", Biometrics 3(1), 1947.) shrunk: how much less it is.
 */
export function steadied(
  colour: Node,
  { amount, channels, growth }: { amount: number; channels: readonly number[]; growth: number },
  shrunk: number,
): Node {
  const power = Math.abs(1 - growth) < NEAREST ? NEAREST : 1 - growth
  const deviations = channels.map(channel => Math.max(1e-6, amount * MIDDLE_GREY * Math.max(1e-3, channel) * shrunk))
  const factors = deviations.map(deviation => MIDDLE_GREY ** (1 - power) / (deviation * power))
  const dark = deviations.map(deviation => (DARKEST / MIDDLE_GREY) ** -(1 - power) / deviation)
  return pointNode(Steadied, whole(pointNode(Divided, whole(colour), {})), {
    power,
    factor: factors as [number, number, number],
    dark: dark as [number, number, number],
  })
}
