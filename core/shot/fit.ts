// Putting what is brought in where the shot's camera sees it.
import { cornersOf, fitBefore, standingOf, standsWell } from '../match/fit'
import { boundsOf, type Box } from '../scene/bounds'
import type { Scene } from '../scene/scene'
import type { Vector3 } from '../scene/vector'
import { lengthText } from '../text/metres'
import { valueAt, withValue, type Animatable } from '../time/curve'
import type { ShotDocument } from './document'
import { placedScene } from './filePlace'
import { cameraAt } from './scene'

/**
 * Puts the file where the shot's camera sees it, in a size that fits unless its own is plausible; one that stands well
 * as it is stays so. Returns what was done, in words; nothing when nothing was.
 */
export function placeFile(document: ShotDocument, scene: Scene, frame: number): string | undefined {
  const { scene: settings } = document
  const camera = cameraAt(settings.camera, frame)
  const aspect = document.frame.width / document.frame.height
  const there = placedScene(scene, settings.filePlace).objects.filter(object => !object.absent)
  const box = boundsOf(there)
  if (!box || standsWell(standingOf(camera, aspect, cornersOf(box)), there.length === 1)) return undefined
  delete settings.filePlace
  const own = boundsOf(scene.objects.filter(object => !object.absent))!
  if (standsWell(standingOf(camera, aspect, cornersOf(own)), there.length === 1)) return undefined
  const { foot, times, onGround } = fitBefore(camera, aspect, own)
  const middle: Vector3 = [(own.low[0] + own.high[0]) / 2, own.low[1], (own.low[2] + own.high[2]) / 2]
  const round = (value: number): number => Number(value.toFixed(5))
  settings.filePlace = { at: foot.map((value, k) => round(value - middle[k]! * times)) as Vector3, times }
  const where = onGround ? 'on the ground before the camera' : 'before the camera (no ground is in view)'
  const tall = Math.max(...own.high.map((value, k) => value - own.low[k]!))
  return times === 1
    ? `It was out of view: it stands ${where} now.`
    : `It measures ${lengthText(tall)} in its file, too ${times > 1 ? 'small' : 'large'} to be judged from here: it stands ${where}, ${times > 1 ? `${times} times as large` : `at ${Number((times * 100).toPrecision(2))} % of that`}.`
}

/** A thing with its place and its box in the world. */
export interface Placed extends Box {
  name: string
  position: Vector3
}
export const footOf = ({ low, high }: Box): Vector3 => [(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2]
/** The box of several things; things must not be empty. */
export const boxOfAll = (things: readonly Box[]): Box => ({
  low: [0, 1, 2].map(k => Math.min(...things.map(({ low }) => low[k]!))) as Vector3,
  high: [0, 1, 2].map(k => Math.max(...things.map(({ high }) => high[k]!))) as Vector3,
})

/** Puts things that belong together with their common foot on a place, grown about it. The locked stay. */
export function putOn(
  document: ShotDocument,
  things: readonly Placed[],
  place: Vector3,
  times: number,
  frame: number,
): void {
  const foot = footOf(boxOfAll(things))
  for (const { name, position } of things) {
    const settings = (document.scene.objects[name] ??= {})
    if (settings.locked) continue
    const to = position.map((value, k) => Number((place[k]! + (value - foot[k]!) * times).toFixed(4)))
    // An animated place gets a key at this frame
    settings.position = to.map((value, k) => withValue(settings.position?.[k] ?? position[k]!, frame, value)) as [
      Animatable,
      Animatable,
      Animatable,
    ]
    if (times !== 1) {
      const scale = Number((valueAt(settings.scale ?? 1, frame) * times).toPrecision(6))
      settings.scale = withValue(settings.scale ?? 1, frame, scale)
    }
  }
}

/** Puts things that belong together before the camera, where they are seen whole. Returns what was done, in words. */
export function bringIntoView(document: ShotDocument, things: readonly Placed[], frame: number): string {
  const aspect = document.frame.width / document.frame.height
  const { foot, times, onGround } = fitBefore(cameraAt(document.scene.camera, frame), aspect, boxOfAll(things))
  putOn(document, things, foot, times, frame)
  const size = times === 1 ? '' : `, ${times} times its size so that it can be judged`
  return `It stands ${onGround ? 'on the ground before the camera' : 'before the camera: no ground is in view'}${size}.`
}
