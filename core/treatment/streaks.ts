import { colourValues, value, whole as count } from '../declare/field'
import { finite } from '../plan/finite'
import { armTaps, along } from '../plan/along'
import { FEEDS, FEEDS_SENTENCE, fedOf, handlesOfFeeds, SHOWS } from './bright'
import { joined, withLight, type Weight } from './weighted'
import { treatment } from './treatment'

export const streaks = treatment({
  id: 'streaks',
  label: 'Streaks',
  help: 'Rays of light from what is bright, as from a wide-screen lens (two arms, level), a filter with lines, or wet glass. Its slip says what sends them.',
  group: 'Lens',
  sentence: `Streaks {amount} of ${FEEDS_SENTENCE}: {arms} arms {length} long from {angle}, tinted {tint}, showing {shows}`,
  fed: 'from',
  handles: handlesOfFeeds,
  beside: true,
  values: {
    amount: value(0, 20, {
      label: 'amount',
      help: 'How much light the arms have, for all that feeds them.',
      step: 0.004,
      neutral: 0,
      first: 0.25,
    }),
    ...FEEDS,
    arms: count(1, 16, { label: 'arms', help: 'How many go out, evenly about.', first: 2 }),
    length: value(1, 4000, {
      label: 'length',
      help: 'After that a third is left of what an arm has at its root, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 90,
    }),
    angle: value(-3600, 3600, {
      label: 'angle',
      help: 'Of the first arm, counter-clockwise from the right.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 0,
    }),
    tint: colourValues('tint ', {
      help: 'What their light is multiplied by, linear Rec.709.',
      first: [0.75, 0.9, 1.15],
    }),
    shows: SHOWS,
  },
  neutral: ['amount'],
  shown: { amount: 2, arms: 6, threshold: 0.5 },
  plan: (input, values) => {
    const { amount, arms, length, angle, tint, shows } = values
    const fed = fedOf(input, values)
    if (shows === 'what feeds it') return fed
    const [r, g, b] = tint
    const share = amount / arms
    const weight: Weight = [r * share, g * share, b * share]
    const lights = Array.from({ length: arms }, (_, i) => {
      const way = ((angle + (i * 360) / arms) * Math.PI) / 180
      return [along(fed, input, armTaps(length, way), { bare: true }), weight] as const
    })
    if (shows === 'the glow') return joined(lights, fed.window)
    return withLight(finite(input.colour), lights)
  },
})
