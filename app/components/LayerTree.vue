<script setup lang="ts">
// The layers of a group (null: those in none), as they are laid: from far to near, or as they are ordered by hand.
import { inLaidOrder, isGroup } from '../../core/shot/tree'
import { useRecipe } from '~/composables/recipe'
import { useView } from '~/stores/view'

const props = defineProps<{ group: string | null; depth: number }>()
const view = useView()
const { layers, sight } = useRecipe()
const list = computed(() => inLaidOrder(layers.value, props.group, sight.value))
</script>

<template>
  <div role="group">
    <template v-for="layer in list" :key="layer.id">
      <LayerRow :layer="layer" :depth="depth" />
      <LayerTree v-if="isGroup(layer) && !view.folded.includes(layer.id)" :group="layer.id" :depth="depth + 1" />
    </template>
  </div>
</template>
