<script setup lang="ts">
import type { Animatable } from '../../core/time/curve'

defineProps<{
  modelValue: Animatable
  label: string
  help?: string
  low: number
  high: number
  step?: number
  digits?: number
  unit?: string
  neutral?: number
  still?: boolean
}>()
const emit = defineEmits<{ change: [value: Animatable, live: boolean] }>()
</script>

<template>
  <div class="field-line">
    <span>{{ label }}</span>
    <ValueField v-bind="$props" @change="(value, live) => emit('change', value, live)" />
  </div>
</template>
