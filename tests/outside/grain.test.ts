// Grain as it is laid and measured back, and drawn looks: against NumPy and OpenCV (Debian), closed forms, and a plain
// version written from the papers.
import { describe, expect, it } from 'vitest'
import { grainOf } from '../../core/measure/grain'
import { oklabOf } from '../../core/colour/oklab'
import { randomFrom } from '../compose/random'
import { treat as treated } from '../compose/treat'
import { at, made, pool, treat, WIDTH } from './made'
import { pythonOf } from '../python'

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
  it('large grain is measured back, too, though the mean and slopes of a square take much of it', async () => {
    const large = { amount: 0.1, channels: [1, 1, 1], growth: 1, size: 2, together: 0.8, seed: 5 }
    const measured = grainOf(await treated(pool, 'grain', large, width, height, fields), width)!
    expect(Math.abs(measured.amount / 0.1 - 1)).toBeLessThan(0.05)
    expect(Math.abs(measured.size / 2 - 1)).toBeLessThan(0.05)
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
  it('lines run where it is darker than about it, on the dark side of an edge, and nowhere in what is even', async () => {
    const edge = made(x => (x < 48 ? 0.05 : 0.4))
    const values = { amount: 1, size: 2, from: 0.1, soft: 0.2, ink: [0, 0, 0], fill: 0 }
    const out = await treat('lines', values, edge)
    const row = Array.from({ length: WIDTH }, (_, x) => at(out, x, 30) / at(edge, x, 30))
    expect(Math.min(...row.slice(44, 48))).toBeLessThan(0.05)
    expect(Math.min(...row.slice(48))).toBeGreaterThan(0.999)
    for (const x of [5, 20, 70, 90]) expect(row[x]).toBeCloseTo(1, 6)
    // What gives way to the paper does so evenly, and the line stays
    const white = await treat('lines', { ...values, fill: 1, paper: [0.8, 0.8, 0.8] }, edge)
    expect(at(white, 80, 30)).toBeCloseTo(0.8, 5)
    expect(Math.min(...Array.from({ length: 4 }, (_, i) => at(white, 44 + i, 30)))).toBeLessThan(0.05)
    // Exposure moves no line: it goes by stops
    const brighter = await treat(
      'lines',
      values,
      edge.map((value, i) => (i % 4 === 3 ? 1 : value * 2)),
    )
    row.forEach((value, x) => expect(at(brighter, x, 30) / at(edge, x, 30) / 2).toBeCloseTo(value, 3))
  })
  it('paper makes as much brighter as darker, as rough as is said, and stands still', async () => {
    const [width, height] = [300, 200]
    const grey = made(() => 0.5, width, height)
    const values = { amount: 0.2, size: 5, angle: 0 }
    const out = await treated(pool, 'paper', values, width, height, grey)
    let [sum, squares] = [0, 0]
    for (let i = 0; i < out.length; i += 4) {
      sum += out[i]! / 0.5 - 1
      squares += (out[i]! / 0.5 - 1) ** 2
    }
    const count = out.length / 4
    expect(Math.abs(sum / count)).toBeLessThan(0.01)
    const twice = await treated(pool, 'paper', { ...values, amount: 0.4 }, width, height, grey)
    let more = 0
    for (let i = 0; i < twice.length; i += 4) more += (twice[i]! / 0.5 - 1) ** 2
    expect(Math.sqrt(squares / count)).toBeGreaterThan(0.03)
    expect(Math.sqrt(more / squares)).toBeCloseTo(2, 1)
    expect(await treated(pool, 'paper', values, width, height, grey, { frame: 7 })).toEqual(out)
    // Lit from the other side slopes are bright that were dark
    const other = await treated(pool, 'paper', { ...values, angle: 180 }, width, height, grey)
    for (let i = 0; i < 4000; i += 4) expect(other[i]! + out[i]!).toBeCloseTo(1, 5)
  })
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
