<script setup lang="ts">
// What the hand takes on the picture: as large on the screen at any zoom, easier to hit than it looks.
defineProps<{
  /** In pixels of the frame. */
  x: number
  y: number
  /** Pixels of the frame to one of the screen. */
  unit: number
  /** Pixels of the screen round it that are it, too. */
  reach?: number
}>()
</script>

<template>
  <g :transform="`translate(${x} ${y}) scale(${unit})`" class="grip" role="button">
    <circle :r="reach ?? 9" class="grab" />
    <slot />
  </g>
</template>
