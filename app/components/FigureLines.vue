<script setup lang="ts">
// What belongs to a figure beside its values: where its picture touches the ground, the lamp that it is lit by, where its
// shadow and mirror image fall, and whether its head is where the horizon would have it.
import type { CastSlip } from '../../core/layer/layer'
import type { FigureLayer, Slip } from '../../core/shot/document'
import { headsOff, takeTouching } from '../../core/shot/figures'
import { slipOf } from '../../core/shot/slip'
import { sightOf } from '../../core/shot/scene'
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

const lights = ref<string[]>([])
watch(
  () => [JSON.stringify(shot.document?.scene.lights), shot.document?.scene.file?.blob, props.layer.lit],
  async () => {
    if (props.layer.lit === 'by one light')
      lights.value = await engine
        .sceneInfo(shot.document!, shot.frame)
        .then(info => [...info.lights, ...info.emitters])
        .catch(() => [])
  },
  { immediate: true },
)

/** Slips of what it casts; each is told from that of what it is cut to. */
const CASTS = computed(() => [
  { which: 'ground' as const, said: 'its shadow falls ', line: `${props.layer.id}.ground` },
  { which: 'wet' as const, said: 'it is mirrored ', line: `${props.layer.id}.wet` },
])
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

const off = computed(() => headsOff(props.layer, sightOf(shot.document!, shot.frame)))
const toHorizon = (): void =>
  change('Height', layer => {
    if (off.value) layer.height = off.value.fits
  })
</script>

<template>
  <p v-if="layer.lit === 'by one light'">
    lit by
    <select
      class="word"
      :value="layer.light ?? ''"
      aria-label="Light that its shadow falls away from"
      data-test="light"
      @change="
        change('Light', found => {
          const { value } = $event.target as HTMLSelectElement
          if (value) found.light = value
          else delete found.light
        })
      "
    >
      <option value="">the brightest</option>
      <option v-for="name in lights" :key="name" :value="name">{{ name }}</option>
    </select>
  </p>
  <div v-for="{ which, said, line } in CASTS" :key="which" :data-test="`${which}-of`">
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
    <button class="word soft" data-test="find-feet" @click="findFeet">find its feet in the picture</button>
  </p>
</template>

<style scoped>
.note {
  color: var(--mark);
}
</style>
