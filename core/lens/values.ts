// How a lens and its shutter are set, declared once: for what is taken out of focus, and for a render that is taken through one.
import { value, whole } from '../declare/field'

/** Focus, f-number and the opening (aperture.ts). */
export const LENS_VALUES = {
  distance: value(0.01, 1e6, {
    label: 'in focus at',
    help: 'Metres along the view to what is sharp.',
    unit: 'm',
    step: 0.02,
    hand: [0.05, 10000],
    first: 8,
  }),
  fNumber: value(0.1, 128, {
    label: 'f-number',
    help: 'Focal length over the opening of the lens: less of it, more out of focus.',
    step: 0.05,
    digits: 1,
    first: 2.8,
  }),
  blades: whole(0, 16, {
    label: 'blades',
    help: 'Sides of the opening; below 3 it is round. They give points of light their shape.',
    first: 7,
  }),
  turn: value(-180, 180, {
    label: 'turned',
    help: 'The opening turned to the left.',
    unit: 'deg',
    step: 0.5,
    first: 0,
  }),
  squeeze: value(0.5, 2, {
    label: 'taller than wide',
    help: 'How many times taller than wide points of light are; 1 as wide as tall.',
    step: 0.01,
    first: 1,
  }),
  rim: value(-1, 1, {
    label: 'rim',
    help: 'How much brighter the border of the opening is than its middle.',
    step: 0.01,
    first: 0,
  }),
  catsEye: value(0, 1, {
    label: 'cat’s eye',
    help: 'How much of the opening the barrel hides toward the corners of the picture.',
    step: 0.01,
    first: 0,
  }),
}

/** When a shutter is open. */
export const SHUTTER_VALUES = {
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
}
/** Of a render: how many moments it is made of, too. */
export const SHUTTER_OF_RENDER = {
  ...SHUTTER_VALUES,
  moments: whole(2, 256, {
    label: 'moments',
    help: 'At how many moments things are looked at, where more than the camera moves: each takes the memory of the scene. At most as many count as there are samples.',
    first: 16,
  }),
}
/** Frames from the frame between which it is open. */
export const openBetween = ({ shutter, from }: { shutter: number; from: number }): { open: number; close: number } => ({
  open: from / WHOLE,
  close: (from + shutter) / WHOLE,
})
/** Degrees of a shutter that is open from one frame to the next. */
const WHOLE = 360
