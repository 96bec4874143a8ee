import { choice, value } from '../declare/field'
import { kernelNode } from '../plan/node'
import { inRoom } from '../plan/room'
import { Turned } from '../../kernels/records'
import { handlesOfPlace } from './handles'
import { frameValues } from './place'
import { treatment } from './treatment'

/** Taps at most: so many pixels of way are met each by one, a longer way is met by fewer than one a pixel. */
const MOST = 256

export const round = treatment({
  id: 'round',
  label: 'Blur about a point',
  help: 'Softens round a point, as what spins, or toward it, as what one moves to.',
  group: 'Softness',
  sentence: 'Blur {way} {x} {y}[ over {turn}][ by {share} of the way]',
  beside: true,
  handles: handlesOfPlace('the point'),
  values: {
    way: choice(['round', 'toward'], { label: 'way', help: 'Round the point, or toward it and away.' }),
    ...frameValues('the point'),
    turn: value(0, 180, {
      label: 'turn',
      help: 'The whole angle of it.',
      unit: '°',
      step: 0.1,
      digits: 1,
      neutral: 0,
      first: 4,
      with: { name: 'way', is: ['round'] },
    }),
    share: value(0, 1, {
      label: 'share',
      help: 'How much of the way to the point, half of it before and half behind.',
      step: 0.002,
      digits: 3,
      neutral: 0,
      first: 0.08,
      with: { name: 'way', is: ['toward'] },
    }),
  },
  idle: ({ way, turn, share }) => (way === 'round' ? turn : share) === 0,
  shown: { turn: 6 },
  plan: (input, { way, x, y, turn, share }) => {
    const { width, height } = input
    const [middleX, middleY] = [x * width, y * height]
    const far = Math.max(
      ...[0, width].flatMap(left => [0, height].map(top => Math.hypot(left - middleX, top - middleY))),
    )
    const angle = way === 'round' ? (turn * Math.PI) / 180 : 0
    const toward = way === 'round' ? 0 : share
    const reach = Math.ceil(far * (2 * Math.sin(angle / 4) + toward / 2)) + 2
    const { source, window } = inRoom(input.colour, input, reach)
    return kernelNode(Turned, { source, middleX, middleY, turn: angle, toward, most: MOST }, { window, reach })
  },
})
