<script setup lang="ts">
// Declared values in a sentence: before each its words.
import type { NumberField } from '../../core/declare/field'
import type { Animatable } from '../../core/time/curve'

defineProps<{
  fields: Readonly<Record<string, NumberField>>
  words: readonly (readonly [name: string, words: string])[]
  values: Readonly<Record<string, unknown>>
  /** What tests know the fields by: mark-name. */
  mark: string
}>()
const emit = defineEmits<{ change: [name: string, value: Animatable, live: boolean] }>()
</script>

<template>
  <template v-for="[name, before] in words" :key="name"
    >{{ before
    }}<ValueField
      :still="!fields[name]!.animated"
      :whole="fields[name]!.whole"
      :model-value="values[name] as Animatable"
      :label="fields[name]!.label!"
      :help="fields[name]!.help"
      :low="fields[name]!.low"
      :high="fields[name]!.high"
      :step="fields[name]!.step"
      :digits="fields[name]!.digits"
      :unit="fields[name]!.unit"
      :data-test="`${mark}-${name}`"
      @change="(value, live) => emit('change', name, value, live)"
  /></template>
</template>
