<script setup lang="ts">
// All passes side by side; click one to look at it, click again to come back.
import { passBlobAt } from '../../core/shot/passFrames'
import { engine } from '~/composables/engine'
import { eachPass, isDepth, passOf, seenPlain } from '../../core/render/passes'
import { useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { Picture } from '~/workers/messages'

const shot = useShot()
const view = useView()
const jobs = useJobs()
const canvases = new Map<string, HTMLCanvasElement>()
const ids = computed(() => {
  const file = shot.document?.passes.file
  return file ? eachPass(file.passes, file.lights) : []
})
const fault = ref('')

async function draw() {
  const document = shot.document
  if (!document || view.playing) return
  for (const id of ids.value) {
    try {
      const picture: Picture = await engine.picture({
        document,
        frame: shot.frame,
        shrink: 4,
        show: { kind: 'pass', id, near: view.near, far: view.far },
        stops: 0,
        channel: 0,
        view: seenPlain(id) ? 'plain' : undefined,
      })
      const canvas = canvases.get(id)
      if (!canvas) continue
      canvas.width = picture.width
      canvas.height = picture.height
      canvas.getContext('2d')!.putImageData(new ImageData(picture.codes, picture.width, picture.height), 0, 0)
    } catch (error) {
      fault.value = (error as Error).message
      return
    }
  }
}
const here = computed(() => {
  const file = shot.document?.passes.file
  return file ? passBlobAt(file, shot.frame) : undefined
})
watch(
  () => [view.playing || here.value?.blob, view.near, view.far],
  () => nextTick(draw),
  { immediate: true },
)
async function saveAll() {
  try {
    await shot.save()
    await jobs.start(shot.id, 'send', { frame: shot.frame, format: 'passes' })
    shot.message = 'All passes are being put in one file; it will be listed at the station Send.'
  } catch (error) {
    shot.message = (error as Error).message
  }
}
const channels = computed(() => ids.value.reduce((sum, id) => sum + (passOf(id)?.channels.length || 12), 0))
const facts = (id: string): string =>
  isDepth(id)
    ? `${view.near.toFixed(1)} – ${view.far.toFixed(0)} m shown`
    : ({
        normal: 'world',
        normal_camera: 'camera',
        position: 'repeats each metre',
        uv: 'repeats each tile',
        motion_forward: 'grey is still',
        motion_back: 'grey is still',
        shadow: 'ratio on catchers',
        crypto_object: `${shot.document?.passes.file?.objects.length} named`,
        crypto_material: `${shot.document?.passes.file?.materials.length} named`,
      }[id] ?? '')
</script>

<template>
  <section class="sheet" aria-label="Pass sheet" data-test="pass-sheet">
    <div v-if="ids.length" class="grid">
      <button
        v-for="id in ids"
        :key="id"
        class="cell"
        :class="{ on: view.pass === id }"
        :data-test="`sheet-${id}`"
        :title="passOf(id)?.help"
        @click="view.pass = view.pass === id ? null : id"
      >
        <canvas
          :ref="
            element => {
              if (element) canvases.set(id, element as HTMLCanvasElement)
            }
          "
          :style="{ aspectRatio: `${shot.document!.frame.width} / ${shot.document!.frame.height}` }"
        />
        <span class="row"
          ><b class="grow"
            >{{ passOf(id)?.label ?? id
            }}<template v-if="['Behind glass', 'Mirrored'].includes(passOf(id)?.group ?? '')"
              >, {{ passOf(id)!.group.toLowerCase() }}</template
            ></b
          ><span class="soft">{{ facts(id) }}</span></span
        >
      </button>
    </div>
    <p v-else class="empty">Passes appear here side by side once they are rendered.</p>
    <p v-if="fault" role="alert" class="empty">{{ fault }}</p>
    <div v-if="ids.length" class="row foot">
      <span class="soft"
        >{{ ids.length }} passes, {{ channels }} channels<template v-if="shot.document!.passes.file?.frames"
          >, {{ shot.document!.passes.file.frames.blobs.filter(Boolean).length }} frames<b
            v-if="here && !here.own"
            data-test="no-own-passes"
            >; this frame has none, the nearest stands in</b
          ></template
        ></span
      ><span class="grow" /><v-btn size="small" data-test="save-all" @click="saveAll"
        >Save all in one OpenEXR file</v-btn
      >
    </div>
  </section>
</template>

<style scoped>
.sheet {
  background: var(--wall);
  overflow: auto;
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  border-top: 1px solid var(--line);
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(148px, 1fr));
  gap: 10px;
  padding: 12px;
}
.cell {
  background: var(--cell);
  border: 0;
  border-radius: 4px;
  padding: 0 0 2px;
  cursor: pointer;
  font: inherit;
  color: var(--cell-ink);
  text-align: left;
}
.cell .row {
  padding: 1px 6px;
  font-size: 11.5px;
}
.cell .soft {
  color: var(--cell-soft);
  font-size: 10.5px;
  white-space: nowrap;
  overflow: hidden;
}
.cell.on {
  outline: 2px solid var(--mark);
  outline-offset: 2px;
}
canvas {
  width: 100%;
  display: block;
  background: #000;
  border-radius: 3px 3px 0 0;
}
.empty {
  color: var(--cell-ink);
  padding: 16px;
}
.foot {
  background: var(--sheet);
  padding: 2px 12px;
  border-top: 1px solid var(--line);
  margin-top: auto;
  position: sticky;
  bottom: 0;
}
</style>
