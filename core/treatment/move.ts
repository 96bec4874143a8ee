import { value } from '../declare/field'
import { Projected, pointOf } from './projected'
import { pointNode, whole } from '../plan/pointNode'
import { shape, SHAPE_SENTENCE, SHAPE_VALUES } from './shape'

export const move = shape({
  id: 'move',
  label: 'Move',
  help: 'Moves, turns, scales and shears the picture about a point. Several lines of shape in a row take it from its first state at once: nothing is lost in between.',
  sentence: `Moved {x} {y}, turned {turn}, scaled {across} {down}, sheared {shear} about {middle_x} {middle_y}${SHAPE_SENTENCE}`,
  values: {
    x: value(-1e5, 1e5, {
      label: 'across',
      help: 'Moved to the right, in pixels of the full frame.',
      unit: 'px',
      pixels: 'across',
      step: 0.5,
      digits: 1,
      neutral: 0,
    }),
    y: value(-1e5, 1e5, {
      label: 'down',
      help: 'Moved down, in pixels of the full frame.',
      unit: 'px',
      pixels: 'down',
      step: 0.5,
      digits: 1,
      neutral: 0,
    }),
    turn: value(-36000, 36000, {
      label: 'turn',
      help: 'Counter-clockwise.',
      unit: '°',
      step: 0.1,
      digits: 1,
      neutral: 0,
    }),
    across: value(-100, 100, {
      label: 'scale across',
      help: 'Less than nothing: mirrored.',
      step: 0.002,
      digits: 3,
      neutral: 1,
    }),
    down: value(-100, 100, {
      label: 'scale down',
      help: 'Less than nothing: upside down.',
      step: 0.002,
      digits: 3,
      neutral: 1,
    }),
    shear: value(-10, 10, {
      label: 'shear',
      help: 'How far its top goes to the right for its height.',
      step: 0.002,
      digits: 3,
      neutral: 0,
    }),
    middle_x: value(-10, 10, {
      label: 'about, across',
      help: 'The point about which it turns and scales, in widths of the frame.',
      step: 0.002,
      digits: 3,
      first: 0.5,
    }),
    middle_y: value(-10, 10, {
      label: 'about, down',
      help: 'The same in heights of the frame.',
      step: 0.002,
      digits: 3,
      first: 0.5,
    }),
    ...SHAPE_VALUES,
  },
  neutral: ['x', 'y', 'turn', 'across', 'down', 'shear'],
  shown: { turn: 8, across: 0.8, down: 0.8 },
  places: ({ width, height }, v, places) => {
    const [mx, my] = [v.middle_x * width, v.middle_y * height]
    const angle = (v.turn * Math.PI) / 180
    const [c, s] = [Math.cos(angle), Math.sin(angle)]
    const least = (scale: number): number => (Math.abs(scale) < 1e-4 ? 1e-4 : scale)
    // Of what is counted down: moved, then turned back, then without shear and scale
    const [sx, sy] = [least(v.across), least(v.down)]
    const [a, b] = [c / sx, -s / sx]
    const [d, e] = [s / sy, c / sy]
    const [shearedA, shearedB] = [a + (v.shear * d * sy) / sx, b + (v.shear * e * sy) / sx]
    const [tx, ty] = [mx + v.x, my + v.y]
    return pointNode(Projected, whole(places), {
      ...pointOf([
        ...[shearedA, shearedB, mx - shearedA * tx - shearedB * ty],
        ...[d, e, my - d * tx - e * ty],
        ...[0, 0, 1],
      ]),
    })
  },
})
