<script setup lang="ts">
// One crossing of the desk: a fader with its number beside it. Double-click sets it back.
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { early } from '~/composables/early'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{
  modelValue: Animatable
  label: string
  name: string
  low: number
  high: number
  least: number
  most: number
  neutral: number
}>()
const emit = defineEmits<{ change: [value: Animatable, live: boolean] }>()
const shot = useShot()
const view = useView()
const still = computed(() => props.modelValue === props.neutral)
const place = computed(() => ((valueAt(props.modelValue, shot.frame) - props.low) / (props.high - props.low)) * 100)
function fade(event: PointerEvent) {
  const target = event.currentTarget as HTMLElement
  if (event.type === 'pointerdown') {
    target.setPointerCapture(event.pointerId)
    view.dragging = true
  }
  if (!target.hasPointerCapture(event.pointerId)) return
  const bounds = target.getBoundingClientRect()
  const value = Number(
    (
      props.low +
      Math.min(1, Math.max(0, (event.clientX - bounds.left) / bounds.width)) * (props.high - props.low)
    ).toFixed(2),
  )
  const end = event.type === 'pointerup'
  if (end) {
    target.releasePointerCapture(event.pointerId)
    view.dragging = false
  }
  // The same movement may come twice
  if (event.type !== 'pointerdown' && !end && value === valueAt(props.modelValue, shot.frame)) return
  emit('change', withValue(props.modelValue, shot.frame, value), !end)
}
const sooner = early(fade)
</script>

<template>
  <div class="cross" :class="{ faint: still }">
    <div
      class="fader"
      :data-test="`fader-${name}`"
      @pointerdown="fade"
      @pointermove="fade"
      @pointerrawupdate="sooner"
      @pointerup="fade"
      @dblclick="emit('change', neutral, false)"
    >
      <b :style="{ width: `${place}%` }" /><u :style="{ left: `${place}%` }" />
    </div>
    <ValueField
      :model-value="modelValue"
      :label="label"
      :low="least"
      :high="most"
      :step="0.01"
      :neutral="neutral"
      :faint="still"
      @change="(value: Animatable, live: boolean) => emit('change', value, live)"
    />
  </div>
</template>

<style scoped>
.cross {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 26px;
}
.fader {
  flex: 1;
  min-width: 44px;
  height: 18px;
  position: relative;
  cursor: ew-resize;
  touch-action: none;
}
.fader::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 7.5px;
  height: 3px;
  background: var(--line);
  border-radius: 2px;
}
.fader b {
  position: absolute;
  left: 0;
  top: 7.5px;
  height: 3px;
  background: var(--ink);
  border-radius: 2px;
}
.fader u {
  position: absolute;
  top: 2px;
  width: 3px;
  height: 14px;
  margin-left: -1.5px;
  background: var(--ink);
  border-radius: 1px;
}
.faint .fader b,
.faint .fader u {
  opacity: 0.4;
}
</style>
