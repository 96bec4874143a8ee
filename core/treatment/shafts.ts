import { choice, colourValues, value } from '../declare/field'
import { boxOf } from '../engine/box'
import { finite } from '../plan/finite'
import { cutTo } from '../plan/picture'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { reshaped } from '../plan/shaped'
import { DepthRamp, Mix, Wash } from '../../kernels/records'
import { above, heldOf, SHOWS, threshold } from './bright'
import { pointOf, Projected } from './projected'
import { handlesOfPlace } from './handles'
import { frameValues } from './place'
import { roundPlace } from './roundPlace'
import { treatment, type TreatmentInput } from './treatment'
import { joined, withLight, type Weight } from './weighted'

/** Goes, each of which doubles the steps of the one before: 2^7 in all. */
const GOES = 7
const STEPS = 2 ** GOES - 1
/** Of the light at a shaft's root so much is left at its end. */
const LEFT_AT_END = Math.exp(-2)

const BEHIND = 'what stands behind'

function shining(
  input: TreatmentInput,
  v: { feeds: string; threshold: number; behind: number; reach: number; x: number; y: number },
): Node {
  if (v.feeds === 'all light') return heldOf(input)
  if (v.feeds !== BEHIND) return above(heldOf(input), v.threshold)
  const { width, height, matte } = input
  const light = roundPlace(kernelNode(Wash, { colour: [1, 1, 1, 0] }, { window: boxOf(width, height) }), {
    ...{ x: v.x * width, y: v.y * height },
    reach: v.reach,
  })
  const open = input.byDepth(
    depth => kernelNode(DepthRamp, { depth, near: v.behind - 1e-3, scale: 1e3 }, { window: depth.window }),
    true,
  )
  const seen = cutTo(light, open)
  return matte ? cutTo(seen, matte) : seen
}

export const shafts = treatment({
  id: 'shafts',
  label: 'Shafts of light',
  help: 'Light that streams away from a point through what is bright and past what is dark, as through haze: from the sun behind trees, a window, a lamp. Its slip says what shines.',
  group: 'Lens',
  sentence:
    'Shafts {amount} of {feeds}[ above {threshold}][ {behind}, {reach} about it,] away from {x} {y} over {length} of the way, tinted {tint}, showing {shows}',
  fed: 'from',
  beside: true,
  handles: handlesOfPlace('the point'),
  takes: [{ label: 'take its distance', metres: metres => ({ feeds: BEHIND, behind: metres }) }],
  offersLight: 'tint',
  reads: ['depth'],
  values: {
    amount: value(0, 20, { label: 'amount', help: 'How much light is added.', step: 0.004, neutral: 0, first: 0.5 }),
    feeds: choice(['what is bright', 'all light', BEHIND], {
      label: 'what shines',
      help: 'What is brighter than the threshold; all light; or a glow round the point, as much of it as stands behind all that the passes know.',
    }),
    threshold,
    behind: value(0, 1e6, {
      label: 'its distance',
      help: 'What is nearer hides it: of a lamp its own distance, of the sky more than of any thing.',
      unit: 'm',
      step: 0.05,
      hand: [0, 100000],
      first: 30,
      with: { name: 'feeds', is: [BEHIND] },
    }),
    reach: value(1, 4000, {
      label: 'its size',
      help: 'Of the glow round the point: its standard deviation, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 60,
      with: { name: 'feeds', is: [BEHIND] },
    }),
    ...frameValues('the point', { y: 0.3 }),
    length: value(0.01, 0.98, {
      label: 'length',
      help: 'How far back toward the point a pixel is lit from, as a share of its way.',
      step: 0.002,
      digits: 3,
      first: 0.6,
    }),
    tint: colourValues('tint ', { help: 'What their light is multiplied by, linear Rec.709.', first: [1, 0.95, 0.85] }),
    shows: SHOWS,
  },
  neutral: ['amount'],
  shown: { amount: 2, threshold: 0.5, x: 0.75, y: 0.3 },
  plan: (input, values) => {
    const { width, height } = input
    const { amount, x, y, length, tint, shows } = values
    const fed = shining(input, values)
    if (shows === 'what feeds it') return fed
    const [middleX, middleY] = [x * width, y * height]
    const step = (1 - length) ** (1 / STEPS)
    const fade = LEFT_AT_END ** (1 / STEPS)
    let light: Node = fed
    for (let go = 0; go < GOES; go++) {
      const [scale, less] = [step ** (2 ** go), fade ** (2 ** go)]
      const toPoint = pointOf([scale, 0, middleX * (1 - scale), 0, scale, middleY * (1 - scale), 0, 0, 1])
      const nearer = reshaped(
        { ...input, colour: light },
        {
          alter: places => pointNode(Projected, whole(places), toPoint),
          pure: true,
          filter: 'straight',
          goesOn: false,
        },
        input,
      ).colour
      light = kernelNode(Mix, { first: light, second: nearer, share: less / (1 + less) }, { window: nearer.window })
    }
    const [r, g, b] = tint
    const weight: Weight = [r * amount, g * amount, b * amount]
    return shows === 'the glow'
      ? joined([[light, weight]], light.window)
      : withLight(finite(input.colour), [[light, weight]])
  },
})
