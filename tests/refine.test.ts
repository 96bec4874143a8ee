// What refines mattes: against the guided filter's paper in double precision, against OpenCV's connected components
// (Debian's python3-opencv); and what holds for every such line. OpenCV's own guided filter is 0.15 off the paper at
// steep edges where this is 2e-7 off.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { firstValues } from '../core/declare/values'
import { boxOf, type Box } from '../core/engine/box'
import { REFINERS, refinerOf } from '../core/matte/refine/registry'
import { Runner } from '../core/plan/runner'
import { startEngine, type Engine } from '../host/engine'
import { given } from './compose/treat'
import { randomFrom } from './compose/random'
import { pythonOf } from './python'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const [WIDTH, HEIGHT] = [150, 90]
const COUNT = WIDTH * HEIGHT
const random = randomFrom(17)
/** Patches of colour with grain: something to find edges in. */
const PICTURE = Array.from({ length: COUNT }, (_, i) => {
  const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)]
  const inside = Math.hypot(x - 70 - 12 * Math.sin(y / 7), y - 45) < 32
  const base = inside ? [0.5, 0.2, 0.1] : [0.1, 0.25, 0.6]
  return [...base.map(value => Math.fround(value * (0.9 + 0.2 * random()))), 1]
}).flat()
/** Roughly round that, with holes and specks, and soft in places. */
const MATTE = Array.from({ length: COUNT }, (_, i) => {
  const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)]
  const far = Math.hypot(x - 70, y - 45)
  if (Math.hypot(x - 60, y - 40) < 3.2 || Math.hypot(x - 85, y - 55) < 8) return 0
  if (Math.hypot(x - 10, y - 10) < 2.4 || (x === 140 && y > 60 && y < 70) || (x === 0 && y < 3)) return Math.fround(0.9)
  if (x === 141 && y === 70) return 1
  return Math.fround(Math.min(1, Math.max(0, (36 - far) / 4)))
})
async function refined(
  id: string,
  values: Record<string, number>,
  {
    matte = MATTE,
    picture = PICTURE,
    area = boxOf(WIDTH, HEIGHT),
  }: { matte?: number[]; picture?: number[]; area?: Box } = {},
): Promise<number[]> {
  const kind = refinerOf(id)
  const node = kind.plan(
    {
      ...{ matte: given(matte, WIDTH, 'single'), picture: given(picture, WIDTH), width: WIDTH, height: HEIGHT },
      // A little less of it at the frames beside
      at: frames => ({
        matte: given(
          matte.map(value => value * (1 - 0.05 * Math.abs(frames))),
          WIDTH,
          'single',
        ),
        picture: given(picture, WIDTH),
      }),
    },
    { ...firstValues(kind.values), ...values } as never,
  )
  const runner = new Runner(engine.pool, 2 ** 26)
  const { pointer } = await runner.run(node, area)
  const out = [...engine.kernels.floats(pointer, (area.right - area.left) * (area.bottom - area.top))]
  runner.clear()
  return out
}

describe('follows the picture’s edges', () => {
  it.each([
    [4, 0.05],
    [9, 0.02],
    [20, 0.2],
  ])('as the paper says, in double precision: radius %i, smoothed by %f', async (radius, smooth) => {
    const found = await refined('follow', { radius, smooth })
    const expected = pythonOf<number[]>(GUIDED, { picture: PICTURE, matte: MATTE, radius, smooth })
    expect(Math.max(...found.map((value, i) => Math.abs(value - expected[i]!)))).toBeLessThan(5e-6)
    // It is no copy of what it began with
    expect(Math.max(...found.map((value, i) => Math.abs(value - MATTE[i]!)))).toBeGreaterThan(0.2)
  })
  it('an edge drawn roughly goes where the picture has its own', async () => {
    const truth = PICTURE.filter((_, i) => i % 4 === 0).map(red => (red > 0.3 ? 1 : 0))
    const rough = MATTE.map((_, i) => (Math.hypot((i % WIDTH) - 70, Math.floor(i / WIDTH) - 45) < 33 ? 1 : 0))
    const wrong = (matte: readonly number[]): number =>
      matte.filter((value, i) => value > 0.5 !== truth[i]! > 0.5).length
    const found = await refined('follow', { radius: 16, smooth: 0.02 }, { matte: rough })
    expect(wrong(rough)).toBeGreaterThan(300)
    expect(wrong(found)).toBeLessThan(wrong(rough) / 4)
  })
})

/** Equations 11 to 19 of He, Sun and Tang 2010 by numpy, its windows summed by OpenCV. */
const GUIDED = `
import json, sys, numpy as np, cv2
g = json.load(sys.stdin); h, w, r = ${HEIGHT}, ${WIDTH}, g['radius']
I = np.array(g['picture']).reshape(h, w, 4)[..., :3] ** (1 / 2.4); P = np.array(g['matte']).reshape(h, w)
total = lambda a: cv2.boxFilter(a, -1, (2 * r + 1, 2 * r + 1), normalize=False, borderType=cv2.BORDER_CONSTANT)
n = total(np.ones((h, w)))
mean = lambda a: total(a) / (n if a.ndim == 2 else n[..., None])
mI, mP = mean(I), mean(P)
cov = mean(I * P[..., None]) - mI * mP[..., None]
S = np.empty((h, w, 3, 3))
for i in range(3):
  for j in range(3): S[..., i, j] = mean(I[..., i] * I[..., j]) - mI[..., i] * mI[..., j] + (g['smooth'] ** 2 if i == j else 0)
a = np.linalg.solve(S, cov[..., None])[..., 0]
b = mP - (a * mI).sum(-1)
print(json.dumps(np.clip((mean(a) * I).sum(-1) + mean(b), 0, 1).ravel().tolist()))`

/** Marks of regions of at most so many pixels, by OpenCV. */
const SMALL = `
import json, sys, numpy as np, cv2
g = json.load(sys.stdin)
m = np.array(g['matte'], np.float32).reshape(${HEIGHT}, ${WIDTH})
inside = (m < 0.95) if g['holes'] else (m > 0.05)
count, labels, stats, _ = cv2.connectedComponentsWithStats(inside.astype(np.uint8), connectivity=4 if g['holes'] else 8)
out = m.copy()
for i in range(1, count):
  x, y, w, h, area = stats[i]
  touches = x == 0 or y == 0 or x + w == ${WIDTH} or y + h == ${HEIGHT}
  if area <= np.pi / 4 * g['size'] ** 2 and not (g['holes'] and touches): out[labels == i] = 1 if g['holes'] else 0
print(json.dumps(out.ravel().tolist()))`

describe.each([
  ['fill', true],
  ['drop', false],
] as const)('%s', (id, holes) => {
  it.each([1.2, 3, 7, 12, 30])('takes what OpenCV’s connected components give, smaller than %f', async size => {
    const found = await refined(id, { size })
    expect(found).toEqual(pythonOf<number[]>(SMALL, { matte: MATTE, size, holes }))
  })
  it('of patches at random, too', async () => {
    const matte = Array.from({ length: COUNT }, () => (random() < 0.55 ? 1 : Math.fround(random() * 0.04)))
    const found = await refined(id, { size: 5 }, { matte })
    expect(found).toEqual(pythonOf<number[]>(SMALL, { matte, size: 5, holes }))
    expect(found).not.toEqual(matte)
  })
})

it('an edge is softened where it is, and what is half in all over stays', async () => {
  const matte = Array.from({ length: COUNT }, (_, i) => (i % WIDTH < 50 ? 0 : i % WIDTH < 100 ? 1 : 0.4))
  const found = (await refined('edge', { width: 12 }, { matte })).slice(40 * WIDTH, 41 * WIDTH)
  // A bell's slope through the half, done within the width
  expect(found[49]! + found[50]!).toBeCloseTo(1, 5)
  expect(found.slice(42, 58).every((value, i, all) => !i || value >= all[i - 1]!)).toBe(true)
  expect([found[42], found[57]]).toEqual([0, 1])
  for (let x = 115; x < WIDTH; x++) expect(found[x]).toBe(Math.fround(0.4))
})

describe.each(REFINERS.map(({ id }) => id))('%s', id => {
  const values: Record<string, number> = id === 'clip' ? { black: 0.2, white: 0.7 } : {}
  it('a region of it is that part of the whole, to the bit', async () => {
    const whole = await refined(id, values)
    for (const area of [
      { left: 17, top: 5, right: 101, bottom: 38 },
      { left: 65, top: 33, right: 66, bottom: 90 },
    ]) {
      const part = await refined(id, values, { area })
      let i = 0
      for (let y = area.top; y < area.bottom; y++)
        for (let x = area.left; x < area.right; x++) expect(part[i++]).toBe(whole[y * WIDTH + x])
    }
  })
  it('changes the matte, stays between nothing and all, and does nothing at its neutral values', async () => {
    const whole = await refined(id, values)
    expect(whole.every(value => value >= 0 && value <= 1)).toBe(true)
    expect(whole).not.toEqual(MATTE)
    const fields = refinerOf(id).values
    const neutral = Object.fromEntries(
      Object.entries(fields).flatMap(([name, field]) =>
        'neutral' in field && field.neutral !== undefined ? [[name, field.neutral as number]] : [],
      ),
    )
    expect(await refined(id, neutral)).toEqual(MATTE)
  })
})

describe('grown by much', () => {
  /** A dot in the middle of a larger picture. */
  async function dot(pixels: number): Promise<{ size: number; found: number[] }> {
    const size = 2 * Math.ceil(pixels) + 7
    const middle = (size - 1) / 2
    const matte = Array.from({ length: size * size }, (_, i) => (i === middle * size + middle ? 1 : 0))
    const node = refinerOf('grow').plan(
      { matte: given(matte, size, 'single'), picture: given(matte, size, 'single'), width: size, height: size },
      { pixels } as never,
    )
    const runner = new Runner(engine.pool, 2 ** 26)
    const { pointer } = await runner.run(node, boxOf(size, size))
    const found = [...engine.kernels.floats(pointer, size * size)]
    runner.clear()
    return { size, found }
  }
  it.each([7, 12.25, 30.5, 100, 200])('a dot becomes a disc of %f pixels, round', async pixels => {
    const { size, found } = await dot(pixels)
    const area = found.reduce((sum, value) => sum + value, 0)
    // A dot is half a pixel round itself
    expect(Math.sqrt(area / Math.PI) - 0.5 - pixels).toBeLessThan(0.25)
    expect(Math.sqrt(area / Math.PI) - 0.5 - pixels).toBeGreaterThan(-0.25)
    // And as far in every direction
    const middle = size / 2
    for (let degrees = 0; degrees < 360; degrees += 7) {
      const [c, s] = [Math.cos((degrees / 180) * Math.PI), Math.sin((degrees / 180) * Math.PI)]
      let far = 0
      for (let t = 0; t < size / 2; t += 0.05)
        far += 0.05 * found[Math.floor(middle + s * t) * size + Math.floor(middle + c * t)]!
      expect(Math.abs(far - 0.5 - pixels), `${degrees} degrees`).toBeLessThan(0.75)
    }
  })
  it.each([-40.5, -9, 9, 40.5])('a straight edge moves by %f', async pixels => {
    const [width, height] = [150, 9]
    const matte = Array.from({ length: width * height }, (_, i) => (i % width < 75 ? 0 : 1))
    const node = refinerOf('grow').plan(
      { matte: given(matte, width, 'single'), picture: given(matte, width, 'single'), width, height },
      { pixels } as never,
    )
    const runner = new Runner(engine.pool, 2 ** 26)
    const { pointer } = await runner.run(node, boxOf(width, height))
    const row = [...engine.kernels.floats(pointer, width * height).slice(4 * width, 5 * width)]
    runner.clear()
    expect(row.reduce((sum, value) => sum + value, 0) - 75).toBeCloseTo(pixels, 4)
  })
})
