import { colourValues, value } from '../declare/field'
import { labOf, labTerms, ciede2000 } from '../formula/lab'
import { shade, splat } from '../../kernels/record'
import { matteKind } from './matte'
import { divided, share, shareNode, within } from './share'

const Near = share('NearColour', { lab: shade, tolerance: splat, soft: splat }, ({ colour, alpha, values }) => {
  const difference = ciede2000(labTerms(divided({ colour, alpha })), values.lab)
  return within(difference, 0, values.tolerance, values.soft)
})

export const colour = matteKind({
  id: 'colour',
  label: 'Colour',
  help: 'What looks like a colour taken from the picture: nearer than a difference in CIEDE2000, with a soft end.',
  sentence: 'like {sample} within {tolerance}, soft over {soft}',
  values: {
    sample: colourValues('', { help: 'The colour, scene-linear Rec.709.', first: [0.18, 0.18, 0.18] }),
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
  plan: (input, { sample, tolerance, soft }) =>
    shareNode(Near, input.colour, { lab: labOf(sample), tolerance, soft }, input.invert),
})
