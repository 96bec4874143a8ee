<script setup lang="ts">
// What a treatment leaves sharp, along the soundings: from the nearest to the farthest, and the middle; each is dragged.
import { valuesAt } from '../../core/declare/values'
import type { EntryValue } from '../../core/declare/field'
import { inOrder } from '../../core/shot/rows'
import { cameraAt } from '../../core/shot/scene'
import { recipeOf } from '../../core/shot/slip'
import { lengthText } from '../../core/text/metres'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { treatmentOf } from '../../core/treatment/registry'
import type { TreatmentSettings } from '../../core/shot/document'
import type { AlongSoundings } from '../composables/soundingEnds'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

defineProps<AlongSoundings>()
const shot = useShot()
const view = useView()
const withZone = (lines: readonly TreatmentSettings[]): TreatmentSettings | undefined =>
  lines.find(({ on, kind }) => on && treatmentOf(kind).zone)
/** The line that is worked at; else the first that has one, of the finish or of a layer. */
const line = computed((): TreatmentSettings | undefined => {
  const document = shot.document!
  const chosen = recipeOf(document, view.selectedTreatment)?.[view.selectedTreatment]
  if (chosen && withZone([chosen])) return chosen
  return (
    withZone(inOrder(document.finish)) ??
    inOrder(document.build.layers)
      .map(({ treatments }) => withZone(inOrder(treatments)))
      .find(Boolean)
  )
})
const seen = computed(() => ({
  camera: cameraAt(shot.document!.scene.camera, shot.frame),
  width: shot.document!.frame.width,
}))
const held = computed(() => {
  const { values } = treatmentOf(line.value!.kind)
  return valuesAt(values, line.value!.values, shot.frame, valueAt) as Readonly<Record<string, unknown>>
})
const zone = computed(() => (line.value ? treatmentOf(line.value.kind).zone : undefined))
const ends = computed(() => zone.value!.ends(held.value, seen.value))
const grips = computed(() => [
  { id: 'near', label: 'nearest', metres: ends.value.near },
  { id: 'middle', label: 'sharpest', metres: held.value[zone.value!.middle] as number },
  { id: 'far', label: 'farthest', metres: ends.value.far },
])
function put(id: string, metres: number, live: boolean) {
  const { kind, id: which } = line.value!
  const { label, zone } = treatmentOf(kind)
  // The other end stays where it is
  const { near, far } = ends.value
  const asked =
    id === 'near'
      ? { near: Math.min(metres, far * 0.98), ...(Number.isFinite(far) ? { far } : {}) }
      : { near, far: Math.max(metres, near * 1.02) }
  const found: Record<string, EntryValue> =
    id === 'middle' ? { [zone!.middle]: metres } : zone!.moved(asked, held.value, seen.value)
  shot.change(
    `${label}: ${id === 'middle' ? 'distance' : 'what is sharp'}`,
    document => {
      const values = recipeOf(document, which)?.[which]?.values
      if (!values) return
      for (const [name, value] of Object.entries(found))
        values[name] = withValue(
          (values[name] ?? value) as Animatable,
          shot.frame,
          Number((value as number).toPrecision(4)),
        )
    },
    live,
  )
}
</script>

<template>
  <g v-if="line" class="zone" data-test="sounding-zone">
    <rect
      :x="xOf(ends.near)"
      :y="ground - 7"
      :width="Math.max(1, xOf(ends.far) - xOf(ends.near))"
      height="7"
      class="sharp"
    />
    <SoundingEnd
      v-for="grip in grips"
      :key="grip.id"
      :label="`${treatmentOf(line.kind).label}, ${grip.label} that is sharp`"
      :metres="grip.metres"
      :put="(metres: number, live: boolean) => put(grip.id, metres, live)"
      v-bind="{ drag, nudge }"
      class="end"
      :data-test="`zone-${grip.id}`"
    >
      <title>
        {{ treatmentOf(line.kind).label }}: {{ grip.label }}
        {{ Number.isFinite(grip.metres) ? lengthText(grip.metres, 2) : 'as far as can be' }}
      </title>
      <rect :x="xOf(grip.metres) - 6" :y="ground - 20" width="12" height="24" class="grab" />
      <line
        :x1="xOf(grip.metres)"
        :x2="xOf(grip.metres)"
        :y1="ground - (grip.id === 'middle' ? 17 : 11)"
        :y2="ground"
      />
      <circle v-if="grip.id === 'middle'" :cx="xOf(grip.metres)" :cy="ground - 17" r="3" />
    </SoundingEnd>
  </g>
</template>

<style scoped>
.sharp {
  fill: var(--mark);
  opacity: 0.35;
  pointer-events: none;
}
.end line {
  stroke: var(--mark);
  stroke-width: 2;
}
.end circle {
  fill: var(--mark);
}
.grab {
  fill: transparent;
}
</style>
