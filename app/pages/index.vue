<script setup lang="ts">
import { newDocument } from '../../core/shot/document'
import { api, type ServerSays } from '~/composables/api'
import { engine } from '~/composables/engine'
import { bringPlate } from '../../core/shot/bring'
import {
  bringFootage,
  bringPicture,
  BESIDE_SCENES,
  bringScene,
  readScene,
  footageOf,
  PICTURES,
  SCENES,
  sceneOf,
  VIDEOS,
} from '~/composables/bring'
import { droppedFiles } from '~/composables/dropped'
import { useShot } from '~/stores/shot'
import { useJobs } from '~/stores/jobs'

interface Entry {
  id: string
  name: string
  thumbnail: string | null
  updatedAt: string
}
const shots = ref<Entry[]>([])
const loaded = ref(false)
const busy = ref('')
const message = ref('')
const removed = ref<Entry | null>(null)
const renaming = ref('')
const jobs = useJobs()
const router = useRouter()
/** Why the shots cannot be shown just now. */
const away = ref('')
let again: ReturnType<typeof setTimeout> | undefined
async function load() {
  clearTimeout(again)
  try {
    shots.value = await api<Entry[]>('/api/shots')
    loaded.value = true
    away.value = ''
    gone.value = await api<Entry[]>('/api/removed')
    used.value = await api<{ bytes: number; files: number }>('/api/room')
  } catch (error) {
    const { status, message: words } = error as ServerSays
    away.value = status ? words : 'The server does not answer; this page goes on by itself when it is back.'
    again = setTimeout(() => void load(), 2000)
  }
}
onBeforeUnmount(() => clearTimeout(again))
onMounted(() => {
  jobs.listen()
  void load()
  engine.warm()
})
watch(
  () => jobs.shotsChanged,
  () => {
    void load()
  },
)

/** A new shot from a plate and, if wanted, a scene file dropped with it. */
async function make(files: File[]) {
  try {
    const { scene: sceneFiles, rest } = await sceneOf(files)
    const [plate] = footageOf(rest)
    const scene = sceneFiles[0]
    const document = newDocument()
    let said = ''
    if (plate?.kind === 'still') {
      busy.value = `reading ${plate.name}`
      bringPlate(document, (await bringPicture(plate.files[0]!)).reference)
    }
    if (scene) {
      busy.value = `sending ${scene.name}`
      const { notes, ...reference } = await bringScene(sceneFiles)
      const { take, words } = await readScene(document, reference, document.frames.first)
      take(document)
      said = [...notes, ...words].join(' ')
    }
    const name = (plate ?? scene)?.name.replace(/\.\w+$/, '').slice(0, 200) || 'New shot'
    const { id } = await api<{ id: string }>('/api/shots', { method: 'POST', json: { name, document } })
    // Footage becomes a clip of the shot that is there now; the job goes on without this page
    if (plate && plate.kind !== 'still') {
      await useShot().open(id)
      await bringFootage(plate, 'plate', text => {
        busy.value = `${plate.name}: ${text}`
      })
    }
    useShot().arriving = said
    await router.push(`/shot/${id}?station=${scene && (!plate || plate.kind === 'still') ? 'scene' : 'plate'}`)
  } catch (error) {
    message.value = (error as Error).message
  }
  busy.value = ''
}
async function act(work: () => Promise<unknown>) {
  try {
    await work()
    await load()
  } catch (error) {
    message.value = (error as Error).message
  }
}
const copy = (entry: Entry): Promise<void> => act(() => api(`/api/shots/${entry.id}/copy`, { method: 'POST' }))
const remove = (entry: Entry): Promise<void> =>
  act(async () => {
    await api(`/api/shots/${entry.id}`, { method: 'DELETE' })
    removed.value = entry
  })
const restore = (): Promise<void> =>
  act(async () => {
    if (removed.value) await api(`/api/shots/${removed.value.id}/restore`, { method: 'POST' })
    removed.value = null
  })
// Deleted shots stay until they go for good
const gone = ref<Entry[]>([])
const used = ref<{ bytes: number; files: number } | null>(null)
const showGone = ref(false)
const bringBack = (entry: Entry): Promise<void> => act(() => api(`/api/shots/${entry.id}/restore`, { method: 'POST' }))
const forgetting = ref<Entry | null>(null)
async function forget() {
  const entry = forgetting.value!
  forgetting.value = null
  if (removed.value?.id === entry.id) removed.value = null
  await act(async () => {
    const { bytes } = await api<{ bytes: number }>(`/api/removed/${entry.id}`, { method: 'DELETE' })
    message.value = `“${entry.name}” is gone; ${sizeText(bytes)} are free again.`
  })
}
const sizeText = (bytes: number): string =>
  bytes >= 1e9
    ? `${(bytes / 1e9).toFixed(2)} GB`
    : bytes >= 1e6
      ? `${(bytes / 1e6).toFixed(1)} MB`
      : `${(bytes / 1e3).toFixed(0)} kB`
function rename(entry: Entry, event: Event) {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name && name !== entry.name) void act(() => api(`/api/shots/${entry.id}/name`, { method: 'PUT', json: { name } }))
}
</script>

<template>
  <v-app theme="paper">
    <main class="page" @dragover.prevent @drop.prevent="droppedFiles($event.dataTransfer).then(make)">
      <header class="row">
        <span class="mark">Northmist</span>
        <h1 class="soft grow shots-title">Shots</h1>
        <v-btn color="primary" variant="flat" data-test="new-shot" @click="make([])">New shot</v-btn>
      </header>
      <p v-if="away" class="away" role="alert" data-test="away">{{ away }}</p>
      <div class="grid" data-test="shots">
        <article v-for="entry in shots" :key="entry.id" class="card" :data-test="`shot-${entry.name}`">
          <NuxtLink :to="`/shot/${entry.id}?station=finish`" class="picture" :aria-label="`Open ${entry.name}`"
            ><img v-if="entry.thumbnail" :src="`/api/blobs/${entry.thumbnail}`" alt="" /><span v-else class="soft"
              >no picture yet</span
            ></NuxtLink
          >
          <div class="row caption">
            <WordField
              v-if="renaming === entry.id"
              class="grow rename"
              :value="entry.name"
              aria-label="Name"
              autofocus
              @change="rename(entry, $event)"
              @blur="renaming = ''"
            /><b v-else class="grow">{{ entry.name }}</b
            ><button class="word soft" data-test="rename" @click="renaming = entry.id">rename</button
            ><button class="word soft" data-test="copy" @click="copy(entry)">copy</button
            ><button class="word soft" data-test="delete" @click="remove(entry)">delete</button>
          </div>
          <div class="soft small">{{ new Date(entry.updatedAt).toLocaleString() }}</div>
        </article>
        <FileDrop
          many
          class="new"
          :accept="`${PICTURES},${VIDEOS},${SCENES},${BESIDE_SCENES}`"
          label="New shot from files"
          data-test="drop-new"
          @files="make"
          >{{
            busy ||
            'Drop a photograph or footage here, and a glTF scene with it if there is one: a new shot starts from them.'
          }}</FileDrop
        >
      </div>
      <p v-if="loaded && !shots.length" class="soft">No shots yet.</p>
      <footer v-if="used" class="row foot soft">
        <span data-test="room">{{ sizeText(used.bytes) }} on disk, in {{ used.files }} files</span>
        <button v-if="gone.length" class="word" data-test="show-removed" @click="showGone = !showGone">
          {{ gone.length }} deleted {{ gone.length === 1 ? 'shot' : 'shots' }}
        </button>
      </footer>
      <ul v-if="showGone && gone.length" class="gone" data-test="removed">
        <li v-for="entry in gone" :key="entry.id" class="row">
          <img v-if="entry.thumbnail" :src="`/api/blobs/${entry.thumbnail}`" alt="" /><span v-else class="none" />
          <b>{{ entry.name }}</b>
          <button class="word" data-test="bring-back" @click="bringBack(entry)">bring back</button>
          <button class="word" data-test="forget" @click="forgetting = entry">delete for good</button>
        </li>
      </ul>
    </main>
    <v-snackbar :key="removed?.id" :model-value="!!removed" :timeout="12000" @update:model-value="removed = null"
      >“{{ removed?.name }}” was deleted.
      <template #actions><v-btn data-test="undo-delete" @click="restore">Undo</v-btn></template></v-snackbar
    >
    <v-dialog :model-value="!!forgetting" max-width="420" @update:model-value="forgetting = null"
      ><v-card class="pa-4"
        ><h2>Delete “{{ forgetting?.name }}” for good?</h2>
        <p class="my-3">Its changes, and files that no other shot uses, go with it. This cannot be undone.</p>
        <div class="row">
          <v-btn @click="forgetting = null">Keep it</v-btn
          ><v-btn color="primary" data-test="forget-now" @click="forget">Delete for good</v-btn>
        </div></v-card
      ></v-dialog
    >
    <v-snackbar :key="message" :model-value="!!message" :timeout="8000" @update:model-value="message = ''">{{
      message
    }}</v-snackbar>
  </v-app>
</template>

<style scoped>
.page {
  height: 100vh;
  overflow: auto;
  padding: 22px 32px;
}
.mark {
  font-size: 22px;
  font-weight: 650;
}
.shots-title {
  font: inherit;
  margin: 0;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(330px, 1fr));
  gap: 22px;
  margin-top: 22px;
}
.picture {
  display: grid;
  place-items: center;
  aspect-ratio: 3 / 2;
  background: var(--wall);
  border-radius: 6px;
  overflow: hidden;
  text-decoration: none;
}
.picture img {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.picture .soft {
  color: #2a2d2e;
}
.caption {
  margin-top: 7px;
  gap: 12px;
  font-size: 14px;
}
.caption .word {
  font-size: 12px;
}
.small {
  font-size: 12px;
}
.away {
  margin-top: 18px;
  padding: 10px 14px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--card);
}
.new {
  aspect-ratio: 3 / 2;
  height: fit-content;
  text-align: center;
  padding: 40px;
}
.foot {
  gap: 14px;
  margin-top: 26px;
  font-size: 12.5px;
}
.gone {
  list-style: none;
  padding: 0;
  margin: 10px 0;
}
.gone li {
  gap: 12px;
  padding: 4px 0;
  font-size: 13px;
}
.gone img,
.gone .none {
  width: 60px;
  height: 40px;
  object-fit: cover;
  border-radius: 4px;
  background: var(--wall);
}
.rename {
  font: inherit;
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 0 4px;
  background: var(--card);
}
</style>
