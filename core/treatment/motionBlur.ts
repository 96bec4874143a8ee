import { value } from '../declare/field'
import { finite } from '../plan/finite'
import { motionBlurred } from '../plan/motionBlur'
import { treatment } from './treatment'

/** Degrees of a shutter that is open from one frame to the next. */
const WHOLE = 360

export const motionBlur = treatment({
  id: 'motion_blur',
  label: 'Motion blur',
  help: 'Smears what moves as a camera would whose shutter stays open for a while: by the passes of motion, and by the keys of a layer that is moved.',
  group: 'Lens',
  sentence: 'Shutter open for {shutter} from {from}, ways up to {most}',
  beside: true,
  values: {
    shutter: value(0, 720, {
      label: 'shutter',
      help: 'How long it is open: 360° from one frame to the next, 180° half of that.',
      unit: '°',
      step: 0.5,
      digits: 1,
      neutral: 0,
      first: 180,
    }),
    from: value(-720, 720, {
      label: 'opens',
      help: 'When it opens: 0° at the frame, less before it. Half of what it is open lays the frame in its middle.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: -90,
    }),
    most: value(1, 400, {
      label: 'longest way',
      help: 'No pixel goes farther than this from where it is, in pixels of the full frame.',
      unit: 'px',
      pixels: 'size',
      step: 0.5,
      digits: 0,
      first: 100,
    }),
  },
  neutral: ['shutter'],
  reads: ['depth', 'motion'],
  needs: () => ['motion_forward', 'motion_back', 'depth'],
  shown: { shutter: 720, from: -360 },
  plan(input, { shutter, from, most }) {
    const motion = input.motion?.()
    if (!motion) return finite(input.colour)
    return motionBlurred(input, motion, input, { open: from / WHOLE, close: (from + shutter) / WHOLE, most })
  },
})
