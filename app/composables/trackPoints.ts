// The points of the shot's track as the camera sees them, and what is set on one.
import type { Ref } from 'vue'
import { project } from '../../core/match/project'
import type { Camera } from '../../core/scene/scene'
import type { Vector3 } from '../../core/scene/vector'
import { putOn } from '../../core/shot/fit'
import { isSetOnPoint, setLayerOnPoint } from '../../core/shot/track'
import type { CameraTrack } from '../../core/track/track'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'
import { engine } from './engine'

interface Tracked {
  /** The picked thing. */
  thing: Ref<SceneInfo['objects'][number] | null>
  camera: Ref<Camera>
  aspect: Ref<number>
}

export function useTrackPoints({ thing, camera, aspect }: Tracked) {
  const shot = useShot()
  const view = useView()
  const track = shallowRef<CameraTrack | null>(null)
  watch(
    () => shot.document?.scene.track?.blob,
    async blob => {
      track.value = blob ? await engine.track(shot.document!, blob).catch(() => null) : null
    },
    { immediate: true },
  )
  const trackPoints = computed(() =>
    view.trackPoints && track.value
      ? track.value.points
          .map(point => ({ ...point, ...project(camera.value, aspect.value, point.place) }))
          .filter(
            point => point.metres > 0.05 && point.u > -0.05 && point.u < 1.05 && point.v > -0.05 && point.v < 1.05,
          )
      : [],
  )
  function setOnPoint(point: { name: string; place: Vector3; metres: number }) {
    const layer = shot.document!.build.layers[view.selectedLayer]
    if (thing.value) {
      const own = thing.value
      shot.change(`${own.name} on ${point.name}`, document => putOn(document, [own], point.place, 1, shot.frame))
    } else if (isSetOnPoint(layer)) {
      try {
        shot.change(`${layer.name} on ${point.name}`, document => {
          const found = document.build.layers[layer.id]
          if (isSetOnPoint(found)) setLayerOnPoint(document, found, point.place, shot.frame)
        })
      } catch (error) {
        shot.message = (error as Error).message
        return
      }
    } else {
      shot.message =
        'Choose a thing (under Things) or a picture, figure or element (in Build) first: it is then set on the point.'
      return
    }
    view.sceneTool = null
  }
  return { trackPoints, setOnPoint }
}
