<script setup lang="ts">
// A curve through points: drag them, click to add one, double-click or Delete takes one away; arrow keys move the one
// under focus by a hundredth, with Shift by a tenth.
import { bend, roundBend } from '../../core/colour/bend'
import type { BendSide, ListField } from '../../core/declare/field'
import { useView } from '~/stores/view'

type Point = [number, number]
const props = defineProps<{ modelValue: Point[]; field: ListField }>()
const emit = defineEmits<{ change: [points: Point[], live: boolean] }>()
const view = useView()
const open = ref(false)
const host = ref<SVGSVGElement>()
const [WIDE, HIGH, MARGIN] = [256, 168, 10]
const { across: side, up } = props.field.bend!
const points = computed(() => [...props.modelValue].sort(([a], [b]) => a - b))
const shareOf = (value: number, [low, high]: BendSide['seen']): number => (value - low) / (high - low)
const valueOf = (share: number, [low, high]: BendSide['seen']): number => low + share * (high - low)
const across = (x: number): number => MARGIN + shareOf(x, side.seen) * (WIDE - 2 * MARGIN)
const down = (y: number): number => HIGH - MARGIN - shareOf(y, up.seen) * (HIGH - 2 * MARGIN)
const isAtRest = computed(() =>
  props.modelValue.every(([x, y]) => y === (props.field.bend!.rest === 'same' ? x : props.field.bend!.rest)),
)
const path = computed(() => {
  const at = props.field.bend!.round ? roundBend(props.modelValue, side.high) : bend(props.modelValue)
  return Array.from({ length: 121 }, (_, i) => {
    const x = valueOf(i / 120, side.seen)
    return `${i ? 'L' : 'M'}${across(x).toFixed(1)} ${down(at(x)).toFixed(1)}`
  }).join('')
})
const held = (value: number, { low, high }: BendSide): number => Number(Math.min(high, Math.max(low, value)).toFixed(4))
function placeOf(event: MouseEvent): Point {
  const box = host.value!.getBoundingClientRect()
  const x = ((event.clientX - box.left) / box.width) * WIDE
  const y = ((event.clientY - box.top) / box.height) * HIGH
  return [
    held(valueOf((x - MARGIN) / (WIDE - 2 * MARGIN), side.seen), side),
    held(valueOf((HIGH - MARGIN - y) / (HIGH - 2 * MARGIN), up.seen), up),
  ]
}
/** Lines that say where one is: where it leaves things as they are, and black and white or the hues with a name. */
const lines = computed(() => {
  const { rest } = props.field.bend!
  const [[left, right], [low, high]] = [side.seen, up.seen]
  const from = { x1: across(left), x2: across(right) }
  const upright = (x: number) => ({ x1: across(x), x2: across(x), y1: down(low), y2: down(high) })
  if (rest === 'same')
    return [{ ...from, y1: down(left), y2: down(right) }, upright(1), { ...from, y1: down(1), y2: down(1) }]
  return [{ ...from, y1: down(rest), y2: down(rest) }, ...(side.label === 'hue' ? [] : [upright(1)])]
})
/** The hues as colours, along the lower side. */
const STEPS = 60
const HUES = Array.from({ length: STEPS }, (_, i) => {
  const wide = (WIDE - 2 * MARGIN) / STEPS
  return { x: MARGIN + i * wide, wide: wide + 0.3, colour: `oklch(0.72 0.13 ${((i + 0.5) / STEPS) * 360})` }
})
const said = (value: number, { digits = 2, unit = '' }: BendSide): string => `${value.toFixed(digits)}${unit}`
const words = (x: number, y: number): string =>
  props.field.bend!.rest === 'same'
    ? `${said(x, side)} becomes ${said(y, up)}`
    : `${side.label} ${said(x, side)}: ${said(y, up)}`
const without = (index: number): Point[] => points.value.filter((_, i) => i !== index)
/** Between its neighbours: they do not change places. */
function put(index: number, [x, y]: Point, live: boolean) {
  const apart = (side.seen[1] - side.seen[0]) / 1000
  const low = points.value[index - 1]?.[0] ?? side.low - apart
  const high = points.value[index + 1]?.[0] ?? side.high + apart
  const at: Point = [held(Math.min(high - apart, Math.max(low + apart, x)), side), held(y, up)]
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
  if (
    points.value.some(([x]) => Math.abs(x - place[0]) < (side.seen[1] - side.seen[0]) / 100) ||
    points.value.length >= props.field.most
  )
    return
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
  const share = event.shiftKey ? 0.1 : 0.01
  const [wide, step] = [side, up].map(({ seen }) => share * Math.round(seen[1] - seen[0])) as [number, number]
  const [x, y] = points.value[index]!
  const moves: Record<string, Point> = {
    ArrowLeft: [x - wide, y],
    ArrowRight: [x + wide, y],
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
    :class="{ bent: !isAtRest }"
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
      <g v-if="side.label === 'hue'">
        <rect
          v-for="({ x, wide, colour }, k) in HUES"
          :key="k"
          :x="x"
          :y="HIGH - MARGIN / 2"
          :width="wide"
          :height="MARGIN / 2"
          :fill="colour"
        />
      </g>
      <line v-for="(line, k) in lines" :key="k" v-bind="line" class="even" />
      <template v-if="field.bend!.rest !== 'same'">
        <text :x="MARGIN" :y="MARGIN + 4">{{ said(up.seen[1], up) }}</text>
        <text :x="MARGIN" :y="HIGH - MARGIN - 4">{{ said(up.seen[0], up) }}</text>
      </template>
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
        :aria-valuetext="words(x, y)"
        :aria-valuenow="y"
        @pointerdown.prevent="press($event, index)"
        @pointermove="drag"
        @pointerup="drop"
        @dblclick="remove(index)"
        @keydown="key($event, index)"
      >
        <title>{{ words(x, y) }}</title>
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
            (field.first ?? []).map(([x, y]): Point => [x!, y!]),
            false,
          )
        "
      >
        as it was
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
text {
  font: 9px var(--figures, monospace);
  fill: var(--soft);
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
