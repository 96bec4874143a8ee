import { choice, value } from '../declare/field'
import { turnedOver } from '../matte/join'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { cutTo } from '../plan/picture'
import { pointNode, whole } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { treatment } from './treatment'

/** What is about a thing, softened, laid over its edge or added to it. */
const Wrap = point(
  'LightWrap',
  { about: raster('colour'), held: raster('single'), amount: splat, over: splat },
  ({ colour, alpha, colours: { about }, singles, values: v }) => {
    const share = singles.held.times(v.amount)
    return colour.map((channel, which) => {
      const light = about.colour[which].times(alpha)
      return channel.plus(light.minus(channel.times(about.alpha).times(v.over)).times(share))
    })
  },
)

export const lightWrap = treatment({
  id: 'light_wrap',
  label: 'Light wrap',
  help: 'What is about a thing, softened, over its edge: as bright air lies round what stands before it. Its slip says what thing.',
  group: 'Lens',
  sentence: 'Wrap {amount} of what is about it over {size}, {how}',
  fed: 'round',
  beside: true,
  values: {
    amount: value(0, 4, { label: 'amount', help: 'How much of it there is.', step: 0.004, neutral: 0, first: 0.5 }),
    size: value(0.3, 400, {
      label: 'size',
      help: 'Standard deviation of the softness, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      first: 8,
    }),
    how: choice(['laid over it', 'added as light'], {
      label: 'how',
      help: 'In place of what is there, or on top of it.',
    }),
  },
  neutral: ['amount'],
  plan: ({ colour, matte, width, height }, { amount, size, how }) => {
    // Everywhere there is nothing about it
    if (!matte) return colour
    const about = gaussian(cutTo(finite(colour), turnedOver(matte)), size, { width, height })
    return pointNode(Wrap, whole(colour), { about, held: matte, amount, over: how === 'laid over it' ? 1 : 0 })
  },
})
