// Softening and sharpening against OpenCV and NumPy (Debian's packages), and what is spread against its own definition.
import { describe, expect, it } from 'vitest'
import type { EntryValue } from '../../core/declare/field'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { kernelModule } from '../../host/engine'
import { randomFrom } from '../compose/random'
import { treat as treated, type TreatOptions } from '../compose/treat'
import { pythonOf } from '../python'

const pool = new Pool(new Kernels(kernelModule()))
const [WIDTH, HEIGHT] = [90, 70]
const random = randomFrom(11)
const NOISE = Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) => (i % 4 === 3 ? 1 : random() ** 3 * 2))
const GREY = Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) => (i % 4 === 3 ? 1 : NOISE[i - (i % 4)]!))
const treat = (
  id: string,
  values: Record<string, EntryValue>,
  pixels: ArrayLike<number> = NOISE,
  options: TreatOptions = {},
): Promise<Float32Array> => treated(pool, id, values, WIDTH, HEIGHT, pixels, options)

/** What a line of Python makes of the picture `a` (rows, columns, four channels, float32). */
const opencv = (line: string, pixels: readonly number[] = NOISE): number[] =>
  pythonOf<number[]>(
    `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
a = np.array(d['pixels'], np.float32).reshape(d['height'], d['width'], 4)
def square(r):
    p = np.pad(a, ((r, r), (r, r), (0, 0)), 'symmetric')
    return np.lib.stride_tricks.sliding_window_view(p, (2 * r + 1, 2 * r + 1), axis=(0, 1))
print(json.dumps(np.asarray(${line}, np.float64).ravel().tolist()))`,
    { pixels, width: WIDTH, height: HEIGHT },
  )
function expectAlike(ours: ArrayLike<number>, theirs: ArrayLike<number>, tolerance: number, border = 0): void {
  expect(ours.length).toBe(theirs.length)
  let worst = 0
  for (let i = 0; i < ours.length; i++) {
    const [x, y] = [(i >> 2) % WIDTH, Math.floor((i >> 2) / WIDTH)]
    if (x < border || y < border || x >= WIDTH - border || y >= HEIGHT - border) continue
    worst = Math.max(worst, Math.abs(ours[i]! - theirs[i]!))
  }
  expect(worst).toBeLessThan(tolerance)
}
/** A spark in the middle of nothing, of a frame that is covered. */
function spark(): number[] {
  const pixels = NOISE.map((_, i) => (i % 4 === 3 ? 1 : 0))
  for (let c = 0; c < 3; c++) pixels[(35 * WIDTH + 45) * 4 + c] = 1
  return pixels
}
/** Sum, means across and down from the spark, and variances of a channel. */
function moments(
  pixels: ArrayLike<number>,
  channel = 1,
): { sum: number; x: number; y: number; xx: number; yy: number; xy: number } {
  const [m, n] = [
    { sum: 0, x: 0, y: 0 },
    { xx: 0, yy: 0, xy: 0 },
  ]
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const value = pixels[(y * WIDTH + x) * 4 + channel]!
      const [dx, dy] = [x - 45, y - 35]
      m.sum += value
      m.x += value * dx
      m.y += value * dy
      n.xx += value * dx * dx
      n.yy += value * dy * dy
      n.xy += value * dx * dy
    }
  const [x, y] = [m.x / m.sum, m.y / m.sum]
  return { sum: m.sum, x, y, xx: n.xx / m.sum - x * x, yy: n.yy / m.sum - y * y, xy: n.xy / m.sum - x * y }
}

describe('box blur', () => {
  it.each([1, 6, 20, 90])('of radius %s is OpenCV’s blur', async radius => {
    const line = `cv2.blur(np.pad(a, ((120, 120), (120, 120), (0, 0)), 'symmetric'), (${2 * radius + 1},) * 2)[120:-120, 120:-120]`
    expectAlike(await treat('box', { radius }), opencv(line), 2e-5)
  })
  it('between two radii lies between both, and keeps all light of a piece in the frame', async () => {
    const window = { left: 40, top: 30, right: 47, bottom: 41 }
    const area = { left: 0, top: 0, right: WIDTH, bottom: HEIGHT }
    const ones = new Float32Array(NOISE.length).fill(1)
    for (const radius of [3.5, 9]) {
      const out = await treat('box', { radius }, ones, { window, area })
      expect(out.reduce((sum, value) => sum + value, 0) / (7 * 11 * 4)).toBeCloseTo(1, 4)
    }
  })
})

describe('median', () => {
  it.each([1, 2])('of radius %s is OpenCV’s medianBlur away from the edge, to the bit', async radius => {
    expectAlike(await treat('median', { radius }), opencv(`cv2.medianBlur(a, ${2 * radius + 1})`), 1e-9, radius)
  })
  it.each([1, 2, 3, 6])('of radius %s is NumPy’s, up to the edge', async radius => {
    expectAlike(await treat('median', { radius }), opencv(`np.median(square(${radius}), axis=(-2, -1))`), 2e-6)
  })
  it.each([1, 2])('of radius %s picks rightly of ones and zeros, and so of whatever is compared', async radius => {
    // The 0-1 principle of networks of comparisons (Knuth, The Art of Computer Programming 3, 5.3.4)
    const side = 401
    const pixels = Array.from({ length: side * side * 4 }, (_, i) => (i % 4 === 3 || random() < 0.5 ? 1 : 0))
    const ours = await treated(pool, 'median', { radius }, side, side, pixels)
    const half = (2 * radius + 1) ** 2 / 2
    let wrong = 0
    for (let y = radius; y < side - radius; y++)
      for (let x = radius; x < side - radius; x++)
        for (let c = 0; c < 3; c++) {
          let ones = 0
          for (let dy = -radius; dy <= radius; dy++)
            for (let dx = -radius; dx <= radius; dx++) ones += pixels[((y + dy) * side + x + dx) * 4 + c]!
          if (ours[(y * side + x) * 4 + c] !== (ones > half ? 1 : 0)) wrong++
        }
    expect(wrong).toBe(0)
  })
})

describe('smoothing between edges', () => {
  it.each([
    [1.5, 0.1],
    [3, 0.4],
  ])('of deviation %s and difference %s is OpenCV’s bilateral filter', async (radius, alike) => {
    const line = `np.repeat(cv2.bilateralFilter(a[..., 0].copy(), ${Math.round(radius * 2) * 2 + 1}, ${alike}, ${radius}, borderType=cv2.BORDER_REFLECT)[..., None], 4, 2)`
    // Of grey all three channels differ alike: their distance is as many times that of one as the root of three
    const ours = await treat('bilateral', { radius, alike: alike * Math.sqrt(3) }, GREY)
    const theirs = opencv(line, GREY).map((value, i) => (i % 4 === 3 ? 1 : value))
    // OpenCV looks its weights up in a table between whose entries it goes straight
    expectAlike(ours, theirs, 4e-4)
  })
})

describe('smoothing what repeats', () => {
  it.each([
    [2, 1, 0.3],
    [5, 2, 0.5],
  ])('within %i, surroundings of %i, is the mean of A. Buades’ paper', async (search, patch, alike) => {
    const theirs = pythonOf<number[]>(
      `
import json, sys, numpy as np
d = json.load(sys.stdin); s, p = d['search'], d['patch']; n = s + p
a = np.array(d['pixels'], float).reshape(d['height'], d['width'], 4); h, w = a.shape[:2]
b = np.pad(a, ((n, n), (n, n), (0, 0)), 'symmetric')
part = lambda dx, dy: b[n + dy:n + dy + h, n + dx:n + dx + w]
total, weights = np.zeros_like(a), np.zeros((h, w, 1))
for dy in range(-s, s + 1):
    for dx in range(-s, s + 1):
        apart = np.mean([(part(x, y)[..., :3] - part(dx + x, dy + y)[..., :3]) ** 2 for y in range(-p, p + 1) for x in range(-p, p + 1)], axis=(0, 3))
        weight = np.exp(-apart / d['alike'] ** 2)[..., None]
        total += weight * part(dx, dy); weights += weight
print(json.dumps((total / weights).ravel().tolist()))`,
      { pixels: NOISE, width: WIDTH, height: HEIGHT, search, patch, alike },
    )
    expectAlike(await treat('nlm', { search, patch, alike }), theirs, 2e-5)
  })
  it('of codes is OpenCV’s, to its rounding', async () => {
    const codes = GREY.map((value, i) => (i % 4 === 3 ? 255 : Math.round(Math.min(1, value / 2) * 255)))
    const line = `np.repeat(cv2.fastNlMeansDenoising(a[..., 0].astype(np.uint8), None, 60, 5, 11)[..., None], 4, 2)`
    const ours = await treat(
      'nlm',
      { search: 5, patch: 2, alike: 60 / 255 },
      codes.map(value => value / 255),
    )
    const theirs = opencv(line, codes).map((value, i) => (i % 4 === 3 ? 1 : value / 255))
    // Beyond the edge OpenCV mirrors about the middle of the last pixel. Its weights and result are whole codes
    expectAlike(ours, theirs, 1.6 / 255, 7)
  })
})

describe('blur along a direction', () => {
  it.each([
    [9, 0, '(9, 1)'],
    [81, 0, '(81, 1)'],
    [9, 90, '(1, 9)'],
  ])('of length %s at %s degrees is OpenCV’s blur of %s', async (length, angle, side) => {
    const line = `cv2.blur(np.pad(a, ((60, 60), (60, 60), (0, 0)), 'symmetric'), ${side})[60:-60, 60:-60]`
    expectAlike(await treat('directional', { length, angle }), opencv(line), 2e-5)
  })
  it('spreads a spark evenly over its length along its way, and not across it', async () => {
    for (const [length, angle] of [
      [24, 30],
      [60, -50],
    ] as const) {
      const out = moments(await treat('directional', { length, angle }, spark()))
      expect(out.sum).toBeCloseTo(1, 4)
      const [c, s] = [Math.cos((angle * Math.PI) / 180), -Math.sin((angle * Math.PI) / 180)]
      // An even line has a twelfth of its length's square; taps between pixels add up to a quarter of a pixel's each way
      const alongIt = c * c * out.xx + 2 * c * s * out.xy + s * s * out.yy
      const across = s * s * out.xx - 2 * c * s * out.xy + c * c * out.yy
      expect(Math.abs(alongIt - length ** 2 / 12)).toBeLessThan(1)
      expect(across).toBeLessThan(0.8)
    }
  })
  it('counts its angle counter-clockwise from the right, and throws light behind what moves that way', async () => {
    const out = moments(await treat('directional', { length: 20, angle: 90, behind: 1 }, spark()))
    expect(out.x).toBeCloseTo(0, 4)
    // Moving up, its trail lies below
    expect(out.y).toBeCloseTo(10, 1)
    expect(moments(await treat('directional', { length: 20, angle: 90, behind: 0 }, spark())).y).toBeCloseTo(-10, 1)
  })
})

describe('blur about a point', () => {
  const picture = (of: (x: number, y: number) => number): number[] =>
    NOISE.map((_, i) => (i % 4 === 3 ? 1 : of(((i >> 2) % WIDTH) + 0.5 - 45, Math.floor((i >> 2) / WIDTH) + 0.5 - 35)))
  const far = (i: number): boolean => {
    const distance = Math.hypot(((i >> 2) % WIDTH) + 0.5 - 45, Math.floor((i >> 2) / WIDTH) + 0.5 - 35)
    return distance > 12 && distance < 30 && i % 4 !== 3
  }
  it('round it takes from a wave about it as much as the mean of a cosine over the angle', async () => {
    const turn = 40
    const wave = (x: number, y: number): number => Math.cos(3 * Math.atan2(y, x))
    const half = (3 * turn * Math.PI) / 180 / 2
    const left = Math.sin(half) / half
    const out = await treat('round', { way: 'round', turn }, picture(wave))
    const exact = picture((x, y) => left * wave(x, y))
    for (let i = 0; i < out.length; i++) if (far(i)) expect(Math.abs(out[i]! - exact[i]!)).toBeLessThan(0.01)
  })
  it('toward it leaves what goes up with the distance, and adds a twelfth of the share’s square to its square', async () => {
    const share = 0.3
    const out = await treat(
      'round',
      { way: 'toward', share },
      picture((x, y) => (x * x + y * y) / 1000),
    )
    const exact = picture((x, y) => ((x * x + y * y) / 1000) * (1 + (share * share) / 12))
    for (let i = 0; i < out.length; i++) if (far(i)) expect(Math.abs(out[i]! - exact[i]!)).toBeLessThan(2e-3)
  })
})

describe('sharpening', () => {
  it('adds what OpenCV’s soft copy lacks in luminance (Rec. ITU-R BT.709-6)', async () => {
    const line = `(lambda l, s: a * np.where(np.arange(4) < 3, ((l + 1.5 * (l - s)) / l)[..., None], 1))(*[(i[..., :3].astype(np.float64) @ [0.2126, 0.7152, 0.0722]) for i in (a, cv2.GaussianBlur(a.astype(np.float64), (25, 25), 2, borderType=cv2.BORDER_REFLECT))])`
    const bright = NOISE.map((value, i) => (i % 4 === 3 ? 1 : 0.5 + value * 0.1))
    const ours = await treat('unsharp', { amount: 1.5, radius: 2, threshold: 0, halo: 4 }, bright)
    expectAlike(ours, opencv(line, bright), 5e-4)
  })
  it('leaves what differs by less than its threshold, and makes no rim beyond its bound', async () => {
    const edge = NOISE.map((_, i) => (i % 4 === 3 ? 1 : (i >> 2) % WIDTH < 45 ? 0.2 : 0.8))
    const held = await treat('unsharp', { amount: 8, radius: 3, threshold: 0, halo: 0.25 }, edge)
    const light = (i: number): number => held[i * 4]!
    const row = Array.from({ length: WIDTH }, (_, x) => light(20 * WIDTH + x))
    expect(Math.max(...row)).toBeCloseTo(0.8 * 2 ** 0.25, 5)
    expect(Math.min(...row)).toBeCloseTo(0.2 * 2 ** -0.25, 5)
    const faint = NOISE.map((value, i) => (i % 4 === 3 ? 1 : 0.5 + (value - 1) * 0.004))
    expect(await treat('unsharp', { amount: 5, radius: 2, threshold: 0.05, halo: 1 }, faint)).toEqual(
      Float32Array.from(faint),
    )
  })
})

describe('glow', () => {
  const [wide, high] = [400, 300]
  const one = (): Float32Array => {
    const pixels = new Float32Array(wide * high * 4)
    for (let i = 3; i < pixels.length; i += 4) pixels[i] = 1
    for (let c = 0; c < 3; c++) pixels[(150 * wide + 200) * 4 + c] = 1
    return pixels
  }
  const spreadOf = (pixels: Float32Array, channel: number): { sum: number; deviation: number } => {
    let [sum, square] = [0, 0]
    for (let i = channel; i < pixels.length; i += 4) {
      const [dx, dy] = [((i >> 2) % wide) - 200, Math.floor((i >> 2) / wide) - 150]
      sum += pixels[i]!
      square += (pixels[i]! * (dx * dx + dy * dy)) / 2
    }
    return { sum, deviation: Math.sqrt(square / sum) }
  }
  const all = { feeds: 'all light', amount: 1, size: 12, colour: 1 }
  it('loses and wins no light, spread as its size says, each channel by its wavelength', async () => {
    const out = await treated(pool, 'glow', all, wide, high, one())
    const found = [0, 1, 2].map(channel => spreadOf(out, channel))
    for (const { sum } of found) expect(Math.abs(sum - 1)).toBeLessThan(1e-4)
    expect(Math.abs(found[1]!.deviation / 12 - 1)).toBeLessThan(0.01)
    // Diffraction spreads light in proportion to its wavelength (Fraunhofer)
    expect(found[0]!.deviation / found[1]!.deviation).toBeCloseTo(610 / 550, 2)
    expect(found[2]!.deviation / found[1]!.deviation).toBeCloseTo(465 / 550, 2)
    const half = spreadOf(await treated(pool, 'glow', { ...all, amount: 0.5 }, wide, high, one()), 1)
    expect(Math.abs(half.sum - 1)).toBeLessThan(1e-4)
  })
  it('is fed by its slip and what is above its threshold only, and shows what feeds it', async () => {
    const bright = NOISE.map((_, i) => (i % 4 === 3 ? 1 : 0.18 * 2 ** (((i >> 2) % WIDTH) / 15)))
    const matte = Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH > 70 ? 1 : 0))
    const fed = await treat('glow', { threshold: 3, shows: 'what feeds it' }, bright, { matte })
    const exact = bright.map((value, i) => (i % 4 === 3 || (i >> 2) % WIDTH <= 70 ? 0 : Math.max(0, value - 0.18 * 8)))
    for (let i = 0; i < fed.length; i++) if (i % 4 !== 3) expect(Math.abs(fed[i]! - exact[i]!)).toBeLessThan(1e-5)
    // Where nothing is chosen nothing glows
    const none = new Float32Array(WIDTH * HEIGHT)
    expectAlike(await treat('glow', { threshold: 1, amount: 1 }, bright, { matte: none }), bright, 1e-6)
    // Light goes beyond what the slip holds
    const out = await treat('glow', { threshold: 1, amount: 1, size: 6 }, bright, { matte })
    expect(out[(30 * WIDTH + 66) * 4]! - bright[(30 * WIDTH + 66) * 4]!).toBeGreaterThan(0.01)
  })
})

describe('light wrap', () => {
  // A dark thing on the left, a bright place on the right
  const edge = NOISE.map((_, i) => (i % 4 === 3 ? 1 : (i >> 2) % WIDTH < 45 ? 0.1 : 0.9))
  const matte = Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < 45 ? 1 : 0))
  /** Share of a bell of deviation s that lies beyond so far (erf by A. and S. 7.1.26, to 1.5e-7). */
  const beyond = (far: number, s: number): number => {
    const x = far / s / Math.SQRT2
    const t = 1 / (1 + 0.3275911 * x)
    const sum = [1.061405429, -1.453152027, 1.421413741, -0.284496736, 0.254829592].reduce((z, k) => (z + k) * t, 0)
    return (sum * Math.exp(-x * x)) / 2
  }
  it.each([
    ['laid over it', 1],
    ['added as light', 0],
  ] as const)('%s: as much of what is about as a bell has beyond the edge, and none of itself', async (how, over) => {
    const out = await treat('light_wrap', { amount: 0.6, size: 4, how }, edge, { matte })
    for (const x of [44, 42, 38, 34]) {
      const share = beyond(45 - x - 0.5, 4) * 0.6
      expect(Math.abs(out[(30 * WIDTH + x) * 4]! - (0.1 + share * (0.9 - 0.1 * over)))).toBeLessThan(1e-3)
    }
    // What is not the thing stays
    for (const x of [45, 50, 80]) expect(out[(30 * WIDTH + x) * 4]).toBeCloseTo(0.9, 6)
    expect(await treat('light_wrap', { amount: 1 }, edge)).toEqual(Float32Array.from(edge))
  })
})
