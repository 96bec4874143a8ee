import { value } from '../declare/field'
import { pointNode, whole } from '../plan/pointNode'
import { pointOf, Projected } from './projected'
import { risesOf } from './rises'
import { shape, SHAPE_SENTENCE, SHAPE_VALUES } from './shape'

export const ground = shape({
  id: 'ground',
  label: 'On the ground',
  help: 'Lays the picture on a level plane of the scene, as the shot’s camera sees it: a marking on a road, a puddle, leaves.',
  sentence: `On the level {level}, its middle at {x} {z}, {wide} wide, turned {turn}${SHAPE_SENTENCE}`,
  values: {
    level: value(-1e5, 1e5, {
      label: 'height',
      help: 'Of the plane in the world.',
      unit: 'm',
      step: 0.01,
      hand: [-1000, 1000],
      first: 0,
    }),
    x: value(-1e5, 1e5, {
      label: 'x',
      help: 'Of the middle of the picture, in the world.',
      unit: 'm',
      step: 0.02,
      hand: [-10000, 10000],
      first: 0,
    }),
    z: value(-1e5, 1e5, {
      label: 'z',
      help: 'Of the middle of the picture, in the world; less is farther from a camera that looks along it.',
      unit: 'm',
      step: 0.02,
      hand: [-10000, 10000],
      first: -6,
    }),
    wide: value(0.001, 1e5, {
      label: 'width',
      help: 'Of the picture on the plane.',
      unit: 'm',
      step: 0.02,
      hand: [0.001, 10000],
      first: 6,
    }),
    turn: value(-36000, 36000, {
      label: 'turn',
      help: 'About its middle, counter-clockwise from above.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 0,
    }),
    ...SHAPE_VALUES,
  },
  shown: { wide: 12, z: -9 },
  places: (input, { level, x, z, wide, turn }, places) => {
    const { width, height } = input
    const camera = input.camera()
    const { matrix: m } = camera
    const { sideX, sideY, middleX, middleY } = risesOf(camera, width, height)
    // The ray through a pixel: d = a px + b py + c in the world, from the eye; it meets the plane after t = drop / d.y
    const ray = (axis: 0 | 1 | 2): [number, number, number] => {
      const [a, b] = [m[axis]! * sideX, m[4 + axis]! * sideY]
      return [a, b, -m[8 + axis]! - a * middleX - b * middleY]
    }
    const [dx, dy, dz] = [ray(0), ray(1), ray(2)]
    const drop = level - m[13]!
    const scale = width / wide
    const angle = (turn * Math.PI) / 180
    const [c, s] = [Math.cos(angle), Math.sin(angle)]
    // On the plane, from its middle, the picture's right and down (away from the viewer is up)
    const place = (i: number): [number, number, number] => {
      const across = m[12]! - x
      const away = m[14]! - z
      const [px, pz] = [across * dy[i]! + drop * dx[i]!, away * dy[i]! + drop * dz[i]!]
      return [
        (c * px - s * pz) * scale + (width / 2) * dy[i]!,
        (s * px + c * pz) * scale + (height / 2) * dy[i]!,
        dy[i]!,
      ]
    }
    const columns = [place(0), place(1), place(2)]
    // What lies behind the eye has the other sign
    const sign = drop < 0 ? -1 : 1
    return pointNode(
      Projected,
      whole(places),
      pointOf([0, 1, 2].flatMap(row => columns.map(column => column[row]! * sign))),
    )
  },
})
