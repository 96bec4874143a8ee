<script setup lang="ts">
// Instruments of light: how often each value is there, where across the picture, which colours; what was there without
// any treatment lies under what is there now. Of the picture that is looked at, counted at half size while it changes.
import {
  FIRST_STOP,
  SKIN_HUE,
  STOP_STEPS,
  STOPS,
  VECTOR_STEPS,
  WAVE_COLUMNS,
  WAVE_ROWS,
  type LightMeasure,
} from '../../core/measure/light'
import { engine } from '~/composables/engine'
import { canvasOf } from '~/composables/smallPicture'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { PictureOrder } from '~/workers/messages'

const shot = useShot()
const view = useView()
const CHANNELS = ['all', 'red', 'green', 'blue', 'brightness'] as const
const SCALES = ['display', 'stops'] as const
const channel = ref<(typeof CHANNELS)[number]>('all')
const scale = ref<(typeof SCALES)[number]>('display')
const now = shallowRef<LightMeasure>()
const before = shallowRef<LightMeasure>()
const bars = ref<HTMLCanvasElement>()
const wave = ref<HTMLCanvasElement>()
const vectors = ref<HTMLCanvasElement>()

const order = (): PictureOrder => ({
  document: shot.document!,
  frame: shot.frame,
  shrink: 2,
  show: view.show.kind === 'matte' ? { kind: view.station === 'build' ? 'build' : 'finish' } : view.show,
  layer: view.layerAtWork,
  only: view.solo,
  stops: 0,
  channel: 0,
})
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
      now.value = await engine.measure(order())
      draw()
    } while (wanted && !gone)
    const { kind } = order().show
    if (!view.dragging && (kind === 'build' || kind === 'finish')) {
      before.value = await engine.measure({ ...order(), without: { treatments: true } })
      draw()
    } else if (!view.dragging) before.value = undefined
  } catch (error) {
    shot.message = (error as Error).message
  }
  counting = false
  if (wanted && !gone) void count()
}
watch(
  [() => shot.document, () => shot.frame, () => view.show, () => view.solo, () => view.dragging, () => view.playing],
  () => void count(),
)
watch([channel, scale, () => view.dim], () => draw())
onMounted(() => void count())
onBeforeUnmount(() => {
  gone = true
})

const COLOURS = ['#c23b2c', '#2f8a4a', '#3564c4', '']
/** Which of the four are drawn. */
const drawn = computed(() =>
  channel.value === 'all' ? [0, 1, 2, 3] : [['red', 'green', 'blue', 'brightness'].indexOf(channel.value)],
)
const ink = (): string => getComputedStyle(bars.value!).getPropertyValue('--ink').trim()
const soft = (): string => getComputedStyle(bars.value!).getPropertyValue('--line').trim()
function fitted(canvas: HTMLCanvasElement): CanvasRenderingContext2D {
  const { width, height } = canvas.getBoundingClientRect()
  const times = window.devicePixelRatio || 1
  canvas.width = Math.max(1, Math.round(width * times))
  canvas.height = Math.max(1, Math.round(height * times))
  return canvas.getContext('2d')!
}
const binsOf = ({ codes, stops }: LightMeasure, of: number): Uint32Array =>
  scale.value === 'display'
    ? codes.subarray(of * 256, of * 256 + 256)
    : stops.subarray(of * STOPS * STOP_STEPS, (of + 1) * STOPS * STOP_STEPS)

function draw() {
  if (!now.value || !bars.value || !wave.value || !vectors.value) return
  drawBars(fitted(bars.value), now.value)
  drawWave(fitted(wave.value), now.value)
  drawVectors(fitted(vectors.value), now.value)
}
function drawBars(context: CanvasRenderingContext2D, measure: LightMeasure) {
  const { width, height } = context.canvas
  // The ends hold what is beyond: they may stand out of the frame
  const most = Math.max(
    1,
    ...[measure, before.value].flatMap(one =>
      one ? drawn.value.flatMap(of => [...binsOf(one, of)].slice(1, -1)) : [],
    ),
  )
  const line = (bins: Uint32Array, filled: boolean): void => {
    context.beginPath()
    if (filled) context.moveTo(0, height)
    bins.forEach((value, i) => {
      const x = (i / (bins.length - 1)) * width
      const y = height - Math.sqrt(value / most) * (height - 3)
      if (i || filled) context.lineTo(x, y)
      else context.moveTo(x, y)
    })
    if (filled) {
      context.lineTo(width, height)
      context.fill()
    } else context.stroke()
  }
  context.fillStyle = soft()
  if (before.value) line(binsOf(before.value, drawn.value.at(-1)!), true)
  context.lineWidth = Math.max(1, height / 90)
  for (const of of drawn.value) {
    context.strokeStyle = COLOURS[of] || ink()
    line(binsOf(measure, of), false)
  }
}
/** Counts as shades: few are seen, many do not drown all else. */
function shades(
  context: CanvasRenderingContext2D,
  columns: number,
  rows: number,
  parts: { counts: Uint32Array; colour: readonly [number, number, number] }[],
  most: number,
) {
  const codes = new Uint8ClampedArray(columns * rows * 4)
  for (let i = 0; i < columns * rows; i++) {
    const to = ((rows - 1 - Math.floor(i / columns)) * columns + (i % columns)) * 4
    let alpha = 0
    let [r, g, b] = [0, 0, 0]
    for (const { counts, colour } of parts) {
      const share = Math.min(1, Math.sqrt(counts[i]! / most))
      r += colour[0] * share
      g += colour[1] * share
      b += colour[2] * share
      alpha += share
    }
    if (!alpha) continue
    codes[to] = r / alpha
    codes[to + 1] = g / alpha
    codes[to + 2] = b / alpha
    codes[to + 3] = Math.min(255, alpha * 255)
  }
  context.imageSmoothingQuality = 'high'
  context.drawImage(
    canvasOf({ width: columns, height: rows, codes }),
    0,
    0,
    context.canvas.width,
    context.canvas.height,
  )
}
const rgbOf = (colour: string): [number, number, number] => {
  const found = /^#(..)(..)(..)$/.exec(colour)
  return found ? [parseInt(found[1]!, 16), parseInt(found[2]!, 16), parseInt(found[3]!, 16)] : [90, 90, 90]
}
function drawWave(context: CanvasRenderingContext2D, measure: LightMeasure) {
  const { width, height } = context.canvas
  context.strokeStyle = soft()
  for (const share of [0.25, 0.5, 0.75]) {
    context.beginPath()
    context.moveTo(0, height * share)
    context.lineTo(width, height * share)
    context.stroke()
  }
  const plane = WAVE_ROWS * WAVE_COLUMNS
  const chosen = channel.value === 'all' ? [0, 1, 2] : drawn.value
  shades(
    context,
    WAVE_COLUMNS,
    WAVE_ROWS,
    chosen.map(of => ({
      counts: measure.wave.subarray(of * plane, (of + 1) * plane),
      colour: rgbOf(COLOURS[of] || ink()),
    })),
    (measure.count / WAVE_COLUMNS) * 0.12,
  )
}
function drawVectors(context: CanvasRenderingContext2D, measure: LightMeasure) {
  const { width, height } = context.canvas
  const side = Math.min(width, height)
  const [x, y] = [width / 2, height / 2]
  context.strokeStyle = soft()
  context.beginPath()
  context.arc(x, y, side / 2 - 1, 0, 2 * Math.PI)
  context.moveTo(x - side / 2, y)
  context.lineTo(x + side / 2, y)
  context.moveTo(x, y - side / 2)
  context.lineTo(x, y + side / 2)
  context.stroke()
  const turn = (SKIN_HUE * Math.PI) / 180
  context.setLineDash([3, 3])
  context.beginPath()
  context.moveTo(x, y)
  context.lineTo(x + (Math.cos(turn) * side) / 2, y - (Math.sin(turn) * side) / 2)
  context.stroke()
  context.setLineDash([])
  context.save()
  context.translate(x - side / 2, y - side / 2)
  context.scale(side / width, side / height)
  shades(context, VECTOR_STEPS, VECTOR_STEPS, [{ counts: measure.vector, colour: rgbOf(ink()) }], measure.count / 3000)
  context.restore()
}
const percent = (share: number): string => (share === 0 ? '0' : share < 0.001 ? 'under 0.1' : (share * 100).toFixed(1))
const words = computed(() => {
  const measure = now.value
  if (!measure) return ''
  return [
    `${percent(measure.brightest / measure.count)} % brightest`,
    `${percent(measure.below / measure.count)} % below 0`,
    ...(measure.none ? [`${measure.none} no number`] : []),
  ].join(' · ')
})
</script>

<template>
  <section class="light" aria-label="Instruments of light" data-test="light">
    <figure class="bars">
      <canvas ref="bars" role="img" aria-label="Histogram" data-test="light-histogram" />
      <figcaption class="soft">
        <span>{{ scale === 'display' ? 'black' : `${FIRST_STOP} stops` }}</span><span>{{ words }}</span
        ><span>{{ scale === 'display' ? 'white' : `+${FIRST_STOP + STOPS}` }}</span>
      </figcaption>
    </figure>
    <figure class="wave">
      <canvas ref="wave" role="img" aria-label="Light from left to right" data-test="light-wave" />
      <figcaption class="soft"><span>left</span><span>right</span></figcaption>
    </figure>
    <figure class="vectors">
      <canvas ref="vectors" role="img" aria-label="Colours; dashed: the hue of skin" data-test="light-vectors" />
      <figcaption class="soft"><span>dashed: skin</span></figcaption>
    </figure>
    <div class="says">
      <select v-model="channel" class="word" aria-label="Channel" data-test="light-channel" @keydown.stop>
        <option v-for="one in CHANNELS" :key="one">{{ one }}</option></select
      ><select v-model="scale" class="word" aria-label="Scale" data-test="light-scale" @keydown.stop>
        <option v-for="one in SCALES" :key="one">{{ one }}</option>
      </select>
      <span class="soft">grey: without treatments</span>
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
  width: 104px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 4px;
  font-size: 12px;
}
.says .soft {
  font-size: 10.5px;
}
</style>
