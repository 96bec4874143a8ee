<script setup lang="ts">
// Lamps over the picture: their outlines, and where they point; dragging one moves it round what it lights.
import { inOrder } from '../../core/shot/rows'
import { project, segment } from '../../core/match/project'
import { lightAt, skyDirection } from '../../core/shot/lamps'
import { cameraAt } from '../../core/shot/scene'
import { add, cross, normalized, scaled, type Vector3 } from '../../core/scene/vector'
import { valueAt, withValue } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null; zoom: number }>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const frame = computed(() => shot.document!.frame)
const aspect = computed(() => frame.value.width / frame.value.height)
const camera = computed(() => cameraAt(shot.document!.scene.camera, shot.frame))
const unit = computed(() => 1 / props.zoom)
const px = (u: number): number => u * frame.value.width
const py = (v: number): number => v * frame.value.height
const middleOf = (name: string): Vector3 | undefined => {
  const found = props.info?.objects.find(object => object.name === name)
  return found && ([0, 1, 2].map(k => (found.low[k]! + found.high[k]!) / 2) as Vector3)
}
const lamps = computed(() =>
  inOrder(shot.document!.scene.lights)
    .filter(entry => entry.on && entry.kind !== 'sun')
    .map(entry => {
      const light = lightAt(entry, shot.frame, middleOf)
      const lines: [Vector3, Vector3][] = []
      if (light.kind === 'sun' || light.kind === 'point' || light.kind === 'spot') return { entry, path: '', at: null }
      const { centre } = light
      const target =
        (entry.aim === undefined ? undefined : middleOf(entry.aim)) ??
        (entry.target.map(value => valueAt(value, shot.frame)) as Vector3)
      const ring = (u: Vector3, v: Vector3): void => {
        for (let i = 0; i < 32; i++) {
          const on = (k: number): Vector3 =>
            add(centre, add(scaled(u, Math.cos((k / 16) * Math.PI)), scaled(v, Math.sin((k / 16) * Math.PI))))
          lines.push([on(i), on(i + 1)])
        }
      }
      if (light.kind === 'box') {
        const corner = (a: number, b: number): Vector3 =>
          add(centre, add(scaled(light.halfU, a), scaled(light.halfV, b)))
        const corners = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)]
        corners.forEach((a, i) => lines.push([a, corners[(i + 1) % 4]!]))
      } else if (light.kind === 'tube') lines.push([add(centre, light.half), add(centre, scaled(light.half, -1))])
      else if (light.kind === 'ball') {
        ring([light.radius, 0, 0], [0, light.radius, 0])
        ring([light.radius, 0, 0], [0, 0, light.radius])
      } else {
        const u = normalized(cross(Math.abs(light.normal[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0], light.normal))
        ring(scaled(u, light.radius), scaled(cross(light.normal, u), light.radius))
      }
      lines.push([centre, target])
      const path = lines
        .flatMap(([a, b]) => {
          const line = segment(camera.value, aspect.value, a, b)
          return line
            ? [
                `M${px(line[0]).toFixed(1)} ${py(line[1]).toFixed(1)}L${px(line[2]).toFixed(1)} ${py(line[3]).toFixed(1)}`,
              ]
            : []
        })
        .join('')
      const p = project(camera.value, aspect.value, centre)
      return { entry, path, at: p.metres > 0.05 ? p : null }
    }),
)

let held: { id: string; x: number; y: number; azimuth: number; elevation: number } | null = null
function grab(event: PointerEvent, id: string) {
  if (event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const entry = shot.document!.scene.lights[id]!
  held = {
    id,
    x: event.clientX,
    y: event.clientY,
    azimuth: valueAt(entry.azimuth, shot.frame),
    elevation: valueAt(entry.elevation, shot.frame),
  }
  view.dragging = true
}
function drag(event: PointerEvent, last = false) {
  if (!held) return
  event.stopPropagation()
  const now = held
  if (last) {
    held = null
    view.dragging = false
  }
  // To the right on the picture is to the right of where one stands, whichever side of the thing the lamp is on
  const towards = skyDirection(now.azimuth, 0)
  const m = camera.value.matrix
  const side = towards[0] * m[2 * 4]! + towards[2] * m[2 * 4 + 2]! < 0 ? 1 : -1
  shot.change(
    'Move a lamp',
    document => {
      const entry = document.scene.lights[now.id]
      if (entry) {
        entry.azimuth = withValue(
          entry.azimuth,
          shot.frame,
          Math.round((now.azimuth + side * (event.clientX - now.x) * 0.3) * 10) / 10,
        )
        entry.elevation = withValue(
          entry.elevation,
          shot.frame,
          Math.min(90, Math.max(-90, Math.round((now.elevation - (event.clientY - now.y) * 0.3) * 10) / 10)),
        )
      }
    },
    !last,
  )
}
</script>

<template>
  <svg ref="svg" class="over-picture" :viewBox="`0 0 ${frame.width} ${frame.height}`" preserveAspectRatio="none">
    <template v-for="lamp in lamps" :key="lamp.entry.id">
      <path v-if="lamp.path" :d="lamp.path" class="lamp" vector-effect="non-scaling-stroke" />
      <PictureGrip
        v-if="lamp.at"
        v-bind="{ x: px(lamp.at.u), y: py(lamp.at.v), unit }"
        :reach="11"
        :aria-label="`Move ${lamp.entry.name}`"
        @pointerdown="grab($event, lamp.entry.id)"
        @pointermove="drag"
        @pointerup="drag($event, true)"
      >
        <circle r="4" />
        <text x="9" y="4">{{ lamp.entry.name }}</text>
      </PictureGrip>
    </template>
  </svg>
</template>

<style scoped>
.lamp {
  fill: none;
  stroke: #fff;
  stroke-width: 1.3;
  filter: drop-shadow(0 0 1px #000);
}
</style>
