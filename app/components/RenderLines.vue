<script setup lang="ts">
// What a render layer says beside its values: of which passes it is made, and what can be made of them.
import type { EntryValue } from '../../core/declare/field'
import { render } from '../../core/layer/render'
import type { RenderLayer } from '../../core/shot/document'
import { keepRender } from '../../core/shot/layers'
import { ownRender } from '../../core/shot/tree'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: RenderLayer; inked: boolean }>()
defineEmits<{ ink: []; set: [name: string, value: EntryValue, live: boolean] }>()
const shot = useShot()
const view = useView()
const { layers, choose, edit } = useRecipe()
const file = computed(() => (props.layer.file ?? shot.document!.passes.file)!)
const isOwn = computed(() => ownRender(layers.value)?.id === props.layer.id)
function keep() {
  let made: string | undefined
  shot.change(`Keep ${props.layer.name}`, document => {
    made = keepRender(document)
  })
  if (made) choose(made)
}
const follow = (): void =>
  edit<RenderLayer>(`Passes of ${props.layer.name}`, props.layer.id, found => {
    delete found.file
  })
</script>

<template>
  <p v-if="file.clean">
    <SentenceValues
      sentence="noise taken out of its light by {clean}"
      :fields="render.values"
      :values="layer as unknown as Record<string, EntryValue>"
      @change="(name, value, live) => $emit('set', name, value, live)"
    />
    <button
      class="word soft"
      data-test="compare-clean"
      @click="view.compare = view.compare?.with === 'as rendered' ? null : { with: 'as rendered', at: 0.5, angle: 0 }"
    >
      {{ view.compare?.with === 'as rendered' ? 'no line' : 'as rendered | now' }}
    </button>
  </p>
  <p class="acts">
    <button v-if="file.passes.includes('outline') && !inked" class="word soft" data-test="ink" @click="$emit('ink')">
      ink its outline
    </button>
    <button
      v-if="isOwn"
      class="word soft"
      title="These passes stay as a layer when they are rendered again"
      data-test="keep"
      @click="keep"
    >
      keep these passes as a layer
    </button>
    <button v-if="layer.file && !ownRender(layers)" class="word soft" data-test="follow" @click="follow">
      show what the shot renders
    </button>
  </p>
</template>

<style scoped>
p {
  margin: 0 0 4px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: 12px;
}
</style>
