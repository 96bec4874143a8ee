<script setup lang="ts">
// What a thing has to do with the light of others: the shadow and wet of ground, occlusion and shadow of all else.
import type { ObjectSettings } from '../../core/shot/document'
import { OBJECT } from '../../core/shot/schema/thing'
import { partProps, propsOf } from '~/composables/fields'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ thing: SceneInfo['objects'][number]; settings: ObjectSettings }>()
const emit = defineEmits<{ change: [label: string, mutate: (settings: ObjectSettings) => void, live: boolean] }>()
const OWN = propsOf(OBJECT.fields)
const isGround = computed(() => props.thing.role !== 'object')
const change = (label: string, mutate: (settings: ObjectSettings) => void, live = false): void =>
  emit('change', label, mutate, live)
</script>

<template>
  <template v-if="isGround">
    <label class="row"
      ><input
        type="checkbox"
        :checked="thing.ofPlate"
        data-test="of-plate"
        @change="
          change('Colour of', own => {
            own.ofPlate = !thing.ofPlate
          })
        "
      />
      takes its colour from the plate (for reflections and bounce)</label
    >
    <label v-if="thing.role === 'catcher'" class="row"
      ><input
        type="checkbox"
        :checked="settings.letsThrough"
        @change="
          change('Holding out of', own => {
            own.letsThrough = !own.letsThrough
          })
        "
      />
      things behind it are still seen</label
    >
    <p v-if="thing.role === 'catcher'" class="scale">
      Its shadow at
      <ValueField
        :model-value="settings.shadowDensity ?? 1"
        v-bind="OWN.shadowDensity"
        data-test="shadow-density"
        @change="
          (value, live) =>
            change(
              'Shadow on',
              own => {
                own.shadowDensity = value
              },
              live,
            )
        "
      />, tinted
      <ValueField
        v-for="i in [0, 1, 2] as const"
        :key="i"
        :model-value="settings.shadowColour?.[i] ?? 0"
        v-bind="partProps(OBJECT.fields.shadowColour, i)"
        class="gap"
        @change="
          (value, live) =>
            change(
              'Shadow tint on',
              own => {
                const colour = own.shadowColour ?? [0, 0, 0]
                colour[i] = value
                own.shadowColour = colour
              },
              live,
            )
        "
      />
    </p>
    <p v-if="thing.role === 'catcher'" class="scale">
      Wet by
      <ValueField
        :model-value="settings.wet ?? 0"
        v-bind="OWN.wet"
        data-test="wet"
        @change="
          (value, live) =>
            change(
              'Wetness of',
              own => {
                if (value === 0) delete own.wet
                else own.wet = value
              },
              live,
            )
        "
      /><template v-if="settings.wet !== undefined"
        >, rough by
        <ValueField
          :model-value="settings.wetRoughness ?? 0"
          v-bind="OWN.wetRoughness"
          @change="
            (value, live) =>
              change(
                'Water on',
                own => {
                  own.wetRoughness = value
                },
                live,
              )
          "
      /></template>
    </p>
  </template>
  <label v-else class="row"
    ><input
      type="checkbox"
      :checked="settings.darkens !== false"
      data-test="darkens"
      @change="
        change('Occlusion by', own => {
          if (own.darkens === false) delete own.darkens
          else own.darkens = false
        })
      "
    />
    darkens others by occlusion</label
  >
  <label v-if="!isGround" class="row"
    ><input
      type="checkbox"
      :checked="settings.darkened !== false"
      data-test="darkened"
      @change="
        change('Occlusion of', own => {
          if (own.darkened === false) delete own.darkened
          else own.darkened = false
        })
      "
    />
    is darkened by occlusion</label
  >
  <label v-if="!isGround" class="row"
    ><input
      type="checkbox"
      :checked="settings.ownShadow"
      data-test="own-shadow"
      @change="
        change('Shadow of', own => {
          if (own.ownShadow) delete own.ownShadow
          else own.ownShadow = true
        })
      "
    />
    its shadow is kept on its own, in the pass “shadow of chosen objects”</label
  >
</template>

<style scoped>
.gap {
  margin-right: 7px;
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
p {
  margin: 0;
}
.scale {
  line-height: 1.8;
}
</style>
