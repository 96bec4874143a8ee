import { choice, colourValues, threeValues, value } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { kernelNode, type Node } from '../plan/node'
import { pointNode } from '../plan/pointNode'
import type { Camera } from '../scene/scene'
import { FogShare, FogUneven } from '../../kernels/records'
import { raster, shade } from '../../kernels/record'
import { fogAround } from './fogAround'
import { risesOf } from './rises'
import { treatment, type TreatmentInput } from './treatment'

const FogColour = point(
  'FogColour',
  { red: raster('single'), green: raster('single'), blue: raster('single'), colour: shade },
  ({ colour, alpha, singles, values }) =>
    colour.map((channel, which) =>
      channel.plus(values.colour[which].times(alpha).minus(channel).times(singles[which])),
    ),
)
const FogSurround = point(
  'FogSurround',
  { red: raster('single'), green: raster('single'), blue: raster('single'), around: raster('colour'), colour: shade },
  ({ colour, alpha, singles, colours, values }) =>
    colour.map((channel, which) => {
      const light = colours.around.colour[which]
        .over(colours.around.alpha.atLeast(1e-4))
        .times(values.colour[which])
        .times(alpha)
      return channel.plus(light.minus(channel).times(singles[which]))
    }),
)

interface Patches {
  half: number
  by: readonly number[]
  from: number
  thinning: number
  ground: number
  uneven: number
  patches: number
  drift: number
  toward: number
  seed: number
}
/** How much thicker it is on the way to each pixel than in the mean. */
function unevenOn(depth: Node, camera: Camera, v: Patches, { width, height, frame }: TreatmentInput): Node {
  const { sideX, sideY, middleX, middleY } = risesOf(camera, width, height)
  const m = camera.matrix
  const row = (at: number, sign = 1): [number, number, number, number] => [
    m[at]! * sign,
    m[at + 1]! * sign,
    m[at + 2]! * sign,
    0,
  ]
  const angle = (v.toward * Math.PI) / 180
  // The patches go: where the camera is among them is as far the other way
  const [ex, ey, ez] = row(12)
  const far = v.drift * frame
  return kernelNode(
    FogUneven,
    {
      ...{ depth, right: row(0), up: row(4), forward: row(8, -1) },
      eye: [ex - Math.sin(angle) * far, ey, ez + Math.cos(angle) * far, 0],
      ...{ sideX, sideY, middleX, middleY, from: v.from, thinning: v.thinning, ground: v.ground },
      // After ten half distances a thousandth is left
      farthest: 10 * v.half * Math.max(0.01, ...v.by),
      ...{ uneven: v.uneven, fine: 1 / Math.max(0.01, v.patches), seed: Math.round(v.seed) },
    },
    { window: depth.window },
  )
}

/** What a shot's environment gives. */
export const SURROUNDINGS = 'the surroundings'

export const fog = treatment({
  id: 'fog',
  label: 'Fog',
  help: 'Air between the camera and things: light is lost by halves on the way (Beer–Lambert law), and the fog’s own comes in its place. It may lie on the ground and thin out above it.',
  group: 'Air',
  sentence:
    'Fog that halves the light every {half} ({by} by channel) from {from} on, half as thick every {thinning} above {ground}, {uneven} in patches of {patches} drifting {drift} a frame to {toward}, seed {seed}, of {scatters} {colour}[ soft over {spread}][ thrown forward {forward}], {most} at most',
  beside: true,
  metres: ['from'],
  values: {
    half: value(0.01, 1e6, {
      label: 'half distance',
      help: 'After so many metres half of the light is left.',
      unit: 'm',
      step: 0.05,
      hand: [0.01, 100000],
      first: 60,
    }),
    by: threeValues(['red way', 'green way', 'blue way'], {
      help: 'How much longer that is for each channel: haze lets red farther than blue.',
      hand: [0.05, 20],
      step: 0.004,
      first: [1.15, 1, 0.88],
    }),
    from: value(0, 1e6, {
      label: 'from',
      help: 'Nearer than this is no fog.',
      unit: 'm',
      step: 0.05,
      hand: [0, 100000],
      first: 0,
    }),
    thinning: value(0, 1e5, {
      label: 'thinning height',
      help: 'So many metres farther up it is half as thick; 0 the same at every height.',
      unit: 'm',
      step: 0.02,
      hand: [0, 10000],
      first: 0,
    }),
    ground: value(-1e5, 1e5, {
      label: 'ground',
      help: 'Height in the world up to which it is thickest.',
      unit: 'm',
      step: 0.02,
      hand: [-10000, 10000],
      first: 0,
    }),
    uneven: value(0, 1, {
      label: 'unevenness',
      help: 'How much it lies in patches: 0 even, 1 with clear air between.',
      step: 0.004,
      neutral: 0,
      first: 0,
    }),
    patches: value(0.02, 1e5, {
      label: 'patches',
      help: 'How large its largest patches are, in the world.',
      unit: 'm',
      step: 0.02,
      hand: [0.02, 1000],
      first: 6,
    }),
    drift: value(-1000, 1000, {
      label: 'drift',
      help: 'How far it goes from frame to frame, along the ground.',
      unit: 'm',
      step: 0.001,
      digits: 3,
      first: 0.02,
    }),
    toward: value(-3600, 3600, {
      label: 'toward',
      help: 'Where it drifts: 0 is ahead of the world (-Z), 90 to its right.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 90,
    }),
    seed: value(0, 9999, { label: 'seed', help: 'Another number, other patches.', step: 1, digits: 0, first: 1 }),
    scatters: choice(['a colour', 'the surround', SURROUNDINGS, 'the lamps in the air'], {
      label: 'light',
      help: 'What comes in: a colour; the picture about it, softened; the light of the scene’s environment, as air scatters it; or what the scene’s own air scatters of its lamps where that was rendered; each times the colour. Without them, the colour alone.',
    }),
    colour: colourValues('', { help: 'Of the fog, linear Rec.709.', first: [0.42, 0.48, 0.55] }),
    forward: value(-0.9, 0.9, {
      label: 'forward',
      help: 'How much it scatters light onward: 0 to all sides alike, 0.7 as mist does, so that it is brightest before what is bright.',
      step: 0.004,
      first: 0.5,
      with: { name: 'scatters', is: [SURROUNDINGS] },
    }),
    spread: value(1, 1000, {
      label: 'softness',
      help: 'Of the surround, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 1,
      digits: 0,
      first: 80,
      with: { name: 'scatters', is: ['the surround', 'the lamps in the air'] },
    }),
    most: value(0, 1, {
      label: 'at most',
      help: 'No more than this is lost anywhere: at less than 1 the sky shows through.',
      step: 0.004,
      neutral: 0,
      first: 0.9,
    }),
  },
  neutral: ['most'],
  shown: { half: 16 },
  reads: ['depth'],
  needs: ({ scatters }) => (scatters === 'the lamps in the air' ? ['volume'] : []),
  without: 'by its colour alone',
  plan: (input, v) => {
    const { half, by, from, thinning, ground, scatters, colour, spread, most } = v
    const camera = input.camera()
    const { height, ...rises } = risesOf(camera, input.width, input.height)
    const uneven = (depth: Node): Node | undefined => (v.uneven > 0 ? unevenOn(depth, camera, v, input) : undefined)
    const share = (longer: number): Node =>
      input.byDepth(depth =>
        kernelNode(
          FogShare,
          {
            ...{
              depth,
              uneven: uneven(depth),
              half: half * Math.max(0.01, longer),
              height: height - ground,
              from,
              most,
              thinning,
            },
            ...rises,
          },
          { window: depth.window },
        ),
      )
    const [red, green, blue] = by.map(share) as [Node, Node, Node]
    const [r, g, b] = colour
    const tint = [r, g, b] as [number, number, number]
    if (scatters === 'a colour') return pointNode(FogColour, input, { red, green, blue, colour: tint })
    if (scatters === SURROUNDINGS) {
      const found = input.surroundings?.()
      return found
        ? fogAround(input, camera, [red, green, blue], found, v)
        : pointNode(FogColour, input, { red, green, blue, colour: tint })
    }
    const { width, height: down } = input
    const air = scatters === 'the surround' ? input.colour : input.pass?.('volume')
    if (!air) return pointNode(FogColour, input, { red, green, blue, colour: tint })
    const around = gaussian(finite(air), spread, { width, height: down })
    return pointNode(FogSurround, input, { red, green, blue, around, colour: tint })
  },
})
