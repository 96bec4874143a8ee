<script setup lang="ts">
// Something that has a beginning and an end along the soundings: fog, smoke, the brackets of a slip. Each end is dragged.
import { bringEnd, type Sounded } from '../../core/shot/sounded'
import { lengthText } from '../../core/text/metres'
import type { AlongSoundings } from '../composables/soundingEnds'
import { useShot } from '~/stores/shot'

const props = defineProps<
  AlongSoundings & {
    sounded: Sounded
    chosen: boolean
    /** Its name stands by it: what is no layer has none there. */
    named: boolean
    /** Pixels above the ground that it is drawn at. */
    above: number
  }
>()
const shot = useShot()
const y = computed(() => props.ground - props.above)
const from = computed(() => props.xOf(props.sounded.ends[0]!.metres))
/** What has one end goes on from there. */
const to = computed(() => props.xOf(props.sounded.ends[1]?.metres ?? Infinity))
function put(end: number, metres: number, live: boolean) {
  const { id, label, ends } = props.sounded
  shot.change(`${label}: ${ends[end]!.label}`, document => bringEnd(document, shot.frame, id, end, metres), live)
}
</script>

<template>
  <g class="range" :class="{ chosen }" :data-test="`range-${sounded.label}`">
    <rect :x="from" :y="y" :width="Math.max(1, to - from)" height="5" class="band" />
    <SoundingEnd
      v-for="(end, i) in sounded.ends"
      :key="i"
      :label="`${sounded.label}, ${end.label}`"
      :metres="Math.max(0.05, end.metres)"
      :put="(metres: number, live: boolean) => put(i, metres, live)"
      v-bind="{ drag, nudge }"
      :data-test="`range-${sounded.label}-${i ? 'far' : 'near'}`"
    >
      <title>{{ sounded.label }}: {{ end.label }} {{ lengthText(end.metres, 2) }}</title>
      <rect :x="xOf(end.metres) - (i ? 1 : 9)" :y="y - 5" width="10" height="15" class="grab" />
      <path :d="`M${xOf(end.metres)} ${y - 3}v11h${i ? 4 : -4}v-11z`" class="ear" />
    </SoundingEnd>
    <text v-if="named" :x="from + 4" :y="y - 4">{{ sounded.label }}</text>
  </g>
</template>

<style scoped>
.band {
  fill: var(--soft);
  opacity: 0.35;
  pointer-events: none;
}
.chosen .band {
  fill: var(--mark);
}
.ear {
  fill: var(--soft);
}
.chosen .ear {
  fill: var(--mark);
}
.grab {
  fill: transparent;
}
text {
  font-size: 10px;
  pointer-events: none;
  fill: var(--soft);
  font-family: var(--words);
}
</style>
