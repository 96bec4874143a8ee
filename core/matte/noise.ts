import { value } from '../declare/field'
import { kernelNode } from '../plan/node'
import { NoiseMatte } from '../../kernels/records'
import { matteKind } from './matte'

export const noise = matteKind({
  id: 'noise',
  label: 'Noise',
  help: 'Drifting patches of several sizes: with contrast and level over time a thing dissolves in them. It stands in the frame.',
  sentence:
    'patches {size} wide, {octaves} sizes, contrast {contrast} at level {level}, drifted {drift_x} {drift_y}, boiled {boil}, seed {seed}',
  values: {
    size: value(1, 10000, {
      label: 'size',
      help: 'Of the largest patches.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 160,
    }),
    octaves: value(1, 8, {
      label: 'sizes',
      help: 'Each next is half as large and half as strong.',
      step: 0.02,
      digits: 1,
      first: 4,
    }),
    contrast: value(0, 50, {
      label: 'contrast',
      help: '1 as it is, more for harder patches, 0 an even grey.',
      step: 0.02,
      first: 2.5,
    }),
    level: value(-2, 3, {
      label: 'level',
      help: 'How much is in: 0 nearly nothing, 0.5 half, 1 nearly all.',
      step: 0.004,
      first: 0.5,
    }),
    drift_x: value(-1e6, 1e6, {
      label: 'drift across',
      help: 'Moved to the right: give it keys.',
      unit: 'px',
      pixels: 'across',
      step: 1,
      digits: 0,
      hand: [-100000, 100000],
      first: 0,
    }),
    drift_y: value(-1e6, 1e6, {
      label: 'drift down',
      help: 'Moved down.',
      unit: 'px',
      pixels: 'down',
      step: 1,
      digits: 0,
      hand: [-100000, 100000],
      first: 0,
    }),
    boil: value(-1e5, 1e5, {
      label: 'boil',
      help: 'A third way through it: patches grow and shrink in their place; 1 is as far as a patch is wide.',
      step: 0.004,
      hand: [-1000, 1000],
      first: 0,
    }),
    seed: value(0, 9999, { label: 'seed', help: 'Another number, other patches.', step: 1, digits: 0, first: 1 }),
  },
  plan: (input, v) =>
    kernelNode(
      NoiseMatte,
      {
        left: input.left + v.drift_x,
        top: input.top + v.drift_y,
        scale: 1 / Math.max(1e-3, v.size),
        octaves: v.octaves,
        contrast: v.contrast,
        level: v.level,
        boil: v.boil,
        seed: Math.round(v.seed),
        invert: input.invert ? 1 : 0,
      },
      { window: input.area },
    ),
})
