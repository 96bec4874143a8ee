<script setup lang="ts">
// A curve through points: drag them, click to add one, double-click or Delete takes one away; arrow keys move the one
// under focus by a hundredth, with Shift by a tenth.
import { bend, isStraight } from '../../core/colour/bend'
import type { ListField } from '../../core/declare/field'
import { useView } from '~/stores/view'

type Point = [number, number]
const props = defineProps<{ modelValue: Point[]; field: ListField }>()
const emit = defineEmits<{ change: [points: Point[], live: boolean] }>()
const view = useView()
const open = ref(false)
const host = ref<SVGSVGElement>()
const [WIDE, HIGH, MARGIN] = [256, 168, 10]
/** A bit beyond white is seen. */
const MOST_SEEN = 1.15
const points = computed(() => [...props.modelValue].sort(([a], [b]) => a - b))
const across = (x: number): number => MARGIN + (x / MOST_SEEN) * (WIDE - 2 * MARGIN)
const down = (y: number): number => HIGH - MARGIN - (y / MOST_SEEN) * (HIGH - 2 * MARGIN)
const path = computed(() => {
  const at = bend(props.modelValue)
  return Array.from({ length: 121 }, (_, i) => {
    const x = (i / 120) * MOST_SEEN
    return `${i ? 'L' : 'M'}${across(x).toFixed(1)} ${down(at(x)).toFixed(1)}`
  }).join('')
})
const bounds = computed(() => props.field.of as unknown as { low: number; high: number })
const held = (value: number): number =>
  Number(Math.min(bounds.value.high, Math.max(bounds.value.low, value)).toFixed(4))
function placeOf(event: MouseEvent): Point {
  const box = host.value!.getBoundingClientRect()
  const x = ((event.clientX - box.left) / box.width) * WIDE
  const y = ((event.clientY - box.top) / box.height) * HIGH
  return [
    held(((x - MARGIN) / (WIDE - 2 * MARGIN)) * MOST_SEEN),
    held(((HIGH - MARGIN - y) / (HIGH - 2 * MARGIN)) * MOST_SEEN),
  ]
}
const without = (index: number): Point[] => points.value.filter((_, i) => i !== index)
/** Between its neighbours: they do not change places. */
function put(index: number, [x, y]: Point, live: boolean) {
  const low = points.value[index - 1]?.[0] ?? bounds.value.low - 0.001
  const high = points.value[index + 1]?.[0] ?? bounds.value.high + 0.001
  const at: Point = [held(Math.min(high - 0.001, Math.max(low + 0.001, x))), held(y)]
  emit(
    'change',
    points.value.map((point, i) => (i === index ? at : point)),
    live,
  )
}
let dragged = -1
function press(event: PointerEvent, index: number) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  dragged = index
  view.dragging = true
}
function drag(event: PointerEvent) {
  if (dragged >= 0) put(dragged, placeOf(event), true)
}
function drop(event: PointerEvent) {
  if (dragged < 0) return
  put(dragged, placeOf(event), false)
  dragged = -1
  view.dragging = false
}
function add(event: MouseEvent) {
  const place = placeOf(event)
  if (points.value.some(([x]) => Math.abs(x - place[0]) < 0.01) || points.value.length >= props.field.most) return
  emit(
    'change',
    [...points.value, place].sort(([a], [b]) => a - b),
    false,
  )
}
function remove(index: number) {
  if (points.value.length > 1) emit('change', without(index), false)
}
function key(event: KeyboardEvent, index: number) {
  const step = event.shiftKey ? 0.1 : 0.01
  const [x, y] = points.value[index]!
  const moves: Record<string, Point> = {
    ArrowLeft: [x - step, y],
    ArrowRight: [x + step, y],
    ArrowUp: [x, y + step],
    ArrowDown: [x, y - step],
  }
  if (moves[event.key]) put(index, moves[event.key]!, false)
  else if (event.key === 'Delete' || event.key === 'Backspace') remove(index)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <button
    class="word"
    :class="{ bent: !isStraight(modelValue) }"
    :aria-expanded="open"
    :title="`${field.label}: ${field.help ?? ''}`"
    :data-test="`bend-${field.label}`"
    @click="open = !open"
  >
    {{ field.label }}</button><span v-if="open" class="field"
    ><svg
      ref="host"
      :viewBox="`0 0 ${WIDE} ${HIGH}`"
      role="group"
      :aria-label="`Curve of ${field.label}`"
      data-test="bend-field"
      @click.self="add"
    >
      <line :x1="across(0)" :y1="down(0)" :x2="across(MOST_SEEN)" :y2="down(MOST_SEEN)" class="even" />
      <line :x1="across(1)" :y1="down(0)" :x2="across(1)" :y2="down(MOST_SEEN)" class="even" />
      <line :x1="across(0)" :y1="down(1)" :x2="across(MOST_SEEN)" :y2="down(1)" class="even" />
      <path :d="path" class="curve" />
      <circle
        v-for="([x, y], index) in points"
        :key="index"
        :cx="across(x)"
        :cy="down(y)"
        r="5"
        class="point"
        tabindex="0"
        role="slider"
        :aria-label="`Point ${index + 1}`"
        :aria-valuetext="`${x.toFixed(2)} becomes ${y.toFixed(2)}`"
        :aria-valuenow="y"
        @pointerdown.prevent="press($event, index)"
        @pointermove="drag"
        @pointerup="drop"
        @dblclick="remove(index)"
        @keydown="key($event, index)"
      >
        <title>{{ x.toFixed(2) }} becomes {{ y.toFixed(2) }}</title>
      </circle>
    </svg>
    <span class="soft"
      >click adds a point, double-click takes it away
      <button
        class="word"
        data-test="bend-straight"
        @click="
          emit(
            'change',
            (field.first ?? []).map(([x, y]): Point => [x, y]),
            false,
          )
        "
      >
        straight
      </button></span
    ></span
  >
</template>

<style scoped>
.bent {
  color: var(--mark);
  border-color: var(--mark);
}
.field {
  display: block;
  margin: 4px 0;
  font-size: 12px;
}
svg {
  display: block;
  width: 100%;
  max-width: 300px;
  background: var(--card);
  border: 1px solid var(--line);
  touch-action: none;
  cursor: crosshair;
}
.even {
  stroke: var(--line);
  pointer-events: none;
}
.curve {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
  pointer-events: none;
}
.point {
  fill: var(--card);
  stroke: var(--ink);
  stroke-width: 1.4;
  cursor: grab;
}
.point:focus-visible {
  outline: none;
  stroke: var(--mark);
  stroke-width: 3;
}
</style>
