<script setup lang="ts">
// Handles over the picture: the grid on the ground, the horizon, and the picked object to slide, turn and scale.
import { BOX_EDGES } from '../../core/match/fit'
import { groundGrid, onLevel, project, segment } from '../../core/match/project'
import { lengthText } from '../../core/text/metres'
import { snapped } from '../../core/match/ground'
import { groupOf, moveTogether } from '../../core/shot/objects'
import { cameraAt } from '../../core/shot/scene'
import { valueAt, withValue } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null; grid: boolean; zoom: number }>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const camera = computed(() => cameraAt(shot.document!.scene.camera, shot.frame))
const frame = computed(() => shot.document!.frame)
const aspect = computed(() => frame.value.width / frame.value.height)
const ground = computed(() => (props.grid ? groundGrid(camera.value, aspect.value) : null))
const px = (u: number): number => u * frame.value.width
const py = (v: number): number => v * frame.value.height
const horizon = computed(() => {
  const m = camera.value.matrix
  const flat = Math.hypot(m[8]!, m[10]!) || 1
  const ahead = (turn: number) => {
    const c = Math.cos(turn)
    const s = Math.sin(turn)
    const x = -m[8]! / flat
    const z = -m[10]! / flat
    return project(camera.value, aspect.value, [
      m[12]! + (x * c - z * s) * 1000,
      m[13]!,
      m[14]! + (x * s + z * c) * 1000,
    ])
  }
  const a = ahead(-0.4)
  const b = ahead(0.4)
  return { x1: px(a.u), y1: py(a.v), x2: px(b.u), y2: py(b.v) }
})
const chosen = computed(() => props.info?.objects.find(object => object.name === view.picked[0]) ?? null)
const edges = computed(() => {
  const object = chosen.value
  // While its corners are pulled its own edges are drawn
  if (!object || view.sceneTool === 'pull') return []
  const c = (i: number): [number, number, number] => object.corners[i]!
  return BOX_EDGES.map(([a, b]) => segment(camera.value, aspect.value, c(a), c(b))).filter(line => !!line)
})
const foot = computed(() => {
  const object = chosen.value
  if (!object) return null
  const p = project(camera.value, aspect.value, [
    (object.low[0] + object.high[0]) / 2,
    object.low[1],
    (object.low[2] + object.high[2]) / 2,
  ])
  return p.metres > 0 ? { x: px(p.u), y: py(p.v) } : null
})
const unit = computed(() => 1 / props.zoom)

const locked = computed(() => !!chosen.value && !!shot.document!.scene.objects[chosen.value.name]?.locked)
const placeOf = (name: string): [number, number, number] => starts.get(name) ?? [0, 0, 0]
let starts = new Map<string, [number, number, number]>()

let grabbed: {
  kind: 'slide' | 'turn' | 'scale'
  position: [number, number, number]
  rotation: [number, number, number]
  scale: number
  from: { u: number; v: number }
  ground?: [number, number, number]
  name: string
} | null = null
function place(event: PointerEvent): { u: number; v: number } {
  const bounds = svg.value!.getBoundingClientRect()
  return { u: (event.clientX - bounds.left) / bounds.width, v: (event.clientY - bounds.top) / bounds.height }
}
function grab(event: PointerEvent, kind: 'slide' | 'turn' | 'scale') {
  const object = chosen.value
  if (!object || event.button !== 0 || locked.value) return
  event.stopPropagation()
  starts = new Map(
    (props.info?.objects ?? []).map(entry => [entry.name, [...entry.position] as [number, number, number]]),
  )
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const from = place(event)
  const own = shot.document!.scene.objects[object.name]
  grabbed = {
    kind,
    name: object.name,
    position: object.position,
    rotation: object.rotation,
    scale: valueAt(own?.scale ?? 1, shot.frame),
    from,
    ground: onLevel(camera.value, aspect.value, from.u, from.v, object.low[1]),
  }
  view.dragging = true
}
function drag(event: PointerEvent, end = false) {
  if (!grabbed || !(event.currentTarget as Element).hasPointerCapture(event.pointerId)) return
  event.stopPropagation()
  const at = place(event)
  const held = grabbed
  const round = (value: number): number => Math.round(value * 1000) / 1000
  shot.change(
    held.kind === 'slide' ? `Move ${held.name}` : held.kind === 'turn' ? `Turn ${held.name}` : `Scale ${held.name}`,
    document => {
      const settings = (document.scene.objects[held.name] ??= {})
      if (held.kind === 'slide') {
        const to = onLevel(camera.value, aspect.value, at.u, at.v, chosen.value?.low[1] ?? 0)
        // All of its group, and all that is picked with it, goes along
        const names = [...new Set([held.name, ...view.picked].flatMap(name => groupOf(document, name)))]
        const step = view.snapMetres
        if (to && held.ground)
          moveTogether(
            document,
            names,
            placeOf,
            [
              snapped(held.position[0] + to[0] - held.ground[0], step) - held.position[0],
              0,
              snapped(held.position[2] + to[2] - held.ground[2], step) - held.position[2],
            ],
            shot.frame,
          )
      } else if (held.kind === 'turn')
        settings.rotation = [
          withValue(
            settings.rotation?.[0] ?? held.rotation[0],
            shot.frame,
            round(snapped(held.rotation[0] + (at.u - held.from.u) * 360, view.snapDegrees)),
          ),
          settings.rotation?.[1] ?? held.rotation[1],
          settings.rotation?.[2] ?? held.rotation[2],
        ]
      else
        settings.scale = withValue(
          settings.scale ?? held.scale,
          shot.frame,
          Math.max(0.01, round(held.scale * Math.exp((held.from.v - at.v) * 4))),
        )
    },
    !end,
  )
  if (end) {
    grabbed = null
    view.dragging = false
  }
}
</script>

<template>
  <svg ref="svg" class="over-picture" :viewBox="`0 0 ${frame.width} ${frame.height}`" preserveAspectRatio="none">
    <line
      v-for="(entry, index) in ground?.lines ?? []"
      :key="index"
      :x1="px(entry.line[0])"
      :y1="py(entry.line[1])"
      :x2="px(entry.line[2])"
      :y2="py(entry.line[3])"
      :class="entry.strong ? 'strong' : 'thin'"
      vector-effect="non-scaling-stroke"
    />
    <line v-if="grid" v-bind="horizon" class="horizon" vector-effect="non-scaling-stroke" />
    <text
      v-if="ground"
      :transform="`translate(${10 * unit} ${frame.height - 10 * unit}) scale(${unit})`"
      class="step"
      data-test="grid-step"
    >
      grid {{ lengthText(ground.step) }}
    </text>
    <OutOfView v-if="info" :info="info" :camera="camera" :frame="frame" :unit="unit" />
    <g v-if="chosen">
      <line
        v-for="(edge, index) in edges"
        :key="index"
        :x1="px(edge[0])"
        :y1="py(edge[1])"
        :x2="px(edge[2])"
        :y2="py(edge[3])"
        class="edge"
        vector-effect="non-scaling-stroke"
      />
      <g
        v-if="foot && !locked && !view.sceneTool && !view.matchTool && view.scenePart === 'things'"
        :transform="`translate(${foot.x} ${foot.y}) scale(${unit})`"
      >
        <g
          class="handle"
          data-test="handle-slide"
          role="button"
          aria-label="Slide on the ground"
          @pointerdown="grab($event, 'slide')"
          @pointermove="drag"
          @pointerup="drag($event, true)"
        >
          <title>Slide on the ground</title>
          <ellipse rx="26" ry="11" class="pad" />
          <path d="M-17 0h34M0 -7v14" />
        </g>
        <g
          class="handle"
          transform="translate(48 0)"
          data-test="handle-turn"
          role="button"
          aria-label="Turn"
          @pointerdown="grab($event, 'turn')"
          @pointermove="drag"
          @pointerup="drag($event, true)"
        >
          <title>Turn: drag sideways</title>
          <circle r="11" class="pad" />
          <path d="M-5 2a5.5 5.5 0 1 1 3 4M-5 2l-3 -3M-5 2l4 -3" />
        </g>
        <g
          class="handle"
          transform="translate(-48 0)"
          data-test="handle-scale"
          role="button"
          aria-label="Scale"
          @pointerdown="grab($event, 'scale')"
          @pointermove="drag"
          @pointerup="drag($event, true)"
        >
          <title>Scale: drag up or down</title>
          <circle r="11" class="pad" />
          <path d="M0 -6v12M-3 -3l3 -3l3 3M-3 3l3 3l3 -3" />
        </g>
      </g>
    </g>
  </svg>
</template>

<style scoped>
.over-picture {
  overflow: hidden;
}
.thin {
  stroke: #fff;
  stroke-opacity: 0.22;
  stroke-width: 1;
}
.strong {
  stroke: #fff;
  stroke-opacity: 0.5;
  stroke-width: 1;
}
.horizon {
  stroke: #fff;
  stroke-opacity: 0.75;
  stroke-dasharray: 7 5;
}
.step {
  font: 11px var(--figures);
  fill: #fff;
  paint-order: stroke;
  stroke: #000a;
  stroke-width: 2.5px;
}
.edge {
  stroke: #fff;
  stroke-opacity: 0.85;
  stroke-width: 1;
  filter: drop-shadow(0 0 1px #000);
}
.handle {
  pointer-events: auto;
  cursor: grab;
  touch-action: none;
}
.pad {
  fill: #fffffff0;
  stroke: #0006;
}
.handle path {
  stroke: #222;
  fill: none;
  stroke-width: 1.5;
  pointer-events: none;
}
</style>
