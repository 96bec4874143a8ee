<script setup lang="ts">
// How long the shutter of a render is open.
import { SHUTTER_OF_RENDER } from '../../core/lens/values'

const WORDS = [
  ['shutter', ' open for '],
  ['from', ' from '],
  ['moments', ', looked at '],
] as const
</script>

<template>
  <PassOption
    of="shutter"
    :fields="SHUTTER_OF_RENDER"
    :words="WORDS"
    :labels="{ on: 'True shutter', off: 'No shutter', sharp: 'Data of the frame' }"
    :said="{
      on: 'with its shutter',
      end: ' times.',
      sharp: 'names, depth, normals and the like are those of the frame itself',
    }"
  />
</template>
