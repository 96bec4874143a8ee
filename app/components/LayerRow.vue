<script setup lang="ts">
// A layer of the recipe: its line, to be dragged among the others, and what it says when it is open.
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter'
import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine'
import {
  attachInstruction,
  extractInstruction,
  type Instruction,
} from '@atlaskit/pragmatic-drag-and-drop-hitbox/list-item'
import { mdiChevronDown, mdiChevronRight, mdiDragVertical } from '@mdi/js'
import type { Layer } from '../../core/shot/document'
import { groupsRound, isGroup } from '../../core/shot/tree'
import { useRecipe } from '~/composables/recipe'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: Layer; depth: number }>()
const view = useView()
const { layers, edit, choose, move, solo, away, about } = useRecipe()
const line = ref<HTMLElement>()
const grip = ref<HTMLElement>()
const aimed = ref<Instruction | null>(null)
const lifted = ref(false)
const open = computed(() => view.selectedLayer === props.layer.id)
const alone = computed(() => view.solo.includes(props.layer.id))
const folded = computed(() => view.folded.includes(props.layer.id))

/** A layer under the pointer may be put next to this one, or into it where it is a group. */
onMounted(() => {
  const stop = combine(
    draggable({
      element: line.value!,
      dragHandle: grip.value!,
      getInitialData: () => ({ layer: props.layer.id }),
      onDragStart: () => {
        lifted.value = true
      },
      onDrop: () => {
        lifted.value = false
      },
    }),
    dropTargetForElements({
      element: line.value!,
      canDrop: ({ source }) => {
        const id = source.data.layer
        // Nothing goes into itself
        return (
          typeof id === 'string' && id !== props.layer.id && !groupsRound(layers.value, props.layer.id).includes(id)
        )
      },
      getData: ({ input, element }) =>
        attachInstruction(
          {},
          {
            input,
            element,
            operations: {
              'reorder-before': 'available',
              'reorder-after': 'available',
              combine: isGroup(props.layer) ? 'available' : 'not-available',
            },
          },
        ),
      onDrag: ({ self }) => {
        aimed.value = extractInstruction(self.data)
      },
      onDragLeave: () => {
        aimed.value = null
      },
      onDrop: ({ self, source }) => {
        const at = extractInstruction(self.data)
        aimed.value = null
        if (!at || at.blocked) return
        const { id } = props.layer
        move(
          source.data.layer as string,
          at.operation === 'combine'
            ? { group: id }
            : { beside: id, where: at.operation === 'reorder-before' ? 'before' : 'after' },
        )
      },
    }),
  )
  onBeforeUnmount(stop)
})

const rename = (event: Event): void => {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name && name !== props.layer.name)
    edit('Rename a layer', props.layer.id, found => {
      found.name = name.slice(0, 200)
    })
}
const fold = (): void => {
  const { id } = props.layer
  view.folded = folded.value ? view.folded.filter(other => other !== id) : [...view.folded, id]
}
</script>

<template>
  <article
    class="layer"
    :class="{
      open,
      also: !open && view.moreLayers.includes(layer.id),
      off: !layer.on,
      aside: view.solo.length > 0 && !alone,
      lifted,
    }"
    :style="{ '--depth': depth }"
    :data-test="`layer-${layer.name}`"
  >
    <div
      ref="line"
      class="row title"
      :class="aimed && `aim-${aimed.operation}`"
      @mousedown="($event.ctrlKey || $event.metaKey || $event.shiftKey) && $event.preventDefault()"
      @click="choose(layer.id, $event.ctrlKey || $event.metaKey || $event.shiftKey)"
    >
      <button
        class="dot"
        :aria-pressed="layer.on"
        :aria-label="`${layer.name} on or off`"
        title="On or off"
        @click.stop="
          edit(layer.on ? 'Layer off' : 'Layer on', layer.id, found => {
            found.on = !found.on
          })
        "
      />
      <button
        v-if="isGroup(layer)"
        class="fold"
        :aria-label="`${folded ? 'Open' : 'Fold'} ${layer.name}`"
        :aria-expanded="!folded"
        data-test="fold"
        @click.stop="fold"
      >
        <v-icon :icon="folded ? mdiChevronRight : mdiChevronDown" size="16" />
      </button>
      <div class="grow">
        <WordField class="rename" :value="layer.name" :aria-label="`Name of ${layer.name}`" @change="rename" />
        <div class="soft small">{{ about(layer) }}</div>
      </div>
      <button
        v-if="alone"
        class="word only"
        title="Only this is seen: click to see all again"
        data-test="solo-off"
        @click.stop="solo(layer.id)"
      >
        only
      </button>
      <button class="away figures soft" :aria-label="`Open ${layer.name}`" :aria-expanded="open" data-test="open">
        {{ away(layer) }}
      </button>
      <span ref="grip" class="grip" :title="`Drag ${layer.name} among the layers, or into a group`" data-test="grip"
        ><v-icon :icon="mdiDragVertical" size="16"
      /></span>
    </div>
    <LayerBody v-if="open" :layer="layer" />
  </article>
</template>

<style scoped>
.layer {
  border-top: 1px solid var(--line);
  border-left: 3px solid transparent;
}
.layer.open {
  background: var(--card);
  border-left-color: var(--mark);
}
.layer.also {
  background: var(--mark-tint);
}
.layer.off .title,
.layer.aside .title {
  opacity: 0.5;
}
.layer.lifted .title {
  opacity: 0.35;
}
.title {
  position: relative;
  padding: 6px 4px 6px calc(11px + var(--depth) * 16px);
  gap: 8px;
  cursor: pointer;
}
.aim-combine {
  background: var(--mark-tint);
}
.aim-reorder-before::before,
.aim-reorder-after::before {
  content: '';
  position: absolute;
  left: calc(8px + var(--depth) * 16px);
  right: 6px;
  height: 2px;
  background: var(--mark);
}
.aim-reorder-before::before {
  top: -1px;
}
.aim-reorder-after::before {
  bottom: -1px;
}
.small {
  font-size: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.grow {
  min-width: 0;
}
.away {
  white-space: nowrap;
  background: none;
  border: 0;
  padding: 0 2px;
  font-size: inherit;
  cursor: pointer;
  min-width: 24px;
  text-align: right;
}
.dot {
  width: 11px;
  height: 11px;
  flex: none;
  border-radius: 50%;
  background: var(--ink);
  border: 1.5px solid var(--ink);
  padding: 0;
  cursor: pointer;
}
.off .dot {
  background: none;
  border-color: var(--soft);
}
.fold {
  background: none;
  border: 0;
  padding: 0;
  margin: 0 -4px;
  color: inherit;
  cursor: pointer;
  line-height: 1;
}
.grip {
  color: var(--soft);
  cursor: grab;
  opacity: 0.45;
  line-height: 1;
}
.title:hover .grip {
  opacity: 1;
}
.only {
  color: var(--mark);
  font-size: 12px;
}
</style>
