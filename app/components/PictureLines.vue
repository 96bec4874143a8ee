<script setup lang="ts">
// How the picture of a layer is read, what is wrong about it, and when its clip plays.
import { ENCODINGS } from '../../core/colour/encoding'
import { clipFaults, readingFaults, type PictureFault } from '../../core/shot/faults'
import type { ElementLayer, FigureLayer, PictureLayer, ShotDocument } from '../../core/shot/document'
import { takeTouching } from '../../core/shot/figures'
import { engine } from '~/composables/engine'
import { bringPicture, namedIn } from '~/composables/bring'
import { useRecipe } from '~/composables/recipe'
import { useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'

const props = defineProps<{ layer: PictureLayer | FigureLayer | ElementLayer }>()
const shot = useShot()
const jobs = useJobs()
const { edit } = useRecipe()
const picture = computed(() => props.layer.picture)
const faults = computed((): PictureFault[] => [
  ...readingFaults(picture.value),
  ...clipFaults(shot.document!, picture.value),
])
const change = (
  label: string,
  mutate: (layer: PictureLayer | FigureLayer | ElementLayer) => void,
  live = false,
): void => edit(label, props.layer.id, mutate, live)
async function swap(files: File[]) {
  try {
    const { reference } = await bringPicture(files[0]!)
    const { id, kind, name } = props.layer
    const names = kind === 'figure' ? await namedIn(files[0]!, reference) : undefined
    // A figure goes on standing: where the new picture touches the ground is found first
    const tried = structuredClone(toRaw(shot.document!)) as ShotDocument
    ;(tried.build.layers[id] as PictureLayer).picture = reference
    const feet = kind === 'figure' ? await engine.touching(tried, shot.frame, id).catch(() => null) : null
    change(`Swap the picture of ${name}`, found => {
      found.picture = reference
      if (found.kind !== 'figure') return
      if (names) found.names = names
      else delete found.names
      if (feet) takeTouching(found, feet)
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
function mend({ label, values, again }: PictureFault['mends'][number]) {
  const made = picture.value.clip?.made
  if (again && made) {
    void shot
      .save()
      .then(() =>
        jobs.start(shot.id, 'import', {
          files: [made],
          as: 'layer',
          layer: props.layer.id,
          frame: shot.frame,
          ...again,
        }),
      )
      .catch(error => {
        shot.message = (error as Error).message
      })
    return
  }
  change(label, found => {
    Object.assign(found.picture, JSON.parse(JSON.stringify(values)))
  })
}
</script>

<template>
  <FaultList :faults="faults" @mend="mend" />
  <ClipLines
    v-if="picture.clip"
    :clip="picture.clip"
    @change="(label, mutate, live) => change(label, found => mutate(found.picture.clip!), live)"
  />
  <p>
    read as
    <select
      class="word"
      :value="picture.encoding"
      aria-label="Encoding"
      @change="
        change('How a picture is read', found => {
          found.picture.encoding = ($event.target as HTMLSelectElement).value
        })
      "
    >
      <option v-for="encoding in ENCODINGS" :key="encoding.id" :value="encoding.id">
        {{ encoding.label }}
      </option></select
    >, alpha
    <select
      class="word"
      :value="picture.alpha"
      aria-label="Alpha"
      @change="
        change('How a picture is read', found => {
          found.picture.alpha = ($event.target as HTMLSelectElement).value as never
        })
      "
    >
      <option v-for="alpha in ['none', 'straight', 'premultiplied', 'ignore']" :key="alpha" :value="alpha">
        {{ alpha }}
      </option></select
    >;
    <FileDrop
      :label="`Swap the picture of ${layer.name}`"
      accept=".png,.jpg,.jpeg,.tif,.tiff,.hdr,.exr"
      class="swap"
      @files="swap"
      >swap it</FileDrop
    >
  </p>
</template>

<style scoped>
p {
  margin: 0 0 4px;
}
.swap {
  display: inline-block;
  width: auto;
  padding: 0 8px;
}
</style>
