<script setup lang="ts">
// Frames of the shot, slim: play, step, loop, a range; frame, timecode and seconds; which frames are ready to play,
// which carry keys.
import { mdiChartBellCurve, mdiChevronLeft, mdiChevronRight, mdiPause, mdiPlay, mdiRepeat, mdiRepeatOff } from '@mdi/js'
import { animatedValues } from '../../core/shot/values'
import { perSecond, rateText } from '../../core/time/rate'
import { timecodeAt } from '../../core/shot/timecode'
import { fresh, play, playedRange, step, stop } from '~/composables/playback'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const bar = ref<HTMLElement>()
const width = ref(600)
let observer: ResizeObserver | undefined
watch(bar, element => {
  observer?.disconnect()
  if (element) {
    observer = new ResizeObserver(([entry]) => {
      width.value = Math.max(60, entry!.contentRect.width)
      view.timeScale = { left: element.getBoundingClientRect().left, width: width.value }
    })
    observer.observe(element)
  }
})
onBeforeUnmount(() => {
  observer?.disconnect()
  view.timeScale = null
  stop()
})
watch(
  () => [shot.document, view.show, view.stops, view.channel, view.viewOverride],
  () => {
    if (shot.document) fresh(shot.document)
  },
)

const frames = computed(() => shot.document!.frames)
const rate = computed(() => shot.document!.rate)
const played = computed(() => {
  void view.range
  return playedRange()
})
const xOf = (frame: number): number =>
  ((frame - frames.value.first + 0.5) / (frames.value.last - frames.value.first + 1)) * width.value
const frameOf = (event: PointerEvent): number =>
  Math.min(
    frames.value.last,
    Math.max(
      frames.value.first,
      frames.value.first +
        Math.floor(
          ((event.clientX - bar.value!.getBoundingClientRect().left) / width.value) *
            (frames.value.last - frames.value.first + 1),
        ),
    ),
  )
/** Frames that are kept, as few spans as will do. */
const kept = computed(() => {
  const sorted = [...view.keptFrames]
    .filter(frame => frame >= frames.value.first && frame <= frames.value.last)
    .sort((a, b) => a - b)
  const out: [number, number][] = []
  for (const frame of sorted) {
    const last = out.at(-1)
    if (last && frame === last[1] + 1) last[1] = frame
    else out.push([frame, frame])
  }
  return out
})
const ticks = computed(() => {
  const length = frames.value.last - frames.value.first + 1
  const every =
    [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find(gap => (length / gap) * 46 < width.value) ?? 10000
  return Array.from(
    { length: Math.floor(length / every) + 1 },
    (_, i) => Math.ceil(frames.value.first / every) * every + i * every,
  ).filter(frame => frame <= frames.value.last)
})
/**
 * Whether a value belongs to what is under work: the picked thing, the camera, the lights, the chosen layer, the
 * finish.
 */
function underWork(path: readonly string[]): boolean {
  const [part, second, third] = path
  if (view.station === 'plate') return part === 'plate'
  if (view.station === 'scene')
    return view.scenePart === 'camera'
      ? second === 'camera'
      : view.scenePart === 'light'
        ? second === 'lights' || second === 'environment'
        : (second === 'objects' && view.picked.includes(third!)) || second === 'prints'
  if (view.station === 'build') return part === 'build' && second === 'layers' && third === view.selectedLayer
  return part === 'finish'
}
/** Frames on which a value of it has a key. */
const keyFrames = computed(() =>
  [
    ...new Set(
      animatedValues(shot.document!)
        .filter(value => underWork(value.path))
        .flatMap(value => value.curve.keys.map(key => key.frame)),
    ),
  ].filter(frame => frame >= frames.value.first && frame <= frames.value.last),
)
const code = computed(() => timecodeAt(shot.document!, shot.frame))
const seconds = computed(() => ((shot.frame - frames.value.first) / perSecond(rate.value)).toFixed(2))

function scrub(event: PointerEvent) {
  const target = event.currentTarget as HTMLElement
  if (event.type === 'pointerdown') {
    if (event.button !== 0) return
    target.setPointerCapture(event.pointerId)
    stop()
    view.dragging = true
  } else if (!target.hasPointerCapture(event.pointerId)) return
  if (event.type === 'pointerup') {
    target.releasePointerCapture(event.pointerId)
    view.dragging = false
  }
  if (event.shiftKey && event.type !== 'pointerdown') {
    const at = frameOf(event)
    view.range = { first: Math.min(from, at), last: Math.max(from, at) }
    return
  }
  from = frameOf(event)
  shot.frame = from
}
let from = 0
const go = (event: Event): void => {
  const wanted = Math.round(Number((event.target as HTMLInputElement).value))
  if (Number.isFinite(wanted)) {
    stop()
    shot.frame = Math.min(frames.value.last, Math.max(frames.value.first, wanted))
  }
}
</script>

<template>
  <div v-if="frames.last > frames.first" class="time" aria-label="Time line" data-test="timeline">
    <div class="buttons" :class="{ wide: view.lowerCurves }">
      <v-btn
        :icon="mdiChevronLeft"
        size="x-small"
        aria-label="One frame back"
        title="One frame back (←)"
        data-test="step-back"
        @click="step(-1)"
      />
      <v-btn
        :icon="view.playing === -1 ? mdiPause : mdiPlay"
        class="mirrored"
        size="x-small"
        aria-label="Play backwards"
        title="Play backwards (J)"
        data-test="play-back"
        @click="view.playing === -1 ? stop() : play(-1)"
      />
      <v-btn
        :icon="view.playing === 1 ? mdiPause : mdiPlay"
        size="x-small"
        :aria-label="view.playing === 1 ? 'Pause' : 'Play'"
        title="Play or pause (P)"
        data-test="play"
        @click="view.playing === 1 ? stop() : play(1)"
      />
      <v-btn
        :icon="mdiChevronRight"
        size="x-small"
        aria-label="One frame on"
        title="One frame on (→)"
        data-test="step-on"
        @click="step(1)"
      />
      <v-btn
        :icon="view.loop ? mdiRepeat : mdiRepeatOff"
        size="x-small"
        :aria-pressed="view.loop"
        aria-label="Play round and round"
        title="Round and round"
        data-test="loop"
        @click="view.loop = !view.loop"
      />
    </div>
    <div
      ref="bar"
      class="bar"
      role="slider"
      tabindex="0"
      aria-label="Frame"
      :aria-valuenow="shot.frame"
      :aria-valuemin="frames.first"
      :aria-valuemax="frames.last"
      title="Drag to a frame; Shift and drag marks a range"
      data-test="frames"
      @pointerdown="scrub"
      @pointermove="scrub"
      @pointerup="scrub"
      @keydown.left.stop.prevent="step(-1)"
      @keydown.right.stop.prevent="step(1)"
      @dblclick="view.range = null"
    >
      <svg :width="width" height="25">
        <rect
          v-if="view.range"
          :x="xOf(played.first - 0.5)"
          y="0"
          :width="Math.max(2, xOf(played.last + 0.5) - xOf(played.first - 0.5))"
          height="25"
          class="range"
        />
        <rect
          v-for="[a, b] in kept"
          :key="a"
          :x="xOf(a - 0.5)"
          y="21.5"
          :width="xOf(b + 0.5) - xOf(a - 0.5)"
          height="2.5"
          class="kept"
        />
        <g v-for="tick in ticks" :key="tick">
          <line :x1="xOf(tick)" :x2="xOf(tick)" y1="13" y2="21" class="tick" />
          <text :x="xOf(tick)" y="10" text-anchor="middle">{{ tick }}</text>
        </g>
        <circle v-for="frame in keyFrames" :key="`k${frame}`" :cx="xOf(frame)" cy="17" r="2.4" class="key" />
        <path :transform="`translate(${xOf(shot.frame)} 0)`" d="M0 25V7M-4 1H4V5L0 9L-4 5Z" class="now" />
      </svg>
    </div>
    <span v-if="view.range" class="soft small"
      ><button class="word" title="The whole shot again" @click="view.range = null">
        {{ played.first }}–{{ played.last }}
      </button></span
    >
    <v-btn
      :icon="mdiChartBellCurve"
      size="x-small"
      :aria-pressed="view.lowerCurves"
      aria-label="Values over time"
      title="Values over time (T)"
      data-test="open-curves"
      @click="view.lowerCurves = !view.lowerCurves"
    />
    <WordField class="frame figures" :value="shot.frame" aria-label="Frame at hand" data-test="frame" @change="go" />
    <span class="figures" data-test="timecode">{{ code }}</span><span class="soft figures">{{ seconds }} s</span>
    <span class="soft figures">{{ rateText(rate) }}</span>
    <span v-if="view.playing" class="figures" :class="{ late: view.dropped > 0 }" data-test="dropped"
      >{{ view.dropped }} dropped</span
    >
  </div>
</template>

<style scoped>
.time {
  height: 30px;
  padding: 0 12px 0 6px;
  display: flex;
  align-items: center;
  gap: 8px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  font-size: 12px;
  white-space: nowrap;
}
.buttons {
  display: flex;
  align-items: center;
  gap: 8px;
  flex-shrink: 0;
}
/* As wide as the list of values above, so that the frames of both lie one above the other */
.buttons.wide {
  width: 244px;
}
.time .v-btn {
  margin: 0 -4px;
}
.mirrored {
  transform: scaleX(-1);
}
.bar {
  flex: 1;
  min-width: 80px;
  height: 25px;
  margin: 0 6px;
  cursor: ew-resize;
  touch-action: none;
}
svg {
  display: block;
}
text {
  font: 9.5px var(--figures);
  fill: var(--soft);
  pointer-events: none;
  user-select: none;
}
.tick {
  stroke: var(--line);
}
.range {
  fill: var(--faint);
}
.kept {
  fill: var(--soft);
}
.key {
  fill: var(--ink);
}
.now {
  stroke: var(--mark);
  stroke-width: 1.5;
  fill: var(--mark);
}
.small {
  font-size: 11.5px;
}
.late {
  color: var(--mark);
}
.frame {
  width: 46px;
  text-align: right;
  border: 0;
  border-bottom: 1.5px solid #b4b5b3;
  background: none;
  color: inherit;
  font-size: 12.5px;
  font-weight: 600;
}
</style>
