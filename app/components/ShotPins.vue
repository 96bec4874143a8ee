<script setup lang="ts">
// Pixels that are pinned on the picture, over time: what each of them is worth at every frame of the shot.
import { luminance } from '../../core/colour/luminance'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { MOST_PINS, PIN_COLOURS, useView } from '~/stores/view'
import type { PictureOrder } from '~/workers/messages'

const Chart = defineAsyncComponent(() => import('vue3-apexcharts'))
const shot = useShot()
const view = useView()
const CHANNELS = ['brightness', 'red', 'green', 'blue', 'alpha'] as const
const channel = ref<(typeof CHANNELS)[number]>('brightness')
/** By pin, by frame: scene-linear red, green, blue, alpha. */
const found = shallowRef<Record<string, Map<number, readonly number[]>>>({})
const range = computed(() => view.range ?? shot.document!.frames)
/** So many frames are looked at at most: of longer ranges every second, third … */
const MOST_FRAMES = 240
const frames = computed(() => {
  const { first, last } = range.value
  const step = Math.ceil((last - first + 1) / MOST_FRAMES)
  return Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, i) => first + i * step)
})

const order = (frame: number): PictureOrder => ({
  ...{ document: shot.document!, frame, shrink: 1, stops: 0, channel: 0 },
  ...{ layer: view.layerAtWork, only: view.solo },
  show: view.show.kind === 'matte' ? { kind: view.station === 'build' ? 'build' : 'finish' } : view.show,
})
let round = 0
async function look() {
  const mine = ++round
  const places = view.pins.map(({ x, y }) => {
    const { width, height } = shot.document!.frame
    return [(x + 0.5) / width, (y + 0.5) / height] as const
  })
  const values: typeof found.value = Object.fromEntries(view.pins.map(({ id }) => [id, new Map()]))
  if (!places.length) return void (found.value = values)
  let drawn = performance.now()
  try {
    for (const frame of frames.value) {
      const read = await engine.values(order(frame), places)
      if (mine !== round) return
      view.pins.forEach(({ id }, i) => values[id]?.set(frame, read[i]!))
      // Drawn as it comes, but not at every frame
      if (performance.now() - drawn < 400) continue
      drawn = performance.now()
      found.value = { ...values }
    }
    found.value = { ...values }
  } catch (error) {
    if (mine === round) shot.message = (error as Error).message
  }
}
let waiting: ReturnType<typeof setTimeout> | undefined
const soon = (): void => {
  clearTimeout(waiting)
  waiting = setTimeout(() => void look(), 400)
}
watch(
  [
    ...[() => shot.document, () => view.pins, () => view.station, () => view.solo, range],
    ...[() => view.dragging, () => view.playing],
  ],
  () => {
    // What is dragged or played needs the engine: what was begun ends
    round++
    if (!view.dragging && !view.playing) soon()
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  round++
  clearTimeout(waiting)
  view.pinning = false
})

const worth = (rgba: readonly number[]): number => {
  const [r, g, b, a] = rgba as [number, number, number, number]
  return channel.value === 'brightness' ? luminance(r, g, b) : { red: r, green: g, blue: b, alpha: a }[channel.value]
}
const series = computed(() =>
  view.pins.map(({ id }, i) => ({
    name: `${i + 1}`,
    data: [...(found.value[id] ?? [])].map(([frame, rgba]) => ({ x: frame, y: worth(rgba) })),
  })),
)
const options = computed(() => ({
  chart: { id: 'pins', animations: { enabled: false }, toolbar: { show: false }, zoom: { enabled: false } },
  colors: PIN_COLOURS,
  stroke: { width: 1.6 },
  legend: { show: false },
  markers: { size: frames.value.length > 1 ? 0 : 4 },
  grid: { borderColor: '#8883', padding: { top: -14, bottom: -8, left: 4, right: 8 } },
  xaxis: {
    type: 'numeric',
    decimalsInFloat: 0,
    tickAmount: Math.min(12, Math.max(1, frames.value.length - 1)),
    labels: { style: { fontSize: '10px' } },
    tooltip: { enabled: false },
  },
  yaxis: { labels: { style: { fontSize: '10px' }, formatter: (value: number) => value.toFixed(3) }, tickAmount: 3 },
  annotations: { xaxis: [{ x: shot.frame, borderColor: '#8a1f11', strokeDashArray: 0 }] },
  tooltip: { theme: view.dim ? 'dark' : 'light', x: { formatter: (frame: number) => `frame ${frame}` } },
}))
const now = (id: string): string => {
  const rgba = found.value[id]?.get(shot.frame)
  return rgba ? worth(rgba).toFixed(4) : '–'
}
const remove = (id: string): void => {
  view.pins = view.pins.filter(pin => pin.id !== id)
}
</script>

<template>
  <section class="pins" aria-label="Pinned pixels over time" data-test="pins">
    <div class="says">
      <button
        class="word"
        :class="{ on: view.pinning }"
        :aria-pressed="view.pinning"
        :disabled="view.pins.length >= MOST_PINS"
        data-test="pin-add"
        @click="view.pinning = !view.pinning"
      >
        {{ view.pinning ? 'click a pixel' : '+ pixel' }}</button><select
        v-model="channel"
        class="word"
        aria-label="Channel"
        data-test="pin-channel"
        @keydown.stop
      >
        <option v-for="one in CHANNELS" :key="one">{{ one }}</option>
      </select>
      <span v-for="({ id, x, y }, i) in view.pins" :key="id" class="pin" data-test="pin">
        <b :style="{ color: PIN_COLOURS[i] }">{{ i + 1 }}</b>
        <span class="figures">{{ x }}, {{ y }}: {{ now(id) }}</span>
        <button class="word soft" :aria-label="`Take pixel ${i + 1} away`" data-test="pin-remove" @click="remove(id)">
          away
        </button>
      </span>
    </div>
    <Chart v-if="view.pins.length" class="chart" type="line" height="104" :options="options" :series="series" />
    <p v-else class="soft">
      Pin pixels of the picture to see what they are worth at every frame: whether a light flickers, a match holds, a
      grade drifts.
    </p>
  </section>
</template>

<style scoped>
.pins {
  display: flex;
  gap: 14px;
  height: 118px;
  padding: 6px 12px 0 0;
}
.chart {
  flex: 1;
  min-width: 0;
  color: #222;
}
.says {
  width: 190px;
  display: flex;
  flex-wrap: wrap;
  align-content: flex-start;
  gap: 0 10px;
  font-size: 12px;
  overflow-y: auto;
}
.pin {
  display: flex;
  gap: 6px;
  width: 100%;
  font-size: 11.5px;
  line-height: 1.35;
}
.figures {
  flex: 1;
  font-family: var(--figures);
}
.on {
  color: var(--mark);
}
p {
  max-width: 380px;
  font-size: 12px;
}
</style>
