<script setup lang="ts">
import type { Seen } from '../../../core/render/passes'
import type { Meant } from '../../../core/compose/probe'
import { isDepth } from '../../../core/render/passes'
import { engine } from '~/composables/engine'
import { api } from '~/composables/api'
import { stop } from '~/composables/playback'
import { KEYS, useShotKeys } from '~/composables/shotKeys'
import { useTaking } from '~/composables/taking'
import { useJobs } from '~/stores/jobs'
import { ServerSays } from '~/composables/api'
import { useShot } from '~/stores/shot'
import { STATIONS, STRIPS, useView, type Station } from '~/stores/view'
import { useStationPicture } from '~/composables/stationPicture'
import type { SceneInfo } from '~/workers/messages'

const route = useRoute()
const router = useRouter()
const shot = useShot()
const view = useView()
const jobs = useJobs()
const ready = ref(false)
view.picked = []
const fault = ref('')
const info = ref<SceneInfo | null>(null)
const grid = ref(true)
const { replacement, previewSamples, previewIds, endPreview } = useStationPicture(ready)
const sideWidth = ref(Number(localStorage.getItem('northmist/side')) || 344)
const lowerHeight = ref(Number(localStorage.getItem('northmist/lower')) || 330)

/** At once, so that the next key acts there; the address follows. */
function go(station: Station) {
  view.ledgerOpen = false
  arrive(station)
  void router.replace({ query: { ...route.query, station } })
}
/** What is picked in the scene is not what is picked in the picture: each is taken up again where it was left. */
let left: { names: string[]; seen: Seen } = { names: [], seen: 'straight' }
function arrive(station: Station) {
  const inScene = view.station === 'scene'
  view.station = station
  view.matte = null
  view.taking = null
  view.slipOpen = ''
  view.held = null
  view.matchTool = null
  view.sceneTool = null
  if (inScene !== (station === 'scene')) {
    const now = { names: view.picked, seen: view.pickedSeen }
    view.picked = left.names
    view.pickedSeen = left.seen
    left = now
  }
  if (station !== 'build') view.deskOpen = false
}
const stationOfAddress = (): Station =>
  STATIONS.includes(route.query.station as Station) ? (route.query.station as Station) : 'build'
arrive(stationOfAddress())
// The browser's own way back
watch(stationOfAddress, station => {
  if (station !== view.station) arrive(station)
})

const take = useTaking()
useShotKeys(() => ready.value, go)
onMounted(async () => {
  window.addEventListener('pagehide', shot.keepNow)
  document.addEventListener('visibilitychange', shot.keepNow)
  await open()
})
let reopening: ReturnType<typeof setTimeout> | undefined
/** Opens the shot; while the server or its database is away it says so and tries again. */
async function open() {
  try {
    await shot.open(String(route.params.id))
    fault.value = ''
    ready.value = true
    jobs.listen()
    await jobs.load(shot.id)
  } catch (error) {
    fault.value = (error as Error).message
    if (error instanceof ServerSays && (error.status === 0 || error.status >= 500))
      reopening = setTimeout(() => void open(), 2000)
  }
}
onBeforeUnmount(() => {
  clearTimeout(reopening)
  window.removeEventListener('pagehide', shot.keepNow)
  document.removeEventListener('visibilitychange', shot.keepNow)
  endPreview()
  stop()
  // What was pinned and measured is of this picture
  Object.assign(view, { pins: [], measuredBox: null, borders: '' })
  void shot.save()
})

watch([ready, () => JSON.stringify(shot.document?.scene), () => shot.frame], async () => {
  if (ready.value && shot.document && !view.playing)
    info.value = await engine.sceneInfo(shot.document, shot.frame).catch(error => {
      shot.message = (error as Error).message
      return null
    })
})

function placed(u: number, v: number, event: PointerEvent) {
  if (view.taking) return void take(view.taking, u, v, event.shiftKey)
  const shown = previewIds.value
  if (view.station === 'scene' && shown && !view.sceneTool && !view.matchTool) {
    const index = shown.ids[Math.floor(v * shown.height) * shown.width + Math.floor(u * shown.width)]
    const name = index ? shown.names[index - 1]! : ''
    view.picked = event.shiftKey
      ? name
        ? view.picked.includes(name)
          ? view.picked.filter(other => other !== name)
          : [...view.picked, name]
        : view.picked
      : name
        ? [name]
        : []
  }
  if (view.station === 'passes' && isDepth(view.pass))
    void engine
      .read(
        { document: shot.document!, frame: shot.frame, shrink: 1, show: { kind: 'build' }, stops: 0, channel: 0 },
        u,
        v,
      )
      .then(found => {
        if (found.metres) {
          if (event.shiftKey) view.far = found.metres
          else view.near = found.metres
        }
      })
}
function picked(meant: Meant | null, add: boolean) {
  if (view.taking || (view.station !== 'build' && view.station !== 'finish')) return
  if (meant) view.pick(meant, add)
  else if (!add) view.picked = []
}

function resize(event: PointerEvent, side: boolean) {
  const target = event.currentTarget as HTMLElement
  if (event.type === 'pointerdown') {
    target.setPointerCapture(event.pointerId)
    return
  }
  if (!target.hasPointerCapture(event.pointerId)) return
  if (side) {
    sideWidth.value = Math.min(560, Math.max(280, window.innerWidth - event.clientX))
    localStorage.setItem('northmist/side', String(sideWidth.value))
  } else {
    lowerHeight.value = Math.min(window.innerHeight - 300, Math.max(160, window.innerHeight - event.clientY))
    localStorage.setItem('northmist/lower', String(lowerHeight.value))
  }
}
const lower = computed(() =>
  view.lowerCurves
    ? 'curves'
    : view.station === 'passes'
      ? 'sheet'
      : (view.station === 'build' || view.station === 'finish') && view.fitOpen
        ? 'fit'
        : view.station === 'build' && view.deskOpen
          ? 'desk'
          : '',
)

// The picture of the shot on the page of shots, some time after its last change
let thumbnailTimer: ReturnType<typeof setTimeout> | undefined
watch(
  () => shot.document,
  () => {
    clearTimeout(thumbnailTimer)
    thumbnailTimer = setTimeout(thumbnail, 4000)
  },
)
async function thumbnail() {
  if (!shot.document?.plate && !shot.document?.passes.file) return
  try {
    const picture = await engine.picture({
      document: shot.document,
      frame: shot.frame,
      shrink: 4,
      show: { kind: 'finish' },
      stops: 0,
      channel: 0,
    })
    const canvas = new OffscreenCanvas(picture.width, picture.height)
    canvas.getContext('2d')!.putImageData(new ImageData(picture.codes, picture.width, picture.height), 0, 0)
    await api(`/api/shots/${shot.id}/thumbnail`, {
      method: 'PUT',
      body: await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.85 }),
    })
  } catch {
    /* a picture of the shot is a convenience; the next change tries again */
  }
}
</script>

<template>
  <v-app :theme="view.dim ? 'dim' : 'paper'">
    <div v-if="ready && shot.document" class="instrument" :class="{ whole: view.whole }" data-test="ready">
      <TopLine @go="go" />
      <main class="middle">
        <div class="left">
          <PictureViewer
            :replacement="replacement"
            :pick-names="view.station === 'build' || view.station === 'finish' || view.station === 'passes'"
            :clickable="view.station === 'build' || view.station === 'finish'"
            @pick="picked"
            @place="placed"
          >
            <template #default="{ zoom }"
              ><template v-if="view.station === 'scene'"
                ><SceneOverlay :info="info" :grid="grid" :zoom="zoom" /><MatchOverlay
                  v-if="view.scenePart === 'camera'"
                  :zoom="zoom" /><LampOverlay
                  v-if="view.scenePart === 'light' && !view.sceneTool"
                  :info="info"
                  :zoom="zoom" /><ToolOverlay
                  :info="info"
                  :zoom="zoom"
                  :preview="replacement ? (previewIds ?? null) : null" /></template
              ><LensOverlay v-else-if="view.station === 'plate'" :zoom="zoom" /><template v-else
                ><HandleOverlay v-if="view.handled.length" :zoom="zoom" /><DrawOverlay
                  v-if="view.drawn"
                  :zoom="zoom" /></template
              ><PinOverlay v-if="view.strip === 'pixels' && !view.whole" :zoom="zoom" /><TakeOverlay
                v-if="view.taking?.what === 'names' || view.taking?.what === 'part'" /><MeasureOverlay
                v-if="view.strip === 'light' && view.measured === 'box' && !view.whole"
                :zoom="zoom"
            /></template>
          </PictureViewer>
          <div v-if="lower && !view.whole" class="lower" :style="{ height: `${lowerHeight}px` }">
            <div class="split" @pointerdown="resize($event, false)" @pointermove="resize($event, false)" />
            <CurveSheet v-if="lower === 'curves'" /><PassSheet v-else-if="lower === 'sheet'" /><ShotFit
              v-else-if="lower === 'fit'"
              :info="info"
            /><ShotDesk v-else />
          </div>
          <TimeLine />
          <div v-if="!view.whole && !['desk', 'fit', 'curves'].includes(lower)" class="strip">
            <div class="strips">
              <button
                v-for="strip in STRIPS"
                :key="strip"
                :class="{ on: view.strip === strip }"
                :aria-pressed="view.strip === strip"
                :data-test="`strip-${strip}`"
                @click="view.showStrip(strip)"
              >
                {{ strip }}
              </button>
            </div>
            <ShotSoundings v-if="view.strip === 'soundings'" class="grow" /><ShotLight
              v-else-if="view.strip === 'light'"
              class="grow"
            /><ShotPins v-else class="grow" />
          </div>
        </div>
        <aside v-if="!view.whole" class="side" :style="{ width: `${sideWidth}px` }">
          <div class="split side-split" @pointerdown="resize($event, true)" @pointermove="resize($event, true)" />
          <LedgerPanel v-if="view.ledgerOpen" /><PlatePanel v-else-if="view.station === 'plate'" /><ScenePanel
            v-else-if="view.station === 'scene'"
            v-model:grid="grid"
            :info="info"
            :samples="previewSamples"
          /><PassesPanel v-else-if="view.station === 'passes'" /><BuildPanel
            v-else-if="view.station === 'build'"
          /><FinishPanel v-else-if="view.station === 'finish'" /><SendPanel v-else />
        </aside>
      </main>
    </div>
    <div v-else class="opening">
      {{ fault || 'Opening the shot …' }} <NuxtLink v-if="fault" to="/">To the shots</NuxtLink>
    </div>
    <!-- A new one each time: what stands there counts its own seconds, not the rest of those before it -->
    <v-snackbar
      :key="shot.message"
      :model-value="!!shot.message"
      :timeout="7000"
      @update:model-value="shot.message = ''"
      >{{ shot.message }}</v-snackbar
    >
    <v-dialog :model-value="!!shot.conflict" persistent max-width="460"
      ><v-card class="pa-4"
        ><h2>{{ shot.conflict?.names.map(name => `“${name}”`).join(', ') }}: changed elsewhere too</h2>
        <p class="my-3">
          Another page saved this shot, and your change (“{{ shot.conflict?.label }}”) touches the same values there.
          Nothing is lost yet: choose. All else that you changed is saved.
        </p>
        <div class="row">
          <v-btn data-test="take-theirs" @click="shot.settle(false)">Keep what they saved</v-btn
          ><v-btn color="primary" data-test="take-mine" @click="shot.settle(true)">Put mine over it</v-btn>
        </div></v-card
      ></v-dialog
    >
    <v-dialog v-model="view.helpOpen" max-width="420"
      ><v-card class="pa-4"
        ><h2>Keys</h2>
        <div v-for="[key, what] in KEYS" :key="key" class="field-line">
          <kbd>{{ key }}</kbd><span>{{ what }}</span>
        </div></v-card
      ></v-dialog
    >
  </v-app>
</template>

<style scoped>
.instrument {
  /* Dragging over it, or Ctrl A, marks no words as if they were a text */
  user-select: none;
  height: 100vh;
  display: flex;
  flex-direction: column;
}
.middle {
  flex: 1;
  display: flex;
  min-height: 0;
}
.left {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.side {
  position: relative;
  background: var(--sheet);
  border-left: 1px solid var(--line);
  overflow-y: auto;
  flex-shrink: 0;
}
.lower {
  position: relative;
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex-shrink: 0;
}
.split {
  position: absolute;
  z-index: 3;
  left: 0;
  right: 0;
  top: -3px;
  height: 6px;
  cursor: ns-resize;
  touch-action: none;
}
.side-split {
  right: auto;
  top: 0;
  bottom: 0;
  height: auto;
  width: 6px;
  left: -3px;
  cursor: ew-resize;
}
.opening {
  padding: 60px;
  color: var(--soft);
}
.strip {
  display: flex;
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.strip > .grow {
  min-width: 0;
  border-top: 0;
}
.strips {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 10px 0 0 12px;
  width: 84px;
  flex: none;
}
.strips button {
  align-self: flex-start;
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  padding: 0;
  font: inherit;
  font-size: 12.5px;
  color: var(--soft);
  cursor: pointer;
}
.strips .on {
  color: var(--ink);
  font-weight: 600;
  border-color: var(--ink);
}
</style>
