<script setup lang="ts">
// What a line of a recipe takes from elsewhere: values from a click in the picture, a colour table from a file; and
// which passes it misses.
import type { EntryValue } from '../../core/declare/field'
import { valuesAt } from '../../core/declare/values'
import { valueAt } from '../../core/time/curve'
import { passOf } from '../../core/render/passes'
import type { BlobReference, TreatmentSettings } from '../../core/shot/document'
import { lampColours } from '../../core/shot/lamps'
import { cameraAt } from '../../core/shot/scene'
import { recipeOf } from '../../core/shot/slip'
import { asksTable, type Take } from '../../core/treatment/treatment'
import { treatmentOf } from '../../core/treatment/registry'
import { distanceFollowed } from '~/composables/followDistance'
import { bringSmall, bringTable, PICTURES } from '~/composables/bring'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ entry: TreatmentSettings }>()
const emit = defineEmits<{
  values: [label: string, values: Record<string, EntryValue>]
  table: [table: BlobReference]
}>()
const shot = useShot()
const view = useView()
const treatment = computed(() => treatmentOf(props.entry.kind))
const isTaking = (take: Take): boolean => view.taking?.term === props.entry.id && view.taking.name === take.label
function ask(take: Take) {
  const { id } = props.entry
  view.taking = isTaking(take)
    ? null
    : { term: id, name: take.label, line: id, what: 'metres' in take ? 'metres' : 'colour' }
}
const following = ref(false)
/**
 * What is there is followed from frame to frame, and how far away it is. That takes a while: it is for this line of this
 * shot, also where another is chosen by then.
 */
async function follow(value: string, at: readonly [number, number], label: string) {
  const { entry } = props
  const { id } = shot
  following.value = true
  try {
    const distance = await distanceFollowed(at)
    if (shot.id === id)
      shot.change(label, document => {
        const line = recipeOf(document, entry.id)?.[entry.id]
        if (line) line.values[value] = distance
      })
  } catch (error) {
    shot.message = (error as Error).message
  }
  following.value = false
}
watch(
  () => view.taken,
  taken => {
    const take = taken?.term === props.entry.id && treatment.value.takes?.find(({ label }) => label === taken.name)
    if (!take) return
    const round = (value: number): number => Number(value.toPrecision(5))
    const label = `${treatment.value.label}: ${take.label}`
    if ('metres' in take) {
      const { document, frame } = shot
      const held = valuesAt(treatment.value.values, props.entry.values, frame, valueAt)
      const seen = { camera: cameraAt(document!.scene.camera, frame), width: document!.frame.width }
      const metres = taken!.value as number
      if (take.follows) {
        view.taken = null
        return void follow(take.follows, taken!.at!, label)
      }
      const found = (taken!.shift && take.shifted ? take.shifted : take.metres)(metres, held, seen)
      emit(
        'values',
        label,
        Object.fromEntries(Object.entries(found).map(([name, value]) => [name, round(value as number)])),
      )
    } else {
      const [r, g, b] = (taken!.value as number[]).map(round) as [number, number, number]
      emit('values', label, take.values([r, g, b]))
    }
    view.taken = null
  },
)
/** While its line is the chosen one its handles are on the picture. */
onMounted(() => {
  if (treatment.value.handles) view.handled.push(props.entry.id)
})
onBeforeUnmount(() => {
  view.handled = view.handled.filter(id => id !== props.entry.id)
  if (view.taking?.term === props.entry.id) view.taking = null
})
const missing = computed(() => {
  const there = shot.document!.passes.file?.passes ?? []
  const asked = treatment.value.needs?.(props.entry.values) ?? []
  return asked.filter(id => !there.includes(id)).map(id => passOf(id)?.label ?? id)
})
const isAsking = computed(() =>
  asksTable(treatment.value, valuesAt(treatment.value.values, props.entry.values, shot.frame, valueAt)),
)
const isShape = computed(() => treatment.value.tabled === 'picture')
/** Colours of the lamps of the shot's scene, each so bright that its brightest channel is 1. */
const lamps = computed(() => {
  const name = treatment.value.offersLight
  return name ? lampColours(shot.document!, shot.frame).map(lamp => ({ ...lamp, name })) : []
})
async function bring(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    emit('table', await (isShape.value ? bringSmall(file) : bringTable(file)))
  } catch (error) {
    shot.message = (error as Error).message
  }
}
</script>

<template>
  <button
    v-for="take in treatment.takes ?? []"
    :key="take.label"
    class="word"
    :class="{ on: isTaking(take) }"
    :aria-pressed="isTaking(take)"
    data-test="line-take"
    @click="ask(take)"
  >
    {{
      isTaking(take)
        ? 'shifted' in take
          ? 'click it in the picture; with Shift the nearest or farthest'
          : 'click it in the picture'
        : 'follows' in take && following
          ? 'following …'
          : take.label
    }}
  </button>
  <button
    v-for="({ label, colour, name }, i) in lamps"
    :key="i"
    class="word"
    :data-test="`light-of-${label}`"
    @click="emit('values', `${treatment.label}: light of ${label}`.slice(0, 80), { [name]: colour })"
  >
    light of {{ label }}
  </button>
  <LineLikeness v-if="treatment.likened" :entry="entry" @values="(label, values) => emit('values', label, values)" />
  <template v-if="isAsking">
    <span
      ><b v-if="entry.table" data-test="line-table-name">{{ entry.table.name }}</b
      ><template v-else>{{ isShape ? 'no shape yet' : 'no table yet' }}</template></span
    ><label class="word"
      >{{ isShape ? 'from a picture' : 'from a .cube file'
      }}<input type="file" hidden :accept="isShape ? PICTURES : '.cube'" data-test="line-table-file" @change="bring"
    /></label>
  </template>
  <span v-if="missing.length" class="missing" role="status" data-test="line-missing"
    >The passes have no {{ missing.map(name => `“${name}”`).join(', ') }} yet{{
      treatment.without ? `: ${treatment.without} till then` : ''
    }}.</span
  >
</template>

<style scoped>
.on {
  color: var(--mark);
}
.missing {
  flex-basis: 100%;
}
</style>
