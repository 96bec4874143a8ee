<script setup lang="ts">
// The shot from the side: distance along it (log metres), layers where they stand, the spread of the render's depth.
// Draggable.
import { soundedAt } from '../../core/shot/sounded'
import { stuckRound } from '../../core/shot/stuck'
import { depthFileOf, passFileOf, standsAt } from '../../core/shot/tree'
import { FAR } from '../../core/layer/layer'
import { bringTo } from '../../core/shot/layers'
import { inOrder } from '../../core/shot/rows'
import { sightOf } from '../../core/shot/scene'
import {
  fittedReach,
  movedReach,
  renderedReach,
  SOUNDED,
  SOUNDED_BINS,
  soundingTicks,
  zoomedReach,
  type Reach,
} from '../../core/match/soundings'
import { lengthText } from '../../core/text/metres'
import { passBlobAt } from '../../core/shot/passFrames'
import { isDepth } from '../../core/render/passes'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import { valueAt } from '../../core/time/curve'

const shot = useShot()
const view = useView()
const host = ref<HTMLElement>()
const width = ref(900)
const height = 118
const left = 58
const right = 64
const span = computed(() => width.value - left - right)
/** What is in sight: as it fits, or as it was zoomed. */
const zoomed = ref<Reach | null>(null)
const fitted = ref<Reach>(fittedReach(undefined, []))
const reach = computed(() => zoomed.value ?? fitted.value)
const xOf = (metres: number): number => {
  const { near, far } = reach.value
  const share = Math.log(Math.max(1e-9, metres) / near) / Math.log(far / near)
  return left + Math.min(1, Math.max(0, share)) * span.value
}
const metresAt = (x: number): number => {
  const { near, far } = reach.value
  // What is dragged past the ends goes on
  const metres = near * Math.exp(((x - left) / span.value) * Math.log(far / near))
  return Math.min(SOUNDED.far, Math.max(SOUNDED.near, metres))
}
const inSight = (metres: number): boolean => metres >= reach.value.near / 1.001 && metres <= reach.value.far * 1.001
const ground = height - 30
let observer: ResizeObserver | undefined
onMounted(() => {
  observer = new ResizeObserver(([entry]) => {
    width.value = Math.max(300, entry!.contentRect.width)
  })
  observer.observe(host.value!)
})
onBeforeUnmount(() => observer?.disconnect())
const depths = computed(() => shot.document && depthFileOf(shot.document, view.layerAtWork))
/** The passes that stand for the frame at hand, and how their distances are read. */
const passKey = computed(() => {
  const file = depths.value
  if (!file) return ''
  const { blob } = passBlobAt(file, view.playing ? (file.frames?.first ?? 0) : shot.frame)
  return JSON.stringify([blob, file.reading?.depth])
})
const spreadIs = computed(() => (depths.value === passFileOf(shot.document!, view.layerAtWork) ? 'render' : 'plate'))
const NOTHING = new Float32Array(SOUNDED_BINS)
/** Of things by their names, of all where there are none, of nothing for null; what comes late is left. */
function spreadOf(names: () => readonly string[] | null) {
  const found = shallowRef<Float32Array>(NOTHING)
  let asked = 0
  watch(
    () => [passKey.value, names()?.join('\n')],
    async ([key]) => {
      const turn = ++asked
      const of = names()
      const next =
        key && of && shot.document
          ? await engine
              .spread(shot.document, shot.frame, view.layerAtWork, SOUNDED_BINS, SOUNDED, of)
              .catch(() => NOTHING)
          : NOTHING
      if (turn === asked) found.value = next
    },
    { immediate: true },
  )
  return found
}
const spread = spreadOf(() => [])
/** A plate's own depth tells of no things. */
const spreadNames = computed(() => (spreadIs.value === 'render' ? view.picked : []))
const pickedSpread = spreadOf(() => (spreadNames.value.length ? spreadNames.value : null))

const eye = computed(() => (shot.document ? valueAt(shot.document.scene.camera.y, shot.frame) : 1.6))
/** Drawn height of something so tall: eye level is a bit above half. */
const tall = (metres: number): number =>
  ground - Math.min(ground - 16, (metres / Math.max(0.05, Math.abs(eye.value))) * 34)
const range = computed(() => renderedReach(spread.value))
// Brackets that show nothing of the render move to it
watch(range, found => {
  if (found && (found.near > view.far || found.far < view.near)) {
    view.near = Number((found.near * 0.95).toPrecision(3))
    view.far = Number((found.far * 1.05).toPrecision(3))
  }
})
const pictures = computed(() =>
  inOrder(shot.document?.build.layers).flatMap(layer => {
    const metres = standsAt(layer, sightOf(shot.document!, shot.frame))
    // What is drawn on a thing is where that is
    const isDrawn = layer.kind !== 'stuck' && !!stuckRound(shot.document!, layer.id)
    return typeof metres === 'number' && Math.abs(metres) < FAR && !isDrawn
      ? [{ id: layer.id, name: layer.name, on: layer.on, metres }]
      : []
  }),
)
/** What has a beginning and an end: layers, the line that is worked at, brackets of an open slip; those below each other. */
const ranges = computed(() => {
  const document = shot.document
  if (!document) return []
  const ids = [...new Set([...Object.keys(document.build.layers), view.selectedTreatment, ...view.handled])]
  return ids.flatMap(id => {
    const sounded = id && soundedAt(document, shot.frame, id)
    const chosen = id === view.selectedLayer || id === view.selectedTreatment || view.handled.includes(id)
    // What is not thick shows nothing of it until one works at it
    const isThick = sounded && sounded.ends[0]!.metres !== sounded.ends[1]?.metres
    return sounded && (chosen || isThick) ? [{ sounded, chosen, named: !Object.hasOwn(document.build.layers, id) }] : []
  })
})
/** What is to be in sight: layers, and where what is long begins and ends. */
const stands = computed(() => [
  ...pictures.value.map(({ metres }) => metres),
  ...ranges.value.flatMap(({ sounded }) => sounded.ends.map(({ metres }) => metres).filter(metres => metres > 0)),
])
// The scale stays where it is while something is dragged along it
watch(
  () => [range.value, stands.value.join(' '), view.dragging],
  () => {
    if (!view.dragging) fitted.value = fittedReach(range.value, stands.value)
  },
  { immediate: true },
)
const pointed = (event: MouseEvent): number => event.clientX - host.value!.getBoundingClientRect().left
function wheel(event: WheelEvent) {
  zoomed.value = zoomedReach(reach.value, metresAt(pointed(event)), Math.exp(event.deltaY * 0.0015))
}
let dragged: { x: number; reach: Reach } | null = null
function slide(event: PointerEvent) {
  const target = event.currentTarget as Element
  if (event.type === 'pointerdown') {
    target.setPointerCapture(event.pointerId)
    dragged = { x: event.clientX, reach: reach.value }
  } else if (dragged && target.hasPointerCapture(event.pointerId) && event.clientX !== dragged.x)
    zoomed.value = movedReach(dragged.reach, (dragged.x - event.clientX) / span.value)
  if (event.type === 'pointerup') dragged = null
}
const ticks = computed(() => soundingTicks(reach.value, Math.max(2, Math.floor(span.value / 52))))
/** Labels that would lie over one another go into rows, and to the left of their line where the right is full. */
const labels = computed(() => {
  const rows: number[] = []
  const out = new Map<string, { y: number; x: number; anchor: 'start' | 'end' }>()
  for (const picture of [...pictures.value].sort((a, b) => a.metres - b.metres)) {
    const at = xOf(picture.metres)
    const wide = `${picture.name} ${lengthText(picture.metres)}`.length * 5.4
    const row = [0, 1, 2, 3, 4].find(i => (rows[i] ?? -1e9) < at) ?? 4
    const end = at + 8 + wide > width.value - right + 18
    rows[row] = at + 8 + wide
    out.set(picture.id, { y: 34 + row * 12, x: at + (end ? -6 : 6), anchor: end ? 'end' : 'start' })
  }
  return out
})

function setDistance(id: string, metres: number, live: boolean) {
  shot.change(
    'Distance of a layer',
    document => {
      const layer = document.build.layers[id]
      if (layer) bringTo(layer, metres, sightOf(document, shot.frame))
    },
    live,
  )
}
function drag(event: PointerEvent, put: (metres: number, live: boolean) => void) {
  const target = event.currentTarget as Element
  // A drag is not a selection of the labels it passes
  event.preventDefault()
  if (event.type === 'pointerdown') {
    target.setPointerCapture(event.pointerId)
    view.dragging = true
    return
  }
  if (!target.hasPointerCapture(event.pointerId)) return
  const metres = metresAt(event.clientX - host.value!.getBoundingClientRect().left)
  if (event.type === 'pointerup') {
    target.releasePointerCapture(event.pointerId)
    view.dragging = false
    put(metres, false)
  } else put(metres, true)
}
const nudge = (event: KeyboardEvent, metres: number, put: (metres: number, live: boolean) => void): void => {
  if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
  event.preventDefault()
  put(metres * (event.key === 'ArrowRight' ? 1.03 : 1 / 1.03), true)
}
const brackets = computed(() => view.station === 'passes' && isDepth(view.pass))
</script>

<template>
  <section
    ref="host"
    class="soundings"
    @wheel.prevent="wheel"
    aria-label="Soundings: the shot from the side"
    data-test="soundings"
  >
    <svg :width="width" :height="height" role="group">
      <SoundingSpread
        v-bind="{
          whole: spread,
          picked: pickedSpread,
          names: spreadNames,
          is: spreadIs,
          reach,
          left,
          span,
          ground,
          xOf,
        }"
      />
      <line :x1="left - 12" :x2="width" :y1="ground" :y2="ground" class="ground" />
      <line :x1="left - 10" :x2="width - 8" :y1="tall(eye)" :y2="tall(eye)" class="eye" />
      <text :x="left + 2" :y="tall(eye) - 5">eye level {{ lengthText(eye) }}</text>
      <rect
        :x="left"
        y="0"
        :width="Math.max(1, span)"
        :height="height"
        class="bed"
        @pointerdown="slide"
        @pointermove="slide"
        @pointerup="slide"
        @dblclick="zoomed = null"
      >
        <title>Wheel: closer or farther; drag: along; double-click: all of it</title>
      </rect>
      <g v-for="tick in ticks" :key="tick">
        <line :x1="xOf(tick)" :x2="xOf(tick)" :y1="ground" :y2="ground + 5" class="tick" />
        <text :x="xOf(tick)" :y="ground + 18" text-anchor="middle" class="figures">
          {{ lengthText(tick) }}
        </text>
      </g>
      <path :transform="`translate(22 ${tall(eye) - 7})`" d="M0 0h15v14h-15z M15 4l8 -5v16l-8 -5z" class="camera" />
      <path :d="`M29 ${tall(eye) + 7} L22 ${ground} M29 ${tall(eye) + 7} L36 ${ground}`" class="legs" />
      <g
        v-for="picture in pictures.filter(entry => inSight(entry.metres))"
        :key="picture.id"
        class="layer"
        :class="{ off: !picture.on, chosen: view.selectedLayer === picture.id }"
        role="slider"
        tabindex="0"
        :aria-label="`${picture.name}, distance`"
        :aria-valuenow="picture.metres"
        :aria-valuemin="SOUNDED.near"
        :aria-valuemax="SOUNDED.far"
        :data-test="`sounding-${picture.name}`"
        @pointerdown="
          $event => {
            view.selectedLayer = picture.id
            drag($event, (m, live) => setDistance(picture.id, m, live))
          }
        "
        @pointermove="drag($event, (m, live) => setDistance(picture.id, m, live))"
        @pointerup="drag($event, (m, live) => setDistance(picture.id, m, live))"
        @keydown="nudge($event, picture.metres, (m, live) => setDistance(picture.id, m, live))"
      >
        <rect :x="xOf(picture.metres) - 9" y="22" width="18" :height="ground - 22" class="grab" />
        <line :x1="xOf(picture.metres)" :x2="xOf(picture.metres)" y1="26" :y2="ground" />
        <path :transform="`translate(${xOf(picture.metres)} ${ground})`" d="M-6 8 L0 0 L6 8z" />
        <text
          :x="labels.get(picture.id)!.x"
          :y="labels.get(picture.id)!.y"
          :text-anchor="labels.get(picture.id)!.anchor"
        >
          {{ picture.name }} {{ lengthText(picture.metres) }}
        </text>
      </g>
      <g v-if="shot.document?.plate">
        <rect :x="width - right + 22" y="26" width="16" :height="ground - 26" class="plate" />
        <text :x="width - right + 30" y="20" text-anchor="middle">plate</text>
      </g>
      <SoundingZone v-if="shot.document" v-bind="{ xOf, drag, nudge, ground }" />
      <SoundingRange
        v-for="({ sounded, chosen, named }, i) in ranges"
        :key="sounded.id"
        v-bind="{ sounded, chosen, named, xOf, drag, nudge, ground, above: 13 + (i % 5) * 9 }"
      />
      <SoundingBrackets v-if="brackets" v-bind="{ xOf, drag, nudge, ground }" />
    </svg>
  </section>
</template>

<style scoped>
.soundings {
  background: var(--sheet);
  border-top: 1px solid var(--line);
  height: 118px;
  overflow: hidden;
}
svg {
  user-select: none;
  display: block;
}
text {
  font-size: 10.5px;
  pointer-events: none;
  fill: var(--soft);
  font-family: var(--words);
}
text.figures {
  font-family: var(--figures);
}
.ground {
  stroke: var(--ink);
  stroke-width: 1.2;
}
.eye {
  stroke: var(--soft);
  stroke-dasharray: 2 5;
}
.bed {
  fill: transparent;
  cursor: grab;
}
.tick {
  stroke: var(--line);
}
.camera {
  fill: var(--ink);
}
.legs {
  stroke: var(--ink);
  stroke-width: 1.3;
  fill: none;
}
.plate {
  fill: #9aa7b1;
  stroke: var(--soft);
}
.layer {
  cursor: ew-resize;
  touch-action: none;
}
.layer line {
  stroke: var(--ink);
  stroke-width: 2;
}
.layer path {
  fill: var(--ink);
}
.layer.chosen line {
  stroke: var(--mark);
}
.layer.chosen path {
  fill: var(--mark);
}
.layer.chosen text {
  fill: var(--mark);
  font-weight: 600;
}
.layer.off {
  opacity: 0.4;
}
.grab {
  fill: transparent;
}
</style>
