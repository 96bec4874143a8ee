<script setup lang="ts">
// What is what in a set of passes from elsewhere: each of its layers says which pass it is.
import { COLOURED } from '../../core/render/layersOfFile'
import { BY_LIGHT, LIGHT_PARTS, lightLayer, PASSES } from '../../core/render/passes'
import type { SeenLayer } from '../../core/render/theirs'
import { depthFault } from '../../core/render/reading'
import type { DepthReading, PassReading } from '../../core/shot/document'
import { engine } from '~/composables/engine'
import { useReadings } from '~/composables/readings'
import type { PassDescription } from '~/workers/messages'

const { asked } = useReadings()
const open = computed({
  get: () => asked.value !== null,
  set: isOpen => {
    if (!isOpen) asked.value?.done(null)
  },
})
const reading = shallowRef<PassReading>({ takes: {} })
const told = shallowRef<Awaited<ReturnType<typeof engine.readSo>> | null>(null)
const fault = ref('')
const busy = ref(false)

/** What the file holds when it is read as is said now. */
let turn = 0
async function look() {
  const at = ++turn
  const { file } = asked.value ?? {}
  if (!file) return
  busy.value = true
  try {
    const found = await engine.readSo(file, reading.value)
    if (at !== turn) return
    told.value = found
    fault.value = ''
  } catch (error) {
    if (at !== turn) return
    told.value = null
    fault.value = (error as Error).message
  }
  busy.value = false
}
/** Milliseconds without another choice after which the file is read again. */
const PAUSE = 250
let waiting: ReturnType<typeof setTimeout> | undefined
function lookSoon() {
  clearTimeout(waiting)
  waiting = setTimeout(() => void look(), PAUSE)
}
onBeforeUnmount(() => clearTimeout(waiting))
watch(
  asked,
  one => {
    told.value = null
    if (!one) return
    reading.value = one.reading
    void look()
  },
  { immediate: true },
)
function change(next: PassReading) {
  reading.value = next
  busy.value = true
  lookSoon()
}

const CHOICES = PASSES.filter(
  ({ group, channels }) => ['Light', 'Shape', 'Names'].includes(group) && channels.length > 0 && channels.length < 4,
)
/** Passes that a layer of so many channels can be: as many, fewer, or a grey that stands for all. */
const choicesOf = ({ channels }: SeenLayer) =>
  CHOICES.filter(pass => channels.length === 1 || pass.channels.length <= channels.length)
const isPart = (pass: string): boolean => (LIGHT_PARTS as readonly string[]).includes(pass)
const isColoured = (pass: string | undefined): boolean => COLOURED.some(([kind]) => kind === pass)
const isOneLight = (pass: string): boolean => pass.startsWith(`${BY_LIGHT}.`)
const termOf = (name: string) => {
  for (const [pass, terms] of Object.entries(reading.value.takes))
    for (const { layer, times } of terms) if (layer === name) return { pass, times }
  return undefined
}
const lightOf = ({ name }: SeenLayer): string => lightLayer(name.replace(/\.[^.]*$/, '').replace(/^.*\./, '') || name)
function setPass(layer: SeenLayer, chosen: string) {
  const pass = chosen === BY_LIGHT ? lightOf(layer) : chosen
  const takes: PassReading['takes'] = {}
  const times = isPart(pass) ? termOf(layer.name)?.times : undefined
  for (const [id, terms] of Object.entries(reading.value.takes)) {
    // Parts of light add up; of everything else the last that is chosen is it
    const rest = terms.filter(term => term.layer !== layer.name && (id !== pass || isPart(id)))
    if (rest.length) takes[id] = rest
  }
  if (pass) (takes[pass] ??= []).push({ layer: layer.name, ...(times ? { times } : {}) })
  const next: PassReading = { ...toRaw(reading.value), takes }
  if (!takes['depth']) delete next.depth
  else next.depth ??= { kind: 'metres' }
  change(next)
}
function setTimes(name: string, times: string) {
  const takes: PassReading['takes'] = {}
  for (const [id, terms] of Object.entries(reading.value.takes))
    takes[id] = terms.map(term =>
      term.layer === name ? { layer: name, ...(times ? { times } : {}) } : { ...toRaw(term) },
    )
  change({ ...toRaw(reading.value), takes })
}
const SETS = PASSES.filter(({ coverage }) => coverage?.seen === 'straight')
const setOf = (name: string): string =>
  Object.entries(reading.value.sets ?? {}).find(([, set]) => set === name)?.[0] ?? ''
function setSet(name: string, pass: string) {
  const sets = Object.fromEntries(
    Object.entries(reading.value.sets ?? {}).filter(([id, set]) => set !== name && id !== pass),
  )
  if (pass) sets[pass] = name
  change({ ...toRaw(reading.value), sets })
}
const colours = computed(() => (asked.value?.theirs.layers ?? []).filter(({ channels }) => channels.length === 3))

function draw(canvas: HTMLCanvasElement | null, { picture }: SeenLayer) {
  if (!canvas || canvas.width === picture.width) return
  canvas.width = picture.width
  canvas.height = picture.height
  canvas.getContext('2d')!.putImageData(new ImageData(picture.codes, picture.width, picture.height), 0, 0)
}
const figure = (value: number): string => (Number.isInteger(value) ? String(value) : value.toPrecision(3))
const percent = computed(() => {
  const left = told.value?.left
  return left === undefined ? '' : `${(left * 100).toFixed(left < 0.1 ? 1 : 0)} %`
})
const hasLight = computed(() => LIGHT_PARTS.some(part => reading.value.takes[part]))
const hasMotion = computed(() => !!reading.value.takes['motion_forward'] || !!reading.value.takes['motion_back'])
/** Why it cannot be taken so. */
const cannot = computed(() => {
  if (fault.value) return fault.value
  if (busy.value) return ''
  if (!reading.value.takes['beauty'] && !hasLight.value) return 'Say which layer is the beauty, or which are its light.'
  return ''
})
/** The line of the depth says so itself. */
const isDepthWrong = computed(() => !!reading.value.depth && depthFault(reading.value.depth) !== '')
async function take() {
  if (turn === 0 || busy.value) await look()
  const content = told.value?.content
  if (isDepthWrong.value) return
  if (content && !cannot.value) asked.value?.done(content as PassDescription)
  else if (!cannot.value) fault.value = 'Beside its picture nothing of this file is said to be a pass.'
}
const setDepth = (depth: DepthReading): void => change({ ...toRaw(reading.value), depth })
const flag = (name: 'rest' | 'motionUp', event: Event): void => {
  const next: PassReading = { ...toRaw(reading.value), [name]: true }
  if (!(event.target as HTMLInputElement).checked) Reflect.deleteProperty(next, name)
  change(next)
}
const FROM = {
  names: 'Guessed from the names.',
  remembered: 'As it was said of the last file with the same layers.',
  now: '',
} as const
</script>

<template>
  <v-dialog v-model="open" max-width="860" scrollable>
    <div v-if="asked" class="reading" data-test="reading">
      <h2>What is what in {{ asked.file.name }}</h2>
      <p class="soft">
        {{ asked.theirs.width }} × {{ asked.theirs.height }}, {{ asked.theirs.layers.length }} layers.
        {{ FROM[asked.from] }}
      </p>
      <div class="list">
        <div v-for="layer in asked.theirs.layers" :key="layer.name" class="line" :data-test="`theirs-${layer.name}`">
          <canvas :ref="canvas => draw(canvas as HTMLCanvasElement | null, layer)" aria-hidden="true" />
          <div class="grow">
            <b>{{ layer.name }}</b>
            <span class="soft figures">{{ figure(layer.low) }} to {{ figure(layer.high) }}</span>
          </div>
          <span>is</span>
          <select
            class="word"
            :value="isOneLight(termOf(layer.name)?.pass ?? '') ? BY_LIGHT : (termOf(layer.name)?.pass ?? '')"
            :aria-label="`What ${layer.name} is`"
            :data-test="`is-${layer.name}`"
            @change="setPass(layer, ($event.target as HTMLSelectElement).value)"
          >
            <option value="">left out</option>
            <option v-for="pass in choicesOf(layer)" :key="pass.id" :value="pass.id">{{ pass.label }}</option>
            <option v-if="layer.channels.length === 3" :value="BY_LIGHT">light of {{ lightOf(layer).slice(9) }}</option>
          </select>
          <template v-if="isColoured(termOf(layer.name)?.pass)">
            <span>times</span>
            <select
              class="word"
              :value="termOf(layer.name)!.times ?? ''"
              :aria-label="`What ${layer.name} is multiplied by`"
              :data-test="`times-${layer.name}`"
              @change="setTimes(layer.name, ($event.target as HTMLSelectElement).value)"
            >
              <option value="">nothing</option>
              <option v-for="colour in colours" :key="colour.name" :value="colour.name">{{ colour.name }}</option>
            </select>
          </template>
        </div>
        <div v-for="set in asked.theirs.sets" :key="set.name" class="line" :data-test="`set-${set.name}`">
          <span class="names figures">{{ set.names || '?' }}</span>
          <div class="grow">
            <b>{{ set.name }}</b>
            <span class="soft"
              >Cryptomatte{{
                set.names
                  ? ''
                  : set.beside
                    ? `; its names are in ${set.beside}: bring that together with it`
                    : ', its names are not in the file'
              }}</span
            >
          </div>
          <span>is</span>
          <select
            class="word"
            :value="setOf(set.name)"
            :aria-label="`What ${set.name} is`"
            :data-test="`is-${set.name}`"
            @change="setSet(set.name, ($event.target as HTMLSelectElement).value)"
          >
            <option value="">left out</option>
            <option v-for="pass in SETS" :key="pass.id" :value="pass.id">{{ pass.label }}</option>
          </select>
        </div>
      </div>
      <DepthReadingLines v-if="reading.depth" :depth="reading.depth" @change="setDepth" />
      <p v-if="told?.depth" class="soft" data-test="reading-depth">
        What is there stands between {{ told.depth[0].toPrecision(3) }} m and {{ told.depth[1].toPrecision(3) }} m.
      </p>
      <p v-if="percent" data-test="reading-left">
        The parts of light differ from the beauty by {{ percent }}.
        <label
          ><input type="checkbox" :checked="reading.rest" data-test="reading-rest" @change="flag('rest', $event)" />
          that counts as direct light</label
        >
      </p>
      <p v-if="hasMotion">
        <label
          ><input
            type="checkbox"
            :checked="reading.motionUp"
            data-test="reading-up"
            @change="flag('motionUp', $event)"
          />
          its motion grows upwards</label
        >
      </p>
      <p v-if="cannot" role="alert" data-test="reading-fault">{{ cannot }}</p>
      <div class="row">
        <v-btn :disabled="!!cannot || isDepthWrong" data-test="reading-take" @click="take">Read it so</v-btn>
        <button v-if="asked.from !== 'now'" class="word" data-test="reading-picture" @click="asked.done('picture')">
          bring only its picture
        </button>
        <span class="grow" />
        <button class="word" data-test="reading-close" @click="asked.done(null)">leave it</button>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.reading {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 6px;
  padding: 18px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  max-height: 86vh;
}
h2 {
  margin: 0;
}
p {
  margin: 0;
}
.list {
  overflow-y: auto;
  min-height: 160px;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
}
.line + .line {
  border-top: 1px solid var(--line);
}
.line b {
  overflow-wrap: anywhere;
  margin-right: 8px;
}
canvas,
.names {
  width: 84px;
  flex: none;
  border-radius: 3px;
  text-align: center;
}
.row {
  display: flex;
  align-items: center;
  gap: 12px;
}
</style>
