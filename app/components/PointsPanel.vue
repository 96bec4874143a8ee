<script setup lang="ts">
// The camera from places in the picture that belong to known points of the scene.
import { mdiCloseCircleOutline } from '@mdi/js'
import { matchPoints, noMatch } from '../../core/shot/match'
import { straighten } from '../../core/match/lens'
import { identifier, type MatchSettings } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

defineProps<{ info: SceneInfo | null }>()
const shot = useShot()
const view = useView()
const match = computed(() => shot.document!.match ?? noMatch())
const points = computed(() => inOrder(match.value.points))
const edit = (label: string, mutate: (match: MatchSettings) => void, live = false): void =>
  shot.change(
    label,
    document => {
      mutate((document.match ??= noMatch()))
    },
    live,
  )
const solved = computed(() => {
  if (!points.value.length) return { fault: '', found: null }
  try {
    return { fault: '', found: matchPoints(shot.document!, shot.frame) }
  } catch (error) {
    return { fault: (error as Error).message, found: null }
  }
})
/** One that misses far more than the others do. */
const stands = (index: number): boolean => {
  const errors = solved.value.found?.errors
  if (!errors || errors.length < 5) return false
  const sorted = [...errors].sort((a, b) => a - b)
  return errors[index]! > Math.max(3, sorted[Math.floor(sorted.length / 2)]! * 4)
}
const lensFree = computed(() => !shot.document!.lens?.on)
function use() {
  const found = solved.value.found
  if (!found) return
  shot.change('Camera from known points', document => {
    Object.assign(document.scene.camera, found.camera)
    document.scene.track = null
    if (!found.lens) return
    const lens = { k1: Number(found.lens.k1.toFixed(6)), k2: 0 }
    document.lens = { ...lens, on: true }
    // The plate is straight from now on: the places in it move with it
    for (const point of inOrder(document.match!.points))
      point.pixel = straighten(lens, document.frame, point.pixel).map(value => Math.round(value * 100) / 100) as [
        number,
        number,
      ]
    document.match!.pointsLens = false
  })
}
const take = (): void => {
  view.sceneTool = view.sceneTool === 'known' ? null : 'known'
  view.matchTool = null
  view.knownPoint = ''
}
const NAMES = ['across', 'up', 'along'] as const
</script>

<template>
  <div class="panel" data-test="known">
    <h3>Known points</h3>
    <p class="soft">
      Click a corner of the scene, then the place in the picture where it belongs. Four or more give place, direction
      and focal length.
    </p>
    <div class="row">
      <v-btn
        size="small"
        :variant="view.sceneTool === 'known' ? 'tonal' : 'text'"
        :aria-pressed="view.sceneTool === 'known'"
        data-test="known-add"
        @click="take"
        >{{
          view.sceneTool === 'known'
            ? view.knownPoint
              ? 'now click where it belongs'
              : 'click a corner of the scene'
            : 'Add points'
        }}</v-btn><button
        class="word soft"
        data-test="known-type"
        @click="
          edit('A known point', found => {
            addRow((found.points ??= {}), {
              id: identifier(),
              name: `point ${points.length + 1}`,
              world: [0, 0, 0],
              pixel: [shot.document!.frame.width / 2, shot.document!.frame.height / 2],
            })
          })
        "
      >
        by its numbers
      </button>
    </div>
    <div
      v-for="(point, index) in points"
      :key="point.id"
      class="row line"
      :class="{ bad: stands(index) }"
      :data-test="`known-${index}`"
    >
      <span class="grow"
        ><ValueField
          v-for="k in [0, 1, 2] as const"
          :key="k"
          still
          :model-value="point.world[k]"
          :label="`${point.name}, ${NAMES[k]}`"
          :low="-10000"
          :high="10000"
          :step="0.01"
          class="gap"
          @change="
            (value, live) =>
              edit(
                'A known point',
                found => {
                  found.points![point.id]!.world[k] = value as number
                },
                live,
              )
          "
        />
        m</span
      >
      <span v-if="solved.found" class="soft figures">{{ solved.found.errors[index]!.toFixed(1) }} px</span>
      <v-btn
        :icon="mdiCloseCircleOutline"
        size="x-small"
        :aria-label="`Remove point ${index + 1}`"
        @click="
          edit('Remove a known point', found => {
            delete found.points![point.id]
          })
        "
      />
    </div>
    <label v-if="points.length >= 5 && lensFree" class="row"
      ><input
        type="checkbox"
        :checked="match.pointsLens"
        data-test="known-lens"
        @change="
          edit('Lens with the points', found => {
            found.pointsLens = !found.pointsLens
          })
        "
      />
      find the bend of the lens too</label
    >
    <p v-if="solved.fault" class="soft" role="status" data-test="known-fault">{{ solved.fault }}</p>
    <template v-if="solved.found">
      <p data-test="known-result">
        <b class="figures">{{ Number(solved.found.camera.focalLength).toFixed(1) }} mm</b>, at
        <b class="figures">{{ solved.found.place.map(value => value.toFixed(2)).join(' ') }} m</b>, pitch
        {{ Number(solved.found.camera.pitch).toFixed(2) }}°, heading
        {{ Number(solved.found.camera.heading).toFixed(2) }}°<template v-if="solved.found.lens"
          >, lens {{ solved.found.lens.k1.toFixed(4) }}</template
        >; points fit to {{ solved.found.rms.toFixed(2) }} px
      </p>
      <v-btn size="small" color="primary" data-test="known-use" @click="use">Hold the camera so</v-btn>
    </template>
  </div>
</template>

<style scoped>
.line {
  font-size: 12.5px;
  min-height: 24px;
}
.bad {
  color: var(--mark);
  font-weight: 600;
}
.gap {
  margin-right: 6px;
}
p {
  margin: 0;
}
input {
  accent-color: var(--ink);
}
</style>
