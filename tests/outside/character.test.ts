// What a lens and air do to a picture: against OpenCV (Debian), closed forms, and sums along the ray.
import { describe, expect, it } from 'vitest'
import { project } from '../../core/match/project'
import { ANY_CAMERA, type Camera } from '../../core/scene/scene'
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
