import { bendTable, isStraight } from '../colour/bend'
import { bendPoints, value, type BendSide } from '../declare/field'
import { between, fromOklab, toOklab } from '../formula/colours'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { likened, MOST_SPREAD } from '../measure/likeness'
import { pointNode } from '../plan/pointNode'
import { pointer, splat } from '../../kernels/record'
import { treatment } from './treatment'

const MOST = 4
const COUNT = 2049
const ACROSS = { fromA: splat, fromB: splat, toA: splat, toB: splat, spreadA: splat, spreadB: splat }
const Match = point('Match', { tones: pointer, ...ACROSS }, ({ colour, tables, values: v }) => {
  const { red: light, green: a, blue: b } = toOklab(colour)
  const bent = between(tables.tones, light.times((COUNT - 1) / MOST), COUNT)
  // Below nothing and beyond the table it goes on as far as it went
  const next = bent.plus(light.atMost(0)).plus(light.minus(MOST).atLeast(0))
  return fromOklab(
    new Colour(next, a.minus(v.fromA).times(v.spreadA).plus(v.toA), b.minus(v.fromB).times(v.spreadB).plus(v.toB)),
  )
})
const mean = (label: string, help: string): ReturnType<typeof value> =>
  value(-1, 1, { label, help, step: 0.0005, digits: 4, neutral: 0 })
const spread = (label: string): ReturnType<typeof value> =>
  value(1 / MOST_SPREAD, MOST_SPREAD, {
    label,
    help: 'How many times as far the colours are to lie from their mean.',
    unit: '×',
    step: 0.005,
    neutral: 1,
  })

const LIGHTNESS: BendSide = { low: 0, high: MOST, seen: [0, 1.15], label: 'lightness' }

export const match = treatment({
  id: 'match',
  label: 'Match',
  help: 'Tones and colours as another picture has them, measured once from both and then values like any other (OKLab).',
  group: 'Colour',
  sentence: 'Match tones {tones}, colour from {from_a} {from_b} to {to_a} {to_b}, varied {spread_a} {spread_b}',
  values: {
    tones: bendPoints(
      { across: LIGHTNESS, up: LIGHTNESS, rest: 'same' },
      [
        [0, 0],
        [1, 1],
      ],
      { label: 'tones', help: 'What each lightness becomes: 0 black, 1 white.' },
    ),
    from_a: mean('green to red, here', 'The mean of this picture: below 0 green, above 0 red.'),
    from_b: mean('blue to yellow, here', 'The mean of this picture: below 0 blue, above 0 yellow.'),
    to_a: mean('green to red, there', 'The mean that it is to have.'),
    to_b: mean('blue to yellow, there', 'The mean that it is to have.'),
    spread_a: spread('green to red, varied'),
    spread_b: spread('blue to yellow, varied'),
  },
  idle: v => isStraight(v.tones) && v.from_a === v.to_a && v.from_b === v.to_b && v.spread_a === 1 && v.spread_b === 1,
  shown: { to_a: 0.03, to_b: 0.06, spread_a: 1.3, spread_b: 1.3 },
  likened,
  plan: (input, v) =>
    pointNode(
      Match,
      input,
      {
        tones: bendTable(v.tones, 0, MOST, COUNT),
        fromA: v.from_a,
        fromB: v.from_b,
        toA: v.to_a,
        toB: v.to_b,
        spreadA: v.spread_a,
        spreadB: v.spread_b,
      },
      { straight: true },
    ),
})
