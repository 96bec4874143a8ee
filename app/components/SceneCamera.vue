<script setup lang="ts">
// The camera: by numbers, by a track, or found from the plate (lines, known points).
import type { CameraSettings } from '../../core/shot/document'
import { CAMERA } from '../../core/shot/schema/camera'
import { startTrack, trackFaults, useTrack } from '../../core/shot/track'
import { perSecond, rateText } from '../../core/time/rate'
import type { Animatable } from '../../core/time/curve'
import { lineProps } from '~/composables/fields'
import { engine } from '~/composables/engine'
import { upload } from '~/composables/api'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null }>()
const grid = defineModel<boolean>('grid', { required: true })
const shot = useShot()
const view = useView()
const scene = computed(() => shot.document!.scene)
const busy = ref('')
const camera = (field: keyof CameraSettings, value: Animatable, live: boolean): void =>
  shot.change(
    'Camera',
    document => {
      document.scene.camera[field] = value
    },
    live,
  )
const SHOWN = ['focalLength', 'sensorWidth', 'y', 'pitch', 'bank', 'heading', 'x', 'z', 'shiftX', 'shiftY'] as const
async function takeCamera(name: string) {
  const found = await engine.fileCamera(shot.document!, name)
  if (found)
    shot.change(`Camera of the file: ${name}`, document => {
      document.scene.camera = found
      document.scene.track = null
    })
}
async function bringTrack(files: File[]) {
  busy.value = 'reading'
  try {
    const sent = await upload(files[0]!)
    if (sent.kind !== 'track' && sent.kind !== 'gltf')
      throw new Error(
        `“${files[0]!.name}” is no camera track: a JSON or CSV track, or a glTF file with a camera that moves.`,
      )
    const reference = { blob: sent.blob, name: files[0]!.name.slice(0, 300) }
    const track = await engine.track(shot.document!, sent.blob)
    shot.change('Camera track', document => {
      useTrack(document, reference, track, document.plate?.clip?.timing.start ?? document.frames.first)
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
}
/** The camera as it stands at this frame, without the track. */
function stand() {
  shot.change('Camera without its track', document => {
    document.scene.track = null
    for (const field of Object.keys(document.scene.camera) as (keyof CameraSettings)[]) {
      const value = document.scene.camera[field]
      if (typeof value === 'object')
        document.scene.camera[field] = value.keys.reduce((best, key) =>
          Math.abs(key.frame - shot.frame) < Math.abs(best.frame - shot.frame) ? key : best,
        ).value
    }
  })
}
const faults = computed(() => trackFaults(shot.document!))
const pick = (): void => {
  view.sceneTool = view.sceneTool === 'track' ? null : 'track'
}
</script>

<template>
  <div>
    <div class="panel">
      <h3>Camera</h3>
      <ValueLine
        v-for="id in SHOWN"
        :key="id"
        :model-value="scene.camera[id] ?? 0"
        v-bind="lineProps(CAMERA.fields[id])"
        :data-test="`camera-${id}`"
        @change="(value, live) => camera(id, value, live)"
      />
      <div v-if="props.info?.cameras.length" class="soft">
        from the file:
        <button v-for="name in props.info.cameras" :key="name" class="word" @click="takeCamera(name)">
          {{ name }}
        </button>
      </div>
    </div>
    <div class="panel">
      <h3>Checks on the picture</h3>
      <div class="row">
        <label class="row"><input v-model="grid" type="checkbox" data-test="grid" />grid on the ground</label
        ><label class="row"
          ><input v-model="view.sceneEdges" type="checkbox" data-test="edges" />edges of the scene</label
        ><label v-if="scene.track" class="row"
          ><input v-model="view.trackPoints" type="checkbox" />points of the track</label
        >
      </div>
    </div>
    <div class="panel">
      <h3>Track</h3>
      <FileDrop
        accept=".json,.csv,.glb,.gltf,.txt"
        label="Bring a camera track"
        data-test="track-file"
        @files="bringTrack"
        >{{
          busy ||
          (scene.track
            ? `${scene.track.name}: drop another, or click`
            : 'Footage with a moving camera: drop its track here (JSON, CSV or glTF).')
        }}</FileDrop
      >
      <template v-if="scene.track">
        <p data-test="track-facts">
          {{ scene.track.count }} frames<template v-if="scene.track.rate">
            at {{ rateText(scene.track.rate) }} ({{
              (scene.track.count / perSecond(scene.track.rate)).toFixed(2)
            }}
            s)</template
          >, {{ scene.track.points }} points; stands from frame
          <ValueField
            still
            :model-value="scene.track.start"
            label="Track starts at"
            help="Frame of the shot."
            :low="-100000"
            :high="100000"
            :step="0.2"
            :digits="0"
            data-test="track-start"
            @change="
              (value, live) =>
                shot.change(
                  'Start of the track',
                  document => {
                    startTrack(document, Math.round(value as number))
                  },
                  live,
                )
            "
          />
          on.
        </p>
        <p v-for="fault in faults" :key="fault" class="warn" data-test="track-fault">{{ fault }}</p>
        <div class="row">
          <v-btn
            v-if="scene.track.points"
            size="small"
            :variant="view.sceneTool === 'track' ? 'tonal' : 'text'"
            data-test="track-place"
            @click="pick"
            >Place on a point</v-btn
          ><button class="word soft" @click="stand">without the track</button>
        </div>
        <p v-if="view.sceneTool === 'track'" class="soft">
          {{
            view.picked[0]
              ? `Click a point: “${view.picked[0]}” is set on it.`
              : 'Choose a thing first (under Things), or a picture layer in Build; then click a point.'
          }}
        </p>
      </template>
    </div>
    <MatchPanel v-if="shot.document!.plate" />
    <PointsPanel v-if="shot.document!.plate" :info="props.info" />
  </div>
</template>

<style scoped>
input[type='checkbox'] {
  accent-color: var(--ink);
}
p {
  margin: 0;
}
</style>
