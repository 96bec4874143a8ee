<script setup lang="ts">
// Pixels that are pinned, on the picture: a click pins one, a drag moves it.
import { identifier } from '../../core/shot/document'
import { useShot } from '~/stores/shot'
import { MOST_PINS, PIN_COLOURS, useView } from '~/stores/view'

const props = defineProps<{ zoom: number }>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const frame = computed(() => shot.document!.frame)
const unit = computed(() => 1 / props.zoom)
function at(event: MouseEvent): { x: number; y: number } {
  const bounds = svg.value!.getBoundingClientRect()
  const held = (share: number, most: number): number => Math.min(most - 1, Math.max(0, Math.floor(share * most)))
  return {
    x: held((event.clientX - bounds.left) / bounds.width, frame.value.width),
    y: held((event.clientY - bounds.top) / bounds.height, frame.value.height),
  }
}
function add(event: MouseEvent) {
  if (!view.pinning || view.pins.length >= MOST_PINS) return
  view.pins = [...view.pins, { id: identifier(), ...at(event) }]
  view.pinning = view.pins.length < MOST_PINS
}
let held = ''
function press(event: PointerEvent, id: string) {
  if (event.button !== 0 || event.altKey) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = id
}
function move(event: PointerEvent) {
  if (held) view.pins = view.pins.map(pin => (pin.id === held ? { ...pin, ...at(event) } : pin))
}
</script>

<template>
  <svg
    ref="svg"
    class="over-picture"
    :class="{ tool: view.pinning }"
    :viewBox="`0 0 ${frame.width} ${frame.height}`"
    preserveAspectRatio="none"
    data-test="pin-overlay"
    @pointerdown="view.pinning && $event.button === 0 && !$event.altKey && $event.stopPropagation()"
    @click.stop="add"
  >
    <PictureGrip
      v-for="({ id, x, y }, i) in view.pins"
      :key="id"
      v-bind="{ x: x + 0.5, y: y + 0.5, unit }"
      :aria-label="`Pinned pixel ${i + 1}`"
      data-test="pin-grip"
      @pointerdown="press($event, id)"
      @pointermove="move"
      @pointerup="held = ''"
      @pointercancel="held = ''"
      @click.stop
    >
      <circle r="4" :style="{ fill: PIN_COLOURS[i] }" />
      <text x="8" y="4">{{ i + 1 }}</text>
    </PictureGrip>
  </svg>
</template>
