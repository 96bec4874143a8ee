<script setup lang="ts">
// Instruments of light: how often each value is there, where across the picture, which colours; what was there without
// any treatment lies under what is there now. Of the picture that is looked at, counted at half size while it changes.
import { FIRST_STOP, PLANES, STOPS, type LightMeasure, type Plane } from '../../core/measure/light'
import { MARKS } from '../../core/measure/marks'
import { recipeOf } from '../../core/shot/slip'
import { boxOf, common, type Box } from '../../core/engine/box'
import { engine } from '~/composables/engine'
import { plotBars, plotColours, plotWave } from '~/composables/lightPlots'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { PictureOrder } from '~/workers/messages'

const shot = useShot()
const view = useView()
const CHANNELS = ['all', 'red', 'green', 'blue', 'brightness'] as const
const PLANE_WORDS: Record<Plane, string> = { chroma: 'chroma', 'u′v′': 'u′v′ 1976', xy: 'xy 1931' }
const SCALES = ['display', 'stops'] as const
/** The line whose borders lie on the histogram, where it is still there. */
const line = computed(() =>
  view.borders && shot.document && recipeOf(shot.document, view.borders) ? view.borders : undefined,
)
const channel = ref<(typeof CHANNELS)[number]>('all')
const chosenScale = ref<(typeof SCALES)[number]>('display')
/** Borders of light are told in stops. */
const scale = computed(() => (line.value ? 'stops' : chosenScale.value))
const plane = ref<Plane>('chroma')
/** The plane that what is shown was counted on. */
let counted: Plane = 'chroma'
const now = shallowRef<LightMeasure>()
const before = shallowRef<LightMeasure>()
const bars = ref<HTMLCanvasElement>()
const wave = ref<HTMLCanvasElement>()
const vectors = ref<HTMLCanvasElement>()

const order = (): PictureOrder => ({
  document: shot.document!,
  frame: shot.frame,
  shrink: SHRINK,
  show: view.show.kind === 'matte' ? { kind: view.station === 'build' ? 'build' : 'finish' } : view.show,
  layer: view.layerAtWork,
  only: view.solo,
  stops: 0,
  channel: 0,
  area: area(),
})
const SHRINK = 2
/** What is measured of the frame, in its pixels at that size; undefined: all. */
function area(): Box | undefined {
  const box = view.measured === 'box' ? view.measuredBox : view.measured === 'view' ? view.seen : null
  if (!box) return undefined
  const { width, height } = shot.document!.frame
  const held = common(boxOf(Math.max(1, Math.floor(width / SHRINK)), Math.max(1, Math.floor(height / SHRINK))), {
    left: Math.floor(box.left / SHRINK),
    top: Math.floor(box.top / SHRINK),
    right: Math.ceil(box.right / SHRINK),
    bottom: Math.ceil(box.bottom / SHRINK),
  })
  return held.right > held.left && held.bottom > held.top ? held : undefined
}
// Latest wins: while one is counted only the newest wish is kept
let counting = false
let wanted = false
let gone = false
async function count() {
  if (!shot.document || view.playing) return
  if (counting) {
    wanted = true
    return
  }
  counting = true
  try {
    do {
      wanted = false
      const on = plane.value
      now.value = await engine.measure(order(), on)
      counted = on
      draw()
    } while (wanted && !gone)
    const { kind } = order().show
    if (!view.dragging && (kind === 'build' || kind === 'finish')) {
      before.value = await engine.measure(
        line.value
          ? { ...order(), show: { kind: 'comes', line: line.value } }
          : { ...order(), without: { treatments: true } },
        plane.value,
      )
      draw()
    } else if (!view.dragging) before.value = undefined
  } catch (error) {
    shot.message = (error as Error).message
  }
  counting = false
  if (wanted && !gone) void count()
}
watch(
  [
    ...[() => shot.document, () => shot.frame, () => view.show, () => view.solo, () => view.dragging],
    ...[() => view.playing, area, plane, line],
  ],
  () => void count(),
)
watch([channel, scale, () => view.dim], () => draw())
onMounted(() => void count())
onBeforeUnmount(() => {
  gone = true
})

/** Which of red, green, blue and brightness are drawn. */
const drawn = computed(() =>
  channel.value === 'all' ? [0, 1, 2, 3] : [['red', 'green', 'blue', 'brightness'].indexOf(channel.value)],
)
function fitted(canvas: HTMLCanvasElement): CanvasRenderingContext2D {
  const { width, height } = canvas.getBoundingClientRect()
  const times = window.devicePixelRatio || 1
  canvas.width = Math.max(1, Math.round(width * times))
  canvas.height = Math.max(1, Math.round(height * times))
  return canvas.getContext('2d')!
}
function draw() {
  const measure = now.value
  if (!measure || !bars.value || !wave.value || !vectors.value) return
  const style = getComputedStyle(bars.value)
  const inks = { ink: style.getPropertyValue('--ink').trim(), soft: style.getPropertyValue('--line').trim() }
  plotBars(fitted(bars.value), measure, before.value, { ...inks, drawn: drawn.value, scale: scale.value })
  const waves = channel.value === 'all' ? [0, 1, 2] : drawn.value
  plotWave(fitted(wave.value), measure, { ...inks, drawn: waves })
  plotColours(fitted(vectors.value), measure, counted, inks)
}
const percent = (share: number): string => (share === 0 ? '0' : share < 0.001 ? '<0.1' : (share * 100).toFixed(1))
/** What one wants to know of; what is no number is only told where there is some. */
const told = computed(() => {
  const measure = now.value
  if (!measure) return []
  return MARKS.map((mark, i) => ({ mark, count: measure.marks[i]! }))
    .filter(({ mark, count }) => count > 0 || mark.id !== 'none')
    .map(({ mark, count }) => ({
      ...mark,
      words: `${mark.id === 'none' ? count : `${percent(count / measure.count)} %`} ${mark.label}`,
    }))
    .reverse()
})
function mark(id: string) {
  view.marks = view.marks.includes(id) ? view.marks.filter(other => other !== id) : [...view.marks, id]
}

// Of what it is: the whole frame, what is seen of it, or a box that is drawn on it
const OF = { whole: 'the whole', view: 'what is in view', box: 'a box' } as const
function of(event: Event) {
  view.measured = (event.target as HTMLSelectElement).value as typeof view.measured
  if (view.measured === 'box') view.measuredBox = null
}
</script>

<template>
  <section class="light" aria-label="Instruments of light" data-test="light">
    <figure class="bars">
      <div class="plot">
        <canvas ref="bars" role="img" aria-label="Histogram" data-test="light-histogram" />
        <ToneBorders v-if="line" :line="line" />
      </div>
      <figcaption class="soft">
        <span>{{ scale === 'display' ? '0' : FIRST_STOP }}</span><span class="marks"
          ><button
            v-for="one in told"
            :key="one.id"
            class="word"
            :aria-pressed="view.marks.includes(one.id)"
            :class="{ on: view.marks.includes(one.id) }"
            :style="{ '--own': `rgb(${one.colour.join(' ')})` }"
            :title="`${one.help} Click marks them on the picture.`"
            :data-test="`mark-${one.id}`"
            @click="mark(one.id)"
          >
            {{ one.words }}
          </button></span
        ><span>{{ scale === 'display' ? '1' : `+${FIRST_STOP + STOPS}` }}</span>
      </figcaption>
    </figure>
    <figure class="wave">
      <canvas ref="wave" role="img" aria-label="Light from left to right" data-test="light-wave" />
      <figcaption class="soft"><span>left</span><span>right</span></figcaption>
    </figure>
    <figure class="vectors">
      <canvas
        ref="vectors"
        role="img"
        :aria-label="plane === 'chroma' ? 'Colours; dashed: the hue of skin' : 'Chromaticities'"
        data-test="light-vectors"
      />
      <figcaption class="soft">
        <span>{{ plane === 'chroma' ? 'dashed: skin' : 'inside: Rec.709' }}</span>
      </figcaption>
    </figure>
    <div class="says">
      <select v-model="channel" class="word" aria-label="Channel" data-test="light-channel" @keydown.stop>
        <option v-for="one in CHANNELS" :key="one">{{ one }}</option></select
      ><select
        v-model="chosenScale"
        class="word"
        aria-label="Scale"
        :disabled="!!line"
        data-test="light-scale"
        @keydown.stop
      >
        <option v-for="one in SCALES" :key="one">{{ one }}</option></select
      ><select v-model="plane" class="word" aria-label="Plane of colours" data-test="light-plane" @keydown.stop>
        <option v-for="(_, one) in PLANES" :key="one" :value="one">{{ PLANE_WORDS[one] }}</option></select
      ><select
        class="word"
        :value="view.measured"
        aria-label="Measured"
        data-test="light-of"
        @change="of"
        @keydown.stop
      >
        <option v-for="(words, one) in OF" :key="one" :value="one">{{ words }}</option>
      </select>
      <span class="soft">grey: {{ line ? 'what comes to the line' : 'without treatments' }}</span>
    </div>
  </section>
</template>

<style scoped>
.light {
  display: flex;
  gap: 14px;
  height: 118px;
  padding: 8px 12px 4px 0;
}
figure {
  margin: 0;
  display: flex;
  flex-direction: column;
  min-width: 0;
}
.bars,
.wave {
  flex: 1;
}
.vectors {
  width: 96px;
}
canvas {
  flex: 1;
  min-height: 0;
  width: 100%;
  background: var(--card);
  border: 1px solid var(--line);
}
.plot {
  position: relative;
  flex: 1;
  display: flex;
  min-height: 0;
}
.vectors canvas {
  border: 0;
  background: none;
}
figcaption {
  display: flex;
  justify-content: space-between;
  font-size: 10.5px;
  line-height: 1.5;
}
.vectors figcaption {
  justify-content: center;
}
.says {
  width: 176px;
  display: flex;
  flex-wrap: wrap;
  align-content: flex-start;
  align-items: baseline;
  gap: 4px 10px;
  font-size: 12px;
}
.says .soft {
  font-size: 10.5px;
  line-height: 1.25;
}
.marks {
  display: flex;
  gap: 8px;
  white-space: nowrap;
}
.marks .on {
  color: var(--own);
  border-color: var(--own);
  font-weight: 600;
}
</style>
