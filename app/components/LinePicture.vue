<script setup lang="ts">
// The picture that a line is made of beside what comes to it: from a file, or one that the shot has already.
import type { PictureReference } from '../../core/shot/document'
import { picturesOf } from '../../core/shot/pictures'
import { bringPicture, PICTURES } from '~/composables/bring'
import { useShot } from '~/stores/shot'

/** asked: the line is made of one, and has it or not. */
defineProps<{ picture?: PictureReference; asked?: boolean }>()
const emit = defineEmits<{ take: [picture: PictureReference] }>()
const shot = useShot()
const there = computed(() => picturesOf(shot.document!))
const busy = ref(false)
async function bring(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  busy.value = true
  try {
    const { reference, notes } = await bringPicture(file)
    emit('take', reference)
    if (notes.length) shot.message = notes.join(' ')
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = false
}
function choose(event: Event) {
  const select = event.target as HTMLSelectElement
  const found = there.value[Number(select.value)]
  select.value = ''
  if (found) emit('take', JSON.parse(JSON.stringify(found.picture)) as PictureReference)
}
</script>

<template>
  <span class="taken"
    ><b v-if="picture" data-test="line-picture-name">{{ picture.name }}</b
    ><span v-else-if="asked" class="soft">no picture yet</span>{{ ' ' }}
    <label class="word"
      >{{ busy ? 'bringing it …' : 'from a file'
      }}<input type="file" hidden :accept="PICTURES" data-test="line-picture-file" @change="bring" /></label
    >{{ ' ' }}
    <select
      v-if="there.length"
      class="word"
      value=""
      aria-label="A picture of this shot"
      data-test="line-picture-there"
      @change="choose"
      @keydown.stop
    >
      <option value="" disabled>of this shot</option>
      <option v-for="(one, index) in there" :key="index" :value="index">{{ one.label }}</option>
    </select></span
  >
</template>
