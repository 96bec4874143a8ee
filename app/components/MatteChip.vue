<script setup lang="ts">
// Where a line works or what a layer is cut to, in a few words; a click opens its slip and shows it as a veil.
import type { Slip } from '../../core/shot/document'
import { wordsOf } from '../../core/shot/slip'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{
  matte: Slip | null
  /** The line of the recipe, or the layer, that it is of. */
  line: string
  /** Said where there is none. */
  all: string
}>()
const shot = useShot()
const view = useView()
const isOpen = computed(() => view.slipOpen === props.line)
function toggle() {
  const opens = !isOpen.value
  view.slipOpen = opens ? props.line : ''
  view.matteLine = props.line
  view.matteAs = 'veil'
  view.matte = opens ? props.matte : null
}
</script>

<template>
  <button
    class="chip"
    :class="{ on: isOpen, all: !matte }"
    :aria-expanded="isOpen"
    title="Where it works"
    data-test="matte-chip"
    @click="toggle"
  >
    {{ matte ? wordsOf(matte, shot.document!.mattes) : all }}
  </button>
</template>

<style scoped>
.chip.all {
  background: none;
  border-radius: 0;
  padding: 0 1px;
  border-bottom: 1px solid var(--line);
  font-size: inherit;
  color: var(--soft);
}
.chip.on {
  background: var(--mark-tint);
  color: var(--mark);
}
</style>
