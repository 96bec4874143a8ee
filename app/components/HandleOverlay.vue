<script setup lang="ts">
// Handles of what is told by values: of mattes, ends of gradients in the frame, sides of boxes and balls in the scene; of
// treatments, places, corners, points of a mesh.
import type { EntryValue } from '../../core/declare/field'
import type { EntryFields } from '../../core/declare/values'
import { treatmentOf } from '../../core/treatment/registry'
import type { TreatmentHandles } from '../../core/treatment/handles'
import { valuesAt } from '../../core/declare/values'
import { onAxis, onLevel, project, segment } from '../../core/match/project'
import type { Handles } from '../../core/matte/handles'
import { layerKindOf } from '../../core/layer/registry'
import { bend } from '../../core/match/lens'
import type { Layer, PictureReference } from '../../core/shot/document'
import { lensOf, straightPlace } from '../../core/shot/lens'
import { perSecond } from '../../core/time/rate'
import { matteKindOf } from '../../core/matte/registry'
import { cameraAt } from '../../core/shot/scene'
import { recipeOf, termIn } from '../../core/shot/slip'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import type { Vector3 } from '../../core/scene/vector'
import { isTaken } from '~/composables/keys'
import { ownPlaces } from '~/composables/ownPlaces'
import { useOverPicture, type Xy } from '~/composables/overPicture'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ zoom: number }>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const { frame, unit, placeAt: at } = useOverPicture(svg, () => props.zoom)
const aspect = computed(() => frame.value.width / frame.value.height)
const camera = computed(() => cameraAt(shot.document!.scene.camera, shot.frame))

interface Standing {
  term: string
  label: string
  handles: Handles | TreatmentHandles
  lines: string[]
  grips: { id: string; label: string; at: Xy; index: number }[]
}
/** At the station Build what is worked on is straight, and seen as the lens of the shot bends it. */
const lens = computed(() => (view.station === 'build' ? lensOf(shot.document!, shot.frame) : undefined))
const asSeen = (place: Xy): Xy => (lens.value ? bend(lens.value, frame.value, place) : place)
function straight([x, y]: Xy): Xy {
  if (!lens.value) return [x, y]
  const { width, height } = frame.value
  const [u, v] = straightPlace(shot.document!, shot.frame, x / width, y / height)
  return [u * width, v * height]
}
const pathOf = (places: readonly Xy[]): string => places.map(([x, y], i) => `${i ? 'L' : 'M'}${x} ${y}`).join('')
const layerOf = (id: string): Layer | undefined => {
  const { layers } = shot.document!.build
  return Object.hasOwn(layers, id) && layers[id]!.on ? layers[id] : undefined
}
const squareOf = ({ width, height, clip }: PictureReference) => ({
  ...{ width, height },
  pixelAspect: clip ? perSecond(clip.pixelAspect) : 1,
})
const handlesOf = (id: string): { label: string; handles: Handles | TreatmentHandles } | undefined => {
  const line = recipeOf(shot.document!, id)?.[id]
  if (line) {
    const { label, values, handles } = treatmentOf(line.kind)
    const found = line.on && handles?.(valuesAt(values, line.values, shot.frame, valueAt), frame.value)
    return found ? { label, handles: found } : undefined
  }
  const layer = layerOf(id)
  if (layer) {
    const { label, values, handles } = layerKindOf(layer.kind)
    const found = handles?.(valuesAt(values, layer as never, shot.frame, valueAt), {
      ...{ camera: camera.value, frame: frame.value },
      picture: ('picture' in layer && layer.picture && squareOf(layer.picture)) || undefined,
    })
    return found && { label: layer.name || label, handles: found }
  }
  const term = termIn(shot.document!, id)
  if (!term?.on || !('values' in term)) return undefined
  const kind = matteKindOf(term.kind)
  const handles = kind.handles?.(valuesAt(kind.values, term.values, shot.frame, valueAt) as never)
  return handles && { label: kind.label, handles }
}
const standing = computed(() =>
  view.handled.flatMap((term): Standing[] => {
    const found = handlesOf(term)
    if (!found) return []
    const { handles, label } = found
    const own = ownPlaces(shot.document!, shot.frame, term)
    const placed = (place: Xy): Xy => asSeen(own ? own.to(place) : place)
    const { width, height } = frame.value
    if (handles.of === 'frame')
      return [
        {
          ...{ term, label, handles, lines: handles.lines.map(places => pathOf(places.map(placed))) },
          grips: handles.grips.map(({ id, label, at }, index) => ({ id, label, at: placed(at), index })),
        },
      ]
    const lines = handles.lines.map(places =>
      places
        .slice(1)
        .map((place, i) => segment(camera.value, aspect.value, places[i]!, place))
        .map(line =>
          line
            ? pathOf(
                (
                  [
                    [line[0] * width, line[1] * height],
                    [line[2] * width, line[3] * height],
                  ] as const
                ).map(asSeen),
              )
            : '',
        )
        .join(''),
    )
    const grips = handles.grips.flatMap(({ id, label, at }, index) => {
      const { u, v, metres } = project(camera.value, aspect.value, at)
      return metres > 0 ? [{ id, label, at: asSeen([u * width, v * height]), index }] : []
    })
    return [{ term, label, handles, lines, grips }]
  }),
)

/** Where a grip is brought by a place of the frame, in what it is held by. */
function brought({ handles, term }: Standing, index: number, seen: Xy): readonly number[] | undefined {
  const [x, y] = straight(seen)
  if (handles.of === 'frame') return ownPlaces(shot.document!, shot.frame, term)?.from([x, y]) ?? [x, y]
  const { at, along } = handles.grips[index]!
  const [u, v] = [x / frame.value.width, y / frame.value.height]
  return along ? onAxis(camera.value, aspect.value, u, v, at, along) : onLevel(camera.value, aspect.value, u, v, at[1])
}
/** A value, or all of a row, brought to where the hand has it: a key where it has keys. */
function put(values: Record<string, EntryValue>, fields: EntryFields, name: string, to: number | readonly number[]) {
  const field = fields[name]
  if (field?.kind !== 'number' && field?.kind !== 'values') return
  const held = (value: number): number =>
    Math.min(field.high, Math.max(field.low, Number(value.toFixed(field.digits + 1))))
  const own = values[name]
  if (typeof to === 'number') values[name] = withValue((own ?? held(to)) as Animatable, shot.frame, held(to))
  else
    values[name] = to.map((value, i) => {
      const before = (own as Animatable[] | undefined)?.[i] ?? 0
      // Of a row only what the hand moved gets a key
      return held(value) === held(valueAt(before, shot.frame)) ? before : withValue(before, shot.frame, held(value))
    })
}
function set(now: Standing, index: number, to: readonly number[], live: boolean) {
  const { handles, term } = now
  const grip = handles.grips[index]!
  const moved = handles.of === 'frame' ? handles.moved(grip.id, to as never) : handles.moved(grip.id, to as never)
  shot.change(
    `${now.label}: ${grip.label}`,
    document => {
      const layer = document.build.layers[term]
      if (layer) {
        const { values } = layerKindOf(layer.kind)
        for (const [name, value] of Object.entries(moved)) put(layer as never, values, name, value)
        return
      }
      const line = recipeOf(document, term)?.[term]
      const found = line ?? termIn(document, term)
      if (!found || !('values' in found)) return
      const fields: EntryFields = line ? treatmentOf(line.kind).values : matteKindOf(found.kind).values
      for (const [name, value] of Object.entries(moved)) put(found.values, fields, name, value)
    },
    live,
  )
}

const chosen = ref<{ term: string; id: string } | null>(null)
let held: { term: string; index: number; off: Xy } | null = null
function grab(event: PointerEvent, now: Standing, grip: Standing['grips'][number]) {
  if (event.button !== 0 || event.altKey) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const [x, y] = at(event)
  held = { term: now.term, index: grip.index, off: [grip.at[0] - x, grip.at[1] - y] }
  chosen.value = { term: now.term, id: grip.id }
  view.dragging = true
}
function dragTo(event: PointerEvent, last = false) {
  const now = held && standing.value.find(({ term }) => term === held!.term)
  if (!now || !held) return
  event.stopPropagation()
  const [x, y] = at(event)
  const to = brought(now, held.index, [x + held.off[0], y + held.off[1]])
  if (to) set(now, held.index, to, !last)
  if (!last) return
  held = null
  view.dragging = false
}

/** Arrow keys bring the chosen one by a pixel, with Shift by ten; of the scene by a hundredth of a metre, or a tenth. */
function keys(event: KeyboardEvent) {
  if (isTaken(event) || !event.key.startsWith('Arrow') || !chosen.value) return
  const now = standing.value.find(({ term }) => term === chosen.value!.term)
  const index = now?.handles.grips.findIndex(({ id }) => id === chosen.value!.id) ?? -1
  if (!now || index < 0) return
  const way: Xy = (
    { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] } as Record<string, Xy>
  )[event.key]!
  const step = event.shiftKey ? 10 : 1
  const { handles } = now
  if (handles.of === 'frame') {
    const [x, y] = handles.grips[index]!.at
    set(now, index, [x + way[0] * step, y + way[1] * step], false)
  } else {
    const { at: place, along } = handles.grips[index]!
    const out = (way[0] - way[1]) * step * 0.01
    const to: Vector3 = along
      ? [place[0] + along[0] * out, place[1] + along[1] * out, place[2] + along[2] * out]
      : [place[0] + way[0] * step * 0.01, place[1], place[2] + way[1] * step * 0.01]
    set(now, index, to, false)
  }
  event.preventDefault()
  event.stopImmediatePropagation()
}
onMounted(() => window.addEventListener('keydown', keys, true))
onBeforeUnmount(() => window.removeEventListener('keydown', keys, true))
</script>

<template>
  <svg
    ref="svg"
    class="over-picture"
    :viewBox="`0 0 ${frame.width} ${frame.height}`"
    preserveAspectRatio="none"
    data-test="handles"
  >
    <g v-for="now in standing" :key="now.term">
      <template v-for="(line, k) in now.lines" :key="k">
        <path :d="line" class="edge-under" vector-effect="non-scaling-stroke" />
        <path :d="line" class="edge" vector-effect="non-scaling-stroke" />
      </template>
      <PictureGrip
        v-for="grip in now.grips"
        :key="grip.id"
        v-bind="{ x: grip.at[0], y: grip.at[1], unit }"
        :class="{ chosen: chosen?.term === now.term && chosen.id === grip.id }"
        :aria-label="`${now.label}: ${grip.label}`"
        :data-test="`handle-${grip.id}`"
        tabindex="0"
        @focus="chosen = { term: now.term, id: grip.id }"
        @blur="chosen = null"
        @pointerdown="grab($event, now, grip)"
        @pointermove="dragTo"
        @pointerup="dragTo($event, true)"
        @pointercancel="dragTo($event, true)"
        @click.stop
      >
        <circle :r="grip.id === 'from' || grip.id === 'middle' ? 4.2 : 3.2" />
      </PictureGrip>
    </g>
  </svg>
</template>
