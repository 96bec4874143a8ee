<script setup lang="ts">
// The head of a column of the desk: what it is of, and what can be done with all of it.
import { mdiDotsVertical } from '@mdi/js'
import { nameColour } from '../../core/compose/showpass'
import type { DeskColumn } from '~/composables/desk'

const props = defineProps<{
  column: DeskColumn
  picked: boolean
  changed: boolean
  /** Whose column was copied; empty: none. */
  copied: string
}>()
const emit = defineEmits<{ pick: [more: boolean]; do: [what: 'see' | 'copy' | 'lay' | 'clear' | 'round'] }>()
const isThing = computed(() => props.column.place.kind === 'thing')
const colour = computed(() => {
  const [r, g, b] = nameColour(props.column.name)
  return `rgb(${[r, g, b].map(value => Math.round(Math.sqrt(Math.min(1, value)) * 255)).join(',')})`
})
</script>

<template>
  <div class="head" :class="{ picked }">
    <button
      class="name"
      :title="isThing ? `${column.name}: click to pick, double-click to see it alone` : column.name"
      :aria-pressed="picked"
      :data-test="`desk-${column.name}`"
      @click="emit('pick', $event.shiftKey || $event.ctrlKey || $event.metaKey)"
      @dblclick="isThing && emit('do', 'see')"
    >
      <i v-if="isThing" :style="{ background: colour }" /><span class="cut">{{ column.name }}</span>
    </button>
    <small class="soft cut">{{ column.about }}</small>
    <v-btn
      icon
      class="more"
      size="x-small"
      variant="text"
      :aria-label="`What to do with ${column.name}`"
      :data-test="`desk-more-${column.name}`"
      ><v-icon :icon="mdiDotsVertical" /><v-menu activator="parent"
        ><v-list density="compact"
          ><template v-if="isThing"
            ><v-list-item title="See it alone" @click="emit('do', 'see')" /><v-list-item
              title="Go round from here"
              @click="emit('do', 'round')" /></template
          ><v-list-item
            title="Copy this column"
            :disabled="!changed"
            data-test="desk-copy"
            @click="emit('do', 'copy')" /><v-list-item
            :title="copied ? `Lay ${copied} on it` : 'Lay a copied column on it'"
            :disabled="!copied"
            data-test="desk-lay"
            @click="emit('do', 'lay')" /><v-list-item
            title="Set all of it back"
            :disabled="!changed"
            data-test="desk-clear"
            @click="emit('do', 'clear')" /></v-list></v-menu
    ></v-btn>
  </div>
</template>

<style scoped>
.head {
  position: relative;
  height: 100%;
  padding: 5px 0 2px;
  border-bottom: 1px solid var(--line);
  display: flex;
  flex-direction: column;
}
.name {
  background: none;
  border: 0;
  padding: 0;
  font: inherit;
  font-weight: 600;
  color: inherit;
  cursor: pointer;
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
  text-align: left;
}
.name i {
  flex: none;
  width: 11px;
  height: 11px;
  border-radius: 3px;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
small {
  font-size: 11px;
  line-height: 1.2;
}
.more {
  position: absolute;
  right: -6px;
  top: 14px;
  opacity: 0;
}
.head:hover .more,
.more:focus-visible,
.picked .more {
  opacity: 1;
}
</style>
