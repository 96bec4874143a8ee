// Drawn pictures that hold still over frames: what the frames about have is brought here along the motion that the passes
// know, and counts as far as it shows the same.
import { whole as count } from '../declare/field'
import { boxOf } from '../engine/box'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { finite } from '../plan/finite'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { resampledAt } from '../plan/shaped'
import { raster, splat } from '../../kernels/record'
import { OwnPlaces } from '../../kernels/records'
import type { TreatmentInput } from './treatment'

export const STEADY = {
  steady: count(0, 3, {
    label: 'steady',
    help: 'Over how many frames before and after it is taken together, moved along by the motion of the passes, so that it does not flicker.',
    neutral: 0,
  }),
}

/** Places a frame on, or back, of what is at each. */
const Onward = point('Onward', { motion: raster('colour'), back: splat }, ({ colour, colours: { motion }, values }) => {
  const { red, green, blue } = motion.colour
  const back = values.back.isAbove(0)
  return new Colour(
    colour.red.plus(back.choose(blue, red)),
    colour.green.plus(back.choose(motion.alpha, green)),
    colour.blue,
  )
})

/** So far off, of its light and beside it, what is brought counts half; twice as far hardly. */
const LIKE = { share: 0.15, beside: 0.01 }
/** A frame more of several, as far as it is like the own one. */
const Joined = point(
  'SteadyJoined',
  { own: raster('colour'), brought: raster('colour'), share: splat },
  ({ colour, colours: { own, brought }, values }) => {
    const [a, b] = [own.colour.luminance(), brought.colour.luminance()]
    const off = a.minus(b).over(a.atLeast(b).atLeast(0).times(LIKE.share).plus(LIKE.beside))
    const square = off.times(off)
    const like = square.terms.constant(1).over(square.times(square).plus(1)).times(values.share)
    return colour.map((channel, which) => channel.plus(brought.colour[which].minus(own.colour[which]).times(like)))
  },
)

/** What a treatment makes of the picture, with what it makes of so many frames to each side. Throws StillPacked. */
export function steadied(input: TreatmentInput, frames: number, treat: (input: TreatmentInput) => Node): Node {
  const own = treat(input)
  if (frames === 0 || !input.motion) return own
  const window = boxOf(input.width, input.height)
  const brought = [1, -1].flatMap(side => {
    const found: Node[] = []
    let here: Pick<TreatmentInput, 'colour' | 'motion'> = input
    let places: Node = kernelNode(OwnPlaces, {}, { window })
    for (let far = 1; far <= frames; far++) {
      const frame = input.frame + side * far
      const there = input.at(frame)
      // Beyond the shot's last frame there is the same again
      if (!here.motion || !there.motion || there.colour.key === here.colour.key) break
      const motion = finite(here.motion())
      places = pointNode(Onward, whole(places), {
        motion: far === 1 ? motion : resampledAt(motion, places, 'straight', window),
        back: side < 0 ? 1 : 0,
      })
      found.push(resampledAt(treat({ ...input, ...there, frame }), places, 'straight', window))
      here = there
    }
    return found
  })
  return brought.reduce<Node>(
    (sum, one) => pointNode(Joined, whole(sum), { own, brought: one, share: 1 / (brought.length + 1) }),
    own,
  )
}
