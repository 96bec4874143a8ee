import { value } from '../declare/field'
import { fromOklab, toOklab } from '../formula/colours'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** Lightness in even steps of OKLab, each going over softly into the next; hue and colourfulness stay. */
const Posterise = point('Posterise', { steps: splat, hard: splat }, ({ colour, values }) => {
  const { red: light, green: a, blue: b } = toOklab(colour)
  const place = light.times(values.steps)
  const step = place.floor()
  const part = place.minus(step)
  // From one step to the next about its middle: straight where it is soft, at once where it is hard
  const over = part.minus(0.5).times(values.hard).plus(0.5).atLeast(0).atMost(1)
  const stepped = step.plus(over).over(values.steps)
  // As colourful as it is bright
  const ratio = light.isAbove(1e-6).choose(stepped.over(light.atLeast(1e-6)), 1)
  return fromOklab(new Colour(light.isAbove(1e-6).choose(stepped, light), a.times(ratio), b.times(ratio)))
})

export const posterise = treatment({
  id: 'posterise',
  label: 'Posterise',
  help: 'Few even steps of lightness, as the eye counts them (OKLab), as in a print.',
  group: 'Drawn look',
  sentence: 'In {steps} steps of lightness, soft over {soft} of one',
  values: {
    steps: value(1, 256, { label: 'steps', help: 'From black to white.', step: 0.05, digits: 1, first: 7 }),
    soft: value(0, 1, {
      label: 'softness',
      help: 'How much of a step goes over into the next; 1 all of it, which is as it was.',
      step: 0.004,
      neutral: 1,
      first: 0.15,
    }),
  },
  neutral: ['soft'],
  plan: (input, { steps, soft }) =>
    pointNode(Posterise, input, { steps, hard: 1 / Math.max(0.004, soft) }, { straight: true }),
})
