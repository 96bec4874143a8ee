<script setup lang="ts">
// The dividing line on the picture: dragged, and with Shift turned.
import { useDividingLine } from '~/composables/dividingLine'
import { useView } from '~/stores/view'

const props = defineProps<{ frame: { width: number; height: number }; zoom: number }>()
const view = useView()
const host = ref<HTMLElement>()
const line = useDividingLine(
  computed(() => props.frame),
  computed(() => props.zoom),
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
  const bounds = host.value!.getBoundingClientRect()
  const u = (event.clientX - bounds.left) / bounds.width
  const v = (event.clientY - bounds.top) / bounds.height
  if (event.shiftKey)
    view.compare.angle = Math.max(
      -80,
      Math.min(
        80,
        ((Math.atan2((u - view.compare.at) * props.frame.width, (0.5 - v) * props.frame.height || 1e-6) * 180) /
          Math.PI) %
          90,
      ),
    )
  else view.compare.at = Math.max(0.01, Math.min(0.99, u))
}
</script>

<template>
  <div v-if="line && view.compare" ref="host" class="whole">
    <svg class="divide"><line :x1="line.top" y1="0" :x2="line.bottom" :y2="line.height" /></svg>
    <span class="on-picture" :style="{ right: `calc(100% - ${line.top - 8}px)` }">{{
      view.compare.kept?.name ?? view.compare.with
    }}</span>
    <span class="on-picture" :style="{ left: `${line.top + 8}px` }">now</span>
    <button
      class="grip"
      aria-label="Dividing line: drag; with Shift it turns"
      :style="{ left: `${line.middle}px` }"
      @pointerdown="dragLine"
      @pointermove="dragLine"
    />
  </div>
</template>

<style scoped>
.whole {
  position: absolute;
  inset: 0;
  pointer-events: none;
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
.grip {
  position: absolute;
  top: 50%;
  width: 22px;
  height: 38px;
  margin: -19px -11px;
  border-radius: 11px;
  background: #fffd;
  border: 1px solid #0003;
  pointer-events: auto;
  cursor: ew-resize;
  touch-action: none;
}
</style>
