// Small pictures of a slip so far, one for each of its lines: so one sees which line went wrong.
import type { Ref } from 'vue'
import type { Slip } from '../../core/shot/document'
import { inOrder } from '../../core/shot/rows'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { Picture } from '~/workers/messages'
import { engine } from './engine'
import { canvasOf } from './smallPicture'

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
      } catch {
        // The viewer says what is wrong
        paint(canvas)
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

function paint(canvas: HTMLCanvasElement, picture?: Picture) {
  const context = canvas.getContext('2d')!
  context.clearRect(0, 0, canvas.width, canvas.height)
  context.imageSmoothingQuality = 'high'
  if (picture) context.drawImage(canvasOf(picture), 0, 0, canvas.width, canvas.height)
}
