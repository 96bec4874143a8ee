<script setup lang="ts">
// What can be done with a look that is laid: its lines one by one again, or as a file for a colleague.
import { alone, lookOf, notOfColour, writeLook, type Look } from '../../core/shot/look'
import { FORMULA_ENCODINGS } from '../../core/formula/encodings'
import { encodingOf } from '../../core/colour/encoding'
import type { TreatmentSettings } from '../../core/shot/document'
import { engine } from '~/composables/engine'
import { saveText } from '~/composables/saveText'
import { useShot } from '~/stores/shot'

const props = defineProps<{ entry: TreatmentSettings }>()
const emit = defineEmits<{ unpack: [] }>()
const shot = useShot()
const name = computed(() => props.entry.name ?? 'look')
const whole = (): Look => lookOf(shot.document!, props.entry.lines ?? {}, name.value)
const reasons = computed(() => notOfColour(props.entry.lines ?? {}))
const isWhole = computed(() => props.entry.strength === 1 && !props.entry.matte)
async function asTable(event: Event) {
  const select = event.target as HTMLSelectElement
  const encoding = select.value
  select.value = ''
  try {
    const text = await engine.table(alone(whole()), shot.frame, `${name.value}, in and out ${encoding}`, encoding)
    saveText(text, `${name.value}.cube`)
  } catch (error) {
    shot.message = (error as Error).message
  }
}
</script>

<template>
  <button
    class="word"
    :disabled="!isWhole"
    :title="
      isWhole
        ? 'Its lines one by one in its place'
        : 'Laid at a strength or in a matte its lines alone would not be the same'
    "
    data-test="look-unpack"
    @click="emit('unpack')"
  >
    lay out its lines</button
  ><button
    class="word"
    title="As text, for another Northmist"
    data-test="look-save"
    @click="saveText(writeLook(whole()), `${name}.look.json`)"
  >
    save as text</button
  ><select
    v-if="!reasons.length"
    class="word"
    value=""
    aria-label="Save as a .cube table"
    title="A table of colours that other tools read, for pictures so encoded"
    data-test="look-cube"
    @change="asTable"
    @keydown.stop
  >
    <option value="" disabled>save as .cube</option>
    <option v-for="id in FORMULA_ENCODINGS" :key="id" :value="id">{{ encodingOf(id).label }}</option></select
  ><span v-else class="soft" :title="reasons.join(' ')">no .cube: {{ reasons[0]!.toLowerCase() }}</span>
</template>
