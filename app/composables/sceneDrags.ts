// What is dragged on the picture of the scene as a whole: the environment by the shadow of a pole, and a picture laid on a
// thing.
import type { Ref } from 'vue'
import { onLevel, project, segment } from '../../core/match/project'
import type { Camera } from '../../core/scene/scene'
import type { Vector3 } from '../../core/scene/vector'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'
import { engine } from './engine'

interface Dragged {
  info: () => SceneInfo | null
  /** Whether a tool is at work. */
  active: Ref<boolean>
  /** The place of the frame under a pointer, 0..1. */
  place: (event: PointerEvent) => { u: number; v: number }
  camera: Ref<Camera>
  aspect: Ref<number>
  pointer: Ref<{ u: number; v: number } | null>
}

export function useSceneDrags({ info, active, place, camera, aspect, pointer }: Dragged) {
  const shot = useShot()
  const view = useView()
  const poleFoot = ref<Vector3 | null>(null)
  let grab:
    | { kind: 'environment'; foot: Vector3; start: number; turn: Animatable }
    | { kind: 'print'; u: number; v: number; shiftX: number; shiftY: number }
    | null = null
  const bearing = (from: Vector3, to: Vector3): number =>
    (Math.atan2(to[0] - from[0], -(to[2] - from[2])) * 180) / Math.PI
  const mainLight = ref<{ azimuth: number; elevation: number } | null>(null)
  watch(
    () => view.sceneTool,
    async tool => {
      poleFoot.value = null
      if (tool === 'environment') {
        mainLight.value = await engine.mainLight(shot.document!).catch(() => null)
      }
    },
  )
  const poleShadow = computed(() => {
    const foot = poleFoot.value
    const environment = shot.document!.scene.environment
    if (!foot || !environment || !mainLight.value) return null
    const azimuth = ((mainLight.value.azimuth + valueAt(environment.turn, shot.frame)) * Math.PI) / 180
    const long = view.poleMetres / Math.tan((Math.max(8, mainLight.value.elevation) * Math.PI) / 180)
    const tip: Vector3 = [foot[0] - Math.sin(azimuth) * long, 0, foot[2] + Math.cos(azimuth) * long]
    return {
      pole: segment(camera.value, aspect.value, foot, [foot[0], view.poleMetres, foot[2]]),
      shadow: segment(camera.value, aspect.value, foot, tip),
      tip,
    }
  })

  function down(event: PointerEvent) {
    if (event.button !== 0 || !active.value || event.altKey) return
    event.stopPropagation()
    const at = place(event)
    const tool = view.sceneTool!
    if (tool === 'environment') {
      const foot = onLevel(camera.value, aspect.value, at.u, at.v, 0)
      const environment = shot.document!.scene.environment
      if (!foot || !environment) {
        shot.message = 'Press on the ground, below the horizon.'
        return
      }
      ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
      if (
        !poleFoot.value ||
        Math.hypot(foot[0] - (poleShadow.value?.tip[0] ?? 1e9), foot[2] - (poleShadow.value?.tip[2] ?? 1e9)) >
          Math.hypot(foot[0] - poleFoot.value[0], foot[2] - poleFoot.value[2])
      )
        poleFoot.value = foot
      grab = { kind: 'environment', foot: poleFoot.value, start: NaN, turn: environment.turn }
      view.dragging = true
    } else if (tool === 'print') {
      const print = shot.document!.scene.prints?.[view.selectedPrint]
      if (!print) return
      ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
      grab = {
        kind: 'print',
        ...at,
        shiftX: valueAt(print.shiftX, shot.frame),
        shiftY: valueAt(print.shiftY, shot.frame),
      }
      view.dragging = true
    }
  }
  function move(event: PointerEvent, last = false) {
    pointer.value = place(event)
    if (!grab) return
    event.stopPropagation()
    const at = pointer.value
    const held = grab
    if (last) {
      grab = null
      view.dragging = false
    }
    if (held.kind === 'environment') {
      const to = onLevel(camera.value, aspect.value, at.u, at.v, 0)
      if (!to || Math.hypot(to[0] - held.foot[0], to[2] - held.foot[2]) < 0.05 || !mainLight.value) return
      // The shadow points away from the light
      const turn = bearing(held.foot, to) + 180 - mainLight.value.azimuth
      const wound = turn - Math.round((turn - valueAt(held.turn, shot.frame)) / 360) * 360
      shot.change(
        'Turn the environment',
        document => {
          document.scene.environment!.turn = withValue(held.turn, shot.frame, Math.round(wound * 10) / 10)
        },
        !last,
      )
    } else {
      const print = shot.document!.scene.prints?.[view.selectedPrint]
      const object = info()?.objects.find(entry => entry.name === print?.on)
      if (!print || !object) return
      // Metres at the thing's distance into widths of the picture
      const middle: Vector3 = [0, 1, 2].map(k => (object.low[k]! + object.high[k]!) / 2) as Vector3
      const { metres } = project(camera.value, aspect.value, middle)
      const tangent = camera.value.sensorWidth / 2 / camera.value.focalLength
      const grown = Math.hypot(object.matrix[0]!, object.matrix[1]!, object.matrix[2]!)
      const width =
        print.from === 'front'
          ? valueAt(print.size, shot.frame) * grown
          : valueAt(print.size, shot.frame) * 2 * tangent * metres
      let dx = ((at.u - held.u) * 2 * tangent * metres) / width
      let dy = (((-(at.v - held.v) * 2 * tangent) / aspect.value) * metres) / width
      if (print.from === 'front') {
        // Seen from the side or behind, right is where the picture's right is
        const m = object.matrix
        const c = camera.value.matrix
        const along = (m[0]! * c[0]! + m[1]! * c[1]! + m[2]! * c[2]!) / grown
        dx = Math.abs(along) > 0.2 ? dx / along : dx
        dy = dy / Math.max(0.3, (m[4]! * c[4]! + m[5]! * c[5]! + m[6]! * c[6]!) / grown)
      }
      const turned = (-valueAt(print.turn, shot.frame) * Math.PI) / 180
      const cos = Math.cos(turned)
      const sin = Math.sin(turned)
      const x = dx * cos - dy * sin
      const y = dx * sin + dy * cos
      shot.change(
        'Shift a picture',
        document => {
          const found = document.scene.prints![print.id]!
          found.shiftX = withValue(print.shiftX, shot.frame, Math.round((held.shiftX + x) * 1e4) / 1e4)
          found.shiftY = withValue(print.shiftY, shot.frame, Math.round((held.shiftY + y) * 1e4) / 1e4)
        },
        !last,
      )
    }
  }
  return { poleShadow, down, move }
}
