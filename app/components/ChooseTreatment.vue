<script setup lang="ts">
// A treatment is chosen by what it does to this very picture, without it on the left and with it on the right; looks
// that are kept stand beside them.
import type { ShotDocument, TreatmentSettings } from '../../core/shot/document'
import { addRow, type Rows } from '../../core/shot/rows'
import { TREATMENTS, treatmentOf } from '../../core/treatment/registry'
import { TREATMENT_GROUPS } from '../../core/treatment/treatment'
import type { Look } from '../../core/shot/look'
import { useLooks } from '~/composables/looks'
import { engine } from '~/composables/engine'
import { canvasOf } from '~/composables/smallPicture'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { Picture } from '~/workers/messages'

const props = defineProps<{
  find: (document: ShotDocument) => Rows<TreatmentSettings>
  /** The line as it would be added. */
  make: (kind: string) => Omit<TreatmentSettings, 'order'>
}>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ choose: [kind: string]; look: [look: Look] }>()
const shot = useShot()
const view = useView()
const { looks, load, fetched, forget } = useLooks()

const LOOKS = 'Looks'
const looksOf = (words: readonly string[], group: string): typeof looks.value =>
  group === 'all' || group === LOOKS
    ? looks.value.filter(({ name }) => words.every(word => `look ${name}`.toLowerCase().includes(word)))
    : []
async function chooseLook(id: string) {
  open.value = false
  try {
    emit('look', await fetched(id))
  } catch (error) {
    shot.message = (error as Error).message
  }
}
async function remove(id: string) {
  try {
    await forget(id)
  } catch (error) {
    shot.message = (error as Error).message
  }
}
function opened() {
  load().catch((error: unknown) => (shot.message = (error as Error).message))
  view.matte = null
}
const picture = (document: ShotDocument): Promise<Picture> =>
  engine.picture({
    ...{ document, frame: shot.frame, shrink: 4 as const, show: view.show },
    ...{ layer: view.layerAtWork, stops: view.stops, channel: 0 },
  })
async function draw() {
  const document = JSON.parse(JSON.stringify(shot.document)) as ShotDocument
  const plain = await picture(document)
  return async (id: string, canvas: HTMLCanvasElement): Promise<void> => {
    const treated = JSON.parse(JSON.stringify(document)) as ShotDocument
    const made = props.make(id)
    const { shown } = treatmentOf(id)
    addRow(props.find(treated), { ...made, values: { ...made.values, ...(shown as typeof made.values) } })
    paint(canvas, plain, await picture(treated).catch(() => plain))
  }
}
/** Half of each, cut to the canvas's shape. */
function paint(canvas: HTMLCanvasElement, before: Picture, after: Picture) {
  const context = canvas.getContext('2d')!
  const { width, height } = canvas
  const scale = Math.max(width / before.width, height / before.height)
  context.imageSmoothingQuality = 'high'
  for (const [picture, from] of [
    [before, 0],
    [after, width / 2],
  ] as const) {
    context.save()
    context.beginPath()
    context.rect(from, 0, width / 2, height)
    context.clip()
    context.drawImage(
      canvasOf(picture),
      (width - picture.width * scale) / 2,
      (height - picture.height * scale) / 2,
      picture.width * scale,
      picture.height * scale,
    )
    context.restore()
  }
  context.fillStyle = '#fff'
  context.fillRect(width / 2 - 0.5, 0, 1, height)
}
</script>

<template>
  <ChooseSheet
    v-model="open"
    what="treatment"
    mark="add"
    :entries="TREATMENTS.filter(({ lined }) => !lined)"
    :groups="[...TREATMENT_GROUPS, LOOKS]"
    placeholder="softer, warmer, brighter lights …"
    :draw="draw"
    :more="(words, group) => looksOf(words, group).length > 0"
    @opened="opened"
    @choose="kind => emit('choose', kind)"
    @rest="(words, group) => looksOf(words, group)[0] && chooseLook(looksOf(words, group)[0]!.id)"
  >
    <template #default="{ words, group }">
      <div v-for="{ id, name, lines, picture: kept } in looksOf(words, group)" :key="id" class="look">
        <button class="choice" data-test="add-look" @click="chooseLook(id)">
          <img v-if="kept" :src="`/api/blobs/${kept}`" alt="" />
          <b>{{ name }}</b>
          <span class="soft">A look of {{ lines === 1 ? 'one line' : `${lines} lines` }}.</span></button
        ><button class="word soft" data-test="look-remove" @click="remove(id)">remove</button>
      </div>
    </template>
  </ChooseSheet>
</template>

<style scoped>
.look {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  font-size: 11.5px;
}
.look .choice {
  width: 100%;
}
img {
  width: 100%;
  aspect-ratio: 5 / 3;
  object-fit: cover;
  border-radius: 4px;
}
</style>
