<script setup lang="ts">
// What belongs to an element beside its values: many copies at once, its copies as layers, the lamp that it is lit by.
import type { ElementLayer } from '../../core/shot/document'
import { partElement } from '../../core/shot/elements'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'

const props = defineProps<{ layer: ElementLayer }>()
const shot = useShot()
const { edit, choose } = useRecipe()

/** So many copies at once, and how much they differ. */
const TEN = { copies: 10, turns: 25, sizes: 0.3, mirrored: 0.5, offsets: 24, speeds: 0.15 }
const WAYS = ['along a line', 'in a region', 'on the ground'] as const
function makeTen(spread: (typeof WAYS)[number]) {
  edit<ElementLayer>(`Ten of ${props.layer.name}`, props.layer.id, found => {
    const number = (value: unknown): number => (typeof value === 'number' ? value : 0)
    const [x, y, z, size] = [found.x, found.y, found.z, found.size].map(number) as [number, number, number, number]
    Object.assign(found, TEN, { spread, wide: size * 4, tall: size * 1.5, deep: size * 4 })
    // What stands on the ground is turned only a little
    if (spread === 'on the ground') Object.assign(found, { y: 0, turns: 4 })
    if (spread === 'along a line') Object.assign(found, { end_x: x + size * 4, end_y: y, end_z: z - size * 2 })
  })
}
function another() {
  edit<ElementLayer>(`Seed of ${props.layer.name}`, props.layer.id, found => {
    found.seed = Math.floor(Math.random() * 10000)
  })
}
function part() {
  const { id, name } = props.layer
  let made = ''
  shot.change(`Part ${name}`, document => {
    if (document.build.layers[id]?.kind === 'element') made = partElement(document, id, shot.frame)
  })
  if (made) choose(made)
}
const setLight = (light: string | undefined): void =>
  edit<ElementLayer>(`Light of ${props.layer.name}`, props.layer.id, found => {
    if (light) found.light = light
    else delete found.light
  })
</script>

<template>
  <LightChoice
    :light="layer.light"
    label="Light that it is lit by"
    none="none yet"
    :wanted="layer.by === 'one light'"
    @change="setLight"
  />
  <p>
    make ten of it
    <template v-for="(way, index) in WAYS" :key="way"
      ><template v-if="index"> · </template
      ><button class="word soft" :data-test="`ten-${index}`" @click="makeTen(way)">{{ way }}</button></template
    >
  </p>
  <p v-if="layer.copies !== 1">
    <button class="word soft" data-test="another-seed" @click="another">other copies</button> ·
    <button class="word soft" data-test="part" title="Each copy as a layer of its own, in a group" @click="part">
      part them into layers
    </button>
  </p>
</template>
