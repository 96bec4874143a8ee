import { choice, colourValues, threeValues, value } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { kernelNode, type Node } from '../plan/node'
import { pointNode } from '../plan/pointNode'
import type { Camera } from '../scene/scene'
import { FogShare } from '../../kernels/records'
import { raster, shade } from '../../kernels/record'
import { treatment } from './treatment'

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

/** What rises by how much on a step of one metre along the view axis, and the camera's height. */
export function risesOf({ matrix, focalLength, sensorWidth, shiftX, shiftY }: Camera, width: number, height: number) {
  // Half of what is seen at one metre, across; pixels are square
  const side = sensorWidth / focalLength / width
  return {
    sideX: side,
    // Down the picture is down in the world
    sideY: -side,
    middleX: width / 2 - (shiftX * width) / 2,
    middleY: height / 2 + (shiftY * height) / 2,
    riseX: matrix[1]!,
    riseY: matrix[5]!,
    rise0: -matrix[9]!,
    height: matrix[13]!,
  }
}

export const fog = treatment({
  id: 'fog',
  label: 'Fog',
  help: 'Air between the camera and things: light is lost by halves on the way (Beer–Lambert law), and the fog’s own comes in its place. It may lie on the ground and thin out above it.',
  group: 'Air',
  sentence:
    'Fog that halves the light every {half} ({by} by channel) from {from} on, half as thick every {thinning} above {ground}, of {scatters} {colour}[ soft over {spread}], {most} at most',
  beside: true,
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
    scatters: choice(['a colour', 'the surround'], {
      label: 'light',
      help: 'What comes in: a colour, or the picture about it, softened, times the colour.',
    }),
    colour: colourValues('', { help: 'Of the fog, linear Rec.709.', first: [0.42, 0.48, 0.55] }),
    spread: value(1, 1000, {
      label: 'softness',
      help: 'Of the surround, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 1,
      digits: 0,
      first: 80,
      with: { name: 'scatters', is: ['the surround'] },
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
  plan: (input, { half, by, from, thinning, ground, scatters, colour, spread, most }) => {
    const { height, ...rises } = risesOf(input.camera(), input.width, input.height)
    const share = (longer: number): Node =>
      input.byDepth(depth =>
        kernelNode(
          FogShare,
          {
            ...{ depth, half: half * Math.max(0.01, longer), height: height - ground, from, most, thinning },
            ...rises,
          },
          { window: depth.window },
        ),
      )
    const [red, green, blue] = by.map(share) as [Node, Node, Node]
    const [r, g, b] = colour
    const tint = [r, g, b] as [number, number, number]
    if (scatters === 'a colour') return pointNode(FogColour, input, { red, green, blue, colour: tint })
    const { width, height: down } = input
    const around = gaussian(finite(input.colour), spread, { width, height: down })
    return pointNode(FogSurround, input, { red, green, blue, around, colour: tint })
  },
})
