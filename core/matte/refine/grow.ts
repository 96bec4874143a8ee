import { value } from '../../declare/field'
import { grownMatte, MOST_GROWN } from '../../plan/grown'
import { refiner } from './refiner'

export const grow = refiner({
  id: 'grow',
  label: 'Grown',
  help: 'Its edges moved out, or in below 0, round and by fractions of a pixel.',
  sentence: 'grown by {pixels}',
  values: {
    pixels: value(-MOST_GROWN, MOST_GROWN, {
      label: 'by',
      help: 'Below 0 it shrinks.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      neutral: 0,
      first: 2,
    }),
  },
  plan: ({ matte }, { pixels }) => grownMatte(matte, pixels),
})
