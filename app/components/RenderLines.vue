<script setup lang="ts">
// What a render layer says beside its values: of which passes it is made, and what can be made of them.
import type { EntryValue } from '../../core/declare/field'
import { render } from '../../core/layer/render'
import type { DepthReading, RenderLayer } from '../../core/shot/document'
import { keepRender } from '../../core/shot/layers'
import { ownRender } from '../../core/shot/tree'
import { engine } from '~/composables/engine'
import { useReadings } from '~/composables/readings'
import { useRecipe } from '~/composables/recipe'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

const props = defineProps<{ layer: RenderLayer; inked: boolean }>()
defineEmits<{ ink: []; set: [name: string, value: EntryValue, live: boolean] }>()
const shot = useShot()
const view = useView()
const { layers, choose, edit } = useRecipe()
const file = computed(() => (props.layer.file ?? shot.document!.passes.file)!)
const isOwn = computed(() => ownRender(layers.value)?.id === props.layer.id)
function keep() {
  let made: string | undefined
  shot.change(`Keep ${props.layer.name}`, document => {
    made = keepRender(document)
  })
  if (made) choose(made)
}
const follow = (): void =>
  edit<RenderLayer>(`Passes of ${props.layer.name}`, props.layer.id, found => {
    delete found.file
  })
// Of a set from elsewhere: what its layers are
const { ask } = useReadings()
const reading = computed(() => props.layer.file?.reading)
const setDepth = (depth: DepthReading, live: boolean): void =>
  edit<RenderLayer>(
    `Depth of ${props.layer.name}`,
    props.layer.id,
    found => {
      if (found.file?.reading) found.file.reading.depth = depth
    },
    live,
  )
const asking = ref(false)
async function askAgain() {
  const { file, id, name } = props.layer
  if (!file?.reading) return
  asking.value = true
  try {
    const answer = await fetch(`/api/blobs/${file.blob}`)
    if (!answer.ok) throw new Error(`“${file.name}” cannot be fetched from the server.`)
    const bytes = new File([await answer.blob()], file.name)
    const theirs = await engine.theirs(bytes)
    asking.value = false
    const content = theirs && (await ask(bytes, theirs, file.reading))
    if (content && content !== 'picture')
      edit<RenderLayer>(`What is what in ${name}`.slice(0, 80), id, found => {
        if (found.file?.blob !== file.blob) return
        delete found.file.lights
        Object.assign(found.file, content)
      })
  } catch (error) {
    shot.message = (error as Error).message
  }
  asking.value = false
}
</script>

<template>
  <DepthReadingLines v-if="reading?.depth" :depth="reading.depth" :layer="layer.id" @change="setDepth" />
  <p v-if="file.clean">
    <SentenceValues
      sentence="noise taken out of its light by {clean}"
      :fields="render.values"
      :values="layer as unknown as Record<string, EntryValue>"
      @change="(name, value, live) => $emit('set', name, value, live)"
    />
    <button
      class="word soft"
      data-test="compare-clean"
      @click="view.compare = view.compare?.with === 'as rendered' ? null : { with: 'as rendered', at: 0.5, angle: 0 }"
    >
      {{ view.compare?.with === 'as rendered' ? 'no line' : 'as rendered | now' }}
    </button>
  </p>
  <p class="acts">
    <button v-if="reading" class="word soft" :disabled="asking" data-test="read-again" @click="askAgain">
      {{ asking ? 'reading …' : 'what is what in its file' }}
    </button>
    <button v-if="file.passes.includes('outline') && !inked" class="word soft" data-test="ink" @click="$emit('ink')">
      ink its outline
    </button>
    <button
      v-if="isOwn"
      class="word soft"
      title="These passes stay as a layer when they are rendered again"
      data-test="keep"
      @click="keep"
    >
      keep these passes as a layer
    </button>
    <button v-if="layer.file && !ownRender(layers)" class="word soft" data-test="follow" @click="follow">
      show what the shot renders
    </button>
  </p>
</template>

<style scoped>
p {
  margin: 0 0 4px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: 12px;
}
</style>
