import { choice, value } from '../declare/field'
import { kernelNode } from '../plan/node'
import { NoiseMatte } from '../../kernels/records'
import { matteKind } from './matte'

/** The pass that tells where in it a pixel is. */
const placesOf = (fixed: unknown): string | undefined =>
  fixed === 'the world' ? 'position' : fixed === 'things' ? 'rest' : undefined

export const noise = matteKind({
  id: 'noise',
  group: 'Drawn',
  label: 'Noise',
  help: 'Drifting patches of several sizes: with contrast and level over time a thing dissolves in them. It stands in the frame; in the world (by the pass place, or by depth and the camera): then it lies on things as they are seen from anywhere; or it goes along with things that move (of the pass place on the thing).',
  sentence:
    'patches in {fixed}, {size} or {metres} wide, {octaves} sizes, contrast {contrast} at level {level}, drifted {drift_x} {drift_y}, boiled {boil}, seed {seed}',
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
    fixed: choice(['the frame', 'the world', 'things'], {
      label: 'fixed to',
      help: 'The frame, in pixels; the world, in metres; or things as they stand on the shot’s first frame, in metres: it stays on them where they go.',
      neutral: 'the frame',
    }),
    metres: value(0.001, 1e5, {
      label: 'size in the world',
      help: 'Of the largest patches where they stand in the world or on things.',
      unit: 'm',
      step: 0.01,
      hand: [0.001, 10000],
      first: 1,
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
    level: value(-30, 31, {
      label: 'level',
      help: 'How much is in: 0.5 half of it; nearly nothing or all so many times farther from that as the contrast says: -0.1 and 1.1 at contrast 1, -1 and 2 at 2.5.',
      step: 0.004,
      hand: [-4, 5],
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
  reads: ['passes'],
  needs: ({ fixed }) => placesOf(fixed),
  plan: (input, v) => {
    const own = {
      octaves: v.octaves,
      contrast: v.contrast,
      level: v.level,
      boil: v.boil,
      seed: Math.round(v.seed),
      invert: input.invert ? 1 : 0,
    }
    const places = placesOf(v.fixed)
    if (!places)
      return kernelNode(
        NoiseMatte,
        {
          ...own,
          place: undefined,
          left: input.left + v.drift_x,
          top: input.top + v.drift_y,
          scale: 1 / Math.max(1e-3, v.size),
        },
        { window: input.area },
      )
    const place = input.pass(places)
    // Drifted by as much of a patch as its pixels are of one in the frame
    const [left, top] = [v.drift_x / Math.max(1e-3, v.size), -v.drift_y / Math.max(1e-3, v.size)]
    return place && kernelNode(NoiseMatte, { ...own, place, left, top, scale: 1 / v.metres }, { window: place.window })
  },
})
