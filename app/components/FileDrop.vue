<script setup lang="ts">
// A place to drop files (or a folder of them) or choose them.
import { droppedFiles } from '~/composables/dropped'

const props = defineProps<{ label: string; accept?: string; many?: boolean }>()
const emit = defineEmits<{ files: [files: File[]] }>()
const input = ref<HTMLInputElement>()
const over = ref(false)
function take(files: File[]) {
  if (files.length) emit('files', props.many ? files : files.slice(0, 1))
  if (input.value) input.value.value = ''
}
async function drop(event: DragEvent) {
  over.value = false
  take(await droppedFiles(event.dataTransfer))
}
</script>

<template>
  <button
    class="drop"
    :class="{ over }"
    @click="input?.click()"
    @dragover.prevent.stop="over = true"
    @dragleave="over = false"
    @drop.prevent.stop="drop"
  >
    <slot>{{ label }}</slot>
    <input
      ref="input"
      type="file"
      hidden
      :accept="accept"
      :multiple="many"
      :aria-label="label"
      @change="take([...(($event.target as HTMLInputElement).files ?? [])])"
      @click.stop
    />
  </button>
</template>

<style scoped>
.drop {
  border: 1.5px dashed var(--line);
  border-radius: 8px;
  background: var(--card);
  color: var(--soft);
  padding: 10px 14px;
  font: inherit;
  width: 100%;
  cursor: pointer;
  text-align: left;
}
.drop:hover,
.drop.over {
  border-color: var(--ink);
  color: var(--ink);
}
</style>
