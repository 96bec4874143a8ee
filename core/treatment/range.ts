import { value } from '../declare/field'
import { fromOklab, smooth, toOklab } from '../formula/colours'
import { point } from '../formula/point'
import { Colour, type Term } from '../formula/term'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** Chroma of OKLab below which a hue counts for less. */
export const PALE = 0.04
const HueRange = point(
  'HueRange',
  {
    hueCosine: splat,
    hueSine: splat,
    outside: splat,
    slope: splat,
    turnCosine: splat,
    turnSine: splat,
    saturation: splat,
    stops: splat,
  },
  ({ colour, values: v }) => {
    const { red: light, green: a, blue: b } = toOklab(colour)
    const chroma = a.times(a).plus(b.times(b)).root()
    const safe = chroma.atLeast(1e-5)
    const alike = a.times(v.hueCosine).plus(b.times(v.hueSine)).over(safe)
    const weight = smooth(alike.minus(v.outside).times(v.slope)).times(smooth(chroma.over(PALE)))
    // Part of a turn, as strong as it was
    const turned = (from: 'a' | 'b'): Term =>
      from === 'a' ? a.times(v.turnCosine).minus(b.times(v.turnSine)) : a.times(v.turnSine).plus(b.times(v.turnCosine))
    const a2 = a.plus(turned('a').minus(a).times(weight))
    const b2 = b.plus(turned('b').minus(b).times(weight))
    const long = a2.times(a2).plus(b2.times(b2)).root().atLeast(1e-5)
    const keep = chroma.over(long).times(v.saturation.minus(1).times(weight).plus(1))
    const gain = long.terms.constant(2).power(v.stops.times(weight))
    return fromOklab(new Colour(light, a2.times(keep), b2.times(keep))).times(gain)
  },
)
const degrees = (label: string, help: string, low: number, high: number, first: number): ReturnType<typeof value> =>
  value(low, high, { label, help, unit: '°', step: 0.2, digits: 1, first })

export const range = treatment({
  id: 'range',
  label: 'One range of hues',
  help: 'Turns, strengthens or brightens the colours of one range of hues; greys stay (OKLCh).',
  group: 'Colour',
  sentence: 'Take hues {width} round {hue}, soft over {soft}: turn {turn}, saturate {saturation}, expose {stops}',
  values: {
    hue: degrees(
      'hue',
      'Middle of the range: red 29, yellow 110, green 142, cyan 195, blue 264, magenta 328.',
      0,
      360,
      264,
    ),
    width: degrees('width', 'Half of the range.', 0, 180, 25),
    soft: degrees('soft over', 'Beside the range it fades over so much.', 0, 180, 20),
    turn: value(-180, 180, {
      label: 'turn',
      help: 'Round the circle of hues.',
      unit: '°',
      step: 0.2,
      digits: 1,
      neutral: 0,
    }),
    saturation: value(0, 4, { label: 'saturation', help: '0 is grey, 1 as it was.', step: 0.005, neutral: 1 }),
    stops: value(-10, 10, { label: 'exposure', help: 'Each stop doubles the light.', unit: 'stops', neutral: 0 }),
  },
  shown: { width: 60, turn: 70, saturation: 1.4 },
  plan: (input, { hue, width, soft, turn, saturation, stops }) => {
    const cosine = (angle: number): number => Math.cos((Math.min(180, angle) * Math.PI) / 180)
    const sine = (angle: number): number => Math.sin((angle * Math.PI) / 180)
    const outside = cosine(width + soft)
    return pointNode(
      HueRange,
      input,
      {
        hueCosine: Math.cos((hue * Math.PI) / 180),
        hueSine: sine(hue),
        outside,
        slope: 1 / Math.max(1e-4, cosine(width) - outside),
        turnCosine: Math.cos((turn * Math.PI) / 180),
        turnSine: sine(turn),
        saturation,
        stops,
      },
      { straight: true },
    )
  },
})
