<script setup lang="ts">
// The box on the picture that the instruments of light are of: dragged out once, then moved by its corners or its middle.
import { useOverPicture, type Xy } from '~/composables/overPicture'
import { useView } from '~/stores/view'

const props = defineProps<{ zoom: number }>()
const view = useView()
const svg = ref<SVGSVGElement>()
const { frame, unit, shareAt } = useOverPicture(svg, () => props.zoom)
const at = (event: PointerEvent): Xy => {
  const inside = (share: number, most: number): number => Math.round(Math.min(1, Math.max(0, share)) * most)
  const [u, v] = shareAt(event)
  return [inside(u, frame.value.width), inside(v, frame.value.height)]
}
const between = ([ax, ay]: Xy, [bx, by]: Xy): void => {
  view.measuredBox = {
    left: Math.min(ax, bx),
    top: Math.min(ay, by),
    right: Math.max(ax, bx, Math.min(ax, bx) + 1),
    bottom: Math.max(ay, by, Math.min(ay, by) + 1),
  }
}
/** It is being dragged out. */
const drawing = ref(false)
/** The corner that stays while another is dragged; or the middle, with where the box was. */
let held: { from: Xy } | { middle: Xy; was: NonNullable<typeof view.measuredBox> } | null = null
function press(event: PointerEvent, grip: 'new' | 'first' | 'last' | 'middle') {
  if (event.button !== 0 || event.altKey) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const box = view.measuredBox
  drawing.value = grip === 'new'
  if (grip === 'new' || !box) held = { from: at(event) }
  else if (grip === 'middle') held = { middle: at(event), was: box }
  else held = { from: grip === 'first' ? [box.right, box.bottom] : [box.left, box.top] }
}
function move(event: PointerEvent) {
  if (!held || !(event.currentTarget as Element).hasPointerCapture(event.pointerId)) return
  event.stopPropagation()
  const [x, y] = at(event)
  if ('from' in held) return between(held.from, [x, y])
  const { left, top, right, bottom } = held.was
  const dx = Math.min(frame.value.width - right, Math.max(-left, x - held.middle[0]))
  const dy = Math.min(frame.value.height - bottom, Math.max(-top, y - held.middle[1]))
  view.measuredBox = { left: left + dx, top: top + dy, right: right + dx, bottom: bottom + dy }
}
const release = (): void => {
  held = null
  drawing.value = false
}
const grips = computed(() => {
  const box = view.measuredBox
  if (!box) return []
  return [
    { id: 'first' as const, label: 'upper left corner', x: box.left, y: box.top },
    { id: 'last' as const, label: 'lower right corner', x: box.right, y: box.bottom },
    { id: 'middle' as const, label: 'middle', x: (box.left + box.right) / 2, y: (box.top + box.bottom) / 2 },
  ]
})
</script>

<template>
  <svg
    ref="svg"
    class="over-picture"
    :class="{ tool: !view.measuredBox || drawing }"
    :viewBox="`0 0 ${frame.width} ${frame.height}`"
    preserveAspectRatio="none"
    data-test="measured-box"
    @pointerdown="press($event, 'new')"
    @pointermove="move"
    @pointerup="release"
    @pointercancel="release"
    @click.stop
  >
    <template v-if="view.measuredBox">
      <template v-for="edge in ['edge-under', 'edge']" :key="edge">
        <rect
          :class="edge"
          :x="view.measuredBox.left"
          :y="view.measuredBox.top"
          :width="view.measuredBox.right - view.measuredBox.left"
          :height="view.measuredBox.bottom - view.measuredBox.top"
          vector-effect="non-scaling-stroke"
        />
      </template>
      <PictureGrip
        v-for="{ id, label, x, y } in grips"
        :key="id"
        v-bind="{ x, y, unit }"
        :aria-label="`Measured box: ${label}`"
        :data-test="`measured-${id}`"
        @pointerdown="press($event, id)"
        @pointermove="move"
        @pointerup="release"
        @click.stop
      >
        <circle :r="id === 'middle' ? 2.4 : 3.4" />
      </PictureGrip>
    </template>
  </svg>
</template>

<style scoped>
.edge {
  stroke-dasharray: 5 3;
}
</style>
