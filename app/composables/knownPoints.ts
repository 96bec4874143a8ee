// Known points of the place, dragged on the picture.
import { useShot } from '~/stores/shot'

export function useKnownPoints(pixelOf: (event: PointerEvent) => [number, number]) {
  const shot = useShot()
  let heldKnown = ''
  function grabKnown(event: PointerEvent, id: string) {
    if (event.button !== 0) return
    event.stopPropagation()
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    heldKnown = id
  }
  function dragKnown(event: PointerEvent, last = false) {
    if (!heldKnown) return
    event.stopPropagation()
    const id = heldKnown
    const to = pixelOf(event)
    if (last) heldKnown = ''
    shot.change(
      'Move a known point',
      document => {
        const point = document.match?.points?.[id]
        if (point) point.pixel = to
      },
      !last,
    )
  }
  return { grabKnown, dragKnown }
}
