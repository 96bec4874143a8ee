<script setup lang="ts">
// The lens that a render is taken through, in place of a pinhole.
import { firstValues } from '../../core/declare/values'
import { LENS_VALUES } from '../../core/lens/values'
import type { LensOfRender } from '../../core/shot/schema/passes'
import type { Animatable } from '../../core/time/curve'
import { useShot } from '~/stores/shot'

const shot = useShot()
const lens = computed(() => shot.document!.passes.lens)
/** Its values in the order of the sentence. */
const WORDS = [
  ['distance', 'In focus at '],
  ['fNumber', ' at f/'],
  ['blades', ', through '],
  ['turn', ' blades turned '],
  ['squeeze', ', '],
  ['rim', ' times taller than wide, the rim brighter by '],
  ['catsEye', ', hidden toward the corners by '],
] as const
function turn(on: boolean) {
  shot.change(on ? 'True lens' : 'Pinhole', document => {
    if (on) document.passes.lens = { ...firstValues(LENS_VALUES), sharpData: true } as LensOfRender
    else delete document.passes.lens
  })
}
function put(name: string, value: Animatable, live: boolean) {
  shot.change(
    'True lens',
    document => {
      Object.assign(document.passes.lens!, { [name]: value })
    },
    live,
  )
}
</script>

<template>
  <label class="pick"
    ><input
      type="checkbox"
      :checked="!!lens"
      data-test="lens"
      @change="turn(($event.target as HTMLInputElement).checked)"
    />
    through a true lens</label
  >
  <template v-if="lens"
    >. <DeclaredWords :fields="LENS_VALUES" :words="WORDS" :values="lens" mark="lens" @change="put" />.
    <label class="pick"
      ><input
        type="checkbox"
        :checked="!!lens.sharpData"
        data-test="lens-sharp"
        @change="
          shot.change('Sharp data', document => {
            document.passes.lens!.sharpData = !document.passes.lens!.sharpData
          })
        "
      />
      names, normals and the like stay sharp</label
    ></template
  >
</template>
