import { choice, value } from '../declare/field'
import { splat } from '../../kernels/record'
import { smooth } from '../formula/colours'
import { matteKind } from './matte'
import { share, shareNode } from './share'

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
  value(0.001, 1e6, {
    label,
    help: 'From one side to the other.',
    unit: 'm',
    step: 0.01,
    hand: [0.001, 10000],
    first: 2,
  })

export const place = matteKind({
  id: 'place',
  label: 'A place',
  help: 'What stands in a box or ball set in the scene, with a soft skin. Of the pass world position.',
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
  plan: (input, { shape, x, y, z, across, up, deep, soft }) => {
    const source = input.pass('position')
    const half = { across: across / 2, up: up / 2, deep: deep / 2 }
    return source && shareNode(shape === 'box' ? Box : Ball, source, { x, y, z, ...half, soft }, input.invert)
  },
})
