<script setup lang="ts">
// Something that is dragged along the soundings, by hand or with the arrows.
import type { AlongSoundings, PutMetres } from '../composables/soundingEnds'

defineProps<{ label: string; metres: number; put: PutMetres } & Pick<AlongSoundings, 'drag' | 'nudge'>>()
</script>

<template>
  <g
    class="end"
    role="slider"
    tabindex="0"
    :aria-label="label"
    :aria-valuenow="metres"
    @pointerdown="drag($event, put)"
    @pointermove="drag($event, put)"
    @pointerup="drag($event, put)"
    @keydown="nudge($event, metres, put)"
  >
    <slot />
  </g>
</template>

<style scoped>
.end {
  cursor: ew-resize;
  touch-action: none;
}
</style>
