<script setup lang="ts">
// Of a stuck drawing, and of what is in one: on which frame it is drawn, what is put into it, which pass it needs.
import { ON_THINGS } from '../../core/layer/stuckValues'
import { passOf } from '../../core/render/passes'
import { seenObjects } from '../../core/shot/document'
import { drawByBrush, drawPicture, drawWords, spotIn, stuckRound, type Spot } from '../../core/shot/stuck'
import { passFileOf } from '../../core/shot/tree'
import { valueAt } from '../../core/time/curve'
import { bringFootage, bringPicture, footageOf, PICTURES, VIDEOS, type Footage } from '~/composables/bring'
import { engine } from '~/composables/engine'
import { FIRST_FONT, shippedFont } from '~/composables/fonts'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ id: string }>()
const shot = useShot()
const view = useView()
const { choose, edit } = useRecipe()
const stuck = computed(() => stuckRound(shot.document!, props.id))
const isIt = computed(() => stuck.value?.id === props.id)
const placed = computed(() => (stuck.value ? Math.round(valueAt(stuck.value.placed, shot.frame)) : shot.frame))
const goThere = (): void => {
  shot.frame = placed.value
}
/** It is drawn on this frame instead: what is in it stays where it is on the picture. */
const placeHere = (): void => {
  const { frame } = shot
  edit<NonNullable<typeof stuck.value>>('Frame of a drawing', stuck.value!.id, found => {
    found.placed = frame
  })
}
const beginHere = (): void => {
  const { frame } = shot
  edit<NonNullable<typeof stuck.value>>('First frame of a drawing', stuck.value!.id, found => {
    found.appears = frame
  })
}

/** What is drawn on: what is picked, else all that the render shows. */
async function spot() {
  const file = passFileOf(shot.document!, props.id)
  if (stuck.value?.onto !== ON_THINGS || !file) return undefined
  const all = seenObjects(file)
  const picked = view.picked.filter(name => all.includes(name))
  const names = picked.length ? picked : all
  return spotIn(await engine.highlight(shot.document!, placed.value, names, 'straight', props.id).catch(() => ''))
}

const busy = ref('')
async function put(what: () => Promise<string> | string) {
  goThere()
  try {
    const made = await what()
    if (made) choose(made)
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
}
const takePicture = (files: File[]): Promise<void> =>
  put(async () => {
    const there = await spot()
    let made = ''
    for (const footage of footageOf(files)) made = (await takeFootage(footage, there)) || made
    return made
  })
async function takeFootage(footage: Footage, there: Spot | undefined): Promise<string> {
  const { name, kind, files } = footage
  const say = (text: string): void => {
    busy.value = `${name}: ${text}`
  }
  say('reading')
  if (kind !== 'still') {
    await bringFootage(footage, 'drawing', say, { id: props.id, ...there })
    return ''
  }
  const { reference } = await bringPicture(files[0]!)
  let made = ''
  shot.change(`Draw ${name}`.slice(0, 80), document => {
    made = drawPicture(document, props.id, reference, shot.frame, there)
  })
  return made
}
const takeWords = (): Promise<void> =>
  put(async () => {
    const font = await shippedFont(FIRST_FONT)
    const there = await spot()
    let made = ''
    shot.change('Draw words', document => {
      made = drawWords(document, props.id, font, shot.frame, there)
    })
    return made
  })
const takeBrush = (): Promise<void> =>
  put(() => {
    let made = ''
    shot.change('Draw with a brush', document => {
      made = drawByBrush(document, props.id)
    })
    return made
  })

// Without the pass nothing of it is seen
const isMissing = computed(() => {
  if (!isIt.value || stuck.value?.onto !== ON_THINGS) return false
  const file = passFileOf(shot.document!, props.id)
  return !file?.passes.includes('rest')
})
const isOwn = computed(() => passFileOf(shot.document!, props.id) === shot.document!.passes.file)
function ask() {
  shot.change('Pass for a drawing', ({ passes }) => {
    if (!passes.selected.includes('rest')) passes.selected.push('rest')
  })
  view.station = 'passes'
}
const REST = passOf('rest')!
</script>

<template>
  <template v-if="stuck">
    <p v-if="shot.frame !== placed" data-test="stuck-elsewhere">
      drawn on frame {{ placed }}:
      <button class="word" data-test="stuck-there" @click="goThere">see it there</button>
      <template v-if="isIt">
        · <button class="word soft" data-test="stuck-here" @click="placeHere">draw it on this frame</button> ·
        <button class="word soft" data-test="stuck-begins" @click="beginHere">let it begin here</button>
      </template>
    </p>
    <template v-if="isIt">
      <p v-if="isMissing" class="missing" role="status" data-test="stuck-missing">
        The passes have no “{{ REST.label }}”: nothing of it is seen until they are rendered with it.
        <button v-if="isOwn" class="word" data-test="stuck-ask" @click="ask">choose that pass</button>
      </p>
      <FileDrop
        label="Draw a picture or clip"
        many
        :accept="`${PICTURES},${VIDEOS}`"
        data-test="stuck-picture"
        @files="takePicture"
        >{{ busy || 'Draw a picture or clip on it: drop it here or click' }}</FileDrop
      >
      <p class="acts">
        <button class="word soft" data-test="stuck-words" @click="takeWords">draw words</button>
        <button class="word soft" data-test="stuck-brush" @click="takeBrush">draw with a brush</button>
      </p>
    </template>
  </template>
</template>

<style scoped>
p {
  margin: 0 0 4px;
}
.acts {
  display: flex;
  gap: 12px;
  margin-top: 6px;
}
</style>
