<script setup lang="ts">
// The things of the scene by their names, in their groups. Of thousands only what is in sight is on the page.
import { mdiBallotOutline, mdiEyeOffOutline, mdiLockOutline } from '@mdi/js'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { inOrder } from '../../core/shot/rows'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

type Entry = SceneInfo['objects'][number]
const props = defineProps<{ objects: readonly Entry[] }>()
const shot = useShot()
const view = useView()
/** From so many on one looks for them. */
const MANY = 30
const ROW_TALL = 24

const settingsOf = (name: string) => shot.document!.scene.objects[name] ?? {}
const search = ref('')
const found = computed(() => {
  const wanted = search.value.trim().toLowerCase()
  return wanted ? props.objects.filter(({ name }) => name.toLowerCase().includes(wanted)) : props.objects
})
type Row = { key: string; group: string; entry?: Entry; names?: string[] }
/** Groups first, each with what is in it. */
const rows = computed((): Row[] => {
  const named = new Map<string, Entry[]>()
  for (const entry of found.value) {
    const group = settingsOf(entry.name).group ?? ''
    const list = named.get(group)
    if (list) list.push(entry)
    else named.set(group, [entry])
  }
  return [...named]
    .sort(([a], [b]) => (a === '' ? 1 : b === '' ? -1 : a.localeCompare(b)))
    .flatMap(([group, list]): Row[] => [
      ...(group ? [{ key: `group ${group}`, group, names: list.map(({ name }) => name) }] : []),
      ...list.map(entry => ({ key: `thing ${entry.name}`, group, entry })),
    ])
})
const picked = computed(() => new Set(view.picked))
const printed = computed(() => new Set(inOrder(shot.document!.scene.prints).map(({ on }) => on)))

const scroller = ref<HTMLElement>()
const down = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => scroller.value ?? null,
    getItemKey: (index: number) => rows.value[index]?.key ?? index,
    estimateSize: () => ROW_TALL,
    overscan: 4,
  })),
)
const seen = computed(() =>
  down.value.getVirtualItems().flatMap(({ index, start }) => {
    const row = rows.value[index]
    return row ? [{ row, at: { top: `${start}px`, height: `${ROW_TALL}px` } }] : []
  }),
)
// What is picked in the picture comes into sight
watch(
  () => view.picked.at(-1),
  async last => {
    await nextTick()
    const index = last === undefined ? -1 : rows.value.findIndex(({ entry }) => entry?.name === last)
    if (index >= 0) down.value.scrollToIndex(index, { align: 'auto' })
  },
)

function pick(name: string, event: MouseEvent) {
  view.picked = event.shiftKey
    ? picked.value.has(name)
      ? view.picked.filter(other => other !== name)
      : [...view.picked, name]
    : view.picked[0] === name && view.picked.length === 1
      ? []
      : [name]
}
const word = (entry: Entry): string =>
  entry.absent
    ? 'left out'
    : entry.role === 'catcher'
      ? 'shadow catcher'
      : entry.role === 'holdout'
        ? 'holdout'
        : entry.hidden
          ? 'hidden'
          : ''
</script>

<template>
  <div>
    <div v-if="objects.length > MANY" class="row find">
      <input
        v-model="search"
        class="text-line"
        placeholder="find"
        aria-label="Find things"
        data-test="find-thing"
        @keydown.stop
        @keydown.esc="search = ''"
      /><span class="soft" data-test="things-count">{{
        found.length === objects.length ? `${objects.length} things` : `${found.length} of ${objects.length}`
      }}</span>
    </div>
    <div ref="scroller" class="list">
      <div class="sheet" :style="{ height: `${down.getTotalSize()}px` }">
        <template v-for="{ row, at } in seen" :key="row.key">
          <button
            v-if="row.names"
            class="object head"
            :style="at"
            :title="`Pick all of ${row.group}`"
            @click="view.picked = row.names"
          >
            {{ row.group }}
          </button>
          <button
            v-else-if="row.entry"
            class="object"
            :class="{ on: picked.has(row.entry.name), absent: row.entry.absent, inside: row.group }"
            :style="at"
            :data-test="`object-${row.entry.name}`"
            @click="pick(row.entry.name, $event)"
          >
            <span class="grow cut">{{ row.entry.name }}</span><v-icon
              v-if="settingsOf(row.entry.name).locked"
              :icon="mdiLockOutline"
              size="13"
              title="locked"
            /><v-icon
              v-if="row.entry.hidden"
              :icon="mdiEyeOffOutline"
              size="13"
              title="hidden from the camera"
            /><v-icon
              v-if="printed.has(row.entry.name)"
              :icon="mdiBallotOutline"
              size="13"
              title="has a picture laid on it"
            /><span class="soft">{{ word(row.entry) }}</span>
          </button>
        </template>
      </div>
    </div>
  </div>
</template>

<style scoped>
.find {
  gap: 8px;
  padding-bottom: 6px;
}
.list {
  max-height: 384px;
  overflow-y: auto;
}
.sheet {
  position: relative;
}
.object {
  position: absolute;
  left: 0;
  right: 0;
  display: flex;
  gap: 5px;
  align-items: center;
  background: none;
  border: 0;
  font: inherit;
  color: inherit;
  text-align: left;
  padding: 2px 6px;
  border-radius: 4px;
  cursor: pointer;
}
.object:hover {
  background: var(--faint);
}
.object.on {
  background: var(--mark-tint);
}
.object.absent {
  opacity: 0.5;
}
.head {
  font-weight: 650;
}
.inside {
  padding-left: 16px;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
