<script setup lang="ts">
// What a render may be taken with, in words: a lens in place of a pinhole, a shutter; and whether its data stays sharp.
import { firstValues } from '../../core/declare/values'
import { LENS_VALUES, SHUTTER_OF_RENDER } from '../../core/lens/values'
import { useShot } from '~/stores/shot'

const OPTIONS = {
  lens: {
    fields: LENS_VALUES,
    word: 'through a true lens',
    sentence:
      '. In focus at {distance} at f/{fNumber}, through {blades} blades turned {turn}, {squeeze} times taller than wide, the rim brighter by {rim}, hidden toward the corners by {catsEye}.',
    sharp: 'names, normals and the like stay sharp',
    change: { on: 'True lens', off: 'Pinhole', sharp: 'Sharp data' },
  },
  shutter: {
    fields: SHUTTER_OF_RENDER,
    word: 'with its shutter',
    sentence: ' open for {shutter} from {from}, looked at {moments} times.',
    sharp: 'names, depth, normals and the like are those of the frame itself',
    change: { on: 'True shutter', off: 'No shutter', sharp: 'Data of the frame' },
  },
}
const props = defineProps<{ of: keyof typeof OPTIONS }>()
const shot = useShot()
const option = computed(() => OPTIONS[props.of])
const settings = computed(() => shot.document!.passes[props.of])
const own = computed(() => {
  const { sharpData: _sharp, ...values } = settings.value!
  return values
})
function turn(on: boolean) {
  const { change, fields } = option.value
  shot.change(on ? change.on : change.off, ({ passes }) => {
    if (on) Object.assign(passes, { [props.of]: { ...firstValues(fields), sharpData: true } })
    else delete passes[props.of]
  })
}
function put(name: string, value: unknown, live: boolean) {
  shot.change(
    option.value.change.on,
    ({ passes }) => {
      Object.assign(passes[props.of]!, { [name]: value })
    },
    live,
  )
}
function turnSharp() {
  shot.change(option.value.change.sharp, ({ passes }) => {
    passes[props.of]!.sharpData = !passes[props.of]!.sharpData
  })
}
</script>

<template>
  <label class="pick"
    ><input
      type="checkbox"
      :checked="!!settings"
      :data-test="of"
      @change="turn(($event.target as HTMLInputElement).checked)"
    />
    {{ option.word }}</label
  ><template v-if="settings"
    ><SentenceValues :sentence="option.sentence" :fields="option.fields" :values="own" @change="put" />{{ ' ' }}
    <label class="pick"
      ><input type="checkbox" :checked="!!settings.sharpData" :data-test="`${of}-sharp`" @change="turnSharp" />
      {{ option.sharp }}</label
    ></template
  >
</template>
