import { value, whole as count } from '../declare/field'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { inRoom } from '../plan/room'
import { raster } from '../../kernels/record'
import { AlikePatches } from '../../kernels/records'
import { common } from '../engine/box'
import { deviationOfMean, likeGrain } from './grain'
import { SEARCH } from './nlm'
import { NOISE_VALUES, steadied } from './noiseOf'
import { treatment } from './treatment'
import { inWindow } from './weighted'

/** The colours of a mean, covered as before. */
const OfMean = point('OfMean', { mean: raster('colour') }, ({ alpha, colours: { mean } }) =>
  mean.colour.map(channel => channel.over(mean.alpha.atLeast(1e-9)).times(alpha)),
)

/** Squares of three channels over a patch. */
const patchPixels = (patch: number): number => 3 * (2 * patch + 1) ** 2
/** What noise of deviation 1 on both makes of such a sum, and what a patch may differ beyond. smoothing: 1 as is usual. */
export const patchWeights = (patch: number, smoothing: number): { less: number; over: number } => ({
  less: 2 * patchPixels(patch),
  over: -Math.LOG2E / (patchPixels(patch) * Math.max(1e-3, SOFTNESS * smoothing) ** 2),
})
/** How much more than noise patches may differ, in its deviations, and still count 1/e. */
const SOFTNESS = 0.55

export const SMOOTHING = value(0.05, 4, {
  label: 'smoothing',
  help: 'How much is smoothed: 1 as the noise asks for, more takes texture with it.',
  step: 0.004,
  first: 1,
})
export const PATCH = count(1, 4, { label: 'surroundings', help: 'Pixels to each side that are compared.', first: 1 })

export const degrain = treatment({
  id: 'degrain',
  label: 'Grain taken out',
  help: 'Takes grain of a known amount out of one frame, so that it can be worked on clean: places whose surroundings differ by the grain alone are averaged. Grain further on in the recipe can lay back what this took.',
  group: 'Lens',
  sentence:
    'Take out {amount} of grain at middle grey ({channels} by channel), growing {growth} with light, {size} wide, by {smoothing}; looked for within {search}, by surroundings of {patch}',
  beside: true,
  values: {
    ...NOISE_VALUES,
    size: value(0, 16, {
      label: 'size',
      help: 'Standard deviation of one grain, in pixels of the full frame: of a picture made smaller less is left of fine grain.',
      unit: 'px',
      pixels: 'size',
      step: 0.01,
      digits: 2,
      first: 0.7,
    }),
    smoothing: { ...SMOOTHING, first: 1.2 },
    search: SEARCH,
    patch: PATCH,
  },
  neutral: ['amount'],
  shown: { amount: 0.3, search: 5, smoothing: 1.5 },
  likened: likeGrain,
  likenedBy: 'grain',
  takesGrain: true,
  plan: ({ colour, width, height, shrink }, { amount, channels, growth, size, smoothing, search, patch }) => {
    const clean = finite(colour)
    if (amount === 0) return clean
    const far = Math.max(1, Math.round(search))
    const reach = far + patch
    const { source, window } = inRoom(colour, { width, height }, reach)
    const straight: Node = steadied(source, { amount, channels, growth }, deviationOfMean(size * shrink, shrink))
    const mean = kernelNode(
      AlikePatches,
      { source, straight, search: far, patch, ...patchWeights(patch, smoothing) },
      { window, reach },
    )
    return pointNode(OfMean, whole(inWindow(clean, common(clean.window, window))), { mean })
  },
})
