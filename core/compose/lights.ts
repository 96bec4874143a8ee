// What lights the scene of a shot, for what needs to know it without rendering.
import type { Light } from '../scene/scene'
import { emittersOf } from '../scene/emitters'
import { surroundingsOf } from '../scene/surroundings'
import type { ShotDocument } from '../shot/document'
import { environmentGain, loadSceneFiles, sceneAt, sceneFilesKey } from '../shot/scene'
import type { Surroundings } from '../scene/surroundings'
import type { Files } from './files'

/** What lights the scene of a shot: its lamps and suns; objects that shine. */
interface Lit {
  lights: readonly Light[]
  emitters: readonly Light[]
}

/** At a frame. Throws StillPacked. */
export function litBy(files: Files, document: ShotDocument, frame: number): Lit {
  const { scene } = document
  const asked: ShotDocument = {
    ...document,
    scene: { ...scene, environment: scene.environment?.sunOut ? scene.environment : null, prints: {} },
  }
  const made = files.made('lights', sceneFilesKey(asked), load => loadSceneFiles(asked, load, true))
  // Where nothing of the scene has changed that light hangs on it is as it was
  const key = JSON.stringify([frame, { ...asked.scene, camera: null, track: null }])
  const before = known.get(made)
  if (before?.key === key) return before.lit
  const at = sceneAt(asked, made, frame)
  const lit = { lights: at.lights, emitters: emittersOf(at) }
  known.set(made, { key, lit })
  return lit
}
/** Of the files of a scene what was last worked out. */
const known = new WeakMap<object, { key: string; lit: Lit }>()

/** Lamps and suns at a frame. Throws StillPacked. */
export const lightsOf = (files: Files, document: ShotDocument, frame: number): readonly Light[] =>
  litBy(files, document, frame).lights

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
