<script setup lang="ts">
// A thing held to the plate: corners of it pinned to places, by which it moves; and corners pulled to where they belong, by
// which it changes its shape.
import type { ObjectSettings } from '../../core/shot/document'
import { inOrder } from '../../core/shot/rows'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ name: string }>()
const shot = useShot()
const view = useView()
const settings = computed<ObjectSettings>(() => shot.document!.scene.objects[props.name] ?? {})
const pins = computed(() => inOrder(settings.value.pins))
const pulls = computed(() => settings.value.pulled?.length ?? 0)
function take(tool: 'pin' | 'pull') {
  view.sceneTool = view.sceneTool === tool ? null : tool
  view.matchTool = null
}
const change = (label: string, mutate: (settings: ObjectSettings) => void): void =>
  shot.change(`${label} ${props.name}`, document => {
    mutate((document.scene.objects[props.name] ??= {}))
  })
</script>

<template>
  <div class="row wrap">
    <v-btn
      size="small"
      :variant="view.sceneTool === 'pin' ? 'tonal' : 'text'"
      :disabled="settings.locked"
      data-test="pin"
      @click="take('pin')"
      >Pin to the plate</v-btn
    ><v-btn
      size="small"
      :variant="view.sceneTool === 'pull' ? 'tonal' : 'text'"
      :disabled="settings.locked"
      data-test="pull"
      @click="take('pull')"
      >Pull its corners</v-btn
    ><button
      v-if="pins.length"
      class="word soft"
      data-test="pins-off"
      @click="change('No pins on', own => delete own.pins)"
    >
      take {{ pins.length }} {{ pins.length === 1 ? 'pin' : 'pins' }} off</button
    ><button
      v-if="pulls"
      class="word soft"
      data-test="pulls-off"
      @click="change('Corners as they were of', own => delete own.pulled)"
    >
      let {{ pulls }} {{ pulls === 1 ? 'corner' : 'corners' }} go
    </button>
  </div>
  <p v-if="view.sceneTool === 'pin'" class="soft">
    Click a corner of it, then drag the pin to where that corner belongs; more pins turn it.
    <label><input v-model="view.pinTurn" type="checkbox" /> may turn</label>
    <label><input v-model="view.pinScale" type="checkbox" data-test="pin-scale" /> may change size</label>
  </p>
  <p v-if="view.sceneTool === 'pull'" class="soft">
    Drag its corners to where they belong in the plate: those at its foot go along the ground, the others with the
    picture; with Shift straight up and down.
  </p>
</template>

<style scoped>
.wrap {
  flex-wrap: wrap;
}
p {
  margin: 0;
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
</style>
