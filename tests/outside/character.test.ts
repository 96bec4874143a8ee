// What a lens does to a picture: against OpenCV (Debian) and closed forms.
import { describe, expect, it } from 'vitest'
import { placeAt } from '../../core/match/project'
import { ANY_CAMERA } from '../../core/scene/scene'
import { treatmentOf } from '../../core/treatment/registry'
import { randomFrom } from '../compose/random'
import { treat as treated } from '../compose/treat'
import { at, HEIGHT, made, pool, treat, WIDTH } from './made'
import { pythonOf } from '../python'

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

describe('light that a lens loses toward the corners', () => {
  it('goes by the fourth power of the cosine of the angle from the axis, wherever that meets the frame', async () => {
    const camera = { ...ANY_CAMERA, focalLength: 20, sensorWidth: 36, shiftX: 0.2, shiftY: -0.3 }
    const out = await treat(
      'vignette',
      { amount: 1, how: 'as a lens' },
      made(() => 0.5),
      { camera },
    )
    const half = await treat(
      'vignette',
      { amount: 0.5, how: 'as a lens' },
      made(() => 0.5),
      { camera },
    )
    for (const [x, y] of [
      [0, 0],
      [95, 63],
      [40, 20],
      [90, 5],
    ] as const) {
      // The camera looks along -z from its place: the angle of the ray through the pixel's middle
      const [u, v] = [(x + 0.5) / WIDTH, (y + 0.5) / HEIGHT]
      const at20 = placeAt(camera, WIDTH / HEIGHT, u, v, 20)
      const along = at20.map((value, k) => value - camera.matrix[12 + k]!)
      const cosine = 20 / Math.hypot(...along)
      expect(at(out, x, y)).toBeCloseTo(0.5 * cosine ** 4, 6)
      expect(at(half, x, y)).toBeCloseTo(0.5 * (1 - 0.5 * (1 - cosine ** 4)), 6)
    }
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

describe('shafts of light', () => {
  const values = { feeds: 'all light', amount: 1, x: 0.25, y: 0.5, length: 0.5, tint: [1, 1, 1], shows: 'the glow' }
  it('of a spark go away from the point, twice as far from it at most, and nowhere else', async () => {
    const [sparkX, sparkY] = [48, 22]
    const dark = made(() => 0)
    for (let c = 0; c < 3; c++) dark[(sparkY * WIDTH + sparkX) * 4 + c] = 100
    const out = await treat('shafts', values, dark)
    const [cx, cy] = [24, 32]
    const own = [sparkX + 0.5 - cx, sparkY + 0.5 - cy] as const
    let lit = 0
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        if (at(out, x, y) < 0.01) continue
        const [dx, dy] = [x + 0.5 - cx, y + 0.5 - cy]
        const far = Math.hypot(dx, dy) / Math.hypot(...own)
        const aside = Math.abs(dx * own[1] - dy * own[0]) / Math.hypot(...own)
        expect(far).toBeGreaterThan(0.93)
        expect(far).toBeLessThan(2.3)
        // As wide as the spark, farther out twice, and what seven goes between pixels soften
        expect(aside).toBeLessThan(6)
        lit++
      }
    expect(lit).toBeGreaterThan(25)
  })
  it('of even light are as bright as it is where all of the way lies in the picture', async () => {
    const out = await treat(
      'shafts',
      values,
      made(() => 0.7),
    )
    for (const [x, y] of [
      [30, 32],
      [90, 5],
      [60, 60],
    ] as const)
      expect(at(out, x, y)).toBeCloseTo(0.7, 3)
  })
})

describe('soft corners', () => {
  it('a spark keeps its light, is left in the middle, and in a corner is as soft as is said', async () => {
    const [width, height] = [400, 300]
    const pixels = made(() => 0, width, height)
    for (const [x, y] of [
      [200, 150],
      [370, 275],
    ] as const)
      for (let c = 0; c < 3; c++) pixels[(y * width + x) * 4 + c] = 1
    const out = await treated(pool, 'corner_softness', { amount: 5, from: 0.2 }, width, height, pixels)
    expect(out[(150 * width + 200) * 4]).toBe(1)
    let [sum, squares] = [0, 0]
    for (let y = 235; y < 300; y++)
      for (let x = 330; x < 400; x++) {
        const value = out[(y * width + x) * 4]!
        sum += value
        squares += (value * ((x - 370) ** 2 + (y - 275) ** 2)) / 2
      }
    expect(sum).toBeCloseTo(1, 1)
    // Its deviation grows with the square of the way from where it begins to the corner
    const way = (Math.hypot(170.5, 125.5) / 250 - 0.2) / 0.8
    expect(Math.abs(Math.sqrt(squares / sum) / (5 * way * way) - 1)).toBeLessThan(0.06)
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

describe('breathing', () => {
  it('makes everything larger as a thin lens does that is focused nearer: by s / (s - f), about its axis', async () => {
    const camera = { ...ANY_CAMERA, focalLength: 50, shiftX: 0.1 }
    const places = made((x, y, c) => (c === 0 ? x : c === 1 ? y : 1))
    const out = await treat('breathing', { amount: 1, distance: 0.8, filter: 'straight' }, places, { camera })
    // The image of 0.8 m stands 1 / (1 / 50 - 1 / 800) mm behind a lens of 50 mm
    const larger = 1 / (1 / 50 - 1 / 800) / 50
    const middle = WIDTH / 2 - 0.1 * (WIDTH / 2)
    for (const [x, y] of [
      [10, 8],
      [50, 40],
      [90, 60],
    ] as const) {
      expect(at(out, x, y)).toBeCloseTo(middle + (x + 0.5 - middle) / larger, 2)
      expect(at(out, x, y, 1)).toBeCloseTo(HEIGHT / 2 + (y + 0.5 - HEIGHT / 2) / larger, 2)
    }
    const still = await treat('breathing', { amount: 0, distance: 0.8 }, places, { camera })
    expect(at(still, 10, 8)).toBeCloseTo(10.5, 5)
  })
})
