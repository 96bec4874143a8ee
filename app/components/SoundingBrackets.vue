<script setup lang="ts">
// Between which distances a pass of distances is shown: each end is dragged along the soundings.
import { lengthText } from '../../core/text/metres'
import type { AlongSoundings, PutMetres } from '../composables/soundingEnds'
import { useView } from '~/stores/view'

defineProps<AlongSoundings>()
const view = useView()
const ENDS = [
  { id: 'near', label: 'Depth shown from', said: 'white at' },
  { id: 'far', label: 'Depth shown to', said: 'black at' },
] as const
const putOf =
  (end: 'near' | 'far'): PutMetres =>
  metres => {
    view[end] = metres
  }
</script>

<template>
  <SoundingEnd
    v-for="{ id, label, said } in ENDS"
    :key="id"
    v-bind="{ label, drag, nudge }"
    :metres="view[id]"
    :put="putOf(id)"
  >
    <rect :x="xOf(view[id]) - 9" y="22" width="18" :height="ground - 22" class="grab" />
    <line :x1="xOf(view[id])" :x2="xOf(view[id])" y1="26" :y2="ground" stroke-dasharray="3 3" />
    <path :transform="`translate(${xOf(view[id])} ${ground})`" d="M-6 8 L0 0 L6 8z" />
    <text :x="xOf(view[id])" y="20" text-anchor="middle">{{ said }} {{ lengthText(view[id], 2) }}</text>
  </SoundingEnd>
</template>

<style scoped>
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
