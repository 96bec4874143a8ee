<script setup lang="ts">
// How the edges of things are drawn in the pass of outlines.
import { OUTLINE } from '../../core/render/outline'
import type { OutlineSettings } from '../../core/shot/schema/passes'
import { useShot } from '~/stores/shot'

const shot = useShot()
const settings = computed(() => shot.document!.passes)
const outline = computed(() => settings.value.outline ?? OUTLINE)
const line = (change: Partial<OutlineSettings>, live = false): void =>
  shot.change(
    'Lines',
    document => {
      document.passes.outline = { ...outline.value, ...change }
    },
    live,
  )
</script>

<template>
  <div class="panel" data-test="outline-settings">
    <p>
      Lines
      <ValueField
        still
        :model-value="outline.width"
        label="Width of lines"
        :low="0.1"
        :high="40"
        :step="0.05"
        unit="px"
        :neutral="2"
        data-test="outline-width"
        @change="(value, live) => line({ width: value as number }, live)"
      />
      wide, on
      <select
        class="word"
        :value="outline.side"
        aria-label="Side of lines"
        @change="line({ side: ($event.target as HTMLSelectElement).value as OutlineSettings['side'] })"
      >
        <option value="both">both sides</option>
        <option value="inside">the nearer thing</option>
        <option value="outside">what is behind</option>
      </select>
      of each edge; folds from
      <ValueField
        still
        :model-value="outline.crease"
        label="Angle of folds"
        help="180 draws none."
        :low="0"
        :high="180"
        :step="0.3"
        :digits="0"
        unit="deg"
        :neutral="50"
        @change="(value, live) => line({ crease: value as number }, live)"
      /><label class="whole"
        >,
        <input type="checkbox" :checked="outline.materials" @change="line({ materials: !outline.materials })" />
        between materials</label
      >. As wide at
      <ValueField
        still
        :model-value="outline.distance"
        label="Distance of that width"
        help="Nearer lines are wider, farther ones finer; 0: all are alike."
        :low="0"
        :high="10000"
        :step="0.02"
        unit="m"
        :neutral="0"
        @change="(value, live) => line({ distance: value as number }, live)"
      />, wavering by
      <ValueField
        still
        :model-value="outline.waver"
        label="Waver"
        :low="0"
        :high="1"
        :step="0.004"
        :neutral="0"
        @change="(value, live) => line({ waver: value as number }, live)"
      />
      over
      <ValueField
        still
        :model-value="outline.waverSize"
        label="Size of the waver"
        :low="0.001"
        :high="1000"
        :step="0.005"
        unit="m"
        :neutral="0.2"
        @change="(value, live) => line({ waverSize: value as number }, live)"
      />.
    </p>
  </div>
</template>

<style scoped>
input[type='checkbox'] {
  accent-color: var(--ink);
}
</style>
