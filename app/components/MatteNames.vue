<script setup lang="ts">
// What a line of a slip holds by name: each taken out by a click, more by what is written.
import type { Row } from '../../core/declare/field'
import type { NamesMatte } from '../../core/shot/document'
import { SEEN_WORDS } from '../../core/shot/slip'

const props = defineProps<{
  term: NamesMatte & Row
  /** Things that one may mean, where they cannot be clicked in the picture. */
  known?: readonly string[] | undefined
}>()
const emit = defineEmits<{ edit: [label: string, mutate: (term: NamesMatte) => void] }>()

const OF_WORDS: Record<NamesMatte['of'], string> = {
  objects: 'objects',
  materials: 'materials',
  assets: 'whole things',
}
const without = (name: string): void =>
  emit('edit', 'Take a name out of a matte', term => {
    term.names = term.names.filter(other => other !== name)
  })
/** Offered at once; all others are written. */
const MOST_OFFERED = 24
const offered = computed(() =>
  props.term.of === 'objects'
    ? (props.known ?? []).filter(name => !props.term.names.includes(name)).slice(0, MOST_OFFERED)
    : [],
)
const put = (name: string): void =>
  emit('edit', 'A name into a matte', ({ names }) => void (names.includes(name) || names.push(name)))
function withName(event: Event) {
  const name = (event.target as HTMLInputElement).value.trim().slice(0, 300)
  if (name) put(name)
}
function ofOthers(event: Event) {
  const of = (event.target as HTMLSelectElement).value as NamesMatte['of']
  emit('edit', 'What names are of', term => {
    term.of = of
  })
}
</script>

<template>
  <span
    ><button v-for="name in term.names" :key="name" class="chip" :title="`Take ${name} out`" @click="without(name)">
      {{ name }}</button
    >{{ SEEN_WORDS[term.seen ?? 'straight'] }}
    <WordField
      class="word called"
      value=""
      placeholder="a name, part* or #number"
      aria-label="A name into the matte"
      data-test="term-name"
      @change="withName"
    />
    of
    <select
      class="word"
      :value="term.of"
      aria-label="What the names are of"
      data-test="term-of"
      @change="ofOthers"
      @keydown.stop
    >
      <option v-for="(words, which) in OF_WORDS" :key="which" :value="which">{{ words }}</option>
    </select>
    <template v-if="offered.length"
      >; it has
      <button
        v-for="name in offered"
        :key="name"
        class="word soft offered"
        data-test="term-known"
        :title="`Take ${name} in`"
        @click="put(name)"
      >
        {{ name }}
      </button></template
    ></span
  >
</template>

<style scoped>
.offered {
  margin-right: 7px;
}
.called {
  width: 150px;
}
</style>
