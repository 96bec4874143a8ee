<script setup lang="ts">
// Things of a render that a layer is behind, by their names: those that are picked in the picture put before it, each let go
// by a click.
import type { Layer } from '../../core/shot/document'
import { useRecipe } from '~/composables/recipe'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: Layer }>()
const view = useView()
const { edit } = useRecipe()

const behind = computed(() => ('behind' in props.layer && props.layer.behind) || [])
const picked = computed(() =>
  view.pickedSeen === 'straight' ? view.picked.filter(name => !behind.value.includes(name)) : [],
)
const put = (names: readonly string[]): void =>
  edit(`What ${props.layer.name} is behind`, props.layer.id, layer => {
    const held = layer as { behind?: string[] }
    if (names.length) held.behind = [...names]
    else delete held.behind
  })
function written(event: Event) {
  const name = (event.target as HTMLInputElement).value.trim().slice(0, 300)
  if (name && !behind.value.includes(name)) put([...behind.value, name])
}
</script>

<template>
  <p data-test="behind">
    <template v-if="behind.length"
      >behind
      <button
        v-for="name in behind"
        :key="name"
        class="chip"
        :title="`Behind ${name} only where that is nearer`"
        @click="put(behind.filter(other => other !== name))"
      >
        {{ name }}</button>, wherever that stands</template
    ><button
      v-if="picked.length"
      class="word soft"
      title="What is picked in the picture stands before this layer, wherever it is"
      data-test="behind-picked"
      @click="put([...behind, ...picked])"
    >
      {{ behind.length ? 'and behind' : 'put it behind' }} {{ picked.join(', ') }}</button
    ><template v-else
      ><span class="soft">{{ behind.length ? '; ' : 'behind a thing wherever it stands: ' }}click one, or </span
      ><WordField
        class="word called"
        value=""
        placeholder="a name or part*"
        aria-label="Name of a thing that it is behind"
        data-test="behind-name"
        @change="written"
    /></template>
  </p>
</template>

<style scoped>
.called {
  width: 120px;
}
</style>
