<script setup lang="ts">
// What words say, and the font that they are set in.
import type { FontReference, WordsLayer } from '../../core/shot/document'
import { MOST_CHARACTERS } from '../../core/words/limits'
import { bringFont, FONTS, SHIPPED_FONTS, shippedFont } from '~/composables/fonts'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'

const props = defineProps<{ layer: WordsLayer }>()
const shot = useShot()
const { edit } = useRecipe()
const input = ref<HTMLInputElement>()
/** What is being typed stays, whatever comes meanwhile. */
const typed = ref<string | null>(null)
const lines = computed(() => Math.min(8, (typed.value ?? props.layer.text).split('\n').length))

function write(live: boolean) {
  const text = typed.value
  if (text === null || !text) return
  edit<WordsLayer>(
    `Text of ${props.layer.name}`,
    props.layer.id,
    found => {
      found.text = text
    },
    live,
  )
}
function leave() {
  write(false)
  typed.value = null
}

async function take(font: () => Promise<FontReference>) {
  const { id, name } = props.layer
  try {
    const found = await font()
    edit<WordsLayer>(`Font of ${name}`, id, layer => {
      if (layer.kind === 'words') layer.font = found
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
function choose(event: Event) {
  const select = event.target as HTMLSelectElement
  const name = SHIPPED_FONTS.find(one => one === select.value)
  if (name) void take(() => shippedFont(name))
  else {
    // Until one is there it is what it was
    select.value = props.layer.font.name
    input.value?.click()
  }
}
function bring(event: Event) {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (file) void take(() => bringFont(file))
  field.value = ''
}
const isOwn = computed(() => !SHIPPED_FONTS.some(name => name === props.layer.font.name))
</script>

<template>
  <p>
    <textarea
      :value="typed ?? layer.text"
      :rows="lines"
      :maxlength="MOST_CHARACTERS"
      :aria-label="`Text of ${layer.name}`"
      class="writing"
      data-test="words-text"
      @input="((typed = ($event.target as HTMLTextAreaElement).value), write(true))"
      @change="write(false)"
      @blur="leave"
      @keydown.stop
    />
  </p>
  <p>
    in
    <select class="word" :value="layer.font.name" aria-label="Font" data-test="font" @change="choose" @keydown.stop>
      <option v-if="isOwn" :value="layer.font.name">{{ layer.font.name }}</option>
      <option v-for="name in SHIPPED_FONTS" :key="name" :value="name">{{ name }}</option>
      <option value="">one of yours …</option>
    </select>
    <input ref="input" type="file" hidden :accept="FONTS" aria-label="A font" data-test="font-file" @change="bring" />
  </p>
</template>
