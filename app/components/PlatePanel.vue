<script setup lang="ts">
import { ENCODINGS } from '../../core/colour/encoding'
import type { AlphaKind } from '../../core/formats/picture/picture'
import { VIEWS } from '../../core/colour/view'
import { frameFaults, readingFaults } from '../../core/shot/faults'
import { bringPicture } from '~/composables/bring'
import { useShot } from '~/stores/shot'

const shot = useShot()
const busy = ref(''), notes = ref<string[]>([])
const plate = computed(() => shot.document?.plate ?? null)
const ALPHA: { value: AlphaKind; title: string }[] = [{ value: 'none', title: 'none' }, { value: 'straight', title: 'straight' }, { value: 'premultiplied', title: 'premultiplied' }, { value: 'ignore', title: 'ignore' }]

async function bring(files: File[]) {
  busy.value = 'reading'
  try {
    const brought = await bringPicture(files[0]!, share => { busy.value = `${Math.round(share * 100)} %` })
    notes.value = brought.notes
    shot.change('New plate', document => {
      document.plate = brought.reference
      if (!document.passes.file) document.frame = { width: brought.reference.width, height: brought.reference.height }
    })
  } catch (error) { shot.message = (error as Error).message }
  busy.value = ''
}
/** What does not fit, in words, with the mend. */
const faults = computed(() => {
  const document = shot.document
  if (!document?.plate) return []
  return [
    ...frameFaults(document).map(fault => ({ text: fault.text, mend: fault.label, act: () => shot.change(fault.label, next => { next.frame = fault.frame }) })),
    ...readingFaults(document.plate).map(({ text, mend }) => ({ text, mend: mend?.label, act: () => mend && shot.change(mend.label, next => { Object.assign(next.plate!, mend.values) }) })),
  ]
})
function read(field: 'encoding' | 'alpha', value: string) { shot.change('How the plate is read', document => { if (document.plate) { (document.plate as unknown as Record<string, unknown>)[field] = value; delete document.plate.guessed } }) }
</script>

<template>
  <div>
    <div class="panel">
      <h2>Plate</h2>
      <FileDrop accept=".png,.jpg,.jpeg,.tif,.tiff,.hdr,.exr" label="Drop another picture here, or click to choose" @files="bring"><template v-if="busy">{{ busy }}</template><template v-else-if="!plate">Drop the photograph here that everything will sit in, or click to choose. PNG, JPEG, TIFF, Radiance HDR, OpenEXR.</template></FileDrop>
    </div>
    <div v-if="plate" class="panel">
      <div class="field-line"><b>{{ plate.name }}</b></div>
      <div class="field-line"><span>Size</span><span class="figures">{{ plate.width }} x {{ plate.height }}</span></div>
      <v-select label="Colour encoding" :items="ENCODINGS.map(entry => ({ value: entry.id, title: entry.label, subtitle: entry.help }))" item-props :model-value="plate.encoding" data-test="encoding" @update:model-value="read('encoding', $event)" />
      <p v-if="plate.guessed" class="soft">Guessed: {{ plate.guessed }}.</p>
      <v-select label="Alpha" :items="ALPHA" :model-value="plate.alpha" @update:model-value="read('alpha', $event)" />
      <p v-for="note in notes" :key="note" class="soft">{{ note }}</p>
      <div v-for="fault in faults" :key="fault.text" class="warn"><span>{{ fault.text }}</span><v-btn v-if="fault.mend" size="small" color="primary" @click="fault.act">{{ fault.mend }}</v-btn></div>
      <p v-if="!faults.length" class="soft">Size, shape, encoding and alpha fit.</p>
    </div>
    <div v-if="shot.document" class="panel">
      <h2>Frame and time</h2>
      <div class="field-line"><span>Frame</span><span class="figures">{{ shot.document.frame.width }} x {{ shot.document.frame.height }}</span></div>
      <div class="field-line"><span>Frames</span><span><ValueField :model-value="shot.document.frames.first" label="First frame" :low="-100000" :high="100000" :step="0.2" :digits="0" @change="(value, live) => shot.change('First frame', document => { document.frames.first = Math.round(value as number); document.frames.last = Math.max(document.frames.last, document.frames.first) }, live)" /> to <ValueField :model-value="shot.document.frames.last" label="Last frame" :low="-100000" :high="100000" :step="0.2" :digits="0" @change="(value, live) => shot.change('Last frame', document => { document.frames.last = Math.max(document.frames.first, Math.round(value as number)) }, live)" /></span></div>
      <div class="field-line"><span>Rate</span><span><ValueField :model-value="shot.document.rate.numerator" label="Rate, numerator" :low="1" :high="1000000" :step="1" :digits="0" @change="(value, live) => shot.change('Rate', document => { document.rate.numerator = Math.round(value as number) }, live)" /> / <ValueField :model-value="shot.document.rate.denominator" label="Rate, denominator" :low="1" :high="1000000" :step="1" :digits="0" @change="(value, live) => shot.change('Rate', document => { document.rate.denominator = Math.round(value as number) }, live)" /> a second</span></div>
      <v-select label="Shown and sent through" :items="VIEWS.filter(view => view.id !== 'plain').map(view => ({ value: view.id, title: view.label, subtitle: view.help }))" item-props :model-value="shot.document.view" data-test="view" @update:model-value="value => shot.change('View', document => { document.view = value })" />
    </div>
  </div>
</template>
