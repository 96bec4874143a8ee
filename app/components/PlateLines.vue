<script setup lang="ts">
// The picture of a plate layer: the shot's, or one of its own.
import type { DepthReading, PlateLayer } from '../../core/shot/document'
import { upload } from '~/composables/api'
import { bringPicture, PICTURES } from '~/composables/bring'
import { engine } from '~/composables/engine'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'

const props = defineProps<{ layer: PlateLayer }>()
const shot = useShot()
const { edit } = useRecipe()
const change = (mutate: (layer: PlateLayer) => void): void =>
  edit(`Picture of ${props.layer.name}`, props.layer.id, mutate)

/** A plate of its own, in place of the shot's. */
async function takePlate(files: File[]) {
  try {
    const { reference } = await bringPicture(files[0]!)
    change(found => {
      found.picture = reference
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
/** How far away what it shows is. */
async function takeDepth([file]: File[]) {
  try {
    const { bytes, width, height, reading } = await engine.plateDepth(file!)
    const name = file!.name.slice(0, 300)
    const { blob } = await upload(new File([new Uint8Array(bytes)], `${name}.exr`))
    change(found => {
      found.depth = { blob, name, width, height, passes: ['depth'], objects: [], materials: [], of: '', reading }
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
const setDepth = (depth: DepthReading, live: boolean): void =>
  edit<PlateLayer>(
    `Depth of ${props.layer.name}`,
    props.layer.id,
    found => {
      if (found.depth?.reading) found.depth.reading.depth = depth
    },
    live,
  )
const dropDepth = (): void =>
  change(found => {
    delete found.depth
  })
const showPlate = (): void =>
  change(found => {
    delete found.picture
  })
</script>

<template>
  <p>
    <button v-if="layer.picture" class="word soft" data-test="own-plate" @click="showPlate">
      show the shot’s plate</button
    ><FileDrop
      v-else
      :label="`Another picture for ${layer.name}`"
      :accept="PICTURES"
      class="other"
      data-test="other-plate"
      @files="takePlate"
      >lay another picture over the frame</FileDrop
    >
  </p>
  <DepthReadingLines
    v-if="layer.depth?.reading?.depth"
    :depth="layer.depth.reading.depth"
    :layer="layer.id"
    @change="setDepth"
  />
  <p>
    <button v-if="layer.depth" class="word soft" data-test="drop-depth" @click="dropDepth">
      forget the depth “{{ layer.depth.name }}”</button
    ><FileDrop
      v-else
      :label="`Depth of ${layer.name}`"
      :accept="PICTURES"
      class="other"
      data-test="plate-depth"
      title="What is nearer in it hides what stands farther, and fog and focus see it"
      @files="takeDepth"
      >give it a depth: a grey picture or an OpenEXR</FileDrop
    >
  </p>
</template>

<style scoped>
p {
  margin: 0 0 4px;
}
.other {
  width: auto;
  padding: 0 10px;
}
</style>
