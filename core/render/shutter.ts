// What a render sees while its shutter is open: the scene and the camera at several moments.
import type { ValuesAt } from '../declare/values'
import { OutOfMemory, type Kernels } from '../engine/memory'
import { BadInput } from '../formats/errors'
import { openBetween, type SHUTTER_OF_RENDER } from '../lens/values'
import type { Camera, Scene } from '../scene/scene'
import { compileScene, type CompiledScene } from './compile'
import type { OtherFrames } from './geometry'
import { anyNeeds } from './passes'
import type { Moment, RenderSettings } from './render'

export type ShutterSaid = ValuesAt<typeof SHUTTER_OF_RENDER>

/** What is there at a time, in frames. */
export interface World {
  scene: (frame: number) => Scene
  camera: (frame: number) => Camera
  /** Whether anything but the camera may be elsewhere at another time. */
  moves: boolean
  /** Of which places on things are. */
  first: number
}

/** What a scene is compiled with besides, for such passes: where its things are a frame ago and on, and at first. */
export const othersAt = ({ scene, first }: World, passes: readonly string[], frame: number): OtherFrames => ({
  ...(anyNeeds(passes, 'motion') ? { previous: scene(frame - 1), next: scene(frame + 1) } : {}),
  ...(anyNeeds(passes, 'rest') ? { first: scene(first) } : {}),
})
/** Cameras of the same, where motion is asked for. */
export const camerasAt = ({ camera }: World, passes: readonly string[], frame: number): RenderSettings['moving'] =>
  anyNeeds(passes, 'motion') ? { previous: camera(frame - 1), next: camera(frame + 1) } : undefined

/** The middles of so many moments of equal length, in frames. */
export function momentsAt({ moments, ...shutter }: ShutterSaid, frame: number): number[] {
  const { open, close } = openBetween(shutter)
  return Array.from({ length: moments }, (_, i) => frame + open + ((close - open) * (i + 0.5)) / moments)
}

/**
 * The moments of a shutter. still: the scene at the frame, which serves all of them where only the camera moves. passes:
 * what is made of them. Throws BadInput where they do not fit into memory.
 */
export function openShutter(
  kernels: Kernels,
  world: World,
  {
    shutter,
    frame,
    still,
    passes,
  }: { shutter: ShutterSaid; frame: number; still: CompiledScene; passes: readonly string[] },
): { moments: Moment[]; dispose: () => void } {
  const times = momentsAt(shutter, frame)
  const made: CompiledScene[] = []
  const dispose = (): void => made.splice(0).forEach(one => one.dispose())
  const seen = (time: number, scene: CompiledScene): Moment => ({
    scene,
    camera: world.camera(time),
    moving: camerasAt(world, passes, time),
  })
  if (!world.moves) return { moments: times.map(time => seen(time, still)), dispose }
  try {
    const moments = times.map(time => {
      const one = compileScene(kernels, world.scene(time), othersAt(world, passes, time))
      made.push(one)
      return seen(time, one)
    })
    return { moments, dispose }
  } catch (error) {
    const { length } = made
    dispose()
    if (!(error instanceof OutOfMemory)) throw error
    throw new BadInput(
      `The scene does not fit into memory at ${times.length} moments of the shutter; at ${length} it does. Say fewer.`,
    )
  }
}
