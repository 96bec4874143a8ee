<script setup lang="ts">
// The station Scene: its file, and three parts to work on: camera, things, light.
import { inTheDark } from '../../core/shot/faults'
import { hasObjects } from '../../core/shot/scene'
import { BESIDE_SCENES, bringScene, PICTURES, readScene, sceneOf, SCENES } from '~/composables/bring'
import { useGround } from '~/composables/ground'
import { useShot } from '~/stores/shot'
import { useView, type ScenePart } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null; samples: number }>()
const grid = defineModel<boolean>('grid', { required: true })
const shot = useShot()
const view = useView()
const busy = ref('')
const scene = computed(() => shot.document!.scene)
const { wanting, toggle } = useGround(() => props.info)
const dark = computed(() => !!props.info && inTheDark(shot.document!, props.info.lights, props.info.objects))
const PARTS: { value: ScenePart; title: string }[] = [
  { value: 'camera', title: 'Camera' },
  { value: 'things', title: 'Things' },
  { value: 'light', title: 'Light' },
]

async function bring(files: File[]) {
  busy.value = 'reading'
  try {
    const { scene: own } = await sceneOf(files)
    const { notes, ...reference } = await bringScene(own.length ? own : files, share => {
      busy.value = `${Math.round(share * 100)} %`
    })
    const { take, words } = await readScene(shot.document!, reference, shot.frame)
    shot.change('New scene', take)
    shot.message = [...notes, ...words].join(' ')
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
}
function turn(part: ScenePart) {
  view.scenePart = part
  localStorage.setItem('northmist/part', part)
  view.sceneTool = null
  view.matchTool = null
}
</script>

<template>
  <div>
    <div class="panel">
      <div class="row">
        <h2 class="grow">Scene</h2>
        <button
          v-if="samples"
          class="word soft"
          :title="view.previewPlain ? 'The preview is shown with its noise' : 'The noise of the preview is taken out'"
          data-test="preview-plain"
          @click="view.previewPlain = !view.previewPlain"
        >
          {{ samples }} samples, {{ view.previewPlain ? 'as they are' : 'smoothed' }}
        </button>
      </div>
      <FileDrop
        many
        :accept="`${SCENES},${BESIDE_SCENES},${PICTURES}`"
        label="Bring a scene"
        data-test="scene-file"
        @files="bring"
        >{{
          busy ||
          (scene.file
            ? `${scene.file.name}: drop another, or click`
            : hasObjects(shot.document!)
              ? 'Drop a scene here too (glTF, OBJ, PLY, STL), or click.'
              : 'Drop a scene here (glTF, OBJ with its materials, PLY, STL), or click.')
        }}</FileDrop
      >
      <FileStand v-if="scene.file && info" :info="info" />
      <p v-for="note in info?.notes ?? []" :key="note" class="soft">{{ note }}</p>
      <div v-if="dark" class="warn" data-test="dark">
        <span>Nothing lights this scene yet: its things are black.</span
        ><v-btn v-if="view.scenePart !== 'light'" size="small" color="primary" @click="turn('light')">Light it</v-btn>
      </div>
      <div v-else-if="wanting" class="warn" data-test="no-catcher">
        <span>The things are lit, but their shadows fall on nothing.</span
        ><v-btn size="small" color="primary" data-test="lay-ground" @click="toggle">Let the ground catch them</v-btn>
      </div>
      <div class="row parts" role="tablist" aria-label="Parts of the scene">
        <button
          v-for="part in PARTS"
          :key="part.value"
          role="tab"
          :aria-selected="view.scenePart === part.value"
          :class="{ on: view.scenePart === part.value }"
          :data-test="`part-${part.value}`"
          @click="turn(part.value)"
        >
          {{ part.title }}
        </button>
      </div>
    </div>
    <SceneCamera v-if="view.scenePart === 'camera'" v-model:grid="grid" :info="info" />
    <SceneThings v-else-if="view.scenePart === 'things'" :info="info" />
    <SceneLight v-else :info="info" />
  </div>
</template>

<style scoped>
.parts {
  gap: 0;
  border-bottom: 1px solid var(--line);
}
.parts button {
  flex: 1;
  background: none;
  border: 0;
  border-bottom: 2.5px solid transparent;
  font: inherit;
  color: var(--soft);
  padding: 4px 0;
  cursor: pointer;
}
.parts .on {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--ink);
}
</style>
