<script setup lang="ts">
// What a layer is cut to: its slip, made of the layer itself before its lines; of what lays a pass where that is laid,
// made of what is behind it.
import type { Layer, Slip } from '../../core/shot/document'
import { slipOf } from '../../core/shot/slip'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: Layer }>()
const shot = useShot()
const view = useView()
const EMPTY = slipOf()
const isLaid = computed(() => 'opacity' in props.layer)
const words = computed(() => (isLaid.value ? ['shown ', 'cut to '] : ['laid ', 'laid only where ']))
const edit = (label: string, mutate: (slip: Slip) => void, live: boolean): void =>
  shot.change(
    label,
    document => {
      const found = document.build.layers[props.layer.id]
      if (!found) return
      found.matte ??= slipOf()
      mutate(found.matte)
    },
    live,
  )
function whole() {
  shot.change(`${props.layer.name} ${isLaid.value ? 'whole' : 'everywhere'}`, document => {
    const found = document.build.layers[props.layer.id]
    if (found) delete found.matte
  })
  view.slipOpen = ''
  view.matte = null
}
</script>

<template>
  <div class="cut" data-test="cut-to">
    <p>
      {{ words[layer.matte ? 1 : 0]
      }}<MatteChip :matte="layer.matte ?? null" :line="layer.id" :all="isLaid ? 'whole' : 'everywhere'" />
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
