<script setup lang="ts">
// Air with something in it: mist, smoke, water; everywhere, in a box, or as the body of a thing.
import { mdiCloseCircleOutline, mdiPlus } from '@mdi/js'
import { identifier, type AirSettings } from '../../core/shot/document'
import { addRow, inOrder } from '../../core/shot/rows'
import { AIR } from '../../core/shot/schema/light'
import type { Animatable } from '../../core/time/curve'
import { lineProps } from '~/composables/fields'
import { useShot } from '~/stores/shot'
import type { SceneInfo } from '~/workers/messages'

const props = defineProps<{ info: SceneInfo | null }>()
const shot = useShot()
const things = computed(() => props.info?.objects.map(object => object.name) ?? [])
const list = computed(() => inOrder(shot.document!.scene.volumes))
const air = (id: string, mutate: (entry: AirSettings) => void, live = false): void =>
  shot.change(
    'Air',
    document => {
      const found = document.scene.volumes?.[id]
      if (found) mutate(found)
    },
    live,
  )
function add(shape: AirSettings['shape'], thing?: string) {
  const taken = new Set(list.value.map(entry => entry.name))
  const base = shape === 'space' ? 'mist' : shape === 'box' ? 'box of mist' : `mist in ${thing}`
  let name = base
  for (let count = 2; taken.has(name); count++) name = `${base} ${count}`
  shot.change(`Add ${name}`, document => {
    addRow((document.scene.volumes ??= {}), {
      id: identifier(),
      name,
      on: true,
      shape,
      ...(thing === undefined ? {} : { thing }),
      x: 0,
      y: 0,
      z: -8,
      width: 6,
      height: 2,
      depth: 6,
      half: shape === 'space' ? 60 : shape === 'box' ? 8 : 1,
      colour: [0.9, 0.9, 0.9],
      forward: 0.3,
      noise: 0,
      noiseSize: 1,
      seed: 1,
      base: 0,
      halfHeight: shape === 'space' ? 4 : 0,
    })
    // The thing gives its shape; it comes back under Things where it should be seen too
    if (thing !== undefined) (document.scene.objects[thing] ??= {}).absent = true
    // It shows only in a pass of its own
    if (!document.passes.selected.includes('volume')) document.passes.selected.push('volume')
  })
}
const LINES = ['half', 'forward', 'noise', 'noiseSize', 'base', 'halfHeight'] as const
const BOX = ['x', 'y', 'z', 'width', 'height', 'depth'] as const
</script>

<template>
  <div class="panel">
    <h3>Air</h3>
    <p class="soft">
      Mist, smoke or water that light shines into. It is a pass of its own (“air”), laid over everything at the station
      Build as strongly as wanted.
    </p>
    <div v-for="entry in list" :key="entry.id" class="entry" :data-test="`air-${entry.shape}`">
      <div class="row">
        <input
          type="checkbox"
          :checked="entry.on"
          :aria-label="`${entry.name} on or off`"
          @change="
            air(entry.id, found => {
              found.on = !found.on
            })
          "
        /><b class="grow">{{ entry.name }}</b
        ><v-btn
          :icon="mdiCloseCircleOutline"
          size="x-small"
          :aria-label="`Remove ${entry.name}`"
          @click="
            shot.change('Remove air', document => {
              delete document.scene.volumes![entry.id]
            })
          "
        />
      </div>
      <p v-if="entry.shape === 'thing'" class="soft">
        fills
        <select
          class="word"
          :value="entry.thing"
          aria-label="The thing whose body it fills"
          data-test="air-body"
          @change="
            air(entry.id, found => {
              found.thing = ($event.target as HTMLSelectElement).value
            })
          "
        >
          <option v-if="!things.includes(entry.thing ?? '')" :value="entry.thing">{{ entry.thing }} (gone)</option>
          <option v-for="name in things" :key="name" :value="name">{{ name }}</option></select
        >, which must be closed
      </p>
      <ValueLine
        v-for="id in entry.shape === 'box' ? [...BOX, ...LINES] : LINES"
        :key="id"
        :model-value="entry[id]"
        v-bind="lineProps(AIR.fields[id])"
        :data-test="`air-${id}`"
        @change="
          (value: Animatable, live: boolean) =>
            air(
              entry.id,
              found => {
                found[id] = value
              },
              live,
            )
        "
      />
      <p class="soft">
        scatters
        <ValueField
          v-for="i in [0, 1, 2] as const"
          :key="i"
          :model-value="entry.colour[i]"
          :label="`Share of ${['red', 'green', 'blue'][i]} that is scattered`"
          help="The rest is taken away."
          :low="0"
          :high="1"
          :step="0.004"
          class="gap"
          @change="
            (value, live) =>
              air(
                entry.id,
                found => {
                  found.colour[i] = value
                },
                live,
              )
          "
        />
        of red, green and blue
      </p>
    </div>
    <div class="row wrap">
      <v-btn size="small" :prepend-icon="mdiPlus" data-test="add-air-space" @click="add('space')">Everywhere</v-btn
      ><v-btn size="small" :prepend-icon="mdiPlus" data-test="add-air-box" @click="add('box')">In a box</v-btn>
    </div>
    <div v-if="things.length" class="row">
      <select
        class="word"
        value=""
        aria-label="As the body of a thing"
        title="The thing must be closed. It is left out of the picture itself; bring it back under Things."
        data-test="add-air-thing"
        @change="
          $event => {
            add('thing', ($event.target as HTMLSelectElement).value)
            ;($event.target as HTMLSelectElement).value = ''
          }
        "
      >
        <option value="">As the body of …</option>
        <option v-for="name in things" :key="name" :value="name">{{ name }}</option>
      </select>
    </div>
  </div>
</template>

<style scoped>
.gap {
  margin-right: 7px;
}
.entry + .entry {
  border-top: 1px dashed var(--line);
  padding-top: 6px;
}
input[type='checkbox'] {
  accent-color: var(--ink);
}
p {
  margin: 2px 0;
}
</style>
