<script setup lang="ts">
import { inOrder } from '../../core/shot/rows'
import { mdiRedo, mdiUndo } from '@mdi/js'
import { useJobs, timeLeft } from '~/stores/jobs'
import { useShot } from '~/stores/shot'
import { STATIONS, useView, type Station } from '~/stores/view'

const shot = useShot()
const view = useView()
const jobs = useJobs()
const emit = defineEmits<{ go: [station: Station] }>()
const LABELS: Record<Station, string> = {
  plate: 'Plate',
  scene: 'Scene',
  passes: 'Passes',
  build: 'Build',
  finish: 'Finish',
  send: 'Send',
}

/** done, open or ask (needs attention), with the reason. */
const stops = computed(() =>
  STATIONS.map(id => {
    const document = shot.document
    let state: 'done' | 'open' | 'ask' = 'open'
    let why = ''
    if (document) {
      if (id === 'plate') {
        state = document.plate ? 'done' : 'ask'
        why = document.plate ? document.plate.name : 'No plate yet: drop a picture here.'
      }
      if (id === 'scene') {
        state = document.scene.file ? 'done' : 'open'
        why = document.scene.file?.name ?? 'No scene yet.'
      }
      if (id === 'passes') {
        state = !document.passes.file ? 'open' : shot.stalePasses ? 'ask' : 'done'
        why = !document.passes.file
          ? 'Not rendered yet.'
          : shot.stalePasses
            ? 'The scene changed since these passes were rendered.'
            : `${document.passes.file.passes.length} passes`
      }
      if (id === 'build') {
        state = document.passes.file && document.plate ? 'done' : 'open'
        why = `${Object.keys(document.build.layers).length} layers`
      }
      if (id === 'finish') {
        state = inOrder(document.finish).some(treatment => treatment.on) ? 'done' : 'open'
        why = `${Object.keys(document.finish).length} treatments`
      }
      if (id === 'send') {
        state = jobs.ofShot(shot.id).some(job => job.kind === 'send' && job.state === 'done') ? 'done' : 'open'
        why = state === 'done' ? 'Files were made.' : 'Nothing sent yet.'
      }
    }
    return { id, label: LABELS[id], state, why }
  }),
)
const running = computed(() => jobs.running.find(job => job.shotId === shot.id) ?? jobs.running[0])
</script>

<template>
  <header class="top">
    <NuxtLink to="/" class="mark">Northmist</NuxtLink>
    <h1 class="name">{{ shot.name }}</h1>
    <span class="soft small" data-test="save-state">{{
      shot.state === 'saved' ? 'saved' : shot.state === 'saving' ? 'saving …' : 'waiting for the server'
    }}</span>
    <button
      class="word soft"
      :aria-pressed="view.ledgerOpen"
      title="Kept versions of this shot"
      data-test="ledger"
      @click="view.ledgerOpen = !view.ledgerOpen"
    >
      ledger
    </button>
    <nav class="route" aria-label="Stations">
      <button
        v-for="stop in stops"
        :key="stop.id"
        class="stop"
        :class="[stop.state, { here: view.station === stop.id }]"
        :data-test="`station-${stop.id}`"
        :aria-current="view.station === stop.id ? 'step' : undefined"
        :title="stop.why"
        @click="emit('go', stop.id)"
      >
        <i aria-hidden="true" />{{ stop.label }}<span v-if="stop.state === 'ask'" class="sr">needs attention</span>
      </button>
    </nav>
    <div class="job" aria-live="polite">
      <template v-if="running">
        <span class="soft">{{
          running.kind === 'render' ? 'Passes' : running.kind === 'import' ? 'Clip' : 'File'
        }}</span>
        <span class="bar"><b :style="{ width: `${running.progress * 100}%` }" /></span>
        <span class="soft figures">{{ timeLeft(running.secondsLeft) || running.message }}</span>
        <button class="word soft" @click="jobs.cancel(running.id)">cancel</button>
      </template>
    </div>
    <v-btn
      :icon="mdiUndo"
      size="small"
      :disabled="!shot.canUndo"
      aria-label="Undo (Ctrl Z)"
      title="Undo (Ctrl Z)"
      data-test="undo"
      @click="shot.step('undo')"
    />
    <v-btn
      :icon="mdiRedo"
      size="small"
      :disabled="!shot.canRedo"
      aria-label="Redo (Ctrl Shift Z)"
      title="Redo (Ctrl Shift Z)"
      data-test="redo"
      @click="shot.step('redo')"
    />
    <button class="word soft" title="Keys (?)" @click="view.helpOpen = true">?</button>
  </header>
</template>

<style scoped>
.top {
  height: 46px;
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 0 12px 0 14px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.mark {
  font-weight: 650;
  font-size: 15px;
  color: var(--ink);
  text-decoration: none;
}
.name {
  margin: 0;
  font-size: inherit;
  font-weight: 550;
  white-space: nowrap;
  max-width: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.small {
  font-size: 12px;
  white-space: nowrap;
}
.route {
  margin: 0 auto;
  display: flex;
}
.stop {
  position: relative;
  padding: 0 18px;
  height: 46px;
  font-size: 12.5px;
  color: var(--soft);
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 4px;
  background: none;
  border: 0;
  cursor: pointer;
  font-family: inherit;
}
.stop i {
  width: 10px;
  height: 10px;
  border-radius: 50%;
  border: 1.6px solid var(--soft);
  background: var(--sheet);
  z-index: 1;
}
.stop::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 14.5px;
  height: 1.5px;
  background: var(--line);
}
.stop:first-child::before {
  left: 50%;
}
.stop:last-child::before {
  right: 50%;
}
.stop.done i {
  background: var(--soft);
}
.stop.ask i {
  background: linear-gradient(90deg, var(--ink) 50%, var(--sheet) 50%);
  border-color: var(--ink);
}
.stop.here {
  color: var(--ink);
  font-weight: 650;
}
.stop.here i {
  outline: 2px solid var(--mark);
  outline-offset: 1.5px;
}
.job {
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 12px;
  white-space: nowrap;
}
.bar {
  width: 64px;
  height: 4px;
  background: var(--line);
  border-radius: 2px;
  overflow: hidden;
}
.bar b {
  display: block;
  height: 4px;
  background: var(--ink);
}
.sr {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
</style>
