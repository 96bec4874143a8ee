<script setup lang="ts">
// The picture of a plate layer: the shot's, or one of its own.
import type { PlateLayer } from '../../core/shot/document'
import { bringPicture } from '~/composables/bring'
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
      accept=".png,.jpg,.jpeg,.tif,.tiff,.hdr,.exr"
      class="other"
      data-test="other-plate"
      @files="takePlate"
      >lay another picture over the frame</FileDrop
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
