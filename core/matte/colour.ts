import { colourList, colourValues, optional, value } from '../declare/field'
import { Colour, type Term } from '../formula/term'
import { labOf, labTerms, ciede2000 } from '../formula/lab'
import { pointer, splat } from '../../kernels/record'
import type { Node } from '../plan/node'
import { joined, turnedOver } from './join'
import { matteKind } from './matte'
import { divided, share, shareNode, within } from './share'

/** Kernels for so many samples: what is less of them repeats one, which is no nearer for that. */
const COUNTS = [1, 2, 4, 8, 13] as const
/** By the difference to the nearest of them. */
const NEAR = COUNTS.map(count =>
  share(
    count === 1 ? 'NearColour' : `NearColours${count}`,
    { samples: pointer, tolerance: splat, soft: splat },
    ({ colour, alpha, values, tables }) => {
      const own = labTerms(divided({ colour, alpha }))
      const [first, ...others] = Array.from({ length: count }, (_, i) => {
        const [light, a, b] = [0, 1, 2].map(c => tables.samples(alpha.terms.constant(i * 3 + c))) as [Term, Term, Term]
        return ciede2000(own, new Colour(light, a, b))
      })
      const difference = others.reduce((least, next) => least.atMost(next), first!)
      return within(difference, 0, values.tolerance, values.soft)
    },
  ),
)
type Three = readonly [number, number, number]
/** Samples of each sort: each is a difference of its own to compute. */
const MOST = 12

export const colour = matteKind({
  id: 'colour',
  group: 'Colours',
  label: 'Colour',
  help: 'What looks like colours taken from the picture: nearer than a difference in CIEDE2000, with a soft end.',
  sentence: 'like {sample} {more} within {tolerance}, soft over {soft} {less}',
  values: {
    sample: colourValues('', { help: 'The colour, scene-linear Rec.709.', first: [0.18, 0.18, 0.18] }),
    more: optional(colourList(MOST, { label: 'and like', help: 'Other colours that it holds as well.' })),
    less: optional(colourList(MOST, { label: 'but not like', help: 'Colours that are taken away from it.' })),
    tolerance: value(0, 200, {
      label: 'within',
      help: 'Differences in CIEDE2000: 1 is just seen, 10 is another colour.',
      step: 0.1,
      digits: 1,
      first: 12,
    }),
    soft: value(0, 200, { label: 'soft over', help: 'So much farther it fades.', step: 0.1, digits: 1, first: 6 }),
  },
  sample: 'sample',
  samples: [
    { name: 'more', label: 'and another' },
    { name: 'less', label: 'take one away' },
  ],
  plan: (input, { sample, more, less, tolerance, soft }) => {
    const near = (colours: readonly Three[]): Node => {
      const kernel = COUNTS.findIndex(count => count >= colours.length)
      const samples = Float32Array.from(
        Array.from({ length: COUNTS[kernel]! }, (_, i) => labOf(colours[i] ?? colours[0]!)).flat(),
      )
      return shareNode(NEAR[kernel]!, input.colour, { samples, tolerance, soft }, false)
    }
    const like = near([sample, ...more])
    const kept = less.length ? joined(like, near(less), 'not') : like
    return input.invert ? turnedOver(kept) : kept
  },
})
