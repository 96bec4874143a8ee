<script setup lang="ts">
import { SEND_FORMATS, type SendFormat } from '../../shared/requests'
import { useJobs, timeLeft } from '~/stores/jobs'
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
}
const format = ref<SendFormat>('png16')
const list = computed(() => jobs.ofShot(shot.id).filter(job => job.kind === 'send'))
onMounted(() => {
  void jobs.load(shot.id).catch(() => {})
})
async function send() {
  await shot.save()
  try {
    await jobs.start(shot.id, 'send', { frame: shot.frame, format: format.value })
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
      <v-btn color="primary" variant="flat" block data-test="send" @click="send">Make the file</v-btn>
    </div>
    <div class="panel">
      <h3>Files</h3>
      <p v-if="!list.length" class="soft">Nothing made yet.</p>
      <div v-for="job in list" :key="job.id" class="file" data-test="sent">
        <div class="grow">
          <div>{{ job.result?.name ?? LABELS[job.settings.format as SendFormat] }}</div>
          <div class="soft small">
            {{ LABELS[job.settings.format as SendFormat] }} · {{ new Date(job.createdAt).toLocaleString()
            }}<template v-if="job.result"> · {{ size(job.result.bytes) }}</template>
          </div>
          <div v-if="job.state === 'failed'" class="small" role="alert">{{ job.message }}</div>
          <v-progress-linear
            v-if="job.state === 'running' || job.state === 'queued'"
            :model-value="job.progress * 100"
            color="secondary"
          />
        </div>
        <a
          v-if="job.state === 'done' && job.result"
          class="word"
          data-test="download"
          :href="`/api/blobs/${job.result.blob}?name=${encodeURIComponent(job.result.name)}`"
          >download</a
        >
        <button
          v-else-if="job.state === 'running' || job.state === 'queued'"
          class="word soft"
          @click="jobs.cancel(job.id)"
        >
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
.needed {
  align-self: flex-start;
}
</style>
