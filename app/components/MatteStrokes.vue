<script setup lang="ts">
// The strokes of a line of a slip: brushed on the picture; each stays what it was drawn as and can be taken out alone.
import type { EntryValue, Row } from '../../core/declare/field'
import { inOrder } from '../../core/shot/rows'
import { STROKE_VALUES, TIP_VALUES, type Stroke } from '../../core/shot/schema/drawn'
import type { BrushMatte } from '../../core/shot/schema/matte'
import { useView } from '~/stores/view'

const props = defineProps<{ term: BrushMatte & Row }>()
const emit = defineEmits<{ edit: [label: string, mutate: (term: BrushMatte) => void, live: boolean] }>()
const view = useView()
const strokes = computed(() => inOrder(props.term.strokes))
const ids = computed(() => strokes.value.map(({ id }) => id))
const isMine = computed(() => view.drawn?.term === props.term.id)
const opened = ref(false)
const tipValues = computed(() => {
  const { size, hardness, flow } = view.tip
  return { size, hardness, flow }
})
/** How it is moved is only said of one that is. */
const strokeSentence = (stroke: Stroke): string => {
  const moves = [stroke.move_x, stroke.move_y, stroke.turn ?? 0].some(value => value !== 0) || (stroke.scale ?? 1) !== 1
  return ` {flow}, {size} wide, hard {hardness}${moves ? '; moved {move_x} {move_y}, turned {turn} size {scale}' : ''}`
}
const brush = (on: boolean): void => {
  view.drawn = { term: props.term.id, tool: on ? 'brush' : null, shape: '', point: '' }
}
function tip(name: string, value: EntryValue) {
  // The tip stays: what has keys is a stroke
  if (typeof value === 'number') Object.assign(view.tip, { [name]: value })
}
const edit = (id: string, label: string, mutate: (stroke: Stroke) => void, live = false): void =>
  emit(
    'edit',
    label,
    term => {
      const found = term.strokes[id]
      if (found) mutate(found)
    },
    live,
  )
onMounted(() => {
  if (!isMine.value) brush(!strokes.value.length)
})
onBeforeUnmount(() => {
  if (isMine.value) view.drawn = null
})
</script>

<template>
  <div>
    <p>
      <button
        class="word"
        :class="{ on: isMine && view.drawn?.tool === 'brush' }"
        :aria-pressed="isMine && view.drawn?.tool === 'brush'"
        data-test="draw-brush"
        @click="brush(!(isMine && view.drawn?.tool === 'brush'))"
      >
        brush
      </button>
      that
      <button
        class="word"
        title="Shift while brushing: the other"
        data-test="tip-takes"
        @click="view.tip.takes = !view.tip.takes"
      >
        {{ view.tip.takes ? 'takes away' : 'gives' }}</button>,
      <SentenceValues
        sentence="{size} wide, hard {hardness}, flow {flow}"
        :fields="TIP_VALUES"
        :values="tipValues"
        @change="tip"
      />
    </p>
    <div class="tools">
      <button class="word" :aria-expanded="opened" data-test="strokes-open" @click="opened = !opened">
        {{ strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes` }}</button><button
        v-if="strokes.length"
        class="word"
        data-test="stroke-last"
        @click="emit('edit', 'Take the last stroke out', found => void delete found.strokes[strokes.at(-1)!.id], false)"
      >
        without the last</button
      ><GoesAlong v-if="strokes.length" :term="term.id" :ids="ids" data-test="strokes-along" />
    </div>
    <template v-if="opened">
      <p v-for="(stroke, index) in strokes" :key="stroke.id" :class="{ off: !stroke.on }" data-test="stroke-line">
        {{ index + 1 }}
        <button class="word" @click="edit(stroke.id, 'What a stroke does', found => void (found.takes = !found.takes))">
          {{ stroke.takes ? 'takes' : 'gives' }}
        </button>
        <SentenceValues
          :sentence="strokeSentence(stroke)"
          :fields="STROKE_VALUES"
          :values="stroke as unknown as Record<string, EntryValue>"
          @change="
            (name, value, live) => edit(stroke.id, 'A stroke', found => Object.assign(found, { [name]: value }), live)
          "
        />{{ ' ' }}
        <button
          class="word soft"
          @click="edit(stroke.id, stroke.on ? 'Stroke off' : 'Stroke on', found => void (found.on = !found.on))"
        >
          {{ stroke.on ? 'off' : 'on' }}</button>{{ ' ' }}
        <GoesAlong v-if="strokes.length > 1" class="soft" :term="term.id" :ids="[stroke.id]" />{{ ' ' }}
        <button
          class="word soft"
          @click="emit('edit', 'Remove a stroke', found => void delete found.strokes[stroke.id], false)"
        >
          remove
        </button>
      </p>
    </template>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 10px;
  font-size: 12px;
  color: var(--soft);
}
p {
  margin: 0;
  line-height: 1.6;
}
.word.on {
  color: var(--mark);
}
.off {
  opacity: 0.45;
}
</style>
