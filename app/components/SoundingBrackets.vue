<script setup lang="ts">
// Between which distances a pass of distances is shown: each end is dragged along the soundings.
import { lengthText } from '../../core/text/metres'
import { useView } from '~/stores/view'

type Put = (metres: number, live: boolean) => void
defineProps<{
  xOf: (metres: number) => number
  drag: (event: PointerEvent, put: Put) => void
  nudge: (event: KeyboardEvent, metres: number, put: Put) => void
  ground: number
}>()
const view = useView()
const ENDS = [
  { id: 'near', label: 'Depth shown from', said: 'white at' },
  { id: 'far', label: 'Depth shown to', said: 'black at' },
] as const
const putOf =
  (end: 'near' | 'far'): Put =>
  metres => {
    view[end] = metres
  }
</script>

<template>
  <g
    v-for="{ id, label, said } in ENDS"
    :key="id"
    class="end"
    role="slider"
    tabindex="0"
    :aria-label="label"
    :aria-valuenow="view[id]"
    @pointerdown="drag($event, putOf(id))"
    @pointermove="drag($event, putOf(id))"
    @pointerup="drag($event, putOf(id))"
    @keydown="nudge($event, view[id], putOf(id))"
  >
    <rect :x="xOf(view[id]) - 9" y="22" width="18" :height="ground - 22" class="grab" />
    <line :x1="xOf(view[id])" :x2="xOf(view[id])" y1="26" :y2="ground" stroke-dasharray="3 3" />
    <path :transform="`translate(${xOf(view[id])} ${ground})`" d="M-6 8 L0 0 L6 8z" />
    <text :x="xOf(view[id])" y="20" text-anchor="middle">{{ said }} {{ lengthText(view[id], 2) }}</text>
  </g>
</template>

<style scoped>
.end {
  cursor: ew-resize;
  touch-action: none;
}
line {
  stroke: var(--ink);
  stroke-width: 2;
}
path {
  fill: var(--ink);
}
.grab {
  fill: transparent;
}
text {
  font-size: 10.5px;
  pointer-events: none;
  fill: var(--soft);
  font-family: var(--words);
}
</style>
