<script setup lang="ts">
// A slip: where a line works, as a short text. Lines joined by plain words, each with its values in place and a small
// picture of the matte so far; then lines that refine the whole.
import { GROUNDS } from '../../core/compose/request'
import type { EntryValue } from '../../core/declare/field'
import { firstValues } from '../../core/declare/values'
import { matteKindOf } from '../../core/matte/registry'
import { REFINERS, refinerOf } from '../../core/matte/refine/registry'
import { identifier, type MatteTerm, type Slip } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { addTerm, keptTerm, namesTerm, SEEN_WORDS, slipOf } from '../../core/shot/slip'
import { useSlipPictures } from '~/composables/slipPictures'
import { useShot } from '~/stores/shot'
import { useView, type MatteAs } from '~/stores/view'

const props = defineProps<{
  slip: Slip
  /** The line of the recipe that it is of. */
  line: string
  /** The kept matte that it is. */
  kept?: string
}>()
const emit = defineEmits<{ change: [label: string, mutate: (slip: Slip) => void, live: boolean]; everywhere: [] }>()
const shot = useShot()
const view = useView()
const terms = computed(() => inOrder(props.slip.terms))
const refine = computed(() => inOrder(props.slip.refine))
const canvases = ref<Record<string, HTMLCanvasElement | null>>({})
useSlipPictures(() => props.slip, props.line, canvases)

const choosing = ref(false)

const edit = (label: string, mutate: (slip: Slip) => void, live = false): void => emit('change', label, mutate, live)
function add(label: string, term: MatteTerm) {
  const begins = !terms.value.length && !props.kept
  let id = ''
  edit(label, slip => {
    id = addTerm(slip, term)
  })
  // What begins with a colour of the picture waits for the click that takes it
  const sample = 'values' in term && matteKindOf(term.kind).sample
  if (sample && id) view.taking = { term: id, name: sample, line: props.line, what: 'colour' }
  if (begins) void nextTick(() => see(view.matteAs))
}
function addRefiner(kind: string) {
  edit(`Matte ${refinerOf(kind).label.toLowerCase()}`, slip => {
    addRow(slip.refine, { id: identifier(), kind, on: true, values: firstValues(refinerOf(kind).values) })
  })
}
const setRefiner = (id: string, name: string, value: EntryValue, live: boolean): void =>
  edit(
    'Refine a matte',
    ({ refine }) => {
      if (refine[id]) refine[id].values[name] = value
    },
    live,
  )

// Kept under names
function keepAs(event: Event) {
  const name = (event.target as HTMLInputElement).value.trim()
  if (!name || !terms.value.length) return
  const id = identifier()
  const slip = JSON.parse(JSON.stringify(props.slip)) as Slip
  // The first half of one step
  const half = true
  shot.change(
    `Keep a matte as ${name}`,
    document => {
      addRow(document.mattes, { id, name, slip })
    },
    half,
  )
  edit(`Keep a matte as ${name}`, slip => Object.assign(slip, slipOf(keptTerm(id))))
}

const VIEWS: MatteAs[] = ['veil', 'grey', 'outline', 'cut out']
function see(as: MatteAs | null) {
  if (as) view.matteAs = as
  view.matteLine = props.line
  view.matte = as ? props.slip : null
}
const isSeen = computed(() => !!view.matte && view.matteLine === props.line)
// What is looked at follows the slip
watch(
  () => props.slip,
  slip => {
    if (isSeen.value && !props.kept) view.matte = slip
  },
)
</script>

<template>
  <div class="slip" :class="{ inner: kept }" data-test="slip">
    <MatteLine
      v-for="(term, index) in terms"
      :key="term.id"
      :ref="found => (canvases[term.id] = (found as { canvas: HTMLCanvasElement } | null)?.canvas ?? null)"
      :term="term"
      :line="line"
      :first="index === 0"
      :movable="terms.length > 1"
      @change="edit"
    />
    <p v-if="!terms.length" class="soft">Nothing is said yet, so it works everywhere.</p>
    <div class="add">
      <button
        v-if="view.picked.length"
        class="word"
        data-test="term-add-picked"
        @click="add('Matte from picked objects', namesTerm(view.picked, view.pickedSeen))"
      >
        + {{ view.picked.join(', ') }}{{ SEEN_WORDS[view.pickedSeen] }}</button
      ><button class="word" data-test="term-add" @click="choosing = true">+ matte</button>
      <span v-if="!view.picked.length" class="soft">or pick things in the picture</span>
    </div>
    <ChooseMatte v-model="choosing" :line="line" :kept="kept" @choose="add" />
    <div class="whole">
      <p v-for="one in refine" :key="one.id" :class="{ off: !one.on }" :data-test="`refine-${one.kind}`">
        <SentenceValues
          :sentence="refinerOf(one.kind).sentence"
          :fields="refinerOf(one.kind).values"
          :values="one.values"
          @change="(name, value, live) => setRefiner(one.id, name, value, live)"
        />{{ ' ' }}
        <button
          class="word soft"
          @click="
            edit(one.on ? 'Refining off' : 'Refining on', found => {
              found.refine[one.id]!.on = !one.on
            })
          "
        >
          {{ one.on ? 'off' : 'on' }}</button>{{ ' '
        }}<button
          class="word soft"
          :aria-label="`Remove: ${refinerOf(one.kind).label}`"
          @click="
            edit('Remove a refining line', found => {
              delete found.refine[one.id]
            })
          "
        >
          remove
        </button>
      </p>
      <div class="add">
        <button
          v-for="one in REFINERS"
          :key="one.id"
          class="word"
          :title="one.help"
          :data-test="`refine-add-${one.id}`"
          @click="addRefiner(one.id)"
        >
          + {{ one.label.toLowerCase() }}</button
        ><button
          class="word"
          :aria-pressed="slip.invert"
          data-test="matte-invert"
          @click="
            edit('Turn a matte over', found => {
              found.invert = !found.invert
            })
          "
        >
          turned over: {{ slip.invert ? 'yes' : 'no' }}
        </button>
      </div>
    </div>
    <div v-if="!kept" class="views">
      <button
        v-for="as in VIEWS"
        :key="as"
        class="look"
        :class="{ on: isSeen && view.matteAs === as }"
        :aria-pressed="isSeen && view.matteAs === as"
        :data-test="`matte-as-${as.replace(' ', '-')}`"
        @click="see(isSeen && view.matteAs === as ? null : as)"
      >
        {{ as }}
      </button>
      <label v-if="isSeen && view.matteAs === 'cut out'"
        >over
        <select v-model="view.matteOver" class="word" aria-label="Cut out over" data-test="matte-over" @keydown.stop>
          <option v-for="ground in GROUNDS" :key="ground">{{ ground }}</option>
        </select></label
      >
      <button class="look" :class="{ on: !isSeen }" data-test="matte-as-none" @click="see(null)">not seen</button>
      <span class="grow" />
      <label class="keep"
        >keep as <WordField class="word" value="" aria-label="Keep as" data-test="matte-keep" @change="keepAs"
      /></label>
      <button class="look" data-test="matte-everywhere" @click="emit('everywhere')">everywhere</button>
    </div>
  </div>
</template>

<style scoped>
.slip {
  margin: 6px 0 4px -22px;
  padding: 8px 8px 8px 10px;
  background: var(--slip);
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
}
.slip.inner {
  margin-left: 0;
  background: none;
}
.whole .off {
  opacity: 0.45;
}
.whole p {
  margin: 0;
  line-height: 1.6;
}
.add,
.views {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 10px;
  font-size: 12px;
  color: var(--soft);
}
.whole {
  border-top: 1px dashed var(--line);
  margin-top: 5px;
  padding-top: 5px;
}
.views {
  margin-top: 6px;
}
.look {
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  padding: 0;
  font: inherit;
  color: inherit;
  cursor: pointer;
}
.look.on {
  color: var(--ink);
  font-weight: 600;
  border-color: var(--ink);
}
.keep input {
  width: 84px;
}
</style>
