import { anyValue, colourValues, value } from '../declare/field'
import { kernelNode, type Node } from '../plan/node'
import { boxOfSize, type Size } from '../plan/size'
import { Mix, NoiseMatte, Wash } from '../../kernels/records'
import { DISTANCE, flat, layerKind, share } from './layer'

/** How clouds of noise lie in the frame. */
export const CLOUD_VALUES = {
  cloud: value(1, 10000, {
    label: 'clouds',
    help: 'How wide the largest are.',
    unit: 'px',
    pixels: 'size',
    step: 0.5,
    digits: 0,
    first: 300,
  }),
  drift_x: anyValue({
    label: 'drift across',
    help: 'Give it keys.',
    unit: 'px',
    pixels: 'across',
    step: 1,
    digits: 0,
    neutral: 0,
  }),
  drift_y: anyValue({ label: 'drift down', unit: 'px', pixels: 'down', step: 1, digits: 0, neutral: 0 }),
  boil: anyValue({ label: 'boil', help: 'Clouds grow and shrink in their place.', step: 0.004, neutral: 0 }),
  seed: value(0, 9999, { label: 'seed', help: 'Another number, other clouds.', step: 0.1, digits: 0, first: 1 }),
} as const

/** Noise of five sizes, about `level`, 0..1. */
export function cloudNode(
  v: Readonly<Record<keyof typeof CLOUD_VALUES, number>>,
  size: Size,
  { contrast, level }: { contrast: number; level: number },
): Node {
  const { shrink } = size
  return kernelNode(
    NoiseMatte,
    {
      ...{ place: undefined, octaves: 5, boil: v.boil, seed: Math.round(v.seed), invert: 0, contrast, level },
      left: (size.left + v.drift_x) / shrink,
      top: (size.top + v.drift_y) / shrink,
      scale: shrink / Math.max(1e-3, v.cloud),
    },
    { window: boxOfSize(size) },
  )
}

export const clouds = layerKind({
  id: 'clouds',
  label: 'Clouds',
  help: 'Two colours in drifting patches of several sizes, over all that is farther away.',
  sentence: [
    'in {colour} covering {cover} and {other} covering {other_cover}, over all that is farther away than {distance}',
    '{cloud} wide, contrast {contrast}, {much} of the first, drifted {drift_x} {drift_y}, boiled {boil}, seed {seed}',
  ].join('\n'),
  values: {
    colour: colourValues('', { help: 'Linear Rec.709.', first: [0.7, 0.72, 0.75] }),
    cover: share('cover', 'How much the first covers.', 1),
    other: colourValues('other ', { help: 'Linear Rec.709.', first: [0.3, 0.34, 0.4] }),
    other_cover: { ...share('other cover', 'How much the other covers.', 1), first: 0 },
    distance: { ...DISTANCE, first: 10 },
    contrast: value(0, 50, { label: 'contrast', help: 'More for harder patches.', step: 0.02, first: 2.5 }),
    much: { ...share('much', 'How much there is of the first.', 1), first: 0.5 },
    ...CLOUD_VALUES,
  },
  stands: 'at',
  behindNames: true,
  holds: 'nothing',
  plan({ size }, v) {
    const window = boxOfSize(size)
    const plain = (colour: readonly number[], cover: number): Node => {
      const [red, green, blue] = colour.map(part => Math.max(0, part) * cover) as [number, number, number]
      return kernelNode(Wash, { colour: [red, green, blue, cover] }, { window })
    }
    // Level 0 and 1 at the ends where nothing of the other is left, whatever the contrast
    const level = 0.5 + (v.much - 0.5) * (1 + 2 * v.contrast)
    const matte = cloudNode(v, size, { contrast: v.contrast, level })
    const [second, first] = [plain(v.colour, v.cover), plain(v.other, v.other_cover)]
    return flat(kernelNode(Mix, { first, second, matte, share: 1 }, { window }), v.distance, size)
  },
})
