import { MIDDLE_GREY } from '../colour/luminance'
import { choice, value } from '../declare/field'
import { boxOf, grown } from '../engine/box'
import { point } from '../formula/point'
import { Colour, type Term } from '../formula/term'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { bellAlong, wayOf } from '../plan/way'
import { raster, shade, splat } from '../../kernels/record'
import { StrokeNoise, Wash, WhiteNoise } from '../../kernels/records'
import { deviationLeft } from './grain'
import { drawn, INK_VALUES, softened } from './ink'
import { treatment, type TreatmentInput } from './treatment'
import { inWindow } from './weighted'

/** A surface that faces the camera more than this has no direction of its own in the picture. */
const FLAT = 0.25
/**
 * Deviation of the bell for strokes that come once a pixel: such numbers pass their mean upwards every 2 root 2 pi sigma (S. O.
 * Rice, “Mathematical Analysis of Random Noise”, 1945).
 */
const BREADTH = 1 / (2 * Math.SQRT2 * Math.PI)
/** A bell's integral as a logistic function of 1.702 times the deviations, to 0.0095. (Common practice; from memory.) */
const LOGISTIC = -1.702 * Math.LOG2E

/** Gradient noise: its deviation, and how many deviations of a bell as coarse its period has. (Both measured here.) */
const NOISE_DEVIATION = 0.28
const PERIODS = 4

/** Where surfaces lead: as they fall away from the camera, or across that; where they face it, a way that is said. */
const WayOfNormals = point(
  'WayOfNormals',
  { across: splat, wayX: splat, wayY: splat },
  ({ colour: { red: nx, green }, values: v }) => {
    const ny = green.times(-1)
    const [a, b] = [v.across.terms.constant(1).minus(v.across), v.across]
    const [dx, dy] = [nx.times(a).minus(ny.times(b)), ny.times(a).plus(nx.times(b))]
    const sure = nx.times(nx).plus(ny.times(ny)).root().over(FLAT).atMost(1)
    const side = dx.times(v.wayX).plus(dy.times(v.wayY)).isAtLeast(0).choose(1, -1)
    const rest = sure.terms.constant(1).minus(sure).times(side)
    const [x, y] = [dx.over(FLAT).plus(v.wayX.times(rest)), dy.over(FLAT).plus(v.wayY.times(rest))]
    const long = x.times(x).plus(y.times(y)).root().atLeast(1e-9)
    return new Colour(x.over(long), y.over(long), x.terms.constant(0))
  },
)
const Across = point('WayAcross', {}, ({ colour: { red, green, blue } }) => new Colour(green.times(-1), red, blue))

/**
 * Ink where numbers without order are less than how dark it is. Their bell is made even, so that as much is inked as keeps
 * the light of the picture; of two layers as much each as together does.
 */
const Hatch = point(
  'Hatch',
  {
    ...{ one: raster('colour'), two: raster('colour') },
    ...{ over: splat, crossed: splat, white: splat, tone: splat, soft: splat, amount: splat, fill: splat },
    ...{ ink: shade, paper: shade },
  },
  ({ colour, alpha, colours: { one, two }, values: v }) => {
    const light = colour.luminance().over(alpha.atLeast(1e-4)).over(v.white).atLeast(0).atMost(1).power(v.tone)
    const kept = light.plus(light.root().minus(light).times(v.crossed))
    const dark = kept.terms.constant(1).minus(kept)
    const inked = (numbers: Term): Term => {
      const even = numbers.terms.constant(1).over(numbers.terms.constant(2).power(numbers.times(v.over)).plus(1))
      // As soft as leaves all of what is darkest inked, nothing of what is brightest, and the mean between as it should be
      const soft = v.soft.atMost(dark.times(2)).atMost(kept.times(2)).atLeast(1e-4)
      return softened(dark.minus(even).over(soft).plus(0.5).atLeast(0).atMost(1))
    }
    const [first, second] = [inked(one.colour.red), inked(two.colour.red).times(v.crossed)]
    return drawn(colour, alpha, first.plus(second).minus(first.times(second)).times(v.amount), v)
  },
)

export const hatch = treatment({
  id: 'hatch',
  label: 'Hatching',
  help: 'Strokes of a pen, the more the darker it is; they run one way, round things or along them by how surfaces face, or as the picture runs.',
  group: 'Drawn look',
  sentence:
    'Hatched {amount} {runs} at {angle}, {cross}, strokes {size} wide and {length} long {stay}, white from {white}, by {tone} of the light, soft {soft}, in {ink}; {fill} of the picture gone to {paper}, seed {seed}',
  beside: true,
  values: {
    amount: value(0, 1, { label: 'amount', help: 'How dark strokes are.', step: 0.004, neutral: 0, first: 0.9 }),
    runs: choice(['one way', 'round things', 'along things', 'as the picture runs'], {
      label: 'way',
      help: 'By an angle, by the pass of normals round what is there or along it, or along what one sees.',
    }),
    angle: value(-3600, 3600, {
      label: 'angle',
      help: 'Of the strokes, counter-clockwise from the right; of surfaces that face the camera too.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 45,
    }),
    cross: choice(['in one layer', 'crossed'], { label: 'layers', help: 'Strokes one way, or a second layer across.' }),
    size: value(0.5, 60, {
      label: 'width',
      help: 'From one stroke to the next, about, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      first: 5,
    }),
    stay: choice(['in the frame', 'on the things'], {
      label: 'they stay',
      help: 'Still before everything, or on what stands in the scene, by its places in the world, so that they go with the view.',
    }),
    length: value(1, 1000, {
      label: 'length',
      help: 'Of a stroke, about, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 50,
    }),
    white: value(-8, 16, {
      label: 'white',
      help: 'In stops from middle grey: what is brighter has no strokes.',
      unit: 'stops',
      step: 0.02,
      first: 0.8,
    }),
    tone: value(0.1, 2, {
      label: 'tone',
      help: 'Power of the light that strokes go by: 1 keeps the light of the picture, less lets dark things breathe, as the eye has it.',
      step: 0.004,
      first: 0.5,
    }),
    soft: value(0.02, 2, {
      label: 'softness',
      help: 'How softly strokes end: less is a pen, more a pencil.',
      step: 0.004,
      first: 0.15,
    }),
    ...INK_VALUES,
    seed: value(0, 9999, { label: 'seed', help: 'Another number, other strokes.', step: 1, digits: 0, first: 1 }),
  },
  neutral: ['amount', 'fill'],
  shown: { fill: 1, size: 9, runs: 'as the picture runs', white: 0, tone: 0.4 },
  needs: ({ runs, stay }) => [
    ...(/things/.test(runs as string) ? ['normal_camera'] : []),
    ...(/things/.test(stay as string) ? ['position'] : []),
  ],
  without: 'at its angle and in the frame',
  plan: (input, { amount, runs, stay, angle, cross, size, length, white, tone, soft, ink, fill, paper, seed }) => {
    const { width, height } = input
    const frame = { width, height }
    const breadth = Math.max(0.4, size * BREADTH)
    const way = wayIn(input, runs, (angle * Math.PI) / 180, size)
    const far = Math.max(0.5, length / 4)
    const places = stay === 'on the things' ? input.pass?.('position') : undefined
    const deviation = places ? NOISE_DEVIATION : deviationLeft(breadth)
    const strokes = (number: number, along: Node): Node => {
      if (places) {
        const numbers = kernelNode(
          StrokeNoise,
          { places: finite(places), period: breadth * PERIODS, seed: number },
          { window: places.window, reach: 1 },
        )
        return bellAlong(inWindow(numbers, boxOf(width, height)), along, far, frame, breadth)
      }
      const window = grown(boxOf(width, height), Math.ceil(breadth * 4) + 2)
      const white = kernelNode(WhiteNoise, { number, own: 1, together: 0 }, { window })
      return bellAlong(gaussian(white, breadth, frame), along, far, frame, breadth)
    }
    const one = strokes(Math.round(seed) * 2 + 1, way)
    const crossed = cross === 'crossed'
    const [ir, ig, ib] = ink
    const [pr, pg, pb] = paper
    return pointNode(Hatch, input, {
      ...{ one, two: crossed ? strokes(Math.round(seed) * 2 + 2, pointNode(Across, whole(way), {})) : one },
      over: LOGISTIC / (deviation * leftAlong(far, breadth)),
      ...{ crossed: crossed ? 1 : 0, white: MIDDLE_GREY * 2 ** white, tone, soft, amount, fill },
      ...{ ink: [ir, ig, ib], paper: [pr, pg, pb] },
    })
  },
})

function wayIn(input: TreatmentInput, runs: string, angle: number, size: number): Node {
  const [wayX, wayY] = [Math.cos(angle), -Math.sin(angle)]
  if (runs === 'as the picture runs') return wayOf(finite(input.colour), size * 1.5, input, false)
  const normals = /things/.test(runs) ? input.pass?.('normal_camera') : undefined
  if (normals)
    return pointNode(WayOfNormals, whole(finite(normals)), { across: runs === 'along things' ? 1 : 0, wayX, wayY })
  return kernelNode(Wash, { colour: [wayX, wayY, 0, 1] }, { window: boxOf(input.width, input.height) })
}

/**
 * What deviation is left of numbers that a bell softened, by another along a line: two bells of that kind are alike over
 * a root of 1 + along² / sigma² of their width.
 */
const leftAlong = (along: number, sigma: number): number => (1 + (along / sigma) ** 2) ** -0.25
