<script setup lang="ts">
// Things of a render and layers as columns, light and grade as rows, a fader at each crossing. Only what is in sight of it is
// on the page: there may be thousands.
import { useVirtualizer } from '@tanstack/vue-virtual'
import { fieldOfLine } from '../../core/shot/desk'
import { EVERYTHING, ORDERS, SHOWN, useDesk, type DeskColumn, type DeskRowShown } from '~/composables/desk'
import { useDeskRound } from '~/composables/deskRound'
import { useView } from '~/stores/view'

const view = useView()
const desk = useDesk()
const { columns, lines, render, file, lights, search, shown, onlyPicked, onlyChanged, ordered, copied, areLayers } =
  desk
const LABEL_WIDE = 104
const COLUMN_WIDE = 122
const HEAD_TALL = 40
const ROW_TALL = 24
/** What stays where it is: what rows are called, and everything together. */
const FIXED = LABEL_WIDE + COLUMN_WIDE
const scroller = ref<HTMLElement>()
const across = useVirtualizer(
  computed(() => ({
    horizontal: true,
    count: columns.value.length,
    getScrollElement: () => scroller.value ?? null,
    getItemKey: (index: number) => columns.value[index]?.key ?? index,
    estimateSize: () => COLUMN_WIDE,
    paddingStart: FIXED,
    scrollPaddingStart: FIXED,
    overscan: 1,
  })),
)
const down = useVirtualizer(
  computed(() => ({
    count: lines.value.length,
    getScrollElement: () => scroller.value ?? null,
    getItemKey: (index: number) => lines.value[index]?.key ?? index,
    estimateSize: () => ROW_TALL,
    paddingStart: HEAD_TALL,
    scrollPaddingStart: HEAD_TALL,
    overscan: 2,
  })),
)
const rows = computed(() =>
  down.value.getVirtualItems().flatMap(({ index, start }) => {
    const row = lines.value[index]
    return row ? [{ row, at: { top: `${start}px`, height: `${ROW_TALL}px` } }] : []
  }),
)
const seen = computed(() =>
  across.value.getVirtualItems().flatMap(({ index, start }) => {
    const column = columns.value[index]
    return column ? [{ column, index, at: { left: `${start}px`, width: `${COLUMN_WIDE}px` } }] : []
  }),
)

/** How far a fader goes, where that is less than what may be typed. */
const REACHES: Record<string, readonly [number, number]> = {
  exposure: [-4, 4],
  occlusion: [0, 2],
  contrast: [0, 2],
  warmth: [-100, 100],
  tint: [-40, 40],
  saturation: [0, 2],
  opacity: [0, 1],
}
const reachOf = ({ line, key }: DeskRowShown): readonly [number, number] =>
  (line.kind === 'light' ? undefined : REACHES[key]) ?? [0, 4]
/** All things of the render together, with its name. */
const together = computed(() => ({ ...EVERYTHING, about: render.value?.name ?? '' }))
const headProps = (column: DeskColumn) => ({
  column,
  picked: desk.isPicked(column),
  changed: desk.changed(column.place),
  copied: copied.value?.name ?? '',
})
const cellProps = (column: DeskColumn, row: DeskRowShown) => ({
  field: fieldOfLine(row.line),
  reach: reachOf(row),
  name: column.key ? `${column.name}-${row.key}` : row.line.kind === 'light' ? row.key : `everything-${row.key}`,
  label: `${row.label} of ${column.name}`,
})

const show = (column: DeskColumn): void => {
  const index = columns.value.findIndex(({ key }) => key === column.key)
  if (index >= 0) across.value.scrollToIndex(index, { align: 'auto' })
}
const { stops, at: roundAt, begin, step, isCompared, toggleCompare, end } = useDeskRound(columns, desk.seen, show)
// What is picked, also in the picture, comes into sight here, and stays there when others come and go
watch(
  () => [view.picked.at(-1), columns.value.length, ordered.value],
  async ([picked]) => {
    await nextTick()
    const column = columns.value.find(({ place }) => place.kind === 'thing' && place.name === picked)
    if (column) show(column)
  },
)
/** The same row of the column beside, from -1 (everything) on. */
async function aside(from: number, by: 1 | -1, row: DeskRowShown) {
  const to = from + by
  if (to < -1 || to >= columns.value.length) return
  if (to >= 0) across.value.scrollToIndex(to, { align: 'auto' })
  for (let tries = 0; tries < 5; tries++) {
    await nextTick()
    await new Promise(requestAnimationFrame)
    const found = scroller.value?.querySelector<HTMLElement>(
      `[data-at="${to}"] [data-line="${CSS.escape(row.key)}"] [role=spinbutton]`,
    )
    if (found) {
      found.focus({ preventScroll: true })
      return
    }
  }
}
function act(column: DeskColumn, what: 'see' | 'copy' | 'lay' | 'clear' | 'round') {
  if (what === 'round') begin(column)
  else desk[what](column)
}
const toLights = (): void => down.value.scrollToIndex(lines.value.length - 1)
const hover = (column: DeskColumn | null): void => {
  view.hovered = column?.place.kind === 'thing' ? column.name : ''
}
</script>

<template>
  <section class="lower-sheet" aria-label="Desk" data-test="desk">
    <div ref="scroller" class="scroll" @mouseleave="hover(null)">
      <div class="sheet" :style="{ width: `${across.getTotalSize()}px`, height: `${down.getTotalSize()}px` }">
        <div class="fixed" :style="{ width: `${FIXED}px` }">
          <div class="top" :style="{ height: `${HEAD_TALL}px` }">
            <span :style="{ width: `${LABEL_WIDE}px` }" />
            <DeskHead
              class="grow"
              v-bind="headProps(together)"
              @pick="desk.pick(EVERYTHING, false)"
              @do="what => act(EVERYTHING, what)"
            />
          </div>
          <div
            v-for="{ row, at } in rows"
            :key="row.key"
            class="line"
            :class="{ lamp: row.line.kind === 'light' }"
            :style="at"
            data-at="-1"
          >
            <span class="label" :style="{ width: `${LABEL_WIDE}px` }" :title="row.label">{{ row.label }}</span><span
              class="grow cell"
              :data-line="row.key"
              ><DeskCell
                v-if="desk.numberAt(EVERYTHING, row) !== undefined"
                :model-value="desk.numberAt(EVERYTHING, row)!"
                v-bind="cellProps(EVERYTHING, row)"
                @change="(value, live) => desk.put(EVERYTHING, row, value, live)"
                @aside="by => aside(-1, by, row)"
            /></span>
          </div>
        </div>
        <div
          v-for="{ column, index, at } in seen"
          :key="column.key"
          class="column"
          :class="{ picked: desk.isPicked(column) }"
          :style="at"
          :data-at="index"
          @mouseenter="hover(column)"
        >
          <div class="top" :style="{ height: `${HEAD_TALL}px` }">
            <DeskHead
              class="grow"
              v-bind="headProps(column)"
              @pick="more => desk.pick(column, more)"
              @do="what => act(column, what)"
            />
          </div>
          <div v-for="{ row, at: where } in rows" :key="row.key" class="cell of" :data-line="row.key" :style="where">
            <DeskCell
              v-if="desk.numberAt(column, row) !== undefined"
              :model-value="desk.numberAt(column, row)!"
              v-bind="cellProps(column, row)"
              @change="(value, live) => desk.put(column, row, value, live)"
              @aside="by => aside(index, by, row)"
            />
          </div>
        </div>
      </div>
    </div>
    <div class="row foot">
      <template v-if="view.round"
        ><button class="word" data-test="round-back" @click="step(-1)">previous</button
        ><span data-test="round-at"
          ><b>{{ view.round.name }}</b
          ><span class="soft">, {{ roundAt + 1 }} of {{ stops.length }}</span></span
        ><button class="word" data-test="round-on" @click="step(1)">next</button><kbd>N</kbd
        ><span class="grow" /><button
          class="word"
          :class="{ on: isCompared }"
          data-test="round-compare"
          @click="toggleCompare"
        >
          as it was beside now</button
        ><span class="soft">hold <kbd>B</kbd> as it was</span
        ><button class="word" data-test="round-end" @click="end">end the round</button></template
      ><template v-else
        ><input
          v-model="search"
          class="find"
          type="search"
          placeholder="find a column"
          aria-label="Find a column of the desk"
          data-test="desk-find"
          @keydown.stop
        /><select v-model="shown" class="word" aria-label="What has columns" data-test="desk-shown" @keydown.stop>
          <option v-for="which in SHOWN" :key="which" :value="which">{{ which }}</option></select
        ><label class="row"><input v-model="onlyPicked" type="checkbox" data-test="desk-picked" />only picked</label
        ><label class="row"><input v-model="onlyChanged" type="checkbox" data-test="desk-changed" />only changed</label
        ><select v-model="ordered" class="word" aria-label="Order of the columns" data-test="desk-order" @keydown.stop>
          <option v-for="which in ORDERS" :key="which" :value="which">{{ which }}</option></select
        ><span class="soft" data-test="desk-count">{{ columns.length }} columns</span
        ><button v-if="lights.length && !areLayers" class="word" data-test="to-lights" @click="toLights">
          {{ lights.length }} lights below</button
        ><span v-if="!file" class="soft">objects of the render come here once there are passes</span
        ><span class="grow" /><button
          class="word"
          :disabled="!stops.length"
          title="From object to object, each lit up and seen as it was before"
          data-test="round-begin"
          @click="begin()"
        >
          go round</button
        ><span class="soft"><kbd>D</kbd> close</span></template
      >
    </div>
  </section>
</template>

<style scoped>
.scroll {
  overflow: auto;
  flex: 1;
  min-height: 0;
  /* Rows stand under what stays, not behind a glass */
  overscroll-behavior: contain;
}
.sheet {
  position: relative;
  min-width: 100%;
}
.fixed {
  position: sticky;
  left: 0;
  height: 100%;
  background: var(--sheet);
  z-index: 3;
  box-shadow: 1px 0 var(--line);
}
.top {
  position: sticky;
  top: 0;
  z-index: 2;
  background: inherit;
  display: flex;
  padding-right: 10px;
}
.line,
.of {
  position: absolute;
  left: 0;
  right: 0;
  display: flex;
  align-items: center;
}
.cell {
  padding-right: 10px;
  height: 100%;
  border-bottom: 1px dashed var(--faint);
}
.of {
  padding-left: 8px;
}
.label {
  padding: 0 8px 0 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lamp .label {
  font-style: italic;
}
.column {
  position: absolute;
  top: 0;
  height: 100%;
  background: var(--sheet);
}
.column .top {
  padding-left: 8px;
}
.column.picked {
  background: var(--card);
  box-shadow: inset 0 2px var(--mark);
}
.foot {
  padding: 3px 12px;
  min-height: 31px;
  border-top: 1px solid var(--line);
  font-size: 12px;
  gap: 14px;
}
.find {
  width: 120px;
  font: inherit;
  padding: 1px 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--card);
  color: inherit;
}
.word.on {
  border-color: var(--mark);
}
</style>
