<script setup lang="ts">
// The lens that a render is taken through, in place of a pinhole.
import { LENS_VALUES } from '../../core/lens/values'

/** Its values in the order of the sentence. */
const WORDS = [
  ['distance', '. In focus at '],
  ['fNumber', ' at f/'],
  ['blades', ', through '],
  ['turn', ' blades turned '],
  ['squeeze', ', '],
  ['rim', ' times taller than wide, the rim brighter by '],
  ['catsEye', ', hidden toward the corners by '],
] as const
</script>

<template>
  <PassOption
    of="lens"
    :fields="LENS_VALUES"
    :words="WORDS"
    :labels="{ on: 'True lens', off: 'Pinhole', sharp: 'Sharp data' }"
    :said="{ on: 'through a true lens', end: '.', sharp: 'names, normals and the like stay sharp' }"
  />
</template>
