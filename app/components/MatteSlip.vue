<script setup lang="ts">
// A slip: where a line works, as a short text. Lines joined by plain words, each with its values in place and a small
// picture of the matte so far; then lines that refine the whole.
import { mdiArrowDown, mdiArrowUp, mdiCloseCircleOutline } from '@mdi/js'
import type { EntryValue } from '../../core/declare/field'
import { firstValues } from '../../core/declare/values'
import { MATTES, matteKindOf } from '../../core/matte/registry'
import { REFINERS, refinerOf } from '../../core/matte/refine/registry'
import { passOf } from '../../core/render/passes'
import { identifier, type MatteTerm, type Slip } from '../../core/shot/document'
import { addRow, inOrder, stepRow } from '../../core/shot/rows'
import type { Join } from '../../core/shot/schema/matte'
import { addTerm, JOIN_WORDS, keptTerm, namesTerm, SEEN_WORDS, slipOf, usesOf, valuedTerm } from '../../core/shot/slip'
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
const mattes = computed(() => shot.document!.mattes)
const canvases = ref<Record<string, HTMLCanvasElement | null>>({})
useSlipPictures(() => props.slip, props.line, canvases)

/** Kinds of matte that are told by values alone. */
const VALUED = MATTES.filter(({ id }) => id !== 'names')

const edit = (label: string, mutate: (slip: Slip) => void, live = false): void => emit('change', label, mutate, live)
const editTerm = (id: string, label: string, mutate: (term: MatteTerm) => void, live = false): void =>
  edit(
    label,
    ({ terms }) => {
      const found = terms[id]
      if (found) mutate(found)
    },
    live,
  )
const setValue = (id: string, kind: string, name: string, value: EntryValue, live: boolean): void =>
  editTerm(
    id,
    `Matte: ${matteKindOf(kind).values[name]!.label ?? name}`,
    term => {
      if ('values' in term) term.values[name] = value
    },
    live,
  )
function add(label: string, term: MatteTerm) {
  const begins = !terms.value.length && !props.kept
  edit(label, slip => addTerm(slip, term))
  if (begins) void nextTick(() => see(view.matteAs))
}
/** Why a line holds nothing, where it cannot be made. */
function missing(term: MatteTerm): string {
  const { file } = shot.document!.passes
  if (term.kind === 'names') return file ? '' : 'There are no passes yet that know names.'
  if (term.kind === 'kept') return mattes.value[term.matte] ? '' : 'It was deleted.'
  const pass = matteKindOf(term.kind).needs?.(term.values)
  return pass && !file?.passes.includes(pass)
    ? `The passes have no “${passOf(pass)?.label ?? pass}” yet: render it at Passes.`
    : ''
}
const withoutName = (id: string, name: string): void =>
  editTerm(id, 'Take a name out of a matte', term => {
    if (term.kind === 'names') term.names = term.names.filter(other => other !== name)
  })
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

// Taken from the picture by a click
const isTaking = (id: string, name: string): boolean => view.taking?.term === id && view.taking.name === name
function take(term: string, name: string, what: 'colour' | 'metres') {
  view.taking = isTaking(term, name) ? null : { term, name, line: props.line, what }
}
watch(
  () => view.taken,
  taken => {
    const term = taken && props.slip.terms[taken.term]
    if (!term || !('values' in term)) return
    setValue(taken.term, term.kind, taken.name, taken.value, false)
    view.taken = null
  },
)
onBeforeUnmount(() => {
  view.taking = null
})

// Kept under names
const free = computed(() => inOrder(mattes.value).filter(({ id }) => id !== props.kept))
const opened = ref('')
const editKept = (id: string, label: string, mutate: (slip: Slip) => void, live: boolean): void =>
  shot.change(
    label,
    document => {
      const found = document.mattes[id]
      if (found) mutate(found.slip)
    },
    live,
  )
function keepAs(event: Event) {
  const name = (event.target as HTMLInputElement).value.trim()
  if (!name || !terms.value.length) return
  const id = identifier()
  const slip = JSON.parse(JSON.stringify(props.slip)) as Slip
  shot.change(`Keep a matte as ${name}`, document => {
    addRow(document.mattes, { id, name, slip })
  })
  edit(`Keep a matte as ${name}`, slip => Object.assign(slip, slipOf(keptTerm(id))))
}
const rename = (id: string, event: Event): void => {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name)
    shot.change('Rename a matte', document => {
      if (document.mattes[id]) document.mattes[id].name = name
    })
}
const uses = (id: string): string => {
  const found = usesOf(shot.document!, id)
  return `Used ${found.length === 1 ? 'once' : `${found.length} times`}: ${found.map(({ label }) => label).join('; ')}.`
}

const VIEWS: MatteAs[] = ['veil', 'grey', 'cut out']
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
    <div
      v-for="(term, index) in terms"
      :key="term.id"
      class="term"
      :class="{ off: !term.on }"
      :data-test="`term-${term.kind}`"
    >
      <canvas :ref="found => (canvases[term.id] = found as HTMLCanvasElement)" class="small" width="104" height="68" />
      <div class="says">
        <p>
          <select
            v-if="index"
            class="word join"
            :value="term.join"
            aria-label="Joined"
            data-test="term-join"
            @change="
              editTerm(term.id, 'How mattes are joined', found => {
                found.join = ($event.target as HTMLSelectElement).value as Join
              })
            "
            @keydown.stop
          >
            <option v-for="(words, join) in JOIN_WORDS" :key="join" :value="join">{{ words }}</option>
          </select>
          <span v-else-if="term.join === 'not'" class="join">all but </span>
          {{ term.invert ? ' what is not ' : ' ' }}
          <template v-if="term.kind === 'names'"
            ><button
              v-for="name in term.names"
              :key="name"
              class="chip"
              :title="`Take ${name} out`"
              @click="withoutName(term.id, name)"
            >
              {{ name }}</button
            >{{ SEEN_WORDS[term.seen ?? 'straight'] }}</template
          ><template v-else-if="term.kind === 'kept'"
            ><button
              class="chip"
              :title="mattes[term.matte] ? uses(term.matte) : ''"
              data-test="term-kept-name"
              @click="opened = opened === term.id ? '' : term.id"
            >
              {{ mattes[term.matte]?.name ?? 'a matte that is gone' }}
            </button></template
          ><template v-else
            >{{ matteKindOf(term.kind).label.toLowerCase() }}{{ ' '
            }}<SentenceValues
              :sentence="matteKindOf(term.kind).sentence"
              :fields="matteKindOf(term.kind).values"
              :values="term.values"
              @change="(name, value, live) => setValue(term.id, term.kind, name, value, live)"
          /></template>
        </p>
        <p v-if="term.on && missing(term)" class="soft" role="status" data-test="term-missing">{{ missing(term) }}</p>
        <div class="tools">
          <button
            class="word"
            :aria-pressed="term.on"
            data-test="term-on"
            @click="
              editTerm(term.id, term.on ? 'Line of a matte off' : 'Line of a matte on', found => {
                found.on = !found.on
              })
            "
          >
            {{ term.on ? 'off' : 'on' }}</button><button
            class="word"
            data-test="term-invert"
            @click="
              editTerm(term.id, 'Turn a line of a matte over', found => {
                found.invert = !found.invert
              })
            "
          >
            turn over</button
          ><template v-if="'values' in term"
            ><button
              v-if="matteKindOf(term.kind).sample"
              class="word"
              :class="{ on: isTaking(term.id, matteKindOf(term.kind).sample!) }"
              :aria-pressed="isTaking(term.id, matteKindOf(term.kind).sample!)"
              data-test="term-take-sample"
              @click="take(term.id, matteKindOf(term.kind).sample!, 'colour')"
            >
              {{ isTaking(term.id, matteKindOf(term.kind).sample!) ? 'click it in the picture' : 'take it' }}</button
            ><button
              v-for="name in matteKindOf(term.kind).metres ?? []"
              :key="name"
              class="word"
              :class="{ on: isTaking(term.id, name) }"
              :aria-pressed="isTaking(term.id, name)"
              :data-test="`term-take-${name}`"
              @click="take(term.id, name, 'metres')"
            >
              {{
                isTaking(term.id, name)
                  ? 'click it in the picture'
                  : `take ${matteKindOf(term.kind).values[name]!.label}`
              }}
            </button></template
          >
          <span class="grow" />
          <v-btn
            v-if="terms.length > 1"
            :icon="mdiArrowUp"
            size="x-small"
            aria-label="Line earlier"
            @click="edit('Order of a matte', found => stepRow(found.terms, term.id, -1))"
          /><v-btn
            v-if="terms.length > 1"
            :icon="mdiArrowDown"
            size="x-small"
            aria-label="Line later"
            @click="edit('Order of a matte', found => stepRow(found.terms, term.id, 1))"
          /><v-btn
            :icon="mdiCloseCircleOutline"
            size="x-small"
            aria-label="Remove the line"
            data-test="term-remove"
            @click="
              edit('Remove a line of a matte', found => {
                delete found.terms[term.id]
              })
            "
          />
        </div>
        <template v-if="term.kind === 'kept' && opened === term.id && mattes[term.matte]">
          <label class="name"
            >called
            <WordField
              class="word"
              :value="mattes[term.matte]!.name"
              aria-label="Name of the matte"
              data-test="kept-name"
              @change="rename(term.matte, $event)"
          /></label>
          <p class="soft">{{ uses(term.matte) }} What is changed here changes everywhere.</p>
          <MatteSlip
            :slip="mattes[term.matte]!.slip"
            :line="line"
            :kept="term.matte"
            @change="(label, mutate, live) => editKept(term.matte, label, mutate, live)"
          />
        </template>
      </div>
    </div>
    <p v-if="!terms.length" class="soft">Nothing is said yet, so it works everywhere.</p>
    <div class="add">
      <button
        v-if="view.picked.length"
        class="word"
        data-test="term-add-picked"
        @click="add('Matte from picked objects', namesTerm(view.picked, view.pickedSeen))"
      >
        + {{ view.picked.join(', ') }}{{ SEEN_WORDS[view.pickedSeen] }}</button
      ><button
        v-for="kind in VALUED"
        :key="kind.id"
        class="word"
        :title="kind.help"
        :data-test="`term-add-${kind.id}`"
        @click="add(`Matte by ${kind.label.toLowerCase()}`, valuedTerm(kind.id, shot.document!.frame))"
      >
        + {{ kind.label.toLowerCase() }}</button
      ><button
        v-for="matte in free"
        :key="matte.id"
        class="word"
        :title="uses(matte.id)"
        data-test="term-add-kept"
        @click="add(`Matte ${matte.name}`, keptTerm(matte.id))"
      >
        + {{ matte.name }}
      </button>
      <span v-if="!view.picked.length" class="soft">or pick objects in the picture</span>
    </div>
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
.term {
  display: flex;
  gap: 9px;
  padding: 4px 0;
}
.term.off p,
.term.off .small,
.whole .off {
  opacity: 0.45;
}
.small {
  width: 52px;
  height: 34px;
  flex: none;
  background: #000;
  border-radius: 2px;
}
.says {
  flex: 1;
  min-width: 0;
}
.says p,
.whole p {
  margin: 0;
  line-height: 1.6;
}
.word.on {
  color: var(--mark);
}
.join {
  color: var(--mark);
  font-weight: 600;
}
.chip {
  background: var(--faint);
  border: 0;
  border-radius: 10px;
  padding: 0 8px;
  margin-right: 3px;
  font: inherit;
  font-size: 12px;
  color: inherit;
  cursor: pointer;
}
.tools,
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
.keep input,
.name input {
  width: 84px;
}
</style>
