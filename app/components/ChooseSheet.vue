<script setup lang="ts">
// One is chosen of many by what it does to this very picture: one search field, groups, and a small live picture of
// each. Those that were used last come first; Enter takes the first.
import { useShot } from '~/stores/shot'

interface Choice {
  id: string
  label: string
  help: string
  group: string
}
const props = defineProps<{
  /** What is chosen, as one word. */
  what: string
  /** Before an entry's id, where tests look for it. */
  mark: string
  entries: readonly Choice[]
  groups: readonly string[]
  placeholder: string
  /** Makes ready what all small pictures need; what it returns draws one. */
  draw: () => Promise<(id: string, canvas: HTMLCanvasElement) => Promise<void>>
  /** Whether the slot has something of that. */
  more?: (words: readonly string[], group: string) => boolean
}>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ choose: [id: string]; opened: []; rest: [words: readonly string[], group: string] }>()
const shot = useShot()
const words = ref('')
const group = ref('all')
const field = ref<HTMLInputElement>()
/** The last of each: one that a search brought back shows what the one before it did. */
const canvases = new Map<string, HTMLCanvasElement>()
function hold(id: string, canvas: HTMLCanvasElement | null) {
  const before = canvases.get(id)
  if (!canvas || canvas === before) return
  if (before) canvas.getContext('2d')!.drawImage(before, 0, 0)
  canvases.set(id, canvas)
}

const KEPT_AT = `northmist/${props.what}s`
const MOST_RECENT = 6
const recent = ref<string[]>([])
const kept = (): string[] => {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(KEPT_AT) ?? '[]')
    return Array.isArray(found) ? found.filter(id => props.entries.some(one => one.id === id)) : []
  } catch {
    return []
  }
}
const asked = computed(() => words.value.toLowerCase().split(/\s+/).filter(Boolean))
/** A word that begins the name counts for more than one in the help. */
const found = computed(() => {
  const rank = ({ id, label, help, group: of }: Choice): number => {
    const name = label.toLowerCase()
    const all = `${name} ${id} ${help} ${of}`.toLowerCase()
    if (!asked.value.every(word => all.includes(word))) return -1
    const begins = asked.value.some(word => name.split(' ').some(part => part.startsWith(word)))
    return (begins ? 100 : 0) + (MOST_RECENT - recent.value.indexOf(id)) * (recent.value.includes(id) ? 1 : 0)
  }
  return props.entries
    .filter(one => group.value === 'all' || one.group === group.value)
    .map(entry => ({ entry, rank: rank(entry) }))
    .filter(({ rank }) => rank >= 0)
    .sort((a, b) => b.rank - a.rank)
    .map(({ entry }) => entry)
})
function enter() {
  if (found.value[0]) choose(found.value[0].id)
  else emit('rest', asked.value, group.value)
}
function choose(id: string) {
  recent.value = [id, ...recent.value.filter(other => other !== id)].slice(0, MOST_RECENT)
  localStorage.setItem(KEPT_AT, JSON.stringify(recent.value))
  open.value = false
  emit('choose', id)
}

let round = 0
watch(open, async now => {
  const mine = ++round
  if (!now) return
  words.value = ''
  group.value = 'all'
  recent.value = kept()
  canvases.clear()
  emit('opened')
  await nextTick()
  field.value?.focus()
  try {
    const draw = await props.draw()
    for (const { id } of found.value) {
      if (mine !== round) return
      const canvas = canvases.get(id)
      if (canvas) await draw(id, canvas)
    }
  } catch (error) {
    shot.message = (error as Error).message
  }
})
</script>

<template>
  <v-dialog v-model="open" max-width="1010" scrollable>
    <div class="choose" data-test="choose">
      <div class="row">
        <input
          ref="field"
          v-model="words"
          class="search"
          type="search"
          :aria-label="`Search ${what}s`"
          :placeholder="placeholder"
          data-test="choose-search"
          @keydown.stop
          @keydown.enter.prevent="enter"
          @keydown.esc="open = false"
        />
        <button
          v-for="one in ['all', ...groups]"
          :key="one"
          class="group"
          :class="{ on: group === one }"
          :aria-pressed="group === one"
          @click="group = one"
        >
          {{ one.toLowerCase() }}
        </button>
      </div>
      <div class="sheet">
        <button
          v-for="(entry, index) in found"
          :key="entry.id"
          class="choice"
          :class="{ first: index === 0 }"
          :data-test="`${mark}-${entry.id}`"
          @click="choose(entry.id)"
        >
          <canvas
            :ref="canvas => hold(entry.id, canvas as HTMLCanvasElement | null)"
            width="280"
            height="168"
            aria-hidden="true"
          />
          <b>{{ entry.label }}</b>
          <span class="soft">{{ entry.help }}</span>
        </button>
        <slot :words="asked" :group="group" />
        <p v-if="!found.length && !more?.(asked, group)" class="soft">
          No {{ what }} does that. Fewer words find more.
        </p>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.choose {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 6px;
  padding: 18px;
  display: flex;
  flex-direction: column;
  gap: 14px;
  max-height: 84vh;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
}
.search {
  width: 330px;
  padding: 8px 12px;
  font: inherit;
  color: inherit;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.group {
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  padding: 0;
  font: inherit;
  color: var(--soft);
  cursor: pointer;
}
.group.on {
  color: var(--ink);
  font-weight: 600;
  border-color: var(--ink);
}
.sheet {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(148px, 1fr));
  gap: 14px 12px;
  overflow-y: auto;
  padding: 4px;
}
</style>
