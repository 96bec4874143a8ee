// What is drawn goes along with things: against movements of closed form, and against what the renderer says of a thing
// that is carried off, turned and brought nearer.
import { describe, expect, it } from 'vitest'
import { goingAt } from '../core/compose/probe'
import { openPassFile, unpacking, type PassFile } from '../core/render/openpasses'
import { passesToExr } from '../core/render/passfile'
import { placesWithin } from '../core/matte/drawn/inside'
import { alongThings, type Going, type ReadGoing } from '../core/shot/along'
import { contourAt, ellipsePoints, movedBy, shapeOf, strokeContour, strokeMovedBy, strokeOf } from '../core/shot/drawn'
import type { Shape, Stroke } from '../core/shot/schema/drawn'
import { compose, multiply, rotationFromDegrees, type Matrix4 } from '../core/scene/vector'
import { isCurve, valueAt } from '../core/time/curve'
import { lookAt, object, quad, renderScene, scene } from './scenes'

type Xy = readonly [number, number]
/** Where a place of frame 0 is at another: turned by 4° and grown by 1 % a frame about a middle that goes. */
function going(at: number, [x, y]: Xy): [number, number] {
  const [turn, grown] = [(4 * at * Math.PI) / 180, 1.01 ** at]
  const [dx, dy] = [x - 300, y - 200]
  const cos = Math.cos(turn) * grown
  const sin = Math.sin(turn) * grown
  return [300 + 5 * at + dx * cos - dy * sin, 200 - 2 * at + dx * sin + dy * cos]
}
/** The place of frame 0 that is there at another. */
function began(at: number, [x, y]: Xy): [number, number] {
  const [turn, grown] = [(-4 * at * Math.PI) / 180, 1.01 ** -at]
  const [dx, dy] = [x - 300 - 5 * at, y - 200 + 2 * at]
  const cos = Math.cos(turn) * grown
  const sin = Math.sin(turn) * grown
  return [300 + dx * cos - dy * sin, 200 + dx * sin + dy * cos]
}
/** A thing of radius 100 that goes so, before another that stands still; `hidden`: frames at which a wall is before it. */
const world =
  (last = 60, hidden: (at: number, place: Xy) => boolean = () => false): ReadGoing =>
  async (at, places) =>
    at < 0 || at > last
      ? undefined
      : places.map((place): Going => {
          const own = began(at, place)
          if (hidden(at, place)) return { thing: 9, forward: [0, 0], back: [0, 0] }
          if (Math.hypot(own[0] - 300, own[1] - 200) > 100) return { thing: 4, forward: [0, 0], back: [0, 0] }
          const [next, before] = [going(at + 1, own), going(at - 1, own)]
          return {
            thing: 7,
            forward: [next[0] - place[0], next[1] - place[1]],
            back: [before[0] - place[0], before[1] - place[1]],
          }
        })
type Range = Parameters<typeof alongThings>[2]
const standing = (shape: Shape, frame: number) => ({ contour: contourAt(shape, frame), by: movedBy(shape, frame) })
const shapeAlong = async (shape: Shape, frame: number, range: Range, read: ReadGoing) =>
  (await alongThings([standing(shape, frame)], frame, range, read))[0]!
const drawn = (): Shape => shapeOf('oval', ellipsePoints([270, 160], [340, 230]), true) as Shape

describe('a shape over a thing that goes, turns and grows', () => {
  it.each([0, 25, 60])('stands on it at every frame, drawn at frame %i', async frame => {
    // Drawn there where the thing is then, itself moved already
    const shape: Shape = { ...drawn(), move_x: 3, turn: 10 }
    const points = (at: number, of = shape): Xy[] => contourAt(of, at).points.map(({ x, y }) => [x, y] as const)
    const middle = going(frame, [305, 195])
    const put = { ...shape, ...shapePut(middle, frame) }
    const move = await shapeAlong(put, frame, { first: 0, last: 60 }, world())
    const held = { ...put, ...move }
    expect(points(frame, held)).toEqual(
      points(frame, put).map(place => [expect.closeTo(place[0], 3), expect.closeTo(place[1], 3)]),
    )
    for (let at = 0; at <= 60; at++)
      points(at, held).forEach((place, i) => {
        const truth = going(at, began(frame, points(frame, put)[i]!))
        expect(Math.hypot(place[0] - truth[0], place[1] - truth[1]), `frame ${at}`).toBeLessThan(0.1)
      })
    // A steady turn needs few keys
    expect(isCurve(move.turn) && move.turn.keys.length).toBeLessThan(5)
  })
  /** Moves a shape so that its middle lies there, as large as the thing is then. */
  const shapePut = ([x, y]: Xy, frame: number): Partial<Shape> => ({
    move_x: x - 305,
    move_y: y - 195,
    scale: 1.01 ** frame,
    turn: 10 + 4 * frame,
  })
  it('follows what most of it is on, and what of that is still seen', async () => {
    // Half of it lies on what stands still; then a wall comes before the left half
    const wide = shapeOf('wide', ellipsePoints([260, 150], [430, 250]), true) as Shape
    const move = await shapeAlong(
      wide,
      0,
      { first: 0, last: 40 },
      world(40, (at, [x]) => at > 10 && x < 290),
    )
    for (const at of [5, 20, 40]) {
      expect(valueAt(move.turn, at)).toBeCloseTo(4 * at, 1)
      expect(valueAt(move.scale, at)).toBeCloseTo(1.01 ** at, 3)
      contourAt({ ...wide, ...move }, at).points.forEach(({ x, y }, i) => {
        const { x: fromX, y: fromY } = contourAt(wide, 0).points[i]!
        const truth = going(at, [fromX, fromY])
        expect(Math.hypot(x - truth[0], y - truth[1])).toBeLessThan(0.2)
      })
    }
  })
  it('ends where the passes do, and where nothing of it is seen any more; stands there from then on', async () => {
    const gone = await shapeAlong(drawn(), 5, { first: -10, last: 200 }, world(30))
    const frames = (isCurve(gone.move_x) ? gone.move_x.keys : []).map(key => key.frame)
    expect([frames[0], frames.at(-1)]).toEqual([-1, 31])
    const hidden = await shapeAlong(
      drawn(),
      0,
      { first: 0, last: 60 },
      world(60, at => at >= 20),
    )
    expect((isCurve(hidden.move_x) ? hidden.move_x.keys : []).at(-1)!.frame).toBe(20)
  })
  it('says why it cannot', async () => {
    await expect(shapeAlong(drawn(), 99, { first: 0, last: 60 }, world())).rejects.toThrow('no passes of this frame')
    const nothing: ReadGoing = async (_, places) => places.map(() => ({ thing: 0, forward: [0, 0], back: [0, 0] }))
    await expect(shapeAlong(drawn(), 0, { first: 0, last: 1 }, nothing)).rejects.toThrow('Nothing is under it')
  })
})

it('several go at once, each with what is under it; what is on nothing stays; each frame that one goes on from is read once', async () => {
  const frames: number[] = []
  const read: ReadGoing = async (at, places) => {
    frames.push(at)
    const found = await world(20)(at, places)
    return found?.map((going, i) => (places[i]![0] > 600 ? { ...going, thing: 0 } : going))
  }
  const resting = shapeOf('on what stands', ellipsePoints([20, 20], [60, 60]), true) as Shape
  const off = shapeOf('on nothing', ellipsePoints([700, 20], [760, 60]), true) as Shape
  const range = { first: 0, last: 20 }
  const all = [drawn(), resting, off].map(shape => standing(shape, 8))
  const [going, stays, nowhere] = await alongThings(all, 8, range, read)
  expect(frames.sort((a, b) => a - b)).toEqual(Array.from({ length: 19 }, (_, i) => i + 1))
  expect(going).toEqual(await shapeAlong(drawn(), 8, range, world(20)))
  expect(stays).toMatchObject({ move_x: 0, move_y: 0, turn: 0, scale: 1 })
  expect(nowhere).toBeUndefined()
})

it('a turn of more than a whole one goes on', async () => {
  const move = await shapeAlong(drawn(), 0, { first: 0, last: 59 }, async (at, places) =>
    places.map(([x, y]) => {
      const by = (degrees: number): [number, number] => {
        const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
        const [dx, dy] = [x - 305, y - 195]
        return [305 + dx * cos - dy * sin - x, 195 + dx * sin + dy * cos - y]
      }
      return { thing: 1, forward: by(9), back: by(-9) }
    }),
  )
  expect(valueAt(move.turn, 59)).toBeCloseTo(59 * 9, 0)
  expect(valueAt(move.turn, 30)).toBeCloseTo(270, 0)
})

describe('a stroke on a card that the renderer carries off', () => {
  const [WIDTH, HEIGHT] = [160, 120]
  const camera = lookAt([0, 0, 5], [0, 0, 0], 40)
  const F = (40 / 36) * WIDTH
  /** Turned, lifted and brought nearer, in the plane that the camera faces. */
  const there = (at: number): Matrix4 =>
    multiply(
      compose([0.1 * at - 0.3, 0.03 * at, 0.12 * at], [0, 0, 0, 1], [1, 1, 1]),
      rotationFromDegrees(0, 0, 5 * at),
    )
  const card = quad([-0.6, -0.5, 0], [0.6, -0.5, 0], [0.6, 0.5, 0], [-0.6, 0.5, 0])
  const worldAt = (at: number) =>
    scene([
      object('card', card, { matrix: there(at) }),
      object('wall', quad([-9, -9, -3], [9, -9, -3], [9, 9, -3], [-9, 9, -3])),
    ])
  const passes = ['alpha', 'depth', 'object_id', 'motion_forward', 'motion_back']
  const files = new Map<number, PassFile>()
  const fileAt = async (at: number): Promise<PassFile> => {
    const found = files.get(at)
    if (found) return found
    const rendered = renderScene(
      worldAt(at),
      { camera, width: WIDTH, height: HEIGHT, samples: 4, passes, moving: { previous: camera, next: camera } },
      { previous: worldAt(at - 1), next: worldAt(at + 1) },
    )
    const file = await openPassFile(
      passesToExr(rendered, { passes, objectNames: ['card', 'wall'], materialNames: [], assetNames: [] }),
    )
    files.set(at, file)
    return file
  }
  /** The frame is twice as large as the passes, and they reach 20 pixels beyond it. */
  const read: ReadGoing = async (at, places) => {
    const file = await fileAt(at)
    const [across, down] = [WIDTH * 2, HEIGHT * 2]
    return unpacking(() =>
      goingAt(
        file,
        places.map(([x, y]) => [(x + 20) / across, (y + 20) / down]),
        [2, 2],
      ),
    )
  }
  /** Where a place of the card is seen, in pixels of that frame: the pinhole's own projection. */
  const seen = (at: number, x: number, y: number): Xy => {
    const m = there(at)
    const [px, py, pz] = [0, 1, 2].map(row => m[row]! * x + m[row + 4]! * y + m[row + 12]!) as [number, number, number]
    const far = 5 - pz
    return [(WIDTH / 2 + (px * F) / far) * 2 - 20, (HEIGHT / 2 - (py * F) / far) * 2 - 20]
  }
  it('stays on it to half a pixel of the passes over ten frames, both ways', async () => {
    const places = [-0.3, -0.1, 0.1, 0.3].map(x => [x, x * 0.5] as const)
    const stroke = strokeOf(
      places.map(([x, y]) => [...seen(4, x, y), 1]),
      { takes: false, size: 16 },
    ) as Stroke
    const lies = { contour: strokeContour(stroke, 4), by: strokeMovedBy(stroke, 4) }
    const held = { ...stroke, ...(await alongThings([lies], 4, { first: 0, last: 10 }, read))[0] }
    for (let at = 0; at <= 10; at++)
      strokeContour(held, at).points.forEach(({ x, y, radius }, i) => {
        const truth = seen(at, ...places[i]!)
        expect(Math.hypot(x - truth[0], y - truth[1]), `frame ${at}`).toBeLessThan(1)
        const grown = (5 - there(4)[14]!) / (5 - there(at)[14]!)
        expect(radius / 8).toBeCloseTo(grown, 1)
      })
  })
  it('is told nothing by passes without motion', async () => {
    const rendered = renderScene(worldAt(0), { camera, width: 16, height: 12, samples: 1, passes: ['depth'] })
    const told = { passes: ['depth'], objectNames: [], materialNames: [], assetNames: [] }
    const file = await openPassFile(passesToExr(rendered as never, told))
    expect(await unpacking(() => goingAt(file, [[0.5, 0.5]], [1, 1]))).toBeUndefined()
  })
})

it('places within: of a line round a square only the line, of the shape all of it', () => {
  const point = (x: number, y: number, radius: number): ReturnType<typeof strokeContour>['points'][number] => ({
    ...{ x, y, radius, inX: 0, inY: 0, outX: 0, outY: 0, outer: 0, inner: 0 },
  })
  const corners = [point(0, 0, 2), point(100, 0, 2), point(100, 100, 2), point(0, 100, 2)]
  const line = placesWithin({ closed: false, points: corners })
  expect(line.length).toBeGreaterThan(10)
  expect(line.filter(([x, y]) => x > 3 && x < 97 && y > 3 && y < 97)).toEqual([])
  const area = placesWithin({ closed: true, points: corners })
  expect(area).toHaveLength(24 * 24)
})
