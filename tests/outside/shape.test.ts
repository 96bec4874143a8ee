// Pictures brought to other places against OpenCV (Debian), against the filters' own formulas, and several in a row as one.
import { describe, expect, it } from 'vitest'
import type { EntryValue } from '../../core/declare/field'
import { valuesAt } from '../../core/declare/values'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { Runner } from '../../core/plan/runner'
import { reshaped } from '../../core/plan/shaped'
import { atDistance, type Picture } from '../../core/plan/picture'
import { ANY_CAMERA } from '../../core/scene/scene'
import { valueAt } from '../../core/time/curve'
import { treatmentOf } from '../../core/treatment/registry'
import { kernelModule } from '../../host/engine'
import { randomFrom } from '../compose/random'
import { given, treat as treated, type TreatOptions } from '../compose/treat'
import { pythonOf } from '../python'

const pool = new Pool(new Kernels(kernelModule()))
const [WIDTH, HEIGHT] = [96, 64]
const random = randomFrom(17)
const NOISE = Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) => (i % 4 === 3 ? 1 : random()))
const smooth = (x: number, y: number, c: number): number =>
  c === 3 ? 1 : 0.5 + 0.4 * Math.sin(x / 9 + c) * Math.cos(y / 7 - c / 2)
const SMOOTH = Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) =>
  smooth(((i >> 2) % WIDTH) + 0.5, Math.floor((i >> 2) / WIDTH) + 0.5, i % 4),
)
const treat = (
  id: string,
  values: Record<string, EntryValue>,
  pixels: ArrayLike<number> = SMOOTH,
  options: TreatOptions = {},
): Promise<Float32Array> => treated(pool, id, values, WIDTH, HEIGHT, pixels, options)
const at = (out: ArrayLike<number>, x: number, y: number, c = 0): number => out[(y * WIDTH + x) * 4 + c]!

/** What a line of Python makes of the picture `a`; maps are given for the middles of pixels counted as whole numbers. */
const opencv = (line: string, pixels: readonly number[]): number[] =>
  pythonOf<number[]>(
    `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
h, w = d['height'], d['width']
a = np.array(d['pixels'], np.float32).reshape(h, w, 4)
half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
def ours(m):
    """A map of corner-counted places as one of middle-counted ones."""
    return np.linalg.inv(half) @ m @ half
def turned(x, y, angle, sx, sy, shear=0):
    """Moved, turned counter-clockwise (y goes down), scaled about the middle."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    t = lambda x, y: np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], float)
    return t(w / 2 + x, h / 2 + y) @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]]) @ np.array([[1, -shear, 0], [0, 1, 0], [0, 0, 1]]) @ np.diag([sx, sy, 1]) @ t(-w / 2, -h / 2)
print(json.dumps(np.asarray(${line}, np.float64).ravel().tolist()))`,
    { pixels, width: WIDTH, height: HEIGHT },
  )
function worst(ours: ArrayLike<number>, theirs: ArrayLike<number>, border: number): number {
  let most = 0
  for (let i = 0; i < ours.length; i++) {
    const [x, y] = [(i >> 2) % WIDTH, Math.floor((i >> 2) / WIDTH)]
    if (x >= border && y >= border && x < WIDTH - border && y < HEIGHT - border)
      most = Math.max(most, Math.abs(ours[i]! - theirs[i]!))
  }
  return most
}

describe('move', () => {
  it.each([
    { x: 3.3, y: -2.6, turn: 0, across: 1, down: 1 },
    { x: 0, y: 0, turn: 25, across: 1.4, down: 1.2 },
    { x: 5, y: 2, turn: -160, across: -1.1, down: 1.3 },
  ])('straight between pixels is OpenCV’s warpAffine: %o', async ({ x, y, turn, across, down }) => {
    const line = `cv2.warpAffine(a, ours(turned(${x}, ${y}, ${turn}, ${across}, ${down}))[:2], (w, h), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)`
    const ours = await treat('move', { x, y, turn, across, down, filter: 'straight' }, SMOOTH)
    // OpenCV counts places in 32nds of a pixel
    expect(worst(ours, opencv(line, SMOOTH), 0)).toBeLessThan(0.035)
    expect(
      worst(await treat('move', { x, y, turn, across, down, filter: 'straight' }, NOISE), opencv(line, NOISE), 0),
    ).toBeLessThan(0.06)
  })
  it('shears its top to the right', async () => {
    const line = `cv2.warpAffine(a, ours(turned(0, 0, 0, 1, 1, 0.2))[:2], (w, h), flags=cv2.INTER_LINEAR)`
    expect(worst(await treat('move', { shear: 0.2, filter: 'straight' }), opencv(line, SMOOTH), 0)).toBeLessThan(0.035)
    const dot = SMOOTH.map(() => 0)
    for (let c = 0; c < 4; c++) dot[(4 * WIDTH + 48) * 4 + c] = 1
    const out = await treat('move', { shear: 0.5 }, dot)
    const brightest = out.reduce((best, value, i) => (i % 4 === 0 && value > out[best]! ? i : best), 0)
    expect((brightest >> 2) % WIDTH).toBeGreaterThan(55)
  })
  it.each(['sharp', 'soft'] as const)('between pixels the %s filter is its formula', async filter => {
    const sinc = (t: number): number => (t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t))
    const weight = (t: number): number => {
      const d = Math.abs(t)
      if (filter === 'sharp') return d < 3 ? sinc(d) * sinc(d / 3) : 0
      // D. Mitchell, A. Netravali, “Reconstruction Filters in Computer Graphics”, 1988: B = C = 1/3
      const [B, C] = [1 / 3, 1 / 3]
      if (d < 1) return ((12 - 9 * B - 6 * C) * d ** 3 + (-18 + 12 * B + 6 * C) * d * d + (6 - 2 * B)) / 6
      if (d >= 2) return 0
      return ((-B - 6 * C) * d ** 3 + (6 * B + 30 * C) * d * d + (-12 * B - 48 * C) * d + (8 * B + 24 * C)) / 6
    }
    const out = await treat('move', { x: 0.3, y: -0.4, filter }, SMOOTH)
    for (const [x, y] of [
      [20, 20],
      [51, 33],
      [70, 9],
    ] as const) {
      let [sum, all] = [0, 0]
      for (let j = -4; j <= 4; j++)
        for (let i = -4; i <= 4; i++) {
          const w = weight(i + 0.3) * weight(j - 0.4)
          sum += w * at(SMOOTH, x + i, y + j)
          all += w
        }
      expect(Math.abs(at(out, x, y) - sum / all)).toBeLessThan(4e-4)
    }
  })
  it('by whole pixels and quarter turns moves pixels as they are', async () => {
    const out = await treat('move', { x: 7, y: -5 }, NOISE)
    for (let y = 0; y < HEIGHT - 6; y++)
      for (let x = 8; x < WIDTH; x++) expect(at(out, x, y)).toBeCloseTo(at(NOISE, x - 7, y + 5), 5)
    const turned = await treat('move', { turn: 180 }, NOISE)
    for (let y = 1; y < HEIGHT - 1; y += 5)
      for (let x = 1; x < WIDTH - 1; x += 3)
        expect(at(turned, x, y)).toBeCloseTo(at(NOISE, WIDTH - 1 - x, HEIGHT - 1 - y), 4)
  })
  it('made smaller is the mean of what each pixel covers, as OpenCV’s area resize', async () => {
    const small = await treat('move', { across: 0.25, down: 0.25, filter: 'straight' }, NOISE)
    const area = opencv('cv2.resize(a, (w // 4, h // 4), interpolation=cv2.INTER_AREA)', NOISE)
    const quarter = WIDTH / 4
    let most = 0
    for (let y = 1; y < HEIGHT / 4 - 1; y++)
      for (let x = 1; x < quarter - 1; x++)
        most = Math.max(most, Math.abs(at(small, WIDTH * 0.375 + x, HEIGHT * 0.375 + y) - area[(y * quarter + x) * 4]!))
    expect(most).toBeLessThan(2e-5)
  })
})

describe('four corners', () => {
  it('is OpenCV’s warpPerspective', async () => {
    const line = `cv2.warpPerspective(a, ours(cv2.getPerspectiveTransform(np.float32([[0, 0], [w, 0], [w, h], [0, h]]), np.float32([[8, 5], [w - 3, 2], [w + 6, h - 9], [-4, h + 3]]))), (w, h), flags=cv2.INTER_LINEAR)`
    const ours = await treat('corners', {
      ...{ left_top_x: 8, left_top_y: 5, right_top_x: -3, right_top_y: 2, right_bottom_x: 6, right_bottom_y: -9 },
      ...{ left_bottom_x: -4, left_bottom_y: 3, filter: 'straight' },
    })
    const theirs = opencv(line, SMOOTH)
    // Within it: its border is soft over a pixel here, and where it is made a little smaller the mean of a pixel is taken
    const isWithin = (i: number): boolean =>
      [-WIDTH - 1, -WIDTH, -WIDTH + 1, -1, 0, 1, WIDTH - 1, WIDTH, WIDTH + 1].every(
        by => theirs[(i + by) * 4 + 3]! > 0.999,
      )
    let [most, count] = [0, 0]
    for (let i = WIDTH; i < WIDTH * (HEIGHT - 1); i++)
      if (isWithin(i)) {
        count++
        for (let c = 0; c < 4; c++) most = Math.max(most, Math.abs(ours[i * 4 + c]! - theirs[i * 4 + c]!))
      }
    expect(count).toBeGreaterThan(3000)
    expect(most).toBeLessThan(0.02)
  })
  it('that are folded show nothing, and no error', async () => {
    const out = await treat('corners', { left_top_x: 200, right_top_x: -200 }, SMOOTH)
    expect(out.every(value => value === 0)).toBe(true)
  })
})

describe('other shapes', () => {
  it('texture coordinates are OpenCV’s remap', async () => {
    const uv = SMOOTH.map((_, i) => {
      const [x, y] = [((i >> 2) % WIDTH) / WIDTH, Math.floor((i >> 2) / WIDTH) / HEIGHT]
      return [0.1 + 0.7 * x + 0.1 * y * y, 0.9 - 0.8 * y + 0.05 * Math.sin(x * 6), 0, 1][i % 4]!
    })
    const theirs = pythonOf<number[]>(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin); h, w = d['height'], d['width']
a = np.array(d['pixels'], np.float32).reshape(h, w, 4); m = np.array(d['uv'], np.float32).reshape(h, w, 4)
print(json.dumps(cv2.remap(a, m[..., 0] * w - 0.5, m[..., 1] * h - 0.5, cv2.INTER_LINEAR).astype(float).ravel().tolist()))`,
      { pixels: SMOOTH, uv, width: WIDTH, height: HEIGHT },
    )
    expect(worst(await treat('uv', { filter: 'straight' }, SMOOTH, { planes: { uv } }), theirs, 1)).toBeLessThan(0.02)
  })
  it('bent round and unrolled again is the picture; what stood across goes round', async () => {
    const rings = SMOOTH.map((_, i) => (i % 4 === 3 ? 1 : Math.floor((i >> 2) / WIDTH) / HEIGHT))
    const round = await treat('polar', { way: 'bent round', radius: 0.5 }, rings)
    // Distance from the middle over the radius is how far down it was
    for (const [x, y] of [
      [60, 32],
      [40, 20],
      [48, 50],
    ] as const)
      expect(at(round, x, y)).toBeCloseTo(Math.hypot(x + 0.5 - 48, y + 0.5 - 32) / 32 - 0.5 / HEIGHT, 1)
    // Across is the angle, clockwise from below: a quarter of the way lies to the left
    const across = SMOOTH.map((_, i) => (i % 4 === 3 ? 1 : ((i >> 2) % WIDTH) / WIDTH))
    const turned = await treat('polar', { way: 'bent round' }, across)
    expect(at(turned, 48 - 20, 32)).toBeCloseTo(0.25, 1)
    expect(at(turned, 48, 32 - 20)).toBeCloseTo(0.5, 1)
    expect(at(turned, 48 + 20, 32)).toBeCloseTo(0.75, 1)
    const back = await treat('polar', { way: 'unrolled' }, await treat('polar', { way: 'bent round' }, SMOOTH))
    let sum = 0
    for (let y = 30; y < 60; y++) for (let x = 5; x < 90; x++) sum += Math.abs(at(back, x, y) - at(SMOOTH, x, y))
    expect(sum / (30 * 85)).toBeLessThan(0.02)
  })
  it('a mirror shows what is above below, as far from the line', async () => {
    const out = await treat('mirror', { place: 0.5 }, NOISE)
    for (let y = 34; y < 60; y += 5)
      for (let x = 5; x < 90; x += 7) expect(at(out, x, y)).toBeCloseTo(at(NOISE, x, 63 - y), 4)
    for (let y = 3; y < 30; y += 5) expect(at(out, 40, y)).toBeCloseTo(at(NOISE, 40, y), 5)
    const below = await treat('mirror', { place: 0.5, side: 'what is below' }, NOISE)
    expect(at(below, 33, 10)).toBeCloseTo(at(NOISE, 33, 53), 4)
  })
  it('cropped shows nothing outside, half at its border, and is steady over its softness', async () => {
    const ones = SMOOTH.map(() => 1)
    const out = await treat('crop', { left: 20.5, top: 10, feather: 0 }, ones)
    expect([at(out, 19, 30), at(out, 20, 30), at(out, 21, 30), at(out, 50, 9), at(out, 50, 10)]).toEqual([
      0, 0.5, 1, 0, 1,
    ])
    const soft = await treat('crop', { left: 30, feather: 20 }, ones)
    expect(at(soft, 29, 30) + at(soft, 30, 30)).toBeCloseTo(1, 4)
    expect(at(soft, 19, 30)).toBe(0)
    expect(at(soft, 41, 30)).toBe(1)
  })
  it('a ripple moves by a sine: across its way when it sways, along it when it presses', async () => {
    const ramp = SMOOTH.map((_, i) => (i % 4 === 3 ? 1 : ((i >> 2) % WIDTH) + 0.5))
    const values = { amount: 4, length: 32, angle: 90, phase: 0.1, filter: 'straight' }
    const out = await treat('ripple', { ...values, sway: 'swaying' }, ramp)
    for (const y of [10, 25, 40])
      expect(at(out, 48, y) - 48.5).toBeCloseTo(4 * Math.sin(2 * Math.PI * (-(y + 0.5) / 32 + 0.1)), 2)
    expect(at(await treat('ripple', { ...values, sway: 'pressing' }, ramp), 48, 25)).toBeCloseTo(48.5, 3)
  })
  it('repeated as tiles each shows the whole picture', async () => {
    const out = await treat('repeat', { across: 2, down: 2 }, SMOOTH)
    for (let y = 3; y < 29; y += 4)
      for (let x = 3; x < 45; x += 5) expect(at(out, x + 48, y + 32)).toBeCloseTo(at(out, x, y), 4)
    const mirrored = await treat('repeat', { across: 2, down: 1, how: 'each other one mirrored' }, SMOOTH)
    for (let x = 3; x < 45; x += 5) expect(at(mirrored, 95 - x, 20)).toBeCloseTo(at(mirrored, x, 20), 4)
  })
})

describe('several in a row', () => {
  const shaped = (picture: Picture, id: string, values: Record<string, EntryValue>): Picture => {
    const treatment = treatmentOf(id)
    const full = valuesAt(treatment.values, values, 1, valueAt, 1)
    const input = {
      ...{ ...picture, strength: 1, width: WIDTH, height: HEIGHT, shrink: 1, frame: 1 },
      ...{ camera: () => ANY_CAMERA, at: () => picture },
    }
    return reshaped(picture, treatment.shape!(input, full as never), { width: WIDTH, height: HEIGHT })
  }
  const run = async (picture: Picture): Promise<Float32Array> => {
    const runner = new Runner(pool, 2 ** 28)
    const raster = await runner.run(picture.colour, picture.colour.window)
    const out = pool.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()
    runner.clear()
    return out
  }
  it('are one resampling: turned there and back nothing is lost, which two would have blurred', async () => {
    const first: Picture = {
      colour: given(NOISE, WIDTH),
      ...atDistance(3, { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }),
    }
    const there = shaped(first, 'move', { turn: 13, x: 2.4 })
    const back = shaped(shaped(there, 'ripple', { amount: 3, phase: 0.2 }), 'ripple', { amount: 0 })
    expect(back.shaped!.by.length).toBe(3)
    const again = shaped(shaped(first, 'move', { turn: 13 }), 'move', { turn: -13 })
    const out = await run(again)
    expect(worst(out, NOISE, 1)).toBeLessThan(2e-3)
    const twice = await treat('move', { turn: -13 }, await treat('move', { turn: 13 }, NOISE))
    expect(worst(twice, NOISE, 20)).toBeGreaterThan(0.1)
  })
  it('are laid in their order: turned and then moved is not moved and then turned', async () => {
    const first: Picture = {
      colour: given(SMOOTH, WIDTH),
      ...atDistance(3, { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }),
    }
    const both = await run(shaped(shaped(first, 'move', { turn: 20 }), 'move', { x: 15 }))
    const one = await treat('move', { x: 15 }, await treat('move', { turn: 20 }))
    const other = await treat('move', { turn: 20 }, await treat('move', { x: 15 }))
    const off = (a: Float32Array, b: Float32Array): number => {
      let sum = 0
      for (let y = 20; y < 44; y++) for (let x = 40; x < 70; x++) sum += Math.abs(at(a, x, y) - at(b, x, y))
      return sum / (24 * 30)
    }
    expect(off(both, one)).toBeLessThan(1e-3)
    expect(off(both, other)).toBeGreaterThan(0.02)
  })
  it('what reads another picture begins anew', async () => {
    const first: Picture = {
      colour: given(SMOOTH, WIDTH),
      ...atDistance(3, { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }),
    }
    const bent = shaped(shaped(first, 'move', { x: 3 }), 'displace', { by: 'the picture' })
    expect(bent.shaped!.by.length).toBe(2)
    expect(shaped(bent, 'move', { x: -3 }).shaped!.by.length).toBe(1)
  })
  it('what was done to the colour in between stays done', async () => {
    const first: Picture = {
      colour: given(SMOOTH, WIDTH),
      ...atDistance(3, { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }),
    }
    const moved = shaped(first, 'move', { x: 10 })
    const back = shaped({ ...moved, colour: given(NOISE, WIDTH) }, 'move', { x: -10 })
    expect(back.shaped!.by.length).toBe(1)
    expect(at(await run(back), 30, 20)).toBeCloseTo(at(NOISE, 40, 20), 5)
  })
  it('distances go along', async () => {
    const depth = given(
      Array.from({ length: WIDTH * HEIGHT }, (_, i) => i % WIDTH),
      WIDTH,
      'single',
    )
    const first: Picture = { colour: given(SMOOTH, WIDTH), depth: () => depth, byDepth: say => say(depth) }
    const runner = new Runner(pool, 2 ** 28)
    const moved = shaped(first, 'move', { x: 10 }).depth()
    const raster = await runner.run(moved, moved.window)
    const out = pool.kernels.floats(raster.pointer, WIDTH * HEIGHT).slice()
    runner.clear()
    expect(out[20 * WIDTH + 50]).toBe(40)
    expect(out[20 * WIDTH + 5]).toBe(1e10)
  })
})
