// Strokes of a brush on the picture.
import { thinned } from '../../core/matte/drawn/thin'
import { identifier } from '../../core/shot/document'
import { addRow } from '../../core/shot/rows'
import { strokeOf } from '../../core/shot/drawn'
import { MOST_PLACES, type Stroke } from '../../core/shot/schema/drawn'
import { termIn } from '../../core/shot/slip'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

type Place = [number, number, number]

export function useBrushing() {
  const shot = useShot()
  const view = useView()
  let stroke: { id: string; points: Place[]; takes: boolean } | null = null
  const rounded = (value: number): number => Math.round(value * 100) / 100

  /** pressure: 0 to 1; what has none to tell (a mouse) presses wholly. */
  function begin(x: number, y: number, pressure: number, takes: boolean) {
    stroke = { id: identifier(), points: [[rounded(x), rounded(y), pressure]], takes }
    view.dragging = true
    put(true)
  }
  function go(places: readonly Place[]) {
    if (!stroke) return
    for (const [x, y, pressure] of places) stroke.points.push([rounded(x), rounded(y), rounded(pressure)])
    put(true)
  }
  function end() {
    if (!stroke) return
    view.dragging = false
    put(false)
    stroke = null
  }
  function put(live: boolean) {
    const { id, points, takes } = stroke!
    const kept = thinned(points, Math.min(0.5, view.tip.size / 100), MOST_PLACES)
    const term = view.drawn!.term
    shot.change(
      takes ? 'Brush away' : 'Brush',
      document => {
        const found = termIn(document, term)
        if (found?.kind !== 'brush') return
        const made = strokeOf(kept, { ...view.tip, takes }, id)
        const { order } = found.strokes[id] ?? {}
        if (order) found.strokes[id] = { ...made, order }
        else addRow(found.strokes, made as Stroke)
      },
      live,
    )
  }
  return { begin, go, end }
}
