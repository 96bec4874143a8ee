// What a lens, air and a hand do to a picture: against OpenCV and NumPy (Debian), closed forms, sums along the ray, and
// plain versions written from the papers.
import { describe, expect, it } from 'vitest'
import type { EntryValue } from '../../core/declare/field'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { grainOf } from '../../core/measure/grain'
import { project } from '../../core/match/project'
import { ANY_CAMERA, type Camera } from '../../core/scene/scene'
import { treatmentOf } from '../../core/treatment/registry'
import { oklabOf } from '../../core/colour/oklab'
import { kernelModule } from '../../host/engine'
import { randomFrom } from '../compose/random'
import { treat as treated, type TreatOptions } from '../compose/treat'
import { pythonOf } from '../python'

const pool = new Pool(new Kernels(kernelModule()))
const [WIDTH, HEIGHT] = [96, 64]
const made = (of: (x: number, y: number, c: number) => number, width = WIDTH, height = HEIGHT): Float32Array =>
  Float32Array.from({ length: width * height * 4 }, (_, i) =>
    i % 4 === 3 ? 1 : of(((i >> 2) % width) + 0.5, Math.floor((i >> 2) / width) + 0.5, i % 4),
  )
const treat = (
  id: string,
  values: Record<string, EntryValue>,
  pixels: ArrayLike<number>,
  options: TreatOptions = {},
): Promise<Float32Array> => treated(pool, id, values, WIDTH, HEIGHT, pixels, options)
const at = (out: ArrayLike<number>, x: number, y: number, c = 0): number => out[(y * WIDTH + x) * 4 + c]!

describe('lens distortion', () => {
  const lens = { k1: -0.21, k2: 0.06, k3: -0.01, p1: 0.004, p2: -0.006, focal: 0.9, centre_x: 0.52, centre_y: 0.47 }
  const theirs = (way: 'bend' | 'straighten'): [number, number][] =>
    pythonOf(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin); v = d['lens']; w, h = d['size']
f = v['focal'] * w
K = np.array([[f, 0, v['centre_x'] * w], [0, f, v['centre_y'] * h], [0, 0, 1]]); D = np.array([v['k1'], v['k2'], v['p1'], v['p2'], v['k3']])
p = np.array([[x + 0.5, y + 0.5] for y in range(h) for x in range(w)])
if d['way'] == 'straighten':
    rays = np.column_stack([(p[:, 0] - K[0, 2]) / f, (p[:, 1] - K[1, 2]) / f, np.ones(len(p))])
    out = cv2.projectPoints(rays, np.zeros(3), np.zeros(3), K, D)[0]
else:
    out = cv2.undistortPointsIter(p.reshape(-1, 1, 2), K, D, np.eye(3), K, (3, 300, 1e-12))
print(json.dumps(out.reshape(-1, 2).tolist()))`,
      { lens, size: [WIDTH, HEIGHT], way },
    )
  // Pictures of the place itself: what comes out says where each pixel was taken from
  const across = made(x => x / 100)
  const down = made((_, y) => y / 100)
  it.each([
    ['straightens', 'straighten'],
    ['bends', 'bend'],
  ] as const)('%s as OpenCV’s projectPoints and undistortPointsIter do', async (way, theirWay) => {
    const values = { ...lens, way, filter: 'straight', beyond: 'nothing' }
    const [x, y] = [await treat('distort', values, across), await treat('distort', values, down)]
    const expected = theirs(theirWay)
    let count = 0
    expected.forEach(([tx, ty], i) => {
      if (tx < 1 || ty < 1 || tx > WIDTH - 1 || ty > HEIGHT - 1) return
      // A pixel on the border of what is seen is mixed with nothing
      if (x[i * 4 + 3]! < 0.999) return
      count++
      expect(Math.hypot(x[i * 4]! * 100 - tx, y[i * 4]! * 100 - ty)).toBeLessThan(2e-3)
    })
    expect(count).toBeGreaterThan(WIDTH * HEIGHT * 0.8)
  })
  it('bent and straightened in a row is the picture', async () => {
    const picture = made((x, y) => 0.5 + 0.4 * Math.sin(x / 3) * Math.cos(y / 4))
    const there = await treat('distort', { ...lens, way: 'bends', beyond: 'a mirror' }, picture)
    const back = await treat('distort', { ...lens, way: 'straightens', beyond: 'a mirror' }, there)
    let most = 0
    for (let y = 10; y < 54; y++)
      for (let x = 10; x < 86; x++) most = Math.max(most, Math.abs(at(back, x, y) - at(picture, x, y)))
    expect(most).toBeLessThan(0.01)
  })
  it('reads and writes files of lenses, and says what is wrong with one', () => {
    const { files } = treatmentOf('distort')
    const text = files!.write({ ...lens, k3: 0.01 }, 'fifty')
    const [read] = files!.read(new TextEncoder().encode(text))
    expect(read).toEqual({ label: 'fifty', values: { ...lens, k3: 0.01 } })
    const bad =
      (content: string): (() => unknown) =>
      () =>
        files!.read(new TextEncoder().encode(content))
    expect(bad('{')).toThrow('no JSON')
    expect(bad('[]')).toThrow('“lens”')
    expect(bad('{"lens": {"k1": "wide"}}')).toThrow('k1 is no number')
    expect(bad('{"lens": {}}')).toThrow('none of the terms')
  })
})

describe('colour fringes', () => {
  it('draw red and blue apart by what is said in a corner, and keep green', async () => {
    const [width, height] = [300, 200]
    // A spark near the corner, another in the middle
    const pixels = made(() => 0, width, height)
    const spark = (x: number, y: number): void => {
      for (let c = 0; c < 3; c++) pixels[(y * width + x) * 4 + c] = 1
    }
    spark(280, 185)
    spark(150, 100)
    const out = await treated(pool, 'fringe', { amount: 6 }, width, height, pixels)
    const mean = (c: number, left: number, top: number): { sum: number; far: number } => {
      let [sum, far] = [0, 0]
      for (let y = top; y < top + 40 && y < height; y++)
        for (let x = left; x < left + 50 && x < width; x++) {
          const value = out[(y * width + x) * 4 + c]!
          sum += value
          far += value * Math.hypot(x + 0.5 - 150, y + 0.5 - 100)
        }
      return { sum, far: far / sum }
    }
    const [red, green, blue] = [0, 1, 2].map(c => mean(c, 255, 165))
    // What is drawn outward is drawn larger, too: by 3 parts along and one across of a thirtieth
    for (const one of [red!, green!, blue!]) expect(Math.abs(one.sum - 1)).toBeLessThan(0.13)
    const own = Math.hypot(280.5 - 150, 185.5 - 100)
    expect(green!.far).toBeCloseTo(own, 0)
    // Of the whole spectrum's width red and blue lie two thirds apart; it grows with the cube of the distance
    const corner = Math.hypot(150, 100)
    const apart = 6 * (own / corner) ** 3 * (9 / 8) * (2 / 3)
    expect(Math.abs(red!.far - blue!.far)).toBeGreaterThan(apart * 0.85)
    expect(Math.abs(red!.far - blue!.far)).toBeLessThan(apart * 1.15)
    expect(red!.far).toBeGreaterThan(blue!.far)
    for (const c of [0, 1, 2]) expect(mean(c, 130, 80).far).toBeLessThan(1.2)
  })
})

describe('streaks and diffusion', () => {
  const spark = made(() => 0)
  for (let c = 0; c < 3; c++) spark[(32 * WIDTH + 20) * 4 + c] = 10
  it('an arm goes one way, fades by 1/e over its length, and has the light that is said', async () => {
    const values = {
      feeds: 'all light',
      amount: 0.5,
      arms: 1,
      length: 12,
      angle: 0,
      tint: [1, 1, 1],
      shows: 'the glow',
    }
    const out = await treat('streaks', values, spark)
    let sum = 0
    for (let x = 0; x < WIDTH; x++) sum += at(out, x, 32)
    expect(sum).toBeGreaterThan(4.9)
    expect(sum).toBeLessThan(5.01)
    expect(at(out, 15, 32)).toBe(0)
    // Its taps are at whole pixels: what is left after a length is a third
    expect(at(out, 20 + 30, 32) / at(out, 20 + 18, 32)).toBeCloseTo(Math.exp(-1), 1)
    const up = await treat('streaks', { ...values, angle: 90 }, spark)
    expect(at(up, 20, 25)).toBeGreaterThan(0.05)
    expect(at(up, 20, 40)).toBe(0)
  })
  it('diffusion keeps all light and leaves its share where it was', async () => {
    const out = await treat('diffusion', { amount: 0.4, size: 2 }, spark)
    expect(out.reduce((sum, value, i) => (i % 4 === 0 ? sum + value : sum), 0)).toBeCloseTo(10, 2)
    expect(at(out, 20, 32)).toBeGreaterThan(6)
    expect(at(out, 24, 32)).toBeGreaterThan(0)
  })
})

describe('undoing a blur', () => {
  it('is Richardson–Lucy with OpenCV’s Gaussian, go by go', async () => {
    const random = randomFrom(3)
    const picture = made((x, y) => 0.2 + (Math.hypot(x - 40, y - 30) < 12 ? 0.6 : 0) + 0.02 * random())
    const theirs = pythonOf<number[]>(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
a = np.array(d['pixels'], np.float64).reshape(d['height'], d['width'], 4)
g = lambda i: cv2.GaussianBlur(i, (13, 13), 1.4, borderType=cv2.BORDER_REFLECT)
u = a.copy()
for _ in range(9): u = u * g(a / np.maximum(g(u), 1e-6))
print(json.dumps(u.ravel().tolist()))`,
      { pixels: [...picture], width: WIDTH, height: HEIGHT },
    )
    const ours = await treat('deconvolve', { radius: 1.4, goes: 9, amount: 1, halo: 8 }, picture)
    expect(
      ours.reduce((most, value, i) => (i % 4 === 3 ? most : Math.max(most, Math.abs(value - theirs[i]!))), 0),
    ).toBeLessThan(5e-4)
  })
  it('brings a picture that was softened nearer to what it was', async () => {
    const picture = made((x, y) => ((Math.floor(x / 12) + Math.floor(y / 12)) % 2 ? 0.9 : 0.2))
    const soft = await treat('blur', { radius: 1.5 }, picture)
    const sharp = await treat('deconvolve', { radius: 1.5, goes: 20, amount: 1, halo: 8 }, soft)
    const miss = (other: Float32Array): number => other.reduce((sum, value, i) => sum + (value - picture[i]!) ** 2, 0)
    expect(miss(sharp)).toBeLessThan(miss(soft) * 0.65)
  })
})

describe('detail', () => {
  it('makes a wave of a band as much stronger as is said, in stops, and leaves others and large edges', async () => {
    const wave = (length: number): Float32Array => made(x => 0.18 * 2 ** (0.05 * Math.sin((2 * Math.PI * x) / length)))
    const height = (pixels: Float32Array): number => {
      let most = 0
      for (let x = 30; x < 66; x++) most = Math.max(most, Math.abs(Math.log2(at(pixels, x, 30) / 0.18)))
      return most
    }
    const plain = { fine: 0, middle: 0, coarse: 0, size: 2, edges: 16 }
    // A bell of deviation s leaves exp(-(2 pi s / length)² / 2) of a wave: by definition of its transform
    const left = (sigma: number, length: number): number => Math.exp(-(((2 * Math.PI * sigma) / length) ** 2) / 2)
    for (const length of [6, 16])
      expect(height(await treat('detail', { ...plain, fine: 1 }, wave(length))) / 0.05).toBeCloseTo(
        2 - left(2, length),
        1,
      )
    expect(height(await treat('detail', { ...plain, middle: 1 }, wave(16))) / 0.05).toBeCloseTo(
      1 + left(2, 16) - left(8, 16),
      1,
    )
    const edge = made(x => (x < 48 ? 0.05 : 0.8))
    const held = await treat('detail', { ...plain, fine: 1, edges: 0.2 }, edge)
    expect(Math.max(...Array.from({ length: WIDTH }, (_, x) => at(held, x, 30)))).toBeLessThan(0.8 * 1.1)
  })
})

describe('fog', () => {
  const grey = made(() => 0.5)
  const flat = { by: [1, 1, 1], colour: [0.1, 0.2, 0.3], most: 1 }
  it('loses half of the light every half distance (Beer–Lambert law), along the ray, not the axis', async () => {
    const camera: Camera = { ...ANY_CAMERA, focalLength: 20, sensorWidth: 36 }
    const depth = Array.from({ length: WIDTH * HEIGHT }, (_, i) => 1 + (i % WIDTH) / 4)
    const out = await treat('fog', { ...flat, half: 7 }, grey, { depth, camera })
    for (const [x, y] of [
      [5, 5],
      [48, 32],
      [90, 60],
    ] as const) {
      const along = Math.hypot(1, ((x + 0.5 - 48) * 36) / 20 / 96, ((y + 0.5 - 32) * 36) / 20 / 96)
      const left = 2 ** (-((1 + x / 4) * along) / 7)
      expect(at(out, x, y)).toBeCloseTo(0.5 * left + 0.1 * (1 - left), 5)
      expect(at(out, x, y, 2)).toBeCloseTo(0.5 * left + 0.3 * (1 - left), 5)
    }
  })
  it('thinning with height is the sum along the ray, over ground and below it', async () => {
    // Looking down by 20 degrees from 3 m, turned to a side and tilted
    const [pitch, roll] = [-0.35, 0.2]
    const [c, s, cr, sr] = [Math.cos(pitch), Math.sin(pitch), Math.cos(roll), Math.sin(roll)]
    const camera: Camera = {
      ...ANY_CAMERA,
      matrix: [cr, sr * c, sr * s, 0, -sr, cr * c, cr * s, 0, 0, -s, c, 0, 0, 3, 0, 1],
      shiftX: 0.1,
      shiftY: -0.2,
    }
    const depth = Array.from({ length: WIDTH * HEIGHT }, (_, i) => 2 + (i % 37))
    const out = await treat('fog', { ...flat, half: 9, thinning: 2.5, ground: 0.4, from: 1.5 }, grey, { depth, camera })
    for (const [x, y] of [
      [3, 3],
      [40, 10],
      [60, 40],
      [90, 62],
      [11, 50],
    ] as const) {
      // Where the ray goes: found by asking where points of the world are seen
      const metres = depth[y * WIDTH + x]!
      const tangent = 36 / 2 / 35
      const px = ((2 * (x + 0.5)) / WIDTH - 1 + 0.1) * tangent
      const py = ((1 - (2 * (y + 0.5)) / HEIGHT - 0.2) * tangent * HEIGHT) / WIDTH
      const m = camera.matrix
      const end = [0, 1, 2].map(k => m[12 + k]! + (m[k]! * px + m[4 + k]! * py - m[8 + k]!) * metres) as [
        number,
        number,
        number,
      ]
      const seen = project(camera, WIDTH / HEIGHT, end)
      expect(seen.u).toBeCloseTo((x + 0.5) / WIDTH, 9)
      expect(seen.v).toBeCloseTo((y + 0.5) / HEIGHT, 9)
      const far = Math.hypot(end[0] - m[12]!, end[1] - m[13]!, end[2] - m[14]!)
      let air = 0
      const steps = 20000
      for (let i = 0; i < steps; i++) {
        const way = ((i + 0.5) / steps) * far
        if (way < 1.5) continue
        const height = 3 + ((end[1] - 3) * way) / far - 0.4
        air += (far / steps) * (height <= 0 ? 1 : 2 ** (-height / 2.5))
      }
      const left = 2 ** (-air / 9)
      expect(Math.abs(at(out, x, y) - (0.5 * left + 0.1 * (1 - left)))).toBeLessThan(2e-4)
    }
  })
})

describe('creases and mist', () => {
  it('takes light to the tint as far as it is closed in', async () => {
    const grey = made(() => 0.5)
    const occlusion = Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH) / WIDTH)
    const values = { amount: 0.8, tint: [0.5, 0.25, 0], power: 1, shadow: 0 }
    const out = await treat('crease_tint', values, grey, { shares: { occlusion } })
    for (const x of [0, 30, 90]) {
      const closed = (1 - x / WIDTH) * 0.8
      expect(at(out, x, 9, 0)).toBeCloseTo(0.5 * (1 - 0.5 * closed), 5)
      expect(at(out, x, 9, 2)).toBeCloseTo(0.5 * (1 - closed), 5)
    }
    expect(await treat('crease_tint', values, grey)).toEqual(grey)
  })
  it('the mist adds light where it is, and none is lost in softening it', async () => {
    const mist = Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH >= 40 && i % WIDTH < 56 ? 0.5 : 0))
    const values = { amount: 0.4, size: 3, colour: [0.1, 0.1, 0.1] }
    const out = await treat(
      'mist_glow',
      values,
      made(() => 0.3),
      { shares: { mist } },
    )
    expect(out.reduce((sum, value, i) => (i % 4 === 0 ? sum + value - 0.3 : sum), 0)).toBeCloseTo(
      16 * HEIGHT * 0.5 * 0.4 * 0.4,
      0,
    )
    expect(at(out, 48, 30)).toBeCloseTo(0.3 + 0.08, 2)
  })
})

describe('grain', () => {
  const [width, height] = [512, 384]
  // Even fields of several brightnesses
  const fields = made((x, _, c) => [0.02, 0.08, 0.18, 0.5][Math.floor(x / 128)]! * [1, 0.8, 0.6][c]!, width, height)
  const values = { amount: 0.06, channels: [1.1, 0.9, 1.3], growth: 0.6, size: 0.9, together: 0.35, seed: 4 }
  it('laid is what is said: deviation by brightness, correlation of channels and of neighbours (NumPy)', async () => {
    const out = await treated(pool, 'grain', values, width, height, fields)
    const found = pythonOf<{
      deviations: number[][]
      means: number[][]
      channels: number
      beside: number
      kurtosis: number
    }>(
      `
import json, sys, numpy as np
d = json.load(sys.stdin)
a = np.array(d['pixels']).reshape(d['height'], d['width'], 4)[..., :3]
parts = [a[:, i * 128:(i + 1) * 128] for i in range(4)]
n = (parts[2] - parts[2].mean((0, 1))) / parts[2].std((0, 1))
print(json.dumps({'deviations': [p.std((0, 1)).tolist() for p in parts], 'means': [p.mean((0, 1)).tolist() for p in parts],
  'channels': float(np.corrcoef(n[..., 0].ravel(), n[..., 1].ravel())[0, 1]), 'beside': float((n[:, 1:] * n[:, :-1]).mean()), 'kurtosis': float((n ** 4).mean())}))`,
      { pixels: [...out], width, height },
    )
    found.deviations.forEach((row, i) =>
      row.forEach((deviation, c) => {
        const light = [0.02, 0.08, 0.18, 0.5][i]! * [1, 0.8, 0.6][c]!
        const expected = 0.18 * 0.06 * values.channels[c]! * (light / 0.18) ** 0.6
        expect(Math.abs(deviation / expected - 1)).toBeLessThan(0.05)
        expect(Math.abs(found.means[i]![c]! / light - 1)).toBeLessThan(0.01)
      }),
    )
    expect(Math.abs(found.channels - 0.35)).toBeLessThan(0.05 * 0.35 + 0.01)
    // Neighbours of what a bell softened: exp(-1 / 4 sigma²), the bell's own transform
    expect(Math.abs(found.beside - Math.exp(-1 / (4 * 0.81)))).toBeLessThan(0.02)
    // A bell's fourth moment is 3
    expect(Math.abs(found.kurtosis - 3)).toBeLessThan(0.15)
  })
  it('is measured back from a picture: amount and correlation within 5 %, though it has slopes and edges', async () => {
    const scene = made(
      (x, y, c) =>
        [0.03, 0.1, 0.2, 0.6][Math.floor(x / 128)]! *
        (1 + y / 900) *
        (Math.hypot(x - 300, y - 200) < 60 ? 1.6 : 1) *
        [1, 0.9, 0.7][c]!,
      width,
      height,
    )
    const measured = grainOf(await treated(pool, 'grain', values, width, height, scene), width)!
    expect(Math.abs(measured.amount / (0.06 * 1.1) - 1)).toBeLessThan(0.05)
    measured.channels.forEach((value, c) =>
      expect(Math.abs(value / (values.channels[c]! / 1.1) - 1)).toBeLessThan(0.05),
    )
    expect(Math.abs(measured.together / 0.35 - 1)).toBeLessThan(0.05)
    expect(Math.abs(measured.growth - 0.6)).toBeLessThan(0.05)
    expect(Math.abs(measured.size / 0.9 - 1)).toBeLessThan(0.05)
  })
  it('is another on every frame, the same on each; at half size as strong as what is left of it there', async () => {
    const first = await treated(pool, 'grain', values, width, height, fields)
    expect(await treated(pool, 'grain', values, width, height, fields)).toEqual(first)
    const next = await treated(pool, 'grain', values, width, height, fields, { frame: 2 })
    let [product, square] = [0, 0]
    for (let y = 0; y < height; y++)
      for (let x = 260; x < 380; x++) {
        const i = (y * width + x) * 4
        product += (first[i]! - fields[i]!) * (next[i]! - fields[i]!)
        square += (first[i]! - fields[i]!) ** 2
      }
    expect(Math.abs(product / square)).toBeLessThan(0.05)
    const deviation = (of: (x: number, y: number) => number, side: number): number => {
      let [sum, squares, n] = [0, 0, 0]
      for (let y = 0; y < height / side; y++)
        for (let x = Math.ceil(260 / side); x < 380 / side; x++, n++) {
          const value = of(x, y)
          sum += value
          squares += value * value
        }
      return Math.sqrt(squares / n - (sum / n) ** 2)
    }
    for (const shrink of [2, 4] as const) {
      const [w, h] = [width / shrink, height / shrink]
      const small = await treated(
        pool,
        'grain',
        values,
        w,
        h,
        made((x, _, c) => fields[Math.floor(x * shrink) * 4 + c]!, w, h),
        { shrink },
      )
      const own = deviation((x, y) => small[(y * w + x) * 4 + 1]!, shrink)
      const halved = deviation((x, y) => {
        let sum = 0
        for (let j = 0; j < shrink; j++)
          for (let i = 0; i < shrink; i++) sum += first[((y * shrink + j) * width + x * shrink + i) * 4 + 1]!
        return sum / shrink ** 2
      }, shrink)
      expect(Math.abs(own / halved - 1)).toBeLessThan(0.05)
    }
  })
  it('nothing flat, nothing said', () => {
    expect(
      grainOf(
        made(() => 0.5, 20, 8),
        20,
      ),
    ).toBeUndefined()
    expect(grainOf(new Float32Array(64 * 64 * 4), 64)).toBeUndefined()
  })
})

describe('drawn looks', () => {
  it('posterised has no lightness between its steps (OKLab)', async () => {
    const ramp = made(x => (x / WIDTH) ** 2)
    const out = await treat('posterise', { steps: 5, soft: 0 }, ramp)
    const found = new Set<number>()
    for (let x = 0; x < WIDTH; x++) {
      const [light] = oklabOf([at(out, x, 9), at(out, x, 9, 1), at(out, x, 9, 2)])
      const step = light * 5
      // One pixel may lie on the border itself
      if (Math.abs(step - Math.round(step)) < 2e-3) found.add(Math.round(step))
    }
    expect([...found].sort()).toEqual([0, 1, 2, 3, 4, 5])
  })
  it('painted is the plain version of the papers', async () => {
    const [width, height] = [40, 30]
    const random = randomFrom(9)
    const picture = made(
      (x, y, c) => 0.3 + 0.25 * Math.sin((x + y * 0.6) / 3 + c) + (x > 24 ? 0.4 : 0) + 0.05 * random(),
      width,
      height,
    )
    const values = { radius: 3, stretch: 1, sharpness: 8, structure: 2 }
    const ours = await treated(pool, 'kuwahara', values, width, height, picture)
    const fold = (v: number, side: number): number => (v < 0 ? -1 - v : v >= side ? 2 * side - 1 - v : v)
    const pixel = (x: number, y: number): number[] => {
      const i = (fold(y, height) * width + fold(x, width)) * 4
      return [picture[i]!, picture[i + 1]!, picture[i + 2]!]
    }
    // Structure tensor of lightness by Sobel's operator, softened by OpenCV
    const lights = Array.from({ length: (width + 40) * (height + 40) }, (_, i) => {
      const [r, g, b] = pixel((i % (width + 40)) - 20, Math.floor(i / (width + 40)) - 20)
      const light = 0.2126 * r! + 0.7152 * g! + 0.0722 * b!
      return light / (light + 0.18)
    })
    const tensor = pythonOf<number[][]>(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin); l = np.array(d['lights']).reshape(d['height'], d['width'])
gx, gy = cv2.Sobel(l, cv2.CV_64F, 1, 0) / 4, cv2.Sobel(l, cv2.CV_64F, 0, 1) / 4
g = lambda i: cv2.GaussianBlur(i, (17, 17), 2)[20:-20, 20:-20].ravel().tolist()
print(json.dumps([g(gx * gx), g(gx * gy), g(gy * gy)]))`,
      { lights, width: width + 40, height: height + 40 },
    )
    let [worst, sum] = [0, 0]
    for (let y = 6; y < height - 6; y += 3)
      for (let x = 6; x < width - 6; x += 3) {
        const [xx, xy, yy] = tensor.map(part => part[y * width + x]!) as [number, number, number]
        // Eigenvalues and the direction along which least changes
        const root = Math.sqrt((xx - yy) ** 2 + 4 * xy * xy)
        const [major, minor] = [(xx + yy + root) / 2, (xx + yy - root) / 2]
        const angle = Math.atan2(xy, major - yy) + Math.PI / 2
        const uneven = (major - minor) / (major + minor)
        const [a, b] = [3 * (1 + uneven), 3 / (1 + uneven)]
        const sums = Array.from({ length: 8 }, () => ({ w: 0, m: [0, 0, 0], s: [0, 0, 0] }))
        for (let j = -7; j <= 7; j++)
          for (let i = -7; i <= 7; i++) {
            const u = (i * Math.cos(angle) + j * Math.sin(angle)) / a
            const v = (j * Math.cos(angle) - i * Math.sin(angle)) / b
            if (u * u + v * v > 1) continue
            const zeta = 2 / 3
            const gamma = (3 * Math.PI) / 8
            const eta = (zeta + Math.cos(gamma)) / Math.sin(gamma) ** 2
            const weights = sums.map((_, k) => {
              const turn = (k * Math.PI) / 4
              const along = u * Math.cos(turn) + v * Math.sin(turn)
              const across = v * Math.cos(turn) - u * Math.sin(turn)
              return Math.max(0, along + zeta - eta * across * across) ** 2
            })
            const all = weights.reduce((total, w) => total + w, 0)
            const bell = Math.exp(-3.125 * (u * u + v * v))
            pixel(x + i, y + j).forEach((value, c) =>
              sums.forEach((one, k) => {
                const w = (weights[k]! * bell) / all
                one.m[c]! += w * value
                one.s[c]! += w * value * value
                if (c === 0) one.w += w
              }),
            )
          }
        const out = [0, 0, 0]
        let total = 0
        for (const { w, m, s } of sums) {
          const mean = m.map(value => value / w)
          const light = mean.reduce((t, value) => t + value, 0) + 0.02
          const variance = s.reduce((t, value, c) => t + Math.abs(value / w - mean[c]! ** 2), 0) / (light * light)
          const even = 1 / (1 + (1000 * variance) ** 4)
          mean.forEach((value, c) => (out[c]! += value * even))
          total += even
        }
        out.forEach((value, c) => {
          const miss = Math.abs(value / total - ours[(y * width + x) * 4 + c]!)
          worst = Math.max(worst, miss)
          sum += miss
        })
      }
    expect(worst).toBeLessThan(0.01)
    expect(sum).toBeGreaterThan(0)
  })
})

describe('on the ground', () => {
  it('lies where the camera sees the plane', async () => {
    const camera: Camera = {
      ...ANY_CAMERA,
      matrix: [1, 0, 0, 0, 0, 0.94, -0.342, 0, 0, 0.342, 0.94, 0, 0.3, 1.7, 0.5, 1],
    }
    const across = made(x => x / WIDTH)
    const down = made((_, y) => y / HEIGHT)
    const values = { level: 0.1, x: 0.4, z: -4, wide: 5, turn: 30, filter: 'straight' }
    const [u, v] = [await treat('ground', values, across, { camera }), await treat('ground', values, down, { camera })]
    const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)]
    let count = 0
    for (const [px, py] of [
      [0.3, 0.4],
      [0.7, 0.6],
      [0.5, 0.5],
      [0.2, 0.8],
    ] as const) {
      // A place of the picture on the plane; turned counter-clockwise from above, its top away from the viewer
      const [across, away] = [(px - 0.5) * 5, ((py - 0.5) * 5 * HEIGHT) / WIDTH]
      const seen = project(camera, WIDTH / HEIGHT, [0.4 + c * across + s * away, 0.1, -4 - s * across + c * away])
      const [x, y] = [Math.floor(seen.u * WIDTH), Math.floor(seen.v * HEIGHT)]
      if (x < 1 || y < 1 || x >= WIDTH - 1 || y >= HEIGHT - 1) continue
      count++
      expect(Math.abs(at(u, x, y) - px)).toBeLessThan(0.04)
      expect(Math.abs(at(v, x, y) - py)).toBeLessThan(0.08)
    }
    expect(count).toBeGreaterThan(2)
    // Above the horizon there is none
    expect(at(u, 48, 1, 3)).toBe(0)
  })
})
