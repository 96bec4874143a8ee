// Small pictures of a slip so far, one for each of its lines: so one sees which line went wrong.
import type { Ref } from 'vue'
import type { Slip } from '../../core/shot/document'
import { inOrder } from '../../core/shot/rows'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import { Dropped, engine } from './engine'

const REST = 200

/** Draws them on canvases by the id of their line. line: whose matte it is, so that it is made of what comes to that. */
export function useSlipPictures(
  slip: () => Slip,
  line: string,
  canvases: Ref<Record<string, HTMLCanvasElement | null>>,
) {
  const shot = useShot()
  const view = useView()
  let round = 0
  async function draw() {
    const mine = ++round
    const { document } = shot
    if (!document || view.dragging) return
    const rows = inOrder(slip().terms)
    for (const [i, { id, on }] of rows.entries()) {
      const canvas = canvases.value[id]
      if (!canvas) continue
      const terms = Object.fromEntries(rows.slice(0, i + 1).map(term => [term.id, term]))
      try {
        const matte = { terms, refine: {}, invert: false }
        const picture = on
          ? await engine.picture({
              document,
              frame: shot.frame,
              shrink: 4,
              show: { kind: 'matte', matte, line, of: view.layerAtWork },
              stops: 0,
              channel: 0,
              view: 'plain',
            })
          : undefined
        if (mine !== round) return
        paint(canvas, picture)
      } catch (error) {
        if (!(error instanceof Dropped)) paint(canvas)
      }
    }
  }
  let waiting: ReturnType<typeof setTimeout> | undefined
  const soon = (): void => {
    clearTimeout(waiting)
    waiting = setTimeout(() => void draw(), REST)
  }
  watch([() => shot.document, () => shot.frame, () => view.dragging], soon)
  onMounted(soon)
  onBeforeUnmount(() => {
    clearTimeout(waiting)
    round++
  })
}

function paint(
  canvas: HTMLCanvasElement,
  picture?: { width: number; height: number; codes: Uint8ClampedArray<ArrayBuffer> },
) {
  const context = canvas.getContext('2d')!
  context.clearRect(0, 0, canvas.width, canvas.height)
  if (!picture) return
  const whole = new OffscreenCanvas(picture.width, picture.height)
  whole.getContext('2d')!.putImageData(new ImageData(picture.codes, picture.width, picture.height), 0, 0)
  context.imageSmoothingQuality = 'high'
  context.drawImage(whole, 0, 0, canvas.width, canvas.height)
}
