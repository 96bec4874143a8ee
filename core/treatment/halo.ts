import { colourValues, value, whole as count } from '../declare/field'
import { WAVELENGTHS } from '../colour/wavelength'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { spreadOfHalvings } from '../plan/halves'
import { withAllOf } from '../plan/room'
import { halvingsTo, spread } from '../plan/spread'
import type { Tap } from '../plan/along'
import { FEEDS, FEEDS_SENTENCE, fedOf, handlesOfFeeds, SHOWS } from './bright'
import { joined, withLight, type Weight } from './weighted'
import { treatment } from './treatment'

/** Pixels that a ring has in radius where it is laid; its places lie closer than one. */
const RADIUS = 12
/** From one ring to the next: so much larger, with so much less light for its length. */
const LARGER = 1.7
const LESS = 0.6

/** A ring, each channel of its own radius. */
const ring = (radii: readonly number[]): Tap[] =>
  radii.flatMap((radius, channel) => {
    const places = Math.max(8, Math.ceil(2 * Math.PI * radius * 1.25))
    return Array.from({ length: places }, (_, i) => ({
      x: radius * Math.cos((i * 2 * Math.PI) / places),
      y: radius * Math.sin((i * 2 * Math.PI) / places),
      weight: 1 / places,
      shade: [0, 1, 2].map(c => (c === channel ? 1 : 0)) as [number, number, number],
    }))
  })

export const halo = treatment({
  id: 'halo',
  label: 'Halos',
  help: 'Rings of light round lamps, of several sizes, as a lens, a misted pane or ice in the air makes them. Its slip says what has them.',
  group: 'Lens',
  sentence: `Halos {amount} of ${FEEDS_SENTENCE}: {rings} rings, the first {radius} wide of {width}, {colour} by wavelength, tinted {tint}, showing {shows}`,
  fed: 'from',
  handles: handlesOfFeeds,
  beside: true,
  values: {
    amount: value(0, 20, {
      label: 'amount',
      help: 'How much light the first ring has, for all that feeds it.',
      step: 0.004,
      neutral: 0,
      first: 0.2,
    }),
    ...FEEDS,
    rings: count(1, 5, { label: 'rings', help: 'Each larger than the one before, and fainter.', first: 1 }),
    radius: value(2, 2000, {
      label: 'radius',
      help: 'Of the first ring, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 80,
    }),
    width: value(0.5, 400, {
      label: 'softness',
      help: 'Standard deviation of the ring across, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.2,
      digits: 1,
      first: 8,
    }),
    colour: value(-2, 2, {
      label: 'colour',
      help: 'How much larger rings of long wavelengths are: 1 as by diffraction (red outside), 0 all alike, less than 0 red inside as in ice.',
      step: 0.01,
      first: 0.4,
    }),
    tint: colourValues('tint ', { help: 'What their light is multiplied by, linear Rec.709.', first: [1, 1, 1] }),
    shows: SHOWS,
  },
  neutral: ['amount'],
  shown: { amount: 1.2, threshold: 4 },
  plan: (input, values) => {
    const { amount, rings, radius, width, colour, tint, shows } = values
    const fed = fedOf(input, values)
    if (shows === 'what feeds it') return fed
    const lights = Array.from({ length: rings }, (_, i) => {
      const own = radius * LARGER ** i
      const radii = WAVELENGTHS.map(wavelength => own * (wavelength / WAVELENGTHS[1]) ** colour)
      // As soft as is said, in pixels that are not wider than that; the way there and laying it between pixels soften too
      const times = Math.min(halvingsTo(own, RADIUS), halvingsTo(width, 2))
      const soft = Math.sqrt(Math.max(0, width * width - spreadOfHalvings(times) - 4 ** times / 6)) / 2 ** times
      const light = spread(fed, input, times, ring(radii.map(value => value / 2 ** times)), {
        change: (small, size) => withAllOf(small, size, (all, own) => gaussian(all, soft, own)),
      })
      return [light, tint.map(channel => channel * amount * LESS ** i) as unknown as Weight] as const
    })
    return shows === 'the glow' ? joined(lights, fed.window) : withLight(finite(input.colour), lights)
  },
})
