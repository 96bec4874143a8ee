<script setup lang="ts">
// One crossing of the desk: a fader with its number beside it. Double-click sets it back; the wheel turns the one that has
// the focus; arrows to the sides go to the neighbours.
import type { NumberField } from '../../core/declare/field'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { early } from '~/composables/early'
import { lineProps } from '~/composables/fields'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{
  modelValue: Animatable
  field: NumberField
  label: string
  name: string
  /** How far the fader goes. */
  reach: readonly [number, number]
}>()
const emit = defineEmits<{ change: [value: Animatable, live: boolean]; aside: [by: 1 | -1] }>()
const shot = useShot()
const view = useView()
const cell = ref<HTMLElement>()
const still = computed(() => props.modelValue === props.field.neutral)
const now = computed(() => valueAt(props.modelValue, shot.frame))
const place = computed(() => {
  const [low, high] = props.reach
  return Math.min(100, Math.max(0, ((now.value - low) / (high - low)) * 100))
})
const shown = computed(() => ({
  ...lineProps(props.field),
  low: props.field.low,
  high: props.field.high,
  // What it is stands at the head of the row
  unit: '',
  label: props.label,
}))
const set = (value: number, live: boolean): void => emit('change', withValue(props.modelValue, shot.frame, value), live)

/** Where it was taken: a press that goes nowhere changes nothing. */
let taken: { x: number; moved: boolean } | undefined
const LEAST_WAY = 2
function fade(event: PointerEvent) {
  const target = event.currentTarget as HTMLElement
  if (event.type === 'pointerdown') {
    if (event.button !== 0) return
    target.setPointerCapture(event.pointerId)
    taken = { x: event.clientX, moved: false }
    // The wheel and the keys are for this one now
    cell.value?.querySelector<HTMLElement>('[role=spinbutton]')?.focus({ preventScroll: true })
    event.preventDefault()
    return
  }
  if (!taken || !target.hasPointerCapture(event.pointerId)) return
  const isEnd = event.type === 'pointerup' || event.type === 'pointercancel'
  if (Math.abs(event.clientX - taken.x) >= LEAST_WAY && !taken.moved) {
    taken.moved = true
    view.dragging = true
  }
  if (event.type === 'pointercancel') settle()
  else if (taken.moved) {
    const [low, high] = props.reach
    const bounds = target.getBoundingClientRect()
    const share = Math.min(1, Math.max(0, (event.clientX - bounds.left) / bounds.width))
    const value = Number((low + share * (high - low)).toFixed(props.field.digits))
    // The same movement may come twice
    if (isEnd || value !== now.value) set(value, !isEnd)
  }
  if (!isEnd) return
  target.releasePointerCapture(event.pointerId)
  view.dragging = false
  taken = undefined
}
const sooner = early(fade)

let rest: ReturnType<typeof setTimeout> | undefined
/** So long, ms, after the last turn of the wheel it is done. */
const WHEEL_RESTS = 300
function wheel(event: WheelEvent) {
  if (!cell.value?.contains(document.activeElement)) return
  event.preventDefault()
  event.stopPropagation()
  const { low, high } = props.field
  const [from, to] = props.reach
  const step = ((to - from) / 100) * (event.shiftKey ? 0.1 : 1)
  const turns = event.deltaY || event.deltaX
  const value = Math.min(high, Math.max(low, now.value - Math.sign(turns) * step))
  set(Number(value.toFixed(3)), true)
  view.dragging = true
  clearTimeout(rest)
  rest = setTimeout(settle, WHEEL_RESTS)
}
function settle() {
  clearTimeout(rest)
  rest = undefined
  view.dragging = false
  set(now.value, false)
}
// It may go out of sight while it is turned or held
onBeforeUnmount(() => {
  if (rest !== undefined) settle()
  if (taken?.moved) view.dragging = false
})
function aside(event: KeyboardEvent) {
  if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
  if ((event.target as HTMLElement).tagName === 'INPUT') return
  event.preventDefault()
  event.stopPropagation()
  emit('aside', event.key === 'ArrowRight' ? 1 : -1)
}
</script>

<template>
  <div ref="cell" class="cross" :class="{ faint: still }" @wheel="wheel" @keydown="aside">
    <div
      class="fader"
      :data-test="`fader-${name}`"
      @pointerdown="fade"
      @pointermove="fade"
      @pointerrawupdate="sooner"
      @pointerup="fade"
      @pointercancel="fade"
      @dblclick="emit('change', field.neutral!, false)"
    >
      <b :style="{ width: `${place}%` }" /><u :style="{ left: `${place}%` }" />
    </div>
    <ValueField
      class="number"
      :model-value="modelValue"
      v-bind="shown"
      :faint="still"
      :data-test="`number-${name}`"
      @change="(value: Animatable, live: boolean) => emit('change', value, live)"
    />
  </div>
</template>

<style scoped>
.cross {
  display: flex;
  align-items: center;
  gap: 7px;
  height: 100%;
}
.cross:focus-within .fader u {
  background: var(--mark);
  opacity: 1;
}
.fader {
  flex: 1;
  min-width: 36px;
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
.number {
  min-width: 34px;
  text-align: right;
}
</style>
