// What lights the scene of a shot, for what needs to know it without rendering.
import type { Light } from '../scene/scene'
import { surroundingsOf } from '../scene/surroundings'
import type { ShotDocument } from '../shot/document'
import { inOrder } from '../shot/rows'
import { environmentGain, loadSceneFiles, sceneAt, sceneFilesKey } from '../shot/scene'
import type { Surroundings } from '../scene/surroundings'
import type { Files } from './files'

/** At a frame. Of the scene's files only those that say so are read. Throws StillPacked. */
export function lightsOf(files: Files, document: ShotDocument, frame: number): readonly Light[] {
  const { scene } = document
  const isAsked =
    (scene.fileLights && scene.file) || inOrder(scene.lights).some(({ on, aim }) => on && aim !== undefined)
  const asked: ShotDocument = {
    ...document,
    scene: {
      ...scene,
      file: isAsked ? scene.file : null,
      environment: scene.environment?.sunOut ? scene.environment : null,
      prints: {},
    },
  }
  const made = files.made('lights', sceneFilesKey(asked), load => loadSceneFiles(asked, load))
  return sceneAt(asked, made, frame).lights
}

/** Its environment at a frame, as smooth light from all round. Throws StillPacked. */
export function surroundingLight(files: Files, document: ShotDocument, frame: number): Surroundings | undefined {
  const { scene } = document
  if (!scene.environment) return undefined
  const asked: ShotDocument = { ...document, scene: { ...scene, file: null, prints: {}, lights: {} } }
  const light = files.made('surroundings', sceneFilesKey(asked), async load => {
    const { environment, sun } = await loadSceneFiles(asked, load)
    const { pixels, width, height } = environment!
    return surroundingsOf(sun?.without ?? pixels, width, height)
  })
  const { turn, gain } = environmentGain(scene.environment, frame)
  return { light, turn, gain }
}
