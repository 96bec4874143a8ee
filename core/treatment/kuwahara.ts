import { value } from '../declare/field'
import { grown } from '../engine/box'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { kernelNode, type Node } from '../plan/node'
import { inRoom } from '../plan/room'
import { Kuwahara, Slopes } from '../../kernels/records'
import { STEADY, steadied } from './steady'
import { treatment, type TreatmentInput } from './treatment'

export const kuwahara = treatment({
  id: 'kuwahara',
  label: 'Painted',
  help: 'Patches of even colour with sharp borders, drawn along what runs through the picture, as a brush does (anisotropic Kuwahara filter).',
  group: 'Drawn look',
  sentence:
    'Painted in strokes of {radius}, {stretch} longer along lines, borders {sharpness}, structure over {structure}, steady over {steady}',
  beside: true,
  values: {
    radius: value(0, 40, {
      label: 'size',
      help: 'Half the width of a stroke, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      neutral: 0,
      first: 5,
    }),
    stretch: value(0, 1, {
      label: 'length',
      help: 'How much longer and narrower strokes are where something runs through the picture: 1 up to four times as long as wide, 0 round.',
      step: 0.004,
      first: 1,
    }),
    sharpness: value(0, 16, {
      label: 'sharpness',
      help: 'How hard the borders of patches are.',
      step: 0.05,
      digits: 1,
      first: 8,
    }),
    structure: value(0.2, 60, {
      label: 'structure',
      help: 'Over how far directions are taken together, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      first: 2.5,
    }),
    ...STEADY,
  },
  neutral: ['radius'],
  reads: ['frames', 'motion'],
  shown: { radius: 16, structure: 5 },
  plan: (input, { steady, ...values }) => steadied(input, steady, one => painted(one, values)),
})

interface Strokes {
  radius: number
  stretch: number
  sharpness: number
  structure: number
}
function painted(input: TreatmentInput, { radius, stretch, sharpness, structure }: Strokes): Node {
  if (radius < 0.6) return finite(input.colour)
  const reach = Math.ceil(radius * (1 + stretch)) + 1
  const { source, window } = inRoom(input.colour, input, reach)
  const inner = grown(source.window, -1)
  const slopes = gaussian(kernelNode(Slopes, { source }, { window: inner, reach: 1 }), structure, input)
  return kernelNode(
    Kuwahara,
    { source, slopes, radius, stretch, sharpness },
    { window, needs: (area, which) => (which === 0 ? grown(area, reach) : area) },
  )
}
