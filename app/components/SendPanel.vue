<script setup lang="ts">
import { DELIVERY_ENDINGS, isMovie, MOVIE_ENDINGS, type DeliveryFormat } from '../../core/compose/deliveries'
import { frameName, parseFrames } from '../../core/time/frameList'
import { SEND_FORMATS, type SendFormat } from '../../shared/requests'
import { timeLeft, unended, useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'

const shot = useShot()
const jobs = useJobs()
const LABELS: Record<SendFormat, string> = {
  png8: 'PNG, 8 bit',
  png16: 'PNG, 16 bit',
  tiff8: 'TIFF, 8 bit',
  tiff16: 'TIFF, 16 bit',
  tiff32: 'TIFF, float, scene-linear',
  jpeg: 'JPEG',
  exr16: 'OpenEXR, half, scene-linear',
  exr32: 'OpenEXR, float, scene-linear',
  passes: 'OpenEXR of all passes',
  passes_parts: 'OpenEXR of all passes, a part each',
  h264: 'Movie, H.264, for review',
  hevc10: 'Movie, HEVC, 10 bit',
  prores4444: 'Movie, ProRes 4444, with alpha',
  ffv1: 'Movie, FFV1, lossless, 16 bit',
}
const WHICH = [
  ['one', 'this frame'],
  ['all', 'all frames'],
  ['some', 'some frames'],
] as const
const format = ref<SendFormat>('png16')
const movie = computed(() => isMovie(format.value))
const bounds = computed(() => shot.document!.frames)
const moves = computed(() => bounds.value.last > bounds.value.first)
/** This frame alone, all of the shot, or those that are named. */
const which = ref<'one' | 'all' | 'some'>(moves.value ? 'all' : 'one')
const some = ref('')
const name = ref(shot.name)
/** What is asked for: the frames, or what is wrong with how they are named. */
const frames = computed((): { list: number[]; text: string; fault: string } => {
  const { first, last } = bounds.value
  if (which.value === 'one' && !movie.value) return { list: [shot.frame], text: '', fault: '' }
  const text = which.value === 'some' ? some.value : which.value === 'one' ? String(shot.frame) : `${first}-${last}`
  try {
    const list = parseFrames(text)
    const outside = list.find(frame => frame < first || frame > last)
    return {
      list,
      text,
      fault: outside === undefined ? '' : `Frame ${outside} is not in the shot, which runs from ${first} to ${last}.`,
    }
  } catch (error) {
    return { list: [], text, fault: (error as Error).message }
  }
})
const ending = computed(() =>
  isMovie(format.value) ? MOVIE_ENDINGS[format.value] : DELIVERY_ENDINGS[format.value as DeliveryFormat],
)
/** What the files will be called. */
const example = computed(() => {
  const { list } = frames.value
  if (!list.length) return ''
  const of = (frame: number): string => frameName(name.value, frame, ending.value, !movie.value && !!frames.value.text)
  if (movie.value || list.length === 1) return of(list[0]!)
  return `${of(list[0]!)} … ${of(list.at(-1)!)} (${list.length} files)`
})
const list = computed(() => jobs.ofShot(shot.id).filter(job => job.kind === 'send'))
onMounted(() => {
  void jobs.load(shot.id).catch(() => {})
})
async function send() {
  await shot.save()
  try {
    const { text, list } = frames.value
    await jobs.start(shot.id, 'send', {
      frame: list[0]!,
      format: format.value,
      name: name.value.trim() || shot.name,
      ...(text && { frames: text }),
    })
  } catch (error) {
    shot.message = (error as Error).message
  }
}
const size = (bytes: number): string =>
  bytes > 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.ceil(bytes / 1e3)} kB`
</script>

<template>
  <div>
    <div class="panel">
      <h2>Send</h2>
      <p class="soft">
        Made on the server from the saved shot, with the numbers that are seen here. Display formats go through the view
        “{{ shot.document!.view }}”.
      </p>
      <v-select
        v-model="format"
        label="As"
        :items="SEND_FORMATS.map(id => ({ value: id, title: LABELS[id] }))"
        data-test="send-format"
      />
      <div v-if="moves" class="row" role="radiogroup" aria-label="Frames">
        <button
          v-for="[id, words] in WHICH"
          :key="id"
          class="word"
          role="radio"
          :aria-checked="which === id"
          :data-test="`frames-${id}`"
          @click="which = id"
        >
          {{ words }}
        </button>
      </div>
      <v-text-field
        v-if="moves && which === 'some'"
        v-model="some"
        label="Frames"
        placeholder="1-24, 30, 40-48x2"
        hint="A range, a single frame, every second of a range; joined by commas."
        data-test="frames-text"
      />
      <v-text-field
        v-model="name"
        label="Name"
        hint="# stands for a figure of the frame’s number."
        data-test="send-name"
      />
      <p v-if="frames.fault" class="small" role="alert" data-test="frames-fault">{{ frames.fault }}</p>
      <p v-else class="soft small" data-test="send-example">{{ example }}</p>
      <v-btn color="primary" variant="flat" block :disabled="!!frames.fault" data-test="send" @click="send">{{
        movie ? 'Make the movie' : frames.list.length > 1 ? `Make ${frames.list.length} files` : 'Make the file'
      }}</v-btn>
    </div>
    <div class="panel">
      <h3>Files</h3>
      <p v-if="!list.length" class="soft">Nothing made yet.</p>
      <div v-for="job in list" :key="job.id" class="file" data-test="sent">
        <div class="grow">
          <div>{{ job.result?.name ?? LABELS[job.settings.format as SendFormat] }}</div>
          <div class="soft small">
            {{ LABELS[job.settings.format as SendFormat] }} · {{ new Date(job.createdAt).toLocaleString()
            }}<template v-if="job.result?.count"> · {{ job.result.count }} files</template
            ><template v-if="job.result"> · {{ size(job.result.bytes) }}</template>
          </div>
          <div v-if="job.state === 'running' && job.message" class="soft small">{{ job.message }}</div>
          <div v-if="job.state === 'failed'" class="small" role="alert">{{ job.message }}</div>
          <v-progress-linear v-if="unended(job)" :model-value="job.progress * 100" color="secondary" />
        </div>
        <a
          v-if="job.state === 'done' && job.result"
          class="word"
          data-test="download"
          :href="
            job.result.count
              ? `/api/jobs/${job.id}/files`
              : `/api/blobs/${job.result.blob}?name=${encodeURIComponent(job.result.name)}`
          "
          >download</a
        >
        <button v-else-if="unended(job)" class="word soft" @click="jobs.cancel(job.id)">
          cancel {{ timeLeft(job.secondsLeft) }}</button
        ><span v-else class="soft">{{ job.state }}</span>
      </div>
    </div>
    <div class="panel">
      <h3>The shot itself</h3>
      <p class="soft">With every file it needs, as one ZIP: unpacked, it is what <code>northmist build</code> takes.</p>
      <a class="word needed" data-test="export" :href="`/api/shots/${shot.id}/bundle`" @click="shot.save()"
        >Save the shot with its files</a
      >
    </div>
  </div>
</template>

<style scoped>
.file {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 5px 0;
  border-top: 1px dashed var(--line);
}
.small {
  font-size: 12px;
}
.panel :deep(.v-text-field) {
  margin-top: 6px;
}
.row {
  display: flex;
  gap: 14px;
  padding: 4px 0 10px;
}
.row .word[aria-checked='true'] {
  font-weight: 650;
  border-bottom: 2px solid currentcolor;
}
.needed {
  align-self: flex-start;
}
</style>
