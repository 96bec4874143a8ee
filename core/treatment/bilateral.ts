import { value } from '../declare/field'
import { finite } from '../plan/finite'
import { kernelNode } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { inRoom } from '../plan/room'
import { Bilateral } from '../../kernels/records'
import { Divided } from './premultiply'
import { treatment } from './treatment'

/** How many deviations the disc reaches. */
const REACH = 2

export const bilateral = treatment({
  id: 'bilateral',
  label: 'Smooth between edges',
  help: 'Softens what is alike and keeps edges (bilateral filter): skin, noise, banding.',
  group: 'Softness',
  sentence: 'Smooth within {radius} what differs by less than {alike}',
  beside: true,
  values: {
    radius: value(0, 20, {
      label: 'radius',
      help: 'Standard deviation of how near, in pixels of the full frame; it reaches twice as far.',
      unit: 'px',
      pixels: 'size',
      step: 0.05,
      digits: 1,
      neutral: 0,
      first: 3,
    }),
    alike: value(0.001, 10, {
      label: 'difference',
      help: 'Standard deviation of how alike: scene-linear colours that differ by much more are not mixed.',
      step: 0.002,
      digits: 3,
      first: 0.08,
    }),
  },
  neutral: ['radius'],
  shown: { radius: 6, alike: 0.2 },
  plan: (input, { radius, alike }) => {
    if (radius < 0.2) return finite(input.colour)
    const far = Math.max(1, Math.round(radius * REACH))
    const { source, window } = inRoom(input.colour, input, far + 3)
    const spatial = Float32Array.from({ length: far * far + 1 }, (_, square) => Math.exp(-square / (2 * radius ** 2)))
    return kernelNode(
      Bilateral,
      {
        source,
        straight: pointNode(Divided, whole(source), {}),
        radius: far,
        spatial,
        alike: -Math.LOG2E / (2 * alike * alike),
      },
      { window, reach: far + 3, told: [radius] },
    )
  },
})
