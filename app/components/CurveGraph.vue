<script setup lang="ts">
// Curves over time with their keys: moved, stretched, bent by their handles, framed, added.
import type { AnimatedValue } from '../../core/shot/values'
import { movedKeys, valueAt, withKey, type Curve, type Handle, type Key } from '../../core/time/curve'
import type { CurveKeys } from '~/composables/curveKeys'
import { PAD, useCurveScale } from '~/composables/curveScale'
import { stop } from '~/composables/playback'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ keys: CurveKeys }>()
const shot = useShot()
const view = useView()
// What it is made of stays the same object as long as the sheet is there
const { values, own, chosenKey, chosen, shown, picked, idOf, put, pickedCount, pickedSpan } = props.keys
const { copyOf, beforeOf, remove, copy, copied, paste } = props.keys
const HANDLE = 5
const host = ref<HTMLElement>()
const size = reactive({ left: 0, width: 600, height: 200 })
let observer: ResizeObserver | undefined
onMounted(() => {
  observer = new ResizeObserver(([entry]) => {
    size.left = host.value!.getBoundingClientRect().left
    size.width = Math.max(120, entry!.contentRect.width)
    size.height = Math.max(60, entry!.contentRect.height)
  })
  observer.observe(host.value!)
})
onBeforeUnmount(() => observer?.disconnect())

const { common, frozen, xOf, frameAt, yOf, perPixel, lineOf, keyPlace, handlePlace, ticks } = useCurveScale(
  shown,
  own,
  size,
)

type Before = { value: AnimatedValue; curve: Curve; frames: Set<number> }[]
type Grab =
  | { kind: 'keys'; x: number; y: number; before: Before; lead: AnimatedValue }
  | { kind: 'stretch'; about: number; edge: number; before: Before }
  | { kind: 'handle'; value: AnimatedValue; frame: number; side: 'before' | 'after' }
  | { kind: 'box'; x: number; y: number; add: boolean }
  | { kind: 'scrub' }
let grab: Grab | null = null
const box = ref<{ x: number; y: number; width: number; height: number } | null>(null)
const where = (event: PointerEvent | MouseEvent): { x: number; y: number } => {
  const bounds = host.value!.getBoundingClientRect()
  return { x: event.clientX - bounds.left, y: event.clientY - bounds.top }
}
function capture(event: PointerEvent) {
  host.value!.setPointerCapture(event.pointerId)
  frozen.value = common.value
  view.dragging = true
}
function downKey(event: PointerEvent, value: AnimatedValue, key: Key) {
  if (event.button !== 0) return
  event.stopPropagation()
  chosenKey.value = value.key
  const id = idOf(value, key.frame)
  if (event.shiftKey) {
    if (picked.value.has(id)) picked.value.delete(id)
    else picked.value.add(id)
  } else if (!picked.value.has(id)) picked.value = new Set([id])
  picked.value = new Set(picked.value)
  if (!picked.value.has(id)) return
  capture(event)
  grab = { kind: 'keys', ...where(event), before: beforeOf(), lead: value }
}
function downHandle(event: PointerEvent, value: AnimatedValue, key: Key, side: 'before' | 'after') {
  if (event.button !== 0) return
  event.stopPropagation()
  capture(event)
  grab = { kind: 'handle', value, frame: key.frame, side }
}
function downStretch(event: PointerEvent, edge: number, about: number) {
  if (event.button !== 0) return
  event.stopPropagation()
  capture(event)
  grab = { kind: 'stretch', edge, about, before: beforeOf() }
}
function down(event: PointerEvent) {
  if (event.button !== 0) return
  capture(event)
  const { x, y } = where(event)
  if (y < 12) {
    grab = { kind: 'scrub' }
    stop()
    move(event)
    return
  }
  grab = { kind: 'box', x, y, add: event.shiftKey }
  box.value = { x, y, width: 0, height: 0 }
}
function move(event: PointerEvent, last = false) {
  if (!grab) return
  const { x, y } = where(event)
  if (grab.kind === 'scrub') {
    const { first, last: end } = shot.document!.frames
    shot.frame = Math.min(end, Math.max(first, Math.round(frameAt(x))))
  }
  if (grab.kind === 'box')
    box.value = {
      x: Math.min(x, grab.x),
      y: Math.min(y, grab.y),
      width: Math.abs(x - grab.x),
      height: Math.abs(y - grab.y),
    }
  if (grab.kind === 'keys') {
    const held = grab
    const frames = Math.round(frameAt(x) - frameAt(held.x))
    const pixels = Math.abs(y - held.y) < 3 && frames !== 0 ? 0 : held.y - y
    const sideways = event.ctrlKey
    const changed = held.before.map(({ value, curve, frames: list }) => ({
      value,
      to: movedKeys(curve, list, { frames, value: sideways ? 0 : pixels * perPixel(value) }),
    }))
    put('Move keys', changed, !last)
    picked.value = new Set(
      held.before.flatMap(({ value, frames: list }) => [...list].map(frame => idOf(value, frame + frames))),
    )
  }
  if (grab.kind === 'stretch') {
    const { edge, about, before } = grab
    const scale = (frameAt(x) - about) / (edge - about)
    if (Math.abs(scale) < 0.02) return
    put(
      'Stretch keys',
      before.map(({ value, curve, frames }) => ({ value, to: movedKeys(curve, frames, { scale, about }) })),
      !last,
    )
    picked.value = new Set(
      before.flatMap(({ value, frames }) =>
        [...frames].map(frame => idOf(value, Math.round(about + (frame - about) * scale))),
      ),
    )
  }
  if (grab.kind === 'handle') {
    const { value, frame, side } = grab
    const now = values.value.find(entry => entry.key === value.key)
    const key = now?.curve.keys.find(entry => entry.frame === frame)
    if (!now || !key) return
    const base = keyPlace(now, key)
    const handle: Handle = {
      frames: Math.max(0, (side === 'after' ? 1 : -1) * (frameAt(x) - frame)),
      value: (base.y - y) * perPixel(now),
    }
    const curve = copyOf(now.curve)
    const into = curve.keys.find(entry => entry.frame === frame)!
    const other = side === 'after' ? ('before' as const) : ('after' as const)
    into[side] = handle
    // Both sides stay in one line, unless Alt breaks them
    const opposite = handlePlace(now, key, other)
    if (opposite && !event.altKey) {
      const long = Math.abs(frameAt(opposite.x) - frame)
      into[other] = { frames: long, value: handle.frames > 1e-6 ? (-handle.value / handle.frames) * long : 0 }
    }
    put('Handle of a key', [{ value: now, to: curve }], !last)
  }
}
function up(event: PointerEvent) {
  if (!grab) return
  if (grab.kind === 'box' && box.value) {
    const { x, y, width, height } = box.value
    const next = new Set(grab.add ? picked.value : [])
    for (const value of shown.value)
      for (const key of value.curve.keys) {
        const at = keyPlace(value, key)
        if (at.x >= x && at.x <= x + width && at.y >= y && at.y <= y + height) next.add(idOf(value, key.frame))
      }
    picked.value = next
  } else move(event, true)
  box.value = null
  grab = null
  frozen.value = null
  view.dragging = false
}
/** A key where the curve passes. */
function addKey(event: MouseEvent) {
  const { x, y } = where(event)
  const frame = Math.round(frameAt(x))
  const near = shown.value
    .map(value => ({ value, gap: Math.abs(yOf(value, valueAt(value.curve, frameAt(x))) - y) }))
    .sort((a, b) => a.gap - b.gap)[0]
  if (!near || near.gap > 12) return
  put('Add a key', [{ value: near.value, to: withKey(near.value.curve, frame, valueAt(near.value.curve, frame)) }])
  chosenKey.value = near.value.key
  picked.value = new Set([idOf(near.value, frame)])
}
function keydown(event: KeyboardEvent) {
  const key = event.key.toLowerCase()
  const command = event.ctrlKey || event.metaKey
  if ((key === 'delete' || key === 'backspace') && pickedCount.value) {
    event.preventDefault()
    event.stopPropagation()
    remove()
  } else if (command && key === 'c' && pickedCount.value) {
    event.preventDefault()
    copy()
  } else if (command && key === 'v' && copied.value) {
    event.preventDefault()
    paste()
  } else if (command && key === 'a') {
    event.preventDefault()
    picked.value = new Set(shown.value.flatMap(value => value.curve.keys.map(entry => idOf(value, entry.frame))))
  } else if (pickedCount.value && (key === 'arrowleft' || key === 'arrowright')) {
    event.preventDefault()
    event.stopPropagation()
    const by = key === 'arrowleft' ? -1 : 1
    const before = beforeOf()
    put(
      'Move keys',
      before.map(({ value, curve, frames }) => ({ value, to: movedKeys(curve, frames, { frames: by }) })),
    )
    picked.value = new Set(before.flatMap(({ value, frames }) => [...frames].map(frame => idOf(value, frame + by))))
  }
}
</script>

<template>
  <div
    ref="host"
    class="graph"
    role="group"
    tabindex="0"
    aria-label="Curves"
    data-test="curve-graph"
    @pointerdown="down"
    @pointermove="move($event)"
    @pointerup="up"
    @dblclick="addKey"
    @keydown="keydown"
  >
    <svg :width="size.width" :height="size.height">
      <g v-if="!own">
        <g v-for="tick in ticks" :key="tick">
          <line
            :x1="0"
            :x2="size.width"
            :y1="size.height - PAD - ((tick - common[0]) / (common[1] - common[0])) * (size.height - 2 * PAD)"
            :y2="size.height - PAD - ((tick - common[0]) / (common[1] - common[0])) * (size.height - 2 * PAD)"
            class="grid"
          />
          <text
            x="2"
            :y="size.height - PAD - ((tick - common[0]) / (common[1] - common[0])) * (size.height - 2 * PAD) - 2"
          >
            {{ tick }}
          </text>
        </g>
      </g>
      <line :x1="xOf(shot.frame)" :x2="xOf(shot.frame)" y1="0" :y2="size.height" class="now" />
      <path
        v-for="value in shown"
        :key="value.key"
        :d="lineOf(value)"
        class="curve"
        :class="{ chosen: value.key === chosen?.key }"
        @pointerdown="chosenKey = value.key"
      />
      <g v-if="pickedSpan && xOf(pickedSpan[1]) - xOf(pickedSpan[0]) > 8">
        <rect :x="xOf(pickedSpan[0])" y="2" :width="xOf(pickedSpan[1]) - xOf(pickedSpan[0])" height="7" class="span" />
        <rect
          v-for="i in [0, 1] as const"
          :key="i"
          :x="xOf(pickedSpan[i]) - 4"
          y="0"
          width="8"
          height="11"
          class="stretch"
          :data-test="i ? 'stretch-last' : 'stretch-first'"
          @pointerdown="downStretch($event, pickedSpan[i], pickedSpan[1 - i]!)"
        >
          <title>Drag to stretch the keys in time</title>
        </rect>
      </g>
      <g v-for="value in shown" :key="`k${value.key}`">
        <template v-for="key in value.curve.keys" :key="key.frame">
          <template v-if="picked.has(idOf(value, key.frame))">
            <template v-for="side in ['before', 'after'] as const" :key="side">
              <g v-if="handlePlace(value, key, side)">
                <line
                  :x1="keyPlace(value, key).x"
                  :y1="keyPlace(value, key).y"
                  :x2="handlePlace(value, key, side)!.x"
                  :y2="handlePlace(value, key, side)!.y"
                  class="arm"
                />
                <circle
                  :cx="handlePlace(value, key, side)!.x"
                  :cy="handlePlace(value, key, side)!.y"
                  :r="HANDLE"
                  class="handle"
                  :data-test="`handle-${side}`"
                  @pointerdown="downHandle($event, value, key, side)"
                >
                  <title>Drag the handle; Alt breaks it from the other side</title>
                </circle>
              </g>
            </template>
          </template>
          <path
            :transform="`translate(${keyPlace(value, key).x} ${keyPlace(value, key).y})`"
            :d="
              key.ease === 'hold'
                ? 'M-4 -4H4V4H-4Z'
                : key.ease === 'linear'
                  ? 'M0 -5L5 4H-5Z'
                  : 'M0 -5A5 5 0 1 1 -0.01 -5Z'
            "
            class="key"
            :class="{ on: picked.has(idOf(value, key.frame)) }"
            :data-test="`key-${value.path.at(-1)}-${key.frame}`"
            @pointerdown="downKey($event, value, key)"
          />
        </template>
      </g>
      <rect v-if="box" v-bind="box" class="box" />
    </svg>
  </div>
</template>

<style scoped>
.graph {
  flex: 1;
  min-height: 0;
  position: relative;
  overflow: hidden;
  touch-action: none;
  cursor: crosshair;
  background: var(--card);
}
svg {
  position: absolute;
  inset: 0;
}
.grid {
  stroke: var(--line);
  stroke-width: 1;
}
text {
  font: 9.5px var(--figures);
  fill: var(--soft);
  user-select: none;
}
.now {
  stroke: var(--mark);
  stroke-width: 1;
}
.curve {
  fill: none;
  stroke: var(--soft);
  stroke-width: 1.2;
  opacity: 0.7;
}
.curve.chosen {
  stroke: var(--ink);
  stroke-width: 1.9;
  opacity: 1;
}
.key {
  fill: var(--card);
  stroke: var(--ink);
  stroke-width: 1.4;
  cursor: move;
}
.key.on {
  fill: var(--mark);
  stroke: var(--mark);
}
.arm {
  stroke: var(--mark);
  stroke-width: 1;
}
.handle {
  fill: var(--card);
  stroke: var(--mark);
  cursor: move;
}
.span {
  fill: var(--mark-tint);
}
.stretch {
  fill: var(--mark);
  cursor: ew-resize;
}
.box {
  fill: var(--mark);
  fill-opacity: 0.08;
  stroke: var(--mark);
  stroke-dasharray: 3 2;
}
</style>
