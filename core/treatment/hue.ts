import { value } from '../declare/field'
import { fromOklab, toOklab } from '../formula/colours'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { splat } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const Turn = point('Turn', { cosine: splat, sine: splat }, ({ colour, values: { cosine, sine } }) => {
  const { red: light, green: a, blue: b } = toOklab(colour)
  return fromOklab(new Colour(light, a.times(cosine).minus(b.times(sine)), a.times(sine).plus(b.times(cosine))))
})

export const hue = treatment({
  id: 'hue',
  label: 'Turn the hue',
  help: 'All colours turned round the circle of hues, as light and as strong as they were (OKLab).',
  group: 'Colour',
  sentence: 'Turn the hue by {angle}',
  values: {
    angle: value(-180, 180, {
      label: 'angle',
      help: 'From red towards yellow above 0.',
      unit: '°',
      step: 0.2,
      digits: 1,
      neutral: 0,
    }),
  },
  shown: { angle: 70 },
  plan: (input, { angle }) => {
    const turn = (angle * Math.PI) / 180
    return pointNode(Turn, input, { cosine: Math.cos(turn), sine: Math.sin(turn) })
  },
})
