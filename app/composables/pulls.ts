// Corners of a thing that are pulled to where they belong in the plate.
import type { Ref } from 'vue'
import { heightOver } from '../../core/match/ground'
import { onLevel, placeAt, project } from '../../core/match/project'
import { add, inverseOf, subtract, transformPoint, type Vector3 } from '../../core/scene/vector'
import type { Camera } from '../../core/scene/scene'
import { engine } from './engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

interface Pulling {
  thing: Ref<SceneInfo['objects'][number] | null>
  camera: Ref<Camera>
  aspect: Ref<number>
  place: (event: PointerEvent) => { u: number; v: number }
}
/** What stands no higher than this over a thing's lowest point stands on the ground with it, metres. */
const AT_FOOT = 0.002

export function usePulls({ thing, camera, aspect, place }: Pulling) {
  const shot = useShot()
  const view = useView()
  const own = shallowRef<{ of: string; corners: Vector3[] } | null>(null)
  watch(
    () =>
      [
        view.sceneTool,
        thing.value?.name,
        shot.frame,
        // What it is without being pulled
        shot.document?.scene.file?.blob,
        JSON.stringify(shot.document?.scene.added),
      ] as const,
    async ([tool, name]) => {
      if (tool !== 'pull' || !name || !shot.document) {
        own.value = null
        return
      }
      try {
        const corners = await engine.corners(shot.document, shot.frame, name)
        if (view.sceneTool !== 'pull' || thing.value?.name !== name) return
        own.value = corners && { of: name, corners }
        if (corners) return
        shot.message = `${name} has too many points to pull them one by one.`
        view.sceneTool = null
      } catch (error) {
        shot.message = (error as Error).message
      }
    },
    { immediate: true },
  )
  const pulls = computed(() => shot.document!.scene.objects[thing.value?.name ?? '']?.pulled ?? [])
  /** In the world, as they are pulled. */
  const places = computed((): Vector3[] => {
    const object = thing.value
    if (!object || own.value?.of !== object.name) return []
    const by = new Map(pulls.value.map(([corner, x, y, z]) => [corner!, [x!, y!, z!] as Vector3]))
    return own.value.corners.map((at, corner) => transformPoint(object.matrix, add(at, by.get(corner) ?? [0, 0, 0])))
  })
  const grips = computed(() =>
    places.value.flatMap((at, corner) => {
      const { u, v, metres } = project(camera.value, aspect.value, at)
      return metres > 0 ? [{ corner, u, v }] : []
    }),
  )

  let held: { corner: number; from: Vector3; to: Vector3; low: boolean } | null = null
  function grabCorner(event: PointerEvent, corner: number) {
    if (event.button !== 0 || thing.value?.name === undefined) return
    event.stopPropagation()
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    const from = places.value[corner]!
    const lowest = Math.min(...places.value.map(([, y]) => y))
    held = { corner, from, to: from, low: from[1] - lowest < AT_FOOT }
    view.dragging = true
  }
  /** Along the ground where it stands on that, else level with the picture; with Shift straight up or down. */
  function placeOf({ from, low }: NonNullable<typeof held>, event: PointerEvent): Vector3 | undefined {
    const { u, v } = place(event)
    if (event.shiftKey) {
      const ground: Vector3 = [from[0], 0, from[2]]
      return [from[0], heightOver(camera.value, aspect.value, ground, { u, v }), from[2]]
    }
    if (low) return onLevel(camera.value, aspect.value, u, v, from[1])
    return placeAt(camera.value, aspect.value, u, v, project(camera.value, aspect.value, from).metres)
  }
  function dragCorner(event: PointerEvent, last = false) {
    const object = thing.value
    if (!held || !object || own.value?.of !== object.name) return
    event.stopPropagation()
    const { corner } = held
    // Over the horizon there is no ground: it stays where it was last
    const to = (held.to = placeOf(held, event) ?? held.to)
    if (last) {
      held = null
      view.dragging = false
    }
    const by = subtract(transformPoint(inverseOf(object.matrix), to), own.value.corners[corner]!)
    shot.change(
      `Pull a corner of ${object.name}`,
      document => {
        const settings = (document.scene.objects[object.name] ??= {})
        const row = [corner, ...by.map(value => Math.round(value * 1e5) / 1e5)]
        settings.pulled = [...(settings.pulled ?? []).filter(([other]) => other !== corner), row]
      },
      !last,
    )
  }
  return { grips, grabCorner, dragCorner }
}
