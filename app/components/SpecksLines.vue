<script setup lang="ts">
// What belongs to specks beside their values: kinds of them to begin with, and how many there are.
import { inSight, MOST_SPECKS } from '../../core/layer/specksSpace'
import { SPECKS_VALUES } from '../../core/layer/specksValues'
import { valuesAt } from '../../core/declare/values'
import type { SpecksLayer } from '../../core/shot/document'
import { sightOf } from '../../core/shot/scene'
import { SPECK_KINDS, speckValues, type SpeckKind } from '../../core/shot/specks'
import { valueAt } from '../../core/time/curve'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'

const props = defineProps<{ layer: SpecksLayer }>()
const shot = useShot()
const { edit } = useRecipe()
const kinds = Object.keys(SPECK_KINDS) as SpeckKind[]
const make = (kind: SpeckKind): void =>
  edit<SpecksLayer>(`${props.layer.name}: ${kind}`, props.layer.id, found => {
    Object.assign(found, speckValues(kind))
    if (found.name === 'Specks' || (kinds as string[]).includes(found.name.toLowerCase()))
      found.name = kind.charAt(0).toUpperCase() + kind.slice(1)
  })
const setLight = (light: string | undefined): void =>
  edit<SpecksLayer>(`Light of ${props.layer.name}`, props.layer.id, found => {
    if (light) found.light = light
    else delete found.light
  })
const said = computed(() => {
  const { width, height } = shot.document!.frame
  const values = valuesAt(SPECKS_VALUES, props.layer as never, shot.frame, valueAt)
  const { count, made } = inSight(values, sightOf(shot.document!, shot.frame).camera(), width / height)
  const rounded = Number((count * values.there).toPrecision(2)).toLocaleString('en')
  return made < 1
    ? `${rounded} would be in sight: more than ${MOST_SPECKS.toLocaleString('en')} are not drawn. Bring the farthest nearer, or take fewer.`
    : `About ${rounded} in sight.`
})
</script>

<template>
  <p>
    as
    <template v-for="(kind, index) in kinds" :key="kind"
      ><template v-if="index"> · </template
      ><button class="word soft" :data-test="`specks-${kind}`" @click="make(kind)">{{ kind }}</button></template
    >
  </p>
  <LightChoice
    :light="layer.light"
    label="Light that they are lit by"
    none="all of the scene"
    :wanted="layer.lit !== 0"
    @change="setLight"
  />
  <p class="soft" data-test="specks-count">{{ said }}</p>
</template>
