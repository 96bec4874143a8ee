<script setup lang="ts">
// The ledger: versions of the shot that were kept, looked at beside what is now, brought back whole or a layer at a time.
import { mdiClose } from '@mdi/js'
import { bringAllBack, bringLayerBack, differingLayers, type KeptVersion } from '../../core/shot/ledger'
import type { ShotDocument } from '../../core/shot/document'
import { inOrder } from '../../core/shot/rows'
import { api } from '~/composables/api'
import { useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'
import { useView, COMPARED_BY } from '~/stores/view'

const shot = useShot()
const view = useView()
const jobs = useJobs()
const list = ref<KeptVersion[]>([])
const name = ref('')
const busy = ref(false)
/** The one that is open, and what the shot was then. */
const open = ref<{ id: string; document: ShotDocument } | null>(null)

const path = (version = ''): string => `/api/shots/${shot.id}/versions${version && `/${version}`}`
const said = (error: unknown): void => {
  shot.message = (error as Error).message
}
async function load() {
  try {
    list.value = await api<KeptVersion[]>(path())
  } catch (error) {
    said(error)
  }
}
watch(() => jobs.ledgerChanged, load, { immediate: true })
onBeforeUnmount(() => {
  if (view.compare?.kept) view.compare = null
})

async function keep() {
  busy.value = true
  try {
    await shot.save()
    const at = new Date().toLocaleString()
    await api(path(), { method: 'POST', json: { name: name.value.trim() || `kept ${at}` } })
    name.value = ''
    await load()
  } catch (error) {
    said(error)
  }
  busy.value = false
}
async function rename(version: KeptVersion, event: Event) {
  const text = (event.target as HTMLInputElement).value.trim().slice(0, 200)
  if (!text || text === version.name) return
  try {
    await api(`${path(version.id)}/name`, { method: 'PUT', json: { name: text } })
    await load()
  } catch (error) {
    said(error)
  }
}
async function choose(version: KeptVersion) {
  if (view.compare?.kept) view.compare = null
  if (open.value?.id === version.id) {
    open.value = null
    return
  }
  try {
    open.value = { id: version.id, document: await api<ShotDocument>(path(version.id)) }
  } catch (error) {
    said(error)
  }
}

function compare(version: KeptVersion, by: (typeof COMPARED_BY)[number]) {
  const { compare } = view
  view.compare =
    compare?.kept?.id === version.id && compare.by === by
      ? null
      : {
          ...{ with: 'kept', at: 0.5, angle: 0, by },
          kept: { id: version.id, name: version.name, document: open.value!.document },
        }
}
const differing = computed(() =>
  open.value && shot.document ? differingLayers(toRaw(shot.document) as ShotDocument, toRaw(open.value.document)) : [],
)
/** Layers of now that the version has not. */
const added = computed(() =>
  inOrder(shot.document?.build.layers)
    .filter(({ id }) => open.value && !Object.hasOwn(open.value.document.build.layers, id))
    .map(layer => layer.name),
)
function bringBack(version: KeptVersion) {
  const then = toRaw(open.value!.document)
  shot.change(`All as in “${version.name}”`, document => {
    bringAllBack(document, then)
  })
}
function bringOne(id: string, layer: string) {
  const then = toRaw(open.value!.document)
  shot.change(`${layer} as it was`, document => {
    bringLayerBack(document, then, id)
  })
}
/** As a shot of its own, in a page beside this one. */
async function beside(version: KeptVersion) {
  // Opened at once: later the browser would not let it
  const page = window.open('about:blank', '_blank')
  try {
    const json = { name: `${shot.name}, ${version.name}`.slice(0, 200), document: toRaw(open.value!.document) }
    const { id } = await api<{ id: string }>('/api/shots', { method: 'POST', json })
    if (page) page.location.href = `/shot/${id}`
    else shot.message = 'It is among your shots; this browser opens no second page by itself.'
  } catch (error) {
    page?.close()
    said(error)
  }
}
</script>

<template>
  <section aria-label="Ledger">
    <div class="row head">
      <h2 class="grow">Ledger</h2>
      <v-btn
        :icon="mdiClose"
        size="x-small"
        aria-label="Close the ledger"
        data-test="ledger-close"
        @click="view.ledgerOpen = false"
      />
    </div>
    <div class="panel">
      <p class="soft">Every version stays as it was. One is kept by itself whenever something is sent.</p>
      <form class="row" @submit.prevent="keep">
        <v-text-field v-model="name" label="Name" maxlength="200" hide-details data-test="version-name" @keydown.stop />
        <v-btn type="submit" :disabled="busy" data-test="version-keep">Keep this version</v-btn>
      </form>
    </div>
    <p v-if="!list.length" class="panel soft">No version kept yet.</p>
    <article
      v-for="version in list"
      :key="version.id"
      class="version"
      :class="{ open: open?.id === version.id }"
      :data-test="`version-${version.name}`"
    >
      <div class="row line">
        <button
          class="face"
          :aria-expanded="open?.id === version.id"
          :aria-label="`Open ${version.name}`"
          @click="choose(version)"
        >
          <img v-if="version.picture" :src="`/api/blobs/${version.picture}`" alt="" /><i v-else />
        </button>
        <div class="grow">
          <WordField
            class="rename"
            maxlength="200"
            :value="version.name"
            :aria-label="`Name of ${version.name}`"
            @change="rename(version, $event)"
          />
          <div class="soft small">{{ new Date(version.createdAt).toLocaleString() }}</div>
        </div>
        <button class="word soft" data-test="version-open" @click="choose(version)">
          {{ open?.id === version.id ? 'close' : 'look' }}
        </button>
      </div>
      <div v-if="open?.id === version.id" class="inside">
        <p>
          beside now by
          <template v-for="(by, i) in COMPARED_BY" :key="by"
            ><template v-if="i"> · </template
            ><button
              class="word"
              :aria-pressed="view.compare?.kept?.id === version.id && view.compare.by === by"
              :data-test="`compare-${by}`"
              @click="compare(version, by)"
            >
              {{ by }}
            </button></template
          >
          · <button class="word soft" data-test="version-beside" @click="beside(version)">as a shot of its own</button>
        </p>
        <p v-if="!differing.length" class="soft">All its layers are as they are now.</p>
        <p v-if="added.length" class="soft">New since then: {{ added.join(', ') }}.</p>
        <p v-for="{ layer, gone } in differing" :key="layer.id">
          {{ layer.name }} <span class="soft">{{ gone ? 'is gone' : 'differs' }}</span>:
          <button class="word" :data-test="`back-${layer.name}`" @click="bringOne(layer.id, layer.name)">
            bring it back
          </button>
        </p>
        <p><button class="word" data-test="back-all" @click="bringBack(version)">bring all of it back</button></p>
      </div>
    </article>
  </section>
</template>

<style scoped>
.head {
  padding: 8px 8px 0 14px;
}
.head + .panel {
  padding-top: 0;
}
.version {
  border-top: 1px solid var(--line);
  padding: 8px 14px;
}
.version.open {
  background: var(--sheet);
  box-shadow: inset 3px 0 var(--accent);
}
.line {
  gap: 10px;
}
.face {
  flex: none;
  width: 72px;
  height: 45px;
  padding: 0;
  border: 0;
  background: var(--line);
}
.face img {
  width: 100%;
  height: 100%;
  object-fit: cover;
  display: block;
}
.inside {
  line-height: 1.7;
  padding-top: 6px;
}
.inside p {
  margin: 0;
}
</style>
