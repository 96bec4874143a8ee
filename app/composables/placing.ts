// What a click on the picture of the scene puts somewhere: the picked thing on what is seen there, the panorama's strength
// by a grey of the plate.
import type { Ref } from 'vue'
import { onLevel, placeAt, rayThrough } from '../../core/match/project'
import type { Camera } from '../../core/scene/scene'
import type { Vector3 } from '../../core/scene/vector'
import { putOn } from '../../core/shot/fit'
import { groupOf } from '../../core/shot/objects'
import { valueAt, withValue } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { PreviewPicture, SceneInfo } from '~/workers/messages'
import { engine } from './engine'

interface Placing {
  info: () => SceneInfo | null
  /** What the preview knows to stand at each of its pixels. */
  preview: () => Pick<PreviewPicture, 'width' | 'height' | 'depth' | 'ids' | 'names'> | null
  camera: Ref<Camera>
  aspect: Ref<number>
}

export function usePlacing({ info, preview: seenBy, camera, aspect }: Placing) {
  const shot = useShot()
  const view = useView()
  /** Sets the picked thing, with its group, on what is seen at a place of the picture, or on the ground there. */
  function putThing({ u, v }: { u: number; v: number }) {
    const name = view.picked[0]
    if (!name) throw new Error('Choose the thing that is put there first.')
    const group = groupOf(shot.document!, name)
    const preview = seenBy()
    const pixelAt = preview ? Math.floor(v * preview.height) * preview.width + Math.floor(u * preview.width) : 0
    const under = preview?.ids[pixelAt] ? preview.names[preview.ids[pixelAt]! - 1]! : ''
    const metres = preview?.depth[pixelAt] ?? Infinity
    const onThing = under && !group.includes(under) && Number.isFinite(metres)
    const place = onThing
      ? placeAt(camera.value, aspect.value, u, v, metres)
      : onLevel(camera.value, aspect.value, u, v, 0)
    if (!place) throw new Error('There is no ground there: click below the horizon, or on a thing.')
    const things = (info()?.objects ?? []).filter(entry => group.includes(entry.name))
    shot.change(`Put ${name}`, document => {
      putOn(document, things, place, 1, shot.frame)
    })
    view.sceneTool = null
  }

  /** Sets the panorama's strength so that a grey of the scene would be as bright as the one clicked in the plate. */
  async function setByGrey({ u, v }: { u: number; v: number }) {
    const [x, , z] = rayThrough(camera.value, aspect.value, u, v)
    const level = Math.hypot(x, z)
    const normal: Vector3 = view.greyUpright && level > 1e-6 ? [-x / level, 0, -z / level] : [0, 1, 0]
    try {
      const by = await engine.greyCard(shot.document!, shot.frame, { u, v, reflects: view.greyPercent / 100, normal })
      shot.change('Brightness of the environment', document => {
        const environment = document.scene.environment!
        const to = Math.min(20, Math.max(-20, valueAt(environment.stops, shot.frame) + by))
        environment.stops = withValue(environment.stops, shot.frame, Math.round(to * 1000) / 1000)
      })
      shot.message = `The panorama is ${Math.abs(by).toFixed(2)} stops ${by < 0 ? 'darker' : 'brighter'} now: what reflects ${view.greyPercent} % is as bright as there.`
      view.sceneTool = null
    } catch (error) {
      shot.message = (error as Error).message
    }
  }
  return { putThing, setByGrey }
}
