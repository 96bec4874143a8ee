<script setup lang="ts">
// A colour chosen by hue and strength on a round field, and by its lightness (OKLCh). The field is for any light: what
// lies out there is as strong for a little of it as for much.
import type { ValuesField } from '../../core/declare/field'
import { displayByte } from '../../core/colour/encoding'
import { colourOfTone, rgbOfOklab, toneOf, type ToneOf } from '../../core/colour/oklab'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ modelValue: Animatable[]; field: ValuesField; label: string }>()
const emit = defineEmits<{ change: [colour: Animatable[], live: boolean] }>()
const shot = useShot()
const view = useView()
const open = ref(false)
const canvas = ref<HTMLCanvasElement>()
const disc = ref<HTMLElement>()
const SIDE = 148
/** Strength at the border of the field; what is stronger stands there. */
const STRONGEST = 0.4
const LIGHTEST = 1.6

const colour = computed(() => props.modelValue.map(part => valueAt(part, shot.frame)) as [number, number, number])
const tone = computed(() => toneOf(colour.value))
/** Greys have no hue: the one that was chosen is kept as long as the field is open. */
const lastHue = ref(0)
watch(tone, ({ strength, hue }) => strength > 0.001 && (lastHue.value = hue), { immediate: true })
const seen = ([r, g, b]: readonly [number, number, number]): string => `rgb(${[r, g, b].map(displayByte).join(' ')})`

function put(next: Partial<ToneOf>, live: boolean) {
  const { low, high } = props.field
  const made = colourOfTone({ ...tone.value, hue: lastHue.value, ...next })
  emit(
    'change',
    props.modelValue.map((part, i) =>
      withValue(part, shot.frame, Number(Math.min(high, Math.max(low, made[i]!)).toFixed(4))),
    ),
    live,
  )
}
function placed(event: PointerEvent, live: boolean) {
  const bounds = disc.value!.getBoundingClientRect()
  const x = ((event.clientX - bounds.left) / bounds.width) * 2 - 1
  const y = 1 - ((event.clientY - bounds.top) / bounds.height) * 2
  const hue = ((Math.atan2(y, x) * 180) / Math.PI + 360) % 360
  lastHue.value = hue
  put({ hue, strength: Math.min(1, Math.hypot(x, y)) * STRONGEST }, live)
}
let held = false
function press(event: PointerEvent) {
  if (event.button !== 0) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = true
  view.dragging = true
  placed(event, true)
}
function move(event: PointerEvent) {
  if (held) placed(event, true)
}
function release(event: PointerEvent) {
  if (!held) return
  held = false
  placed(event, false)
  view.dragging = false
}
/** Arrow keys turn the hue and change its strength, with Shift five times as far; Home makes it grey. */
function keys(event: KeyboardEvent) {
  const far = event.shiftKey ? 5 : 1
  const { strength } = tone.value
  const turned = (by: number): Partial<ToneOf> => {
    lastHue.value = (lastHue.value + by + 360) % 360
    return { hue: lastHue.value }
  }
  const moves: Record<string, () => Partial<ToneOf>> = {
    ArrowLeft: () => turned(2 * far),
    ArrowRight: () => turned(-2 * far),
    ArrowUp: () => ({ strength: Math.min(STRONGEST, strength + 0.005 * far) }),
    ArrowDown: () => ({ strength: Math.max(0, strength - 0.005 * far) }),
    Home: () => ({ strength: 0 }),
  }
  const next = moves[event.key]
  if (!next) return
  put(next(), false)
  event.preventDefault()
  event.stopPropagation()
}
function lighter(event: Event, live: boolean) {
  view.dragging = live
  // Of black there is no light to be scaled: it becomes grey
  put({ lightness: Math.max(0.001, Number((event.target as HTMLInputElement).value)) }, live)
}

const dot = computed(() => {
  const share = Math.min(1, tone.value.strength / STRONGEST)
  const turn = (lastHue.value * Math.PI) / 180
  return { left: `${50 + 50 * share * Math.cos(turn)}%`, top: `${50 - 50 * share * Math.sin(turn)}%` }
})
/** Painted at a lightness at which hues are told best; beyond what a display shows it is paler. */
function paint() {
  const context = canvas.value?.getContext('2d')
  if (!context) return
  const codes = new Uint8ClampedArray(SIDE * SIDE * 4)
  const light = 0.72
  for (let row = 0, at = 0; row < SIDE; row++)
    for (let column = 0; column < SIDE; column++, at += 4) {
      const x = ((column + 0.5) / SIDE) * 2 - 1
      const y = 1 - ((row + 0.5) / SIDE) * 2
      const rgb = rgbOfOklab([light, x * STRONGEST * light, y * STRONGEST * light])
      const isShown = rgb.every(channel => channel >= 0 && channel <= 1)
      for (let c = 0; c < 3; c++) codes[at + c] = displayByte(rgb[c]!)
      // A soft border of one pixel
      const inside = (1 - Math.hypot(x, y)) * (SIDE / 2)
      codes[at + 3] = Math.max(0, Math.min(1, inside)) * (isShown ? 255 : 90)
    }
  context.putImageData(new ImageData(codes, SIDE, SIDE), 0, 0)
}
watch(open, async now => {
  if (!now) return
  await nextTick()
  paint()
})
const said = computed(
  () =>
    `hue ${lastHue.value.toFixed(0)}°, strength ${tone.value.strength.toFixed(3)}, lightness ${tone.value.lightness.toFixed(2)}`,
)
</script>

<template>
  <span class="colour"
    ><button
      class="swatch"
      :style="{ background: seen(colour) }"
      :aria-label="`${label}: choose by hue and strength`"
      :aria-expanded="open"
      :title="`${label}: ${said}. Click chooses it by hue and strength.`"
      data-test="colour-swatch"
      @click="open = !open"
    /><span v-if="open" class="field" data-test="colour-field"
      ><span ref="disc" class="disc" @pointerdown.prevent="press" @pointermove="move" @pointerup="release"
        ><canvas ref="canvas" :width="SIDE" :height="SIDE" aria-hidden="true" /><span
          class="dot"
          :style="{ ...dot, background: seen(colour) }"
          tabindex="0"
          role="slider"
          :aria-label="`${label}: hue and strength`"
          :aria-valuenow="Math.round(lastHue)"
          aria-valuemin="0"
          aria-valuemax="360"
          :aria-valuetext="said"
          data-test="colour-dot"
          @keydown="keys" /></span
      ><span class="says"
        ><label
          >lightness<input
            type="range"
            min="0"
            :max="LIGHTEST"
            step="0.005"
            :value="tone.lightness"
            :aria-label="`${label}: lightness`"
            data-test="colour-light"
            @input="lighter($event, true)"
            @change="lighter($event, false)"
            @keydown.stop /></label
        ><span class="soft">{{ said }}</span
        ><button class="word" data-test="colour-grey" @click="put({ strength: 0 }, false)">no colour</button></span
      ></span
    ></span
  >
</template>

<style scoped>
.field {
  display: flex;
  gap: 12px;
  margin: 6px 0;
  font-size: 12px;
  line-height: 1.4;
}
.disc {
  position: relative;
  flex: none;
  width: 148px;
  height: 148px;
  touch-action: none;
  cursor: crosshair;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
.dot {
  position: absolute;
  width: 13px;
  height: 13px;
  margin: -6.5px;
  border: 2px solid #fff;
  border-radius: 50%;
  box-shadow: 0 0 0 1px #000a;
}
.dot:focus-visible {
  outline: 2px solid var(--mark);
  outline-offset: 1px;
}
.says {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 6px;
  min-width: 0;
}
label {
  display: flex;
  flex-direction: column;
}
input {
  width: 118px;
  accent-color: var(--ink);
}
</style>
