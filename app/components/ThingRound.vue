<script setup lang="ts">
// How much rounder a thing is made than it was modelled.
import { SHARP_FROM } from '../../core/scene/subdivide'
import type { ObjectSettings } from '../../core/shot/document'
import { OBJECT } from '../../core/shot/schema/thing'
import type { Animatable } from '../../core/time/curve'
import { propsOf } from '~/composables/fields'

defineProps<{ settings: ObjectSettings; triangles: number }>()
const emit = defineEmits<{ change: [label: string, mutate: (settings: ObjectSettings) => void, live: boolean] }>()
const OWN = propsOf(OBJECT.fields)
function set(field: 'roundSteps' | 'roundAngle', value: Animatable, live: boolean) {
  emit(
    'change',
    'Rounder',
    own => {
      if (field === 'roundSteps' && value === 0) {
        delete own.roundSteps
        delete own.roundAngle
      } else own[field] = value
    },
    live,
  )
}
</script>

<template>
  <p>
    made rounder in
    <ValueField
      :model-value="settings.roundSteps ?? 0"
      v-bind="OWN.roundSteps"
      data-test="round-steps"
      @change="(value, live) => set('roundSteps', value, live)"
    />
    steps<template v-if="settings.roundSteps"
      >, sharp where it bends by
      <ValueField
        :model-value="settings.roundAngle ?? SHARP_FROM"
        v-bind="OWN.roundAngle"
        data-test="round-angle"
        @change="(value, live) => set('roundAngle', value, live)" /></template
    ><span class="soft">: {{ triangles.toLocaleString('en') }} triangles</span>
  </p>
</template>
