<script setup lang="ts">
// The things of the scene: which there are, their groups, stand-ins to draw, and the one under work.
import {
  mdiCircleOutline,
  mdiCubeOutline,
  mdiCylinder,
  mdiSquareOutline,
  mdiVectorPolygon,
  mdiChessPawn,
} from '@mdi/js'
import type { StandInShape } from '../../core/scene/standin'
import { useGround } from '~/composables/ground'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null }>()
const shot = useShot()
const view = useView()
const objects = computed(() => props.info?.objects ?? [])
const settingsOf = (name: string) => shot.document!.scene.objects[name] ?? {}
const group = ref('')
function makeGroup() {
  const name =
    group.value.trim() ||
    `group ${
      new Set(
        Object.values(shot.document!.scene.objects)
          .map(settings => settings.group)
          .filter(Boolean),
      ).size + 1
    }`
  shot.change(`Group ${name}`, document => {
    for (const picked of view.picked) (document.scene.objects[picked] ??= {}).group = name
  })
  group.value = ''
}
const ungroup = (): void =>
  shot.change('Ungroup', document => {
    for (const picked of view.picked) delete document.scene.objects[picked]?.group
  })
const { ground, toggle: switchGround } = useGround(() => props.info)
const SHAPES: { shape: StandInShape; label: string; icon: string; how: string }[] = [
  {
    shape: 'box',
    label: 'Box',
    icon: mdiCubeOutline,
    how: 'Click two ends of an edge on the ground, then the opposite edge, then its height.',
  },
  {
    shape: 'cylinder',
    label: 'Cylinder',
    icon: mdiCylinder,
    how: 'Click its middle on the ground, then its rim, then its height.',
  },
  {
    shape: 'plane',
    label: 'Plane',
    icon: mdiSquareOutline,
    how: 'Click two ends of an edge on the ground, then the opposite edge.',
  },
  { shape: 'ball', label: 'Ball', icon: mdiCircleOutline, how: 'Click where it touches the ground, then its top.' },
  {
    shape: 'profile',
    label: 'Turned shape',
    icon: mdiChessPawn,
    how: 'Click its middle on the ground, then up along its right outline; Enter or a double-click ends it.',
  },
  {
    shape: 'outline',
    label: 'Block',
    icon: mdiVectorPolygon,
    how: 'Click the corners of its footprint; Enter or a double-click closes it; then click its height.',
  },
]
const drawing = computed(() => SHAPES.find(entry => entry.shape === view.sceneTool))
const take = (shape: StandInShape): void => {
  view.sceneTool = view.sceneTool === shape ? null : shape
  view.matchTool = null
}
</script>

<template>
  <div>
    <div class="panel tight">
      <h3>Things</h3>
      <p v-if="!objects.length" class="soft">
        What the scene holds is listed here; stand-ins for real things in the plate can be drawn without one.
      </p>
      <label v-if="objects.length" class="row ground"
        ><input type="checkbox" :checked="!!ground" data-test="ground-catches" @change="switchGround" />An endless
        ground catches shadows{{
          objects.some(entry => entry.role === 'catcher' && entry.name !== ground) ? ' too' : ''
        }}</label
      >
      <ThingList :objects="objects" />
      <div v-if="view.picked.length > 1" class="row">
        <input
          v-model="group"
          class="text-line"
          placeholder="name of the group"
          aria-label="Name of the group"
          @keydown.stop
          @keydown.enter="makeGroup"
        /><v-btn size="small" data-test="group" @click="makeGroup">Group {{ view.picked.length }}</v-btn>
      </div>
      <button
        v-if="view.picked.some(name => settingsOf(name).group)"
        class="word soft self"
        data-test="ungroup"
        @click="ungroup"
      >
        out of the group
      </button>
    </div>
    <ThingPanel v-if="objects.some(entry => entry.name === view.picked[0])" :key="view.picked[0]" :info="info!" />
    <div class="panel">
      <h3>Stand-ins for real things</h3>
      <div class="row wrap">
        <v-btn
          v-for="entry in SHAPES"
          :key="entry.shape"
          size="small"
          :prepend-icon="entry.icon"
          :variant="view.sceneTool === entry.shape ? 'tonal' : 'text'"
          :aria-pressed="view.sceneTool === entry.shape"
          :data-test="`draw-${entry.shape}`"
          @click="take(entry.shape)"
          >{{ entry.label }}</v-btn
        >
      </div>
      <p v-if="drawing" class="soft" data-test="draw-how">{{ drawing.how }} Esc lets go.</p>
      <p v-else class="soft">
        Drawn on the plate’s ground; they catch shadows, hold out what is behind them, and show the plate in
        reflections.
      </p>
      <p class="scale">
        Placing snaps to
        <ValueField
          still
          :model-value="view.snapMetres"
          label="Snap"
          help="0 for no snapping."
          :low="0"
          :high="100"
          :step="0.005"
          :neutral="0"
          unit="m"
          data-test="snap"
          @change="
            value => {
              view.snapMetres = value as number
            }
          "
        />
        and
        <ValueField
          still
          :model-value="view.snapDegrees"
          label="Snap of turns"
          :low="0"
          :high="180"
          :step="0.1"
          :digits="1"
          :neutral="0"
          unit="deg"
          @change="
            value => {
              view.snapDegrees = value as number
            }
          "
        />.
      </p>
    </div>
  </div>
</template>

<style scoped>
.ground {
  gap: 8px;
  padding: 4px 0 8px;
}
.ground input {
  accent-color: var(--ink);
}
.tight {
  gap: 0;
}
.wrap {
  flex-wrap: wrap;
  gap: 2px;
}
.self {
  align-self: flex-start;
}
p {
  margin: 0;
}
.scale {
  line-height: 1.7;
}
</style>
