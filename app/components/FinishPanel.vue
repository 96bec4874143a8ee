<script setup lang="ts">
import type { ShotDocument } from '../../core/shot/document'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const find = (document: ShotDocument) => document.finish
</script>

<template>
  <div>
    <div class="panel">
      <div class="row">
        <h2 class="grow">Finish</h2>
        <span class="soft">hold <kbd>B</kbd> before, <kbd>W</kbd> without one</span>
      </div>
      <p class="soft">Over the whole picture, in this order: exposure and grade first, vignette last.</p>
      <TreatmentList
        :rows="shot.document!.finish"
        :find="find"
        hint="Nothing yet. Add an exposure, a grade, levels, saturation or a vignette."
      />
    </div>
    <div class="panel">
      <h3>Compare</h3>
      <div class="row">
        <v-btn
          size="small"
          :variant="view.compare?.with === 'before' ? 'tonal' : 'text'"
          data-test="compare-before"
          @click="view.compare = view.compare?.with === 'before' ? null : { with: 'before', at: 0.5, angle: 0 }"
          >before | now</v-btn
        ><v-btn
          size="small"
          :variant="view.compare?.with === 'plate' ? 'tonal' : 'text'"
          @click="view.compare = view.compare?.with === 'plate' ? null : { with: 'plate', at: 0.5, angle: 0 }"
          >plate | now</v-btn
        >
      </div>
      <p class="soft">Drag the handle on the line; with Shift it turns.</p>
    </div>
  </div>
</template>
