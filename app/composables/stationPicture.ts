// What the viewer shows in place of the shot's picture: the scene as it will render, and a render in progress.
import type { Ref } from 'vue'
import { cardsStamp } from '../../core/shot/cards'
import { hasObjects } from '../../core/shot/scene'
import { useJobs } from '~/stores/jobs'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { Picture, PreviewPicture } from '~/workers/messages'
import { engine } from './engine'

/** ready: the shot is there. */
export function useStationPicture(ready: Ref<boolean>) {
  const shot = useShot()
  const view = useView()
  const jobs = useJobs()
  const replacement = shallowRef<Picture | null>(null)
  const previewSamples = ref(0)

  // The scene station shows what the render will look like, refined while nothing changes
  let previewing = 0
  const COARSE_WIDTH = 240
  const MIDDLE_WIDTH = 640
  const FINE_WIDTH = 1280
  const FINE_ROUND = 20
  const FINE_SHOWN = 24
  const FINE_CLEAN = 6
  // As one text: a list made anew would be another each time, whatever changed in the shot
  watch(
    () =>
      JSON.stringify([
        ready.value,
        view.station,
        view.playing,
        view.previewPlain,
        shot.frame,
        shot.document?.scene,
        // Figures stand in it, too
        shot.document && cardsStamp(shot.document),
        shot.document?.plate,
        shot.document?.frame,
        shot.document?.view,
      ]),
    async () => {
      const mine = ++previewing
      if (view.playing) return
      if (!ready.value || view.station !== 'scene' || !shot.document || !hasObjects(shot.document)) {
        if (view.station !== 'passes') replacement.value = null
        previewSamples.value = 0
        return
      }
      // Coarse at once; finer when nothing changed for two rounds; at last as fine as the plate (up to a limit), shown
      // when it is no noisier than what stands there
      for (let round = 0; mine === previewing && view.station === 'scene'; round++) {
        try {
          const most = shot.document.frame.width
          const fine = round >= FINE_ROUND && most > MIDDLE_WIDTH
          const width = Math.min(most, view.dragging || round < 2 ? COARSE_WIDTH : fine ? FINE_WIDTH : MIDDLE_WIDTH)
          const { samples, picture } = await engine.preview(
            shot.document,
            shot.frame,
            width,
            round === 0 || round === 2 || (fine && round === FINE_ROUND),
            view.previewPlain,
          )
          if (mine !== previewing) return
          if (fine && samples < (view.previewPlain ? FINE_SHOWN : FINE_CLEAN)) continue
          if (picture) {
            replacement.value = { ...picture.shown, milliseconds: 0 }
            previewIds.value = picture
          }
          previewSamples.value = samples
          if (samples >= 256) return
        } catch (error) {
          shot.message = (error as Error).message
          return
        }
      }
    },
  )
  const previewIds = shallowRef<PreviewPicture>()

  // A render in progress is seen in the viewer as it refines
  const rendering = computed(() =>
    view.station === 'passes'
      ? jobs.ofShot(shot.id).find(job => job.kind === 'render' && job.state === 'running')
      : undefined,
  )
  let previewAt = 0
  watch(
    () => rendering.value && `${rendering.value.id} ${rendering.value.message}`,
    async now => {
      if (!now) {
        if (view.station === 'passes') replacement.value = null
        return
      }
      if (Date.now() - previewAt < 1200) return
      previewAt = Date.now()
      const answer = await fetch(`/api/jobs/${rendering.value!.id}/preview`).catch(() => null)
      if (!answer?.ok || answer.status === 204 || !rendering.value) return
      const bitmap = await createImageBitmap(await answer.blob())
      const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
      const context = canvas.getContext('2d')!
      context.fillStyle = '#3a3a3a'
      context.fillRect(0, 0, bitmap.width, bitmap.height)
      context.drawImage(bitmap, 0, 0)
      replacement.value = {
        width: bitmap.width,
        height: bitmap.height,
        codes: context.getImageData(0, 0, bitmap.width, bitmap.height).data as Uint8ClampedArray<ArrayBuffer>,
        milliseconds: 0,
      }
    },
  )
  const endPreview = (): void => {
    previewing++
  }
  return { replacement, previewSamples, previewIds, endPreview }
}
