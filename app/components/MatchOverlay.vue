<script setup lang="ts">
// What is drawn on the plate to match the camera: lines with their ends to drag, vanishing points, poles, and the tool
// at work.
import { onLevel } from '../../core/match/project'
import { heightFromLength, heightFromUpright, poleLine } from '../../core/match/scale'
import { identifier, type MatchLine } from '../../core/shot/document'
import { addRow, inOrder, type Unplaced } from '../../core/shot/rows'
import { AXIS_WORDS, matchLines, noMatch } from '../../core/shot/match'
import { cameraAt } from '../../core/shot/scene'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ zoom: number }>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const drawing = ref<{ from: [number, number]; to: [number, number] } | null>(null)
const frame = computed(() => shot.document!.frame)
const aspect = computed(() => frame.value.width / frame.value.height)
const match = computed(() => shot.document!.match ?? noMatch())
const camera = computed(() => cameraAt(shot.document!.scene.camera, shot.frame))
const unit = computed(() => 1 / props.zoom)
const poles = computed(() =>
  inOrder(match.value.poles)
    .map(pole => ({ pole, line: poleLine(camera.value, aspect.value, pole.x, pole.z, pole.height) }))
    .filter(entry => entry.line),
)
const vanishing = computed(() => {
  try {
    return Object.entries(matchLines(shot.document!, shot.frame).vanishing)
  } catch {
    return []
  }
})
/** Lines go on to their vanishing point where it is not too far out. */
const rays = computed(() =>
  inOrder(match.value.lines).flatMap(line => {
    const point = vanishing.value.find(([axis]) => axis === line.axis)?.[1]
    if (!point || Math.hypot(point[0], point[1]) > 20 * frame.value.width) return []
    const near =
      Math.hypot(line.from[0] - point[0], line.from[1] - point[1]) <
      Math.hypot(line.to[0] - point[0], line.to[1] - point[1])
        ? line.from
        : line.to
    return [{ id: line.id, near, point }]
  }),
)
const place = (event: PointerEvent): [number, number] => {
  const bounds = svg.value!.getBoundingClientRect()
  return [
    ((event.clientX - bounds.left) / bounds.width) * frame.value.width,
    ((event.clientY - bounds.top) / bounds.height) * frame.value.height,
  ]
}
const share = (p: [number, number]): { u: number; v: number } => ({
  u: p[0] / frame.value.width,
  v: p[1] / frame.value.height,
})
const round = (p: [number, number]): [number, number] => [Math.round(p[0] * 100) / 100, Math.round(p[1] * 100) / 100]

function down(event: PointerEvent) {
  if (!view.matchTool || event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  drawing.value = { from: place(event), to: place(event) }
}
function move(event: PointerEvent) {
  if (drawing.value) {
    event.stopPropagation()
    drawing.value = { ...drawing.value, to: place(event) }
  }
}
function up(event: PointerEvent) {
  const made = drawing.value
  const tool = view.matchTool
  drawing.value = null
  if (!made || !tool) return
  event.stopPropagation()
  const { from, to } = made
  try {
    if (tool === 'x' || tool === 'y' || tool === 'z') {
      if (Math.hypot(to[0] - from[0], to[1] - from[1]) < 6 / props.zoom)
        throw new Error('Drag along an edge from one end to the other.')
      const line: Unplaced<MatchLine> = { id: identifier(), axis: tool, from: round(from), to: round(to) }
      shot.change(`Line ${AXIS_WORDS[tool]}`, document => {
        addRow((document.match ??= noMatch()).lines, line)
      })
      view.matchLine = line.id
    } else if (tool === 'upright' || tool === 'length') {
      const height =
        tool === 'upright'
          ? heightFromUpright(
              camera.value,
              aspect.value,
              ...([from, to].sort((a, b) => b[1] - a[1]).map(share) as [
                ReturnType<typeof share>,
                ReturnType<typeof share>,
              ]),
              view.matchMetres,
            )
          : heightFromLength(camera.value, aspect.value, share(from), share(to), view.matchMetres)
      shot.change('Height of the camera by a known size', document => {
        document.scene.camera.y = Math.round(height * 1000) / 1000
      })
      view.matchTool = null
    } else {
      const { u, v } = share(to)
      const ground = onLevel(camera.value, aspect.value, u, v, 0)
      if (!ground) throw new Error('That place lies on or above the horizon: it is not on the ground.')
      const [x, , z] = ground.map(value => Math.round(value * 1000) / 1000) as [number, number, number]
      if (tool === 'pole')
        shot.change('A pole', document => {
          addRow((document.match ??= noMatch()).poles, { id: identifier(), x, z, height: view.poleMetres })
        })
      else {
        const m = camera.value.matrix
        shot.change('Middle of the scene', document => {
          document.scene.camera.x = Math.round((m[12]! - x) * 1000) / 1000
          document.scene.camera.z = Math.round((m[14]! - z) * 1000) / 1000
        })
        view.matchTool = null
      }
    }
  } catch (error) {
    shot.message = (error as Error).message
  }
}

let held: { id: string; end: 'from' | 'to' } | null = null
function grab(event: PointerEvent, id: string, end: 'from' | 'to') {
  if (event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held = { id, end }
  view.matchLine = id
}
function drag(event: PointerEvent, last = false) {
  if (!held) return
  event.stopPropagation()
  const { id, end } = held
  const at = round(place(event))
  shot.change(
    'Move a line',
    document => {
      const line = document.match?.lines[id]
      if (line) line[end] = at
    },
    !last,
  )
  if (last) held = null
}
</script>

<template>
  <svg
    ref="svg"
    class="over-picture"
    :class="{ tool: view.matchTool }"
    :viewBox="`0 0 ${frame.width} ${frame.height}`"
    preserveAspectRatio="none"
    data-test="match-overlay"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
  >
    <line
      v-for="ray in rays"
      :key="`r${ray.id}`"
      :x1="ray.near[0]"
      :y1="ray.near[1]"
      :x2="ray.point[0]"
      :y2="ray.point[1]"
      class="ray"
      vector-effect="non-scaling-stroke"
    />
    <g v-for="[axis, point] in vanishing" :key="axis" :transform="`translate(${point[0]} ${point[1]}) scale(${unit})`">
      <path d="M-7 -7L7 7M7 -7L-7 7" class="meet" />
    </g>
    <g
      v-for="(line, index) in inOrder(match.lines)"
      :key="line.id"
      class="drawn"
      :class="{ chosen: view.matchLine === line.id }"
    >
      <line
        :x1="line.from[0]"
        :y1="line.from[1]"
        :x2="line.to[0]"
        :y2="line.to[1]"
        class="under"
        vector-effect="non-scaling-stroke"
      />
      <line
        :x1="line.from[0]"
        :y1="line.from[1]"
        :x2="line.to[0]"
        :y2="line.to[1]"
        :class="`axis-${line.axis}`"
        vector-effect="non-scaling-stroke"
      />
      <g
        v-for="end in ['from', 'to'] as const"
        :key="end"
        :transform="`translate(${line[end][0]} ${line[end][1]}) scale(${unit})`"
        class="end"
        role="button"
        :aria-label="`${AXIS_WORDS[line.axis]} ${index + 1}, ${end === 'from' ? 'first' : 'second'} end`"
        @pointerdown="grab($event, line.id, end)"
        @pointermove="drag"
        @pointerup="drag($event, true)"
      >
        <circle r="11" class="grab" />
        <circle r="4" />
      </g>
      <g :transform="`translate(${(line.from[0] + line.to[0]) / 2} ${(line.from[1] + line.to[1]) / 2}) scale(${unit})`">
        <text y="-6" text-anchor="middle">{{ AXIS_WORDS[line.axis] }} {{ index + 1 }}</text>
      </g>
    </g>
    <g v-for="{ pole, line } in poles" :key="pole.id">
      <line
        :x1="line!.foot.u * frame.width"
        :y1="line!.foot.v * frame.height"
        :x2="line!.head.u * frame.width"
        :y2="line!.head.v * frame.height"
        class="under"
        vector-effect="non-scaling-stroke"
      />
      <line
        :x1="line!.foot.u * frame.width"
        :y1="line!.foot.v * frame.height"
        :x2="line!.head.u * frame.width"
        :y2="line!.head.v * frame.height"
        class="pole"
        vector-effect="non-scaling-stroke"
      />
      <g :transform="`translate(${line!.head.u * frame.width} ${line!.head.v * frame.height}) scale(${unit})`">
        <circle r="3.5" class="head" />
        <text x="7" y="3">{{ pole.height.toFixed(2) }} m</text>
      </g>
    </g>
    <line
      v-if="drawing && view.matchTool !== 'pole' && view.matchTool !== 'origin'"
      :x1="drawing.from[0]"
      :y1="drawing.from[1]"
      :x2="drawing.to[0]"
      :y2="drawing.to[1]"
      class="now"
      vector-effect="non-scaling-stroke"
    />
  </svg>
</template>

<style scoped>
line {
  stroke: #fff;
  stroke-width: 1.6;
}
.under {
  stroke: #000;
  stroke-opacity: 0.45;
  stroke-width: 3.4;
}
.axis-z {
  stroke-dasharray: 9 4;
}
.axis-y {
  stroke-dasharray: 2 4;
}
.ray {
  stroke-width: 1;
  stroke-opacity: 0.4;
}
.now {
  stroke-dasharray: 4 3;
}
.pole {
  stroke-width: 2;
}
.chosen line:not(.under) {
  stroke-width: 2.4;
}
.meet {
  stroke: #fff;
  stroke-width: 1.6;
  fill: none;
  filter: drop-shadow(0 0 1px #000);
}
.head {
  fill: #fff;
  stroke: #0008;
}
.end {
  pointer-events: auto;
  cursor: move;
  touch-action: none;
}
.tool .end {
  pointer-events: none;
}
.end circle {
  fill: #fff;
  stroke: #0009;
}
.end .grab {
  fill: transparent;
  stroke: none;
}
</style>
