<script setup lang="ts">
// The recipe: layers from far to near, each opening into its lines.
import { mdiImageMultipleOutline, mdiPlus, mdiScaleBalance } from '@mdi/js'
import { inOrder } from '../../core/shot/rows'
import { addStuck } from '../../core/shot/stuck'
import { bringWords } from '../../core/shot/words'
import { renderOf, ownRender } from '../../core/shot/tree'
import { LAYER_KINDS } from '../../core/layer/registry'
import type { LayerKind } from '../../core/layer/layer'
import type { LayerId } from '../../core/layer/registry'
import {
  bringAsFigure,
  bringFootage,
  bringPasses,
  footageOf,
  NAMES,
  PICTURES,
  VIDEOS,
  withTheirNames,
} from '~/composables/bring'
import { FIRST_FONT, shippedFont } from '~/composables/fonts'
import { useReadings } from '~/composables/readings'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'
import { SEEN_WORDS } from '../../core/shot/slip'
import { useView } from '~/stores/view'

const shot = useShot()
const view = useView()
const recipe = useRecipe()
const { layers, chosen, choose } = recipe
const { passesOf } = useReadings()
const busy = ref('')

async function take(files: File[]) {
  try {
    for (const footage of footageOf(await withTheirNames(files))) {
      busy.value = `reading ${footage.name}`
      const say = (text: string): void => {
        busy.value = `${footage.name}: ${text}`
      }
      // Passes of another render become a render
      const content = footage.kind === 'video' ? 'picture' : await passesOf(footage.files[0]!)
      if (content === 'picture') await bringFootage(footage, 'layer', say)
      else if (content) choose(await bringPasses(footage, content, say))
    }
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
  const added = inOrder(layers.value).at(-1)
  if (added?.kind === 'picture') choose(added.id)
}

/** The render that a new layer of it would be of: that of the open layer, or the shot's own. */
const render = computed(
  () =>
    (chosen.value && renderOf(layers.value, chosen.value)) ??
    ownRender(layers.value) ??
    inOrder(layers.value).find(layer => layer.kind === 'render'),
)
/** Files that become figures. */
async function takeFigures(files: File[]) {
  try {
    for (const file of await withTheirNames(files))
      choose(
        await bringAsFigure(file, text => {
          busy.value = `${file.name}: ${text}`
        }),
      )
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
}
/** Files that become elements. */
async function takeElements(files: File[]) {
  const before = Object.keys(layers.value)
  try {
    for (const footage of footageOf(files))
      await bringFootage(footage, 'element', text => {
        busy.value = `${footage.name}: ${text}`
      })
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
  const added = inOrder(layers.value).find(({ id, kind }) => kind === 'element' && !before.includes(id))
  if (added) choose(added.id)
}
/** A picture comes with its file, a render with its passes. */
const WITH_FILE: readonly string[] = ['picture', 'cut-out', 'element']
const OFFERED = LAYER_KINDS.filter(({ holds }) => !WITH_FILE.includes(holds))
const cannot = (kind: LayerKind): string =>
  kind.holds === 'pass' && !render.value ? 'There is no render that it could be of.' : ''
/** In the first font that ships. */
async function addWords() {
  try {
    const font = await shippedFont(FIRST_FONT)
    let made = ''
    shot.change('Add words', document => {
      made = bringWords(document, font, shot.frame)
    })
    choose(made)
  } catch (error) {
    shot.message = (error as Error).message
  }
}
/** On what the open layer's render shows, or the shot's own. */
function addDrawing() {
  let made = ''
  shot.change('Add stuck drawing', document => {
    made = addStuck(document, shot.frame, render.value?.id)
  })
  choose(made)
}
function add({ id, holds }: LayerKind) {
  if (holds === 'words') void addWords()
  else if (holds === 'stuck') addDrawing()
  else if (holds === 'lamp') recipe.add(id as LayerId, render.value ? { of: render.value.id } : {})
  else if (holds !== 'pass') recipe.add(id as LayerId)
  else if (id === 'ink') recipe.addInk(render.value!.id)
  else recipe.add(id as LayerId, { of: render.value!.id })
}

onMounted(() => {
  document.addEventListener('copy', recipe.copy)
  document.addEventListener('cut', cut)
  document.addEventListener('paste', recipe.paste)
})
onBeforeUnmount(() => {
  document.removeEventListener('copy', recipe.copy)
  document.removeEventListener('cut', cut)
  document.removeEventListener('paste', recipe.paste)
  // What is seen alone is a way of looking at this station
  view.solo = []
})
const cut = (event: ClipboardEvent): void => recipe.copy(event, true)
function seeMatte() {
  view.matte = view.matte ? null : view.pickedMatte
  view.matteAs = 'grey'
  view.matteLine = ''
}
</script>

<template>
  <div class="column">
    <ReadingSheet />
    <div class="row head">
      <h2 class="grow">Recipe</h2>
      <button v-if="view.solo.length" class="word only" data-test="solo-none" @click="view.solo = []">
        {{ view.solo.length === 1 ? 'one layer' : `${view.solo.length} layers` }} seen alone: see all
      </button>
      <span v-else class="soft">far to near · hold <kbd>B</kbd> before</span>
    </div>
    <LayerTree :group="null" :depth="0" />
    <div v-if="view.picked.length" class="panel picked">
      <span
        >Picked: <b>{{ view.picked.join(', ') }}</b>{{ SEEN_WORDS[view.pickedSeen] }}</span
      ><span class="row"
        ><button class="word" data-test="see-matte" @click="seeMatte">
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
        :accept="`${PICTURES},${VIDEOS},${NAMES}`"
        label="Add a picture as a layer"
        data-test="add-layer"
        @files="take"
        >{{ busy || 'Add pictures, clips or rendered passes as layers: drop them here or click' }}</FileDrop
      >
      <FileDrop
        many
        :accept="`${PICTURES},${NAMES}`"
        label="Stand a cut-out on the ground"
        data-test="add-figure"
        @files="takeFigures"
        >Stand a cut-out on the ground: drop it here or click</FileDrop
      >
      <FileDrop
        many
        :accept="`${PICTURES},${VIDEOS}`"
        label="Smoke, fire, spray or birds as an element"
        data-test="add-element"
        @files="takeElements"
        >Smoke, fire, spray, birds as an element: drop a clip here or click</FileDrop
      >
      <div class="row">
        <v-menu max-width="360"
          ><template #activator="{ props: menu }"
            ><v-btn v-bind="menu" size="small" :prepend-icon="mdiPlus" data-test="add-kind">Layer</v-btn></template
          >
          <v-list density="compact"
            ><v-list-item
              v-for="kind in OFFERED"
              :key="kind.id"
              :title="kind.label"
              :subtitle="cannot(kind) || kind.help"
              :disabled="!!cannot(kind)"
              lines="two"
              class="kind"
              :data-test="`add-${kind.id}`"
              @click="add(kind)"
          /></v-list>
        </v-menu>
        <span class="grow" />
        <v-btn
          :prepend-icon="mdiScaleBalance"
          size="small"
          data-test="fit-toggle"
          title="The plate and a layer measured side by side"
          @click="view.toggleLower('fitOpen')"
          >Fit <kbd class="key">M</kbd></v-btn
        >
        <v-btn
          :prepend-icon="mdiImageMultipleOutline"
          size="small"
          data-test="desk-toggle"
          @click="view.toggleLower('deskOpen')"
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
.only {
  color: var(--mark);
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
.kind {
  min-height: 0 !important;
  padding-block: 5px;
}
</style>
