import { value, whole as count } from '../declare/field'
import { kernelNode } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { inRoom } from '../plan/room'
import { AlikePatches } from '../../kernels/records'
import { Divided } from './premultiply'
import { treatment } from './treatment'

/** Where places that look alike are looked for. */
export const SEARCH = value(1, 12, {
  label: 'within',
  help: 'How far to each side, in whole pixels of what is worked at. The time goes with its square.',
  unit: 'px',
  pixels: 'size',
  step: 0.02,
  digits: 1,
  first: 5,
})

export const nlm = treatment({
  id: 'nlm',
  label: 'Smooth what repeats',
  help: 'Takes noise out by the mean of places whose surroundings look alike (non-local means): texture that repeats stays, and edges.',
  group: 'Softness',
  sentence: 'Smooth what differs by less than {alike}, looked for within {search}, by surroundings of {patch}',
  beside: true,
  values: {
    alike: value(0, 10, {
      label: 'alike',
      help: 'How much surroundings may differ, linear light: a little more than the noise.',
      step: 0.0005,
      digits: 4,
      neutral: 0,
      first: 0.02,
    }),
    search: SEARCH,
    patch: count(1, 4, { label: 'surroundings', help: 'Pixels to each side that are compared.', first: 1 }),
  },
  neutral: ['alike'],
  shown: { alike: 0.12 },
  plan: (input, { alike, search, patch }) => {
    const far = Math.max(1, Math.round(search))
    const reach = far + patch
    const { source, window } = inRoom(input.colour, input, reach)
    // Squares of three channels over the patch, of which alike is the mean
    const most = 3 * (2 * patch + 1) ** 2 * alike * alike
    return kernelNode(
      AlikePatches,
      {
        source,
        straight: pointNode(Divided, whole(source), {}),
        search: far,
        patch,
        over: -Math.LOG2E / most,
        less: 0,
      },
      { window, reach },
    )
  },
})
