<script setup lang="ts">
// The panorama that lights the scene: how it is turned, how strong it is, its tint and its sun.
import { bringPicture } from '~/composables/bring'
import { engine } from '~/composables/engine'
import { ENVIRONMENT } from '../../core/shot/schema/light'
import { lineProps } from '~/composables/fields'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const scene = computed(() => shot.document!.scene)
async function bringEnvironment(files: File[]) {
  try {
    const { reference } = await bringPicture(files[0]!)
    shot.change('New environment', document => {
      document.scene.environment = { ...reference, turn: 0, stops: 0, seen: false }
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
async function sunOut() {
  const now = scene.value.environment!
  if (!now.sunOut && !(await engine.findSun(shot.document!))) {
    shot.message = 'No sun stands out in this environment: nothing in it is forty times as bright as its average.'
    return
  }
  shot.change(now.sunOut ? 'Sun back in the environment' : 'Sun out of the environment', document => {
    document.scene.environment!.sunOut = !now.sunOut
  })
}
const tool = (wanted: 'grey' | 'environment'): void => {
  view.sceneTool = view.sceneTool === wanted ? null : wanted
  view.matchTool = null
}
</script>

<template>
  <div class="panel">
    <h3>Environment</h3>
    <FileDrop
      accept=".hdr,.exr,.png,.jpg"
      label="Bring an environment"
      data-test="environment-file"
      @files="bringEnvironment"
      >{{ scene.environment?.name ?? 'Drop a panorama here (HDR or EXR): it lights the scene.' }}</FileDrop
    >
    <template v-if="scene.environment"
      ><ValueLine
        :model-value="scene.environment.turn"
        v-bind="lineProps(ENVIRONMENT.fields.turn)"
        data-test="environment-turn"
        @change="
          (value, live) =>
            shot.change(
              'Turn the environment',
              document => {
                document.scene.environment!.turn = value
              },
              live,
            )
        "
      /><ValueLine
        :model-value="scene.environment.stops"
        v-bind="lineProps(ENVIRONMENT.fields.stops)"
        data-test="environment-stops"
        @change="
          (value, live) =>
            shot.change(
              'Strength of the environment',
              document => {
                document.scene.environment!.stops = value
              },
              live,
            )
        "
      /><ValueLine
        :model-value="scene.environment.tint ?? 0"
        v-bind="lineProps(ENVIRONMENT.fields.tint)"
        @change="
          (value, live) =>
            shot.change(
              'Tint of the environment',
              document => {
                document.scene.environment!.tint = value
              },
              live,
            )
        "
      />
      <div class="row wrap">
        <v-btn
          size="small"
          :variant="view.sceneTool === 'environment' ? 'tonal' : 'text'"
          data-test="environment-drag"
          @click="tool('environment')"
          >Turn by a shadow</v-btn
        ><v-btn
          size="small"
          :variant="view.sceneTool === 'grey' ? 'tonal' : 'text'"
          data-test="environment-grey"
          @click="tool('grey')"
          >As bright as something grey</v-btn
        >
      </div>
      <p v-if="view.sceneTool === 'grey'" class="soft scale" data-test="grey-how">
        Click something matt and white or grey in the plate, in the open. It reflects
        <ValueField
          still
          :model-value="view.greyPercent"
          label="Reflects"
          help="A grey card 18, concrete 35, white paper 80."
          :low="1"
          :high="100"
          :step="0.5"
          :digits="0"
          :neutral="80"
          unit="%"
          data-test="grey-percent"
          @change="
            value => {
              view.greyPercent = value as number
            }
          "
        />
        and
        <button class="word" data-test="grey-upright" @click="view.greyUpright = !view.greyUpright">
          {{ view.greyUpright ? 'stands upright, facing the camera' : 'lies flat, facing up' }}</button>.
      </p>
      <p v-if="view.sceneTool === 'environment'" class="soft">
        Press on the ground and drag the shadow of the pole to where shadows of the plate fall.
      </p>
      <label class="row"
        ><input type="checkbox" :checked="scene.environment.sunOut" data-test="sun-out" @change="sunOut" /> its sun is
        taken out, as a light of its own</label
      >
      <label class="row"
        ><input
          type="checkbox"
          :checked="scene.environment.seen"
          @change="
            shot.change('Environment in the picture', document => {
              document.scene.environment!.seen = !document.scene.environment!.seen
            })
          "
        />seen by the camera</label
      ><button
        class="word soft self"
        @click="
          shot.change('No environment', document => {
            document.scene.environment = null
          })
        "
      >
        without it
      </button></template
    >
  </div>
</template>

<style scoped>
input[type='checkbox'] {
  accent-color: var(--ink);
}
p {
  margin: 2px 0;
}
.scale {
  line-height: 1.7;
}
.wrap {
  flex-wrap: wrap;
  gap: 2px;
}
.self {
  align-self: flex-start;
}
</style>
