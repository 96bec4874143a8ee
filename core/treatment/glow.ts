import { WAVELENGTHS } from '../colour/wavelength'
import { choice, colourValues, value } from '../declare/field'
import { around } from '../engine/box'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { pointNode, whole } from '../plan/pointNode'
import { withAllOf } from '../plan/room'
import { raster, splat } from '../../kernels/record'
import { bells } from './bells'
import { FEEDS, FEEDS_SENTENCE, fedOf, handlesOfFeeds, isBeside, SHOWS } from './bright'
import { treatment } from './treatment'
import { measuredSpread } from './measured'
import { inWindow, type Weight } from './weighted'

/** A picture and the light that spreads in it; less what that is made of, where it is taken. */
const Glow = point(
  'Glow',
  { light: raster('colour'), fed: raster('colour'), taken: splat, kept: splat },
  ({ colour, colours, values }) =>
    colour.map((channel, which) =>
      channel.times(values.kept).plus(colours.light.colour[which]).minus(colours.fed.colour[which].times(values.taken)),
    ),
)

const MEASURED = 'as measured'
/** Deviations of the three bells for one of the whole, and how much of the light each has. */
const WIDTHS = [0.25, 0.6, 2.68] as const
const SHARES = [0.6, 0.28, 0.12] as const
/**
 * How much of the light of each channel is in each bell, so that the spread of all is `size` times the wavelength's to a
 * power: the widest has more of it, the narrowest less.
 */
function bellShares(colour: number): [number, number, number][] {
  const square = SHARES.reduce((sum, share, i) => sum + share * WIDTHS[i]! ** 2, 0)
  const parts = WAVELENGTHS.map(wavelength => {
    const moved = ((wavelength / WAVELENGTHS[1]) ** (2 * colour) - 1) * (square / (WIDTHS[2] ** 2 - WIDTHS[0] ** 2))
    const held = Math.max(-SHARES[2], Math.min(SHARES[0], moved))
    return [SHARES[0] - held, SHARES[1], SHARES[2] + held]
  })
  return [0, 1, 2].map(i => parts.map(part => part[i]!) as [number, number, number])
}

export const glow = treatment({
  id: 'glow',
  label: 'Glow',
  help: 'Light that spreads round what is bright, as in a lens or a tired eye. Its slip says what glows: chosen lamps, say, and nothing else. What it spreads it takes from where it was: no light is won or lost, at an amount up to 1.',
  group: 'Lens',
  sentence: `Spread {amount} of ${FEEDS_SENTENCE} {spread}[ over {size}, {colour} by wavelength][ {wide} wide], tinted {tint}, showing {shows}`,
  fed: 'from',
  handles: handlesOfFeeds,
  beside: true,
  tabled: 'picture',
  tabledWhere: { name: 'spread', is: MEASURED },
  values: {
    amount: value(0, 20, {
      label: 'amount',
      help: 'Share of the light that spreads; above 1 more than there is.',
      step: 0.004,
      neutral: 0,
      first: 0.35,
    }),
    ...FEEDS,
    spread: choice(['as bells', MEASURED], {
      label: 'spread',
      help: 'As three bells of light do that most lenses are near to, or as a picture of a spark shows, taken through a lens.',
    }),
    size: value(0.2, 2000, {
      label: 'size',
      help: 'How far it spreads: standard deviation of the whole, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 1,
      first: 40,
      with: { name: 'spread', is: ['as bells'] },
    }),
    wide: value(1, 2000, {
      label: 'width',
      help: 'Of the picture of the spark: its longer side, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 200,
      with: { name: 'spread', is: [MEASURED] },
    }),
    colour: value(0, 3, {
      label: 'colour',
      help: 'How much farther long wavelengths spread: 1 as by diffraction, 0 all alike.',
      step: 0.01,
      first: 1,
      with: { name: 'spread', is: ['as bells'] },
    }),
    tint: colourValues('tint ', { help: 'What the spread light is multiplied by, linear Rec.709.', first: [1, 1, 1] }),
    shows: SHOWS,
  },
  neutral: ['amount'],
  shown: { amount: 1, threshold: 0.5 },
  plan: (input, values) => {
    const { colour, width, height, small } = input
    const { amount, spread, size, wide, colour: by, tint, shows } = values
    const clean = finite(colour)
    const fed = fedOf(input, values)
    if (shows === 'what feeds it') return fed
    const shares = bellShares(by)
    const shape = spread === MEASURED ? small?.() : undefined
    const weightOf = (shares: readonly number[]): Weight =>
      shares.map((share, channel) => share * amount * tint[channel]!) as unknown as Weight
    const light = withAllOf(fed, { width, height }, (all, frame) =>
      shape
        ? measuredSpread(all, frame, shape, wide, weightOf([1, 1, 1]))
        : bells(
            all,
            WIDTHS.map((own, i) => ({ sigma: own * size, weight: weightOf(shares[i]!) })),
            frame,
          ),
    )
    return pointNode(Glow, whole(inWindow(clean, [clean, light].map(node => node.window).reduce(around))), {
      light,
      fed,
      // Of a lamp that is not in the picture none is taken
      taken: shows === 'the glow' || isBeside(values) ? 0 : Math.min(1, amount),
      kept: shows === 'the glow' ? 0 : 1,
    })
  },
})
