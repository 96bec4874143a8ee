// What the hand takes hold of on the picture, of a treatment's own values.
import type { FrameHandles, FramePlace } from '../matte/handles'

export interface FrameSize {
  width: number
  height: number
}
/** As those of a matte; where values stand in a row, all of them are given back. */
export interface TreatmentHandles extends Omit<FrameHandles, 'moved'> {
  moved(grip: string, to: FramePlace): Record<string, number | readonly number[]>
}
export type HandlesOf = (values: Readonly<Record<string, unknown>>, frame: FrameSize) => TreatmentHandles | undefined

/** Of the place that frameValues declares. when: it counts only where another value is that. */
export const handlesOfPlace =
  (label: string, when?: { name: string; is: string }): HandlesOf =>
  (values, { width, height }) =>
    when && values[when.name] !== when.is
      ? undefined
      : {
          of: 'frame',
          grips: [{ id: 'middle', label, at: [(values.x as number) * width, (values.y as number) * height] }],
          lines: [],
          moved: (_, [x, y]) => ({ x: x / width, y: y / height }),
        }
