<script setup lang="ts">
// Lines clicked along straight things of the plate as it was taken.
import { identifier } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { noMatch } from '../../core/shot/match'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ zoom: number }>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const points = ref<[number, number][]>([])
const pointer = ref<[number, number] | null>(null)
const frame = computed(() => shot.document!.frame)
const curves = computed(() => inOrder(shot.document!.match?.curves))
const unit = computed(() => 1 / props.zoom)
const active = computed(() => view.sceneTool === 'lens')
const place = (event: MouseEvent): [number, number] => {
  const bounds = svg.value!.getBoundingClientRect()
  return [
    Math.round(((event.clientX - bounds.left) / bounds.width) * frame.value.width * 100) / 100,
    Math.round(((event.clientY - bounds.top) / bounds.height) * frame.value.height * 100) / 100,
  ]
}
const pathOf = (list: readonly (readonly [number, number])[]): string =>
  list.length ? `M${list.map(([x, y]) => `${x} ${y}`).join('L')}` : ''
function click(event: MouseEvent) {
  if (!active.value) return
  event.stopPropagation()
  const at = place(event)
  const last = points.value.at(-1)
  if (!last || Math.hypot(at[0] - last[0], at[1] - last[1]) > 3 / props.zoom) points.value = [...points.value, at]
}
function end() {
  const list = points.value
  points.value = []
  if (!list.length) return
  if (list.length < 3) {
    shot.message = 'Three places along the line at least: its ends and one between.'
    return
  }
  shot.change('Line of the lens', document => {
    addRow(((document.match ??= noMatch()).curves ??= {}), { id: identifier(), points: list })
  })
}
function keys(event: KeyboardEvent) {
  if (event.key === 'Enter' && active.value) {
    event.preventDefault()
    end()
  } else if (event.key === 'Escape') points.value = []
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))
let held: { id: string; index: number } | null = null
function grab(event: PointerEvent, id: string, index: number) {
  if (event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = { id, index }
}
function drag(event: PointerEvent, last = false) {
  if (!held) return
  event.stopPropagation()
  const { id, index } = held
  const to = place(event)
  if (last) held = null
  shot.change(
    'Move a place of a line',
    document => {
      const curve = document.match?.curves?.[id]
      if (curve) curve.points[index] = to
    },
    !last,
  )
}
</script>

<template>
  <svg
    ref="svg"
    class="over-picture"
    :class="{ tool: active }"
    :viewBox="`0 0 ${frame.width} ${frame.height}`"
    preserveAspectRatio="none"
    data-test="lens-overlay"
    @click="click"
    @dblclick.stop="end"
    @pointermove="pointer = place($event)"
    @pointerleave="pointer = null"
  >
    <g v-for="curve in curves" :key="curve.id">
      <path :d="pathOf(curve.points)" class="under" vector-effect="non-scaling-stroke" />
      <path :d="pathOf(curve.points)" class="line" vector-effect="non-scaling-stroke" />
      <line
        :x1="curve.points[0]![0]"
        :y1="curve.points[0]![1]"
        :x2="curve.points.at(-1)![0]"
        :y2="curve.points.at(-1)![1]"
        class="chord"
        vector-effect="non-scaling-stroke"
      />
      <g
        v-for="(point, index) in curve.points"
        :key="index"
        :transform="`translate(${point[0]} ${point[1]}) scale(${unit})`"
        class="end"
        role="button"
        :aria-label="`Place ${index + 1} of a line`"
        @pointerdown="grab($event, curve.id, index)"
        @pointermove="drag"
        @pointerup="drag($event, true)"
        @click.stop
      >
        <circle r="10" class="grab" />
        <circle r="3.5" />
      </g>
    </g>
    <path
      v-if="points.length"
      :d="pathOf(pointer ? [...points, pointer] : points)"
      class="line now"
      vector-effect="non-scaling-stroke"
    />
    <g
      v-for="(point, index) in points"
      :key="`p${index}`"
      :transform="`translate(${point[0]} ${point[1]}) scale(${unit})`"
    >
      <circle r="3.5" class="dot" />
    </g>
  </svg>
</template>

<style scoped>
.line {
  fill: none;
  stroke: #fff;
  stroke-width: 1.6;
}
.under {
  fill: none;
  stroke: #000;
  stroke-opacity: 0.45;
  stroke-width: 3.4;
}
.chord {
  stroke: #fff;
  stroke-opacity: 0.5;
  stroke-width: 1;
  stroke-dasharray: 3 4;
}
.now {
  stroke-dasharray: 4 3;
}
.dot,
.end circle {
  fill: #fff;
  stroke: #0009;
}
.end {
  pointer-events: auto;
  cursor: move;
  touch-action: none;
}
.end .grab {
  fill: transparent;
  stroke: none;
}
</style>
