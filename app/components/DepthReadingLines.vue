<script setup lang="ts">
// What the depth of a file from elsewhere counts in; a grey one by two places whose distance is known.
import { DEPTH_KINDS, type DepthReading } from '../../core/shot/document'
import { depthFault, GREY } from '../../core/render/reading'
import { cameraAt } from '../../core/shot/scene'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

/** layer: whose picture is clicked, where it is there already. */
const props = defineProps<{ depth: DepthReading; layer?: string }>()
const emit = defineEmits<{ change: [depth: DepthReading, live: boolean] }>()
const shot = useShot()
const view = useView()

const KINDS = { metres: 'distances', inverse: 'one over distances', grey: 'a grey of no unit' } as const
const UNITS = [
  ['metres', 1],
  ['centimetres', 0.01],
  ['millimetres', 0.001],
  ['kilometres', 1000],
  ['feet', 0.3048],
  ['inches', 0.0254],
] as const
const unit = computed(() => props.depth.unit ?? 1)
const set = (change: Partial<DepthReading>, live = false): void => {
  const next: DepthReading = { ...toRaw(props.depth), ...change }
  for (const [name, value] of Object.entries(next)) if (value === undefined) Reflect.deleteProperty(next, name)
  emit('change', next, live)
}
const ENDS = [
  ['near', 'a near place'],
  ['far', 'a far place'],
] as const
type End = (typeof ENDS)[number][0]
const pointOf = (end: End): { value: number; metres: number } => props.depth[end] ?? GREY[end]!
const isTaking = (end: End): boolean => view.taking?.what === 'depth' && view.taking.name === end
function ask(end: End) {
  view.taking =
    isTaking(end) || !props.layer ? null : { term: props.layer, line: props.layer, name: end, what: 'depth' }
}
watch(
  () => view.taken,
  taken => {
    if (!props.layer || taken?.what !== 'depth' || taken.term !== props.layer) return
    const end = taken.name as End
    set({ [end]: { ...pointOf(end), value: Number((taken.value as number).toPrecision(6)) } })
    view.taken = null
  },
)
onBeforeUnmount(() => {
  if (view.taking?.what === 'depth' && view.taking.term === props.layer) view.taking = null
})
const setKind = (kind: DepthReading['kind']): void =>
  set(
    kind === 'grey' ? { kind, near: pointOf('near'), far: pointOf('far') } : { kind, near: undefined, far: undefined },
  )
/** Degrees across, of the shot's camera. */
const across = (): number => {
  const { sensorWidth, focalLength } = cameraAt(shot.document!.scene.camera, shot.frame)
  return Number(((Math.atan(sensorWidth / 2 / focalLength) * 360) / Math.PI).toFixed(2))
}
const fault = computed(() => depthFault(props.depth))
</script>

<template>
  <p class="depth" data-test="depth-reading">
    its depth counts
    <select
      class="word"
      :value="depth.kind"
      aria-label="What its depth counts in"
      data-test="depth-kind"
      @change="setKind(($event.target as HTMLSelectElement).value as DepthReading['kind'])"
    >
      <option v-for="kind in DEPTH_KINDS" :key="kind" :value="kind">{{ KINDS[kind] }}</option>
    </select>
    <template v-if="depth.kind !== 'grey'">
      in
      <select
        class="word"
        :value="unit"
        aria-label="Unit of its depth"
        data-test="depth-unit"
        @change="set({ unit: Number(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="[name, metres] in UNITS" :key="name" :value="metres">{{ name }}</option>
      </select>
    </template>
    <template v-for="[end, called] in depth.kind === 'grey' ? ENDS : []" :key="end">
      <span class="end"
        >{{ called }} has
        <ValueField
          :model-value="pointOf(end).value"
          :label="`Value of ${called}`"
          :low="-1e9"
          :high="1e9"
          :digits="4"
          still
          :data-test="`depth-${end}-value`"
          @change="(value, live) => set({ [end]: { ...pointOf(end), value: value as number } }, live)"
        />
        and is
        <ValueField
          :model-value="pointOf(end).metres"
          :label="`Distance of ${called}`"
          :low="0.0001"
          :high="1e6"
          :step="0.05"
          unit="m"
          still
          :data-test="`depth-${end}-metres`"
          @change="(value, live) => set({ [end]: { ...pointOf(end), metres: value as number } }, live)"
        />
        away
        <button
          v-if="layer"
          class="word"
          :class="{ on: isTaking(end) }"
          :aria-pressed="isTaking(end)"
          :data-test="`depth-${end}-click`"
          @click="ask(end)"
        >
          {{ isTaking(end) ? 'click it in the picture' : 'by a click' }}
        </button>
      </span>
    </template>
    <template v-if="depth.kind === 'grey'">
      between them even in
      <select
        class="word"
        :value="depth.inverse ? 'inverse' : 'metres'"
        aria-label="How it goes between them"
        data-test="depth-between"
        @change="set({ inverse: ($event.target as HTMLSelectElement).value === 'inverse' || undefined })"
      >
        <option value="metres">metres</option>
        <option value="inverse">one over metres</option>
      </select>
    </template>
    measured
    <select
      class="word"
      :value="depth.angle === undefined ? 'axis' : 'ray'"
      aria-label="Along what it is measured"
      data-test="depth-along"
      @change="set({ angle: ($event.target as HTMLSelectElement).value === 'ray' ? across() : undefined })"
    >
      <option value="axis">along the view</option>
      <option value="ray">along each ray</option>
    </select>
    <template v-if="depth.angle !== undefined">
      of a view
      <ValueField
        :model-value="depth.angle"
        label="Angle of view"
        help="From the left to the right edge of its picture."
        :low="0.1"
        :high="179"
        :step="0.1"
        unit="°"
        still
        data-test="depth-angle"
        @change="(value, live) => set({ angle: value as number }, live)"
      />
      wide
    </template>
  </p>
  <p v-if="fault" role="alert" class="fault">{{ fault }}</p>
</template>

<style scoped>
.depth {
  margin: 0 0 4px;
}
.end {
  display: block;
}
.on {
  color: var(--mark);
}
</style>
