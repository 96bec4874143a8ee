<script setup lang="ts">
// Values of a treatment from a file that another tool wrote, and into one that others read.
import { valuesAt, within } from '../../core/declare/values'
import { BadInput } from '../../core/formats/errors'
import type { TreatmentSettings } from '../../core/shot/document'
import { valueAt } from '../../core/time/curve'
import { treatmentOf } from '../../core/treatment/registry'
import { saveText } from '~/composables/saveText'
import { useShot } from '~/stores/shot'

const props = defineProps<{ entry: TreatmentSettings }>()
const emit = defineEmits<{ take: [values: Record<string, number>, label: string] }>()
const shot = useShot()
const treatment = computed(() => treatmentOf(props.entry.kind))
const files = computed(() => treatment.value.files!)
const input = ref<HTMLInputElement>()
const found = ref<ReturnType<NonNullable<typeof treatment.value.files>['read']>>([])

async function read(event: Event) {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (!file) return
  try {
    if (file.size > 64 * 1048576) throw new BadInput(`${file.name} is larger than 64 MiB.`)
    const all = files.value.read(new Uint8Array(await file.arrayBuffer()))
    if (all.length === 1) take(all[0]!)
    else found.value = all
  } catch (error) {
    shot.message = (error as Error).message
  }
  // The same file may be taken again
  field.value = ''
}
function take({ values, label }: (typeof found.value)[number]) {
  found.value = []
  const fields = treatment.value.values
  const held = Object.fromEntries(
    Object.entries(values).map(([name, value]) => {
      const field = fields[name]!
      return [name, field.kind === 'number' ? within(value, field.low, field.high) : value]
    }),
  )
  const beyond = Object.keys(values).filter(name => held[name] !== values[name])
  if (beyond.length)
    shot.message = `${beyond.map(name => fields[name]!.kind !== 'values' && fields[name]!.label).join(', ')}: beyond what is possible here, taken as near as may be.`
  emit('take', held, label)
}
function save() {
  const values = valuesAt(treatment.value.values, props.entry.values, shot.frame, valueAt)
  const name = `${shot.name} ${treatment.value.label.toLowerCase()}`
  saveText(files.value.write(values, name), `${name}.${files.value.ending}`)
}
</script>

<template>
  <button class="word" :title="`From a file: ${files.accept}`" data-test="file-take" @click="input?.click()">
    take from a file
  </button>
  <input
    ref="input"
    type="file"
    hidden
    :accept="files.accept"
    aria-label="A file of values"
    data-test="file-input"
    @change="read"
  />
  <button class="word" :title="`As it is at this frame, as .${files.ending}`" data-test="file-save" @click="save">
    save as .{{ files.ending }}
  </button>
  <div v-if="found.length" class="found" role="listbox" aria-label="What the file holds">
    <button v-for="(one, i) in found" :key="i" class="word" role="option" data-test="file-found" @click="take(one)">
      {{ one.label }}
    </button>
  </div>
</template>

<style scoped>
.found {
  flex-basis: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  max-height: 120px;
  overflow-y: auto;
}
</style>
