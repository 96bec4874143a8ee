import { choice, rowValues, value } from '../declare/field'
import { along, lineTaps } from '../plan/along'
import { finite } from '../plan/finite'
import { lengthOf, throughPoints, wayTaps, type Point } from '../plan/path'
import { halvingsTo, spread } from '../plan/spread'
import { treatment } from './treatment'

const DRAWN = 'along a path'
const STRAIGHT = { name: 'how', is: ['straight'] }
const POINTS = ['start', 'second point', 'third point', 'end']
/** Of a longer path the picture is made smaller by halves. */
const MOST_TAPS = 256

const pointsOf = (path: readonly number[], width: number, height: number): Point[] =>
  POINTS.map((_, i) => [path[i * 2]! * width, path[i * 2 + 1]! * height])

export const directional = treatment({
  id: 'directional',
  label: 'Blur along a direction',
  help: 'Softens along one direction, or along a path drawn on the picture: the speed of a still cut-out, a smear.',
  group: 'Softness',
  sentence: 'Blur {how}[ over {length} along {angle}][ {path}], {behind} of it behind',
  handles: (values, { width, height }) => {
    if (values.how !== DRAWN) return undefined
    const path = values.path as readonly number[]
    const points = pointsOf(path, width, height)
    return {
      of: 'frame',
      grips: points.map((at, i) => ({ id: String(i), label: POINTS[i]!, at })),
      lines: [throughPoints(points)],
      moved: (grip, [x, y]) => ({
        path: path.map((value, i) =>
          i === Number(grip) * 2 ? x / width : i === Number(grip) * 2 + 1 ? y / height : value,
        ),
      }),
    }
  },
  beside: true,
  values: {
    how: choice(['straight', DRAWN], {
      label: 'way',
      help: 'One direction, or a path that is drawn on the picture by four points that it goes through.',
      neutral: 'straight',
    }),
    length: value(0, 2000, {
      label: 'length',
      help: 'Of the whole way, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 1,
      neutral: 0,
      first: 30,
      with: STRAIGHT,
    }),
    path: rowValues(
      POINTS.flatMap(point => [`${point} across`, `${point} down`]),
      {
        label: 'path',
        help: 'Places of its points, in widths and heights of the frame: as a thing goes, wherever it stands.',
        hand: [-1, 2],
        low: -4,
        high: 5,
        step: 0.001,
        digits: 4,
        first: [0.44, 0.54, 0.48, 0.5, 0.52, 0.5, 0.56, 0.54],
        onPicture: true,
        with: { name: 'how', is: [DRAWN] },
      },
    ),
    angle: value(-3600, 3600, {
      label: 'angle',
      help: 'Counter-clockwise from the right.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 0,
      with: STRAIGHT,
    }),
    behind: value(0, 1, {
      label: 'behind',
      help: 'How much of the way lies behind where a thing is: 0.5 as much as before it, 1 all.',
      step: 0.004,
      first: 0.5,
    }),
  },
  neutral: ['length', 'how'],
  shown: { length: 60, angle: 20 },
  plan: (input, { how, length, angle, path, behind }) => {
    const { width, height } = input
    const clean = finite(input.colour)
    if (how === 'straight') return along(clean, input, lineTaps(length, (angle * Math.PI) / 180, behind))
    const way = throughPoints(pointsOf(path, width, height))
    const times = halvingsTo(lengthOf(way), MOST_TAPS)
    const small = way.map(([x, y]): Point => [x / 2 ** times, y / 2 ** times])
    const count = Math.max(1, Math.ceil(lengthOf(small)))
    return spread(clean, { width, height }, times, wayTaps(small, count, behind), { beyond: 'a mirror' })
  },
})
