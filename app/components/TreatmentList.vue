<script setup lang="ts">
// Treatments as lines of the recipe: each a sentence with its values in place.
import { mdiArrowDown, mdiArrowUp, mdiCloseCircleOutline, mdiPlus } from '@mdi/js'
import type { EntryValue } from '../../core/declare/field'
import { firstValues } from '../../core/declare/values'
import {
  identifier,
  newTreatment,
  type ShotDocument,
  type Slip,
  type TreatmentSettings,
} from '../../core/shot/document'
import { alone, laidLook, readLook, unpacked, type Look } from '../../core/shot/look'
import { addRow, inOrder, stepRow, type Rows } from '../../core/shot/rows'
import { slipOf } from '../../core/shot/slip'
import { treatmentOf } from '../../core/treatment/registry'
import { useLooks } from '~/composables/looks'
import { withValue, type Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{
  rows: Rows<TreatmentSettings>
  find: (document: ShotDocument) => Rows<TreatmentSettings>
  mattes?: boolean
  hint?: string
}>()
const list = computed(() => inOrder(props.rows))
const shot = useShot()
const view = useView()

const edit = (label: string, id: string, mutate: (treatment: TreatmentSettings) => void, live = false): void =>
  shot.change(
    label,
    document => {
      const found = props.find(document)[id]
      if (found) mutate(found)
    },
    live,
  )
const set = (entry: TreatmentSettings, name: string, value: EntryValue, live: boolean): void =>
  edit(
    `${treatmentOf(entry.kind).label}: ${treatmentOf(entry.kind).values[name]!.label ?? name}`,
    entry.id,
    treatment => {
      treatment.values[name] = value
    },
    live,
  )
const choosing = ref(false)
function make(kind: string): Omit<TreatmentSettings, 'order'> {
  const made = newTreatment(kind, firstValues(treatmentOf(kind).values))
  return props.mattes ? { ...made, matte: view.pickedMatte } : made
}
function add(kind: string) {
  const treatment = treatmentOf(kind)
  const made = make(kind)
  shot.change(`Add ${treatment.label.toLowerCase()}`, document => {
    addRow(props.find(document), made)
  })
  view.selectedTreatment = made.id
}
function addLook(look: Look, strength = 1) {
  let id = ''
  shot.change(`Lay the look ${look.name}`.slice(0, 200), document => {
    const made = laidLook(document, look, strength)
    id = made.id
    addRow(props.find(document), made)
  })
  view.selectedTreatment = id
}
/** Its lines in its place. */
function unpack(entry: TreatmentSettings) {
  shot.change(`Lay out the look ${entry.name}`.slice(0, 200), document => {
    const rows = props.find(document)
    let after = entry.id
    for (const { order: _order, ...line } of unpacked(entry))
      after = addRow(rows, { ...line, id: identifier() }, after).id
    delete rows[entry.id]
  })
}
const { keepLines } = useLooks()
async function keepLook(event: Event) {
  const field = event.target as HTMLInputElement
  const name = field.value.trim()
  field.value = ''
  if (!name) return
  try {
    await keepLines(shot.document!, shot.frame, props.rows, name)
    shot.message = `The look “${name}” is kept: it stands among the treatments of every shot.`
  } catch (error) {
    shot.message = (error as Error).message
  }
}
async function lookFile(event: Event) {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  field.value = ''
  if (!file) return
  try {
    if (file.size > 8 * 1048576) throw new Error(`${file.name} is larger than 8 MiB: no look is.`)
    const look = readLook(await file.text())
    // The checks are only fetched when there is something to be checked
    const { documentFaults } = await import('../../shared/validate')
    const faults = documentFaults(alone(look))
    if (faults.length) throw new Error(`This look is not right: ${faults.slice(0, 2).join('; ')}.`)
    addLook(look)
  } catch (error) {
    shot.message = (error as Error).message
  }
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
function showBorders(id: string) {
  view.borders = view.borders === id ? '' : id
  if (view.borders) view.showStrip('light')
}
const hold = (id: string | null): void => {
  view.held = id ? { id } : null
}
const editSlip = (entry: TreatmentSettings, label: string, mutate: (slip: Slip) => void, live: boolean): void =>
  edit(
    label,
    entry.id,
    treatment => {
      treatment.matte ??= slipOf()
      mutate(treatment.matte)
    },
    live,
  )
const EMPTY = slipOf()
const isOpen = (entry: TreatmentSettings): boolean => view.slipOpen === entry.id
function everywhere(entry: TreatmentSettings) {
  edit('No matte', entry.id, treatment => {
    treatment.matte = null
  })
  view.slipOpen = ''
  view.matte = null
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
        <template v-if="entry.lines"
          >Look <b>{{ entry.name }}</b></template
        ><SentenceValues
          v-else
          :sentence="treatmentOf(entry.kind).sentence"
          :fields="treatmentOf(entry.kind).values"
          :values="entry.values"
          @change="(name, value, live) => set(entry, name, value, live)"
        />
        {{ treatmentOf(entry.kind).fed ?? 'in' }}
        <MatteChip :matte="entry.matte" :line="entry.id" all="everything" @click="view.selectedTreatment = entry.id" />
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
      <MatteSlip
        v-if="isOpen(entry)"
        :slip="entry.matte ?? EMPTY"
        :line="entry.id"
        @change="(label, mutate, live) => editSlip(entry, label, mutate, live)"
        @everywhere="everywhere(entry)"
      />
      <div v-if="view.selectedTreatment === entry.id" class="tools">
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
        <button
          v-if="treatmentOf(entry.kind).borders"
          class="word"
          :class="{ on: view.borders === entry.id }"
          :aria-pressed="view.borders === entry.id"
          title="Its borders lie on the histogram under the picture, over the light that comes to the line"
          data-test="borders"
          @click="showBorders(entry.id)"
        >
          on the histogram
        </button>
        <LookLine v-if="entry.lines" :entry="entry" @unpack="unpack(entry)" />
        <TreatmentFiles
          v-if="treatmentOf(entry.kind).files"
          :entry="entry"
          @take="
            (values, label) =>
              edit(`${treatmentOf(entry.kind).label}: ${label}`.slice(0, 80), entry.id, found => {
                Object.assign(found.values, values)
              })
          "
        />
        <LineFromPicture
          :entry="entry"
          @values="
            (label, values) =>
              edit(label, entry.id, found => {
                for (const [name, value] of Object.entries(values))
                  found.values[name] =
                    typeof value === 'number' ? withValue(found.values[name] as Animatable, shot.frame, value) : value
              })
          "
          @table="
            table =>
              edit(treatmentOf(entry.kind).tabled === 'picture' ? 'Shape' : 'Colour table', entry.id, found => {
                found.table = table
              })
          "
        />
        <span class="grow" />
        <span class="moves">
          <v-btn :icon="mdiArrowUp" size="x-small" aria-label="Earlier" @click="shift(entry.id, -1)" /><v-btn
            :icon="mdiArrowDown"
            size="x-small"
            aria-label="Later"
            @click="shift(entry.id, 1)"
          /><v-btn :icon="mdiCloseCircleOutline" size="x-small" aria-label="Remove" @click="remove(entry.id)" />
        </span>
      </div>
    </div>
    <p v-if="!list.length && hint" class="soft hint">{{ hint }}</p>
    <div class="end">
      <v-btn size="small" :prepend-icon="mdiPlus" data-test="add-treatment" @click="choosing = true">Treatment</v-btn>
      <span class="soft"
        >look:
        <label v-if="list.some(({ on }) => on)"
          >keep as
          <WordField
            class="word"
            value=""
            aria-label="Keep the lines as a look"
            data-test="look-keep"
            @change="keepLook"
          />{{ ' or ' }}</label
        ><label class="word"
          >from a file<input type="file" hidden accept=".json" data-test="look-file" @change="lookFile" /></label
      ></span>
    </div>
    <ChooseTreatment v-model="choosing" :find="find" :make="make" @choose="add" @look="addLook" />
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
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: center;
  font-size: 12px;
  color: var(--soft);
}
.tools .on {
  color: var(--mark);
}
.tools .word,
.moves {
  white-space: nowrap;
}
.end {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
  font-size: 12px;
}
.end input {
  width: 66px;
}
.hint {
  margin: 4px 0;
}
</style>
