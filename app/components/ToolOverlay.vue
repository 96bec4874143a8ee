<script setup lang="ts">
// Tools that act on the picture of the scene: stand-ins, known points, pins, the sun from a shadow, the environment's
// turn, pictures on things, track points.
import { onLevel, placeAt, project, rayThrough, segment } from '../../core/match/project'
import { pinObject } from '../../core/match/pin'
import { sunFromShadow } from '../../core/match/sun'
import type { CameraTrack } from '../../core/track/track'
import { identifier, type ObjectSettings } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { noMatch } from '../../core/shot/match'
import { putOn } from '../../core/shot/fit'
import { addStandIn, groupOf } from '../../core/shot/objects'
import { cameraAt } from '../../core/shot/scene'
import { setLayerOnPoint } from '../../core/shot/track'
import { degreesFromRotation, inverseOf, transformPoint, type Vector3 } from '../../core/scene/vector'
import { valueAt, withValue, type Animatable } from '../../core/time/curve'
import { Drawing } from '~/composables/drawing'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { ObjectEdges, PreviewPicture, SceneInfo } from '~/workers/messages'

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

// Edges: to see them over the plate, and their ends to click on
const edges = shallowRef<ObjectEdges[]>([])
const wantsEdges = computed(() =>
  view.sceneEdges ? 'all' : view.sceneTool === 'known' ? 'all' : view.sceneTool === 'pin' ? (view.picked[0] ?? '') : '',
)
watch(
  () =>
    JSON.stringify([
      wantsEdges.value,
      shot.document?.scene.objects,
      shot.document?.scene.file?.blob,
      shot.document?.scene.added,
      shot.frame,
      props.info?.objects.length,
    ]),
  async () => {
    if (!wantsEdges.value) {
      edges.value = []
      return
    }
    const names =
      wantsEdges.value === 'all'
        ? (props.info?.objects ?? []).filter(object => !object.absent).map(object => object.name)
        : [wantsEdges.value]
    edges.value = await engine.edges(shot.document!, shot.frame, names).catch(() => [])
  },
  { immediate: true },
)
/** Whether a place of the world is what the picture shows there, not something behind it. */
function seen(point: Vector3): boolean {
  const { u, v, metres } = project(camera.value, aspect.value, point)
  const { preview } = props
  if (!(metres > 0.02) || u < 0 || v < 0 || u >= 1 || v >= 1) return false
  if (!preview) return true
  for (const dy of [-1, 0, 1]) {
    for (const dx of [-1, 0, 1]) {
      const x = Math.floor(u * preview.width) + dx
      const y = Math.floor(v * preview.height) + dy
      if (
        x >= 0 &&
        y >= 0 &&
        x < preview.width &&
        y < preview.height &&
        metres < preview.depth[y * preview.width + x]! * 1.01 + 0.01
      )
        return true
    }
  }
  return false
}
const edgePath = computed(() => {
  const parts: string[] = []
  if (!view.sceneEdges) return ''
  for (const { lines } of edges.value) {
    for (let i = 0; i < lines.length; i += 6) {
      const a: Vector3 = [lines[i]!, lines[i + 1]!, lines[i + 2]!]
      const b: Vector3 = [lines[i + 3]!, lines[i + 4]!, lines[i + 5]!]
      const middle: Vector3 = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2]
      if (!seen(middle) && !(seen(a) && seen(b))) continue
      const line = segment(camera.value, aspect.value, a, b)
      // Crumbs only clutter
      if (line && Math.hypot(px(line[0] - line[2]), py(line[1] - line[3])) * props.zoom > 5)
        parts.push(
          `M${px(line[0]).toFixed(1)} ${py(line[1]).toFixed(1)}L${px(line[2]).toFixed(1)} ${py(line[3]).toFixed(1)}`,
        )
    }
  }
  return parts.join('')
})
/** The corner of the scene nearest to the pointer. */
const corner = computed((): { point: Vector3; u: number; v: number } | null => {
  const at = pointer.value
  if (!at || !(view.sceneTool === 'pin' || (view.sceneTool === 'known' && !view.knownPoint))) return null
  let best: { point: Vector3; u: number; v: number } | null = null
  let nearest = 12 / props.zoom
  for (const { lines } of edges.value) {
    for (let i = 0; i < lines.length; i += 3) {
      const point: Vector3 = [lines[i]!, lines[i + 1]!, lines[i + 2]!]
      const p = project(camera.value, aspect.value, point)
      const far = Math.hypot(px(p.u - at.u), py(p.v - at.v))
      if (p.metres > 0.02 && far < nearest && seen(point)) {
        nearest = far
        best = { point, u: p.u, v: p.v }
      }
    }
  }
  return best
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

// Points of the track
const track = shallowRef<CameraTrack | null>(null)
watch(
  () => shot.document?.scene.track?.blob,
  async blob => {
    track.value = blob ? await engine.track(shot.document!, blob).catch(() => null) : null
  },
  { immediate: true },
)
const trackPoints = computed(() =>
  view.trackPoints && track.value
    ? track.value.points
        .map(point => ({ ...point, ...project(camera.value, aspect.value, point.place) }))
        .filter(point => point.metres > 0.05 && point.u > -0.05 && point.u < 1.05 && point.v > -0.05 && point.v < 1.05)
    : [],
)
function setOnPoint(point: { name: string; place: Vector3; metres: number }) {
  const layer = shot.document!.build.layers[view.selectedLayer]
  if (thing.value) {
    const own = thing.value
    shot.change(`${own.name} on ${point.name}`, document => putOn(document, [own], point.place, 1, shot.frame))
  } else if (layer?.kind === 'picture') {
    try {
      shot.change(`${layer.name} on ${point.name}`, document => {
        const found = document.build.layers[layer.id]
        if (found?.kind === 'picture') setLayerOnPoint(document, found, point.place, shot.frame)
      })
    } catch (error) {
      shot.message = (error as Error).message
      return
    }
  } else {
    shot.message = 'Choose a thing (under Things) or a picture layer (in Build) first: it is then set on the point.'
    return
  }
  view.sceneTool = null
}

/** Sets the picked thing, with its group, on what is seen at a place of the picture, or on the ground there. */
function putThing({ u, v }: { u: number; v: number }) {
  const name = view.picked[0]
  if (!name) throw new Error('Choose the thing that is put there first.')
  const group = groupOf(shot.document!, name)
  const { preview } = props
  const pixelAt = preview ? Math.floor(v * preview.height) * preview.width + Math.floor(u * preview.width) : 0
  const under = preview?.ids[pixelAt] ? preview.names[preview.ids[pixelAt]! - 1]! : ''
  const metres = preview?.depth[pixelAt] ?? Infinity
  const onThing = under && !group.includes(under) && Number.isFinite(metres)
  const place = onThing
    ? placeAt(camera.value, aspect.value, u, v, metres)
    : onLevel(camera.value, aspect.value, u, v, 0)
  if (!place) throw new Error('There is no ground there: click below the horizon, or on a thing.')
  const things = (props.info?.objects ?? []).filter(entry => group.includes(entry.name))
  shot.change(`Put ${name}`, document => {
    putOn(document, things, place, 1, shot.frame)
  })
  view.sceneTool = null
}

/** Sets the panorama's strength so that a grey of the scene would be as bright as the one clicked in the plate. */
async function setByGrey({ u, v }: { u: number; v: number }) {
  const [x, , z] = rayThrough(camera.value, aspect.value, u, v)
  const level = Math.hypot(x, z)
  const normal: Vector3 = view.greyUpright && level > 1e-6 ? [-x / level, 0, -z / level] : [0, 1, 0]
  try {
    const by = await engine.greyCard(shot.document!, shot.frame, { u, v, reflects: view.greyPercent / 100, normal })
    shot.change('Brightness of the environment', document => {
      const environment = document.scene.environment!
      const to = Math.min(20, Math.max(-20, valueAt(environment.stops, shot.frame) + by))
      environment.stops = withValue(environment.stops, shot.frame, Math.round(to * 1000) / 1000)
    })
    shot.message = `The panorama is ${Math.abs(by).toFixed(2)} stops ${by < 0 ? 'darker' : 'brighter'} now: what reflects ${view.greyPercent} % is as bright as there.`
    view.sceneTool = null
  } catch (error) {
    shot.message = (error as Error).message
  }
}

// Pins
const pins = computed(() => inOrder(thing.value ? shot.document!.scene.objects[thing.value.name]?.pins : undefined))
const pinErrors = computed(() =>
  pins.value.map(pin => {
    const p = project(camera.value, aspect.value, transformPoint(thing.value!.matrix, pin.local))
    return Math.hypot(px(p.u) - pin.pixel[0], py(p.v) - pin.pixel[1])
  }),
)
function solvePins(live: boolean, mutate: (settings: ObjectSettings) => void) {
  const object = thing.value
  if (!object) return
  shot.change(
    `Pin ${object.name}`,
    document => {
      const own = (document.scene.objects[object.name] ??= {})
      mutate(own)
      const list = inOrder(own.pins)
      if (!list.length) return
      const found = pinObject(
        camera.value,
        aspect.value,
        object.matrix,
        list.map(pin => ({
          local: pin.local,
          u: pin.pixel[0] / frame.value.width,
          v: pin.pixel[1] / frame.value.height,
        })),
        { turning: view.pinTurn, scaling: view.pinScale },
      )
      const { heading, tilt, bank } = degreesFromRotation(
        found.matrix.map((value, i) =>
          i < 12 ? value / Math.max(1e-9, Math.hypot(...found.matrix.slice(i - (i % 4), i - (i % 4) + 3))) : value,
        ),
      )
      const at = shot.frame
      const round = (value: number, digits: number): number => Number(value.toFixed(digits))
      const keyed = (before: Animatable | undefined, to: number): Animatable => withValue(before ?? to, at, to)
      own.position = ([0, 1, 2] as const).map(k => keyed(own.position?.[k], round(found.matrix[12 + k]!, 4))) as [
        Animatable,
        Animatable,
        Animatable,
      ]
      if (view.pinTurn && list.length > 1)
        own.rotation = [heading, tilt, bank].map((value, k) => keyed(own.rotation?.[k], round(value, 3))) as [
          Animatable,
          Animatable,
          Animatable,
        ]
      if (view.pinScale && list.length > 1)
        own.scale = keyed(own.scale, round(valueAt(own.scale ?? 1, at) * found.scale, 5))
    },
    live,
  )
}
let heldPin = ''
function grabPin(event: PointerEvent, id: string) {
  if (event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  heldPin = id
  view.dragging = true
}
function dragPin(event: PointerEvent, last = false) {
  if (!heldPin) return
  event.stopPropagation()
  const id = heldPin
  const to = pixel(place(event))
  if (last) {
    heldPin = ''
    view.dragging = false
  }
  solvePins(!last, own => {
    const pin = own.pins?.[id]
    if (pin) pin.pixel = to
  })
}
let heldKnown = ''
function grabKnown(event: PointerEvent, id: string) {
  if (event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  heldKnown = id
}
function dragKnown(event: PointerEvent, last = false) {
  if (!heldKnown) return
  event.stopPropagation()
  const id = heldKnown
  const to = pixel(place(event))
  if (last) heldKnown = ''
  shot.change(
    'Move a known point',
    document => {
      const point = document.match?.points?.[id]
      if (point) point.pixel = to
    },
    !last,
  )
}

// Turning the environment by a shadow, and dragging a laid-on picture
const poleFoot = ref<Vector3 | null>(null)
let grab:
  | { kind: 'environment'; foot: Vector3; start: number; turn: Animatable }
  | { kind: 'print'; u: number; v: number; shiftX: number; shiftY: number }
  | null = null
const bearing = (from: Vector3, to: Vector3): number =>
  (Math.atan2(to[0] - from[0], -(to[2] - from[2])) * 180) / Math.PI
const mainLight = ref<{ azimuth: number; elevation: number } | null>(null)
watch(
  () => view.sceneTool,
  async tool => {
    poleFoot.value = null
    if (tool === 'environment') {
      mainLight.value = await engine.mainLight(shot.document!).catch(() => null)
    }
  },
)
const poleShadow = computed(() => {
  const foot = poleFoot.value
  const environment = shot.document!.scene.environment
  if (!foot || !environment || !mainLight.value) return null
  const azimuth = ((mainLight.value.azimuth + valueAt(environment.turn, shot.frame)) * Math.PI) / 180
  const long = view.poleMetres / Math.tan((Math.max(8, mainLight.value.elevation) * Math.PI) / 180)
  const tip: Vector3 = [foot[0] - Math.sin(azimuth) * long, 0, foot[2] + Math.cos(azimuth) * long]
  return {
    pole: segment(camera.value, aspect.value, foot, [foot[0], view.poleMetres, foot[2]]),
    shadow: segment(camera.value, aspect.value, foot, tip),
    tip,
  }
})

function down(event: PointerEvent) {
  if (event.button !== 0 || !active.value || event.altKey) return
  event.stopPropagation()
  const at = place(event)
  const tool = view.sceneTool!
  if (tool === 'environment') {
    const foot = onLevel(camera.value, aspect.value, at.u, at.v, 0)
    const environment = shot.document!.scene.environment
    if (!foot || !environment) {
      shot.message = 'Press on the ground, below the horizon.'
      return
    }
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    if (
      !poleFoot.value ||
      Math.hypot(foot[0] - (poleShadow.value?.tip[0] ?? 1e9), foot[2] - (poleShadow.value?.tip[2] ?? 1e9)) >
        Math.hypot(foot[0] - poleFoot.value[0], foot[2] - poleFoot.value[2])
    )
      poleFoot.value = foot
    grab = { kind: 'environment', foot: poleFoot.value, start: NaN, turn: environment.turn }
    view.dragging = true
  } else if (tool === 'print') {
    const print = shot.document!.scene.prints?.[view.selectedPrint]
    if (!print) return
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    grab = {
      kind: 'print',
      ...at,
      shiftX: valueAt(print.shiftX, shot.frame),
      shiftY: valueAt(print.shiftY, shot.frame),
    }
    view.dragging = true
  }
}
function move(event: PointerEvent, last = false) {
  pointer.value = place(event)
  if (!grab) return
  event.stopPropagation()
  const at = pointer.value
  const held = grab
  if (last) {
    grab = null
    view.dragging = false
  }
  if (held.kind === 'environment') {
    const to = onLevel(camera.value, aspect.value, at.u, at.v, 0)
    if (!to || Math.hypot(to[0] - held.foot[0], to[2] - held.foot[2]) < 0.05 || !mainLight.value) return
    // The shadow points away from the light
    const turn = bearing(held.foot, to) + 180 - mainLight.value.azimuth
    const wound = turn - Math.round((turn - valueAt(held.turn, shot.frame)) / 360) * 360
    shot.change(
      'Turn the environment',
      document => {
        document.scene.environment!.turn = withValue(held.turn, shot.frame, Math.round(wound * 10) / 10)
      },
      !last,
    )
  } else {
    const print = shot.document!.scene.prints?.[view.selectedPrint]
    const object = props.info?.objects.find(entry => entry.name === print?.on)
    if (!print || !object) return
    // Metres at the thing's distance into widths of the picture
    const middle: Vector3 = [0, 1, 2].map(k => (object.low[k]! + object.high[k]!) / 2) as Vector3
    const { metres } = project(camera.value, aspect.value, middle)
    const tangent = camera.value.sensorWidth / 2 / camera.value.focalLength
    const grown = Math.hypot(object.matrix[0]!, object.matrix[1]!, object.matrix[2]!)
    const width =
      print.from === 'front'
        ? valueAt(print.size, shot.frame) * grown
        : valueAt(print.size, shot.frame) * 2 * tangent * metres
    let dx = ((at.u - held.u) * 2 * tangent * metres) / width
    let dy = (((-(at.v - held.v) * 2 * tangent) / aspect.value) * metres) / width
    if (print.from === 'front') {
      // Seen from the side or behind, right is where the picture's right is
      const m = object.matrix
      const c = camera.value.matrix
      const along = (m[0]! * c[0]! + m[1]! * c[1]! + m[2]! * c[2]!) / grown
      dx = Math.abs(along) > 0.2 ? dx / along : dx
      dy = dy / Math.max(0.3, (m[4]! * c[4]! + m[5]! * c[5]! + m[6]! * c[6]!) / grown)
    }
    const turned = (-valueAt(print.turn, shot.frame) * Math.PI) / 180
    const cos = Math.cos(turned)
    const sin = Math.sin(turned)
    const x = dx * cos - dy * sin
    const y = dx * sin + dy * cos
    shot.change(
      'Shift a picture',
      document => {
        const found = document.scene.prints![print.id]!
        found.shiftX = withValue(print.shiftX, shot.frame, Math.round((held.shiftX + x) * 1e4) / 1e4)
        found.shiftY = withValue(print.shiftY, shot.frame, Math.round((held.shiftY + y) * 1e4) / 1e4)
      },
      !last,
    )
  }
}
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
    class="overlay"
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
.overlay {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  overflow: visible;
}
.overlay.tool {
  pointer-events: auto;
  cursor: crosshair;
  touch-action: none;
}
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
.known circle {
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
text {
  font: 11px var(--words);
  fill: #fff;
  paint-order: stroke;
  stroke: #000a;
  stroke-width: 2.5px;
  pointer-events: none;
}
</style>
