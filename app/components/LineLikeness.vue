<script setup lang="ts">
// A line made like another picture: all or a drawn part of what comes to it, measured beside all or a part of another
// picture, or beside a part of this one.
import type { EntryValue } from '../../core/declare/field'
import type { Part } from '../../core/compose/probe'
import type { Likeness } from '../../core/measure/likeness'
import type { PictureReference, TreatmentSettings } from '../../core/shot/document'
import { treatmentOf } from '../../core/treatment/registry'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { PictureOrder } from '~/workers/messages'

const props = defineProps<{ entry: TreatmentSettings }>()
const emit = defineEmits<{ values: [label: string, values: Record<string, EntryValue>] }>()
const shot = useShot()
const view = useView()
const treatment = computed(() => treatmentOf(props.entry.kind))
const isGrain = computed(() => treatment.value.likenedBy === 'grain')

/** What of this picture is measured; null: all of it. */
const own = shallowRef<Part | null>(null)
/** What it was made like last. */
const other = shallowRef<{ likeness: Likeness; name: string } | null>(null)
/** The picture that a part may be drawn on. */
const picture = shallowRef<PictureReference | null>(null)

const show = computed(() => ({ kind: 'comes' as const, line: props.entry.id }))
/** What another part is like is measured on the picture as it is shown; of Finish, as it comes to the line. */
const here = computed(() => (view.station === 'build' ? ({ kind: 'build' } as const) : show.value))
/** Fewer pixels do, of a large part. */
const ENOUGH = 65536
async function measured(
  told: Pick<PictureOrder, 'document' | 'show'>,
  part: Part | null,
  name: string,
): Promise<Likeness> {
  const { left, top, right, bottom } = part ?? { left: 0, top: 0, right: 1, bottom: 1 }
  const { width, height } = shot.document!.frame
  const pixels = (right - left) * (bottom - top) * width * height
  const shrink = isGrain.value ? 1 : pixels > ENOUGH * 16 ? 4 : pixels > ENOUGH * 4 ? 2 : 1
  const [across, down] = [Math.floor(width / shrink), Math.floor(height / shrink)]
  const area = {
    left: Math.floor(left * across),
    top: Math.floor(top * down),
    right: Math.ceil(right * across),
    bottom: Math.ceil(bottom * down),
  }
  const found = await engine.likeness(
    { ...told, ...{ frame: shot.frame, shrink, stops: 0, channel: 0, layer: view.layerAtWork }, area },
    isGrain.value,
  )
  if (!found) throw new Error(`There is nothing to measure in ${name}.`)
  return found
}
async function say(find: () => Promise<{ likeness: Likeness; name: string } | null>) {
  try {
    other.value = (await find()) ?? other.value
    if (!other.value) return
    const { likeness, name } = other.value
    const { label, likened } = treatment.value
    // Grain is laid as it is, whatever comes to the line
    const mine = isGrain.value
      ? likeness
      : await measured({ document: shot.document!, show: show.value }, own.value, 'what comes to this line')
    emit('values', `${label}: like ${name}`.slice(0, 80), likened!(mine, likeness))
  } catch (error) {
    shot.message = (error as Error).message
  }
}
const of = (plate: PictureReference, part: Part | null) => async () => {
  const document = { ...shot.document!, plate: JSON.parse(JSON.stringify(plate)) as PictureReference }
  const likeness = await measured({ document, show: { kind: 'plate', straight: true } }, part, plate.name)
  return { likeness, name: plate.name }
}
function liken(chosen: PictureReference) {
  picture.value = chosen
  void say(of(chosen, null))
}

const ASKED = {
  own: 'draw a frame round what is to change',
  here: 'draw a frame round what it is to be like',
  there: 'draw a frame on that picture',
}
type Asked = keyof typeof ASKED
const asked = computed(() => (view.taking?.term === props.entry.id ? (view.taking.name as Asked) : null))
function ask(what: Asked) {
  const { id } = props.entry
  view.shownPicture = null
  view.taking = asked.value === what ? null : { term: id, name: what, line: id, what: 'part' }
  if (view.taking && what === 'there') view.shownPicture = picture.value
}
watch(asked, now => {
  if (now !== 'there') view.shownPicture = null
})
watch(
  () => view.taken,
  taken => {
    if (taken?.term !== props.entry.id || taken.what !== 'part') return
    const [left, top, right, bottom] = taken.value as [number, number, number, number]
    const part = { left, top, right, bottom }
    view.taken = null
    if (taken.name === 'own') {
      own.value = part
      void say(async () => null)
    } else if (taken.name === 'here')
      void say(async () => ({
        likeness: await measured({ document: shot.document!, show: here.value }, part, 'that part'),
        name: 'a part of it',
      }))
    else if (picture.value) void say(of(picture.value, part))
  },
)
onBeforeUnmount(() => {
  if (asked.value) view.taking = null
  view.shownPicture = null
})
function all() {
  own.value = null
  void say(async () => null)
}
</script>

<template>
  <span
    ><template v-if="!isGrain"
      >of
      <button
        class="word"
        :class="{ on: asked === 'own' }"
        :aria-pressed="asked === 'own'"
        data-test="like-own"
        @click="own ? all() : ask('own')"
      >
        {{ asked === 'own' ? ASKED.own : own ? 'a part' : 'all of it' }}</button>, </template
    >make it like <LinePicture @take="liken" />{{ ' ' }}
    <button
      class="word"
      :class="{ on: asked === 'here' }"
      :aria-pressed="asked === 'here'"
      data-test="like-here"
      @click="ask('here')"
    >
      {{ asked === 'here' ? ASKED.here : 'a part of this one' }}</button>{{ ' ' }}
    <button
      v-if="picture"
      class="word"
      :class="{ on: asked === 'there' }"
      :aria-pressed="asked === 'there'"
      data-test="like-there"
      @click="ask('there')"
    >
      {{ asked === 'there' ? ASKED.there : `a part of ${picture.name}` }}
    </button></span
  >
</template>

<style scoped>
.on {
  color: var(--mark);
}
</style>
