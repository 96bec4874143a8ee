<script setup lang="ts">
// What is drawn for mattes, on the picture: shapes with their points and handles, the round tip of the brush, points of
// the track that a shape can be set on.
import { nearestOn } from '../../core/matte/drawn/contour'
import { movedBy } from '../../core/shot/drawn'
import { setShapeOnPoint } from '../../core/shot/track'
import { cameraAt } from '../../core/shot/scene'
import { termIn } from '../../core/shot/slip'
import { useBrushing } from '~/composables/brushing'
import { across, pathOf } from '~/composables/drawnPaths'
import { useDrawnShapes, type Held } from '~/composables/drawnShapes'
import { isTaken } from '~/composables/keys'
import { ownPlaces } from '~/composables/ownPlaces'
import { useOverPicture, type Xy } from '~/composables/overPicture'
import { useTrackPoints } from '~/composables/trackPoints'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ zoom: number }>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const pointer = ref<Xy | null>(null)
/** What is drawn for a figure is drawn on its own picture, where that lies. */
const own = computed(() => (view.drawn ? ownPlaces(shot.document!, shot.frame, view.drawn.term) : undefined))
const zoom = (): number => props.zoom * (own.value?.scale ?? 1)
const { frame, unit, placeAt } = useOverPicture(svg, zoom)
const place = (event: MouseEvent): Xy => (own.value ? own.value.from(placeAt(event)) : placeAt(event))
const { shapes, drawing, ghost, held, press, pull, release, drag, takeOut, corner, insert, undoPoint, end } =
  useDrawnShapes({ zoom, pointer })
const tool = computed(() => view.drawn?.tool ?? null)
const chosen = computed(() => shapes.value.find(({ shape }) => shape.id === view.drawn?.shape))

const ghostPath = computed(
  () =>
    ghost.value &&
    pathOf({
      closed: ghost.value.closed,
      points: ghost.value.points.map(({ at, in: before = [0, 0], out: after = [0, 0] }) => ({
        ...{ x: at[0], y: at[1], radius: 0, outer: 0, inner: 0 },
        ...{ inX: before[0], inY: before[1], outX: after[0], outY: after[1] },
      })),
    }),
)

/** Pixels of the screen that a grip of nothing stands off. */
const OFF = 16
// Handles of the chosen point: on it, and across its edge how soft it is there
const grips = computed(() => {
  const index = chosen.value?.points.findIndex(({ id }) => id === view.drawn?.point) ?? -1
  const at = chosen.value?.contour.points[index]
  if (!at) return null
  const { nx, ny } = across(chosen.value!.contour, index)
  const handle = (which: 'in' | 'out', dx: number, dy: number) => ({ which, x: at.x + dx, y: at.y + dy })
  const soft = (which: 'outer' | 'inner', way: 1 | -1) => {
    const far = way * (at[which] + OFF * unit.value)
    return { which, x: at.x + nx * far, y: at.y + ny * far }
  }
  return {
    ...{ at, nx, ny },
    handles: [
      ...(at.inX || at.inY ? [handle('in', at.inX, at.inY)] : []),
      ...(at.outX || at.outY ? [handle('out', at.outX, at.outY)] : []),
    ],
    softs: [soft('outer', 1), soft('inner', -1)],
  }
})

function grab(event: PointerEvent, shape: string, what: Held) {
  if (event.button !== 0 || event.altKey || tool.value) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const point = 'id' in what ? what.id : ''
  view.drawn = { ...view.drawn!, shape, point }
  held.value = what
  view.dragging = true
}
function grabWhole(event: PointerEvent, what: 'whole' | 'turn') {
  const { shape } = chosen.value!
  const { moveX, moveY, turn, scale, about } = movedBy(shape, shot.frame)
  const middle: Xy = [about[0] + moveX, about[1] + moveY]
  grab(event, shape.id, { what, from: place(event), was: { x: moveX, y: moveY, turn, scale, middle } })
}
function dragTo(event: PointerEvent, last = false) {
  const now = held.value
  if (!now) return
  event.stopPropagation()
  let at = place(event)
  if ((now.what === 'outer' || now.what === 'inner') && grips.value) {
    // How far across the edge, of which the grip stands off a little
    const { at: point, nx, ny } = grips.value
    const far = (at[0] - point.x) * nx + (at[1] - point.y) * ny
    at = [Math.max(0, (now.what === 'outer' ? far : -far) - OFF * unit.value), 0]
  }
  drag(at, { last, alone: event.shiftKey })
}
const middle = computed(() => {
  if (!chosen.value) return null
  const { about, moveX, moveY, turn } = movedBy(chosen.value.shape, shot.frame)
  const angle = (turn * Math.PI) / 180
  const arm = 46 * unit.value
  const at: Xy = [about[0] + moveX, about[1] + moveY]
  return { at, knob: [at[0] + Math.cos(angle) * arm, at[1] + Math.sin(angle) * arm] as Xy }
})
function addAt(event: MouseEvent, index: number) {
  const { shape, contour, points } = shapes.value[index]!
  const found = nearestOn(contour, place(event))
  if (found) insert(shape.id, points[found.index]!.id, found.share)
}

// Points of the track
const camera = computed(() => cameraAt(shot.document!.scene.camera, shot.frame))
const aspect = computed(() => frame.value.width / frame.value.height)
const { trackPoints } = useTrackPoints({ thing: computed(() => null), camera, aspect })
function onPoint(point: (typeof trackPoints.value)[number]) {
  try {
    shot.change(`Shape on ${point.name}`, document => {
      const found = termIn(document, view.drawn!.term)
      const shape = found?.kind === 'shape' ? found.shapes[view.drawn!.shape] : undefined
      if (shape) setShapeOnPoint(document, shape, point.place, shot.frame)
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
  view.drawn = { ...view.drawn!, tool: null }
}

// The brush
const brushing = useBrushing()
const pressure = (event: PointerEvent): number => (event.pointerType === 'pen' ? event.pressure : 1)
function down(event: PointerEvent) {
  if (event.button !== 0 || event.altKey || !tool.value || tool.value === 'on a point') return
  event.stopPropagation()
  svg.value!.setPointerCapture(event.pointerId)
  const at = place(event)
  if (tool.value === 'brush') brushing.begin(...at, pressure(event), view.tip.takes !== event.shiftKey)
  else press(at)
}
function move(event: PointerEvent) {
  pointer.value = place(event)
  if (!(event.buttons & 1)) return
  if (tool.value === 'brush')
    brushing.go(event.getCoalescedEvents().map(one => [...place(one), pressure(one)] as [number, number, number]))
  else pull(pointer.value, event.shiftKey)
}
/** A pen that is taken away ends its stroke, too. */
function up(event: PointerEvent) {
  if (event.type === 'pointerup' && event.button !== 0) return
  if (tool.value === 'brush') brushing.end()
  else release()
}
const tipRadius = computed(() => view.tip.size / 2)

function keys(event: KeyboardEvent) {
  if (isTaken(event) || !view.drawn) return
  if (event.key === 'Enter' && drawing.value.length) end()
  else if (event.key === 'Backspace' && drawing.value.length) undoPoint()
  else if ((event.key === 'Delete' || event.key === 'Backspace') && view.drawn.point)
    takeOut(view.drawn.shape, view.drawn.point)
  else if (event.key.startsWith('Arrow') && view.drawn.point && grips.value) {
    const step = event.shiftKey ? 10 : 1
    const { x, y } = grips.value.at
    const by: Record<string, Xy> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
    const [dx, dy] = by[event.key]!
    held.value = { what: 'point', id: view.drawn.point }
    drag([x + dx * step, y + dy * step], { last: true, alone: false })
  } else return
  event.preventDefault()
  event.stopImmediatePropagation()
}
onMounted(() => window.addEventListener('keydown', keys, true))
onBeforeUnmount(() => window.removeEventListener('keydown', keys, true))
</script>

<template>
  <svg
    ref="svg"
    class="over-picture"
    :class="{ tool: tool && tool !== 'on a point' }"
    :viewBox="`0 0 ${own?.width ?? frame.width} ${own?.height ?? frame.height}`"
    :style="own && { transform: own.transform(props.zoom), transformOrigin: '0 0' }"
    preserveAspectRatio="none"
    data-test="drawn"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="up"
    @pointerleave="pointer = null"
    @click.stop
  >
    <g v-for="({ shape, contour, points }, index) in shapes" :key="shape.id">
      <path :d="pathOf(contour)" class="edge-under" vector-effect="non-scaling-stroke" />
      <path
        :d="pathOf(contour)"
        class="edge line"
        :class="{ chosen: shape.id === view.drawn?.shape }"
        vector-effect="non-scaling-stroke"
      />
      <path
        v-if="!tool"
        :d="pathOf(contour)"
        class="near"
        vector-effect="non-scaling-stroke"
        data-test="shape-edge"
        @pointerdown.stop="view.drawn = { ...view.drawn!, shape: shape.id, point: '' }"
        @dblclick.stop="addAt($event, index)"
      />
      <template v-if="!tool && shape.id === view.drawn?.shape">
        <PictureGrip
          v-for="(point, k) in points"
          :key="point.id"
          v-bind="{ x: contour.points[k]!.x, y: contour.points[k]!.y, unit }"
          :class="{ chosen: point.id === view.drawn.point }"
          :aria-label="`Point ${k + 1} of ${shape.name}`"
          data-test="shape-point"
          @pointerdown="grab($event, shape.id, { what: 'point', id: point.id })"
          @pointermove="dragTo"
          @pointerup="dragTo($event, true)"
          @dblclick.stop="corner(shape.id, point.id)"
        >
          <circle r="3.4" />
        </PictureGrip>
      </template>
    </g>
    <template v-if="!tool && grips && chosen">
      <template v-for="{ which, x, y } in grips.handles" :key="which">
        <line :x1="grips.at.x" :y1="grips.at.y" :x2="x" :y2="y" class="arm" vector-effect="non-scaling-stroke" />
        <PictureGrip
          v-bind="{ x, y, unit }"
          :aria-label="`Handle ${which === 'in' ? 'before' : 'after'}`"
          :data-test="`handle-${which}`"
          @pointerdown="grab($event, chosen.shape.id, { what: which, id: view.drawn!.point })"
          @pointermove="dragTo"
          @pointerup="dragTo($event, true)"
        >
          <path d="M-3.2 0L0 -3.2L3.2 0L0 3.2Z" />
        </PictureGrip>
      </template>
      <PictureGrip
        v-for="{ which, x, y } in grips.softs"
        :key="which"
        v-bind="{ x, y, unit }"
        :aria-label="which === 'outer' ? 'Soft outside' : 'Soft inside'"
        :data-test="`soft-${which}`"
        @pointerdown="grab($event, chosen.shape.id, { what: which, id: view.drawn!.point })"
        @pointermove="dragTo"
        @pointerup="dragTo($event, true)"
      >
        <circle r="3" class="ring" />
        <text x="8" y="4">{{ grips.at[which].toFixed(grips.at[which] ? 1 : 0) }}</text>
      </PictureGrip>
    </template>
    <template v-if="!tool && middle">
      <PictureGrip
        v-bind="{ x: middle.at[0], y: middle.at[1], unit }"
        :reach="11"
        aria-label="Move the shape"
        data-test="shape-move"
        @pointerdown="grabWhole($event, 'whole')"
        @pointermove="dragTo"
        @pointerup="dragTo($event, true)"
      >
        <path d="M-6 0H6M0 -6V6" class="cross" />
      </PictureGrip>
      <line
        :x1="middle.at[0]"
        :y1="middle.at[1]"
        :x2="middle.knob[0]"
        :y2="middle.knob[1]"
        class="arm"
        vector-effect="non-scaling-stroke"
      />
      <PictureGrip
        v-bind="{ x: middle.knob[0], y: middle.knob[1], unit }"
        aria-label="Turn and size; Shift turns alone"
        data-test="shape-turn"
        @pointerdown="grabWhole($event, 'turn')"
        @pointermove="dragTo"
        @pointerup="dragTo($event, true)"
      >
        <circle r="3" class="ring" />
      </PictureGrip>
    </template>
    <template v-if="ghostPath">
      <path :d="ghostPath" class="edge-under" vector-effect="non-scaling-stroke" />
      <path :d="ghostPath" class="edge line chosen" vector-effect="non-scaling-stroke" />
      <g
        v-for="(point, k) in drawing"
        :key="k"
        :transform="`translate(${point.at[0]} ${point.at[1]}) scale(${unit})`"
        class="grip"
      >
        <circle :r="k ? 3 : 4.5" />
      </g>
    </template>
    <template v-if="tool === 'on a point'">
      <PictureGrip
        v-for="point in trackPoints"
        :key="point.name"
        v-bind="{ x: point.u * frame.width, y: point.v * frame.height, unit }"
        :aria-label="`Point ${point.name}`"
        data-test="track-point"
        @pointerdown.stop
        @click.stop="onPoint(point)"
      >
        <path d="M-4 -4L4 4M-4 4L4 -4" class="cross" />
      </PictureGrip>
    </template>
    <g v-if="tool === 'brush' && pointer" :transform="`translate(${pointer[0]} ${pointer[1]})`" class="tip">
      <circle :r="tipRadius" vector-effect="non-scaling-stroke" />
      <circle :r="tipRadius * view.tip.hardness" class="core" vector-effect="non-scaling-stroke" />
    </g>
  </svg>
</template>

<style scoped>
.line {
  stroke-opacity: 0.75;
}
.line.chosen {
  stroke-opacity: 1;
  stroke-width: 1.5;
}
.near {
  fill: none;
  stroke: transparent;
  stroke-width: 11;
  pointer-events: stroke;
  cursor: pointer;
}
.arm {
  stroke: #fff;
  stroke-opacity: 0.8;
  stroke-width: 1;
  stroke-dasharray: 3 2;
}
.grip path {
  fill: #fff;
  stroke: #0009;
}
.grip .ring {
  fill: #0006;
  stroke: #fff;
  stroke-width: 1.5;
}
.grip .cross {
  fill: none;
  stroke: #fff;
  stroke-width: 1.6;
  filter: drop-shadow(0 0 0.8px #000);
}
.tip circle {
  fill: none;
  stroke: #fff;
  stroke-width: 1.2;
  filter: drop-shadow(0 0 0.8px #000);
}
.tip .core {
  stroke-opacity: 0.6;
  stroke-dasharray: 3 3;
}
</style>
