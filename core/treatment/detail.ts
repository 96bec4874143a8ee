import { value } from '../declare/field'
import { point } from '../formula/point'
import { Colour, type Term } from '../formula/term'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { pointNode, whole } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { treatment } from './treatment'

/** Light in stops; what is darker than this is all the same. */
const DARKEST = 0.001
export const lightInStops = point('LightInStops', {}, ({ colour, alpha }) => {
  const light = colour.luminance().over(alpha.atLeast(1e-4)).atLeast(DARKEST).logarithm().times(alpha)
  return new Colour(light, light, light)
})
const Bands = point(
  'DetailBands',
  {
    ...{ own: raster('colour'), first: raster('colour'), second: raster('colour'), third: raster('colour') },
    ...{ fine: splat, middle: splat, coarse: splat, edges: splat },
  },
  ({ colour, colours, values: v }) => {
    const level = (of: { colour: Colour; alpha: Term }): Term => of.colour.red.over(of.alpha.atLeast(1e-4))
    const [own, first, second, third] = [colours.own, colours.first, colours.second, colours.third].map(level) as [
      Term,
      Term,
      Term,
      Term,
    ]
    // Steps larger than an edge are left: more of them would make a rim
    const held = (band: Term): Term => {
      const far = band.over(v.edges)
      return band.over(far.times(far).plus(1))
    }
    const more = held(own.minus(first))
      .times(v.fine)
      .plus(held(first.minus(second)).times(v.middle))
      .plus(held(second.minus(third)).times(v.coarse))
    const gain = more.terms.constant(2).power(more)
    return colour.times(gain)
  },
)
const band = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1, 4, { label, help, step: 0.004, neutral: 0, first })

export const detail = treatment({
  id: 'detail',
  label: 'Detail',
  help: 'Fine, middle and coarse detail, each stronger or weaker (bands of a Laplacian pyramid, in stops of light): texture, form, local contrast. Large edges get no rims.',
  group: 'Softness',
  sentence: 'Detail fine {fine}, middle {middle}, coarse {coarse} from {size}, edges from {edges} left',
  beside: true,
  values: {
    fine: band('fine', 'How much more of the finest detail: 1 twice as much, -1 none of it.', 0.25),
    middle: band('middle', 'The same of what is up to four times as large.', 0.15),
    coarse: band('coarse', 'The same of what is up to sixteen times as large: local contrast.', 0.1),
    size: value(0.3, 60, {
      label: 'size',
      help: 'Standard deviation up to which detail is fine, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      first: 2,
    }),
    edges: value(0.05, 16, {
      label: 'edges',
      help: 'Steps of so many stops are edges: they are made stronger by half of what finer ones are, larger ones by less.',
      unit: 'stops',
      step: 0.02,
      first: 1,
    }),
  },
  neutral: ['fine', 'middle', 'coarse'],
  shown: { fine: 1.2, middle: 0.8, coarse: 0.5 },
  plan: (input, { fine, middle, coarse, size, edges }) => {
    const { width, height } = input
    const own = pointNode(lightInStops, whole(finite(input.colour)), {})
    const [first, second, third] = [size, size * 4, size * 16].map(sigma =>
      gaussian(own, sigma, { width, height }),
    ) as [typeof own, typeof own, typeof own]
    return pointNode(Bands, input, { own, first, second, third, fine, middle, coarse, edges })
  },
})
