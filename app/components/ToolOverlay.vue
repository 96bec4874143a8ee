<script setup lang="ts">
// Tools that act on the picture of the scene: stand-ins, known points, pins, the sun from a shadow, the environment's
// turn, pictures on things, track points.
import { segment } from '../../core/match/project'
import { sunFromShadow } from '../../core/match/sun'
import { identifier } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { noMatch } from '../../core/shot/match'
import { addStandIn } from '../../core/shot/objects'
import { cameraAt } from '../../core/shot/scene'
import { inverseOf, transformPoint } from '../../core/scene/vector'
import { Drawing } from '~/composables/drawing'
import { usePins } from '~/composables/pins'
import { usePulls } from '~/composables/pulls'
import { useKnownPoints } from '~/composables/knownPoints'
import { usePlacing } from '~/composables/placing'
import { useSceneDrags } from '~/composables/sceneDrags'
import { useSceneEdges } from '~/composables/sceneEdges'
import { useTrackPoints } from '~/composables/trackPoints'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { PreviewPicture, SceneInfo } from '~/workers/messages'

const props = defineProps<{
  info: SceneInfo | null
  zoom: number
  preview: Pick<PreviewPicture, 'width' | 'height' | 'depth' | 'ids' | 'names'> | null
}>()
const shot = useShot()
const view = useView()
const svg = ref<SVGSVGElement>()
const pointer = ref<{ u: number; v: number } | null>(null)
const drawing = shallowRef<Drawing | null>(null)
const clicks = ref<{ u: number; v: number }[]>([])
const frame = computed(() => shot.document!.frame)
const aspect = computed(() => frame.value.width / frame.value.height)
const camera = computed(() => cameraAt(shot.document!.scene.camera, shot.frame))
const unit = computed(() => 1 / props.zoom)
const px = (u: number): number => u * frame.value.width
const py = (v: number): number => v * frame.value.height
const place = (event: PointerEvent | MouseEvent): { u: number; v: number } => {
  const bounds = svg.value!.getBoundingClientRect()
  return { u: (event.clientX - bounds.left) / bounds.width, v: (event.clientY - bounds.top) / bounds.height }
}
const pixel = ({ u, v }: { u: number; v: number }): [number, number] => [
  Math.round(px(u) * 100) / 100,
  Math.round(py(v) * 100) / 100,
]
const SHAPES = new Set(['box', 'cylinder', 'plane', 'ball', 'profile', 'outline'])
const active = computed(() => view.sceneTool !== null && view.sceneTool !== 'lens')
const thing = computed(() => props.info?.objects.find(object => object.name === view.picked[0]) ?? null)
watch(
  () => [view.sceneTool, shot.frame],
  () => {
    drawing.value = null
    clicks.value = []
    view.knownPoint = ''
  },
)

const { edgePath, corner } = useSceneEdges({
  info: () => props.info,
  preview: () => props.preview,
  zoom: () => props.zoom,
  camera,
  aspect,
  frame,
  pointer,
})

// Stand-ins
const ghost = computed(() =>
  drawing.value && pointer.value
    ? drawing.value.ghost(pointer.value).flatMap(([a, b]) => {
        const line = segment(camera.value, aspect.value, a, b)
        return line ? [line] : []
      })
    : [],
)
function finish(made: ReturnType<Drawing['click']>) {
  if (!made) {
    drawing.value =
      drawing.value &&
      Object.assign(Object.create(Object.getPrototypeOf(drawing.value) as object) as Drawing, drawing.value)
    return
  }
  let name = ''
  shot.change(`Draw a ${made.shape.shape}`, document => {
    name = addStandIn(document, props.info?.fileNames ?? [], made.shape, made.place, made.heading)
  })
  drawing.value = null
  view.sceneTool = null
  view.picked = [name]
}
function end() {
  try {
    if (drawing.value) finish(drawing.value.end())
  } catch (error) {
    shot.message = (error as Error).message
  }
}
function keys(event: KeyboardEvent) {
  if (event.key === 'Enter' && drawing.value) {
    event.preventDefault()
    end()
  }
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))

const { trackPoints, setOnPoint } = useTrackPoints({ thing, camera, aspect })

const { putThing, setByGrey } = usePlacing({ info: () => props.info, preview: () => props.preview, camera, aspect })
const { pins, pinErrors, solvePins, grabPin, dragPin } = usePins({
  thing,
  camera,
  aspect,
  frame,
  pixelOf: event => pixel(place(event)),
})
const { grips, grabCorner, dragCorner } = usePulls({ thing, camera, aspect, place })
const { grabKnown, dragKnown } = useKnownPoints(event => pixel(place(event)))
const { poleShadow, down, move } = useSceneDrags({ info: () => props.info, active, place, camera, aspect, pointer })
function click(event: MouseEvent) {
  const tool = view.sceneTool
  if (!tool || !active.value || event.altKey) return
  event.stopPropagation()
  const at = place(event)
  try {
    if (SHAPES.has(tool)) {
      drawing.value ??= new Drawing(tool as Drawing['shape'], camera.value, aspect.value, view.snapMetres)
      finish(drawing.value.click(at))
    } else if (tool === 'put') {
      putThing(at)
    } else if (tool === 'grey') {
      void setByGrey(at)
    } else if (tool === 'sun') {
      clicks.value = [...clicks.value, at]
      if (clicks.value.length < 3) return
      const [foot, top, tip] = clicks.value as [typeof at, typeof at, typeof at]
      clicks.value = []
      const found = sunFromShadow(camera.value, aspect.value, foot, top, tip)
      shot.change('Sun from a shadow', document => {
        const suns = inOrder(document.scene.lights).filter(entry => entry.kind === 'sun')
        const sun = suns.find(entry => entry.on) ?? suns[0]
        if (sun) {
          sun.azimuth = Number(found.azimuth.toFixed(2))
          sun.elevation = Number(found.elevation.toFixed(2))
        }
      })
      shot.message = `The sun stands ${found.elevation.toFixed(1)}° high; the thing is ${found.height.toFixed(2)} m tall.`
      view.sceneTool = null
    } else if (tool === 'known') {
      if (view.knownPoint) {
        const id = view.knownPoint
        shot.change('Place of a known point', document => {
          const point = document.match?.points?.[id]
          if (point) point.pixel = pixel(at)
        })
        view.knownPoint = ''
        return
      }
      const found = corner.value
      if (!found) throw new Error('No corner of the scene is near: click where two of its edges meet.')
      const id = identifier()
      shot.change('A known point', document => {
        const points = ((document.match ??= noMatch()).points ??= {})
        addRow(points, {
          id,
          name: `point ${inOrder(points).length + 1}`,
          world: found.point.map(value => Math.round(value * 1e4) / 1e4) as [number, number, number],
          pixel: pixel(found),
        })
      })
      view.knownPoint = id
    } else if (tool === 'pin') {
      const object = thing.value
      const found = corner.value
      if (!object) throw new Error('Choose a thing to pin first.')
      if (!found) throw new Error('No corner of it is near: click where two of its edges meet.')
      const local = transformPoint(inverseOf(object.matrix), found.point).map(
        value => Math.round(value * 1e5) / 1e5,
      ) as [number, number, number]
      if (pins.value.some(pin => Math.hypot(...pin.local.map((value, k) => value - local[k]!)) < 1e-3)) return
      solvePins(false, own => {
        addRow((own.pins ??= {}), { id: identifier(), local, pixel: pixel(found) })
      })
    }
  } catch (error) {
    shot.message = (error as Error).message
    if (SHAPES.has(tool) && drawing.value && !drawing.value.ground.length) drawing.value = null
  }
}
</script>

<template>
  <svg
    ref="svg"
    class="over-picture"
    :class="{ tool: active }"
    :viewBox="`0 0 ${frame.width} ${frame.height}`"
    preserveAspectRatio="none"
    data-test="tool-overlay"
    @pointerdown="down"
    @pointermove="move($event)"
    @pointerup="move($event, true)"
    @click="click"
    @dblclick.stop="end"
    @pointerleave="pointer = null"
  >
    <path v-if="edgePath" :d="edgePath" class="edges" vector-effect="non-scaling-stroke" />
    <g
      v-for="point in trackPoints"
      :key="point.name"
      :transform="`translate(${px(point.u)} ${py(point.v)}) scale(${unit})`"
      class="point"
      :class="{ live: view.sceneTool === 'track' }"
      :data-test="`track-point`"
      @click.stop="view.sceneTool === 'track' && setOnPoint(point)"
    >
      <circle v-if="view.sceneTool === 'track'" r="10" class="grab" />
      <path d="M-3 0h6M0 -3v6" />
      <title>{{ point.name }}: {{ point.metres.toFixed(2) }} m</title>
    </g>
    <line
      v-for="(line, index) in ghost"
      :key="index"
      :x1="px(line[0])"
      :y1="py(line[1])"
      :x2="px(line[2])"
      :y2="py(line[3])"
      class="ghost"
      vector-effect="non-scaling-stroke"
    />
    <template v-if="view.scenePart === 'camera'">
      <g
        v-for="(point, index) in inOrder(shot.document!.match?.points)"
        :key="point.id"
        :transform="`translate(${point.pixel[0]} ${point.pixel[1]}) scale(${unit})`"
        class="known"
        :class="{ now: view.knownPoint === point.id, still: view.sceneTool === 'known' }"
        role="button"
        :aria-label="`Known point ${index + 1}`"
        @pointerdown="grabKnown($event, point.id)"
        @pointermove="dragKnown"
        @pointerup="dragKnown($event, true)"
        @click.stop
      >
        <circle r="11" class="grab" />
        <circle r="4" />
        <text x="8" y="4">{{ index + 1 }}</text>
      </g>
    </template>
    <template v-if="view.sceneTool === 'pin' && thing">
      <g
        v-for="(pin, index) in pins"
        :key="pin.id"
        :transform="`translate(${pin.pixel[0]} ${pin.pixel[1]}) scale(${unit})`"
        class="known"
        role="button"
        :aria-label="`Pin ${index + 1}`"
        data-test="pin-handle"
        @pointerdown="grabPin($event, pin.id)"
        @pointermove="dragPin"
        @pointerup="dragPin($event, true)"
        @click.stop
      >
        <circle r="11" class="grab" />
        <path d="M0 0V-13" />
        <circle cy="-15" r="4.5" />
        <text x="8" y="-11">{{ pinErrors[index]! > 0.5 ? `${pinErrors[index]!.toFixed(1)} px` : '' }}</text>
      </g>
    </template>
    <g
      v-for="{ corner: number, u, v } in grips"
      :key="number"
      :transform="`translate(${px(u)} ${py(v)}) scale(${unit})`"
      class="known"
      role="button"
      :aria-label="`Corner ${number + 1}`"
      :data-test="`corner-${number}`"
      @pointerdown="grabCorner($event, number)"
      @pointermove="dragCorner"
      @pointerup="dragCorner($event, true)"
      @click.stop
    >
      <circle r="11" class="grab" />
      <rect x="-4" y="-4" width="8" height="8" />
    </g>
    <g v-if="corner" :transform="`translate(${px(corner.u)} ${py(corner.v)}) scale(${unit})`">
      <circle r="7" class="corner" />
    </g>
    <g
      v-for="(at, index) in clicks"
      :key="`c${index}`"
      :transform="`translate(${px(at.u)} ${py(at.v)}) scale(${unit})`"
      class="known"
    >
      <circle r="4" />
      <text x="8" y="4">{{ ['foot', 'top', 'tip'][index] }}</text>
    </g>
    <template v-if="view.sceneTool === 'environment' && poleShadow">
      <line
        v-if="poleShadow.pole"
        :x1="px(poleShadow.pole[0])"
        :y1="py(poleShadow.pole[1])"
        :x2="px(poleShadow.pole[2])"
        :y2="py(poleShadow.pole[3])"
        class="ghost"
        vector-effect="non-scaling-stroke"
      />
      <line
        v-if="poleShadow.shadow"
        :x1="px(poleShadow.shadow[0])"
        :y1="py(poleShadow.shadow[1])"
        :x2="px(poleShadow.shadow[2])"
        :y2="py(poleShadow.shadow[3])"
        class="cast"
        vector-effect="non-scaling-stroke"
      />
    </template>
  </svg>
</template>

<style scoped>
.edges {
  fill: none;
  stroke: #fff;
  stroke-width: 1;
  stroke-opacity: 0.8;
  filter: drop-shadow(0 0 0.8px #000);
}
.ghost {
  stroke: #fff;
  stroke-width: 1.8;
  filter: drop-shadow(0 0 1px #000);
}
.cast {
  stroke: #000;
  stroke-opacity: 0.6;
  stroke-width: 5;
  stroke-linecap: round;
}
.point {
  pointer-events: none;
}
.point.live {
  pointer-events: auto;
  cursor: pointer;
}
.point path {
  stroke: #fff;
  stroke-width: 1.3;
  filter: drop-shadow(0 0 0.8px #000);
}
.known {
  pointer-events: auto;
  cursor: move;
  touch-action: none;
}
.known circle,
.known rect {
  fill: #fff;
  stroke: #0009;
}
.known path {
  stroke: #fff;
  stroke-width: 1.6;
}
.known .grab,
.point .grab {
  fill: transparent;
  stroke: none;
}
.known.now circle:not(.grab) {
  fill: var(--mark);
}
.known.still {
  pointer-events: none;
}
.corner {
  fill: none;
  stroke: #fff;
  stroke-width: 2;
  filter: drop-shadow(0 0 1px #000);
}
</style>
