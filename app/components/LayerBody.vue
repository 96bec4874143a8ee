<script setup lang="ts">
// What an open layer says: how it is laid, its values in a sentence, its lines, and what can be done with it.
import {
  mdiArrowDown,
  mdiArrowUp,
  mdiCloseCircleOutline,
  mdiContentDuplicate,
  mdiGroup,
  mdiNoteTextOutline,
} from '@mdi/js'
import type { EntryValue } from '../../core/declare/field'
import { DISTANCE, standsByItself } from '../../core/layer/layer'
import { BLEND_MODES } from '../../core/plan/modes'
import { layerKindOf } from '../../core/layer/registry'
import type {
  FigureLayer,
  Layer,
  PictureLayer,
  RenderLayer,
  ShotDocument,
  TreatmentSettings,
} from '../../core/shot/document'
import { inOrder, type Rows } from '../../core/shot/rows'
import { LAID_FIELDS } from '../../core/shot/schema/layer'
import { groupOfLayer, isGroup, standsAt, withAllIn } from '../../core/shot/tree'
import { FAR } from '../../core/layer/layer'
import type { Animatable } from '../../core/time/curve'
import { makeElement } from '../../core/shot/elements'
import { standUp, takeTouching } from '../../core/shot/figures'
import { engine } from '~/composables/engine'
import { lineProps, propsOf } from '~/composables/fields'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: Layer }>()
const shot = useShot()
const view = useView()
const { layers, sight, all, edit, addInk, group, ungroup, duplicate, remove, move, step, solo } = useRecipe()
const kind = computed(() => layerKindOf(props.layer.kind))
const LAID = propsOf(LAID_FIELDS)
const laid = computed(() => ('opacity' in props.layer ? props.layer : undefined))

const set = (name: string, value: EntryValue, live: boolean): void =>
  edit(
    `${kind.value.values[name]?.label ?? (name === 'opacity' ? 'Opacity' : 'Distance')} of ${props.layer.name}`,
    props.layer.id,
    found => {
      Object.assign(found, { [name]: value })
    },
    live,
  )
const finder = (document: ShotDocument): Rows<TreatmentSettings> => document.build.layers[props.layer.id]!.treatments

// Where it stands
const own = computed(() => (props.layer as { distance?: Animatable }).distance)
const STANDS = { far: 'behind all', near: 'before all', deep: 'by its depth', at: '', amid: '' }
const putAt = (): void => {
  const at = standsAt(props.layer, sight.value)
  set('distance', typeof at === 'number' && Math.abs(at) < FAR ? at : DISTANCE.first!, false)
}
const letStand = (): void =>
  edit(`Where ${props.layer.name} stands`, props.layer.id, found => {
    delete (found as { distance?: Animatable }).distance
  })

// Which render it is of
const renders = computed(() => inOrder(layers.value).filter((layer): layer is RenderLayer => layer.kind === 'render'))
const of = computed(() => (props.layer as { of?: string }).of)
const setOf = (id: string): void =>
  edit(`Render of ${props.layer.name}`, props.layer.id, found => {
    if (id) Object.assign(found, { of: id })
    else delete (found as { of?: string }).of
  })
/** Whether any render tells things by their names. */
const named = computed(() => renders.value.some(render => (render.file ?? shot.document!.passes.file)?.objects.length))
const laysPass = computed(() => kind.value.holds === 'pass')
const file = computed(() =>
  props.layer.kind === 'render' ? (props.layer.file ?? shot.document!.passes.file) : undefined,
)
const isInked = computed(() =>
  Object.values(layers.value).some(layer => layer.kind === 'ink' && layer.of === props.layer.id),
)

// Which group it is in
const groups = computed(() => {
  const inside = new Set(withAllIn(layers.value, props.layer.id).map(({ id }) => id))
  return inOrder(layers.value).filter(layer => isGroup(layer) && !inside.has(layer.id))
})

// What the hand takes hold of on the picture
watch(
  () => [props.layer.id, kind.value.handles] as const,
  ([id, handles], before) => {
    if (before) view.handled = view.handled.filter(other => other !== before[0])
    if (handles) view.handled.push(id)
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  view.handled = view.handled.filter(id => id !== props.layer.id)
})

/** What stands flat becomes a figure. */
async function stand() {
  const { id, name } = props.layer
  const tried = structuredClone(toRaw(shot.document!)) as ShotDocument
  standUp(tried, id, shot.frame)
  const found = await engine.touching(tried, shot.frame, id).catch(() => null)
  shot.change(`Stand ${name} on the ground`, document => {
    if (document.build.layers[id]?.kind !== 'picture') return
    standUp(document, id, shot.frame)
    if (found) takeTouching(document.build.layers[id] as unknown as FigureLayer, found)
  })
}

const asElement = (): void =>
  shot.change(`Make ${props.layer.name} an element`, document => {
    if (document.build.layers[props.layer.id]?.kind === 'picture') makeElement(document, props.layer.id, shot.frame)
  })

const hold = (id: string | null): void => {
  view.held = id ? { id } : null
}
const noting = ref(false)
const writeNote = (event: Event): void => {
  const text = (event.target as HTMLTextAreaElement).value.trim().slice(0, 4000)
  edit('Note on a layer', props.layer.id, found => {
    if (text) found.note = text
    else delete found.note
  })
  noting.value = false
}
</script>

<template>
  <div class="body">
    <p v-if="layer.note !== undefined || noting" class="note">
      <textarea
        class="writing"
        :value="layer.note ?? ''"
        :aria-label="`Note on ${layer.name}`"
        placeholder="A note on this layer"
        data-test="note"
        rows="2"
        @keydown.stop
        @change="writeNote"
      />
    </p>
    <p v-if="groups.length">
      in
      <select
        class="word"
        :value="groupOfLayer(layers, layer) ?? ''"
        aria-label="Group that it is in"
        data-test="within"
        @change="move(layer.id, { group: ($event.target as HTMLSelectElement).value || null })"
      >
        <option value="">no group</option>
        <option v-for="entry in groups" :key="entry.id" :value="entry.id">{{ entry.name }}</option>
      </select>
    </p>
    <p v-if="laid">
      laid
      <select
        class="word figures"
        :value="laid.mode"
        aria-label="Blending mode"
        data-test="mode"
        @change="
          edit('Blending mode', layer.id, found => {
            Object.assign(found, { mode: ($event.target as HTMLSelectElement).value })
          })
        "
      >
        <option v-for="mode in BLEND_MODES" :key="mode.id" :value="mode.id">{{ mode.label }}</option>
      </select>
      at
      <ValueField
        :model-value="laid.opacity"
        v-bind="LAID.opacity"
        data-test="opacity"
        @change="(value, live) => set('opacity', value, live)"
      />
    </p>
    <p v-if="isGroup(layer)">
      what is in it is ordered
      <select
        class="word"
        :value="layer.ordered"
        aria-label="Order of what is in it"
        data-test="ordered"
        @change="
          edit('Order in a group', layer.id, found => {
            Object.assign(found, { ordered: ($event.target as HTMLSelectElement).value })
          })
        "
      >
        <option>by distance</option>
        <option>by hand</option>
      </select>
    </p>
    <WordsLines v-if="layer.kind === 'words'" :layer="layer" />
    <template v-if="kind.sentence && (layer.kind !== 'render' || file)"
      ><p v-for="sentence in kind.sentence.split('\n')" :key="sentence">
        <SentenceValues
          :sentence="sentence"
          :fields="kind.values"
          :values="layer as unknown as Record<string, EntryValue>"
          @change="set"
        /></p
    ></template>
    <FigureLines v-if="layer.kind === 'figure'" :layer="layer" />
    <SpecksLines v-if="layer.kind === 'specks'" :layer="layer" />
    <ElementLines v-if="layer.kind === 'element'" :layer="layer" />
    <StuckLines :id="layer.id" />
    <p v-if="laysPass ? renders.some(render => render.id !== of) : kind.holds === 'lamp' && renders.length">
      {{ laysPass ? 'of' : 'lights' }}
      <select
        class="word"
        :value="of ?? ''"
        aria-label="Render"
        data-test="of"
        @change="setOf(($event.target as HTMLSelectElement).value)"
      >
        <option v-if="!laysPass" value="">no render</option>
        <option v-for="render in renders" :key="render.id" :value="render.id">{{ render.name }}</option>
      </select>
    </p>
    <p v-if="!standsByItself(kind.stands) && !kind.everywhere">
      stands
      <template v-if="own === undefined"
        >{{ STANDS[kind.stands] }}
        <button class="word soft" data-test="put-at" @click="putAt">put at a distance</button></template
      ><template v-else
        ><ValueField
          :model-value="own"
          v-bind="lineProps(DISTANCE)"
          label="Distance"
          data-test="distance"
          @change="(value, live) => set('distance', value, live)"
        />
        away
        <button class="word soft" data-test="let-stand" @click="letStand">{{ STANDS[kind.stands] }}</button></template
      >
    </p>
    <BehindLines v-if="kind.behindNames && named" :layer="layer" />
    <LayerCut :layer="layer" />
    <PictureLines v-if="'picture' in layer && layer.picture" :layer="layer as PictureLayer" />
    <PlateLines v-if="layer.kind === 'plate'" :layer="layer" />
    <p v-if="layer.kind === 'picture'">
      <button class="word soft" data-test="stand-up" @click="stand">stand it on the ground</button> ·
      <button
        class="word soft"
        data-test="make-element"
        title="It stands in the scene and faces the camera; it may have many copies"
        @click="asElement"
      >
        make it an element
      </button>
    </p>
    <p v-if="layer.kind === 'picture' && renders.length">
      in the shadow of
      <select
        class="word"
        :value="of ?? ''"
        aria-label="Render whose shadow falls on it"
        data-test="caught-of"
        @change="setOf(($event.target as HTMLSelectElement).value)"
      >
        <option value="">nothing</option>
        <option v-for="render in renders" :key="render.id" :value="render.id">{{ render.name }}</option>
      </select>
      <template v-if="of">
        <SentenceValues
          sentence="at {shadow}, darkened by its occlusion {occlusion}"
          :fields="kind.values"
          :values="layer as unknown as Record<string, EntryValue>"
          @change="set"
        />
      </template>
    </p>
    <template v-if="layer.kind === 'render'">
      <p v-if="!file" class="soft">Render passes at the station Passes; they are laid here.</p>
      <RenderLines v-else :layer="layer" :inked="isInked" @ink="addInk(layer.id)" @set="set" />
    </template>
    <TreatmentList
      :rows="layer.treatments"
      :find="finder"
      :mattes="layer.kind === 'render' || isGroup(layer)"
      :hint="
        layer.kind === 'render'
          ? 'Click an object in the picture, then add a treatment: it works on that object alone.'
          : ''
      "
    />
    <div class="row tools">
      <button
        class="word soft"
        @pointerdown="hold(layer.id)"
        @pointerup="hold(null)"
        @pointerleave="view.held?.id === layer.id && hold(null)"
      >
        hold: without</button
      ><button class="word soft" :aria-pressed="view.solo.includes(layer.id)" data-test="solo" @click="solo(layer.id)">
        {{ view.solo.includes(layer.id) ? 'with the others' : 'only this' }}</button
      ><button
        v-if="isGroup(layer)"
        class="word soft"
        title="Takes the group away and leaves what is in it"
        data-test="dissolve"
        @click="ungroup(layer.id)"
      >
        dissolve</button
      ><span class="grow" /><span class="moves"
        ><v-btn
          :icon="mdiArrowUp"
          size="x-small"
          aria-label="Farther"
          title="Farther"
          @click="step(layer.id, -1)" /><v-btn
          :icon="mdiArrowDown"
          size="x-small"
          aria-label="Nearer"
          title="Nearer"
          @click="step(layer.id, 1)" /><v-btn
          :icon="mdiGroup"
          size="x-small"
          :aria-label="all.length > 1 ? `Group these ${all.length}` : 'Group'"
          :title="
            all.length > 1
              ? `Group these ${all.length} layers`
              : 'Put it in a group (Ctrl-click others to group them together)'
          "
          data-test="group"
          @click="group" /><v-btn
          :icon="mdiNoteTextOutline"
          size="x-small"
          aria-label="Note"
          title="A note"
          data-test="add-note"
          @click="noting = !noting" /><v-btn
          :icon="mdiContentDuplicate"
          size="x-small"
          aria-label="Double this layer"
          title="Double it"
          data-test="duplicate"
          @click="duplicate(layer.id)" /><v-btn
          :icon="mdiCloseCircleOutline"
          size="x-small"
          aria-label="Remove this layer"
          :title="isGroup(layer) ? 'Remove it with all that is in it' : 'Remove it'"
          @click="remove(all)"
      /></span>
    </div>
  </div>
</template>

<style scoped>
.body {
  padding: 0 14px 8px calc(32px + var(--depth) * 16px);
  line-height: 1.7;
}
.body p {
  margin: 0 0 4px;
}
.tools {
  font-size: 12px;
  margin-top: 4px;
  flex-wrap: wrap;
  gap: 2px 10px;
}
.moves {
  white-space: nowrap;
  margin-right: -8px;
}
.note textarea {
  font-size: 13px;
}
</style>
