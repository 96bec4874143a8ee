// Pins of a thing: corners of it that are held to places of the plate.
import type { Ref } from 'vue'
import { pinObject } from '../../core/match/pin'
import { project } from '../../core/match/project'
import { degreesFromRotation, transformPoint } from '../../core/scene/vector'
import type { Camera } from '../../core/scene/scene'
import type { ObjectSettings } from '../../core/shot/document'
import { inOrder } from '../../core/shot/rows'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

interface Pinning {
  thing: Ref<SceneInfo['objects'][number] | null>
  camera: Ref<Camera>
  aspect: Ref<number>
  frame: Ref<{ width: number; height: number }>
  /** The place under a pointer, in pixels of the frame. */
  pixelOf: (event: PointerEvent) => [number, number]
}

export function usePins({ thing, camera, aspect, frame, pixelOf }: Pinning) {
  const shot = useShot()
  const view = useView()
  const pins = computed(() => inOrder(thing.value ? shot.document!.scene.objects[thing.value.name]?.pins : undefined))
  const pinErrors = computed(() =>
    pins.value.map(pin => {
      const p = project(camera.value, aspect.value, transformPoint(thing.value!.matrix, pin.local))
      return Math.hypot(p.u * frame.value.width - pin.pixel[0], p.v * frame.value.height - pin.pixel[1])
    }),
  )
  function solvePins(live: boolean, mutate: (settings: ObjectSettings) => void) {
    const object = thing.value
    if (!object) return
    shot.change(
      `Pin ${object.name}`,
      document => {
        const own = (document.scene.objects[object.name] ??= {})
        mutate(own)
        const list = inOrder(own.pins)
        if (!list.length) return
        const found = pinObject(
          camera.value,
          aspect.value,
          object.matrix,
          list.map(pin => ({
            local: pin.local,
            u: pin.pixel[0] / frame.value.width,
            v: pin.pixel[1] / frame.value.height,
          })),
          { turning: view.pinTurn, scaling: view.pinScale },
        )
        const { heading, tilt, bank } = degreesFromRotation(
          found.matrix.map((value, i) =>
            i < 12 ? value / Math.max(1e-9, Math.hypot(...found.matrix.slice(i - (i % 4), i - (i % 4) + 3))) : value,
          ),
        )
        const at = shot.frame
        const round = (value: number, digits: number): number => Number(value.toFixed(digits))
        const keyed = (before: Animatable | undefined, to: number): Animatable => withValue(before ?? to, at, to)
        own.position = ([0, 1, 2] as const).map(k => keyed(own.position?.[k], round(found.matrix[12 + k]!, 4))) as [
          Animatable,
          Animatable,
          Animatable,
        ]
        if (view.pinTurn && list.length > 1)
          own.rotation = [heading, tilt, bank].map((value, k) => keyed(own.rotation?.[k], round(value, 3))) as [
            Animatable,
            Animatable,
            Animatable,
          ]
        if (view.pinScale && list.length > 1)
          own.scale = keyed(own.scale, round(valueAt(own.scale ?? 1, at) * found.scale, 5))
      },
      live,
    )
  }
  let heldPin = ''
  function grabPin(event: PointerEvent, id: string) {
    if (event.button !== 0) return
    event.stopPropagation()
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    heldPin = id
    view.dragging = true
  }
  function dragPin(event: PointerEvent, last = false) {
    if (!heldPin) return
    event.stopPropagation()
    const id = heldPin
    const to = pixelOf(event)
    if (last) {
      heldPin = ''
      view.dragging = false
    }
    solvePins(!last, own => {
      const pin = own.pins?.[id]
      if (pin) pin.pixel = to
    })
  }
  return { pins, pinErrors, solvePins, grabPin, dragPin }
}
