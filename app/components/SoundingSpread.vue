<script setup lang="ts">
// How what is rendered is spread over distance, and in front of it that of the things that are picked.
import { binMetres, renderedReach, SOUNDED, SOUNDED_BINS, type Reach } from '../../core/match/soundings'
import { lengthText } from '../../core/text/metres'

const props = defineProps<{
  /** Shares of the frame by distance (core/compose/sounded.ts); of what is picked, where something is. */
  whole: Float32Array
  picked: Float32Array
  names: readonly string[]
  /** What all of it is of. */
  is: string
  reach: Reach
  left: number
  span: number
  ground: number
  xOf: (metres: number) => number
}>()
const TALL = 46
/** Bins are joined until they are a few pixels wide. */
const wide = computed(() => {
  const { near, far } = props.reach
  const pixels = (Math.log(SOUNDED.far / SOUNDED.near) * props.span) / 4
  return Math.max(1, Math.round((SOUNDED_BINS * Math.log(far / near)) / pixels))
})
function joined(spread: Float32Array): [x: number, sum: number][] {
  const { near, far } = props.reach
  const out: [number, number][] = []
  for (let i = 0; i < spread.length; i += wide.value) {
    const metres = binMetres(i + (wide.value - 1) / 2)
    if (metres < near / 1.001 || metres > far * 1.001) continue
    let sum = 0
    for (let k = i; k < Math.min(spread.length, i + wide.value); k++) sum += spread[k]!
    out.push([props.xOf(metres), sum])
  }
  return out
}
const mostOf = (list: readonly (readonly [number, number])[]): number =>
  Math.max(1e-6, ...list.map(([, value]) => value))
const curves = computed(() => {
  const all = joined(props.whole)
  const most = mostOf(all)
  const { left, span, ground } = props
  const pathOf = (list: readonly (readonly [number, number])[], of: number): string => {
    const points = list.map(([x, value]) => `L${x.toFixed(1)},${(ground - Math.sqrt(value / of) * TALL).toFixed(1)}`)
    return `M${left},${ground} ${points.join(' ')} L${left + span},${ground}Z`
  }
  const own = joined(props.picked)
  // A small thing would be lost in the scale of all: it has its own
  return { whole: pathOf(all, most), picked: props.names.length ? pathOf(own, mostOf(own)) : '' }
})
const said = computed(() => {
  const of = props.names.length ? props.picked : props.whole
  const reach = renderedReach(of)
  const name = props.names.length > 1 ? `${props.names.length} things` : (props.names[0] ?? props.is)
  if (!reach) return { x: 0, text: '' }
  const [near, far] = [lengthText(reach.near, 2), lengthText(reach.far, 2)]
  const x = (props.xOf(reach.near) + props.xOf(reach.far)) / 2
  return { x, text: `${name} ${near === far ? near : `${near} – ${far}`}` }
})
</script>

<template>
  <g>
    <path :d="curves.whole" class="spread" />
    <path v-if="curves.picked" :d="curves.picked" class="spread own" data-test="spread-picked" />
    <text v-if="said.text" :x="said.x" :y="14" text-anchor="middle" data-test="spread-said">{{ said.text }}</text>
  </g>
</template>

<style scoped>
.spread {
  fill: var(--mark-tint);
  stroke: none;
}
.own {
  fill: var(--mark);
  opacity: 0.55;
}
text {
  fill: var(--ink);
  font-family: var(--words);
  font-weight: 600;
  font-size: 11px;
  pointer-events: none;
}
</style>
