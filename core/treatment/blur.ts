import { value } from '../declare/field'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { treatment } from './treatment'

export const blur = treatment({
  id: 'blur',
  label: 'Blur',
  help: 'Softens by a bell (Gaussian), the same all over.',
  group: 'Softness',
  sentence: 'Blur by {radius}',
  beside: true,
  values: {
    radius: value(0, 500, {
      label: 'radius',
      help: 'Standard deviation of the bell, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      neutral: 0,
      first: 6,
    }),
  },
  shown: { radius: 8 },
  plan: ({ colour, width, height }, { radius }) => gaussian(finite(colour), radius, { width, height }),
})
