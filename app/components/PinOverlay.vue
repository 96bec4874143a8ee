<script setup lang="ts">
// Pixels that are pinned, on the picture: a click pins one, a drag moves it.
import { identifier } from '../../core/shot/document'
import { useOverPicture } from '~/composables/overPicture'
import { MOST_PINS, PIN_COLOURS, useView } from '~/stores/view'

const props = defineProps<{ zoom: number }>()
const view = useView()
const svg = ref<SVGSVGElement>()
const { frame, unit, shareAt } = useOverPicture(svg, () => props.zoom)
function at(event: MouseEvent): { x: number; y: number } {
  const held = (share: number, most: number): number => Math.min(most - 1, Math.max(0, Math.floor(share * most)))
  const [u, v] = shareAt(event)
  return { x: held(u, frame.value.width), y: held(v, frame.value.height) }
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
