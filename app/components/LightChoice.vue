<script setup lang="ts">
// The light that a layer is lit by, by its name.
import { useLightNames } from '~/composables/lightNames'

const props = defineProps<{ light: string | undefined; label: string; none: string; wanted: boolean }>()
const emit = defineEmits<{ change: [light: string | undefined] }>()
const lights = useLightNames(() => props.wanted)
</script>

<template>
  <p v-if="wanted">
    lit by
    <select
      class="word"
      :value="light ?? ''"
      :aria-label="label"
      data-test="light"
      @change="emit('change', ($event.target as HTMLSelectElement).value || undefined)"
    >
      <option value="">{{ none }}</option>
      <option v-for="name in lights" :key="name" :value="name">{{ name }}</option>
    </select>
  </p>
</template>
