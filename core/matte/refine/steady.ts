import { value, whole } from '../../declare/field'
import { around } from '../../engine/box'
import { signedPower } from '../../formula/colours'
import { point } from '../../formula/point'
import { Colour } from '../../formula/term'
import { kernelNode, type Node } from '../../plan/node'
import { raster, splat } from '../../../kernels/record'
import { ShareOf, SumLight } from '../../../kernels/records'
import { refiner } from './refiner'

const MOST = 8
/**
 * What the matte of one frame gives: its share, and how much it counts, by how alike the picture is there and here as the
 * eye takes it (a bilateral filter over time; C. Tomasi, R. Manduchi, "Bilateral Filtering for Gray and Color Images",
 * ICCV 1998, with the weight of J. Tukey instead of a bell: what is farther away than that counts nothing).
 */
const Part = point(
  'SteadyPart',
  { there: raster('colour'), held: raster('single'), alike: splat },
  ({ colour, colours: { there }, singles: { held }, values: { alike } }) => {
    const seen = (value: Colour): Colour => value.map(channel => signedPower(channel, 1 / 2.4))
    const [one, other] = [seen(colour), seen(there.colour)]
    const apart = one.red
      .minus(other.red)
      .absolute()
      .atLeast(one.green.minus(other.green).absolute())
      .atLeast(one.blue.minus(other.blue).absolute())
      .over(alike)
    const near = apart.terms.constant(1).minus(apart.times(apart)).atLeast(0)
    const weight = near.times(near)
    return new Colour(held.times(weight), weight, weight)
  },
)
const Share = point('SteadyShare', {}, ({ colour: { red, green } }) => {
  const share = red.over(green.atLeast(1e-6)).atLeast(0).atMost(1)
  return new Colour(share, share, share)
})
const PLAIN = { strength: 1, straight: 0 } as const

export const steady = refiner({
  id: 'steady',
  label: 'Steady over time',
  help: 'The mean of what it is at the frames round this one, where the picture is alike there: it does not flicker, and what moves leaves no trail.',
  sentence: 'steady over {frames} frames to each side where the picture is alike within {alike}',
  values: {
    frames: whole(0, MOST, {
      label: 'frames',
      help: 'So many before this one, and as many after it.',
      neutral: 0,
      first: 2,
    }),
    alike: value(0.01, 1, {
      label: 'alike within',
      help: 'Differences of the picture, of 0 to 1 as it is seen, from which on a frame counts nothing there.',
      step: 0.002,
      digits: 3,
      first: 0.12,
    }),
  },
  plan: ({ matte, picture, at }, { frames, alike }) => {
    if (frames === 0 || !at) return matte
    const others = Array.from({ length: 2 * frames + 1 }, (_, i) => at(i - frames))
    const window = others.map(other => other.matte.window).reduce(around)
    const sum = others.reduce<Node | undefined>((before, other) => {
      const light = kernelNode(
        Part,
        { ...PLAIN, source: picture, there: other.picture, held: other.matte, alike },
        { window },
      )
      return kernelNode(SumLight, { sum: before, light, gain: 1 }, { window })
    }, undefined)
    const told = kernelNode(Share, { ...PLAIN, source: sum! }, { window })
    return kernelNode(ShareOf, { source: told, which: 0 }, { window })
  },
})
