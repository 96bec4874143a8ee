// Shapes changed by the hand: the curve stays where it should, at every key; values that do not fit are refused.
import { describe, expect, it } from 'vitest'
import { nearestOn } from '../core/matte/drawn/contour'
import { thinned } from '../core/matte/drawn/thin'
import { newDocument, newTreatment, type ShotDocument } from '../core/shot/document'
import { contourAt, ellipsePoints, shapeOf, strokeOf } from '../core/shot/drawn'
import {
  insertPoint,
  isKeyed,
  keyShape,
  moveHandle,
  movePoint,
  setSoft,
  stillShape,
  turnCorner,
} from '../core/shot/drawnByHand'
import { addRow, inOrder } from '../core/shot/rows'
import type { Shape } from '../core/shot/schema/drawn'
import type { ShapeMatte } from '../core/shot/schema/matte'
import { newTerm, slipOf, termIn } from '../core/shot/slip'
import { setShapeOnPoint } from '../core/shot/track'
import { setFrame } from '../core/shot/values'
import { project } from '../core/match/project'
import { cameraAt } from '../core/shot/scene'
import { valueAt, withKey } from '../core/time/curve'
import { documentFaults } from '../shared/validate'

const shape = (closed = true): Shape =>
  ({ ...shapeOf('shape 1', ellipsePoints([100, 50], [300, 250]), closed), order: 'a0' }) as Shape
/** Places along a contour, evenly in the parameter of each of its curves (Bernstein form). */
const places = (of: Shape, frame: number, steps = 40): [number, number][] => {
  const { points, closed } = contourAt(of, frame)
  return points.slice(0, closed ? undefined : -1).flatMap((a, i) => {
    const b = points[(i + 1) % points.length]!
    return Array.from({ length: steps }, (_, k): [number, number] => {
      const t = k / steps
      const s = 1 - t
      const at = (p: number, q: number, r: number, e: number): number =>
        s ** 3 * p + 3 * s * s * t * q + 3 * s * t * t * r + t ** 3 * e
      return [at(a.x, a.x + a.outX, b.x + b.inX, b.x), at(a.y, a.y + a.outY, b.y + b.inY, b.y)]
    })
  })
}
/** How far places of the one are from the other at most. */
const apart = (a: [number, number][], b: [number, number][]): number =>
  Math.max(...a.map(([x, y]) => Math.min(...b.map(([u, v]) => Math.hypot(x - u, y - v)))))

describe('a point more', () => {
  it('leaves the curve where it is, also at the keys of its neighbours', () => {
    const own = shape()
    const [first] = inOrder(own.points)
    keyShape(own, 1)
    first!.x = withKey(first!.x, 11, 260)
    first!.out_y = withKey(first!.out_y!, 11, 90)
    const before = [1, 11].map(frame => places(own, frame, 400))
    const id = insertPoint(own, first!.id, 0.3, 5)!
    expect(inOrder(own.points).map(point => point.id)[1]).toBe(id)
    for (const [i, frame] of [1, 11].entries()) expect(apart(places(own, frame), before[i]!)).toBeLessThan(0.6)
    // Where it was asked for
    const at = contourAt(own, 1).points[1]!
    expect(Math.hypot(at.x - before[0]![120]![0], at.y - before[0]![120]![1])).toBeLessThan(0.05)
  })
  it('of a straight edge is a corner; after the end of an open one there is none', () => {
    const own = shape()
    for (const point of Object.values(own.points))
      for (const name of ['in_x', 'in_y', 'out_x', 'out_y'] as const) delete point[name]
    own.closed = false
    const list = inOrder(own.points)
    expect(insertPoint(own, list.at(-1)!.id, 0.5, 1)).toBeUndefined()
    const id = insertPoint(own, list[0]!.id, 0.5, 1)!
    expect(own.points[id]).toMatchObject({ x: 250, y: 100 })
    expect(own.points[id]).not.toHaveProperty('in_x')
  })
})
describe('moved by the hand', () => {
  it('a point of a turned and grown shape goes where the hand is; with keys it gets one', () => {
    const own = { ...shape(), turn: 30, scale: 1.7, move_x: 12, move_y: -40 }
    const [first] = inOrder(own.points)
    movePoint(own, first!.id, 1, [333, 111])
    const at = contourAt(own, 1).points[0]!
    expect([at.x, at.y].map(Math.round)).toEqual([333, 111])
    keyShape(own, 1)
    movePoint(own, first!.id, 9, [50, 60])
    const [then, now] = [contourAt(own, 1).points[0]!, contourAt(own, 9).points[0]!]
    expect([then.x, then.y, now.x, now.y].map(Math.round)).toEqual([333, 111, 50, 60])
    expect(isKeyed(own)).toBe(true)
    stillShape(own, 9)
    expect(isKeyed(own)).toBe(false)
    expect(Math.round(contourAt(own, 1).points[0]!.x)).toBe(50)
  })
  it('a handle takes the other with it, in line and as long as it was; alone it does not; a corner is turned round', () => {
    const own = shape()
    const [first] = inOrder(own.points)
    moveHandle(own, first!.id, 'out', 1, [200, 150])
    const { in_x, in_y, out_x, out_y } = own.points[first!.id]!
    expect([out_x, out_y]).toEqual([0, 100])
    expect(valueAt(in_x!, 1)).toBeCloseTo(0, 6)
    expect(valueAt(in_y!, 1)).toBeLessThan(-50)
    moveHandle(own, first!.id, 'out', 1, [240, 50], true)
    expect(own.points[first!.id]!.in_x).toBe(in_x)
    turnCorner(own, first!.id, 1)
    expect(own.points[first!.id]).not.toHaveProperty('out_x')
    turnCorner(own, first!.id, 1)
    // Along the line of its neighbours, which lie level
    expect(valueAt(own.points[first!.id]!.out_y!, 1)).toBeCloseTo(0, 6)
    expect(valueAt(own.points[first!.id]!.out_x!, 1)).toBeGreaterThan(20)
  })
  it('a soft edge is a point’s own from then on, and never below nothing', () => {
    const own = { ...shape(), outer: 7 }
    const [first] = inOrder(own.points)
    setSoft(own, first!.id, 'outer', 1, -5)
    expect(contourAt(own, 1).points.map(({ outer }) => outer)).toEqual([0, 7, 7, 7])
  })
  it('the nearest place of a contour is found; a drawn line is thinned to what says it', () => {
    // From the corner of its box, half way from its top to its right side
    const found = nearestOn(contourAt(shape(), 1), [300, 50])!
    expect(found.index).toBe(0)
    expect(Math.abs(found.share - 0.5)).toBeLessThan(0.02)
    const line = Array.from({ length: 200 }, (_, i) => [i, i < 100 ? 0 : i - 100, 1] as [number, number, number])
    expect(thinned(line, 0.3).map(([x]) => x)).toEqual([0, 100, 199])
    const pressed = line.map(([x, ,], i) => [x, 0, i < 100 ? 0.2 : 1] as [number, number, number])
    expect(thinned(pressed, 0.3).length).toBeGreaterThan(2)
  })
})

describe('in a shot', () => {
  const shot = (): { document: ShotDocument; term: ShapeMatte; own: Shape } => {
    const document = newDocument(640, 360)
    const term = newTerm('shape') as ShapeMatte
    addRow(term.shapes, shape())
    const line = addRow(document.finish, { ...newTreatment('exposure', {}), matte: slipOf(term) })
    const held = termIn(document, inOrder(line.matte!.terms)[0]!.id) as ShapeMatte
    return { document, term: held, own: inOrder(held.shapes)[0]! }
  }
  it('is valid, grows with the frame, and what cannot be is said', () => {
    const { document, term, own } = shot()
    const brush = newTerm('brush')
    if (brush.kind !== 'brush') throw new Error('no brush')
    brush.strokes.s = { ...strokeOf([[10, 20, 0.5]], { size: 30, takes: false }, 's'), order: 'a0' }
    addRow(document.finish, { ...newTreatment('exposure', {}), matte: slipOf(brush) })
    expect(documentFaults(document)).toEqual([])
    setFrame(document, { width: 1280, height: 720 })
    expect(contourAt(own, 1).points[0]).toMatchObject({ x: 400, y: 100 })
    expect(own.about).toEqual([400, 300])
    const stroke = Object.values((inOrder(inOrder(document.finish)[1]!.matte!.terms)[0] as typeof brush).strokes)[0]!
    expect([stroke.points[0], stroke.size]).toEqual([[20, 40, 0.5], 60])
    ;(term.shapes[own.id] as { join: string }).join = 'perhaps'
    expect(documentFaults(document).join()).toMatch(/join must be one of/)
    term.shapes[own.id]!.join = 'also'
    Object.values(own.points)[0]!.x = 'left' as never
    expect(documentFaults(document).join()).toMatch(/x must be a number/)
  })
  it('set on a place of the world it goes with it and grows as that comes nearer', () => {
    const { document, own } = shot()
    document.frames = { first: 1, last: 5 }
    document.scene.camera.z = {
      keys: [1, 5].map(frame => ({ frame, value: frame === 1 ? 8 : 4, ease: 'linear' as const })),
    }
    const place = [0.4, 1.2, 0] as const
    const seen = (frame: number): readonly [number, number, number] => {
      const { u, v, metres } = project(cameraAt(document.scene.camera, frame), 640 / 360, [...place])
      return [u * 640, v * 360, metres]
    }
    const before = contourAt(own, 1).points[0]!
    setShapeOnPoint(document, own, [...place], 1)
    expect(documentFaults(document)).toEqual([])
    const [x1, y1, near1] = seen(1)
    for (const frame of [1, 3, 5]) {
      const [x, y, near] = seen(frame)
      const { x: px, y: py } = contourAt(own, frame).points[0]!
      // Each of its points stays as far from the place, times as much nearer as that is
      expect(px - x).toBeCloseTo(((before.x - x1) * near1) / near, 1)
      expect(py - y).toBeCloseTo(((before.y - y1) * near1) / near, 1)
    }
    expect(() => setShapeOnPoint(document, own, [0, 1, 30], 1)).toThrow(/behind the camera/)
  })
})
