<script setup lang="ts">
import { ENCODINGS } from '../../core/colour/encoding'
import type { AlphaKind } from '../../core/formats/picture/picture'
import { VIEWS } from '../../core/colour/view'
import type { ClipUse } from '../../core/shot/document'
import { clipFaults, frameFaults, readingFaults, type PictureFault } from '../../core/shot/faults'
import { setFrame, setRate as setShotRate } from '../../core/shot/values'
import { parseRate, rateText } from '../../core/time/rate'
import { bringFootage, bringTable, footageOf, PICTURES, VIDEOS } from '~/composables/bring'
import { timeLeft, unended, useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'

const shot = useShot()
const jobs = useJobs()
const busy = ref('')
const notes = ref<string[]>([])
const plate = computed(() => shot.document?.plate ?? null)
const ALPHA: { value: AlphaKind; title: string }[] = [
  { value: 'none', title: 'none' },
  { value: 'straight', title: 'straight' },
  { value: 'premultiplied', title: 'premultiplied' },
  { value: 'ignore', title: 'ignore' },
]

const importing = computed(() => jobs.ofShot(shot.id).find(job => job.kind === 'import' && unended(job)))
const failed = computed(() => {
  const last = jobs.ofShot(shot.id).find(job => job.kind === 'import')
  return last?.state === 'failed' ? last.message : ''
})
async function bring(files: File[]) {
  busy.value = 'reading'
  notes.value = []
  try {
    const [footage, ...more] = footageOf(files)
    if (!footage) throw new Error('Nothing of this can be a plate.')
    if (more.length)
      throw new Error(
        `These are ${more.length + 1} things (${[footage, ...more]
          .slice(0, 3)
          .map(entry => entry.name)
          .join(', ')}${more.length > 2 ? ' …' : ''}); a plate is one picture, one video or one numbered sequence.`,
      )
    notes.value = await bringFootage(footage, 'plate', text => {
      busy.value = text
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
  busy.value = ''
}
/** A table from the camera's colours to light. */
async function bringLut(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    const lut = await bringTable(file)
    shot.change('Read through a table', document => {
      Object.assign(document.plate!, { lut, encoding: 'linear' })
      delete document.plate!.guessed
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
/** What does not fit, in words, with what can be done. */
const faults = computed((): PictureFault[] => {
  const document = shot.document
  if (!document?.plate) return []
  return [...readingFaults(document.plate), ...clipFaults(document, document.plate)]
})
const sizeFaults = computed(() => (shot.document ? frameFaults(shot.document) : []))
function mend({ label, values, rate, again }: PictureFault['mends'][number]) {
  const made = plate.value?.clip?.made
  if (again && made) {
    void shot
      .save()
      .then(() => jobs.start(shot.id, 'import', { files: [made], as: 'plate', frame: shot.frame, ...again }))
      .catch(error => {
        shot.message = (error as Error).message
      })
    return
  }
  shot.change(label, document => {
    if (values) Object.assign(document.plate!, JSON.parse(JSON.stringify(values)))
    if (rate) setShotRate(document, rate)
  })
}
function editClip(label: string, mutate: (clip: ClipUse) => void, live: boolean) {
  shot.change(
    label,
    document => {
      if (document.plate?.clip) mutate(document.plate.clip)
    },
    live,
  )
}
const rateWrong = ref('')
function setRate(event: Event) {
  try {
    const rate = parseRate((event.target as HTMLInputElement).value)
    rateWrong.value = ''
    shot.change('Rate', document => {
      setShotRate(document, rate)
    })
  } catch (error) {
    rateWrong.value = (error as Error).message
  }
}
function read(field: 'encoding' | 'alpha', value: string) {
  shot.change('How the plate is read', document => {
    if (document.plate) {
      ;(document.plate as unknown as Record<string, unknown>)[field] = value
      delete document.plate.guessed
    }
  })
}
</script>

<template>
  <div>
    <div class="panel">
      <h2>Plate</h2>
      <FileDrop
        many
        :accept="`${PICTURES},${VIDEOS}`"
        label="Drop another picture, video or sequence here, or click to choose"
        data-test="plate-drop"
        @files="bring"
        ><template v-if="busy">{{ busy }}</template
        ><template v-else-if="!plate"
          >Drop the photograph or footage here that everything will sit in, or click to choose: a picture, a video, the
          files of a numbered sequence or their folder.</template
        ></FileDrop
      >
      <template v-if="importing"
        ><v-progress-linear :model-value="importing.progress * 100" color="secondary" height="6" rounded />
        <div class="row">
          <span class="grow soft">{{ importing.message ?? 'waiting' }} {{ timeLeft(importing.secondsLeft) }}</span
          ><v-btn size="small" @click="jobs.cancel(importing.id)">Cancel</v-btn>
        </div></template
      >
      <p v-if="failed" class="warn" role="alert" data-test="import-failed">{{ failed }}</p>
    </div>
    <div v-if="plate" class="panel">
      <div class="field-line">
        <b>{{ plate.name }}</b>
      </div>
      <div class="field-line">
        <span>Size</span><span class="figures">{{ plate.width }} x {{ plate.height }}</span>
      </div>
      <v-select
        :label="plate.lut ? 'What comes out of the table' : 'Colour encoding'"
        :items="ENCODINGS.map(entry => ({ value: entry.id, title: entry.label, subtitle: entry.help }))"
        item-props
        :model-value="plate.encoding"
        data-test="encoding"
        @update:model-value="read('encoding', $event)"
      />
      <p class="lut">
        <template v-if="plate.lut"
          >read through <b>{{ plate.lut.name }}</b>, whose colours are said above;
          <button
            class="word soft"
            data-test="lut-off"
            @click="
              shot.change('Without the table', document => {
                delete document.plate!.lut
              })
            "
          >
            without it
          </button></template
        ><label v-else class="word soft"
          >read through a .cube table<input type="file" hidden accept=".cube" data-test="lut-file" @change="bringLut"
        /></label>
      </p>
      <p v-if="plate.guessed" class="soft">Guessed: {{ plate.guessed }}.</p>
      <v-select label="Alpha" :items="ALPHA" :model-value="plate.alpha" @update:model-value="read('alpha', $event)" />
      <p v-for="note in notes" :key="note" class="soft">{{ note }}</p>
      <FaultList :faults="faults" @mend="mend" />
      <div v-for="fault in sizeFaults" :key="fault.text" class="warn">
        <span>{{ fault.text }}</span><v-btn
          size="small"
          color="primary"
          @click="
            shot.change(fault.label, next => {
              setFrame(next, fault.frame)
            })
          "
          >{{ fault.label }}</v-btn
        >
      </div>
      <p v-if="!faults.length && !sizeFaults.length" class="soft">Size, shape, encoding and alpha fit.</p>
    </div>
    <LensPanel v-if="plate" />
    <div v-if="plate?.clip" class="panel">
      <h2>The clip in the shot</h2>
      <ClipLines :clip="plate.clip" @change="editClip" />
    </div>
    <div v-if="shot.document" class="panel">
      <h2>Frame and time</h2>
      <div class="field-line">
        <span>Frame</span
        ><span class="figures">{{ shot.document.frame.width }} x {{ shot.document.frame.height }}</span>
      </div>
      <div class="field-line">
        <span>Frames</span
        ><span
          ><ValueField
            still
            :model-value="shot.document.frames.first"
            label="First frame"
            :low="-100000"
            :high="100000"
            :step="0.2"
            :digits="0"
            @change="
              (value, live) =>
                shot.change(
                  'First frame',
                  document => {
                    document.frames.first = Math.round(value as number)
                    document.frames.last = Math.max(document.frames.last, document.frames.first)
                  },
                  live,
                )
            " />
          to
          <ValueField
            still
            :model-value="shot.document.frames.last"
            label="Last frame"
            :low="-100000"
            :high="100000"
            :step="0.2"
            :digits="0"
            @change="
              (value, live) =>
                shot.change(
                  'Last frame',
                  document => {
                    document.frames.last = Math.max(document.frames.first, Math.round(value as number))
                  },
                  live,
                )
            "
        /></span>
      </div>
      <div class="field-line">
        <span>Rate</span
        ><span
          ><WordField
            class="rate figures"
            :value="rateText(shot.document.rate)"
            aria-label="Rate of the shot"
            data-test="shot-rate"
            @change="setRate"
          />
          a second</span
        >
      </div>
      <p v-if="rateWrong" class="warn" role="alert">{{ rateWrong }}</p>
      <v-select
        label="Shown and sent through"
        :items="
          VIEWS.filter(view => view.id !== 'plain').map(view => ({
            value: view.id,
            title: view.label,
            subtitle: view.help,
          }))
        "
        item-props
        :model-value="shot.document.view"
        data-test="view"
        @update:model-value="
          value =>
            shot.change('View', document => {
              document.view = value
            })
        "
      />
    </div>
  </div>
</template>

<style scoped>
.rate {
  width: 96px;
  font-size: 12.5px;
  text-align: right;
  border: 0;
  border-bottom: 1.5px solid #b4b5b3;
  background: none;
  color: inherit;
  padding: 0 1px;
}
</style>
