<script setup lang="ts">
// The bend of the lens, found from things that are straight in the world.
import { mdiCloseCircleOutline } from '@mdi/js'
import { solveLens } from '../../core/match/lens'
import { noMatch } from '../../core/shot/match'
import { workingFrame } from '../../core/shot/lens'
import type { LensSettings } from '../../core/shot/document'
import { inOrder } from '../../core/shot/rows'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const curves = computed(() => inOrder(shot.document!.match?.curves))
const lens = computed<LensSettings>(() => shot.document!.lens ?? { k1: 0, k2: 0, on: false })
const second = ref(false)
const solved = computed(() => {
  if (!curves.value.length) return { fault: '', found: null }
  try {
    return {
      fault: '',
      found: solveLens(
        curves.value.map(curve => curve.points),
        shot.document!.frame,
        second.value,
      ),
    }
  } catch (error) {
    return { fault: (error as Error).message, found: null }
  }
})
const put = (label: string, change: Partial<LensSettings>, live = false): void =>
  shot.change(
    label,
    document => {
      document.lens = { ...(document.lens ?? { k1: 0, k2: 0, on: true }), ...change }
    },
    live,
  )
const room = computed(() => {
  const { left, top } = workingFrame(shot.document!)
  return { left, top }
})
</script>

<template>
  <div class="panel" data-test="lens">
    <h2>Lens</h2>
    <p class="soft">
      Click along something straight, from end to end, three places or more; Enter or a double-click ends the line.
      Edges near the border say most.
    </p>
    <div class="row">
      <v-btn
        size="small"
        :variant="view.sceneTool === 'lens' ? 'tonal' : 'text'"
        :aria-pressed="view.sceneTool === 'lens'"
        data-test="lens-draw"
        @click="view.sceneTool = view.sceneTool === 'lens' ? null : 'lens'"
        >Draw along straight things</v-btn
      >
    </div>
    <div v-for="(curve, index) in curves" :key="curve.id" class="row line">
      <span class="grow">line {{ index + 1 }}, {{ curve.points.length }} places</span
      ><span v-if="solved.found && curve.points.length > 2" class="soft figures"
        >{{
          (solved.found.errors[curves.filter(entry => entry.points.length > 2).indexOf(curve)] ?? 0).toFixed(2)
        }}
        px</span
      ><v-btn
        :icon="mdiCloseCircleOutline"
        size="x-small"
        :aria-label="`Remove line ${index + 1}`"
        @click="
          shot.change('Remove a line', document => {
            delete document.match!.curves![curve.id]
          })
        "
      />
    </div>
    <label v-if="curves.length" class="row"
      ><input v-model="second" type="checkbox" data-test="lens-second" /> with the second term (strong wide
      lenses)</label
    >
    <p v-if="solved.fault" class="soft" role="status" data-test="lens-fault">{{ solved.fault }}</p>
    <template v-if="solved.found"
      ><p data-test="lens-result">
        bends by <b class="figures">{{ solved.found.k1.toFixed(4) }}</b><template v-if="second">
          and <b class="figures">{{ solved.found.k2.toFixed(4) }}</b></template
        >; lines are straight to {{ solved.found.rms.toFixed(2) }} px
      </p>
      <v-btn
        size="small"
        color="primary"
        data-test="lens-use"
        @click="
          put('Lens of the plate', {
            k1: Number(solved.found.k1.toFixed(6)),
            k2: Number(solved.found.k2.toFixed(6)),
            on: true,
          })
        "
        >Take it out of the plate</v-btn
      ></template
    >
    <p v-if="shot.document!.lens" class="scale">
      <label
        ><input type="checkbox" :checked="lens.on" data-test="lens-on" @change="put('Lens', { on: !lens.on })" /> worked
        on without its bend</label
      >:
      <ValueField
        :model-value="lens.k1"
        label="First term of the lens"
        help="Below 0 straight edges bulge outward. Radii in half widths of the frame."
        :low="-1"
        :high="1"
        :step="0.0005"
        :digits="4"
        :neutral="0"
        data-test="lens-k1"
        @change="(value, live) => put('Lens', { k1: value }, live)"
      />
      and
      <ValueField
        :model-value="lens.k2"
        label="Second term of the lens"
        :low="-1"
        :high="1"
        :step="0.0005"
        :digits="4"
        :neutral="0"
        @change="(value, live) => put('Lens', { k2: value }, live)"
      /><template v-if="room.left || room.top"
        >, on a frame {{ room.left }} px wider and {{ room.top }} px taller on each side</template
      >. The finished picture gets it back.
    </p>
    <p v-if="shot.document!.lens && view.station === 'plate'" class="soft">
      Seen here as taken; the Scene and Build show it straight.
    </p>
    <button
      v-if="shot.document!.lens"
      class="word soft self"
      @click="
        shot.change('No lens', document => {
          delete document.lens
        })
      "
    >
      no lens
    </button>
    <button
      v-if="curves.length"
      class="word soft self"
      @click="
        shot.change('No lines of the lens', document => {
          ;(document.match ??= noMatch()).curves = {}
        })
      "
    >
      take the lines away
    </button>
  </div>
</template>

<style scoped>
.line {
  font-size: 12.5px;
  min-height: 24px;
}
.scale,
p {
  margin: 0;
  line-height: 1.7;
}
input {
  accent-color: var(--ink);
}
.self {
  align-self: flex-start;
}
</style>
