<script setup lang="ts">
// A treatment is chosen by what it does to this very picture: one search field, groups, and a small live picture of
// each, without it on the left and with it on the right. Enter takes the first.
import type { ShotDocument, TreatmentSettings } from '../../core/shot/document'
import { addRow, type Rows } from '../../core/shot/rows'
import { TREATMENTS } from '../../core/treatment/registry'
import { TREATMENT_GROUPS, type Treatment } from '../../core/treatment/treatment'
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
const words = ref('')
const group = ref<Treatment['group'] | 'all' | 'Looks'>('all')
const { looks, load, fetched, forget } = useLooks()
const field = ref<HTMLInputElement>()
const canvases = ref<Record<string, HTMLCanvasElement | null>>({})

const RECENT = 'northmist/treatments'
const MOST_RECENT = 6
const recent = ref<string[]>([])
const kept = (): string[] => {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(RECENT) ?? '[]')
    return Array.isArray(found) ? found.filter(id => TREATMENTS.some(one => one.id === id)) : []
  } catch {
    return []
  }
}
/** Those that were used last come first; a word that begins the name counts for more than one in the help. */
const found = computed(() => {
  const asked = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  const rank = ({ id, label, help, group: of }: Treatment): number => {
    const name = label.toLowerCase()
    const all = `${name} ${id} ${help} ${of}`.toLowerCase()
    if (!asked.every(word => all.includes(word))) return -1
    const begins = asked.some(word => name.split(' ').some(part => part.startsWith(word)))
    return (begins ? 100 : 0) + (MOST_RECENT - recent.value.indexOf(id)) * (recent.value.includes(id) ? 1 : 0)
  }
  return TREATMENTS.filter(one => !one.lined)
    .filter(one => group.value === 'all' || one.group === group.value)
    .map(treatment => ({ treatment, rank: rank(treatment) }))
    .filter(({ rank }) => rank >= 0)
    .sort((a, b) => b.rank - a.rank)
    .map(({ treatment }) => treatment)
})
const foundLooks = computed(() => {
  const asked = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return group.value === 'all' || group.value === 'Looks'
    ? looks.value.filter(({ name }) => asked.every(word => `look ${name}`.toLowerCase().includes(word)))
    : []
})
async function chooseLook(id: string) {
  open.value = false
  try {
    emit('look', await fetched(id))
  } catch (error) {
    shot.message = (error as Error).message
  }
}
function enter() {
  if (found.value[0]) choose(found.value[0].id)
  else if (foundLooks.value[0]) void chooseLook(foundLooks.value[0].id)
}
async function remove(id: string) {
  try {
    await forget(id)
  } catch (error) {
    shot.message = (error as Error).message
  }
}
function choose(kind: string) {
  recent.value = [kind, ...recent.value.filter(id => id !== kind)].slice(0, MOST_RECENT)
  localStorage.setItem(RECENT, JSON.stringify(recent.value))
  open.value = false
  emit('choose', kind)
}

let round = 0
watch(open, async now => {
  const mine = ++round
  if (!now) return
  words.value = ''
  group.value = 'all'
  recent.value = kept()
  load().catch((error: unknown) => (shot.message = (error as Error).message))
  view.matte = null
  await nextTick()
  field.value?.focus()
  const document = JSON.parse(JSON.stringify(shot.document)) as ShotDocument
  const picture = (of: ShotDocument): Promise<Picture> =>
    engine.picture({
      document: of,
      frame: shot.frame,
      shrink: 4,
      show: view.show,
      layer: view.layerAtWork,
      stops: view.stops,
      channel: 0,
    })
  try {
    const plain = await picture(document)
    for (const { id, shown } of found.value) {
      if (mine !== round) return
      const treated = JSON.parse(JSON.stringify(document)) as ShotDocument
      const made = props.make(id)
      addRow(props.find(treated), { ...made, values: { ...made.values, ...(shown as typeof made.values) } })
      const after = await picture(treated).catch(() => undefined)
      const canvas = canvases.value[id]
      if (mine !== round) return
      if (canvas) paint(canvas, plain, after ?? plain)
    }
  } catch (error) {
    shot.message = (error as Error).message
  }
})
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
  <v-dialog v-model="open" max-width="1010" scrollable>
    <div class="choose" data-test="choose">
      <div class="row">
        <input
          ref="field"
          v-model="words"
          class="search"
          type="search"
          aria-label="Search treatments"
          placeholder="softer, warmer, brighter lights …"
          data-test="choose-search"
          @keydown.stop
          @keydown.enter.prevent="enter"
          @keydown.esc="open = false"
        />
        <button
          v-for="one in ['all', ...TREATMENT_GROUPS, 'Looks'] as const"
          :key="one"
          class="group"
          :class="{ on: group === one }"
          :aria-pressed="group === one"
          @click="group = one"
        >
          {{ one.toLowerCase() }}
        </button>
      </div>
      <div class="sheet">
        <button
          v-for="(treatment, index) in found"
          :key="treatment.id"
          class="one"
          :class="{ first: index === 0 }"
          :data-test="`add-${treatment.id}`"
          @click="choose(treatment.id)"
        >
          <canvas
            :ref="canvas => (canvases[treatment.id] = canvas as HTMLCanvasElement)"
            width="280"
            height="168"
            aria-hidden="true"
          />
          <b>{{ treatment.label }}</b>
          <span class="soft">{{ treatment.help }}</span>
        </button>
        <div v-for="{ id, name, lines, picture } in foundLooks" :key="id" class="look">
          <button class="one" data-test="add-look" @click="chooseLook(id)">
            <img v-if="picture" :src="`/api/blobs/${picture}`" alt="" />
            <b>{{ name }}</b>
            <span class="soft">A look of {{ lines === 1 ? 'one line' : `${lines} lines` }}.</span></button
          ><button class="word soft" data-test="look-remove" @click="remove(id)">remove</button>
        </div>
        <p v-if="!found.length && !foundLooks.length" class="soft">No treatment does that. Fewer words find more.</p>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.choose {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 6px;
  padding: 18px;
  display: flex;
  flex-direction: column;
  gap: 14px;
  max-height: 84vh;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
}
.search {
  width: 330px;
  padding: 8px 12px;
  font: inherit;
  color: inherit;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.group {
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  padding: 0;
  font: inherit;
  color: var(--soft);
  cursor: pointer;
}
.group.on {
  color: var(--ink);
  font-weight: 600;
  border-color: var(--ink);
}
.sheet {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(148px, 1fr));
  gap: 14px 12px;
  overflow-y: auto;
  padding: 4px;
}
.one {
  display: flex;
  flex-direction: column;
  gap: 2px;
  text-align: left;
  background: none;
  border: 0;
  padding: 3px;
  font: inherit;
  font-size: 13px;
  color: inherit;
  cursor: pointer;
  border-radius: 6px;
}
.one .soft {
  font-size: 11.5px;
  line-height: 1.3;
}
.one canvas {
  width: 100%;
  aspect-ratio: 5 / 3;
  background: var(--faint);
  border-radius: 4px;
}
.look {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  font-size: 11.5px;
}
.look .one {
  width: 100%;
}
.one img {
  width: 100%;
  aspect-ratio: 5 / 3;
  object-fit: cover;
  border-radius: 4px;
}
.one:hover canvas,
.one.first canvas {
  outline: 2px solid var(--mark);
  outline-offset: 1px;
}
</style>
