import { choice, colourValues, value } from '../declare/field'
import { point } from '../formula/point'
import { gaussian } from '../plan/gaussian'
import { cutTo } from '../plan/picture'
import { kernelNode } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { boxOf } from '../engine/box'
import { raster, shade, splat } from '../../kernels/record'
import { Wash } from '../../kernels/records'
import { handlesOfPlace } from './handles'
import { frameValues } from './place'
import { roundPlace } from './roundPlace'
import { treatment } from './treatment'

/** Light that is added, or takes the place of what is there. */
const Washed = point(
  'Washed',
  { light: raster('colour'), tint: shade, amount: splat, over: splat },
  ({ colour, alpha, colours: { light }, values: v }) => {
    const share = light.colour.red.times(v.amount)
    return colour.map((channel, which) =>
      channel.plus(v.tint[which].times(alpha).minus(channel.times(v.over)).times(share)),
    )
  },
)

export const lightWash = treatment({
  id: 'light_wash',
  label: 'Wash of light',
  help: 'A soft wash of light where light enters: draw or paint in its slip where that is, or let it fall off round a place. It should be missed when it is off, and not noticed when it is on.',
  group: 'Lens',
  sentence: 'Wash {amount} of {colour}, {how}, soft over {soft}, {where}[ {x} {y} within {reach}]',
  fed: 'where',
  beside: true,
  offersLight: 'colour',
  takes: [
    {
      label: 'take its colour',
      values: colour => {
        const most = Math.max(1e-9, ...colour)
        return { colour: colour.map(channel => Number((Math.max(0, channel) / most).toFixed(4))) }
      },
    },
  ],
  handles: handlesOfPlace('the place', { name: 'where', is: 'round a place' }),
  values: {
    amount: value(0, 20, {
      label: 'amount',
      help: 'How much of the colour there is where the wash is whole.',
      step: 0.002,
      digits: 3,
      neutral: 0,
      first: 0.05,
    }),
    colour: colourValues('', { help: 'Of the light, linear Rec.709.', first: [1, 0.82, 0.58] }),
    how: choice(['added as light', 'laid over it'], {
      label: 'how',
      help: 'On top of what is there, or in its place, as thick air would.',
    }),
    soft: value(0, 1000, {
      label: 'softness',
      help: 'Standard deviation by which what the slip holds is softened, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 60,
    }),
    where: choice(['all over its slip', 'round a place'], {
      label: 'where',
      help: 'As far as its slip goes, or falling off round a place as well.',
      first: 'round a place',
    }),
    ...frameValues('the place', { x: 0.85, y: 0.15, with: { name: 'where', is: ['round a place'] } }),
    reach: value(1, 1e5, {
      label: 'reach',
      help: 'Standard deviation of how it falls off, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 1,
      digits: 0,
      first: 500,
      with: { name: 'where', is: ['round a place'] },
    }),
  },
  neutral: ['amount'],
  shown: { amount: 0.14, reach: 260 },
  plan: ({ colour, matte, width, height }, { amount, colour: [red, green, blue], how, soft, where, x, y, reach }) => {
    const light = kernelNode(Wash, { colour: [1, 1, 1, 1] }, { window: boxOf(width, height) })
    const held = matte ? gaussian(cutTo(light, matte), soft, { width, height }) : light
    return pointNode(Washed, whole(colour), {
      light: where === 'round a place' ? roundPlace(held, { x: x * width, y: y * height, reach }) : held,
      tint: [red, green, blue],
      amount,
      over: how === 'laid over it' ? 1 : 0,
    })
  },
})
