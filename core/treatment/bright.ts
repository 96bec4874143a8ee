// What of a picture glows: what a slip holds, and of that what is brighter than a threshold.
import { MIDDLE_GREY } from '../colour/luminance'
import { choice, value } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import type { Node } from '../plan/node'
import { cutTo } from '../plan/picture'
import { pointNode, whole } from '../plan/pointNode'
import { splat } from '../../kernels/record'

/** What is above a light: all above it, none at it. */
const Above = point('Above', { threshold: splat }, ({ colour, alpha, values }) => {
  const light = colour.luminance()
  const share = light.minus(values.threshold.times(alpha)).over(light.atLeast(1e-9)).atLeast(0)
  return colour.times(share)
})

export const FEEDS = {
  feeds: choice(['what is bright', 'all light'], {
    label: 'what glows',
    help: 'What is brighter than the threshold, or all, as dust on a lens spreads it.',
  }),
  threshold: value(-12, 16, {
    label: 'threshold',
    help: 'In stops from middle grey: what is darker does not glow.',
    unit: 'stops',
    step: 0.02,
    first: 2.5,
    with: { name: 'feeds', is: ['what is bright'] },
  }),
}
export const SHOWS = choice(['the picture', 'the glow', 'what feeds it'], {
  label: 'shown',
  help: 'The picture with its glow, the spread light alone, or only what it is made of.',
})

/** matte: of the slip. */
export function fedOf(
  colour: Node,
  matte: Node | undefined,
  { feeds, threshold }: { feeds: 'what is bright' | 'all light'; threshold: number },
): Node {
  const clean = finite(colour)
  const chosen = matte ? cutTo(clean, matte) : clean
  return feeds === 'all light' ? chosen : pointNode(Above, whole(chosen), { threshold: MIDDLE_GREY * 2 ** threshold })
}
