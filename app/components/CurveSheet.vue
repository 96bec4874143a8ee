<script setup lang="ts">
// Values over time: which ones, their curves, their keys to move, copy and stretch, and what wanders on top of them.
import { animatedValues, putValue, valueRange, type AnimatedValue } from '../../core/shot/values'
import {
  isCurve,
  movedKeys,
  pastedKeys,
  valueAt,
  withKey,
  withMotion,
  withoutKeys,
  type Animatable,
  type Curve,
  type Ease,
  type Handle,
  type Key,
} from '../../core/time/curve'
import { perSecond } from '../../core/time/rate'
import { stop } from '~/composables/playback'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const PAD = 14
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

const values = computed(() => animatedValues(shot.document!))
const ticked = ref(new Set<string>())
const own = ref(false)
const chosenKey = ref('')
const chosen = computed(() => values.value.find(value => value.key === chosenKey.value) ?? values.value[0])
/** The chosen one, and those that are ticked beside it. */
const shown = computed(() =>
  values.value.filter(value => ticked.value.has(value.key) || value.key === chosen.value?.key),
)
/** Keys under work: by value and frame. */
const picked = ref(new Set<string>())
const idOf = (value: { key: string }, frame: number): string => `${value.key}@${frame}`
const framesOf = (value: { key: string; curve: Curve }): Set<number> =>
  new Set(value.curve.keys.map(key => key.frame).filter(frame => picked.value.has(idOf(value, frame))))

const span = computed((): [number, number] => {
  const { first, last } = shot.document!.frames
  return first === last ? [first - 1, last + 1] : [first, last]
})
const common = computed(() =>
  valueRange(
    shown.value.map(value => value.curve),
    span.value[0],
    span.value[1],
    valueAt,
  ),
)
const frozen = ref<[number, number] | null>(null)
const rangeOf = (value: AnimatedValue): [number, number] =>
  own.value ? valueRange([value.curve], span.value[0], span.value[1], valueAt) : (frozen.value ?? common.value)
/** Pixels of frame `from` and of each frame: those of the time line below, where there is one. */
const scale = computed(() => {
  const { first, last } = shot.document!.frames
  const bar = view.timeScale
  if (first === last || !bar)
    return { from: span.value[0], at: PAD, per: (size.width - 2 * PAD) / (span.value[1] - span.value[0]) }
  const per = bar.width / (last - first + 1)
  return { from: first, at: bar.left - size.left + per / 2, per }
})
const xOf = (frame: number): number => scale.value.at + (frame - scale.value.from) * scale.value.per
const frameAt = (x: number): number => scale.value.from + (x - scale.value.at) / scale.value.per
const yOf = (value: AnimatedValue, at: number): number => {
  const [low, high] = rangeOf(value)
  return size.height - PAD - ((at - low) / (high - low)) * (size.height - 2 * PAD)
}
const perPixel = (value: AnimatedValue): number => {
  const [low, high] = rangeOf(value)
  return (high - low) / (size.height - 2 * PAD)
}
const lineOf = (value: AnimatedValue): string => {
  const first = frameAt(0)
  const last = frameAt(size.width)
  const step = Math.max(0.25, (last - first) / Math.min(900, size.width))
  const points: string[] = []
  // From a whole frame on, so that keys lie on the line
  for (let frame = Math.floor(first); frame <= last + 1e-9; frame += step) {
    const y = yOf(value, valueAt(value.curve, frame))
    points.push(`${xOf(frame).toFixed(1)} ${y.toFixed(1)}`)
  }
  return `M${points.join('L')}`
}
/** A key stands on its curve, with what wanders on top of it. */
const keyPlace = (value: AnimatedValue, key: Key): { x: number; y: number } => ({
  x: xOf(key.frame),
  y: yOf(value, valueAt(value.curve, key.frame)),
})
const handlePlace = (value: AnimatedValue, key: Key, side: 'before' | 'after'): { x: number; y: number } | null => {
  const keys = value.curve.keys
  const at = keys.indexOf(key)
  const other = keys[side === 'after' ? at + 1 : at - 1]
  if (!other || (side === 'after' ? key : other).ease !== 'smooth') return null
  const handle = key[side] ?? { frames: Math.abs(other.frame - key.frame) / 3, value: 0 }
  return {
    x: xOf(key.frame + (side === 'after' ? handle.frames : -handle.frames)),
    y: yOf(value, valueAt(value.curve, key.frame) + handle.value),
  }
}
const ticks = computed(() => {
  const [low, high] = common.value
  const rough = (high - low) / 4
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map(n => n * power).find(n => n >= rough) ?? rough
  const out: number[] = []
  for (let at = Math.ceil(low / step) * step; at <= high + 1e-9 && out.length < 12; at += step)
    out.push(Number(at.toPrecision(10)))
  return out
})

/** Lays changed curves into the document, each at its place. */
function put(label: string, changed: { value: AnimatedValue; to: Animatable }[], live = false) {
  if (changed.length)
    shot.change(
      label,
      document => {
        for (const { value, to } of changed) putValue(document, value.path, to)
      },
      live,
    )
}
const selected = computed(() => values.value.filter(value => framesOf(value).size))
const pickedCount = computed(() => selected.value.reduce((sum, value) => sum + framesOf(value).size, 0))
const pickedSpan = computed(() => {
  const frames = selected.value.flatMap(value => [...framesOf(value)])
  return frames.length > 1 ? ([Math.min(...frames), Math.max(...frames)] as const) : null
})

type Grab =
  | {
      kind: 'keys'
      x: number
      y: number
      before: { value: AnimatedValue; curve: Curve; frames: Set<number> }[]
      lead: AnimatedValue
    }
  | {
      kind: 'stretch'
      about: number
      edge: number
      before: { value: AnimatedValue; curve: Curve; frames: Set<number> }[]
    }
  | { kind: 'handle'; value: AnimatedValue; frame: number; side: 'before' | 'after' }
  | { kind: 'box'; x: number; y: number; add: boolean }
  | { kind: 'scrub' }
let grab: Grab | null = null
const box = ref<{ x: number; y: number; width: number; height: number } | null>(null)
const where = (event: PointerEvent | MouseEvent): { x: number; y: number } => {
  const bounds = host.value!.getBoundingClientRect()
  return { x: event.clientX - bounds.left, y: event.clientY - bounds.top }
}
const copyOf = <T,>(value: T): T => JSON.parse(JSON.stringify(value)) as T
const beforeOf = (): { value: AnimatedValue; curve: Curve; frames: Set<number> }[] =>
  selected.value.map(value => ({ value, curve: copyOf(value.curve), frames: framesOf(value) }))

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
function remove() {
  put(
    pickedCount.value === 1 ? 'Remove a key' : 'Remove keys',
    selected.value.map(value => ({ value, to: withoutKeys(value.curve, framesOf(value)) })),
  )
  picked.value = new Set()
}
function setEase(ease: Ease) {
  put(
    'Ease of keys',
    selected.value.map(value => {
      const frames = framesOf(value)
      const curve = copyOf(value.curve)
      for (const key of curve.keys)
        if (frames.has(key.frame)) {
          key.ease = ease
          if (ease !== 'smooth') delete key.after
        }
      return { value, to: curve }
    }),
  )
}
let clipboard: { key: string; keys: Key[] }[] = []
const copied = ref(0)
function copy() {
  clipboard = selected.value.map(value => {
    const frames = framesOf(value)
    return { key: value.key, keys: copyOf(value.curve.keys.filter(key => frames.has(key.frame))) }
  })
  copied.value = pickedCount.value
}
/** Copies go where they came from, at the frame at hand; keys of one value go into the chosen value. */
function paste() {
  const first = Math.min(...clipboard.flatMap(entry => entry.keys.map(key => key.frame)))
  const into =
    clipboard.length === 1 && chosen.value
      ? [{ value: chosen.value, keys: clipboard[0]!.keys }]
      : clipboard.flatMap(({ key, keys }) => {
          const value = values.value.find(entry => entry.key === key)
          return value ? [{ value, keys }] : []
        })
  put(
    'Paste keys',
    into.map(({ value, keys }) => ({
      value,
      to: pastedKeys(value.curve, keys, shot.frame + Math.min(...keys.map(key => key.frame)) - first),
    })),
  )
  picked.value = new Set(
    into.flatMap(({ value, keys }) => keys.map(key => idOf(value, Math.round(key.frame - first + shot.frame)))),
  )
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
const onlyKey = computed(() => {
  const value = selected.value[0]
  if (pickedCount.value !== 1 || !value) return null
  const frame = [...framesOf(value)][0]!
  return { value, key: value.curve.keys.find(entry => entry.frame === frame)! }
})
function setKey(field: 'frame' | 'value', to: number, live: boolean) {
  const found = onlyKey.value
  if (!found) return
  put(
    'Move a key',
    [
      {
        value: found.value,
        to: movedKeys(
          found.value.curve,
          new Set([found.key.frame]),
          field === 'frame' ? { frames: Math.round(to) - found.key.frame } : { value: to - found.key.value },
        ),
      },
    ],
    live,
  )
  if (field === 'frame') picked.value = new Set([idOf(found.value, Math.round(to))])
}
const motion = (change: Partial<Pick<Curve, 'drift' | 'sway'>>, live: boolean): void => {
  const value = chosen.value
  if (!value) return
  const { drift, sway } = value.curve
  const to = withMotion(value.curve, shot.frame, { drift, sway, ...change }, perSecond(shot.document!.rate))
  // A drag through nothing must not end the curve under it
  put('Drift and sway', [{ value, to: live && !isCurve(to) ? value.curve : to }], live)
}
const sway = (change: Partial<NonNullable<Curve['sway']>>, live: boolean): void =>
  motion({ sway: { amount: 0, speed: 0.5, seed: 1, ...chosen.value?.curve.sway, ...change } }, live)
const toggle = (key: string): void => {
  const next = new Set(ticked.value)
  if (next.has(key)) next.delete(key)
  else next.add(key)
  ticked.value = next
}
watch(
  values,
  list => {
    if (!list.some(value => value.key === chosenKey.value)) chosenKey.value = list[0]?.key ?? ''
  },
  { immediate: true },
)
</script>

<template>
  <section class="curves" aria-label="Values over time" data-test="curves">
    <div class="list">
      <p v-if="!values.length" class="soft hint">
        No value changes over time yet. Put the pointer on any value and press <kbd>K</kbd>, or click it with the other
        mouse button, to set a key at this frame.
      </p>
      <div
        v-for="value in values"
        :key="value.key"
        class="row entry"
        :class="{ on: chosen?.key === value.key }"
        @pointerdown="chosenKey = value.key"
      >
        <input
          type="checkbox"
          :checked="ticked.has(value.key) || value.key === chosen?.key"
          :aria-label="`Show ${value.owner}, ${value.name} beside others`"
          @click.stop
          @pointerdown.stop
          @change="toggle(value.key)"
        /><span class="grow cut"
          >{{ value.owner }}, <b>{{ value.name }}</b></span
        ><span class="figures soft">{{ valueAt(value.curve, shot.frame).toFixed(2) }}</span>
      </div>
    </div>
    <div class="right">
      <div class="row bar">
        <span class="soft">{{
          pickedCount ? `${pickedCount} ${pickedCount === 1 ? 'key' : 'keys'}` : 'Drag a frame round keys'
        }}</span>
        <template v-if="onlyKey"
          >at
          <ValueField
            still
            :model-value="onlyKey.key.frame"
            label="Frame of the key"
            :low="-100000"
            :high="100000"
            :step="0.2"
            :digits="0"
            data-test="key-frame"
            @change="(value, live) => setKey('frame', value as number, live)" />
          is
          <ValueField
            still
            :model-value="onlyKey.key.value"
            label="Value of the key"
            :low="-1e6"
            :high="1e6"
            :step="0.01"
            data-test="key-value"
            @change="(value, live) => setKey('value', value as number, live)"
        /></template>
        <template v-if="pickedCount"
          ><button
            v-for="ease in ['hold', 'linear', 'smooth'] as const"
            :key="ease"
            class="word"
            :data-test="`ease-${ease}`"
            @click="setEase(ease)"
          >
            {{ ease === 'hold' ? 'held' : ease === 'linear' ? 'straight' : 'smooth' }}</button
          ><button class="word" data-test="keys-copy" @click="copy">copy</button
          ><button class="word" data-test="keys-remove" @click="remove">remove</button></template
        >
        <button v-if="copied" class="word" data-test="keys-paste" @click="paste">paste {{ copied }} here</button>
        <span class="grow" />
        <label class="row soft"><input v-model="own" type="checkbox" />each its own height</label>
      </div>
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
            <rect
              :x="xOf(pickedSpan[0])"
              y="2"
              :width="xOf(pickedSpan[1]) - xOf(pickedSpan[0])"
              height="7"
              class="span"
            />
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
      <p v-if="chosen" class="row bar motion">
        {{ chosen.owner }}, {{ chosen.name }} drifts
        <ValueField
          still
          :model-value="chosen.curve.drift ?? 0"
          label="Drift"
          help="Added each second."
          :low="-100000"
          :high="100000"
          :step="0.01"
          :digits="3"
          :neutral="0"
          data-test="drift"
          @change="(value, live) => motion({ drift: value as number }, live)"
        />
        a second and sways by
        <ValueField
          still
          :model-value="chosen.curve.sway?.amount ?? 0"
          label="Sway"
          help="At most so much either way."
          :low="-100000"
          :high="100000"
          :step="0.01"
          :digits="3"
          :neutral="0"
          data-test="sway"
          @change="(value, live) => sway({ amount: value as number }, live)"
        />,
        <ValueField
          still
          :model-value="chosen.curve.sway?.speed ?? 0.5"
          label="Pace of the sway"
          help="Turns a second, about."
          :low="0"
          :high="100"
          :step="0.01"
          :neutral="0.5"
          @change="(value, live) => sway({ speed: value as number }, live)"
        />
        times a second, in way
        <ValueField
          still
          :model-value="chosen.curve.sway?.seed ?? 1"
          label="Seed of the sway"
          help="Another number wanders otherwise."
          :low="0"
          :high="100000"
          :step="0.1"
          :digits="0"
          :neutral="1"
          @change="(value, live) => sway({ seed: Math.round(value as number) }, live)"
        />.
      </p>
    </div>
  </section>
</template>

<style scoped>
.curves {
  flex: 1;
  min-height: 0;
  display: flex;
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.list {
  width: 250px;
  overflow-y: auto;
  border-right: 1px solid var(--line);
  padding: 6px 0;
  flex-shrink: 0;
}
.hint {
  padding: 4px 12px;
}
.entry {
  padding: 2px 10px;
  font-size: 12.5px;
  cursor: pointer;
}
.entry.on {
  background: var(--faint);
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.right {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.bar {
  padding: 3px 12px;
  min-height: 28px;
  font-size: 12.5px;
  gap: 9px;
}
.motion {
  margin: 0;
  border-top: 1px dashed var(--line);
  flex-wrap: wrap;
  gap: 5px;
}
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
input[type='checkbox'] {
  accent-color: var(--ink);
}
</style>
