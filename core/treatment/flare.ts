import { colourValues, value, whole as count } from '../declare/field'
import { apertureKernel, reachOf, ROUND } from '../lens/aperture'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { spreadOfHalvings } from '../plan/halves'
import { pointNode, whole } from '../plan/pointNode'
import { reshaped } from '../plan/shaped'
import { withAllOf } from '../plan/room'
import { halvingsTo, spread } from '../plan/spread'
import type { Tap } from '../plan/along'
import { FEEDS, FEEDS_SENTENCE, fedOf, handlesOfFeeds, SHOWS } from './bright'
import { pointOf, Projected } from './projected'
import { joined, withLight, type Weight } from './weighted'
import { treatment } from './treatment'

/**
 * Ghosts of a lens: where each lies on the way from the lamp (1) through the middle (0) and beyond, how large it is, its
 * light, and its colour. Made up, so that they neither cover each other nor look counted.
 */
const GHOSTS: readonly { at: number; size: number; light: number; colour: Weight }[] = [
  { at: -0.62, size: 0.8, light: 1, colour: [0.75, 1.05, 1.2] },
  { at: -1.18, size: 0.42, light: 0.36, colour: [1.3, 0.95, 0.65] },
  { at: 0.36, size: 0.3, light: 0.22, colour: [0.7, 1.25, 0.9] },
  { at: -0.24, size: 0.2, light: 0.12, colour: [1.25, 0.85, 1.1] },
  { at: -1.72, size: 1.5, light: 2.2, colour: [0.85, 0.95, 1.35] },
  { at: 0.68, size: 0.14, light: 0.06, colour: [1.2, 1.1, 0.6] },
  { at: -0.9, size: 0.16, light: 0.08, colour: [0.6, 1.2, 1.25] },
  { at: -2.3, size: 2.2, light: 3, colour: [1.15, 0.9, 0.8] },
]
/** Pixels that a ghost has in radius where it is laid. */
const RADIUS = 7
/** So soft, in such pixels, that a point is as bright wherever it lies between them. */
const SOFT = 1.2

/** The opening, as places of equal cells. */
function openingTaps(blades: number, turn: number, rim: number, radius: number): Tap[] {
  const { half, weights } = apertureKernel({ ...ROUND, blades, turn, rim }, radius)
  const side = 2 * half + 1
  return [...weights].flatMap((weight, i) =>
    weight > 0 ? [{ x: (i % side) - half, y: Math.floor(i / side) - half, weight }] : [],
  )
}

export const flare = treatment({
  id: 'flare',
  label: 'Ghosts of the lens',
  help: 'What a lens mirrors within itself: faint shapes of its opening on the line from each lamp through the middle of the picture. Its slip says what mirrors; what is hidden in the picture has none.',
  group: 'Lens',
  sentence: `Ghosts {amount} of ${FEEDS_SENTENCE}: {ghosts}, {size} large, spread {reach}, {blades} blades turned {turn}, rim {rim}, coloured {colour}, tinted {tint}, showing {shows}`,
  fed: 'from',
  handles: handlesOfFeeds,
  beside: true,
  values: {
    amount: value(0, 20, {
      label: 'amount',
      help: 'How much light a ghost has, for all that feeds it.',
      step: 0.004,
      neutral: 0,
      first: 0.1,
    }),
    ...FEEDS,
    ghosts: count(1, GHOSTS.length, { label: 'ghosts', help: 'How many.', first: 5 }),
    size: value(1, 1000, {
      label: 'size',
      help: 'Radius of a ghost of middle size, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 60,
    }),
    reach: value(0.1, 3, {
      label: 'reach',
      help: 'How far along their line they lie; 1 as far beyond the middle as the lamp is before it, more or less.',
      step: 0.005,
      digits: 2,
      first: 1,
    }),
    blades: count(0, 16, { label: 'blades', help: 'Sides of the opening; below 3 it is round.', first: 6 }),
    turn: value(-180, 180, { label: 'turned', help: 'The opening, to the left.', unit: 'deg', step: 0.5, first: 8 }),
    rim: value(-1, 1, { label: 'rim', help: 'How much brighter their border is.', step: 0.01, first: 0.4 }),
    colour: value(0, 2, { label: 'colour', help: 'How much they differ in colour.', step: 0.01, first: 1 }),
    tint: colourValues('tint ', { help: 'What their light is multiplied by, linear Rec.709.', first: [1, 1, 1] }),
    shows: SHOWS,
  },
  neutral: ['amount'],
  shown: { amount: 1.2, threshold: 4 },
  plan: (input, values) => {
    const { amount, ghosts, size, reach, blades, turn, rim, colour, tint, shows } = values
    const fed = fedOf(input, values)
    if (shows === 'what feeds it') return fed
    const lights = GHOSTS.slice(0, ghosts).map(({ at, size: large, light, colour: own }) => {
      const radius = size * large
      const times = halvingsTo(radius * reachOf({ ...ROUND, blades }), RADIUS)
      const scale = at * reach
      // The way there and back softens it: so much smaller is what is laid, so that it spreads as far as it should
      const soft = (spreadOfHalvings(times) / 2) * (1 + scale * scale) + (SOFT * 2 ** times * scale) ** 2
      const inner = Math.sqrt(Math.max(radius * radius - 4 * soft, (radius * radius) / 4)) / 2 ** times
      const ghost = spread(fed, input, times, openingTaps(blades, turn, rim, inner), {
        change: (small, frame) => {
          const [x, y] = [input.width / 2 ** (times + 1), input.height / 2 ** (times + 1)]
          const back = 1 / scale
          const places = pointOf([back, 0, x * (1 - back), 0, back, y * (1 - back), 0, 0, 1])
          return reshaped(
            { ...input, colour: withAllOf(small, frame, (all, size) => gaussian(all, SOFT, size)) },
            {
              alter: own => pointNode(Projected, whole(own), places),
              ...{ pure: true, filter: 'straight', goesOn: false },
            },
            frame,
          ).colour
        },
      })
      // Brought nearer together its light is brighter: it keeps its sum
      const weight = [0, 1, 2].map(c => (tint[c]! * amount * light * own[c]! ** colour) / (scale * scale))
      return [ghost, weight as unknown as Weight] as const
    })
    return shows === 'the glow' ? joined(lights, fed.window) : withLight(finite(input.colour), lights)
  },
})
