import { choice, value } from '../declare/field'
import { splat } from '../../kernels/record'
import { smooth } from '../formula/colours'
import { BOX_EDGES } from '../match/fit'
import type { Vector3 } from '../scene/vector'
import { ring, type Numbers } from './handles'
import { matteKind } from './matte'
import { share, shareNode } from './share'

const LEAST = 0.001
const AXES = ['x', 'y', 'z'] as const
const SIZES = ['across', 'up', 'deep'] as const
const SIDES: readonly { id: string; label: string; axis: 0 | 1 | 2; way: 1 | -1 }[] = [
  { id: 'right', label: 'its right side', axis: 0, way: 1 },
  { id: 'left', label: 'its left side', axis: 0, way: -1 },
  { id: 'top', label: 'its top', axis: 1, way: 1 },
  { id: 'bottom', label: 'its bottom', axis: 1, way: -1 },
  { id: 'near', label: 'its side towards the camera', axis: 2, way: 1 },
  { id: 'far', label: 'its far side', axis: 2, way: -1 },
]
const BODY = { x: splat, y: splat, z: splat, across: splat, up: splat, deep: splat, soft: splat }
/** Metres outside a box, 0 within it: by the pass of places. */
const Box = share('PlaceBox', BODY, ({ colour: { red, green, blue }, values: v }) => {
  const out = [
    red.minus(v.x).absolute().minus(v.across),
    green.minus(v.y).absolute().minus(v.up),
    blue.minus(v.z).absolute().minus(v.deep),
  ].map(side => side.atLeast(0))
  const far = out
    .map(side => side.times(side))
    .reduce((sum, next) => sum.plus(next))
    .root()
  return smooth(far.terms.constant(1).minus(far.over(v.soft)))
})
/** The same of a ball that is as wide, as high and as deep as that. */
const Ball = share('PlaceBall', BODY, ({ colour: { red, green, blue }, values: v }) => {
  const x = red.minus(v.x).over(v.across)
  const y = green.minus(v.y).over(v.up)
  const z = blue.minus(v.z).over(v.deep)
  const radius = x.times(x).plus(y.times(y)).plus(z.times(z)).root()
  const size = v.across.atMost(v.up).atMost(v.deep)
  return smooth(radius.terms.constant(1).minus(radius.minus(1).atLeast(0).times(size).over(v.soft)))
})
const at = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1e6, 1e6, { label, help, unit: 'm', step: 0.01, hand: [-10000, 10000], first })
const size = (label: string): ReturnType<typeof value> =>
  value(LEAST, 1e6, {
    label,
    help: 'From one side to the other.',
    unit: 'm',
    step: 0.01,
    hand: [LEAST, 10000],
    first: 2,
  })

export const place = matteKind({
  id: 'place',
  group: 'Space',
  label: 'A place',
  help: 'What stands in a box or ball set in the scene, with a soft skin. By the pass place, or by depth and the shot’s camera.',
  sentence: 'in a {shape} at {x} {y} {z}, {across} wide {up} high {deep} deep, soft over {soft}',
  values: {
    shape: choice(['box', 'ball'], {
      label: 'shape',
      help: 'A box along the axes of the scene, or a ball of that width, height and depth.',
    }),
    x: at('across', 'Its middle, to the right.', 0),
    y: at('up', 'Its middle, above the ground.', 1),
    z: at('back', 'Its middle, towards the camera.', -8),
    across: size('width'),
    up: size('height'),
    deep: size('depth'),
    soft: value(0.001, 1e4, {
      label: 'soft over',
      help: 'Metres outside over which it fades.',
      unit: 'm',
      step: 0.01,
      first: 0.5,
    }),
  },
  reads: ['passes'],
  needs: () => 'position',
  handles: ({ shape, x, y, z, across, up, deep }) => {
    const middle: Vector3 = [x, y, z]
    const half: Vector3 = [across / 2, up / 2, deep / 2]
    const corner = (i: number): Vector3 => [
      x + (i & 1 ? half[0] : -half[0]),
      y + (i & 2 ? half[1] : -half[1]),
      z + (i & 4 ? half[2] : -half[2]),
    ]
    const circle = (first: 0 | 1 | 2, second: 0 | 1 | 2): Vector3[] =>
      ring((cosine, sine): Vector3 => {
        const at: Vector3 = [...middle]
        at[first] += half[first] * cosine
        at[second] += half[second] * sine
        return at
      })
    return {
      of: 'scene',
      grips: [
        { id: 'middle', label: 'its middle', at: middle },
        ...SIDES.map(({ id, label, axis, way }) => {
          const at: Vector3 = [...middle]
          at[axis] += half[axis] * way
          const along: Vector3 = [0, 0, 0]
          along[axis] = way
          return { id, label, at, along }
        }),
      ],
      lines:
        shape === 'box'
          ? BOX_EDGES.map(([a, b]) => [corner(a), corner(b)])
          : [circle(0, 1), circle(0, 2), circle(1, 2)],
      moved: (grip, to): Numbers => {
        const side = SIDES.find(({ id }) => id === grip)
        if (!side) return { x: to[0], z: to[2] }
        // The side across from it stays where it is
        const { axis, way } = side
        const across = middle[axis] - half[axis] * way
        const size = Math.max(LEAST, (to[axis] - across) * way)
        return { [AXES[axis]]: across + (size / 2) * way, [SIZES[axis]]: size }
      },
    }
  },
  plan: (input, { shape, x, y, z, across, up, deep, soft }) => {
    const source = input.pass('position')
    const half = { across: across / 2, up: up / 2, deep: deep / 2 }
    return source && shareNode(shape === 'box' ? Box : Ball, source, { x, y, z, ...half, soft }, input.invert)
  },
})
