<script setup lang="ts">
// Words in their place: what is being typed stays, whatever is drawn anew around it meanwhile. Enter takes it, Escape
// leaves it as it was.
const props = defineProps<{ value: string | number }>()
/** The input's own change; what it stands for is shown again after it, taken or refused. */
const emit = defineEmits<{ change: [event: Event] }>()
const typed = ref<string | null>(null)

function change(event: Event) {
  emit('change', event)
  typed.value = null
}
function leave(event: KeyboardEvent) {
  const input = event.target as HTMLInputElement
  typed.value = null
  // So that leaving it is no change
  input.value = String(props.value)
  input.blur()
}
</script>

<template>
  <input
    :value="typed ?? value"
    @input="typed = ($event.target as HTMLInputElement).value"
    @change="change"
    @blur="typed = null"
    @keydown.stop
    @keydown.enter="($event.target as HTMLInputElement).blur()"
    @keydown.esc="leave"
  />
</template>
