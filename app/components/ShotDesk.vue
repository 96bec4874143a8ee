<script setup lang="ts">
// Objects as columns, passes as rows, a fader at each crossing.
import { DESK_NEUTRAL, DESK_ROWS, type DeskRow } from '../../core/layer/desk'
import { seenObjects, type RenderLayer, type ShotDocument } from '../../core/shot/document'
import { namesTerm, slipOf } from '../../core/shot/slip'
import { inOrder } from '../../core/shot/rows'
import { ownRender, renderOf } from '../../core/shot/tree'
import { nameColour } from '../../core/compose/showpass'
import type { Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const onlyChanged = ref(false)
const lower = ref<HTMLElement>()
const LABELS: Record<DeskRow, string> = {
  diffuse_direct: 'direct light',
  diffuse_indirect: 'indirect light',
  reflection: 'reflection',
  refraction: 'refraction',
  emission: 'emission',
  environment: 'environment',
  occlusion: 'occlusion',
  exposure: 'exposure',
  saturation: 'saturation',
}
const RANGE = (row: DeskRow): [number, number] => (row === 'exposure' ? [-4, 4] : row === 'occlusion' ? [0, 2] : [0, 4])
/** The render at work: that of the open layer, or the shot's own. */
const render = computed((): RenderLayer | undefined => {
  const { layers } = shot.document!.build
  const open = Object.hasOwn(layers, view.selectedLayer) ? layers[view.selectedLayer] : undefined
  return (
    (open && renderOf(layers, open)) ??
    ownRender(layers) ??
    inOrder(layers).find((layer): layer is RenderLayer => layer.kind === 'render')
  )
})
const desk = computed(() => render.value?.desk ?? { everything: {}, objects: {}, lights: undefined })
const file = computed(() => (render.value ? (render.value.file ?? shot.document!.passes.file) : null))
const deskIn = (document: ShotDocument): RenderLayer['desk'] =>
  (document.build.layers[render.value!.id] as RenderLayer).desk
const seen = computed(() => (file.value ? seenObjects(file.value) : []))
const names = computed(() =>
  seen.value.filter(
    name => !onlyChanged.value || Object.keys(desk.value.objects[name] ?? {}).length || view.picked.includes(name),
  ),
)
const columns = computed(() => ['', ...names.value])
const valueOf = (name: string, row: DeskRow): Animatable =>
  (name === '' ? desk.value.everything[row] : desk.value.objects[name]?.[row]) ?? DESK_NEUTRAL[row]
function put(name: string, row: DeskRow, value: Animatable, live: boolean) {
  shot.change(
    `Desk: ${LABELS[row]} of ${name || 'everything'}`,
    document => {
      const { everything, objects } = deskIn(document)
      const column = name === '' ? everything : (objects[name] ??= {})
      if (value === DESK_NEUTRAL[row]) delete column[row]
      else column[row] = value
      if (name && !Object.keys(objects[name]!).length) delete objects[name]
    },
    live,
  )
}
// The light of each group as the render knows them
const lights = computed(() => file.value?.lights ?? [])
const gainOf = (group: string): Animatable => desk.value.lights?.[group] ?? 1
function relight(group: string, value: Animatable, live: boolean) {
  shot.change(
    `Desk: light of ${group}`,
    document => {
      const gains = (deskIn(document).lights ??= {})
      if (value === 1) delete gains[group]
      else gains[group] = value
    },
    live,
  )
}
const colour = (name: string): string => {
  const [r, g, b] = nameColour(name)
  return `rgb(${[r, g, b].map(value => Math.round(Math.sqrt(Math.min(1, value)) * 255)).join(',')})`
}
const pick = (name: string): void => {
  if (name && !(view.pickedSeen === 'straight' && view.picked.includes(name)))
    view.pick({ name, seen: 'straight' }, false)
  else view.picked = []
}
const isMatteOf = (matte: typeof view.matte, name: string): boolean =>
  Object.values(matte?.terms ?? {}).some(term => term.kind === 'names' && term.names[0] === name)
const see = (name: string): void => {
  view.matte = isMatteOf(view.matte, name) ? null : slipOf(namesTerm([name]))
  view.matteAs = 'grey'
  view.matteLine = ''
}
</script>

<template>
  <section class="lower-sheet" aria-label="Desk" data-test="desk">
    <div class="scroll">
      <table v-if="file">
        <thead>
          <tr>
            <td />
            <th v-for="name in columns" :key="name" :class="{ picked: name && view.picked.includes(name) }">
              <button
                class="head"
                :title="name ? 'Click to pick, double-click to see it alone' : 'All objects together'"
                @click="pick(name)"
                @dblclick="name && see(name)"
              >
                <i v-if="name" :style="{ background: colour(name) }" />{{ name || 'everything' }}
              </button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in DESK_ROWS" :key="row">
            <th scope="row">{{ LABELS[row] }}</th>
            <td v-for="name in columns" :key="name" :class="{ picked: name && view.picked.includes(name) }">
              <DeskFader
                v-if="row !== 'environment' || name === ''"
                :model-value="valueOf(name, row)"
                :name="`${name || 'everything'}-${row}`"
                :label="`${LABELS[row]} of ${name || 'everything'}`"
                :low="RANGE(row)[0]"
                :high="RANGE(row)[1]"
                :least="row === 'exposure' ? -10 : 0"
                :most="row === 'exposure' ? 10 : 100"
                :neutral="DESK_NEUTRAL[row]"
                @change="(value, live) => put(name, row, value, live)"
              />
            </td>
          </tr>
        </tbody>
        <tbody v-if="lights.length" ref="lower" class="lights">
          <tr v-for="group in lights" :key="group">
            <th scope="row" :title="`All light of ${group}, wherever it falls`">light of {{ group }}</th>
            <td>
              <DeskFader
                :model-value="gainOf(group)"
                :name="`light-${group}`"
                :label="`Light of ${group}`"
                :low="0"
                :high="4"
                :least="0"
                :most="64"
                :neutral="1"
                @change="(value, live) => relight(group, value, live)"
              />
            </td>
            <td v-for="name in names" :key="name" />
          </tr>
        </tbody>
      </table>
      <p v-else class="soft panel">The desk shows every object of the render, once there are passes.</p>
    </div>
    <div class="row foot soft">
      <span>{{ render?.name }}: {{ names.length }} of {{ seen.length }} objects</span
      ><label class="row"><input v-model="onlyChanged" type="checkbox" />only changed</label
      ><button v-if="lights.length" class="word" data-test="to-lights" @click="lower?.scrollIntoView({ block: 'end' })">
        {{ lights.length }} lights below</button
      ><span class="grow" /><span>double-click a name to see it alone · <kbd>D</kbd> close</span>
    </div>
  </section>
</template>

<style scoped>
.scroll {
  overflow: auto;
  flex: 1;
  min-height: 0;
  padding: 6px 12px;
}
table {
  border-collapse: separate;
  border-spacing: 0;
}
th,
td {
  text-align: left;
  padding: 1px 8px;
  border-bottom: 1px dashed var(--line);
  min-width: 112px;
  font-weight: 400;
}
tbody th {
  position: sticky;
  left: 0;
  background: var(--sheet);
  z-index: 1;
  min-width: 96px;
}
thead td:first-child {
  min-width: 96px;
  position: sticky;
  left: 0;
  background: var(--sheet);
}
.picked {
  background: var(--card);
}
thead .picked {
  box-shadow: inset 0 2px var(--mark);
}
.head {
  background: none;
  border: 0;
  font: inherit;
  font-weight: 600;
  color: inherit;
  cursor: pointer;
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 3px 0;
  white-space: nowrap;
}
.head i {
  width: 12px;
  height: 12px;
  border-radius: 3px;
}
tbody.lights tr:first-child > * {
  border-top: 2px solid var(--line);
}
tbody.lights th {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.foot {
  padding: 3px 12px;
  border-top: 1px solid var(--line);
  font-size: 12px;
  gap: 16px;
}
</style>
