<script setup lang="ts">
// A number in its place: drag it, type it (arithmetic works), double-click to reset; arrow keys step it.
import { arithmetic } from '../../core/text/arithmetic'
import { isCurve, valueAt, withKey, withoutKeys, withValue, type Animatable } from '../../core/time/curve'
import { early } from '~/composables/early'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = withDefaults(
  defineProps<{
    modelValue: Animatable
    label: string
    help?: string
    low: number
    high: number
    step?: number
    digits?: number
    unit?: string
    neutral?: number
    faint?: boolean
    /** A number that cannot change over time. */
    still?: boolean
    /** Has no fraction. */
    whole?: boolean
  }>(),
  { help: '', step: 0.01, digits: 2, unit: '', neutral: undefined },
)
const emit = defineEmits<{ change: [value: Animatable, live: boolean] }>()
const shot = useShot()
const view = useView()
const editing = ref(false)
const text = ref('')
const bad = ref(false)
const input = ref<HTMLInputElement>()
const now = computed(() => valueAt(props.modelValue, shot.frame))
const animated = computed(() => isCurve(props.modelValue))
const shown = computed(() => now.value.toFixed(props.digits).replace(/^-(0\.?0*)$/, '$1'))
const title = computed(
  () =>
    `${props.label}: ${props.help}${props.help ? ' ' : ''}${props.low} to ${props.high}${props.unit ? ` ${props.unit}` : ''}. Drag, or click to type${props.neutral === undefined ? '' : `; double-click for ${props.neutral}`}${props.still ? '' : '; K or the other mouse button sets a key'}.`,
)
/** 0 none, 1 keys elsewhere, 2 a key at this frame. */
const keyed = computed(() =>
  isCurve(props.modelValue) ? (props.modelValue.keys.some(key => key.frame === shot.frame) ? 2 : 1) : 0,
)
const menu = ref(false)
const setKey = (): void => emit('change', withKey(props.modelValue, shot.frame, now.value), false)
const dropKey = (): void => {
  if (isCurve(props.modelValue)) emit('change', withoutKeys(props.modelValue, new Set([shot.frame])), false)
}
const dropAll = (): void => emit('change', now.value, false)
const openCurves = (): void => {
  view.lowerCurves = true
}

const clamp = (value: number): number => Math.min(props.high, Math.max(props.low, value))
const round = (value: number): number =>
  props.whole ? Math.round(value) : Number(value.toFixed(Math.max(props.digits, 3)))
function put(value: number, live: boolean) {
  const held = clamp(round(value))
  // The same movement may come twice
  if (live && held === now.value) return
  emit('change', withValue(props.modelValue, shot.frame, held), live)
}

let from = 0
let startX = 0
let moved = false
function down(event: PointerEvent) {
  if (editing.value || event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  from = now.value
  startX = event.clientX
  moved = false
}
function move(event: PointerEvent) {
  if (!(event.currentTarget as HTMLElement).hasPointerCapture(event.pointerId)) return
  const distance = event.clientX - startX
  if (!moved && Math.abs(distance) < 3) return
  moved = true
  view.dragging = true
  put(from + distance * props.step * (event.shiftKey ? 0.1 : event.ctrlKey ? 10 : 1), true)
}
const sooner = early(move)
function up(event: PointerEvent) {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).releasePointerCapture(event.pointerId)
  view.dragging = false
  if (moved) emit('change', props.modelValue, false)
  else if (event.detail < 2)
    // Unless it becomes a double click, or one types at once
    opening = setTimeout(() => void edit(), 220)
}
let opening: ReturnType<typeof setTimeout> | undefined
function reset() {
  clearTimeout(opening)
  if (props.neutral !== undefined) emit('change', props.neutral, false)
}
/** begun: what was typed already, in place of the value. */
async function edit(begun?: string) {
  clearTimeout(opening)
  editing.value = true
  bad.value = false
  text.value = begun ?? String(round(now.value))
  found = begun === undefined ? text.value : ''
  await nextTick()
  if (begun === undefined) input.value?.select()
  else input.value?.focus()
}
/** What stood there when it was opened: left as it was it says nothing, whatever the value has become meanwhile. */
let found = ''
function commit() {
  if (!editing.value) return
  if (text.value === found) {
    editing.value = false
    return
  }
  const value = arithmetic(text.value, now.value)
  if (value === undefined) {
    bad.value = true
    return
  }
  editing.value = false
  if (value !== now.value) put(value, false)
}
function key(event: KeyboardEvent) {
  if (event.key === 'Enter') {
    event.preventDefault()
    void edit()
  } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    event.preventDefault()
    put(now.value + (event.key === 'ArrowUp' ? 1 : -1) * props.step * (event.shiftKey ? 100 : 10), true)
  } else if (event.key.toLowerCase() === 'k') {
    event.preventDefault()
    event.stopPropagation()
    if (!props.still) setKey()
  } else if (event.key === 'Delete') reset()
  else if (/^[0-9.,(-]$/.test(event.key) && !event.ctrlKey && !event.metaKey && !event.altKey) {
    // A figure begins to type
    event.preventDefault()
    void edit(event.key)
  }
}
</script>

<template>
  <input
    v-if="editing"
    ref="input"
    v-model="text"
    class="value-input figures"
    :class="{ bad }"
    :aria-label="label"
    @keydown.enter.prevent="commit"
    @keydown.esc.stop="editing = false"
    @keydown.stop
    @blur="
      () => {
        commit()
        editing = false
      }
    "
  />
  <span
    v-else
    class="value figures"
    :class="{ animated, keyed: keyed === 2, faint }"
    role="spinbutton"
    tabindex="0"
    :aria-label="label"
    :aria-valuenow="now"
    :aria-valuemin="low"
    :aria-valuemax="high"
    :title="title"
    @pointerdown="down"
    @pointermove="move"
    @pointerrawupdate="sooner"
    @pointerup="up"
    @dblclick="reset"
    @keydown="key"
    @contextmenu.prevent="menu = !still"
    >{{ shown }}<span v-if="unit" class="unit">&thinsp;{{ unit }}</span>
    <v-menu v-if="menu" v-model="menu" activator="parent" :open-on-click="false"
      ><v-list density="compact"
        ><v-list-item
          :title="keyed === 2 ? 'Key at this frame: take it away' : 'Key at this frame'"
          data-test="menu-key"
          @click="keyed === 2 ? dropKey() : setKey()" /><v-list-item
          v-if="keyed"
          title="No keys: this value always"
          data-test="menu-no-keys"
          @click="dropAll" /><v-list-item
          title="Values over time"
          subtitle="curves, drift and sway"
          data-test="menu-curves"
          @click="
            () => {
              keyed || setKey()
              openCurves()
            }
          " /></v-list></v-menu
  ></span>
</template>

<style scoped>
.value {
  border-bottom: 1.5px solid #b4b5b3;
  cursor: ew-resize;
  font-weight: 500;
  font-size: 12.5px;
  touch-action: none;
  user-select: none;
  white-space: nowrap;
}
.value:hover {
  border-color: var(--ink);
}
.value.animated {
  border-bottom-style: dotted;
  border-bottom-color: var(--mark);
}
.value.keyed {
  border-bottom-style: solid;
}
.value.faint {
  color: var(--soft);
  font-weight: 400;
}
.unit {
  color: var(--soft);
  font-weight: 400;
}
.value-input {
  width: 74px;
  border: 1px solid var(--ink);
  border-radius: 4px;
  padding: 0 4px;
  font-size: 12.5px;
  background: var(--card);
  color: var(--ink);
}
.value-input.bad {
  border-color: var(--mark);
  background: var(--mark-tint);
}
</style>
