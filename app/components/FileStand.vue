<script setup lang="ts">
// Where the scene's file as a whole stands, and how large.
import { boxOfAll, footOf } from '../../core/shot/fit'
import { engine } from '~/composables/engine'
import { useShot } from '~/stores/shot'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo }>()
const shot = useShot()
const stand = computed(() => shot.document!.scene.filePlace ?? { at: [0, 0, 0] as [number, number, number], times: 1 })
function put(k: number, value: number, live: boolean) {
  const { at, times } = stand.value
  shot.change(
    'Place of the scene',
    document => {
      document.scene.filePlace = { at: at.map((own, i) => (i === k ? value : own)) as typeof at, times }
    },
    live,
  )
}
/** Grown about the foot of what the file holds. */
function grow(value: number, live: boolean) {
  const { at, times } = stand.value
  const own = props.info.objects.filter(entry => !entry.added)
  const foot = own.length ? footOf(boxOfAll(own)) : at
  shot.change(
    'Size of the scene',
    document => {
      document.scene.filePlace = {
        at: at.map((here, k) => Number((foot[k]! + ((here - foot[k]!) * value) / times).toFixed(5))) as typeof at,
        times: value,
      }
    },
    live,
  )
}
async function bring() {
  const next = JSON.parse(JSON.stringify(shot.document)) as NonNullable<typeof shot.document>
  const { place, words } = await engine.placeFile(next, shot.frame)
  shot.message = words ?? 'It is in view, in a size that can be judged.'
  if (words && place)
    shot.change('Scene before the camera', document => {
      document.scene.filePlace = place
    })
}
const asFiled = (): void =>
  shot.change('Scene as in its file', document => {
    delete document.scene.filePlace
  })
</script>

<template>
  <p class="stand" data-test="file-stand">
    All of it stands at
    <ValueField
      v-for="k in 3"
      :key="k"
      still
      :model-value="stand.at[k - 1]!"
      :label="['Scene across', 'Scene up', 'Scene along'][k - 1]!"
      :low="-1000000"
      :high="1000000"
      :step="0.01"
      :neutral="0"
      class="gap"
      @change="(value, live) => put(k - 1, value as number, live)"
    />
    m,
    <ValueField
      still
      :model-value="stand.times"
      label="Scene’s size"
      help="Times the size it has in its file; about its foot."
      :low="0.000001"
      :high="1000000"
      :step="0.005"
      :neutral="1"
      :digits="stand.times < 0.1 ? 5 : 2"
      data-test="file-times"
      @change="(value, live) => grow(value as number, live)"
    />
    times its size.
    <button class="word" data-test="file-bring" @click="bring">Bring it into view</button>
    <template v-if="shot.document!.scene.filePlace"
      >, <button class="word" data-test="file-own" @click="asFiled">as in its file</button></template
    >
  </p>
</template>

<style scoped>
.stand {
  margin: 0;
  line-height: 1.7;
  font-size: 12.5px;
}
.gap {
  margin-right: 4px;
}
</style>
