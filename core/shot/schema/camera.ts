// The shot's camera, its lens, and its track.
import { MAXIMUM_FRAMES } from '../clip'
import { anyValue, blob, flag, optional, text, thing, value, whole, type ValueOf } from '../../declare/field'
import { RATE } from './picture'

export const CAMERA = thing(
  {
    focalLength: value(1, 5000, { label: 'focal length', hand: [4, 2000], step: 0.1, digits: 1, unit: 'mm' }),
    sensorWidth: value(0.1, 1000, { label: 'sensor width', hand: [1, 200], step: 0.05, digits: 1, unit: 'mm' }),
    x: anyValue({ label: 'across', hand: [-10000, 10000], unit: 'm' }),
    /** Height above the ground. */
    y: anyValue({ label: 'height', hand: [-1000, 10000], step: 0.005, unit: 'm' }),
    z: anyValue({ label: 'along', hand: [-10000, 10000], unit: 'm' }),
    heading: anyValue({ label: 'heading', hand: [-3600, 3600], step: 0.1, unit: 'deg' }),
    pitch: value(-90, 90, { label: 'pitch', step: 0.05, unit: 'deg' }),
    bank: anyValue({ label: 'bank', hand: [-180, 180], step: 0.02, unit: 'deg' }),
    /** The optical centre off the middle of the frame: the view shifted, in half widths and half heights (right and up). */
    shiftX: optional(value(-4, 4, { label: 'shifted right', step: 0.001, digits: 3, neutral: 0 })),
    shiftY: optional(value(-4, 4, { label: 'shifted up', step: 0.001, digits: 3, neutral: 0 })),
  },
  { title: 'Camera' },
)

/**
 * Radial distortion of the plate's lens: a place r from the middle (in half widths of the frame, undistorted) is seen
 * at r (1 + k1 r² + k2 r⁴). Brown 1971.
 */
export const LENS = thing(
  { k1: value(-2, 2, { label: 'first term' }), k2: value(-2, 2, { label: 'second term' }), on: flag() },
  { title: 'Lens' },
)

/** A camera track: its list of frames and points is a file; the camera's values were made from it. */
export const TRACK = thing({
  blob: blob(),
  name: text(1, 300),
  /** Frame of the shot at which the track's first frame stands. */
  start: whole(-1e6, 1e6),
  count: whole(1, MAXIMUM_FRAMES),
  points: whole(0, 1e6),
  rate: optional(RATE),
})

export type CameraSettings = ValueOf<typeof CAMERA>
export type LensSettings = ValueOf<typeof LENS>
export type TrackUse = ValueOf<typeof TRACK>
