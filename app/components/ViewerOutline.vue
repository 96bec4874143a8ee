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
let outlined = ''
watch(
  () =>
    props.clickable && !view.matte && !view.held && !view.playing
      ? [...new Set([...view.picked, view.pickedSeen === 'straight' ? view.hovered : ''].filter(Boolean))]
      : [],
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
    if (key === outlined) outline.value = path
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
/* Seen on white too */
.outline .under {
  stroke: #000;
  stroke-opacity: 0.45;
  stroke-width: 2.5;
}
</style>
