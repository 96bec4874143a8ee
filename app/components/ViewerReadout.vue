<script setup lang="ts">
// What stands under the pointer, and how the picture is looked at.
import { passOf } from '../../core/render/passes'
import { wordsOf } from '../../core/shot/slip'
import { useShot } from '~/stores/shot'
import { CHANNELS, useView } from '~/stores/view'
import type { PixelReading } from '~/workers/messages'

const props = defineProps<{
  pointer: { x: number; y: number } | null
  reading: PixelReading | null
  zoom: number
  /** Something else than the picture of the shot is shown. */
  replaced: boolean
}>()
const view = useView()
const shot = useShot()
const number = (value: number): string => (Math.abs(value) >= 1000 ? value.toExponential(2) : value.toFixed(4))
const looked = computed(() =>
  props.replaced
    ? view.station === 'scene'
      ? 'as it will render'
      : 'rendering'
    : view.matte
      ? `matte: ${wordsOf(view.matte, shot.document?.mattes ?? {})}`
      : view.show.kind === 'pass'
        ? passOf(view.show.id)?.label
        : view.show.kind === 'plate'
          ? 'plate'
          : view.show.kind === 'build'
            ? 'built picture'
            : 'finished picture',
)
</script>

<template>
  <div class="readout figures">
    <b>{{ pointer ? `${pointer.x}, ${pointer.y}` : '–' }}</b>
    <span v-if="reading && pointer">{{ reading.rgba.slice(0, 3).map(number).join('  ') }}</span>
    <span v-if="reading?.held !== undefined && pointer" data-test="held">in {{ reading.held.toFixed(3) }}</span>
    <span v-if="reading?.metres && pointer">{{ reading.metres.toFixed(2) }} m</span>
    <span class="words">{{
      pointer
        ? reading?.objects
            .map(entry => (entry.share > 0.995 ? entry.name : `${entry.name} ${Math.round(entry.share * 100)} %`))
            .slice(0, 2)
            .join(', ')
        : ''
    }}</span>
    <span class="grow" />
    <span class="words soft">{{ looked }}</span>
    <label class="words"
      >look
      <ValueField
        still
        :model-value="view.stops"
        label="Exposure for looking only"
        help="Never part of the picture."
        :low="-12"
        :high="12"
        :step="0.02"
        :digits="1"
        unit="stops"
        :neutral="0"
        @change="
          value => {
            view.stops = value as number
          }
        "
    /></label>
    <select v-model="view.channel" class="plain" aria-label="Channel shown">
      <option v-for="(name, index) in CHANNELS" :key="name" :value="index">{{ name }}</option>
    </select>
    <button class="word words" title="Fit the picture (F)" @click="view.fit()">{{ Math.round(zoom * 100) }} %</button>
  </div>
</template>

<style scoped>
.readout {
  height: 28px;
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 0 12px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  font-size: 12px;
  white-space: pre;
  color: var(--soft);
  overflow: hidden;
}
.readout b {
  color: var(--ink);
  font-weight: 500;
  min-width: 78px;
}
.words {
  font-family: var(--words);
}
.plain {
  font: 12px var(--words);
  color: inherit;
  background: none;
  border: 0;
}
</style>
