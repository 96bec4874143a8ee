import { colourValues, value, whole as count } from '../declare/field'
import { WAVELENGTHS } from '../colour/wavelength'
import { finite } from '../plan/finite'
import { armTaps, along } from '../plan/along'
import { FEEDS, FEEDS_SENTENCE, fedOf, handlesOfFeeds, SHOWS } from './bright'
import { joined, withLight, type Weight } from './weighted'
import { treatment } from './treatment'

/**
 * Directions in which an opening of straight blades throws light by diffraction, radians: across each side, both ways
 * (J. Goodman, “Introduction to Fourier Optics”: the far field of an edge lies on the line across it). Those of opposite
 * sides are one: an even number of blades has as many arms, an odd one twice as many.
 */
export function armsOf(blades: number, turn: number): number[] {
  const sector = (2 * Math.PI) / blades
  const arms = blades % 2 ? blades * 2 : blades
  const first = (turn * Math.PI) / 180 + sector / 2
  return Array.from({ length: arms }, (_, i) => first + (i * 2 * Math.PI) / arms)
}

export const stars = treatment({
  id: 'stars',
  label: 'Stars',
  help: 'Stars of light on bright points, as a small opening with straight blades makes them: as many arms as it has blades, or twice as many where that is odd. Its slip says what sends them.',
  group: 'Lens',
  sentence: `Stars {amount} of ${FEEDS_SENTENCE} by {blades} blades turned {turn}, arms {length} long, {colour} by wavelength, tinted {tint}, showing {shows}`,
  fed: 'from',
  handles: handlesOfFeeds,
  beside: true,
  values: {
    amount: value(0, 20, {
      label: 'amount',
      help: 'How much light the arms have, for all that feeds them.',
      step: 0.004,
      neutral: 0,
      first: 0.15,
    }),
    ...FEEDS,
    blades: count(3, 16, { label: 'blades', help: 'Sides of the opening.', first: 6 }),
    turn: value(-180, 180, { label: 'turned', help: 'The opening, to the left.', unit: 'deg', step: 0.5, first: 0 }),
    length: value(1, 2000, {
      label: 'length',
      help: 'After that a third is left of what an arm has at its root, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 30,
    }),
    colour: value(0, 3, {
      label: 'colour',
      help: 'How much farther long wavelengths go: 1 as by diffraction, 0 all alike.',
      step: 0.01,
      first: 1,
    }),
    tint: colourValues('tint ', { help: 'What their light is multiplied by, linear Rec.709.', first: [1, 1, 1] }),
    shows: SHOWS,
  },
  neutral: ['amount'],
  shown: { amount: 1, threshold: 4, length: 60 },
  plan: (input, values) => {
    const { amount, blades, turn, length, colour, tint, shows } = values
    const fed = fedOf(input, values)
    if (shows === 'what feeds it') return fed
    const arms = armsOf(blades, turn)
    const lengths = WAVELENGTHS.map(wavelength => length * (wavelength / WAVELENGTHS[1]) ** colour)
    const weight = tint.map(channel => (channel * amount) / arms.length) as unknown as Weight
    const lights = arms.map(angle => {
      const taps = armTaps(lengths as [number, number, number], angle)
      return [along(fed, input, taps, { bare: true }), weight] as const
    })
    return shows === 'the glow' ? joined(lights, fed.window) : withLight(finite(input.colour), lights)
  },
})
