// Drawn mattes: shapes and strokes. What they cover is checked against many samples of each pixel taken by winding number
// from the curves themselves (256 rows of each pixel, exact along the row: W. R. Franklin's crossings, the rule of
// non-zero winding of SVG 2); soft edges against the distance to the curve walked in small steps.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { boxOf, type Box } from '../core/engine/box'
import { contourNode, strokesNode } from '../core/matte/drawn/node'
import { moved, type Contour, type ContourPoint } from '../core/matte/drawn/contour'
import type { DrawnStroke } from '../core/matte/matte'
import { Runner } from '../core/plan/runner'
import type { Node } from '../core/plan/node'
import { ellipsePoints, rectanglePoints } from '../core/shot/drawn'
import { startEngine, type Engine } from '../host/engine'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const FRAME = boxOf(96, 64)
async function pixels(node: Node, area: Box = FRAME): Promise<Float32Array> {
  const runner = new Runner(engine.pool, 2 ** 26)
  const { pointer } = await runner.run(node, area)
  const out = engine.kernels.floats(pointer, (area.right - area.left) * (area.bottom - area.top)).slice()
  runner.clear()
  return out
}

type Xy = readonly [number, number]
const point = (x: number, y: number, more: Partial<ContourPoint> = {}): ContourPoint => ({
  ...{ x, y, inX: 0, inY: 0, outX: 0, outY: 0, radius: 0, outer: 0, inner: 0 },
  ...more,
})
const closed = (...points: ContourPoint[]): Contour => ({ closed: true, points })
const drawn = (points: { at: Xy; in?: Xy; out?: Xy }[], more: Partial<ContourPoint> = {}): Contour =>
  closed(
    ...points.map(({ at, in: before = [0, 0], out: after = [0, 0] }) =>
      point(at[0], at[1], { inX: before[0], inY: before[1], outX: after[0], outY: after[1], ...more }),
    ),
  )

/** A contour walked in small steps, in double precision, by the Bernstein form. */
function walked({ points, closed }: Contour, steps = 500): (Xy & { length: 2 })[] {
  const out: [number, number][] = []
  const count = closed ? points.length : points.length - 1
  for (let i = 0; i < count; i++) {
    const a = points[i]!
    const b = points[(i + 1) % points.length]!
    const own = a.outX || a.outY || b.inX || b.inY ? steps : 1
    for (let k = 0; k < own; k++) {
      const t = k / own
      const s = 1 - t
      const at = (p: number, q: number, r: number, e: number): number =>
        s ** 3 * p + 3 * s * s * t * q + 3 * s * t * t * r + t ** 3 * e
      out.push([at(a.x, a.x + a.outX, b.x + b.inX, b.x), at(a.y, a.y + a.outY, b.y + b.inY, b.y)])
    }
  }
  if (!closed) out.push([points.at(-1)!.x, points.at(-1)!.y])
  return out
}
/** Rows of a pixel that are looked at. */
const ROWS = 256
function covered(contour: Contour, { right: width, bottom: height } = FRAME): Float64Array {
  const line = walked(contour)
  const out = new Float64Array(width * height)
  for (let row = 0; row < height * ROWS; row++) {
    const y = (row + 0.5) / ROWS
    const crossings: { x: number; way: number }[] = []
    line.forEach(([ax, ay], i) => {
      const [bx, by] = line[(i + 1) % line.length]!
      if (ay <= y === by <= y) return
      crossings.push({ x: ax + ((y - ay) / (by - ay)) * (bx - ax), way: ay <= y ? 1 : -1 })
    })
    crossings.sort((a, b) => a.x - b.x)
    let winding = 0
    crossings.forEach(({ x, way }, i) => {
      winding += way
      const to = crossings[i + 1]?.x ?? x
      if (!winding) return
      for (let p = Math.max(0, Math.floor(x)); p < Math.min(width, Math.ceil(to)); p++)
        out[Math.floor(y) * width + p]! += Math.max(0, Math.min(to, p + 1) - Math.max(x, p)) / ROWS
    })
  }
  return out
}
/** A stroke along a contour. */
const stroke = (contour: Contour, flow: number, takes = false): DrawnStroke => ({
  name: JSON.stringify(contour),
  contour: () => contour,
  flow,
  takes,
})
const farthest = (own: ArrayLike<number>, truth: ArrayLike<number>): number =>
  Array.from(own, (value, i) => Math.abs(value - truth[i]!)).reduce((most, value) => Math.max(most, value), 0)

const BLOB = closed(
  point(20.3, 12.7, { inX: -6, inY: 14, outX: 9, outY: -20 }),
  point(70.2, 9.1, { inX: -12, inY: -3, outX: 22, outY: 6 }),
  point(61.7, 50.4, { inX: 20, inY: 3, outX: -7, outY: -1 }),
  point(33.5, 40.2),
)
const SHAPES: [string, Contour][] = [
  ['an ellipse', drawn(ellipsePoints([10.4, 8.2], [84.9, 57.3]))],
  ['a small ellipse', drawn(ellipsePoints([30.2, 20.7], [33.9, 25.1]))],
  ['a rectangle between pixels', drawn(rectanglePoints([12.25, 8.5], [70.75, 40.125]))],
  ['a turned sliver', moved(drawn(rectanglePoints([8, 30], [90, 30.3])), turned([48, 32], 17))],
  ['a star that crosses itself', drawn([0, 2, 4, 1, 3].map(k => ({ at: onRing(k) })))],
  ['a curve with a corner', BLOB],
  ['what reaches beyond the frame on all sides', drawn(ellipsePoints([-40, -30], [110, 80]))],
  ['what lies far beyond it to the left', drawn(rectanglePoints([-1e6, 10.5], [40.25, 1e6]))],
]
function turned(about: Xy, turn: number): Parameters<typeof moved>[1] {
  return { about, moveX: 0, moveY: 0, turn, scale: 1 }
}
function onRing(k: number, radius = 28): Xy {
  return [48 + radius * Math.sin((k * 2 * Math.PI) / 5), 32 - radius * Math.cos((k * 2 * Math.PI) / 5)]
}

describe('a closed shape', () => {
  it.each(SHAPES)('%s covers of each pixel what 256 rows of it say', async (name, contour) => {
    const own = await pixels(contourNode(contour, FRAME))
    const truth = covered(contour)
    // Where two of its edges cross the signed areas meet: not looked at so near to it
    const isNear = (i: number): boolean =>
      name.startsWith('a star') &&
      [0, 1, 2, 3, 4].some(k => {
        const [x, y] = onRing(k + 0.5, 28 * (3 - Math.sqrt(5)) * 0.5)
        return Math.hypot((i % 96) + 0.5 - x, Math.floor(i / 96) + 0.5 - y) < 6
      })
    const seen = Array.from(own, (value, i) => (isNear(i) ? 0 : value - truth[i]!))
    expect(farthest(seen, new Float64Array(seen.length))).toBeLessThan(0.002)
  })
  it('has its exact area, wherever it stands between the pixels', async () => {
    for (const [x, y] of [
      [0, 0],
      [0.31, 0.77],
      [0.5, 0.125],
    ] as const) {
      const contour = drawn(ellipsePoints([20 + x, 15 + y], [60 + x, 45 + y]))
      const sum = (await pixels(contourNode(contour, FRAME))).reduce((total, value) => total + value, 0)
      // Of an ellipse, π a b; its four curves are within 0.03 % of it
      expect(Math.abs(sum / (Math.PI * 20 * 15) - 1)).toBeLessThan(0.0006)
    }
  })
  it('is the same to the bit whatever part of it is asked for', async () => {
    const contour = { ...BLOB, points: BLOB.points.map(one => ({ ...one, outer: 5, inner: 3 })) }
    const whole = await pixels(contourNode(contour, FRAME))
    const part: Box = { left: 21, top: 9, right: 58, bottom: 33 }
    const own = await pixels(contourNode(contour, FRAME), part)
    own.forEach((value, i) => {
      const [x, y] = [21 + (i % 37), 9 + Math.floor(i / 37)]
      expect(value).toBe(whole[y * 96 + x]!)
    })
  })
  it('covers at half the size what it covers of four pixels', async () => {
    const half = closed(...BLOB.points.map(scaledBy(0.5)))
    const small = await pixels(contourNode(half, boxOf(48, 32)), boxOf(48, 32))
    const large = await pixels(contourNode(BLOB, FRAME))
    const mean = Array.from(small, (_, i) => {
      const at = Math.floor(i / 48) * 2 * 96 + (i % 48) * 2
      return (large[at]! + large[at + 1]! + large[at + 96]! + large[at + 97]!) / 4
    })
    expect(farthest(small, mean)).toBeLessThan(0.003)
  })
})
const scaledBy =
  (by: number) =>
  (one: ContourPoint): ContourPoint =>
    Object.fromEntries(
      Object.entries(one).map(([name, value]) => [name, (value as number) * by]),
    ) as unknown as ContourPoint

/** 3t² - 2t³ over a soft edge, by the distance to the nearest place of the contour and how soft it is there. */
function soft(contour: Contour, inside: Float64Array): Float64Array {
  const line = walked(contour, 400)
  const of = (i: number): { outer: number; inner: number } => {
    const share = i / 400
    const a = contour.points[Math.floor(share)]!
    const b = contour.points[(Math.floor(share) + 1) % contour.points.length]!
    const t = share % 1
    return { outer: a.outer + (b.outer - a.outer) * t, inner: a.inner + (b.inner - a.inner) * t }
  }
  return Float64Array.from(inside, (cover, i) => {
    const [x, y] = [(i % 96) + 0.5, Math.floor(i / 96) + 0.5]
    let least = Infinity
    let nearest = 0
    line.forEach(([lx, ly], k) => {
      const far = Math.hypot(x - lx, y - ly)
      if (far < least) [least, nearest] = [far, k]
    })
    const { outer, inner } = of(nearest)
    const within = cover >= 0.5 ? least : -least
    const t = Math.min(1, Math.max(0, (within + outer) / (outer + inner)))
    return t * t * (3 - 2 * t)
  })
}
describe('a soft edge', () => {
  it.each([0, 70])(
    'fades by the exact distance, at each point as far as that says, outside by %i px more',
    async more => {
      const [a, b, c, d] = drawn(ellipsePoints([24, 14], [72, 50])).points as [
        ContourPoint,
        ContourPoint,
        ContourPoint,
        ContourPoint,
      ]
      const contour = closed(
        { ...a, outer: 12 + more, inner: 2 },
        { ...b, outer: 4 + more, inner: 9 },
        { ...c, outer: 9 + more, inner: 9 },
        { ...d, outer: 20 + more, inner: 6 },
      )
      const own = await pixels(contourNode(contour, FRAME))
      // A pixel's own width is in the edge: of 11 pixels and more, at most 0.005 of the way
      expect(farthest(own, soft(contour, covered(contour)))).toBeLessThan(0.006)
    },
  )
  it('of nothing is the hard one, and goes over to it evenly', async () => {
    const ring = (width: number): Contour => drawn(ellipsePoints([24, 14], [72, 50]), { outer: width, inner: width })
    const hard = await pixels(contourNode(ring(0), FRAME))
    let before = 0
    for (const width of [0.02, 0.1, 0.3, 0.6, 1]) {
      const off = farthest(await pixels(contourNode(ring(width), FRAME)), hard)
      expect(off).toBeGreaterThan(before)
      expect(off).toBeLessThan(0.01 + width * 0.35)
      before = off
    }
  })
})

/** Whether a place lies within so many pixels of a walked line. */
const strokeCover = (contour: Contour, radius: number): Float64Array => {
  const line = walked(contour, 300)
  const parts = 12
  return Float64Array.from({ length: 96 * 64 }, (_, i) => {
    const [x, y] = [i % 96, Math.floor(i / 96)]
    const far = Math.min(...line.map(([lx, ly]) => Math.hypot(x + 0.5 - lx, y + 0.5 - ly)))
    if (Math.abs(far - radius) > 1.2) return far < radius ? 1 : 0
    let inside = 0
    for (let k = 0; k < parts * parts; k++) {
      const px = x + ((k % parts) + 0.5) / parts
      const py = y + (Math.floor(k / parts) + 0.5) / parts
      if (line.some(([lx, ly]) => (px - lx) ** 2 + (py - ly) ** 2 < radius * radius)) inside++
    }
    return inside / parts / parts
  })
}
describe('an open line and strokes', () => {
  const CURVE: Contour = {
    closed: false,
    points: [point(14, 40, { outX: 20, outY: -50, radius: 6 }), point(80, 30, { inX: -10, inY: 50, radius: 6 })],
  }
  it('covers all within half its width, with round ends', async () => {
    const own = await pixels(contourNode(CURVE, FRAME))
    // 144 samples a pixel see an edge to about 0.02
    expect(farthest(own, strokeCover(CURVE, 6))).toBeLessThan(0.03)
    const line: Contour = { closed: false, points: [point(20.5, 32, { radius: 8 }), point(70.5, 32, { radius: 8 })] }
    const sum = (await pixels(contourNode(line, FRAME))).reduce((total, value) => total + value, 0)
    expect(Math.abs(sum - (50 * 16 + Math.PI * 64))).toBeLessThan(0.15)
  })
  it('a stroke that crosses itself gives no more than its flow; a second one gives of what is left; one that takes, takes', async () => {
    const tip = { radius: 6, inner: 3 }
    const cross: Contour = {
      closed: false,
      points: [point(20, 20, tip), point(60, 44, tip), point(60, 20, tip), point(20, 44, tip)],
    }
    const one = await pixels(strokesNode([stroke(cross, 0.4)], FRAME))
    expect(Math.max(...one)).toBeCloseTo(0.4, 6)
    const two = await pixels(
      strokesNode(
        [1, 2].map(() => stroke(cross, 0.4)),
        FRAME,
      ),
    )
    one.forEach((value, i) => expect(two[i]).toBeCloseTo(1 - (1 - value) ** 2, 5))
    const rest = await pixels(strokesNode([stroke(cross, 1), stroke(cross, 0.75, true)], FRAME))
    expect(rest[20 * 96 + 20]).toBeCloseTo(0.25, 6)
  })
  it('pressed less it is narrower', async () => {
    const contour: Contour = { closed: false, points: [point(10, 32, { radius: 2 }), point(86, 32, { radius: 14 })] }
    const own = await pixels(contourNode(contour, FRAME))
    const wide = (x: number): number => {
      let sum = 0
      for (let y = 0; y < 64; y++) sum += own[y * 96 + x]!
      return sum
    }
    expect(wide(10)).toBeCloseTo(4, 0)
    expect(wide(48)).toBeCloseTo(16, 0)
    expect(wide(85)).toBeCloseTo(28, 0)
  })
})
