// What the hand takes hold of on the picture, of a matte that is told by values.
import type { Vector3 } from '../scene/vector'

export type Numbers = Readonly<Record<string, number>>
/** In pixels of the frame: across, down. */
export type FramePlace = readonly [number, number]
export interface Grip<Place> {
  id: string
  /** Said of it. */
  label: string
  at: Place
}
export interface SceneGrip extends Grip<Vector3> {
  /** It moves along that direction only; without one, on its level. */
  along?: Vector3
}
export interface FrameHandles {
  of: 'frame'
  grips: readonly Grip<FramePlace>[]
  /** What is drawn with them: places in a row. */
  lines: readonly (readonly FramePlace[])[]
  /** The values that change where a grip is brought to a place. */
  moved(grip: string, to: FramePlace): Numbers
}
/** Places are in metres of the scene. */
export interface SceneHandles {
  of: 'scene'
  grips: readonly SceneGrip[]
  lines: readonly (readonly Vector3[])[]
  moved(grip: string, to: Vector3): Numbers
}
export type Handles = FrameHandles | SceneHandles

/** Places round a middle: from it to the end of each of two half axes, as many as make it look round. */
export function ring(place: (cosine: number, sine: number) => FramePlace): FramePlace[]
export function ring(place: (cosine: number, sine: number) => Vector3): Vector3[]
export function ring<P>(place: (cosine: number, sine: number) => P): P[] {
  const corners = 64
  return Array.from({ length: corners + 1 }, (_, i) => {
    const angle = (i / corners) * 2 * Math.PI
    return place(Math.cos(angle), Math.sin(angle))
  })
}
