<script setup lang="ts">
// Frames of the shot; hidden while there is only one.
import { mdiPause, mdiPlay } from '@mdi/js'
import { useShot } from '~/stores/shot'

const shot = useShot()
const playing = ref(false)
const frames = computed(() => shot.document!.frames)
let timer: ReturnType<typeof setInterval> | undefined
watch(playing, on => {
  clearInterval(timer)
  if (!on) return
  const { numerator, denominator } = shot.document!.rate
  timer = setInterval(() => { shot.frame = shot.frame >= frames.value.last ? frames.value.first : shot.frame + 1 }, 1000 * denominator / numerator)
})
onBeforeUnmount(() => clearInterval(timer))
</script>

<template>
  <div v-if="frames.last > frames.first" class="time row" aria-label="Time line">
    <v-btn :icon="playing ? mdiPause : mdiPlay" size="x-small" :aria-label="playing ? 'Pause' : 'Play'" @click="playing = !playing" />
    <input v-model.number="shot.frame" class="grow" type="range" :min="frames.first" :max="frames.last" step="1" aria-label="Frame"><span class="figures">{{ shot.frame }} of {{ frames.last }}</span>
    <span class="soft figures">{{ shot.document!.rate.numerator }}/{{ shot.document!.rate.denominator }}</span>
  </div>
</template>

<style scoped>.time { height: 26px; padding: 0 12px; background: var(--sheet); border-top: 1px solid var(--line); } input { accent-color: var(--ink); }</style>
