// Noise taken out: of one frame and over frames, beside OpenCV (Debian) on clips made of photographs (Debian's opencv-doc).
import { describe, expect, it } from 'vitest'
import { firstValues } from '../../core/declare/values'
import { treatmentOf } from '../../core/treatment/registry'
import { randomFrom } from '../compose/random'
import { treat } from '../compose/treat'
import { made, pool } from './made'
import { pythonOf } from '../python'

/** A clip of a photograph that is moved past, turned a little, with a part of another that goes its own way before it. */
const CLIP = `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
w, h, n = d['width'], d['height'], 5
folder = '/usr/share/doc/opencv-doc/examples/data/'
back = cv2.imread(folder + d['back']).astype(np.float32)
front = cv2.imread(folder + d['front']).astype(np.float32)[60:200, 100:260]
rng = np.random.default_rng(7)
clean = []
for i in range(n):
    t = i - n // 2
    m = cv2.getRotationMatrix2D((w / 2, h / 2), 0.4 * t, 1 + 0.004 * t)
    m[:, 2] += [-120 + 3.3 * t, -90 + 1.7 * t]
    frame = cv2.warpAffine(back, m, (w, h), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
    way = np.array([[0.5, 0, 90 - 5.6 * t], [0, 0.5, 60 + 2.2 * t]])
    part = cv2.warpAffine(front, way, (w, h), flags=cv2.INTER_AREA)
    held = cv2.warpAffine(np.ones(front.shape[:2], np.float32), way, (w, h))[..., None]
    clean.append(np.clip(frame * (1 - held) + part * held, 0, 255))
noisy = [np.clip(np.round(c + rng.normal(0, d['sigma'], c.shape)), 0, 255).astype(np.uint8) for c in clean]
def best(made):
    errors = [(float(((out.astype(np.float64) - clean[n // 2]) ** 2).mean())) for out in made]
    return 10 * float(np.log10(255 ** 2 / min(errors)))
strengths = [share * d['sigma'] for share in (0.4, 0.5, 0.6)]
print(json.dumps({'clean': clean[n // 2].ravel().tolist(), 'noisy': [f.ravel().tolist() for f in noisy],
  'over': best([cv2.fastNlMeansDenoisingColoredMulti(noisy, n // 2, n, None, s, s, 7, 21) for s in strengths]),
  'one': best([cv2.fastNlMeansDenoisingColored(noisy[n // 2], None, s, s, 7, 21) for s in strengths])}))`
const [width, height] = [256, 192]
interface Found {
  clean: number[]
  noisy: number[][]
  /** Decibels of OpenCV’s at the best of three strengths. */
  over: number
  one: number
}
const pixelsOf = (codes: readonly number[]): Float32Array =>
  Float32Array.from({ length: (codes.length / 3) * 4 }, (_, i) =>
    i % 4 === 3 ? 1 : codes[(i >> 2) * 3 + (i % 4)]! / 255,
  )
/** Decibels, of what is held to codes. */
function psnr(pixels: Float32Array, codes: readonly number[]): number {
  let sum = 0
  codes.forEach((code, i) => {
    sum += (Math.min(255, Math.max(0, pixels[Math.floor(i / 3) * 4 + (i % 3)]! * 255)) - code) ** 2
  })
  return 10 * Math.log10(255 ** 2 / (sum / codes.length))
}
/** A new line's values, with the noise that there is: the same at every brightness. */
const firstOf = (id: string, sigma: number): Record<string, number | number[]> =>
  ({
    ...firstValues(treatmentOf(id).values),
    ...{ amount: sigma / 0.18, channels: [1, 1, 1], growth: 0, size: 0 },
  }) as Record<string, number | number[]>

describe('noise of a clip of photographs', () => {
  it.each([
    ['fruits.jpg', 'messi5.jpg', 20],
    ['home.jpg', 'baboon.jpg', 15],
  ])(
    '%s behind %s, deviation %s of 255: 2 dB over OpenCV’s means over frames, and of one frame',
    async (back, front, sigma) => {
      const found = pythonOf<Found>(CLIP, { width, height, back, front, sigma })
      const frames = found.noisy.map(pixelsOf)
      const over = await treat(pool, 'over_frames', firstOf('over_frames', sigma / 255), width, height, frames[2]!, {
        at: frame => frames[frame + 1]!,
      })
      expect(psnr(over, found.clean)).toBeGreaterThan(found.over + 2)
      const one = await treat(pool, 'degrain', firstOf('degrain', sigma / 255), width, height, frames[2]!)
      expect(psnr(one, found.clean)).toBeGreaterThan(found.one + 0.5)
      // What goes over frames has more to go by than one
      expect(psnr(over, found.clean)).toBeGreaterThan(psnr(one, found.clean) + 1)
    },
  )
  it('what has gone far is found: 41 px across and 26 up from frame to frame, over 64 px in all', async () => {
    const random = randomFrom(5)
    const [wide, high] = [width + 200, height + 120]
    // Coarse and fine alike, as pictures are
    const squares = [64, 32, 16, 8, 4, 2].map(side => ({
      side,
      lights: Float32Array.from({ length: 20000 }, () => random()),
    }))
    const texture = Float32Array.from({ length: wide * high }, (_, i) =>
      squares.reduce(
        (sum, { side, lights }) =>
          sum + 0.12 * lights[Math.floor(Math.floor(i / wide) / side) * 100 + (Math.floor((i % wide) / side) % 100)]!,
        0,
      ),
    )
    const frameOf = (frame: number, noise: number): Float32Array => {
      const own = randomFrom(100 + frame)
      return made(
        (x, y) =>
          texture[(Math.floor(y) + 60 + frame * 26) * wide + Math.floor(x) + 90 - frame * 41]! + noise * (own() - 0.5),
        width,
        height,
      )
    }
    const clean = frameOf(0, 0)
    const noisy = frameOf(0, 0.2)
    const sigma = 0.2 / Math.sqrt(12)
    const out = await treat(
      pool,
      'over_frames',
      { ...firstOf('over_frames', sigma), before: 1, after: 1 },
      width,
      height,
      noisy,
      { frame: 0, at: frame => frameOf(frame, 0.2) },
    )
    const error = (pixels: Float32Array, inside: (x: number, y: number) => boolean): number => {
      let [sum, count] = [0, 0]
      for (let i = 0; i < pixels.length; i++)
        if (i % 4 < 3 && inside((i >> 2) % width, Math.floor((i >> 2) / width))) {
          sum += (pixels[i]! - clean[i]!) ** 2
          count++
        }
      return Math.sqrt(sum / count)
    }
    // Three frames where both others show it
    const middle = (x: number, y: number): boolean => x > 60 && x < width - 60 && y > 40 && y < height - 40
    expect(error(out, middle) / error(noisy, middle)).toBeLessThan(0.7)
  })
})

describe('grain of a known amount', () => {
  const [wide, high] = [320, 240]
  const scene = made(
    (x, y, c) => (Math.hypot(x - 160, y - 120) < 70 ? 0.5 : 0.05 + x / 1600 + y / 2400) * [1, 0.8, 0.6][c]!,
    wide,
    high,
  )
  const model = { amount: 0.08, channels: [1, 0.85, 1.25], growth: 0.7, size: 0.7 }
  /** With grain laid on it, and that taken out again. */
  async function both(): Promise<{ grained: Float32Array; clean: Float32Array }> {
    const grained = await treat(pool, 'grain', { ...model, together: 0.3, seed: 2 }, wide, high, scene)
    const values = { ...firstValues(treatmentOf('degrain').values), ...model }
    return { grained, clean: await treat(pool, 'degrain', values as never, wide, high, grained) }
  }
  it('is taken out of dark and bright alike, and what is no grain stays', async () => {
    const { grained, clean: out } = await both()
    const left = (from: number, to: number): number => {
      let [own, before] = [0, 0]
      for (let i = 0; i < out.length; i++) {
        const [x, y] = [(i >> 2) % wide, Math.floor((i >> 2) / wide)]
        if (i % 4 === 3 || scene[i]! < from || scene[i]! > to || Math.abs(Math.hypot(x - 160, y - 120) - 70) < 4)
          continue
        own += (out[i]! - scene[i]!) ** 2
        before += (grained[i]! - scene[i]!) ** 2
      }
      return Math.sqrt(own / before)
    }
    for (const [from, to] of [
      [0.02, 0.1],
      [0.1, 0.2],
      [0.25, 0.6],
    ] as const)
      expect(left(from, to)).toBeLessThan(0.36)
    // The border of the disc is where it was: half way in light within half a pixel of its radius
    for (const angle of [0.3, 1.9, 4]) {
      const [dx, dy] = [Math.cos(angle), Math.sin(angle)]
      const light = (radius: number): number =>
        out[(Math.floor(120 + dy * radius) * wide + Math.floor(160 + dx * radius)) * 4]!
      expect(light(68)).toBeGreaterThan(0.42)
      expect(light(72.5)).toBeLessThan(0.3)
    }
  })
  it('comes back as it was: what was laid between stays', async () => {
    const { grained, clean } = await both()
    const worked = clean.map((value, i) => (i % 4 === 3 ? value : value + 0.25))
    const back = await treat(pool, 'grain_back', { amount: 1 }, wide, high, worked, {
      grain: [{ before: grained, after: clean }],
    })
    back.forEach((value, i) => {
      const expected = i % 4 === 3 ? 1 : grained[i]! + 0.25
      if (Math.abs(value - expected) > 1e-6) throw new Error(`${i}: ${value} for ${expected}`)
    })
  })
})
