// What is drawn goes along with the thing under it.
import { shapeAlong, strokeAlong, type ReadGoing } from '../../core/shot/along'
import { termIn } from '../../core/shot/slip'
import { passFileOf } from '../../core/shot/tree'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { PictureOrder } from '~/workers/messages'
import { engine } from './engine'

export function useGoingAlong() {
  const shot = useShot()
  const view = useView()
  const busy = ref(false)
  const isClip = computed(() => shot.document!.frames.last > shot.document!.frames.first)
  /** Why it cannot be; empty where it can. */
  const lacking = computed(() => {
    const file = passFileOf(shot.document!, view.layerAtWork)
    const knows = ['motion_forward', 'motion_back'].every(id => file?.passes.includes(id))
    if (!file?.frames || !knows)
      return 'Render the passes “motion forward” and “motion back” of a range of frames first: they say how things move.'
    return ''
  })

  /** ids: shapes or strokes of a line of a slip. Each goes along with what is under it at the frame at hand. */
  async function along(term: string, ids: readonly string[]): Promise<void> {
    const document = shot.document!
    const { frame } = shot
    const found = termIn(document, term)
    if (busy.value || !found) return
    busy.value = true
    try {
      const order = {
        ...{ document, shrink: 1 as const, stops: 0, channel: 0, show: { kind: 'finish' as const } },
        layer: view.layerAtWork,
      } satisfies Omit<PictureOrder, 'frame'>
      const read: ReadGoing = (at, places) => engine.going({ ...order, frame: at }, places)
      const moves = new Map<string, Awaited<ReturnType<typeof shapeAlong>>>()
      for (const id of ids) {
        const shape = found.kind === 'shape' ? found.shapes[id] : undefined
        const stroke = found.kind === 'brush' ? found.strokes[id] : undefined
        if (shape) moves.set(id, await shapeAlong(shape, frame, document.frames, read))
        if (stroke) moves.set(id, await strokeAlong(stroke, frame, document.frames, read))
      }
      shot.change('Goes along with a thing', changed => {
        const now = termIn(changed, term)
        const rows = now?.kind === 'shape' ? now.shapes : now?.kind === 'brush' ? now.strokes : {}
        for (const [id, move] of moves) if (rows[id]) Object.assign(rows[id], move)
      })
    } catch (error) {
      shot.message = (error as Error).message
    }
    busy.value = false
  }
  return { isClip, lacking, busy, along }
}
