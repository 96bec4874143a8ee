<script setup lang="ts">
// An arrow at the border of the frame for each thing that the camera does not see; a click picks it.
import { standingOf } from '../../core/match/fit'
import type { Camera } from '../../core/scene/scene'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo; camera: Camera; frame: { width: number; height: number }; unit: number }>()
const view = useView()
/** More would be a fringe. */
const MOST = 6
const INSET = 20
const arrows = computed(() => {
  const { camera, frame, info, unit } = props
  const m = camera.matrix
  return info.objects
    .filter(thing => !thing.absent && !thing.hidden && (thing.role === 'object' || view.picked.includes(thing.name)))
    .map(thing => ({
      name: thing.name,
      picked: view.picked.includes(thing.name),
      far: Math.hypot(...[0, 1, 2].map(k => (thing.low[k]! + thing.high[k]!) / 2 - m[12 + k]!)),
      ...standingOf(camera, frame.width / frame.height, thing.corners),
    }))
    .filter(thing => !thing.seen && !thing.around)
    .sort((a, b) => Number(b.picked) - Number(a.picked) || a.far - b.far)
    .slice(0, MOST)
    .map(({ name, picked, towards: [x, y] }) => {
      const wide = frame.width / 2 - INSET * unit
      const high = frame.height / 2 - INSET * unit
      const reach = Math.min(wide / Math.max(1e-9, Math.abs(x)), high / Math.max(1e-9, Math.abs(y)))
      return {
        name,
        picked,
        x: frame.width / 2 + x * reach,
        y: frame.height / 2 + y * reach,
        turn: (Math.atan2(y, x) * 180) / Math.PI,
        // The name stands towards the middle
        side: x > 0.5 ? -1 : x < -0.5 ? 1 : 0,
        above: y > 0 && Math.abs(x) <= 0.5,
      }
    })
})
function pick(name: string) {
  view.picked = [name]
  view.scenePart = 'things'
}
</script>

<template>
  <g
    v-for="arrow in arrows"
    :key="arrow.name"
    :transform="`translate(${arrow.x} ${arrow.y}) scale(${unit})`"
    class="arrow"
    :class="{ picked: arrow.picked }"
    role="button"
    tabindex="0"
    :aria-label="`${arrow.name} is out of view: pick it`"
    data-test="out-of-view"
    @pointerdown.stop
    @pointerup.stop
    @click.stop="pick(arrow.name)"
    @keydown.enter.stop="pick(arrow.name)"
  >
    <circle r="13" />
    <path :transform="`rotate(${arrow.turn})`" d="M-6 -6 L8 0 L-6 6 L-3 0 z" />
    <text
      :x="arrow.side * 18"
      :y="arrow.side ? 4 : arrow.above ? -18 : 28"
      :text-anchor="arrow.side > 0 ? 'start' : arrow.side < 0 ? 'end' : 'middle'"
    >
      {{ arrow.name }}
    </text>
  </g>
</template>

<style scoped>
.arrow {
  pointer-events: auto;
  cursor: pointer;
}
.arrow circle {
  fill: #fffffff0;
  stroke: #0006;
}
.arrow path {
  fill: #222;
}
.arrow.picked circle {
  fill: var(--mark);
}
.arrow.picked path {
  fill: #fff;
}
text {
  font: 11.5px var(--words);
  fill: #fff;
  paint-order: stroke;
  stroke: #000b;
  stroke-width: 3px;
}
</style>
