<script setup lang="ts">
// The recipe: layers from far to near, each opening into its lines.
import { mdiCloseCircleOutline, mdiFormatColorFill, mdiImageMultipleOutline } from '@mdi/js'
import type { EntryValue } from '../../core/declare/field'
import { CLEAN_AMOUNT } from '../../core/render/passes'
import { BLEND_MODES } from '../../core/layer/modes'
import {
  identifier,
  isFlat,
  seenObjects,
  type FlatLayer,
  type Layer,
  type PictureLayer,
  type RenderLayer,
  type ShotDocument,
  type TreatmentSettings,
} from '../../core/shot/document'
import { addRow, inOrder, type Rows, type Unplaced } from '../../core/shot/rows'
import { INK, PICTURE_LAYER, RENDER_LAYER, WASH_LAYER } from '../../core/shot/schema/layer'
import { valueAt, type Animatable } from '../../core/time/curve'
import { ENCODINGS } from '../../core/colour/encoding'
import { clipFaults, readingFaults, type PictureFault } from '../../core/shot/faults'
import { bringFootage, bringPicture, footageOf, PICTURES, VIDEOS } from '~/composables/bring'
import { partProps, propsOf } from '~/composables/fields'
import { useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'
import { SEEN_WORDS, useView } from '~/stores/view'

const RENDER = propsOf(RENDER_LAYER.fields)
const PICTURE = propsOf(PICTURE_LAYER.fields)
const INKED = propsOf(INK.fields)
const shot = useShot()
const view = useView()
const jobs = useJobs()
const busy = ref('')
const distanceOf = (layer: Layer): number =>
  layer.kind === 'plate' ? Infinity : isFlat(layer) ? valueAt(layer.distance, shot.frame) : -1
const layers = computed(() => {
  const list = inOrder(shot.document!.build.layers)
  const flat = list.filter(isFlat).sort((a, b) => distanceOf(b) - distanceOf(a))
  return [list.find(layer => layer.kind === 'plate')!, ...flat, list.find(layer => layer.kind === 'render')!]
})
const edit = (label: string, id: string, mutate: (layer: Layer) => void, live = false): void =>
  shot.change(
    label,
    document => {
      const layer = document.build.layers[id]
      if (layer) mutate(layer)
    },
    live,
  )
type Named = keyof typeof RENDER | keyof typeof PICTURE
const put = (layer: Layer, field: Named, value: Animatable, live: boolean): void =>
  edit(
    `${{ ...RENDER, ...PICTURE }[field].label} of ${layer.name}`,
    layer.id,
    found => {
      ;(found as unknown as Record<string, unknown>)[field] = value
    },
    live,
  )
type Ink = NonNullable<RenderLayer['ink']>
const has = (pass: string): boolean => shot.document!.passes.file?.passes.includes(pass) ?? false
const ink = (layer: Layer): Ink => (layer as RenderLayer).ink ?? { strength: 0, colour: [0, 0, 0], bite: 0 }
const draw = (layer: Layer, change: Partial<Ink>, live: boolean): void =>
  edit(
    `Outline of ${layer.name}`,
    layer.id,
    found => {
      ;(found as RenderLayer).ink = { ...ink(found), ...change }
    },
    live,
  )
const finder =
  (id: string) =>
  (document: ShotDocument): Rows<TreatmentSettings> =>
    document.build.layers[id]!.treatments
async function addPicture(files: File[]) {
  try {
    for (const footage of footageOf(files)) {
      busy.value = `reading ${footage.name}`
      await bringFootage(footage, 'layer', text => {
        busy.value = `${footage.name}: ${text}`
      })
    }
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
  const added = inOrder(shot.document!.build.layers).at(-1)
  if (added?.kind === 'picture') view.selectedLayer = added.id
}
async function swap(layer: PictureLayer, files: File[]) {
  try {
    const { reference } = await bringPicture(files[0]!)
    edit(`Swap the picture of ${layer.name}`, layer.id, found => {
      ;(found as PictureLayer).picture = reference
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
const faultsOf = (layer: PictureLayer): PictureFault[] => [
  ...readingFaults(layer.picture),
  ...clipFaults(shot.document!, layer.picture),
]
function mend(layer: PictureLayer, { label, values, again }: PictureFault['mends'][number]) {
  const made = layer.picture.clip?.made
  if (again && made) {
    void shot
      .save()
      .then(() =>
        jobs.start(shot.id, 'import', { files: [made], as: 'layer', layer: layer.id, frame: shot.frame, ...again }),
      )
      .catch(error => {
        shot.message = (error as Error).message
      })
    return
  }
  edit(label, layer.id, found => {
    Object.assign((found as PictureLayer).picture, JSON.parse(JSON.stringify(values)))
  })
}
const rename = (layer: Layer, event: Event): void => {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name && name !== layer.name)
    edit('Rename a layer', layer.id, found => {
      found.name = name.slice(0, 200)
    })
}
const remove = (layer: Layer): void =>
  shot.change(`Remove ${layer.name}`, document => {
    delete document.build.layers[layer.id]
  })
/** A colour over all, as far away as what is farthest of the flat layers. */
function addWash() {
  const id = identifier()
  const metres = Math.max(10, ...layers.value.map(distanceOf).filter(Number.isFinite))
  shot.change('Add a colour wash', document => {
    addRow<Layer, Unplaced<Layer>>(document.build.layers, {
      id,
      kind: 'wash',
      name: 'Wash',
      on: true,
      opacity: 0.3,
      mode: 'over',
      treatments: {},
      colour: [...WASH_LAYER.fields.colour.first!] as [number, number, number],
      distance: metres,
    })
  })
  view.selectedLayer = id
}
const setWash = (layer: Layer, name: string, value: EntryValue, live: boolean): void =>
  edit(
    `${name === 'colour' ? 'Colour' : 'Distance'} of ${layer.name}`,
    layer.id,
    found => {
      Object.assign(found, { [name]: value })
    },
    live,
  )
const duplicate = (layer: FlatLayer): void =>
  shot.change(`Copy ${layer.name}`, document => {
    const copy = JSON.parse(JSON.stringify(layer)) as FlatLayer
    addRow(document.build.layers, { ...copy, id: identifier(), name: `${layer.name} copy` }, layer.id)
  })
const away = (layer: Layer): string =>
  layer.kind === 'plate' ? 'far' : isFlat(layer) ? `${valueAt(layer.distance, shot.frame).toFixed(2)} m` : 'by depth'
const hold = (id: string | null): void => {
  view.held = id ? { id } : null
}
const about = (layer: Layer): string =>
  layer.kind === 'plate'
    ? (shot.document!.plate?.name ?? 'no plate yet')
    : layer.kind === 'picture'
      ? layer.picture.name
      : layer.kind === 'wash'
        ? 'one colour'
        : shot.document!.passes.file
          ? `${seenObjects(shot.document!.passes.file).length} objects`
          : 'no passes yet'
</script>

<template>
  <div class="column">
    <div class="row head">
      <h2 class="grow">Recipe</h2>
      <span class="soft">far to near · hold <kbd>B</kbd> before</span>
    </div>
    <article
      v-for="layer in layers"
      :key="layer.id"
      class="layer"
      :class="{ open: view.selectedLayer === layer.id, off: !layer.on }"
      :data-test="`layer-${layer.name}`"
    >
      <div class="row title" @click="view.selectedLayer = layer.id">
        <button
          class="dot"
          :aria-pressed="layer.on"
          :aria-label="`${layer.name} on or off`"
          title="On or off"
          @click.stop="
            edit(layer.on ? 'Layer off' : 'Layer on', layer.id, found => {
              found.on = !found.on
            })
          "
        />
        <div class="grow">
          <WordField
            class="rename"
            :value="layer.name"
            :aria-label="`Name of ${layer.name}`"
            @change="rename(layer, $event)"
          />
          <div class="soft small">{{ about(layer) }}</div>
        </div>
        <span class="figures soft">{{ away(layer) }}</span>
      </div>
      <div v-if="view.selectedLayer === layer.id" class="body">
        <p>
          {{ layer.kind === 'plate' ? 'seen' : 'laid' }}
          <select
            v-if="layer.kind !== 'plate'"
            class="word figures"
            :value="layer.mode"
            aria-label="Blending mode"
            data-test="mode"
            @change="
              edit('Blending mode', layer.id, found => {
                found.mode = ($event.target as HTMLSelectElement).value
              })
            "
          >
            <option v-for="mode in BLEND_MODES" :key="mode.id" :value="mode.id">{{ mode.label }}</option>
          </select>
          at
          <ValueField
            :model-value="layer.opacity"
            v-bind="RENDER.opacity"
            data-test="opacity"
            @change="(value, live) => put(layer, 'opacity', value, live)"
          />
        </p>
        <template v-if="layer.kind === 'render'">
          <p>
            Lay its shadow on the plate at
            <ValueField
              :model-value="(layer as RenderLayer).shadow"
              v-bind="RENDER.shadow"
              data-test="shadow"
              @change="(value, live) => put(layer, 'shadow', value, live)"
            />
          </p>
          <p>
            Darken creases by occlusion
            <ValueField
              :model-value="(layer as RenderLayer).occlusion"
              v-bind="RENDER.occlusion"
              data-test="occlusion"
              @change="(value, live) => put(layer, 'occlusion', value, live)"
            />
          </p>
          <p v-if="has('volume')">
            Lay the air over everything at
            <ValueField
              :model-value="(layer as RenderLayer).air ?? 1"
              v-bind="RENDER.air"
              data-test="air-amount"
              @change="(value, live) => put(layer, 'air', value, live)"
            />
          </p>
          <p v-if="has('wet')">
            Add what wet ground mirrors at
            <ValueField
              :model-value="(layer as RenderLayer).wet ?? 1"
              v-bind="RENDER.wet"
              data-test="wet-amount"
              @change="(value, live) => put(layer, 'wet', value, live)"
            />
          </p>
          <p v-if="has('outline')">
            Ink its outline at
            <ValueField
              :model-value="ink(layer).strength"
              v-bind="INKED.strength"
              data-test="ink"
              @change="(value, live) => draw(layer, { strength: value }, live)"
            />
            in
            <ValueField
              v-for="i in [0, 1, 2] as const"
              :key="i"
              :model-value="ink(layer).colour[i]"
              v-bind="partProps(INK.fields.colour, i)"
              class="gap"
              @change="
                (value, live) =>
                  draw(
                    layer,
                    { colour: ink(layer).colour.map((old, k) => (k === i ? value : old)) as Ink['colour'] },
                    live,
                  )
              "
            />; take it out of the edge by
            <ValueField
              :model-value="ink(layer).bite"
              v-bind="INKED.bite"
              data-test="bite"
              @change="(value, live) => draw(layer, { bite: value }, live)"
            />
          </p>
          <p v-if="shot.document!.passes.file?.clean">
            Take the noise out of its light by
            <ValueField
              :model-value="(layer as RenderLayer).clean ?? CLEAN_AMOUNT"
              v-bind="RENDER.clean"
              data-test="clean"
              @change="(value, live) => put(layer, 'clean', value, live)"
            />
            <button
              class="word soft"
              data-test="compare-clean"
              @click="
                view.compare = view.compare?.with === 'as rendered' ? null : { with: 'as rendered', at: 0.5, angle: 0 }
              "
            >
              {{ view.compare?.with === 'as rendered' ? 'no line' : 'as rendered | now' }}
            </button>
          </p>
          <p v-if="!shot.document!.passes.file" class="soft">
            Render passes at the station Passes; they are laid here.
          </p>
        </template>
        <p v-if="layer.kind === 'wash'">
          <SentenceValues
            sentence="in {colour}, over all that is farther away than {distance}"
            :fields="{ colour: WASH_LAYER.fields.colour, distance: WASH_LAYER.fields.distance }"
            :values="{ colour: layer.colour, distance: layer.distance }"
            @change="(name, value, live) => setWash(layer, name, value, live)"
          />
        </p>
        <template v-if="layer.kind === 'picture'">
          <p>
            stands
            <ValueField
              :model-value="layer.distance"
              v-bind="PICTURE.distance"
              data-test="distance"
              @change="(value, live) => put(layer, 'distance', value, live)"
            />
            away, its middle at
            <ValueField
              :model-value="layer.x"
              v-bind="PICTURE.x"
              @change="(value, live) => put(layer, 'x', value, live)"
            />,
            <ValueField
              :model-value="layer.y"
              v-bind="PICTURE.y"
              @change="(value, live) => put(layer, 'y', value, live)"
            />, scaled
            <ValueField
              :model-value="layer.scale"
              v-bind="PICTURE.scale"
              @change="(value, live) => put(layer, 'scale', value, live)"
            />, turned
            <ValueField
              :model-value="layer.rotation"
              v-bind="PICTURE.rotation"
              @change="(value, live) => put(layer, 'rotation', value, live)"
            />
          </p>
          <FaultList :faults="faultsOf(layer as PictureLayer)" @mend="mend(layer as PictureLayer, $event)" />
          <ClipLines
            v-if="layer.picture.clip"
            :clip="layer.picture.clip"
            @change="
              (label, mutate, live) =>
                edit(
                  label,
                  layer.id,
                  found => {
                    mutate((found as PictureLayer).picture.clip!)
                  },
                  live,
                )
            "
          />
          <p>
            read as
            <select
              class="word"
              :value="layer.picture.encoding"
              aria-label="Encoding"
              @change="
                edit('How a picture is read', layer.id, found => {
                  ;(found as PictureLayer).picture.encoding = ($event.target as HTMLSelectElement).value
                })
              "
            >
              <option v-for="encoding in ENCODINGS" :key="encoding.id" :value="encoding.id">
                {{ encoding.label }}
              </option></select
            >, alpha
            <select
              class="word"
              :value="layer.picture.alpha"
              aria-label="Alpha"
              @change="
                edit('How a picture is read', layer.id, found => {
                  ;(found as PictureLayer).picture.alpha = ($event.target as HTMLSelectElement).value as never
                })
              "
            >
              <option v-for="alpha in ['none', 'straight', 'premultiplied', 'ignore']" :key="alpha" :value="alpha">
                {{ alpha }}
              </option>
            </select>
          </p>
        </template>
        <TreatmentList
          :rows="layer.treatments"
          :find="finder(layer.id)"
          :mattes="layer.kind === 'render'"
          :hint="
            layer.kind === 'render'
              ? 'Click an object in the picture, then add a treatment: it works on that object alone.'
              : ''
          "
        />
        <div class="row tools">
          <button
            class="word soft"
            @pointerdown="hold(layer.id)"
            @pointerup="hold(null)"
            @pointerleave="view.held?.id === layer.id && hold(null)"
          >
            hold: without</button
          ><span class="grow" /><template v-if="isFlat(layer)"
            ><FileDrop
              v-if="layer.kind === 'picture'"
              label="swap"
              accept=".png,.jpg,.jpeg,.tif,.tiff,.hdr,.exr"
              class="swap"
              @files="swap(layer as PictureLayer, $event)"
              >swap</FileDrop
            ><button class="word soft" @click="duplicate(layer)">copy</button
            ><v-btn :icon="mdiCloseCircleOutline" size="x-small" aria-label="Remove this layer" @click="remove(layer)"
          /></template>
        </div>
      </div>
    </article>
    <div v-if="view.picked.length" class="panel picked">
      <span
        >Picked: <b>{{ view.picked.join(', ') }}</b>{{ SEEN_WORDS[view.pickedSeen] }}</span
      ><span class="row"
        ><button class="word" data-test="see-matte" @click="view.matte = view.matte ? null : view.pickedMatte">
          {{ view.matte ? 'see the picture' : 'see its matte' }}</button
        ><button
          v-if="view.matte"
          class="word"
          data-test="see-inverted"
          @click="view.matte = { ...view.matte, invert: !view.matte.invert }"
        >
          inverted</button
        ><button
          class="word soft"
          @click="
            () => {
              view.picked = []
              view.matte = null
            }
          "
        >
          let go
        </button></span
      >
    </div>
    <div class="panel add">
      <FileDrop
        many
        :accept="`${PICTURES},${VIDEOS}`"
        label="Add a picture as a layer"
        data-test="add-layer"
        @files="addPicture"
        >{{ busy || 'Add pictures or clips as layers: drop them here or click' }}</FileDrop
      >
      <div class="row">
        <v-btn
          :prepend-icon="mdiFormatColorFill"
          size="small"
          title="One colour over all that is farther away"
          data-test="add-wash"
          @click="addWash"
          >Colour wash</v-btn
        >
        <v-btn
          :prepend-icon="mdiImageMultipleOutline"
          size="small"
          data-test="desk-toggle"
          @click="view.deskOpen = !view.deskOpen"
          >Desk <kbd class="key">D</kbd></v-btn
        >
      </div>
    </div>
  </div>
</template>

<style scoped>
.column {
  display: flex;
  flex-direction: column;
  min-height: 100%;
}
.head {
  padding: 10px 14px 8px;
}
.layer {
  border-top: 1px solid var(--line);
  border-left: 3px solid transparent;
}
.layer.open {
  background: var(--card);
  border-left-color: var(--mark);
}
.layer.off .title {
  opacity: 0.5;
}
.title {
  padding: 6px 14px 6px 11px;
  cursor: pointer;
}
.rename {
  font: inherit;
  font-weight: 550;
  background: none;
  border: 0;
  color: inherit;
  width: 100%;
  padding: 0;
}
.small {
  font-size: 12px;
}
.body {
  padding: 0 14px 8px 32px;
  line-height: 1.7;
}
.body p {
  margin: 0 0 4px;
}
.dot {
  width: 11px;
  height: 11px;
  border-radius: 50%;
  background: var(--ink);
  border: 1.5px solid var(--ink);
  padding: 0;
  cursor: pointer;
}
.off .dot {
  background: none;
  border-color: var(--soft);
}
.tools {
  font-size: 12px;
  margin-top: 4px;
}
.swap {
  width: auto;
  padding: 0 8px;
}
.gap {
  margin-right: 7px;
}
.picked {
  margin-top: auto;
  background: var(--mark-tint);
}
.picked .row {
  gap: 14px;
}
.add {
  margin-top: auto;
}
.picked + .add {
  margin-top: 0;
}
.key {
  margin-left: 6px;
}
</style>
