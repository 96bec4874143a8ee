<script setup lang="ts">
// A line of a slip: how it is joined, what it says with its values in place, what can be done with it.
import { mdiArrowDown, mdiArrowUp, mdiCloseCircleOutline } from '@mdi/js'
import type { EntryValue, Row } from '../../core/declare/field'
import { ownOf } from '../../core/declare/own'
import { counts } from '../../core/declare/values'
import { matteKindOf } from '../../core/matte/registry'
import { passOf, tellsOf } from '../../core/render/passes'
import type { MatteTerm, NamesMatte, Slip } from '../../core/shot/document'
import { stepRow } from '../../core/shot/rows'
import type { Join } from '../../core/matte/join'
import { JOIN_WORDS, usesSaid as said } from '../../core/shot/slip'
import { useShot } from '~/stores/shot'
import { useView, type Taking } from '~/stores/view'

const props = defineProps<{
  term: MatteTerm & Row
  /** The line of the recipe that the slip is of. */
  line: string
  first: boolean
  movable: boolean
}>()
const emit = defineEmits<{ change: [label: string, mutate: (slip: Slip) => void, live?: boolean] }>()
const canvas = ref<HTMLCanvasElement>()
defineExpose({ canvas })
const shot = useShot()
const view = useView()
const mattes = computed(() => shot.document!.mattes)
/** Of what is told by values; the names of a registry have none. */
const kind = computed(() => matteKindOf(props.term.kind === 'kept' ? 'names' : props.term.kind))

const change = (label: string, mutate: (slip: Slip) => void, live = false): void => emit('change', label, mutate, live)
const editTerm = (label: string, mutate: (term: MatteTerm) => void, live = false): void =>
  change(
    label,
    ({ terms }) => {
      const found = terms[props.term.id]
      if (found) mutate(found)
    },
    live,
  )
const setValue = (name: string, value: EntryValue, live: boolean): void =>
  editTerm(
    `Matte: ${kind.value.values[name]!.label ?? name}`,
    term => {
      if ('values' in term) term.values[name] = value
    },
    live,
  )
/** The file whose names a line of a figure's own slip takes: that of its picture. */
const figure = computed(() => {
  const layer = ownOf(shot.document!.build.layers, props.line)
  return layer?.kind === 'figure' ? layer : undefined
})
/** Why it holds nothing, where it cannot be made. */
const missing = computed(() => {
  const { file } = shot.document!.passes
  const { term } = props
  if (term.kind === 'names' && figure.value)
    return figure.value.names ? '' : 'Its picture knows no names: those of an OpenEXR with Cryptomatte do.'
  if (term.kind === 'names') return file ? '' : 'There are no passes yet that know names.'
  if (term.kind === 'kept') return mattes.value[term.matte] ? '' : 'It was deleted.'
  if (pictured.value) return pictured.value.picture ? '' : 'It needs a picture.'
  const pass = 'values' in term ? kind.value.needs?.(term.values) : undefined
  return pass && !tellsOf(file?.passes ?? [], pass)
    ? `The passes have no “${passOf(pass)?.label ?? pass}” yet: render it at Passes.`
    : ''
})
/** Distances that count at its values. */
const metres = computed(() => {
  const { term } = props
  if (!('values' in term)) return []
  return (kind.value.metres ?? []).filter(name => counts(kind.value.values, name, term.values))
})
/** Where it is made of a picture of its own. */
const pictured = computed(() => {
  const { term } = props
  return 'values' in term && kind.value.pictured?.(term.values) ? term : undefined
})
const editNames = (label: string, mutate: (term: NamesMatte) => void): void =>
  editTerm(label, term => {
    if (term.kind === 'names') mutate(term)
  })
// Taken from the picture by a click
const isTaking = (name: string): boolean => view.taking?.term === props.term.id && view.taking.name === name
function take(name: string, what: Taking['what']) {
  const again = what !== 'names' && kind.value.values[name]!.kind === 'list'
  view.taking = isTaking(name) ? null : { term: props.term.id, name, line: props.line, what, again }
}
watch(
  () => view.taken,
  taken => {
    if (taken?.term !== props.term.id) return
    view.taken = null
    if (taken.what === 'names')
      return editNames('Names into a matte', term => {
        term.names = [...new Set([...term.names, ...(taken.value as string[])])]
      })
    if (!('values' in props.term)) return
    const field = kind.value.values[taken.name]!
    if (field.kind !== 'list') return setValue(taken.name, taken.value as number | number[], false)
    const before = (props.term.values[taken.name] ?? []) as number[][]
    if (before.length < field.most) setValue(taken.name, [...before, taken.value as number[]], false)
    if (before.length + 1 >= field.most && isTaking(taken.name)) view.taking = null
  },
)
onBeforeUnmount(() => {
  if (view.taking?.term === props.term.id) view.taking = null
})

// Its handles are on the picture, and on the soundings, while the slip is open
onMounted(() => {
  if (kind.value.handles ?? kind.value.metres) view.handled.push(props.term.id)
})
onBeforeUnmount(() => {
  view.handled = view.handled.filter(id => id !== props.term.id)
})

// Kept under a name
const opened = ref(false)
const editKept = (label: string, mutate: (slip: Slip) => void, live: boolean): void =>
  shot.change(
    label,
    document => {
      const found = props.term.kind === 'kept' && document.mattes[props.term.matte]
      if (found) mutate(found.slip)
    },
    live,
  )
const rename = (id: string, event: Event): void => {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name)
    shot.change('Rename a matte', document => {
      if (document.mattes[id]) document.mattes[id].name = name
    })
}
const usesSaid = (id: string): string => said(shot.document!, id)
</script>

<template>
  <div class="term" :class="{ off: !term.on }" :data-test="`term-${term.kind}`">
    <canvas ref="canvas" class="small" width="104" height="68" />
    <div class="says">
      <p>
        <select
          v-if="!first"
          class="word join"
          :value="term.join"
          aria-label="Joined"
          data-test="term-join"
          @change="
            editTerm('How mattes are joined', found => {
              found.join = ($event.target as HTMLSelectElement).value as Join
            })
          "
          @keydown.stop
        >
          <option v-for="(words, join) in JOIN_WORDS" :key="join" :value="join">{{ words }}</option>
        </select>
        <span v-else-if="term.join === 'not'" class="join">all but </span>
        {{ term.invert ? ' what is not ' : ' ' }}
        <MatteNames
          v-if="term.kind === 'names'"
          :term="term"
          :known="figure?.names?.objects"
          @edit="editNames"
        /><template v-else-if="term.kind === 'kept'"
          ><button
            class="chip"
            :title="mattes[term.matte] ? usesSaid(term.matte) : ''"
            data-test="term-kept-name"
            @click="opened = !opened"
          >
            {{ mattes[term.matte]?.name ?? 'a matte that is gone' }}
          </button></template
        ><template v-else-if="'values' in term"
          >{{ kind.label.toLowerCase() }}{{ ' '
          }}<SentenceValues
            :sentence="kind.sentence"
            :fields="kind.values"
            :values="term.values"
            @change="setValue" /></template
        ><template v-else>{{ kind.label.toLowerCase() }}</template>
      </p>
      <p v-if="pictured">
        <LinePicture
          asked
          :picture="pictured.picture"
          @take="
            picture =>
              editTerm('Picture of a matte', found => {
                if ('values' in found) found.picture = picture
              })
          "
        />
      </p>
      <MatteShapes
        v-if="term.kind === 'shape'"
        :term="term"
        @edit="(label, mutate, live) => editTerm(label, found => void (found.kind === 'shape' && mutate(found)), live)"
      /><MatteStrokes
        v-else-if="term.kind === 'brush'"
        :term="term"
        @edit="(label, mutate, live) => editTerm(label, found => void (found.kind === 'brush' && mutate(found)), live)"
      />
      <p v-if="term.on && missing" class="soft" role="status" data-test="term-missing">{{ missing }}</p>
      <div class="tools">
        <button
          class="word"
          :aria-pressed="term.on"
          data-test="term-on"
          @click="
            editTerm(term.on ? 'Line of a matte off' : 'Line of a matte on', found => {
              found.on = !found.on
            })
          "
        >
          {{ term.on ? 'off' : 'on' }}</button><button
          class="word"
          data-test="term-invert"
          @click="
            editTerm('Turn a line of a matte over', found => {
              found.invert = !found.invert
            })
          "
        >
          turn over</button
        ><button
          v-if="term.kind === 'names'"
          class="word"
          :class="{ on: isTaking('names') }"
          :aria-pressed="isTaking('names')"
          title="Names all that lies wholly in a frame drawn on the picture"
          data-test="term-take-names"
          @click="take('names', 'names')"
        >
          {{ isTaking('names') ? 'draw a frame round them' : 'round by a frame' }}</button
        ><template v-if="'values' in term"
          ><button
            v-if="kind.sample"
            class="word"
            :class="{ on: isTaking(kind.sample!) }"
            :aria-pressed="isTaking(kind.sample!)"
            :data-test="`term-take-${kind.sample}`"
            @click="take(kind.sample!, 'colour')"
          >
            {{ isTaking(kind.sample!) ? 'click it in the picture' : 'take it' }}</button
          ><button
            v-for="{ name, label } in kind.samples ?? []"
            :key="name"
            class="word"
            :class="{ on: isTaking(name) }"
            :aria-pressed="isTaking(name)"
            :data-test="`term-take-${name}`"
            @click="take(name, 'colour')"
          >
            {{ isTaking(name) ? 'click them in the picture; here ends' : label }}</button
          ><button
            v-for="name in metres"
            :key="name"
            class="word"
            :class="{ on: isTaking(name) }"
            :aria-pressed="isTaking(name)"
            :data-test="`term-take-${name}`"
            @click="take(name, 'metres')"
          >
            {{ isTaking(name) ? 'click it in the picture' : `take ${kind.values[name]!.label}` }}
          </button></template
        >
        <span class="grow" />
        <v-btn
          v-if="movable"
          :icon="mdiArrowUp"
          size="x-small"
          aria-label="Line earlier"
          @click="change('Order of a matte', found => stepRow(found.terms, term.id, -1))"
        /><v-btn
          v-if="movable"
          :icon="mdiArrowDown"
          size="x-small"
          aria-label="Line later"
          @click="change('Order of a matte', found => stepRow(found.terms, term.id, 1))"
        /><v-btn
          :icon="mdiCloseCircleOutline"
          size="x-small"
          aria-label="Remove the line"
          data-test="term-remove"
          @click="
            change('Remove a line of a matte', found => {
              delete found.terms[term.id]
            })
          "
        />
      </div>
      <template v-if="term.kind === 'kept' && opened && mattes[term.matte]">
        <label class="name"
          >called
          <WordField
            class="word"
            :value="mattes[term.matte]!.name"
            aria-label="Name of the matte"
            data-test="kept-name"
            @change="rename(term.matte, $event)"
        /></label>
        <p class="soft">{{ usesSaid(term.matte) }} What is changed here changes everywhere.</p>
        <MatteSlip
          :slip="mattes[term.matte]!.slip"
          :line="line"
          :kept="term.matte"
          @change="(label, mutate, live) => editKept(label, mutate, live)"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.term {
  display: flex;
  gap: 9px;
  padding: 4px 0;
}
.term.off p,
.term.off .small {
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
.says p {
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
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 10px;
  font-size: 12px;
  color: var(--soft);
}
.name input {
  width: 84px;
}
</style>
