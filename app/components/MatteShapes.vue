<script setup lang="ts">
// The shapes of a line of a slip: drawn on the picture, each with what is said of it as a whole.
import type { EntryValue } from '../../core/declare/field'
import { JOINS, type Join } from '../../core/matte/join'
import { isKeyed, keyShape, stillShape } from '../../core/shot/drawnByHand'
import { inOrder } from '../../core/shot/rows'
import { SHAPE_VALUES, type Shape } from '../../core/shot/schema/drawn'
import type { ShapeMatte } from '../../core/shot/schema/matte'
import type { Row } from '../../core/declare/field'
import { JOIN_WORDS } from '../../core/shot/slip'
import { useShot } from '~/stores/shot'
import { DRAW_TOOLS, useView, type DrawTool } from '~/stores/view'

const props = defineProps<{ term: ShapeMatte & Row }>()
const emit = defineEmits<{ edit: [label: string, mutate: (term: ShapeMatte) => void, live: boolean] }>()
const shot = useShot()
const view = useView()
const shapes = computed(() => inOrder(props.term.shapes))
const isMine = computed(() => view.drawn?.term === props.term.id)
const sentence = (shape: Shape): string =>
  `${shape.closed ? '' : '{width} wide, '}soft {outer} outside {inner} inside; moved {move_x} {move_y}, turned {turn} size {scale}`
const values = (shape: Shape): Record<string, EntryValue> => shape as unknown as Record<string, EntryValue>

function use(tool: DrawTool | null, shape = view.drawn?.shape ?? '') {
  view.drawn = { term: props.term.id, tool, shape, point: '' }
}
const choose = (id: string): void => {
  view.drawn = { term: props.term.id, tool: null, shape: id, point: '' }
}
const edit = (id: string, label: string, mutate: (shape: Shape) => void, live = false): void =>
  emit(
    'edit',
    label,
    term => {
      const found = term.shapes[id]
      if (found) mutate(found)
    },
    live,
  )
const set = (id: string, name: string, value: EntryValue, live: boolean): void =>
  edit(
    id,
    `Shape: ${(SHAPE_VALUES as Record<string, { label?: string }>)[name]?.label ?? name}`,
    shape => Object.assign(shape, { [name]: value }),
    live,
  )
function remove(id: string) {
  emit('edit', 'Remove a shape', term => void delete term.shapes[id], false)
}
function rename(id: string, event: Event) {
  const name = (event.target as HTMLInputElement).value.trim().slice(0, 200)
  if (name) edit(id, 'Rename a shape', shape => void (shape.name = name))
}

// Its points are on the picture while the slip is open
onMounted(() => {
  if (!view.drawn || !isMine.value) {
    const tool = shapes.value.length ? null : 'curve'
    view.drawn = { term: props.term.id, tool, shape: shapes.value.at(-1)?.id ?? '', point: '' }
  }
})
onBeforeUnmount(() => {
  if (isMine.value) view.drawn = null
})
const TOOL_HELP: Record<(typeof DRAW_TOOLS)[number], string> = {
  curve:
    'Click corners, drag for a curve; click the first to close it, Enter leaves it open, Backspace takes one back; Esc ends',
  ellipse: 'Drag from corner to corner; Shift for a circle',
  rectangle: 'Drag from corner to corner; Shift for a square',
}
</script>

<template>
  <div>
    <div class="tools">
      <span>draw</span>
      <button
        v-for="tool in DRAW_TOOLS"
        :key="tool"
        class="word"
        :class="{ on: isMine && view.drawn?.tool === tool }"
        :aria-pressed="isMine && view.drawn?.tool === tool"
        :title="TOOL_HELP[tool]"
        :data-test="`draw-${tool}`"
        @click="use(tool)"
      >
        {{ tool === 'curve' ? 'a curve' : tool === 'ellipse' ? 'an ellipse' : 'a rectangle' }}
      </button>
      <span v-if="isMine && view.drawn?.tool && view.drawn.tool in TOOL_HELP" class="soft" role="status">{{
        TOOL_HELP[view.drawn.tool as 'curve']
      }}</span>
    </div>
    <div
      v-for="(shape, index) in shapes"
      :key="shape.id"
      class="shape"
      :class="{ off: !shape.on, chosen: isMine && view.drawn?.shape === shape.id }"
      data-test="shape-line"
      @pointerdown="choose(shape.id)"
    >
      <p>
        <select
          v-if="index"
          class="word join"
          :value="shape.join"
          aria-label="Shape joined"
          @change="
            edit(
              shape.id,
              'How shapes are joined',
              found => void (found.join = ($event.target as HTMLSelectElement).value as Join),
            )
          "
          @keydown.stop
        >
          <option v-for="join in JOINS" :key="join" :value="join">{{ JOIN_WORDS[join] }}</option>
        </select>
        <WordField
          class="word called"
          :value="shape.name"
          aria-label="Name of the shape"
          @change="rename(shape.id, $event)"
        />
        <span v-if="!Object.keys(shape.points).length">no points</span>
        <SentenceValues
          :sentence="sentence(shape)"
          :fields="SHAPE_VALUES"
          :values="values(shape)"
          @change="(name, value, live) => set(shape.id, name, value, live)"
        />
      </p>
      <div class="tools">
        <button
          class="word"
          @click="edit(shape.id, shape.on ? 'Shape off' : 'Shape on', found => void (found.on = !found.on))"
        >
          {{ shape.on ? 'off' : 'on' }}</button><button
          class="word"
          data-test="shape-closed"
          @click="
            edit(
              shape.id,
              shape.closed ? 'Open a shape' : 'Close a shape',
              found => void (found.closed = !found.closed),
            )
          "
        >
          {{ shape.closed ? 'open it' : 'close it' }}</button
        ><button
          class="word"
          title="A key of all its points at this frame: what is moved at another frame is a key there"
          data-test="shape-key"
          @click="edit(shape.id, 'Key of a shape', found => keyShape(found, shot.frame))"
        >
          key here</button
        ><button
          v-if="isKeyed(shape)"
          class="word"
          title="Without keys of its points, as it stands now"
          @click="edit(shape.id, 'Shape without keys', found => stillShape(found, shot.frame))"
        >
          still</button
        ><button
          v-if="shot.document!.scene.track"
          class="word"
          :class="{ on: isMine && view.drawn?.tool === 'on a point' && view.drawn.shape === shape.id }"
          title="Click a point of the track in the picture: the shape goes with it"
          data-test="shape-on-point"
          @click="use('on a point', shape.id)"
        >
          set on a point</button
        ><GoesAlong :term="term.id" :ids="[shape.id]" data-test="shape-along" /><button
          class="word"
          data-test="shape-remove"
          @click="remove(shape.id)"
        >
          remove
        </button>
      </div>
    </div>
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
.word.on {
  color: var(--mark);
}
.shape {
  border-left: 2px solid var(--line);
  padding-left: 7px;
  margin: 3px 0;
}
.shape.chosen {
  border-color: var(--mark);
}
.shape.off p {
  opacity: 0.45;
}
.shape p {
  margin: 0;
  line-height: 1.6;
}
.join {
  color: var(--mark);
  font-weight: 600;
}
.called {
  width: 78px;
  font-weight: 600;
}
</style>
