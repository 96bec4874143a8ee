<script setup lang="ts">
import { mdiCloseCircleOutline, mdiPlus } from '@mdi/js'
import { identifier, type CameraSettings, type LightSettings, type ObjectSettings } from '../../core/shot/document'
import type { Animatable } from '../../core/time/curve'
import type { Role } from '../../core/scene/scene'
import { engine } from '~/composables/engine'
import { bringPicture, bringScene } from '~/composables/bring'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null; samples: number }>()
const grid = defineModel<boolean>('grid', { required: true })
const shot = useShot(), view = useView()
const busy = ref('')
const scene = computed(() => shot.document!.scene)
const chosen = computed(() => props.info?.objects.find(object => object.name === view.picked[0]) ?? null)
const settings = computed<ObjectSettings>(() => (chosen.value && scene.value.objects[chosen.value.name]) || {})

async function bring(files: File[]) {
  busy.value = 'reading'
  try {
    const reference = await bringScene(files[0]!, share => { busy.value = `${Math.round(share * 100)} %` })
    const next = JSON.parse(JSON.stringify(shot.document)) as NonNullable<typeof shot.document>
    next.scene.file = reference
    // Read before it becomes part of the shot: a broken scene changes nothing
    await engine.sceneInfo(next, shot.frame)
    const camera = await engine.fileCamera(next)
    shot.change('New scene', document => { document.scene.file = reference; if (camera) document.scene.camera = camera })
  } catch (error) { shot.message = (error as Error).message }
  busy.value = ''
}
async function takeCamera(name: string) { const camera = await engine.fileCamera(shot.document!, name); if (camera) shot.change(`Camera of the file: ${name}`, document => { document.scene.camera = camera }) }
async function bringEnvironment(files: File[]) {
  try {
    const { reference } = await bringPicture(files[0]!)
    shot.change('New environment', document => { document.scene.environment = { ...reference, turn: 0, stops: 0, seen: false } })
  } catch (error) { shot.message = (error as Error).message }
}
const camera = (field: keyof CameraSettings, value: Animatable, live: boolean): void => shot.change('Camera', document => { document.scene.camera[field] = value }, live)
const object = (label: string, mutate: (settings: ObjectSettings) => void, live = false): void => { const name = chosen.value?.name; if (name) shot.change(`${label} ${name}`, document => { mutate(document.scene.objects[name] ??= {}) }, live) }
function setPart(field: 'position' | 'rotation', index: number, value: Animatable, live: boolean) { const current = chosen.value![field]; object(field === 'position' ? 'Move' : 'Turn', own => { const triple = own[field] ?? [...current]; triple[index] = value; own[field] = triple as [Animatable, Animatable, Animatable] }, live) }
/** Onto the ground, or onto what stands highest below its middle. */
function drop() {
  const object3 = chosen.value
  if (!object3) return
  const x = (object3.low[0] + object3.high[0]) / 2, z = (object3.low[2] + object3.high[2]) / 2
  const below = (props.info?.objects ?? []).filter(other => other.name !== object3.name && !other.absent && other.low[0] <= x && other.high[0] >= x && other.low[2] <= z && other.high[2] >= z && other.high[1] <= object3.low[1] + 0.02).map(other => other.high[1])
  const level = Math.max(0, ...below)
  object('Drop', own => { own.position = [object3.position[0], Number((object3.position[1] + level - object3.low[1]).toFixed(4)), object3.position[2]] })
}
const light = (id: string, mutate: (light: LightSettings) => void, live = false): void => shot.change('Light', document => { const found = document.scene.lights.find(entry => entry.id === id); if (found) mutate(found) }, live)
const addLight = (kind: 'sun' | 'box'): void => shot.change(kind === 'sun' ? 'Add a sun' : 'Add a soft box', document => { document.scene.lights.push({ id: identifier(), name: kind === 'sun' ? 'sun' : 'soft box', kind, on: true, azimuth: -40, elevation: 40, kelvin: 5600, stops: kind === 'sun' ? 1.5 : 5, diameter: 0.53, width: 0.6, height: 0.3, distance: 3, target: [0, 1, -5] }) })
const set = (id: string, field: string, value: Animatable, live: boolean): void => light(id, found => { (found as unknown as Record<string, unknown>)[field] = value }, live)
const LIGHT_FIELDS = (kind: string) => [
  { id: 'azimuth', label: 'from', help: 'Compass direction it comes from; 0 is ahead of the world.', low: -360, high: 360, step: 0.3, digits: 1, unit: 'deg' }, { id: 'elevation', label: 'height', help: 'Above the horizon.', low: -90, high: 90, step: 0.2, digits: 1, unit: 'deg' },
  { id: 'kelvin', label: 'colour', help: '5600 K is daylight (common practice).', low: 1667, high: 25000, step: 10, digits: 0, unit: 'K' }, { id: 'stops', label: 'strength', help: 'Each stop doubles it.', low: -20, high: 20, step: 0.02, digits: 2, unit: 'stops' },
  ...(kind === 'sun' ? [{ id: 'diameter', label: 'apparent size', help: 'The sun has 0.53 degrees; larger is softer.', low: 0.05, high: 90, step: 0.02, digits: 2, unit: 'deg' }] : [{ id: 'width', label: 'width', help: '', low: 0.01, high: 100, step: 0.005, digits: 2, unit: 'm' }, { id: 'height', label: 'height of the box', help: '', low: 0.01, high: 100, step: 0.005, digits: 2, unit: 'm' }, { id: 'distance', label: 'distance', help: 'From what it points at.', low: 0.05, high: 1000, step: 0.02, digits: 2, unit: 'm' }]),
]
const valueOf = (entry: LightSettings, id: string): Animatable => (entry as unknown as Record<string, Animatable>)[id]!
const CAMERA_FIELDS = [
  { id: 'focalLength', label: 'focal length', low: 4, high: 2000, step: 0.1, digits: 1, unit: 'mm' }, { id: 'sensorWidth', label: 'sensor width', low: 1, high: 200, step: 0.05, digits: 1, unit: 'mm' }, { id: 'y', label: 'height', low: -1000, high: 10000, step: 0.005, digits: 2, unit: 'm' }, { id: 'pitch', label: 'pitch', low: -90, high: 90, step: 0.05, digits: 2, unit: 'deg' }, { id: 'bank', label: 'bank', low: -180, high: 180, step: 0.02, digits: 2, unit: 'deg' }, { id: 'heading', label: 'heading', low: -360, high: 360, step: 0.1, digits: 2, unit: 'deg' }, { id: 'x', label: 'across', low: -10000, high: 10000, step: 0.01, digits: 2, unit: 'm' }, { id: 'z', label: 'along', low: -10000, high: 10000, step: 0.01, digits: 2, unit: 'm' },
] as const
const ROLES: { value: Role; title: string }[] = [{ value: 'object', title: 'object' }, { value: 'catcher', title: 'shadow catcher' }, { value: 'holdout', title: 'holdout' }]
</script>

<template>
  <div>
    <div class="panel"><div class="row"><h2 class="grow">Scene</h2><span v-if="samples" class="soft">{{ samples }} samples</span></div>
      <FileDrop accept=".glb,.gltf" label="Bring a scene" data-test="scene-file" @files="bring">{{ busy || (scene.file ? `${scene.file.name}: drop another, or click` : 'Drop a glTF 2.0 scene (.glb) here, or click. In the demo’s folder there is one.') }}</FileDrop>
      <p v-for="note in info?.notes ?? []" :key="note" class="soft">{{ note }}</p>
    </div>
    <div v-if="info?.objects.length" class="panel tight">
      <h3>Objects</h3>
      <button v-for="entry in info.objects" :key="entry.name" class="object" :class="{ on: view.picked[0] === entry.name, absent: entry.absent }" :data-test="`object-${entry.name}`" @click="view.picked = view.picked[0] === entry.name ? [] : [entry.name]"><span class="grow">{{ entry.name }}</span><span class="soft">{{ entry.absent ? 'left out' : entry.role === 'object' ? entry.hidden ? 'hidden' : '' : entry.role === 'catcher' ? 'shadow catcher' : 'holdout' }}</span></button>
    </div>
    <div v-if="chosen" class="panel">
      <h3>{{ chosen.name }}</h3>
      <p>stands at <ValueField v-for="i in 3" :key="i" :model-value="settings.position?.[i - 1] ?? chosen.position[i - 1]!" :label="['Across', 'Up', 'Along'][i - 1]!" :low="-10000" :high="10000" :step="0.01" class="gap" @change="(value, live) => setPart('position', i - 1, value, live)" /> m, turned <ValueField v-for="i in 3" :key="i" :model-value="settings.rotation?.[i - 1] ?? chosen.rotation[i - 1]!" :label="['Heading', 'Tilt', 'Bank'][i - 1]!" :low="-3600" :high="3600" :step="0.2" :digits="1" class="gap" @change="(value, live) => setPart('rotation', i - 1, value, live)" /> deg, scaled <ValueField :model-value="settings.scale ?? 1" label="Scale" :low="0.001" :high="1000" :step="0.003" :neutral="1" @change="(value, live) => object('Scale', own => { own.scale = value }, live)" />, {{ (chosen.high[1] - chosen.low[1]).toFixed(2) }} m tall</p>
      <div class="row"><v-select label="It is" :items="ROLES" :model-value="chosen.role" data-test="role" @update:model-value="value => object('Role of', own => { own.role = value })" /><v-btn size="small" data-test="drop" @click="drop">Drop to ground</v-btn></div>
      <label class="row"><input type="checkbox" :checked="chosen.hidden" @change="object('Hide', own => { own.hidden = !chosen!.hidden })"> hidden from the camera (still casts and reflects)</label>
      <label class="row"><input type="checkbox" :checked="chosen.absent" @change="object('Leave out', own => { own.absent = !chosen!.absent })"> left out</label>
      <button v-if="scene.objects[chosen.name]" class="word soft" @click="shot.change(`As in the file: ${chosen!.name}`, document => { delete document.scene.objects[chosen!.name] })">as it is in the file</button>
    </div>
    <div class="panel"><div class="row"><h3 class="grow">Camera</h3><label class="row soft"><input v-model="grid" type="checkbox" data-test="grid">metre grid</label></div>
      <ValueLine v-for="field in CAMERA_FIELDS" :key="field.id" :model-value="scene.camera[field.id]" v-bind="{ label: field.label, low: field.low, high: field.high, step: field.step, digits: field.digits, unit: field.unit }" :data-test="`camera-${field.id}`" @change="(value, live) => camera(field.id, value, live)" />
      <div v-if="info?.cameras.length" class="soft">from the file: <button v-for="name in info.cameras" :key="name" class="word" @click="takeCamera(name)">{{ name }}</button></div>
    </div>
    <MatchPanel v-if="shot.document!.plate" />
    <div class="panel"><h3>Light</h3>
      <div v-for="entry in scene.lights" :key="entry.id" class="light"><div class="row"><input type="checkbox" :checked="entry.on" :aria-label="`${entry.name} on or off`" @change="light(entry.id, found => { found.on = !found.on })"><b class="grow">{{ entry.name }}</b><v-btn :icon="mdiCloseCircleOutline" size="x-small" :aria-label="`Remove ${entry.name}`" @click="shot.change('Remove a light', document => { document.scene.lights = document.scene.lights.filter(other => other.id !== entry.id) })" /></div>
        <ValueLine v-for="field in LIGHT_FIELDS(entry.kind)" :key="field.id" :model-value="valueOf(entry, field.id)" v-bind="{ label: field.label, help: field.help, low: field.low, high: field.high, step: field.step, digits: field.digits, unit: field.unit }" @change="(value, live) => set(entry.id, field.id, value, live)" />
        <p v-if="entry.kind === 'box'" class="soft">points at <ValueField v-for="i in 3" :key="i" :model-value="entry.target[i - 1]!" :label="`Target ${'xyz'[i - 1]}`" :low="-10000" :high="10000" :step="0.01" class="gap" @change="(value, live) => light(entry.id, found => { found.target[i - 1] = value }, live)" /> m</p>
      </div>
      <div class="row"><v-btn size="small" :prepend-icon="mdiPlus" data-test="add-sun" @click="addLight('sun')">Sun</v-btn><v-btn size="small" :prepend-icon="mdiPlus" data-test="add-box" @click="addLight('box')">Soft box</v-btn></div>
      <label v-if="info?.lights.length" class="row"><input type="checkbox" :checked="scene.fileLights" @change="shot.change('Lights of the file', document => { document.scene.fileLights = !document.scene.fileLights })">the file’s own: {{ info.lights.join(', ') }}</label>
    </div>
    <div class="panel"><h3>Environment</h3>
      <FileDrop accept=".hdr,.exr,.png,.jpg" label="Bring an environment" data-test="environment-file" @files="bringEnvironment">{{ scene.environment?.name ?? 'Drop a panorama here (HDR or EXR): it lights the scene.' }}</FileDrop>
      <template v-if="scene.environment"><ValueLine :model-value="scene.environment.turn" label="turned" :low="-360" :high="360" :step="0.3" :digits="1" unit="deg" :neutral="0" @change="(value, live) => shot.change('Turn the environment', document => { document.scene.environment!.turn = value }, live)" /><ValueLine :model-value="scene.environment.stops" label="strength" :low="-20" :high="20" :step="0.02" unit="stops" :neutral="0" @change="(value, live) => shot.change('Strength of the environment', document => { document.scene.environment!.stops = value }, live)" /><label class="row"><input type="checkbox" :checked="scene.environment.seen" @change="shot.change('Environment in the picture', document => { document.scene.environment!.seen = !document.scene.environment!.seen })">seen by the camera</label><button class="word soft" @click="shot.change('No environment', document => { document.scene.environment = null })">without it</button></template>
    </div>
  </div>
</template>

<style scoped>.tight { gap: 0; } .object { display: flex; background: none; border: 0; font: inherit; color: inherit; text-align: left; padding: 2px 6px; border-radius: 4px; cursor: pointer; } .object:hover { background: var(--faint); } .object.on { background: var(--mark-tint); } .object.absent { opacity: .5; } .gap { margin-right: 7px; } .light + .light { border-top: 1px dashed var(--line); padding-top: 6px; } input[type=checkbox] { accent-color: var(--ink); }</style>
