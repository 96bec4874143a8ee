<script setup lang="ts">
// What a render may be taken with, in words: on or off, its values, and whether its data stays sharp.
import type { NumberField } from '../../core/declare/field'
import { usePassOption } from '~/composables/passOption'

const props = defineProps<{
  of: 'lens' | 'shutter'
  fields: Readonly<Record<string, NumberField>>
  words: readonly (readonly [name: string, words: string])[]
  /** What turning it on, off and its data sharp is called among changes. */
  labels: { on: string; off: string; sharp: string }
  /** Behind the switch, behind the values, behind the switch of the data. */
  said: { on: string; end: string; sharp: string }
}>()
const { settings, turn, put, turnSharp } = usePassOption(props.of, props.fields, props.labels)
</script>

<template>
  <label class="pick"
    ><input
      type="checkbox"
      :checked="!!settings"
      :data-test="of"
      @change="turn(($event.target as HTMLInputElement).checked)"
    />
    {{ said.on }}</label
  >
  <template v-if="settings"
    ><DeclaredWords :fields="fields" :words="words" :values="settings" :mark="of" @change="put" />{{ said.end }}
    <label class="pick"
      ><input type="checkbox" :checked="!!settings.sharpData" :data-test="`${of}-sharp`" @change="turnSharp" />
      {{ said.sharp }}</label
    ></template
  >
</template>
