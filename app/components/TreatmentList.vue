<script setup lang="ts">
// Treatments as lines of the recipe: each a sentence with its values in place.
import { mdiArrowDown, mdiArrowUp, mdiCloseCircleOutline, mdiPlus } from '@mdi/js'
import { newTreatment, type ShotDocument, type TreatmentSettings } from '../../core/shot/document'
import { addRow, inOrder, stepRow, type Rows } from '../../core/shot/rows'
import type { Animatable } from '../../core/time/curve'
import { TREATMENTS, treatmentOf } from '../../core/treatment/registry'
import { useShot } from '~/stores/shot'
import { SEEN_WORDS, useView } from '~/stores/view'

const props = defineProps<{
  rows: Rows<TreatmentSettings>
  find: (document: ShotDocument) => Rows<TreatmentSettings>
  mattes?: boolean
  hint?: string
}>()
const list = computed(() => inOrder(props.rows))
const shot = useShot()
const view = useView()

/** Words and values of a sentence, in order. */
const pieces = (kind: string): { text?: string; parameter?: (typeof TREATMENTS)[number]['parameters'][number] }[] => {
  const treatment = treatmentOf(kind)
  return treatment.sentence
    .split(/(\{\w+\})/)
    .filter(Boolean)
    .map(part => {
      const id = /^\{(\w+)\}$/.exec(part)?.[1]
      return id ? { parameter: treatment.parameters.find(parameter => parameter.id === id)! } : { text: part }
    })
}
const edit = (label: string, id: string, mutate: (treatment: TreatmentSettings) => void, live = false): void =>
  shot.change(
    label,
    document => {
      const found = props.find(document)[id]
      if (found) mutate(found)
    },
    live,
  )
const set = (entry: TreatmentSettings, parameter: string, value: Animatable, live: boolean): void =>
  edit(
    `${treatmentOf(entry.kind).label}: ${parameter}`,
    entry.id,
    treatment => {
      treatment.values[parameter] = value
    },
    live,
  )
function add(kind: string) {
  const treatment = treatmentOf(kind)
  const made = newTreatment(
    kind,
    Object.fromEntries(treatment.parameters.map(parameter => [parameter.id, parameter.neutral])),
  )
  if (props.mattes) made.matte = view.pickedMatte
  shot.change(`Add ${treatment.label.toLowerCase()}`, document => {
    addRow(props.find(document), made)
  })
  view.selectedTreatment = made.id
}
function shift(id: string, by: number) {
  shot.change('Order of treatments', document => {
    stepRow(props.find(document), id, by)
  })
}
const remove = (id: string): void =>
  shot.change('Remove a treatment', document => {
    delete props.find(document)[id]
  })
const hold = (id: string | null): void => {
  view.held = id ? { id } : null
}
const takePicked = (entry: TreatmentSettings): void =>
  edit('Matte from picked objects', entry.id, treatment => {
    treatment.matte = view.pickedMatte
  })
const matteShown = (entry: TreatmentSettings): boolean => !!view.matte && view.selectedTreatment === entry.id
function showMatte(entry: TreatmentSettings) {
  view.selectedTreatment = entry.id
  view.matte = matteShown(entry) ? null : view.matte ? null : entry.matte && { ...entry.matte }
}
function invert(entry: TreatmentSettings) {
  edit('Invert a matte', entry.id, treatment => {
    treatment.matte!.invert = !treatment.matte!.invert
  })
  if (view.matte) view.matte = { ...view.matte, invert: !view.matte.invert }
}
</script>

<template>
  <div class="lines">
    <div
      v-for="entry in list"
      :key="entry.id"
      class="line"
      :class="{ off: !entry.on, chosen: view.selectedTreatment === entry.id }"
      :data-test="`treatment-${entry.kind}`"
      @pointerdown="view.selectedTreatment = entry.id"
    >
      <button
        class="dot"
        :aria-pressed="entry.on"
        :aria-label="`${treatmentOf(entry.kind).label} on or off`"
        title="On or off"
        @click="
          edit(entry.on ? 'Treatment off' : 'Treatment on', entry.id, treatment => {
            treatment.on = !treatment.on
          })
        "
      />
      <p>
        <template v-for="(piece, index) in pieces(entry.kind)" :key="index">
          <template v-if="piece.text">{{ piece.text }}</template>
          <ValueField
            v-else-if="piece.parameter"
            :model-value="entry.values[piece.parameter.id] ?? piece.parameter.neutral"
            v-bind="{
              label: piece.parameter.label,
              help: piece.parameter.help,
              low: piece.parameter.low,
              high: piece.parameter.high,
              step: piece.parameter.step,
              digits: piece.parameter.digits,
              unit: piece.parameter.unit,
              neutral: piece.parameter.neutral,
            }"
            :data-test="`value-${piece.parameter.id}`"
            @change="(value, live) => set(entry, piece.parameter!.id, value, live)"
          />
        </template>
        <template v-if="mattes || entry.matte">
          in
          <button
            v-if="entry.matte"
            class="chip"
            :class="{ on: matteShown(entry) }"
            title="See this matte alone"
            data-test="matte-chip"
            @click="showMatte(entry)"
          >
            {{ entry.matte.invert ? 'all but ' : '' }}{{ entry.matte.names.join(', ') || 'nothing'
            }}{{ SEEN_WORDS[entry.matte.seen ?? 'straight'] }}
          </button>
          <button
            v-else
            class="word soft"
            title="Pick objects in the picture, then click here"
            data-test="matte-all"
            @click="takePicked(entry)"
          >
            everything
          </button>
        </template>
        <span class="soft"> at </span
        ><ValueField
          :model-value="entry.strength"
          label="Strength"
          help="How much of this treatment."
          :low="0"
          :high="1"
          :step="0.004"
          :neutral="1"
          @change="
            (value, live) =>
              edit(
                'Strength',
                entry.id,
                treatment => {
                  treatment.strength = value
                },
                live,
              )
          "
        />
      </p>
      <div v-if="view.selectedTreatment === entry.id" class="tools">
        <template v-if="entry.matte"
          ><button class="word" data-test="matte-invert" @click="invert(entry)">invert</button
          ><button
            class="word"
            @click="
              () => {
                edit('No matte', entry.id, treatment => {
                  treatment.matte = null
                })
                view.matte = null
              }
            "
          >
            everywhere
          </button></template
        >
        <button v-if="mattes && view.picked.length" class="word" data-test="matte-picked" @click="takePicked(entry)">
          in what is picked
        </button>
        <button
          class="word"
          title="Hold to see the picture without this (W)"
          data-test="hold-without"
          @pointerdown="hold(entry.id)"
          @pointerup="hold(null)"
          @pointerleave="view.held?.id === entry.id && hold(null)"
        >
          hold: without
        </button>
        <span class="grow" />
        <v-btn :icon="mdiArrowUp" size="x-small" aria-label="Earlier" @click="shift(entry.id, -1)" /><v-btn
          :icon="mdiArrowDown"
          size="x-small"
          aria-label="Later"
          @click="shift(entry.id, 1)"
        /><v-btn :icon="mdiCloseCircleOutline" size="x-small" aria-label="Remove" @click="remove(entry.id)" />
      </div>
    </div>
    <p v-if="!list.length && hint" class="soft hint">{{ hint }}</p>
    <v-menu
      ><template #activator="{ props: menu }"
        ><v-btn v-bind="menu" size="small" :prepend-icon="mdiPlus" data-test="add-treatment">Treatment</v-btn></template
      >
      <v-list density="compact"
        ><v-list-item
          v-for="treatment in TREATMENTS"
          :key="treatment.id"
          :title="treatment.label"
          :subtitle="treatment.help"
          :data-test="`add-${treatment.id}`"
          @click="add(treatment.id)"
      /></v-list>
    </v-menu>
  </div>
</template>

<style scoped>
.lines {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
}
.line {
  width: 100%;
  position: relative;
  padding: 6px 2px 6px 22px;
  border-top: 1px dashed var(--line);
  line-height: 1.65;
}
.line p {
  margin: 0;
}
.line.off p {
  opacity: 0.45;
}
.dot {
  position: absolute;
  left: 3px;
  top: 12px;
  width: 11px;
  height: 11px;
  border-radius: 50%;
  background: var(--ink);
  border: 1.5px solid var(--ink);
  cursor: pointer;
  padding: 0;
}
.line.off .dot {
  background: none;
  border-color: var(--soft);
}
.chip {
  background: var(--faint);
  border: 0;
  border-radius: 10px;
  padding: 0 8px;
  font: inherit;
  font-size: 12px;
  color: inherit;
  cursor: pointer;
}
.chip.on {
  background: var(--mark-tint);
  color: var(--mark);
}
.tools {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 12px;
  color: var(--soft);
}
.hint {
  margin: 4px 0;
}
</style>
