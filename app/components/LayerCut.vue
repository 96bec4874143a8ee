<script setup lang="ts">
// What a layer is cut to: its slip, made of the layer itself before its lines.
import type { Layer, Slip } from '../../core/shot/document'
import { slipOf } from '../../core/shot/slip'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: Extract<Layer, { opacity: unknown }> }>()
const shot = useShot()
const view = useView()
const EMPTY = slipOf()
const edit = (label: string, mutate: (slip: Slip) => void, live: boolean): void =>
  shot.change(
    label,
    document => {
      const found = document.build.layers[props.layer.id]
      if (!found || !('opacity' in found)) return
      found.matte ??= slipOf()
      mutate(found.matte)
    },
    live,
  )
function whole() {
  shot.change(`${props.layer.name} whole`, document => {
    const found = document.build.layers[props.layer.id]
    if (found && 'opacity' in found) delete found.matte
  })
  view.slipOpen = ''
  view.matte = null
}
</script>

<template>
  <div class="cut" data-test="cut-to">
    <p>
      {{ layer.matte ? 'cut to ' : 'shown ' }}<MatteChip :matte="layer.matte ?? null" :line="layer.id" all="whole" />
    </p>
    <MatteSlip
      v-if="view.slipOpen === layer.id"
      :slip="layer.matte ?? EMPTY"
      :line="layer.id"
      @change="edit"
      @everywhere="whole"
    />
  </div>
</template>

<style scoped>
.cut p {
  margin: 0;
}
</style>
