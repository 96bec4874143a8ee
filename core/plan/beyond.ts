// Light that is seen at another distance than where its surface stands: glass shows what is behind it, what is smooth shows
// what it mirrors. How much of a picture's light that is stays as it is while the picture is graded.
import { around } from '../engine/box'
import { point } from '../formula/point'
import { raster, splat } from '../../kernels/record'
import { Clear } from '../../kernels/records'
import { kernelNode, type Node } from './node'
import { coveredBy, SHOWS, type Beyond, type Picture, type SeenBeyond } from './picture'
import { pointNode, whole } from './pointNode'

const LEAST = 1e-9
/** Light in all of it, of which it is a part. */
export const ShareOfAll = point('ShareOfAll', { all: raster('colour') }, ({ colour, colours: { all } }) =>
  colour.map((channel, which) => {
    const light = all.colour[which]
    return light.isAbove(LEAST).choose(channel.over(light.atLeast(LEAST)).atLeast(0).atMost(1), 0)
  }),
)
const LightOfBoth = point(
  'LightOfBoth',
  { below: raster('colour'), under: raster('colour'), over: raster('colour'), opacity: splat, hides: splat },
  ({ colour, alpha, colours: { below, under, over }, values: { opacity, hides } }) => {
    const left = alpha.terms.constant(1).minus(alpha.times(hides))
    return colour.map((channel, which) =>
      channel.times(over.colour[which]).times(opacity).plus(below.colour[which].times(under.colour[which]).times(left)),
    )
  },
)
const Times = point('Times', { share: raster('colour') }, ({ colour, colours: { share } }) =>
  colour.times(share.colour),
)
const Less = point('Less', { light: raster('colour') }, ({ colour, colours: { light } }) => colour.minus(light.colour))
const Plus = point('Plus', { light: raster('colour') }, ({ colour, colours: { light } }) => colour.plus(light.colour))

/** What of a picture laid on another is seen so. laid: both together. covers: it hides what is behind it. */
export function beyondOver(
  below: Picture,
  source: Picture,
  laid: Node,
  { opacity, covers }: { opacity: number; covers: boolean },
): Picture['beyond'] {
  if (!below.beyond && !source.beyond) return undefined
  return () => {
    const [unders, overs] = [below.beyond?.() ?? {}, source.beyond?.() ?? {}]
    const joined: Beyond = {}
    for (const shows of SHOWS) {
      const [under, over] = [unders[shows], overs[shows]]
      if (!(under ?? over)) continue
      const shares = [under, over].flatMap(seen => (seen ? [seen.share.window] : [])).reduce(around)
      const none = (): Node => kernelNode(Clear, {}, { window: shares })
      const light = kernelNode(
        LightOfBoth,
        {
          ...{ source: source.colour, strength: 1, straight: 0, opacity },
          // What does not hide only changes the light of what is below it
          ...(covers ? { below: below.colour, hides: opacity } : { below: laid, hides: 0 }),
          ...{ under: under?.share ?? none(), over: over?.share ?? none() },
        },
        { window: shares },
      )
      joined[shows] = {
        share: pointNode(ShareOfAll, whole(light), { all: laid }),
        ...coveredBy({ ...below, ...under }, { ...source, ...over }, opacity),
      }
    }
    return joined
  }
}

/** The same brought elsewhere, as its picture is. */
export const beyondBrought = (
  { beyond }: Picture,
  bring: (share: Node) => Node,
  standing: (seen: SeenBeyond) => Pick<Picture, 'depth' | 'byDepth'>,
): Picture['beyond'] =>
  beyond &&
  (() =>
    Object.fromEntries(
      Object.entries(beyond()).map(([shows, seen]) => [shows, { share: bring(seen.share), ...standing(seen) }]),
    ))

/** What is made of a picture by its distances, each part of its light by its own, and then put together again. */
export function eachAtItsDistance(picture: Picture, make: (part: Picture) => Node): Node {
  const parts = Object.values(picture.beyond?.() ?? {}).map(({ share, depth, byDepth }) => {
    // Light alone, without the cover of what it is seen on
    const none = kernelNode(Clear, {}, { window: share.window })
    const light = pointNode(Plus, whole(none), {
      light: kernelNode(Times, { source: picture.colour, strength: 1, straight: 0, share }, { window: share.window }),
    })
    return { colour: light, depth, byDepth }
  })
  const rest = parts.reduce((colour, { colour: light }) => pointNode(Less, whole(colour), { light }), picture.colour)
  return parts
    .map(make)
    .reduce((sum, light) => pointNode(Plus, whole(sum), { light }), make({ ...picture, colour: rest }))
}
