<script setup lang="ts">
// Where a line parts the light, on the histogram of stops: drag a border, or move it by arrow keys; between the dashes it
// fades.
import type { EntryValue } from '../../core/declare/field'
import { valuesAt } from '../../core/declare/values'
import { FIRST_STOP, STOPS } from '../../core/measure/light'
import { recipeOf } from '../../core/shot/slip'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { treatmentOf } from '../../core/treatment/registry'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ line: string }>()
const shot = useShot()
const view = useView()
const host = ref<SVGSVGElement>()
const entry = computed(() => recipeOf(shot.document!, props.line)?.[props.line])
const treatment = computed(() => treatmentOf(entry.value!.kind))
const names = computed(() => treatment.value.borders!)
const values = computed(
  () => valuesAt(treatment.value.values, entry.value!.values, shot.frame, valueAt) as unknown as Record<string, number>,
)
const across = (stop: number): number => ((stop - FIRST_STOP) / STOPS) * 100
const borders = computed(() =>
  (['low', 'high'] as const).map(which => {
    const name = names.value[which]
    const at = values.value[name]!
    const half = values.value[names.value.soft]! / 2
    return { name, label: treatment.value.values[name]!.label ?? name, at, ends: [at - half, at + half] }
  }),
)
function put(name: string, stop: number, live: boolean) {
  const field = treatment.value.values[name]!
  if (field.kind !== 'number') return
  const held = Number(Math.min(field.high, Math.max(field.low, stop)).toFixed(2))
  shot.change(
    `${treatment.value.label}: ${field.label}`,
    document => {
      const values = recipeOf(document, props.line)?.[props.line]?.values as Record<string, EntryValue> | undefined
      if (values) values[name] = withValue((values[name] ?? held) as Animatable, shot.frame, held)
    },
    live,
  )
}
let held = ''
const stopAt = (event: PointerEvent): number => {
  const bounds = host.value!.getBoundingClientRect()
  return FIRST_STOP + ((event.clientX - bounds.left) / bounds.width) * STOPS
}
function press(event: PointerEvent, name: string) {
  if (event.button !== 0) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = name
  view.dragging = true
}
function move(event: PointerEvent, last = false) {
  if (!held) return
  put(held, stopAt(event), !last)
  if (!last) return
  held = ''
  view.dragging = false
}
function keys(event: KeyboardEvent, name: string, at: number) {
  const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (!way) return
  put(name, at + way * (event.shiftKey ? 1 : 0.1), false)
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <svg ref="host" viewBox="0 0 100 100" preserveAspectRatio="none" data-test="tone-borders">
    <g v-for="{ name, label, at, ends } in borders" :key="name">
      <line
        v-for="end in ends"
        :key="end"
        class="end"
        :x1="across(end)"
        :x2="across(end)"
        y1="0"
        y2="100"
        vector-effect="non-scaling-stroke"
      />
      <line class="border" :x1="across(at)" :x2="across(at)" y1="0" y2="100" vector-effect="non-scaling-stroke" />
      <line
        class="grab"
        :x1="across(at)"
        :x2="across(at)"
        y1="0"
        y2="100"
        vector-effect="non-scaling-stroke"
        tabindex="0"
        role="slider"
        :aria-label="`${treatment.label}: ${label}`"
        :aria-valuenow="at"
        :aria-valuetext="`${at.toFixed(2)} stops`"
        :data-test="`border-${name}`"
        @pointerdown="press($event, name)"
        @pointermove="move"
        @pointerup="move($event, true)"
        @pointercancel="move($event, true)"
        @keydown="keys($event, name, at)"
      >
        <title>{{ label }}: {{ at.toFixed(2) }} stops</title>
      </line>
    </g>
  </svg>
</template>

<style scoped>
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: hidden;
}
.border {
  stroke: var(--mark);
  stroke-width: 2;
}
.end {
  stroke: var(--mark);
  stroke-width: 1;
  stroke-dasharray: 3 3;
}
.grab {
  stroke: transparent;
  stroke-width: 13;
  cursor: ew-resize;
  touch-action: none;
}
.grab:focus-visible {
  outline: none;
  stroke: var(--mark);
  stroke-opacity: 0.3;
}
</style>
