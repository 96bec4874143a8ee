<script setup lang="ts">
// Light as on the set: lamps, the sun (from a shadow, or from place and hour).
import { mdiCloseCircleOutline, mdiPlus } from '@mdi/js'
import { sunInSky } from '../../core/match/sun'
import { identifier, type LightKind, type LightSettings } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { LIGHT } from '../../core/shot/schema/light'
import type { Animatable } from '../../core/time/curve'
import { lineProps, type FieldProps } from '~/composables/fields'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null }>()
const shot = useShot()
const view = useView()
const scene = computed(() => shot.document!.scene)
const lights = computed(() => inOrder(scene.value.lights))
const light = (id: string, mutate: (light: LightSettings) => void, live = false, label = 'Light'): void =>
  shot.change(
    label,
    document => {
      const found = document.scene.lights[id]
      if (found) mutate(found)
    },
    live,
  )
const KINDS: { kind: LightKind; label: string }[] = [
  { kind: 'sun', label: 'Sun' },
  { kind: 'box', label: 'Soft box' },
  { kind: 'disc', label: 'Disc' },
  { kind: 'tube', label: 'Tube' },
  { kind: 'ball', label: 'Ball' },
  { kind: 'spot', label: 'Spot' },
]
const labelOf = (kind: LightKind): string => KINDS.find(entry => entry.kind === kind)!.label.toLowerCase()
function addLight(kind: LightKind) {
  const name = labelOf(kind)
  const id = identifier()
  const size = {
    sun: [0.6, 0.3],
    box: [0.6, 0.3],
    disc: [0.5, 0.5],
    tube: [0.04, 1.2],
    ball: [0.2, 0.2],
    spot: [0.1, 0.1],
  }[kind] as [number, number]
  const stops = { sun: 1.5, box: 5, disc: 5, tube: 7, ball: 6, spot: 10 }[kind]
  const taken = new Set(lights.value.map(entry => entry.name))
  let free = name
  for (let count = 2; taken.has(free); count++) free = `${name} ${count}`
  shot.change(`Add a ${name}`, document => {
    addRow(document.scene.lights, {
      id,
      name: free,
      kind,
      on: true,
      azimuth: -40,
      elevation: 40,
      kelvin: 5600,
      stops,
      diameter: 0.53,
      width: size[0],
      height: size[1],
      distance: 3,
      target: [0, 1, -5],
      ...(kind === 'sun' ? { daylight: true } : {}),
      ...(kind === 'spot' ? { cone: 40, softness: 0.3 } : {}),
    })
  })
}
const FIELDS = LIGHT.fields
/** What is said of a light of its kind, in this order. */
function linesOf({ kind, unit }: LightSettings): ({ id: keyof LightSettings } & FieldProps)[] {
  const of = (id: Numeric, change: Partial<FieldProps> = {}) => ({ id, ...lineProps(FIELDS[id]), ...change })
  const colour = [of('azimuth'), of('elevation'), of('kelvin'), of('tint')]
  const sun = kind === 'sun'
  const strength = !unit
    ? of('stops')
    : of('amount', {
        unit: unit === 'lumen' ? (sun ? 'lux' : 'lm') : sun ? 'W/m²' : 'W',
        ...(sun ? { help: 'What arrives at right angles.' } : {}),
      })
  if (sun) return [...colour, strength, of('diameter')]
  return [
    ...colour,
    strength,
    of('width', { label: kind === 'box' ? 'width' : 'diameter' }),
    ...(kind === 'box' || kind === 'tube' ? [of('height', { label: kind === 'tube' ? 'length' : 'height' })] : []),
    of('distance'),
    ...(kind === 'spot' ? [of('cone'), of('softness')] : []),
  ]
}
type Numeric = {
  [K in keyof typeof FIELDS]: (typeof FIELDS)[K] extends { kind: 'number' } ? K : never
}[keyof typeof FIELDS]
const valueOf = (entry: LightSettings, { id, neutral }: { id: keyof LightSettings; neutral?: number }): Animatable =>
  (entry[id] as Animatable | undefined) ?? neutral ?? 0
const set = (id: string, field: string, value: Animatable, live: boolean): void =>
  light(
    id,
    found => {
      ;(found as unknown as Record<string, unknown>)[field] = value
    },
    live,
  )
function setUnit(id: string, unit: string) {
  light(
    id,
    found => {
      if (unit === 'stops') delete found.unit
      else {
        found.unit = unit as 'lumen'
        found.amount ??= unit === 'lumen' ? (found.kind === 'sun' ? 20000 : 1000) : found.kind === 'sun' ? 3 : 10
      }
    },
    false,
    'Unit of a light',
  )
}

// The sun from place, date and hour
const sky = reactive({
  open: false,
  latitude: '61.2',
  longitude: '-1.3',
  when: new Date().toISOString().slice(0, 16),
  zone: '0',
  north: '0',
  fault: '',
})
function fromSky(id: string) {
  try {
    const number = (text: string, what: string): number => {
      const value = Number(text.replace(',', '.'))
      if (text.trim() === '' || !Number.isFinite(value)) throw new Error(`${what} “${text}” is no number.`)
      return value
    }
    const local = new Date(`${sky.when}:00Z`)
    const when = new Date(local.getTime() - number(sky.zone, 'The time zone') * 3600000)
    const found = sunInSky(number(sky.latitude, 'Latitude'), number(sky.longitude, 'Longitude'), when)
    const north = number(sky.north, 'North')
    if (found.elevation < -0.8) throw new Error(`The sun is ${(-found.elevation).toFixed(1)}° below the horizon then.`)
    light(
      id,
      entry => {
        entry.azimuth = Number((found.azimuth + north).toFixed(3))
        entry.elevation = Number(found.elevation.toFixed(3))
      },
      false,
      'Sun from place and hour',
    )
    sky.fault = ''
  } catch (error) {
    sky.fault = (error as Error).message
  }
}
const takeSun = (): void => {
  view.sceneTool = view.sceneTool === 'sun' ? null : 'sun'
  view.matchTool = null
}
</script>

<template>
  <div>
    <div class="panel">
      <h3>Lamps and sun</h3>
      <div v-for="entry in lights" :key="entry.id" class="light" :data-test="`light-${entry.kind}`">
        <div class="row">
          <input
            type="checkbox"
            :checked="entry.on"
            :aria-label="`${entry.name} on or off`"
            @change="
              light(entry.id, found => {
                found.on = !found.on
              })
            "
          /><b class="grow">{{ entry.name }}</b
          ><v-btn
            :icon="mdiCloseCircleOutline"
            size="x-small"
            :aria-label="`Remove ${entry.name}`"
            @click="
              shot.change('Remove a light', document => {
                delete document.scene.lights[entry.id]
              })
            "
          />
        </div>
        <ValueLine
          v-for="{ id, ...field } in linesOf(entry)"
          :key="id"
          :model-value="valueOf(entry, { id, neutral: field.neutral })"
          v-bind="field"
          :data-test="`light-${id}`"
          @change="(value, live) => set(entry.id, id, value, live)"
        />
        <p class="soft">
          said in
          <select
            class="word"
            :value="entry.unit ?? 'stops'"
            aria-label="Unit of its strength"
            data-test="light-unit"
            @change="setUnit(entry.id, ($event.target as HTMLSelectElement).value)"
          >
            <option value="stops">stops</option>
            <option value="lumen">{{ entry.kind === 'sun' ? 'lux' : 'lumen' }}</option>
            <option value="watt">{{ entry.kind === 'sun' ? 'W/m²' : 'watt' }}</option></select
          >, the colour of
          <select
            class="word"
            :value="entry.daylight ? 'day' : 'lamp'"
            aria-label="Kind of its colour"
            @change="
              light(entry.id, found => {
                found.daylight = ($event.target as HTMLSelectElement).value === 'day'
              })
            "
          >
            <option value="lamp">a glowing body</option>
            <option value="day">daylight</option>
          </select>
        </p>
        <p class="soft">
          where light is told apart it counts as
          <WordField
            class="word group"
            :value="entry.group ?? entry.name"
            aria-label="Group of lights"
            title="Lamps of one group share a pass and a fader on the desk"
            data-test="light-group"
            @change="
              light(
                entry.id,
                found => {
                  const group = ($event.target as HTMLInputElement).value.trim().slice(0, 60)
                  if (group && group !== found.name) found.group = group
                  else delete found.group
                },
                false,
                'Group of a light',
              )
            "
          />
        </p>
        <p v-if="entry.kind !== 'sun'" class="soft">
          points at
          <select
            class="word"
            :value="entry.aim ?? ''"
            aria-label="Points at"
            data-test="light-aim"
            @change="
              light(entry.id, found => {
                const aim = ($event.target as HTMLSelectElement).value
                if (aim) found.aim = aim
                else delete found.aim
              })
            "
          >
            <option value="">a place</option>
            <option v-for="object in props.info?.objects ?? []" :key="object.name" :value="object.name">
              {{ object.name }}
            </option></select
          ><template v-if="!entry.aim">
            <ValueField
              v-for="i in 3"
              :key="i"
              :model-value="entry.target[i - 1]!"
              :label="`Target ${'xyz'[i - 1]}`"
              :low="-10000"
              :high="10000"
              :step="0.01"
              class="gap"
              @change="
                (value, live) =>
                  light(
                    entry.id,
                    found => {
                      found.target[i - 1] = value
                    },
                    live,
                  )
              "
            />
            m</template
          >
        </p>
        <template v-else
          ><div class="row">
            <v-btn
              size="small"
              :variant="view.sceneTool === 'sun' ? 'tonal' : 'text'"
              data-test="sun-shadow"
              @click="takeSun()"
              >From a shadow</v-btn
            ><v-btn
              size="small"
              :variant="sky.open ? 'tonal' : 'text'"
              data-test="sun-sky"
              @click="sky.open = !sky.open"
              >From place and hour</v-btn
            >
          </div>
          <p v-if="view.sceneTool === 'sun'" class="soft">
            Click the foot of something upright in the plate, its top, then the tip of its shadow on the ground.
          </p>
          <div v-if="sky.open" class="sky">
            <label>latitude <input v-model="sky.latitude" data-test="sky-latitude" @keydown.stop /></label
            ><label>longitude <input v-model="sky.longitude" data-test="sky-longitude" @keydown.stop /></label
            ><label class="wide"
              >date and hour
              <input v-model="sky.when" type="datetime-local" data-test="sky-when" @keydown.stop /></label
            ><label>hours ahead of UTC <input v-model="sky.zone" data-test="sky-zone" @keydown.stop /></label
            ><label
              >north lies at
              <input v-model="sky.north" title="Degrees of the world’s compass: 0 is ahead" @keydown.stop /></label
            ><v-btn size="small" color="primary" data-test="sky-use" @click="fromSky(entry.id)">Set the sun so</v-btn>
            <p v-if="sky.fault" class="warn wide" role="alert">{{ sky.fault }}</p>
          </div></template
        >
      </div>
      <div class="row wrap">
        <v-btn
          v-for="entry in KINDS"
          :key="entry.kind"
          size="small"
          :prepend-icon="mdiPlus"
          :data-test="`add-${entry.kind}`"
          @click="addLight(entry.kind)"
          >{{ entry.label }}</v-btn
        >
      </div>
      <label v-if="info?.lights.length" class="row"
        ><input
          type="checkbox"
          :checked="scene.fileLights"
          @change="
            shot.change('Lights of the file', document => {
              document.scene.fileLights = !document.scene.fileLights
            })
          "
        />the file’s own: {{ info.lights.join(', ') }}</label
      >
    </div>
    <SceneEnvironment />
    <SceneAir :info="props.info" />
  </div>
</template>

<style scoped>
.gap {
  margin-right: 7px;
}
.light + .light {
  border-top: 1px dashed var(--line);
  padding-top: 6px;
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
.wrap {
  flex-wrap: wrap;
  gap: 2px;
}
p {
  margin: 2px 0;
}
.sky {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 5px 10px;
  font-size: 12.5px;
}
.sky .wide {
  grid-column: 1 / 3;
}
.sky label {
  display: flex;
  justify-content: space-between;
  gap: 6px;
}
.sky input {
  width: 70px;
  font: 12.5px var(--figures);
  border: 0;
  border-bottom: 1.5px solid var(--line);
  background: none;
  color: inherit;
}
.sky .wide input {
  width: 170px;
}
</style>
