import { colourValues, value } from '../declare/field'
import { point } from '../formula/point'
import { pointNode, whole } from '../plan/pointNode'
import { raster, shade, splat } from '../../kernels/record'
import { treatment } from './treatment'

/** How closed in a pixel is, taken toward a tint times the colour that is there. */
const Creases = point(
  'CreaseTint',
  { occlusion: raster('single'), tint: shade, amount: splat, power: splat },
  ({ colour, singles, values: v }) => {
    const closed = v.amount.terms.constant(1).minus(singles.occlusion).atLeast(0).atMost(1)
    const share = closed.isAbove(0).choose(closed.power(v.power), 0).times(v.amount)
    return colour.map((channel, which) => channel.plus(channel.times(v.tint[which].minus(1)).times(share)))
  },
)
/** The same by how shaded it is. */
const Shades = point(
  'ShadowTint',
  { shadow: raster('colour'), tint: shade, amount: splat },
  ({ colour, colours, values: v }) => {
    const share = v.amount.terms
      .constant(1)
      .minus(colours.shadow.colour.luminance())
      .atLeast(0)
      .atMost(1)
      .times(v.amount)
    return colour.map((channel, which) => channel.plus(channel.times(v.tint[which].minus(1)).times(share)))
  },
)

export const creaseTint = treatment({
  id: 'crease_tint',
  label: 'Tint of creases and shadows',
  help: 'Deepens and tints what is closed in, by the pass occlusion, and what is shaded, by the pass shadow: warm creases, cool shadows.',
  group: 'Air',
  sentence: 'Creases {amount} towards {tint} bent {power}, shadows {shadow} towards {shadow_tint}',
  beside: true,
  values: {
    amount: value(0, 1, {
      label: 'creases',
      help: 'How much of the tint there is where it is shut in.',
      step: 0.004,
      neutral: 0,
      first: 0.5,
    }),
    tint: colourValues('crease ', {
      help: 'What light is multiplied by in creases, linear Rec.709.',
      first: [0.62, 0.42, 0.32],
    }),
    power: value(0.1, 8, {
      label: 'bent',
      help: 'More than 1 only the deepest, less wider round them.',
      step: 0.01,
      first: 1.3,
    }),
    shadow: value(0, 1, {
      label: 'shadows',
      help: 'How much of their tint shadows have.',
      step: 0.004,
      neutral: 0,
      first: 0,
    }),
    shadow_tint: colourValues('shadow ', {
      help: 'What light is multiplied by in shadows.',
      first: [0.85, 0.92, 1.08],
    }),
  },
  neutral: ['amount', 'shadow'],
  shown: { amount: 1, shadow: 1 },
  needs: ({ shadow }) => (shadow === 0 ? ['occlusion'] : ['occlusion', 'shadow']),
  plan: (input, { amount, tint, power, shadow: shaded, shadow_tint: cool }) => {
    const occlusion = input.pass?.('occlusion')
    const shadow = input.pass?.('shadow')
    const [r, g, b] = tint
    const [sr, sg, sb] = cool
    const { colour } = input
    // Of what is not there nothing is made
    const creased = occlusion
      ? pointNode(Creases, whole(colour), { occlusion, tint: [r, g, b], amount, power })
      : colour
    const both =
      shadow && shaded > 0 ? pointNode(Shades, whole(creased), { shadow, tint: [sr, sg, sb], amount: shaded }) : creased
    return both
  },
})
