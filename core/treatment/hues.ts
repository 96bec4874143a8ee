import { bendTable, roundBend, type BendPoint } from '../colour/bend'
import { bendPoints, type BendSide } from '../declare/field'
import { between, degreesOfQuarters, fromOklab, quarters, signedPower, smooth, toOklab } from '../formula/colours'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointer } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { PALE } from './range'
import { treatment } from './treatment'

/** Entries for each quarter of the circle, and of brightness as the eye takes it (a power of 2.4) up to 16 times white. */
const QUARTER = 512
const AROUND = QUARTER * 4 + 1
const POWER = 2.4
const [BRIGHTEST, BRIGHT] = [3.2, 1025]

const Hues = point(
  'Hues',
  { cosine: pointer, sine: pointer, saturation: pointer, gain: pointer, byLight: pointer },
  ({ colour, tables }) => {
    const { red: light, green: a, blue: b } = toOklab(colour)
    const place = quarters(a, b).times(QUARTER)
    const [cosine, sine] = [between(tables.cosine, place, AROUND), between(tables.sine, place, AROUND)]
    const seen = signedPower(colour.luminance(), 1 / POWER).times((BRIGHT - 1) / BRIGHTEST)
    const keep = between(tables.saturation, place, AROUND).times(between(tables.byLight, seen, BRIGHT))
    const turned = fromOklab(
      new Colour(
        light,
        a.times(cosine).minus(b.times(sine)).times(keep),
        a.times(sine).plus(b.times(cosine)).times(keep),
      ),
    )
    // The hue of greys means nothing: their brightness is kept
    const strong = smooth(a.times(a).plus(b.times(b)).root().over(PALE))
    return turned.times(between(tables.gain, place, AROUND).minus(1).times(strong).plus(1))
  },
)

/** The hues of red, yellow, green, cyan, blue and magenta. */
const NAMED = [29, 110, 142, 195, 264, 328]
const HUE: BendSide = { low: 0, high: 360, seen: [0, 360], label: 'hue', unit: '°', digits: 0 }
const byHue = (label: string, help: string, up: BendSide, rest: number): ReturnType<typeof bendPoints> =>
  bendPoints(
    { across: HUE, up, rest, round: true },
    NAMED.map((hue): BendPoint => [hue, rest]),
    { label, help },
  )
const FACTOR: BendSide = { low: 0, high: 4, seen: [0, 2], label: 'times', unit: '×' }
const TURN: BendSide = { low: -180, high: 180, seen: [-60, 60], label: 'turn', unit: '°', digits: 1 }
const STOPS: BendSide = { low: -10, high: 10, seen: [-2, 2], label: 'exposure', unit: ' stops' }
const isFlat = (points: readonly BendPoint[], rest: number): boolean => points.every(([, value]) => value === rest)

export const hues = treatment({
  id: 'hues',
  label: 'Curves of hue',
  help: 'Each hue turned, strengthened and brightened by curves over the circle of hues, and strength by brightness.',
  group: 'Colour',
  sentence: 'By hue {turn} {saturation} {stops} and by brightness {by_light}',
  values: {
    turn: byHue('turn', 'How far each hue is turned round the circle of hues (OKLCh).', TURN, 0),
    saturation: byHue('saturation', 'How strong each hue becomes: 0 grey, 1 as it was.', FACTOR, 1),
    stops: byHue('exposure', 'How many stops brighter each hue becomes; greys stay as they are.', STOPS, 0),
    by_light: bendPoints(
      { across: { low: 0, high: BRIGHTEST, seen: [0, 1.15], label: 'brightness' }, up: FACTOR, rest: 1 },
      [
        [0, 1],
        [0.5, 1],
        [1, 1],
      ],
      {
        label: 'strength',
        help: 'How strong colours of each brightness become, as the eye takes it: 0 black, 1 white.',
      },
    ),
  },
  idle: ({ turn, saturation, stops, by_light }) =>
    isFlat(turn, 0) && isFlat(saturation, 1) && isFlat(stops, 0) && isFlat(by_light, 1),
  shown: {
    turn: [
      [29, 0],
      [142, 40],
      [264, -40],
    ],
    saturation: [[0, 1.5]],
  },
  plan: (input, { turn, saturation, stops, by_light }) => {
    const around = (points: readonly BendPoint[], tell: (value: number) => number): Float32Array => {
      const at = roundBend(points, 360)
      return Float32Array.from({ length: AROUND }, (_, i) => tell(at(degreesOfQuarters(i / QUARTER))))
    }
    const angle = (degrees: number): number => (degrees * Math.PI) / 180
    return pointNode(
      Hues,
      input,
      {
        cosine: around(turn, degrees => Math.cos(angle(degrees))),
        sine: around(turn, degrees => Math.sin(angle(degrees))),
        saturation: around(saturation, factor => Math.max(0, factor)),
        gain: around(stops, more => 2 ** more),
        byLight: bendTable(by_light, 0, BRIGHTEST, BRIGHT).map(factor => Math.max(0, factor)),
      },
      { straight: true },
    )
  },
})
