// The picture of a shot drawn on the viewer's canvases: what is seen of it, at the size it is seen, and again when
// anything that it shows has changed.
import type { Ref } from 'vue'
import type { Without } from '../../core/compose/request'
import type { ShotDocument } from '../../core/shot/document'
import { boxOf, common, heightOf, holds, widthOf, type Box } from '../../core/engine/box'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'
import type { Picture, PictureOrder } from '~/workers/messages'
import { Dropped, engine } from './engine'

interface Viewer {
  frame: Ref<{ width: number; height: number }>
  /** Of the viewer on the page, in its pixels; how large a pixel of the frame is there, and where the frame begins. */
  size: { width: number; height: number }
  zoom: Ref<number>
  left: Ref<number>
  top: Ref<number>
  /** Shown in place of the shot's picture. */
  replacement: () => Picture | null | undefined
  nowCanvas: Ref<HTMLCanvasElement | undefined>
  beforeCanvas: Ref<HTMLCanvasElement | undefined>
}

export function useViewerDrawing({ frame, size, zoom, left, top, replacement, nowCanvas, beforeCanvas }: Viewer) {
  const shot = useShot()
  const view = useView()
  const fault = ref('')
  const busy = ref(false)
  const milliseconds = ref(0)

  /** Large frames seen from afar are worked on smaller: nothing more could be seen. */
  const shrink = computed((): 1 | 2 | 4 =>
    frame.value.width * frame.value.height < 4e6 || zoom.value > 0.5 ? 1 : zoom.value > 0.25 ? 2 : 4,
  )
  const heldBefore = (): boolean => !!view.held?.before && !!view.round
  const heldWithout = (): Without | undefined => (view.held && !view.held.before ? view.held : undefined)
  const documentNow = (): ShotDocument => (heldBefore() ? toRaw(view.round!.before) : shot.document!)
  const order = (without: Without | undefined = heldWithout()): PictureOrder => ({
    document: view.shownPicture ? { ...shot.document!, plate: view.shownPicture } : documentNow(),
    frame: shot.frame,
    shrink: shrink.value,
    show: view.show,
    without,
    only: view.solo,
    layer: view.layerAtWork,
    stops: view.stops,
    channel: view.channel,
    view: view.viewOverride,
    marks: view.marked,
  })

  /** Seen of a large frame, with some room round it, in its pixels at a size; undefined where most of it is seen. */
  function seenArea(shrunk: number): Box | undefined {
    const { width, height } = frame.value
    const scale = zoom.value * shrunk
    const room = (side: number): number => (side / scale) * ROOM_ROUND
    const across = room(size.width)
    const down = room(size.height)
    const area = common(boxOf(Math.max(1, Math.floor(width / shrunk)), Math.max(1, Math.floor(height / shrunk))), {
      left: Math.floor(-left.value / scale - across),
      top: Math.floor(-top.value / scale - down),
      right: Math.ceil((size.width - left.value) / scale + across),
      bottom: Math.ceil((size.height - top.value) / scale + down),
    })
    const share = (widthOf(area) * heightOf(area) * shrunk * shrunk) / (width * height)
    return size.width > 0 && share > 0 && share < 0.7 ? area : undefined
  }
  const ROOM_ROUND = 0.12

  // Latest wins: while one picture is computed, only the newest wish is kept. A step of a drag is finished, so that
  // something moves; all else that is not wanted any more is dropped at once
  let computing: { step: boolean } | undefined
  let wanted = false
  let settle: ReturnType<typeof setTimeout> | undefined
  /** What is painted of the frame, at its full size; undefined: all. */
  let painted: Box | undefined
  async function draw() {
    if ((replacement() !== undefined && replacement() !== null) || view.playing) return
    if (!shot.document || !nowCanvas.value) return
    if (computing) {
      wanted = true
      if (!(computing.step && view.dragging)) engine.drop()
      return
    }
    computing = { step: false }
    busy.value = true
    try {
      // The plate is there at once; the passes take a moment to unpack
      if (milliseconds.value === 0 && view.show.kind !== 'plate')
        paint(nowCanvas.value, await engine.picture({ ...order(), show: { kind: 'plate' } }))
      do {
        wanted = false
        computing.step = view.dragging
        const fast = view.dragging && frame.value.width * frame.value.height > 1.5e6
        const shrunk = fast && shrink.value === 1 ? 2 : shrink.value
        const area = seenArea(shrunk)
        const picture = await engine.picture({ ...order(), shrink: shrunk, area }, true)
        paint(nowCanvas.value, picture)
        painted = area && {
          left: area.left * shrunk,
          top: area.top * shrunk,
          right: area.right * shrunk,
          bottom: area.bottom * shrunk,
        }
        milliseconds.value = picture.milliseconds
        fault.value = ''
        if (fast) {
          clearTimeout(settle)
          settle = setTimeout(() => {
            void draw()
          }, 250)
        }
      } while (wanted)
      if (view.compare) await drawBefore()
    } catch (error) {
      if (!(error instanceof Dropped)) fault.value = (error as Error).message
    }
    computing = undefined
    busy.value = false
    if (wanted) void draw()
  }
  /** What is seen of the frame, in its pixels. */
  const seen = computed(() =>
    common(boxOf(frame.value.width, frame.value.height), {
      left: -left.value / zoom.value,
      top: -top.value / zoom.value,
      right: (size.width - left.value) / zoom.value,
      bottom: (size.height - top.value) / zoom.value,
    }),
  )
  watch(seen, now => {
    view.seen = now
    // A part that was not computed comes into view
    if (painted && !holds(painted, now)) void draw()
  })
  async function drawBefore() {
    if (!view.compare || !beforeCanvas.value) return
    const { kept } = view.compare
    const other = kept
      ? { ...order(), document: toRaw(kept.document), only: [] }
      : view.compare.with === 'plate'
        ? {
            ...order(),
            show: { kind: 'plate' as const, straight: view.station !== 'finish' && view.station !== 'plate' },
            without: undefined,
          }
        : order(view.compare.with === 'as rendered' ? { clean: true } : { treatments: true })
    try {
      paint(beforeCanvas.value, await engine.picture({ ...other, area: seenArea(other.shrink) }, true))
    } catch (error) {
      // What came in between draws it again
      if (!(error instanceof Dropped)) fault.value = (error as Error).message
    }
  }
  function paint(canvas: HTMLCanvasElement | undefined, picture: Pick<Picture, 'width' | 'height' | 'codes' | 'part'>) {
    if (!canvas) return
    const { width, height, left, top } = picture.part ?? { ...picture, left: 0, top: 0 }
    if (canvas.width !== width || canvas.height !== height) {
      canvas.width = width
      canvas.height = height
    }
    const context = canvas.getContext('2d')!
    // What is not of this picture must not stand beside it
    if (picture.part) context.clearRect(0, 0, width, height)
    context.putImageData(new ImageData(picture.codes, picture.width, picture.height), left, top)
  }
  watch(
    () => [
      shot.document,
      shot.frame,
      view.shownPicture,
      view.show,
      view.stops,
      view.channel,
      view.held,
      view.solo,
      view.marked,
      view.viewOverride,
      view.compare?.with,
      view.compare?.kept?.id,
      shrink.value,
    ],
    () => {
      void draw()
    },
  )
  // While it plays, frames come from what was computed ahead; at rest the frame is computed in full
  watch(
    () => view.played,
    played => {
      const canvas = nowCanvas.value
      if (!played || !canvas) return
      if (canvas.width !== played.bitmap.width || canvas.height !== played.bitmap.height) {
        canvas.width = played.bitmap.width
        canvas.height = played.bitmap.height
      }
      canvas.getContext('2d')!.drawImage(played.bitmap, 0, 0)
    },
    { flush: 'sync' },
  )
  watch(
    () => view.playing,
    playing => {
      if (!playing) void draw()
    },
  )
  watch(
    () => view.dragging,
    dragging => {
      if (!dragging) void draw()
    },
  )
  watch(replacement, picture => {
    if (picture) paint(nowCanvas.value, picture)
    else void draw()
  })
  return { order, draw, drawBefore, fault, busy, milliseconds }
}
