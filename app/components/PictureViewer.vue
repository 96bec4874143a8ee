<script setup lang="ts">
// The one viewer: picture, zoom, pan, readout, picking, the dividing line. Stations lay their own handles over it
// (slot).
import { meantBy, type Meant } from '../../core/compose/probe'
import { useDividingLine } from '~/composables/dividingLine'
import { engine } from '~/composables/engine'
import { useViewerDrawing } from '~/composables/viewerDrawing'
import { useShot } from '~/stores/shot'
import { SEEN_WORDS } from '../../core/shot/slip'
import { useView } from '~/stores/view'
import type { Picture, PixelReading } from '~/workers/messages'

const props = defineProps<{
  replacement?: Picture | null
  pickNames?: boolean
  /** A click on the picture picks what is there. */
  clickable?: boolean
}>()
const emit = defineEmits<{
  pick: [meant: Meant | null, add: boolean]
  place: [u: number, v: number, event: PointerEvent]
}>()
const shot = useShot()
const view = useView()
const host = ref<HTMLElement>()
const nowCanvas = ref<HTMLCanvasElement>()
const beforeCanvas = ref<HTMLCanvasElement>()
const size = reactive({ width: 0, height: 0 })
const reading = ref<PixelReading | null>(null)
const pointer = ref<{ x: number; y: number; left: number; top: number } | null>(null)

const frame = computed(() => shot.document?.frame ?? { width: 16, height: 9 })
const fitted = computed(
  () => Math.min((size.width - 24) / frame.value.width, (size.height - 24) / frame.value.height) || 1,
)
const zoom = computed(() => view.zoom || fitted.value)
const left = computed(() => size.width / 2 + view.panX - (frame.value.width * zoom.value) / 2)
const top = computed(() => size.height / 2 + view.panY - (frame.value.height * zoom.value) / 2)
const box = computed(() => ({
  left: `${left.value}px`,
  top: `${top.value}px`,
  width: `${frame.value.width * zoom.value}px`,
  height: `${frame.value.height * zoom.value}px`,
}))

const { order, draw, drawBefore, fault, busy, milliseconds } = useViewerDrawing({
  frame,
  size,
  zoom,
  left,
  top,
  replacement: () => props.replacement,
  nowCanvas,
  beforeCanvas,
})

let observer: ResizeObserver | undefined
onMounted(() => {
  observer = new ResizeObserver(([entry]) => {
    size.width = entry!.contentRect.width
    size.height = entry!.contentRect.height
  })
  observer.observe(host.value!)
  draw()
})
onBeforeUnmount(() => observer?.disconnect())

function place(event: PointerEvent | WheelEvent): { u: number; v: number } {
  const bounds = host.value!.getBoundingClientRect()
  return {
    u: (event.clientX - bounds.left - left.value) / (frame.value.width * zoom.value),
    v: (event.clientY - bounds.top - top.value) / (frame.value.height * zoom.value),
  }
}
let readingNow = false
let readAgain: PointerEvent | undefined
async function hover(event: PointerEvent) {
  const { u, v } = place(event)
  const bounds = host.value!.getBoundingClientRect()
  if (u < 0 || v < 0 || u >= 1 || v >= 1) {
    leave()
    return
  }
  pointer.value = {
    x: Math.floor(u * frame.value.width),
    y: Math.floor(v * frame.value.height),
    left: event.clientX - bounds.left,
    top: event.clientY - bounds.top,
  }
  if (readingNow) {
    readAgain = event
    return
  }
  if (!shot.document) return
  readingNow = true
  try {
    reading.value = await engine.read(order(), u, v)
    view.hovered = reading.value.objects[0]?.name ?? ''
  } catch {
    reading.value = null
  }
  readingNow = false
  if (readAgain) {
    const next = readAgain
    readAgain = undefined
    void hover(next)
  }
}
function leave() {
  pointer.value = null
  reading.value = null
  view.hovered = ''
}

let panFrom: { x: number; y: number; panX: number; panY: number } | null = null
let pressedAt = { x: 0, y: 0 }
function down(event: PointerEvent) {
  pressedAt = { x: event.clientX, y: event.clientY }
  offered.value = null
  if (event.button === 1 || (event.button === 0 && (event.altKey || spaceHeld))) {
    host.value!.setPointerCapture(event.pointerId)
    panFrom = { x: event.clientX, y: event.clientY, panX: view.panX, panY: view.panY }
    event.preventDefault()
  }
}
function move(event: PointerEvent) {
  if (panFrom) {
    if (!view.zoom) view.zoom = fitted.value
    view.panX = panFrom.panX + event.clientX - panFrom.x
    view.panY = panFrom.panY + event.clientY - panFrom.y
    return
  }
  void hover(event)
}
function up(event: PointerEvent) {
  if (panFrom) {
    panFrom = null
    return
  }
  if (event.button !== 0 || Math.hypot(event.clientX - pressedAt.x, event.clientY - pressedAt.y) > 4) return
  const { u, v } = place(event)
  if (u < 0 || v < 0 || u >= 1 || v >= 1) return
  const taking = !!view.taking
  emit('place', u, v, event)
  if (props.pickNames && !taking)
    void engine
      .read(order(), u, v)
      .then(found => offer(meantBy(found), event))
      .catch(() => {})
}
// Where glass or a mirror stands, a click may mean it or what is seen there
const offered = ref<{ meant: Meant[]; add: boolean; left: number; top: number } | null>(null)
function offer(meant: Meant[], event: PointerEvent) {
  const bounds = host.value!.getBoundingClientRect()
  if (meant.length > 1 && (view.station === 'build' || view.station === 'finish'))
    offered.value = { meant, add: event.shiftKey, left: event.clientX - bounds.left, top: event.clientY - bounds.top }
  else emit('pick', meant[0] ?? null, event.shiftKey)
}
function choose(meant: Meant) {
  emit('pick', meant, offered.value!.add)
  offered.value = null
}
watch(
  () => [view.station, shot.frame, view.zoom, view.panX],
  () => {
    offered.value = null
  },
)
function wheel(event: WheelEvent) {
  event.preventDefault()
  const { u, v } = place(event)
  const before = zoom.value
  const after = Math.min(32, Math.max(0.05, before * Math.exp(-event.deltaY * 0.0015)))
  view.panX += (0.5 - u) * frame.value.width * (after - before)
  view.panY += (0.5 - v) * frame.value.height * (after - before)
  view.zoom = after
}
let spaceHeld = false
const space = (event: KeyboardEvent): void => {
  if (event.code === 'Space') spaceHeld = event.type === 'keydown'
}
onMounted(() => {
  window.addEventListener('keydown', space)
  window.addEventListener('keyup', space)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', space)
  window.removeEventListener('keyup', space)
})

const line = useDividingLine(frame, zoom)
/** Two pictures that differ a little are hardly told apart by what one minus the other is: that is shown so many times as bright. */
const DIFFERENCE_GAIN = 8
/** So long, ms, each of the two is seen when they blink. */
const BLINK = 600
const isOther = ref(true)
let blinking: ReturnType<typeof setInterval> | undefined
const comparedBy = computed(() => (view.compare ? (view.compare.by ?? 'line') : null))
watch(comparedBy, by => {
  clearInterval(blinking)
  isOther.value = true
  if (by === 'blink')
    blinking = setInterval(() => {
      isOther.value = !isOther.value
    }, BLINK)
})
onBeforeUnmount(() => {
  clearInterval(blinking)
})
const clip = computed(() =>
  line.value && comparedBy.value === 'line'
    ? `polygon(0 0, ${line.value.top}px 0, ${line.value.bottom}px 100%, 0 100%)`
    : 'none',
)
watch(
  () => view.compare !== null,
  on => {
    if (on)
      nextTick(() => {
        void drawBefore()
      })
  },
)

defineExpose({ draw })
</script>

<template>
  <section class="viewer-column" aria-label="Viewer">
    <div
      ref="host"
      class="wall"
      data-test="viewer"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointerleave="leave"
      @wheel="wheel"
      @dblclick.self="view.fit()"
    >
      <div class="picture" :style="box">
        <div class="shown" :class="{ apart: comparedBy === 'difference' }" :style="{ '--gain': DIFFERENCE_GAIN }">
          <canvas ref="nowCanvas" data-test="picture" :class="{ pixels: zoom > 2 }" />
          <canvas
            v-show="view.compare && isOther"
            ref="beforeCanvas"
            class="before"
            data-test="compared"
            :class="{ pixels: zoom > 2, difference: comparedBy === 'difference' }"
            :style="{ clipPath: clip }"
          />
        </div>
        <span v-if="comparedBy === 'blink'" class="on-picture said" data-test="blinks">{{
          isOther ? view.compare!.kept?.name : 'now'
        }}</span><span v-else-if="comparedBy === 'difference'" class="on-picture said"
          >difference, {{ DIFFERENCE_GAIN }} times as bright</span
        >
        <ViewerOutline :clickable="clickable" />
        <slot :zoom="zoom" :frame="frame" />
        <ViewerDivide v-if="comparedBy === 'line'" :frame="frame" :zoom="zoom" />
      </div>
      <div
        v-if="pickNames && !offered && reading?.objects.length && pointer"
        class="name"
        data-test="pointer-name"
        :style="{ left: `${pointer.left + 14}px`, top: `${pointer.top + 16}px` }"
      >
        {{ reading.objects[0]!.name }} <small v-if="reading.metres">&ensp;{{ reading.metres.toFixed(2) }} m</small>
        <small
          v-for="{ name, seen } in meantBy(reading).filter(entry => entry.seen !== 'straight')"
          :key="seen"
          class="also"
          >{{ name }}{{ SEEN_WORDS[seen] }}</small
        >
      </div>
      <div
        v-if="offered"
        class="name offered"
        role="menu"
        aria-label="What is meant"
        data-test="offered"
        :style="{ left: `${offered.left + 6}px`, top: `${offered.top + 6}px` }"
        @pointerdown.stop
        @pointerup.stop
      >
        <button
          v-for="meant in offered.meant"
          :key="meant.seen + meant.name"
          role="menuitem"
          class="word"
          :data-test="`meant-${meant.seen}`"
          @click.stop="choose(meant)"
        >
          {{ meant.name }}{{ SEEN_WORDS[meant.seen] }}
        </button>
      </div>
      <div v-if="fault" class="fault" role="alert">{{ fault }}</div>
      <div v-if="busy && milliseconds === 0 && !replacement" class="fault quiet">Building the picture …</div>
    </div>
    <ViewerReadout :pointer="pointer" :reading="reading" :zoom="zoom" :replaced="!!replacement" />
  </section>
</template>

<style scoped>
.viewer-column {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
  flex: 1;
}
.wall {
  flex: 1;
  min-height: 120px;
  position: relative;
  overflow: hidden;
  background: var(--wall);
  touch-action: none;
  user-select: none;
}
.picture {
  position: absolute;
  box-shadow: 0 0 0 1px #0003;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
/* The difference of codes, made bright before anything else is laid over it */
.shown {
  position: absolute;
  inset: 0;
}
.apart {
  isolation: isolate;
  filter: brightness(var(--gain));
}
canvas.difference {
  mix-blend-mode: difference;
}
.said {
  left: 10px;
}
canvas.pixels {
  image-rendering: pixelated;
}
.name {
  position: absolute;
  background: #fffffff0;
  color: #222;
  border-radius: 5px;
  padding: 2px 8px;
  font-size: 12px;
  pointer-events: none;
  white-space: nowrap;
}
.name small {
  color: #666;
}
.name .also {
  display: block;
}
.offered {
  pointer-events: auto;
  display: flex;
  flex-direction: column;
  align-items: start;
  padding: 4px 8px;
  gap: 1px;
  box-shadow: 0 2px 10px #0003;
}
.offered button {
  color: #222;
  padding: 3px 6px;
}
.fault {
  position: absolute;
  left: 50%;
  top: 16px;
  transform: translateX(-50%);
  background: var(--sheet);
  color: var(--ink);
  border-radius: 8px;
  padding: 8px 14px;
  max-width: 70%;
}
.fault.quiet {
  /* It lies over the picture: a click means what is under it */
  pointer-events: none;
  top: auto;
  bottom: 16px;
  color: var(--soft);
}
</style>
