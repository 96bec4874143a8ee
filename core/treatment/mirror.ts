import { choice, value } from '../declare/field'
import { pointNode, whole } from '../plan/pointNode'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { splat } from '../../kernels/record'
import { shape } from './shape'

/** Places on the side of a line that is not kept are seen from the other side of it. */
const Mirrored = point('MirroredAt', { x: splat, y: splat, nx: splat, ny: splat }, ({ colour, values: v }) => {
  const beyond = colour.red.minus(v.x).times(v.nx).plus(colour.green.minus(v.y).times(v.ny)).atLeast(0).times(2)
  return new Colour(colour.red.minus(v.nx.times(beyond)), colour.green.minus(v.ny.times(beyond)), colour.blue)
})

export const mirror = shape({
  id: 'mirror',
  label: 'Mirror',
  help: 'One side of a line shows what stands on the other: still water, a mirror, a doubled front.',
  sentence: 'Mirrored at {place} turned {turn}, showing {side} twice',
  values: {
    place: value(-1, 2, {
      label: 'line',
      help: 'Where it lies, in heights of the frame from the top (turned by 90°: in widths from the left).',
      step: 0.002,
      digits: 3,
      first: 0.5,
    }),
    turn: value(-3600, 3600, {
      label: 'turn',
      help: 'Of the line, counter-clockwise from level.',
      unit: '°',
      step: 0.1,
      digits: 1,
      first: 0,
    }),
    side: choice(['what is above', 'what is below'], { label: 'kept side', help: 'Which side is seen twice.' }),
  },
  beyond: 'a mirror',
  places: ({ width, height }, { place, turn, side }, places) => {
    const angle = (turn * Math.PI) / 180
    // Away from what is kept
    const sign = side === 'what is above' ? 1 : -1
    const [nx, ny] = [sign * Math.sin(angle), sign * Math.cos(angle)]
    const level = Math.abs(Math.cos(angle)) >= Math.abs(Math.sin(angle))
    const [x, y] = level ? [width / 2, place * height] : [place * width, height / 2]
    return pointNode(Mirrored, whole(places), { x, y, nx, ny })
  },
})
