<script setup lang="ts">
// What belongs to a figure beside its values: where its picture touches the ground, the lamp that it is lit by, where its
// shadow and mirror image fall, and whether its head is where the horizon would have it.
import type { CastSlip } from '../../core/layer/layer'
import { toned } from '../../core/measure/toned'
import { addRow } from '../../core/shot/rows'
import { newTreatment, type FigureLayer, type ShotDocument, type Slip } from '../../core/shot/document'
import { aboutFigure, headsOff, takeTouching } from '../../core/shot/figures'
import { slipOf } from '../../core/shot/slip'
import { sightOf } from '../../core/shot/scene'
import { touchedPasses } from '../../core/shot/stamp'
import { engine } from '~/composables/engine'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: FigureLayer }>()
const shot = useShot()
const view = useView()
const { edit } = useRecipe()
const change = (label: string, mutate: (layer: FigureLayer) => void, live = false): void =>
  edit(`${label} of ${props.layer.name}`, props.layer.id, mutate, live)

async function findFeet() {
  try {
    const found = await engine.touching(shot.document!, shot.frame, props.layer.id)
    if (found) change('Feet', layer => takeTouching(layer, found))
    else shot.message = `Nothing of ${props.layer.name} is seen: there are no feet to be found.`
  } catch (error) {
    shot.message = (error as Error).message
  }
}

const setLight = (light: string | undefined): void =>
  change('Light', layer => {
    if (light) layer.light = light
    else delete layer.light
  })

/** Slips of what it casts; each is told from that of what it is cut to. */
const CASTS = computed(() => [
  { which: 'ground' as const, said: 'its shadow falls ', line: `${props.layer.id}.ground` },
  { which: 'wet' as const, said: 'it is mirrored ', line: `${props.layer.id}.wet` },
])
const inScene = computed(() => props.layer.world === 'scene')
/** Passes that do not have it as it is. */
const toRender = computed(() => touchedPasses(shot.document!, shot.frame))
const EMPTY = slipOf()
const editSlip = (which: CastSlip, label: string, mutate: (slip: Slip) => void, live: boolean): void =>
  change(
    label,
    layer => {
      layer[which] ??= slipOf()
      mutate(layer[which])
    },
    live,
  )
function everywhere(which: CastSlip) {
  change('Where it falls', layer => {
    delete layer[which]
  })
  view.slipOpen = ''
  view.matte = null
}

/** Its name marks the line that tones it: it is found again. */
const TONED = 'Toned to the place'
const toning = ref(false)
/** Measures it and what is about it, without it, and lays that as a line. */
async function tone() {
  toning.value = true
  try {
    const { id } = props.layer
    const document = shot.document!
    const part = aboutFigure(props.layer, document, shot.frame)
    if (!part) throw new Error(`${props.layer.name} is not in the picture: there is no place to be toned to.`)
    const order = { document, frame: shot.frame, shrink: 1 as const, stops: 0, channel: 0, area: part }
    const place = await engine.likeness({ ...order, show: { kind: 'build' }, without: { id } }, false)
    // Of itself as it was before: the line that toned it does not count
    const bare = structuredClone(toRaw(document)) as ShotDocument
    for (const line of Object.values(bare.build.layers[id]!.treatments)) if (line.name === TONED) line.on = false
    const own = await engine.likeness({ ...order, document: bare, show: { kind: 'build' }, only: [id] }, false)
    if (!place || !own) throw new Error('There is nothing to measure there.')
    const values = toned(own, place)
    change('Tone', layer => {
      const before = Object.values(layer.treatments).find(line => line.name === TONED)
      if (before) Object.assign(before, { values, on: true })
      else addRow(layer.treatments, { ...newTreatment('match', values), name: TONED, strength: TONE_STRENGTH })
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
  toning.value = false
}
/** How much of it is toned at first. */
const TONE_STRENGTH = 0.7

const off = computed(() => headsOff(props.layer, sightOf(shot.document!, shot.frame)))
const toHorizon = (): void =>
  change('Height', layer => {
    if (off.value) layer.height = off.value.fits
  })
</script>

<template>
  <p v-if="inScene" data-test="in-scene">
    its shadow, and what mirrors it, come with the passes<template v-if="toRender.length"
      >; {{ toRender.length === 1 ? 'one is' : `${toRender.length} are` }} older than it:
      <button class="word" data-test="to-passes" @click="view.station = 'passes'">render them</button></template
    >
  </p>
  <LightChoice
    v-if="!inScene"
    :light="layer.light"
    label="Light that its shadow falls away from"
    none="the brightest"
    :wanted="layer.lit === 'by one light'"
    @change="setLight"
  />
  <div v-for="{ which, said, line } in inScene ? [] : CASTS" :key="which" :data-test="`${which}-of`">
    <p>
      {{ said }}{{ layer[which] ? 'only where ' : ''
      }}<MatteChip :matte="layer[which] ?? null" :line="line" all="everywhere" />
    </p>
    <MatteSlip
      v-if="view.slipOpen === line"
      :slip="layer[which] ?? EMPTY"
      :line="line"
      @change="(label, mutate, live) => editSlip(which, label, mutate, live)"
      @everywhere="everywhere(which)"
    />
  </div>
  <p v-if="off" class="note" role="note" data-test="heads-off">
    {{ off.words }}
    <button class="word" data-test="to-horizon" @click="toHorizon">make it {{ off.fits }} m</button>
  </p>
  <p>
    <button
      class="word soft"
      :disabled="toning"
      data-test="tone"
      title="Blacks, whites and colour as the place has them: a line that you may change"
      @click="tone"
    >
      tone it to the place
    </button>
    <button
      class="word soft beside"
      title="Blacks, colour, softness and grain beside the plate’s, each with a line that mends it"
      data-test="figure-fit"
      @click="view.fitOpen = true"
    >
      see how it fits
    </button>
  </p>
  <p>
    <button class="word soft" data-test="find-feet" @click="findFeet">find its feet in the picture</button>
  </p>
</template>

<style scoped>
.beside {
  margin-left: 14px;
}
.note {
  color: var(--mark);
}
</style>
