import { value } from '../declare/field'
import { openBetween, SHUTTER_VALUES } from '../lens/values'
import { finite } from '../plan/finite'
import { motionBlurred } from '../plan/motionBlur'
import { treatment } from './treatment'

export const motionBlur = treatment({
  id: 'motion_blur',
  label: 'Motion blur',
  help: 'Smears what moves as a camera would whose shutter stays open for a while: by the passes of motion, and by the keys of a layer that is moved.',
  group: 'Lens',
  sentence: 'Shutter open for {shutter} from {from}, ways up to {most}',
  beside: true,
  values: {
    ...SHUTTER_VALUES,
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
  without: 'by the keys of layers only',
  shown: { shutter: 720, from: -360 },
  plan(input, { most, ...shutter }) {
    const motion = input.motion?.()
    if (!motion) return finite(input.colour)
    return motionBlurred(input, motion, input, { ...openBetween(shutter), most })
  },
})
