import { whole as count } from '../declare/field'
import { boxOf, common, grown, holds } from '../engine/box'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { kernelNode, type Node } from '../plan/node'
import { broughtFrom } from '../plan/otherFrames'
import { pointNode, whole } from '../plan/pointNode'
import { inRoom } from '../plan/room'
import { raster } from '../../kernels/record'
import { AlikeFrames } from '../../kernels/records'
import { PATCH, patchWeights, SMOOTHING } from './degrain'
import { likeGrain } from './grain'
import { NOISE_VALUES, steadied } from './noiseOf'
import { treatment } from './treatment'
import { inWindow } from './weighted'

const MOST = 8
/** Of sums what they are the mean of; alpha stays. */
const Mean = point('MeanOfFrames', { sum: raster('colour') }, ({ colours: { sum } }) =>
  sum.colour.map(channel => channel.over(sum.alpha.atLeast(1e-20))),
)
const frames = (when: string): ReturnType<typeof count> =>
  count(0, MOST, { label: `frames ${when}`, help: `How many frames ${when} this one are looked at.`, first: 2 })

export const overFrames = treatment({
  id: 'over_frames',
  label: 'Noise taken out over frames',
  help: 'Takes noise out of footage: what a place shows is looked for in the frames before and after, wherever it has gone, and averaged with what is alike there. What is found nowhere stays as it is.',
  group: 'Softness',
  sentence:
    'Take out {amount} of noise at middle grey ({channels} by channel), growing {growth} with light, by {smoothing}, over {before} frames before and {after} after; looked for within {search}, by surroundings of {patch}',
  beside: true,
  values: {
    ...NOISE_VALUES,
    smoothing: { ...SMOOTHING, first: 1.3 },
    before: frames('before'),
    after: frames('after'),
    search: count(0, 8, {
      label: 'within',
      help: 'How far to each side of where a thing has gone its like are looked for, in pixels of what is worked at. The time goes with its square.',
      unit: 'px',
      first: 2,
    }),
    patch: PATCH,
  },
  neutral: ['amount'],
  shown: { amount: 0.3 },
  reads: ['frames'],
  likened: likeGrain,
  likenedBy: 'grain',
  takesGrain: true,
  plan: ({ colour, at, frame, width, height }, v) => {
    const { amount, smoothing, before, after, search, patch } = v
    const own = finite(colour)
    if (amount === 0) return own
    const size = { width, height }
    const isWhole = (node: Node): boolean => holds(node.window, boxOf(width, height))
    const reach = search + patch
    const { source, window } = inRoom(own, size, reach)
    const straight = steadied(source, v, 1)
    const weights = patchWeights(patch, smoothing)
    const add = (sum: Node | undefined, other: Node, otherStraight: Node): Node =>
      kernelNode(
        AlikeFrames,
        { sum, other, straight, otherStraight, search, patch, ...weights },
        { window, needs: (area, input) => (sum && input === 0 ? area : grown(area, reach)) },
      )
    let sum = add(undefined, source, straight)
    const seen = new Set([own.key])
    for (let other = frame - before; other <= frame + after; other++) {
      if (other === frame) continue
      const picture = finite(at(other).colour)
      // Beyond the first and last frame there is only those again; and what does not fill the frame goes nowhere
      if (seen.has(picture.key) || !isWhole(own) || !isWhole(picture)) continue
      seen.add(picture.key)
      const like = { own: steadied(own, v, 1), other: steadied(picture, v, 1) }
      const brought = inRoom(broughtFrom(picture, like, size), size, reach).source
      sum = add(sum, brought, steadied(brought, v, 1))
    }
    return pointNode(Mean, whole(inWindow(own, common(own.window, window))), { sum })
  },
})
