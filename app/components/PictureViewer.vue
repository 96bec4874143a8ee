<script setup lang="ts">
// The one viewer: picture, zoom, pan, readout, picking, the dividing line. Stations lay their own handles over it
// (slot).
import type { Without } from '../../core/compose/request'
import { meantBy, type Meant } from '../../core/compose/probe'
import { passOf } from '../../core/render/passes'
import { passBlobAt } from '../../core/shot/passFrames'
import { passFileOf } from '../../core/shot/tree'
import { boxOf, common, heightOf, holds, widthOf, type Box } from '../../core/engine/box'
import { Dropped, engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { CHANNELS, matteName, SEEN_WORDS, useView } from '~/stores/view'
import type { Picture, PictureOrder, PixelReading } from '~/workers/messages'

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
const fault = ref('')
const busy = ref(false)
const milliseconds = ref(0)

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

/** Large frames seen from afar are worked on smaller: nothing more could be seen. */
const shrink = computed((): 1 | 2 | 4 =>
  frame.value.width * frame.value.height < 4e6 || zoom.value > 0.5 ? 1 : zoom.value > 0.25 ? 2 : 4,
)
const order = (without: Without | undefined = view.held ?? undefined): PictureOrder => ({
  document: shot.document!,
  frame: shot.frame,
  shrink: shrink.value,
  show: view.show,
  without: without ?? undefined,
  only: view.solo,
  layer: view.layerAtWork,
  stops: view.stops,
  channel: view.channel,
  view: view.viewOverride,
})

/** Seen of a large frame, with some room round it, in its pixels at a size; undefined where most of it is seen. */
function seenArea(shrunk: number): Box | undefined {
  const { width, height } = frame.value
  const scale = zoom.value * shrunk
  const room = (side: number): number => (side / scale) * ROOM_ROUND
  const across = room(size.width)
  const down = room(size.height)
  const area = common(boxOf(Math.max(1, Math.floor(width / shrunk)), Math.max(1, Math.floor(height / shrunk))), {
    left: Math.floor(-left.value / scale - across),
    top: Math.floor(-top.value / scale - down),
    right: Math.ceil((size.width - left.value) / scale + across),
    bottom: Math.ceil((size.height - top.value) / scale + down),
  })
  const share = (widthOf(area) * heightOf(area) * shrunk * shrunk) / (width * height)
  return size.width > 0 && share > 0 && share < 0.7 ? area : undefined
}
const ROOM_ROUND = 0.12

// Latest wins: while one picture is computed, only the newest wish is kept. A step of a drag is finished, so that
// something moves; all else that is not wanted any more is dropped at once
let computing: { step: boolean } | undefined
let wanted = false
let settle: ReturnType<typeof setTimeout> | undefined
/** What is painted of the frame, at its full size; undefined: all. */
let painted: Box | undefined
async function draw() {
  if ((props.replacement !== undefined && props.replacement !== null) || view.playing) return
  if (!shot.document || !nowCanvas.value) return
  if (computing) {
    wanted = true
    if (!(computing.step && view.dragging)) engine.drop()
    return
  }
  computing = { step: false }
  busy.value = true
  try {
    // The plate is there at once; the passes take a moment to unpack
    if (milliseconds.value === 0 && view.show.kind !== 'plate')
      paint(nowCanvas.value, await engine.picture({ ...order(), show: { kind: 'plate' } }))
    do {
      wanted = false
      computing.step = view.dragging
      const fast = view.dragging && frame.value.width * frame.value.height > 1.5e6
      const shrunk = fast && shrink.value === 1 ? 2 : shrink.value
      const area = seenArea(shrunk)
      const picture = await engine.picture({ ...order(), shrink: shrunk, area }, true)
      paint(nowCanvas.value, picture)
      painted = area && {
        left: area.left * shrunk,
        top: area.top * shrunk,
        right: area.right * shrunk,
        bottom: area.bottom * shrunk,
      }
      milliseconds.value = picture.milliseconds
      fault.value = ''
      if (fast) {
        clearTimeout(settle)
        settle = setTimeout(() => {
          void draw()
        }, 250)
      }
    } while (wanted)
    if (view.compare) await drawBefore()
  } catch (error) {
    if (!(error instanceof Dropped)) fault.value = (error as Error).message
  }
  computing = undefined
  busy.value = false
  if (wanted) void draw()
}
// A part that was not computed comes into view
watch([left, top, zoom, () => size.width, () => size.height], () => {
  if (!painted) return
  const seen = common(boxOf(frame.value.width, frame.value.height), {
    left: -left.value / zoom.value,
    top: -top.value / zoom.value,
    right: (size.width - left.value) / zoom.value,
    bottom: (size.height - top.value) / zoom.value,
  })
  if (!holds(painted, seen)) void draw()
})
async function drawBefore() {
  if (!view.compare || !beforeCanvas.value) return
  const other =
    view.compare.with === 'plate'
      ? {
          ...order(),
          show: { kind: 'plate' as const, straight: view.station !== 'finish' && view.station !== 'plate' },
          without: undefined,
        }
      : order(view.compare.with === 'as rendered' ? { clean: true } : { treatments: true })
  paint(beforeCanvas.value, await engine.picture({ ...other, area: seenArea(other.shrink) }, true))
}
function paint(canvas: HTMLCanvasElement | undefined, picture: Pick<Picture, 'width' | 'height' | 'codes' | 'part'>) {
  if (!canvas) return
  const { width, height, left, top } = picture.part ?? { ...picture, left: 0, top: 0 }
  if (canvas.width !== width || canvas.height !== height) {
    canvas.width = width
    canvas.height = height
  }
  const context = canvas.getContext('2d')!
  // What is not of this picture must not stand beside it
  if (picture.part) context.clearRect(0, 0, width, height)
  context.putImageData(new ImageData(picture.codes, picture.width, picture.height), left, top)
}
watch(
  () => [
    shot.document,
    shot.frame,
    view.show,
    view.stops,
    view.channel,
    view.held,
    view.solo,
    view.viewOverride,
    view.compare?.with,
    shrink.value,
  ],
  () => {
    void draw()
  },
)
// While it plays, frames come from what was computed ahead; at rest the frame is computed in full
watch(
  () => view.played,
  played => {
    const canvas = nowCanvas.value
    if (!played || !canvas) return
    if (canvas.width !== played.bitmap.width || canvas.height !== played.bitmap.height) {
      canvas.width = played.bitmap.width
      canvas.height = played.bitmap.height
    }
    canvas.getContext('2d')!.drawImage(played.bitmap, 0, 0)
  },
  { flush: 'sync' },
)
watch(
  () => view.playing,
  playing => {
    if (!playing) void draw()
  },
)
watch(
  () => view.dragging,
  dragging => {
    if (!dragging) void draw()
  },
)
watch(
  () => props.replacement,
  picture => {
    if (picture) paint(nowCanvas.value, picture)
    else void draw()
  },
)

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
  emit('place', u, v, event)
  if (props.pickNames)
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

// The dividing line: through `at` (share of the width), turned by `angle` degrees from upright
const line = computed(() => {
  const compare = view.compare
  if (!compare) return null
  const width = frame.value.width * zoom.value
  const height = frame.value.height * zoom.value
  const lean = (Math.tan((compare.angle * Math.PI) / 180) * height) / 2
  return { top: compare.at * width + lean, bottom: compare.at * width - lean, height, middle: compare.at * width }
})
const clip = computed(() =>
  line.value ? `polygon(0 0, ${line.value.top}px 0, ${line.value.bottom}px 100%, 0 100%)` : 'none',
)
function dragLine(event: PointerEvent) {
  const target = event.currentTarget as HTMLElement
  if (event.type === 'pointerdown') {
    target.setPointerCapture(event.pointerId)
    event.stopPropagation()
    return
  }
  if (!target.hasPointerCapture(event.pointerId) || !view.compare) return
  event.stopPropagation()
  const { u, v } = place(event)
  if (event.shiftKey)
    view.compare.angle = Math.max(
      -80,
      Math.min(
        80,
        ((Math.atan2((u - view.compare.at) * frame.value.width, (0.5 - v) * frame.value.height || 1e-6) * 180) /
          Math.PI) %
          90,
      ),
    )
  else view.compare.at = Math.max(0.01, Math.min(0.99, u))
}
watch(
  () => view.compare !== null,
  on => {
    if (on)
      nextTick(() => {
        void drawBefore()
      })
  },
)

// What is picked or under the pointer is outlined, where a click does something
const outline = ref('')
let outlined = ''
watch(
  () =>
    props.clickable && !view.matte && !view.held && !view.playing
      ? [...new Set([...view.picked, view.pickedSeen === 'straight' ? view.hovered : ''].filter(Boolean))]
      : [],
  async names => {
    const file = shot.document && passFileOf(shot.document, view.layerAtWork)
    const key = JSON.stringify([names, view.pickedSeen, file && passBlobAt(file, shot.frame).blob])
    if (key === outlined) return
    outlined = key
    if (!names.length || !file) {
      outline.value = ''
      return
    }
    const path = await engine
      .highlight(shot.document!, shot.frame, names, view.pickedSeen, view.layerAtWork)
      .catch(() => '')
    if (key === outlined) outline.value = path
  },
)

const number = (value: number): string => (Math.abs(value) >= 1000 ? value.toExponential(2) : value.toFixed(4))
const looked = computed(() =>
  props.replacement
    ? view.station === 'scene'
      ? 'as it will render'
      : 'rendering'
    : view.matte
      ? `matte: ${matteName(view.matte)}`
      : view.show.kind === 'pass'
        ? passOf(view.show.id)?.label
        : view.show.kind === 'plate'
          ? 'plate'
          : view.show.kind === 'build'
            ? 'built picture'
            : 'finished picture',
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
        <canvas ref="nowCanvas" data-test="picture" :class="{ pixels: zoom > 2 }" />
        <canvas
          v-show="view.compare"
          ref="beforeCanvas"
          class="before"
          :class="{ pixels: zoom > 2 }"
          :style="{ clipPath: clip }"
        />
        <svg
          v-if="outline && !view.dragging"
          class="outline"
          :viewBox="`0 0 ${frame.width} ${frame.height}`"
          preserveAspectRatio="none"
          data-test="outline"
        >
          <path :d="outline" class="under" vector-effect="non-scaling-stroke" />
          <path :d="outline" vector-effect="non-scaling-stroke" />
        </svg>
        <slot :zoom="zoom" :frame="frame" />
        <template v-if="line && view.compare">
          <svg class="divide"><line :x1="line.top" y1="0" :x2="line.bottom" :y2="line.height" /></svg>
          <span class="tag" :style="{ right: `calc(100% - ${line.top - 8}px)` }">{{ view.compare.with }}</span>
          <span class="tag" :style="{ left: `${line.top + 8}px` }">now</span>
          <button
            class="grip"
            aria-label="Dividing line: drag; with Shift it turns"
            :style="{ left: `${line.middle}px` }"
            @pointerdown="dragLine"
            @pointermove="dragLine"
          />
        </template>
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
    <div class="readout figures">
      <b>{{ pointer ? `${pointer.x}, ${pointer.y}` : '–' }}</b>
      <span v-if="reading && pointer">{{ reading.rgba.slice(0, 3).map(number).join('  ') }}</span>
      <span v-if="reading?.metres && pointer">{{ reading.metres.toFixed(2) }} m</span>
      <span class="words">{{
        pointer
          ? reading?.objects
              .map(entry => (entry.share > 0.995 ? entry.name : `${entry.name} ${Math.round(entry.share * 100)} %`))
              .slice(0, 2)
              .join(', ')
          : ''
      }}</span>
      <span class="grow" />
      <span class="words soft">{{ looked }}</span>
      <label class="words"
        >look
        <ValueField
          still
          :model-value="view.stops"
          label="Exposure for looking only"
          help="Never part of the picture."
          :low="-12"
          :high="12"
          :step="0.02"
          :digits="1"
          unit="stops"
          :neutral="0"
          @change="
            value => {
              view.stops = value as number
            }
          "
      /></label>
      <select v-model="view.channel" class="plain" aria-label="Channel shown">
        <option v-for="(name, index) in CHANNELS" :key="name" :value="index">{{ name }}</option>
      </select>
      <button class="word words" title="Fit the picture (F)" @click="view.fit()">{{ Math.round(zoom * 100) }} %</button>
    </div>
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
.outline {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  overflow: visible;
}
.outline path {
  fill: none;
  stroke: #fff;
  stroke-width: 1;
}
/* Seen on white too */
.outline .under {
  stroke: #000;
  stroke-opacity: 0.45;
  stroke-width: 2.5;
}
canvas.pixels {
  image-rendering: pixelated;
}
.readout {
  height: 28px;
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 0 12px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  font-size: 12px;
  white-space: pre;
  color: var(--soft);
  overflow: hidden;
}
.readout b {
  color: var(--ink);
  font-weight: 500;
  min-width: 78px;
}
.words {
  font-family: var(--words);
}
.plain {
  font: 12px var(--words);
  color: inherit;
  background: none;
  border: 0;
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
.divide {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: visible;
  pointer-events: none;
}
.divide line {
  stroke: #fff;
  stroke-width: 1.5;
  filter: drop-shadow(0 0 1px #0008);
}
.tag {
  position: absolute;
  top: 10px;
  background: #ffffffe0;
  color: #222;
  font-size: 11px;
  padding: 1px 8px;
  border-radius: 9px;
  pointer-events: none;
}
.grip {
  position: absolute;
  top: 50%;
  width: 22px;
  height: 38px;
  margin: -19px -11px;
  border-radius: 11px;
  background: #fffd;
  border: 1px solid #0003;
  cursor: ew-resize;
  touch-action: none;
}
</style>
