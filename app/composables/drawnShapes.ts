// Shapes on the picture: drawn by clicks and drags, their points, handles and soft edges moved by the hand.
import type { Ref } from 'vue'
import { contourAt, ellipsePoints, rectanglePoints, shapeOf, type NewPoint } from '../../core/shot/drawn'
import { insertPoint, moveHandle, movePoint, setSoft, turnCorner } from '../../core/shot/drawnByHand'
import { addRow, inOrder } from '../../core/shot/rows'
import { MOST_POINTS, type Shape } from '../../core/shot/schema/drawn'
import type { ShapeMatte } from '../../core/shot/schema/matte'
import { termIn } from '../../core/shot/slip'
import { withValue } from '../../core/time/curve'
import type { Xy } from './overPicture'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

/** What of a shape is held. */
export type Held =
  | { what: 'point' | 'in' | 'out' | 'outer' | 'inner'; id: string }
  | { what: 'whole' | 'turn'; from: Xy; was: { x: number; y: number; turn: number; scale: number; middle: Xy } }

/** Pixels of the screen within which a click means a point that is there. */
const NEAR = 9

export function useDrawnShapes({ zoom, pointer }: { zoom: () => number; pointer: Ref<Xy | null> }) {
  const shot = useShot()
  const view = useView()
  const term = computed(() => {
    const found = view.drawn && shot.document ? termIn(shot.document, view.drawn.term) : undefined
    return found?.kind === 'shape' ? found : undefined
  })
  const shapes = computed(() =>
    inOrder(term.value?.shapes)
      .filter(({ on }) => on)
      .map(shape => ({ shape, contour: contourAt(shape, shot.frame), points: inOrder(shape.points) })),
  )
  const edit = (label: string, mutate: (term: ShapeMatte) => void, live = false): void => {
    const id = view.drawn?.term
    if (id)
      shot.change(
        label,
        document => {
          const found = termIn(document, id)
          if (found?.kind === 'shape') mutate(found)
        },
        live,
      )
  }
  const editShape = (id: string, label: string, mutate: (shape: Shape) => void, live = false): void =>
    edit(
      label,
      found => {
        if (found.shapes[id]) mutate(found.shapes[id])
      },
      live,
    )

  // Drawing
  const drawing = ref<NewPoint[]>([])
  const box = ref<{ from: Xy; to: Xy } | null>(null)
  const near = ([ax, ay]: Xy, [bx, by]: Xy): boolean => Math.hypot(ax - bx, ay - by) * zoom() < NEAR
  const closes = (at: Xy): boolean => drawing.value.length > 2 && near(at, drawing.value[0]!.at)
  watch(
    () => [view.drawn?.term, view.drawn?.tool],
    () => {
      drawing.value = []
      box.value = null
    },
  )
  function add(points: readonly NewPoint[], closed: boolean) {
    let id = ''
    edit('Draw a shape', found => {
      const taken = new Set(Object.values(found.shapes).map(({ name }) => name))
      let count = taken.size + 1
      while (taken.has(`shape ${count}`)) count++
      const made = shapeOf(`shape ${count}`, points, closed)
      id = made.id
      addRow(found.shapes, made as Shape)
    })
    drawing.value = []
    box.value = null
    view.drawn = { ...view.drawn!, tool: null, shape: id, point: '' }
  }
  const rounded = ([x, y]: Xy): Xy => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]
  function press(at: Xy) {
    const tool = view.drawn?.tool
    if (tool === 'ellipse' || tool === 'rectangle') box.value = { from: rounded(at), to: rounded(at) }
    else if (tool === 'curve') {
      if (closes(at)) return add(drawing.value, true)
      if (drawing.value.length < MOST_POINTS) drawing.value = [...drawing.value, { at: rounded(at) }]
    }
  }
  /** evenly: as wide as high. */
  function pull(at: Xy, evenly: boolean) {
    if (box.value) {
      const { from } = box.value
      const side = Math.max(Math.abs(at[0] - from[0]), Math.abs(at[1] - from[1]))
      const to: Xy = evenly
        ? [from[0] + side * Math.sign(at[0] - from[0] || 1), from[1] + side * Math.sign(at[1] - from[1] || 1)]
        : at
      box.value = { from, to: rounded(to) }
      return
    }
    const last = drawing.value.at(-1)
    if (!last || view.drawn?.tool !== 'curve' || near(at, last.at)) return
    const out = rounded([at[0] - last.at[0], at[1] - last.at[1]])
    drawing.value = [...drawing.value.slice(0, -1), { at: last.at, in: [-out[0], -out[1]], out }]
  }
  function release() {
    if (!box.value) return
    const { from, to } = box.value
    // A click alone draws nothing
    if (near(from, to)) box.value = null
    else add((view.drawn?.tool === 'ellipse' ? ellipsePoints : rectanglePoints)(from, to), true)
  }
  /** What is drawn so far, as the curve that it will be. */
  const ghost = computed((): { points: readonly NewPoint[]; closed: boolean } | null => {
    if (box.value)
      return {
        points: (view.drawn?.tool === 'ellipse' ? ellipsePoints : rectanglePoints)(box.value.from, box.value.to),
        closed: true,
      }
    if (!drawing.value.length) return null
    const next = pointer.value
    return next && !closes(next)
      ? { points: [...drawing.value, { at: next }], closed: false }
      : { points: drawing.value, closed: !!next }
  })

  // Changing
  const held = ref<Held | null>(null)
  function drag(at: Xy, { last, alone }: { last: boolean; alone: boolean }) {
    const now = held.value
    const id = view.drawn?.shape
    if (!now || !id) return
    if (last) {
      held.value = null
      view.dragging = false
    }
    const { frame } = shot
    if (!('id' in now)) {
      const { from, was } = now
      editShape(
        id,
        now.what === 'whole' ? 'Move a shape' : 'Turn a shape',
        shape => {
          if (now.what === 'whole') {
            shape.move_x = withValue(shape.move_x, frame, rounded([was.x + at[0] - from[0], 0])[0])
            shape.move_y = withValue(shape.move_y, frame, rounded([was.y + at[1] - from[1], 0])[0])
            return
          }
          const arm = (place: Xy): Xy => [place[0] - was.middle[0], place[1] - was.middle[1]]
          const [a, b] = [arm(from), arm(at)]
          const turn = ((Math.atan2(b[1], b[0]) - Math.atan2(a[1], a[0])) * 180) / Math.PI
          const even = turn > 180 ? turn - 360 : turn < -180 ? turn + 360 : turn
          shape.turn = withValue(shape.turn, frame, Math.round((was.turn + even) * 10) / 10)
          if (alone) return
          const times = Math.hypot(...b) / Math.max(1e-6, Math.hypot(...a))
          shape.scale = withValue(shape.scale, frame, Math.max(0.01, Number((was.scale * times).toPrecision(4))))
        },
        !last,
      )
      return
    }
    const LABELS = {
      point: 'Move a point',
      in: 'Bend a shape',
      out: 'Bend a shape',
      outer: 'Soft edge',
      inner: 'Soft edge',
    }
    editShape(
      id,
      LABELS[now.what],
      shape => {
        if (now.what === 'point') movePoint(shape, now.id, frame, at)
        else if (now.what === 'in' || now.what === 'out') moveHandle(shape, now.id, now.what, frame, at, alone)
        else if (now.what === 'outer' || now.what === 'inner') setSoft(shape, now.id, now.what, frame, at[0])
      },
      !last,
    )
  }
  function takeOut(shape: string, point: string) {
    editShape(shape, 'Remove a point', found => void delete found.points[point])
    view.drawn = { ...view.drawn!, point: '' }
  }
  const corner = (shape: string, point: string): void =>
    editShape(shape, 'Turn a point', found => turnCorner(found, point, shot.frame))
  function insert(shape: string, after: string, share: number) {
    let id: string | undefined
    editShape(shape, 'Add a point', found => {
      if (Object.keys(found.points).length < MOST_POINTS) id = insertPoint(found, after, share, shot.frame)
    })
    if (id) view.drawn = { ...view.drawn!, shape, point: id }
  }
  const undoPoint = (): void => {
    drawing.value = drawing.value.slice(0, -1)
  }
  /** Ends what is drawn, open. */
  const end = (): void => {
    if (drawing.value.length > 1) add(drawing.value, false)
  }
  return { term, shapes, drawing, ghost, held, press, pull, release, drag, takeOut, corner, insert, undoPoint, end }
}
