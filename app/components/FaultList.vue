<script setup lang="ts">
// What does not fit, each with what can be done about it.
import type { PictureFault } from '../../core/shot/faults'

defineProps<{ faults: PictureFault[] }>()
const emit = defineEmits<{ mend: [mend: PictureFault['mends'][number]] }>()
</script>

<template>
  <div v-for="fault in faults" :key="fault.text" class="warn fault" data-test="fault">
    <span>{{ fault.text }}</span><span class="mends"
      ><v-btn
        v-for="(mend, index) in fault.mends"
        :key="mend.label"
        size="small"
        :color="index ? undefined : 'primary'"
        @click="emit('mend', mend)"
        >{{ mend.label }}</v-btn
      ></span
    >
  </div>
</template>

<style scoped>
.fault {
  flex-direction: column;
  align-items: stretch;
  gap: 2px;
}
.mends {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
</style>
