import { choice, value } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import type { Node } from '../plan/node'
import { gaussian } from '../plan/gaussian'
import { pointNode, whole } from '../plan/pointNode'
import { bellAlong, wayOf } from '../plan/way'
import { raster, shade, splat } from '../../kernels/record'
import { lightInStops } from './detail'
import { drawn, INK_VALUES, softened } from './ink'
import { STEADY, steadied } from './steady'
import { treatment, type TreatmentInput } from './treatment'

/**
 * Lines where a narrow bell of the light in stops is darker than a wide one by more than a threshold (H. Winnemöller, J. E.
 * Kyprianidis, S. Olsen, "XDoG", Computers & Graphics 36(6), 2012, their soft threshold; from memory).
 */
const Lines = point(
  'Lines',
  {
    ...{ near: raster('colour'), far: raster('colour') },
    ...{ amount: splat, from: splat, soft: splat, ink: shade, paper: shade, fill: splat },
  },
  ({ colour, alpha, colours, values: v }) => {
    const [near, far] = [colours.near, colours.far].map(one => one.colour.red.over(one.alpha.atLeast(1e-4))) as [
      typeof alpha,
      typeof alpha,
    ]
    const dark = far.minus(near).minus(v.from).over(v.soft).atLeast(0).atMost(1)
    return drawn(colour, alpha, softened(dark).times(v.amount), v)
  },
)

export const lines = treatment({
  id: 'lines',
  label: 'Lines',
  help: 'Lines where the picture is darker than what is round it, as drawn with a pen (difference of two bells); the picture stays, or goes white under them.',
  group: 'Drawn look',
  sentence:
    'Lines {amount} {size} wide where darker by {from}, soft over {soft}, {run}[ over {flow}], in {ink}; {fill} of the picture gone to {paper}, steady over {steady}',
  beside: true,
  values: {
    amount: value(0, 1, { label: 'amount', help: 'How dark lines are.', step: 0.004, neutral: 0, first: 0.9 }),
    size: value(0.3, 40, {
      label: 'width',
      help: 'Of a line, about, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      first: 1.6,
    }),
    from: value(0, 8, {
      label: 'threshold',
      help: 'What is less darker than its surround is no line.',
      unit: 'stops',
      step: 0.005,
      digits: 2,
      first: 0.12,
    }),
    soft: value(0.01, 8, {
      label: 'softness',
      help: 'So much darker again it is a whole line.',
      unit: 'stops',
      step: 0.005,
      digits: 2,
      first: 0.3,
    }),
    run: choice(['as they come', 'drawn through'], {
      label: 'run',
      help: 'As the light has them all round, or only across what runs through a place, and joined along it.',
    }),
    flow: value(0.5, 200, {
      label: 'flow',
      help: 'Standard deviation of how far they are joined along what runs there, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.1,
      digits: 1,
      first: 8,
      with: { name: 'run', is: ['drawn through'] },
    }),
    ...INK_VALUES,
    ...STEADY,
  },
  neutral: ['amount', 'fill'],
  reads: ['frames', 'motion'],
  shown: { size: 2, fill: 0.85 },
  plan: (input, { steady, ...values }) => steadied(input, steady, one => lined(one, values)),
})

interface Values {
  amount: number
  size: number
  from: number
  soft: number
  run: 'as they come' | 'drawn through'
  flow: number
  ink: readonly number[]
  fill: number
  paper: readonly number[]
}
function lined(input: TreatmentInput, v: Values): Node {
  const { amount, size, from, soft, run, flow, ink, fill, paper } = v
  const frame = { width: input.width, height: input.height }
  const light = pointNode(lightInStops, whole(finite(input.colour)), {})
  const [ir, ig, ib] = ink as [number, number, number]
  const [pr, pg, pb] = paper as [number, number, number]
  const [near, far] = [size * 0.5, size * 0.5 * 1.6 * 1.6]
  return pointNode(Lines, input, {
    ...(run === 'drawn through'
      ? throughFlow()
      : { near: gaussian(light, near, frame), far: gaussian(light, far, frame) }),
    ...{ amount, from, soft, fill, ink: [ir, ig, ib], paper: [pr, pg, pb] },
  })

  /** Bells across what runs through a place, and then along it (H. Kang, S. Lee, C. Chui, "Coherent Line Drawing", NPAR 2007). */
  function throughFlow(): { near: Node; far: Node } {
    const colour = finite(input.colour)
    const [along, across] = [false, true].map(way => wayOf(colour, Math.max(1, size), frame, way)) as [Node, Node]
    const bell = (sigma: number): Node => bellAlong(bellAlong(light, across, sigma, frame), along, flow, frame)
    return { near: bell(near), far: bell(far) }
  }
}
