import { value } from '../../declare/field'
import { kernelNode } from '../../plan/node'
import { GrowMatte } from '../../../kernels/records'
import { refiner } from './refiner'

export const grow = refiner({
  id: 'grow',
  label: 'Grown',
  help: 'Its edges moved out, or in below 0, round and by fractions of a pixel.',
  sentence: 'grown by {pixels}',
  values: {
    pixels: value(-30, 30, {
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
  plan: ({ matte }, { pixels }) => {
    const radius = Math.abs(pixels)
    if (radius < 1e-3) return matte
    return kernelNode(
      GrowMatte,
      { source: matte, radius, shrink: pixels < 0 ? 1 : 0 },
      { window: matte.window, reach: Math.ceil(radius) + 1 },
    )
  },
})
