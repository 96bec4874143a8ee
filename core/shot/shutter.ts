// What is there while the shutter of a shot's render is open.
import { valuesAt } from '../declare/values'
import { SHUTTER_OF_RENDER } from '../lens/values'
import type { ShutterSaid, World } from '../render/shutter'
import { cardsStamp } from './cards'
import { isCurve, valueAt } from '../time/curve'
import type { ShotDocument } from './document'
import { widened } from './lens'
import { cameraAt, sceneAt, type SceneFiles } from './scene'
import type { ShutterOfRender } from './schema/passes'

export const shutterAt = ({ sharpData: _sharp, ...settings }: ShutterOfRender, frame: number): ShutterSaid =>
  valuesAt(SHUTTER_OF_RENDER, settings, frame, valueAt)

export function worldOf(document: ShotDocument, files: SceneFiles): World {
  const { camera: _camera, ...scene } = document.scene
  const changes = (value: unknown): boolean =>
    typeof value === 'object' && value !== null && (isCurve(value) || Object.values(value).some(changes))
  return {
    scene: frame => sceneAt(document, files, frame),
    camera: frame => widened(cameraAt(document.scene.camera, frame), document),
    moves: !!files.scene?.at || changes(scene) || changes(cardsStamp(document)),
    first: document.frames.first,
  }
}
