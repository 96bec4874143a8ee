<script setup lang="ts">
import { SEND_FORMATS, type SendFormat } from '../../shared/requests'
import { api } from '~/composables/api'
import { useJobs, timeLeft } from '~/stores/jobs'
import { useShot } from '~/stores/shot'

const shot = useShot(), jobs = useJobs()
const LABELS: Record<SendFormat, string> = { png8: 'PNG, 8 bit', png16: 'PNG, 16 bit', tiff8: 'TIFF, 8 bit', tiff16: 'TIFF, 16 bit', tiff32: 'TIFF, float, scene-linear', jpeg: 'JPEG', exr16: 'OpenEXR, half, scene-linear', exr32: 'OpenEXR, float, scene-linear', passes: 'OpenEXR of all passes' }
const format = ref<SendFormat>('png16')
const list = computed(() => jobs.ofShot(shot.id).filter(job => job.kind === 'send'))
onMounted(() => { void jobs.load(shot.id).catch(() => {}) })
async function send() {
  await shot.save()
  try { await jobs.start(shot.id, 'send', { frame: shot.frame, format: format.value }) } catch (error) { shot.message = (error as Error).message }
}
async function exportShot() {
  const name = `${shot.name}.json`
  const whole = await api<{ document: unknown; name: string }>(`/api/shots/${shot.id}`)
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([JSON.stringify({ name: whole.name, document: whole.document }, null, 2)], { type: 'application/json' }))
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10000)
}
const needed = computed(() => {
  const document = shot.document!
  const all = [document.plate, document.passes.file, ...document.build.layers.map(layer => layer.kind === 'picture' ? layer.picture : null)]
  return all.filter(entry => entry !== null).filter((entry, i, list) => list.findIndex(other => other.blob === entry.blob) === i)
})
const size = (bytes: number): string => bytes > 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.ceil(bytes / 1e3)} kB`
</script>

<template>
  <div>
    <div class="panel">
      <h2>Send</h2>
      <p class="soft">Made on the server from the saved shot, with the numbers that are seen here. Display formats go through the view “{{ shot.document!.view }}”.</p>
      <v-select v-model="format" label="As" :items="SEND_FORMATS.map(id => ({ value: id, title: LABELS[id] }))" data-test="send-format" />
      <v-btn color="primary" variant="flat" block data-test="send" @click="send">Make the file</v-btn>
    </div>
    <div class="panel">
      <h3>Files</h3>
      <p v-if="!list.length" class="soft">Nothing made yet.</p>
      <div v-for="job in list" :key="job.id" class="file" data-test="sent">
        <div class="grow"><div>{{ job.result?.name ?? LABELS[job.settings.format as SendFormat] }}</div><div class="soft small">{{ LABELS[job.settings.format as SendFormat] }} · {{ new Date(job.createdAt).toLocaleString() }}<template v-if="job.result"> · {{ size(job.result.bytes) }}</template></div>
          <div v-if="job.state === 'failed'" class="small" role="alert">{{ job.message }}</div><v-progress-linear v-if="job.state === 'running' || job.state === 'queued'" :model-value="job.progress * 100" color="secondary" /></div>
        <a v-if="job.state === 'done' && job.result" class="word" data-test="download" :href="`/api/blobs/${job.result.blob}?name=${encodeURIComponent(job.result.name)}`">download</a>
        <button v-else-if="job.state === 'running' || job.state === 'queued'" class="word soft" @click="jobs.cancel(job.id)">cancel {{ timeLeft(job.secondsLeft) }}</button><span v-else class="soft">{{ job.state }}</span>
      </div>
    </div>
    <div class="panel"><h3>The shot itself</h3><p class="soft">As a text file, with the files it needs, for <code>northmist build</code>: put the files in a folder named like the text, ending in .files.</p><v-btn size="small" data-test="export" @click="exportShot">Save the shot as JSON</v-btn><a v-for="entry in needed" :key="entry.blob" class="word needed" :href="`/api/blobs/${entry.blob}?name=${encodeURIComponent(entry.name)}`">{{ entry.name }}</a></div>
  </div>
</template>

<style scoped>.file { display: flex; gap: 12px; align-items: center; padding: 5px 0; border-top: 1px dashed var(--line); } .small { font-size: 12px; } .needed { align-self: flex-start; }</style>
