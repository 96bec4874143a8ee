import { WAVELENGTHS } from '../colour/wavelength'
import { colourValues, value } from '../declare/field'
import { around } from '../engine/box'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { pointNode, whole } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { bells } from './bells'
import { FEEDS, fedOf, SHOWS } from './bright'
import { treatment } from './treatment'
import { inWindow } from './weighted'

/** A picture and the light that spreads in it; less what that is made of, where it is taken. */
const Glow = point(
  'Glow',
  { light: raster('colour'), fed: raster('colour'), taken: splat, kept: splat },
  ({ colour, colours, values }) =>
    colour.map((channel, which) =>
      channel.times(values.kept).plus(colours.light.colour[which]).minus(colours.fed.colour[which].times(values.taken)),
    ),
)

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
  sentence:
    'Spread {amount} of {feeds}[ above {threshold}] over {size}, {colour} by wavelength, tinted {tint}, showing {shows}',
  fed: 'from',
  beside: true,
  values: {
    amount: value(0, 20, {
      label: 'amount',
      help: 'Share of the light that spreads; above 1 more than there is.',
      step: 0.004,
      neutral: 0,
      first: 0.35,
    }),
    ...FEEDS,
    size: value(0.2, 2000, {
      label: 'size',
      help: 'How far it spreads: standard deviation of the whole, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 1,
      first: 40,
    }),
    colour: value(0, 3, {
      label: 'colour',
      help: 'How much farther long wavelengths spread: 1 as by diffraction, 0 all alike.',
      step: 0.01,
      first: 1,
    }),
    tint: colourValues('tint ', { help: 'What the spread light is multiplied by, linear Rec.709.', first: [1, 1, 1] }),
    shows: SHOWS,
  },
  neutral: ['amount'],
  shown: { amount: 1, threshold: 0.5 },
  plan: ({ colour, width, height, matte }, { amount, feeds, threshold, size, colour: by, tint, shows }) => {
    const clean = finite(colour)
    const fed = fedOf(colour, matte, { feeds, threshold })
    if (shows === 'what feeds it') return fed
    const shares = bellShares(by)
    const light = bells(
      fed,
      WIDTHS.map((wide, i) => ({
        sigma: wide * size,
        weight: shares[i]!.map((share, channel) => share * amount * tint[channel]!) as [number, number, number],
      })),
      { width, height },
    )
    return pointNode(Glow, whole(inWindow(clean, [clean, light].map(node => node.window).reduce(around))), {
      light,
      fed,
      taken: shows === 'the glow' ? 0 : Math.min(1, amount),
      kept: shows === 'the glow' ? 0 : 1,
    })
  },
})
