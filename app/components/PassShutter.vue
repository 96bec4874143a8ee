<script setup lang="ts">
// How long the shutter of a render is open.
import { firstValues } from '../../core/declare/values'
import { SHUTTER_OF_RENDER } from '../../core/lens/values'
import type { ShutterOfRender } from '../../core/shot/schema/passes'
import type { Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'

const WORDS = [
  ['shutter', ' open for '],
  ['from', ' from '],
  ['moments', ', looked at '],
] as const
const shot = useShot()
const shutter = computed(() => shot.document!.passes.shutter)
function turn(on: boolean) {
  shot.change(on ? 'True shutter' : 'No shutter', document => {
    if (on) document.passes.shutter = { ...firstValues(SHUTTER_OF_RENDER), sharpData: true } as ShutterOfRender
    else delete document.passes.shutter
  })
}
function put(name: string, value: Animatable, live: boolean) {
  shot.change(
    'True shutter',
    document => {
      Object.assign(document.passes.shutter!, { [name]: value })
    },
    live,
  )
}
</script>

<template>
  <label class="pick"
    ><input
      type="checkbox"
      :checked="!!shutter"
      data-test="shutter"
      @change="turn(($event.target as HTMLInputElement).checked)"
    />
    with its shutter</label
  >
  <template v-if="shutter"
    ><DeclaredWords :fields="SHUTTER_OF_RENDER" :words="WORDS" :values="shutter" mark="shutter" @change="put" /> times.
    <label class="pick"
      ><input
        type="checkbox"
        :checked="!!shutter.sharpData"
        data-test="shutter-sharp"
        @change="
          shot.change('Data of the frame', document => {
            document.passes.shutter!.sharpData = !document.passes.shutter!.sharpData
          })
        "
      />
      names, depth, normals and the like are those of the frame itself</label
    ></template
  >
</template>
