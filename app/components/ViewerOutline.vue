<script setup lang="ts">
// What is picked or under the pointer is outlined, where a click does something.
import { passBlobAt } from '../../core/shot/passFrames'
import { passFileOf } from '../../core/shot/tree'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ clickable?: boolean }>()
const shot = useShot()
const view = useView()
const frame = computed(() => shot.document?.frame ?? { width: 16, height: 9 })
const outline = ref('')
/** One comes to a thing going round: all else is dark for a moment. */
const lit = computed(() => (view.round && outlinedNames.value === view.round.name ? view.round.step : 0))
const outlinedNames = ref('')
let outlined = ''
/** Going round, the one that one is at, whatever the pointer is over. */
const meant = (): string[] =>
  view.round ? [view.round.name] : [...view.picked, view.pickedSeen === 'straight' ? view.hovered : '']
watch(
  () => (props.clickable && !view.matte && !view.held && !view.playing ? [...new Set(meant().filter(Boolean))] : []),
  async names => {
    const file = shot.document && passFileOf(shot.document, view.layerAtWork)
    const key = JSON.stringify([names, view.pickedSeen, file && passBlobAt(file, shot.frame).blob])
    if (key === outlined) return
    outlined = key
    if (!names.length || !file) {
      outline.value = ''
      return
    }
    const path = await engine
      .highlight(shot.document!, shot.frame, names, view.pickedSeen, view.layerAtWork)
      .catch(() => '')
    if (key === outlined) {
      outline.value = path
      outlinedNames.value = names.join('\n')
    }
  },
)
</script>

<template>
  <svg
    v-if="outline && !view.dragging"
    class="outline"
    :viewBox="`0 0 ${frame.width} ${frame.height}`"
    preserveAspectRatio="none"
    data-test="outline"
  >
    <path
      v-if="lit"
      :key="lit"
      class="unlit"
      :d="`M0 0H${frame.width}V${frame.height}H0Z ${outline}`"
      data-test="lit"
    />
    <path :d="outline" class="under" vector-effect="non-scaling-stroke" />
    <path :d="outline" vector-effect="non-scaling-stroke" />
  </svg>
</template>

<style scoped>
.outline {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  overflow: visible;
}
.outline path {
  fill: none;
  stroke: #fff;
  stroke-width: 1;
}
.outline .unlit {
  fill: #000;
  fill-rule: evenodd;
  stroke: none;
  opacity: 0;
  animation: lit 1.5s ease-out;
}
@keyframes lit {
  from,
  45% {
    opacity: 0.6;
  }
  to {
    opacity: 0;
  }
}
/* Seen on white too */
.outline .under {
  stroke: #000;
  stroke-opacity: 0.45;
  stroke-width: 2.5;
}
</style>
