// A browser hands on movements of the pointer once a picture of the screen. The first after a rest need not wait for that:
// what is dragged is computed sooner.

/** Milliseconds from one picture of the screen to the next. */
const SCREEN = 16

/** For pointerrawupdate: the handler of pointermove is called at once, unless it was so just now. */
export function early(handler: (event: PointerEvent) => void): (event: Event) => void {
  let last = -Infinity
  return event => {
    if (event.timeStamp - last < SCREEN) return
    last = event.timeStamp
    handler(event as PointerEvent)
  }
}
