// Drawn pictures over frames: strokes that lie on things, strokes of a brush that do not flicker; and what is drawn on the
// picture: paths of blur, ovals.
import { describe, expect, it } from 'vitest'
import { firstValues } from '../../core/declare/values'
import { treatmentOf } from '../../core/treatment/registry'
import type { EntryValue } from '../../core/declare/field'
import { randomFrom } from '../compose/random'
import { treat as treated } from '../compose/treat'
import { pythonOf } from '../python'
import { at, HEIGHT, made, pool, treat, WIDTH } from './made'

const first = (id: string, values: Record<string, EntryValue> = {}): Record<string, EntryValue> => ({
  ...firstValues(treatmentOf(id).values),
  ...values,
})
/** Pearson's correlation. */
function alike(a: readonly number[], b: readonly number[]): number {
  const mean = (of: readonly number[]): number => of.reduce((sum, v) => sum + v, 0) / of.length
  const [ma, mb] = [mean(a), mean(b)]
  let [ab, aa, bb] = [0, 0, 0]
  a.forEach((v, i) => {
    ab += (v - ma) * (b[i]! - mb)
    aa += (v - ma) ** 2
    bb += (b[i]! - mb) ** 2
  })
  return ab / Math.sqrt(aa * bb)
}

describe('hatching on the things', () => {
  const [width, height] = [240, 160]
  /** A wall before the camera, so many metres to a pixel, of which the frame shows a part. */
  const wall = (left: number, metres: number): Float32Array =>
    made((x, y, c) => (c === 0 ? (x + left) * metres : c === 1 ? y * metres : 3), width, height)
  const drawn = (values: Record<string, EntryValue>, position?: Float32Array): Promise<Float32Array> =>
    treated(
      pool,
      'hatch',
      first('hatch', values),
      width,
      height,
      made(() => 0.12, width, height),
      { planes: position ? { position } : undefined },
    )
  const row = (out: Float32Array, left: number): number[] =>
    Array.from({ length: 100 * 100 }, (_, i) => out[((30 + Math.floor(i / 100)) * width + left + (i % 100)) * 4]!)

  it('goes with the view of them; in the frame it stays', async () => {
    const values = { fill: 1, size: 5, length: 30, white: 0, tone: 1, stay: 'on the things' }
    const [here, gone] = await Promise.all([wall(0, 0.01), wall(20, 0.01)].map(places => drawn(values, places)))
    expect(alike(row(here!, 60), row(gone!, 40))).toBeGreaterThan(0.95)
    expect(alike(row(here!, 60), row(gone!, 60))).toBeLessThan(0.3)
    const still = await Promise.all(
      [wall(0, 0.01), wall(20, 0.01)].map(places => drawn({ ...values, stay: 'in the frame' }, places)),
    )
    expect(alike(row(still[0]!, 60), row(still[1]!, 60))).toBeCloseTo(1, 6)
  })
  it('is as coarse near as far, goes over between without a jump, and keeps the light', async () => {
    const values = {
      ...{ amount: 1, fill: 1, soft: 0.05, tone: 1, size: 6, length: 16, stay: 'on the things' },
      ...{ ink: [0, 0, 0], paper: [0.5, 0.5, 0.5], white: Math.log2(0.5 / 0.18) },
    }
    // Ways through its mean along each row: what Rice counts by
    const crossings = (out: Float32Array): number => {
      let count = 0
      for (let i = 0; i < width * height - 1; i++)
        if ((i + 1) % width && out[i * 4]! < 0.25 !== out[i * 4 + 4]! < 0.25) count++
      return count
    }
    const inFrame = await drawn({ ...values, stay: 'in the frame', angle: 90 })
    for (const metres of [0.0031, 0.0043, 0.0062, 0.3]) {
      const out = await drawn({ ...values, angle: 90 }, wall(7, metres))
      const ratio = crossings(out) / crossings(inFrame)
      expect(ratio).toBeGreaterThan(0.75)
      expect(ratio).toBeLessThan(1.35)
      const mean = out.reduce((sum, value, i) => sum + (i % 4 === 0 ? value : 0), 0) / (width * height)
      expect(Math.abs(mean - 0.12)).toBeLessThan(0.05)
    }
  })
})

describe('painted over frames', () => {
  it('flickers less where something moves on, and holds nothing of what goes before it', async () => {
    // A pattern that goes 3 pixels to the right a frame, under noise of its own each frame; a dark bar stands before it
    const speed = 3
    const clean = (frame: number): Float32Array =>
      made((x, y) => {
        const u = x - speed * frame
        return x > 60 && x < 70 ? 0.02 : 0.4 + 0.2 * Math.sin(u / 5) + 0.15 * Math.sin(y / 4 + u / 9)
      })
    const noisy = (frame: number): Float32Array => {
      const random = randomFrom(100 + frame)
      return clean(frame).map((value, i) => (i % 4 === 3 ? 1 : value * (1 + 0.5 * (random() - 0.5))))
    }
    const motion = made((x, _, c) => (x > 60 && x < 70 ? 0 : c === 0 ? speed : c === 2 ? -speed : 0))
    for (let i = 0; i < WIDTH * HEIGHT; i++) motion[i * 4 + 3] = 0
    const run = (frame: number, steady: number): Promise<Float32Array> =>
      treat('kuwahara', first('kuwahara', { radius: 4, steady }), noisy(frame), { frame, at: noisy, motion })
    const frames = [10, 11, 12, 13]
    const flicker = async (steady: number): Promise<{ moves: number; bar: number; beside: number }> => {
      const all = await Promise.all(frames.map(frame => run(frame, steady)))
      let [sum, count, bar, beside] = [0, 0, 0, Infinity]
      for (let k = 1; k < all.length; k++)
        for (let y = 8; y < HEIGHT - 8; y++)
          for (let x = 14; x < 54; x++) {
            sum += (at(all[k]!, x, y) - at(all[k - 1]!, x - speed, y)) ** 2
            count++
          }
      for (let y = 8; y < HEIGHT - 8; y++) {
        bar = Math.max(bar, at(all[1]!, 65, y))
        beside = Math.min(beside, at(all[1]!, 57, y))
      }
      return { moves: Math.sqrt(sum / count), bar, beside }
    }
    const [alone, steady] = [await flicker(0), await flicker(2)]
    expect(steady.moves).toBeLessThan(alone.moves * 0.65)
    expect(steady.bar).toBeLessThan(alone.bar + 0.01)
    // What is behind the bar a frame on has not gone dark before
    expect(steady.beside).toBeGreaterThan(alone.beside * 0.85)
    // Sharp all the same: what it shows is that frame's
    const out = await run(11, 2)
    const own = await run(11, 0)
    const middle = (of: Float32Array): number[] =>
      Array.from({ length: 40 * 48 }, (_, i) => at(of, 14 + (i % 40), 8 + Math.floor(i / 40)))
    expect(alike(middle(out), middle(clean(11)))).toBeGreaterThan(alike(middle(own), middle(clean(11))))
  })
  it('stands at the ends of a shot, and where nothing is known to move', async () => {
    const picture = made((x, y) => 0.3 + 0.2 * Math.sin(x / 3) * Math.sin(y / 5))
    const [still, none] = await Promise.all([
      treat('kuwahara', first('kuwahara', { steady: 3 }), picture, { motion: made(() => 0) }),
      treat('kuwahara', first('kuwahara', { steady: 0 }), picture),
    ])
    expect(still).toEqual(none)
  })
})

describe('blur along a path', () => {
  const [width, height] = [200, 150]
  const points = [60, 90, 85, 60, 115, 60, 140, 90]
  const path = points.map((value, i) => value / (i % 2 ? height : width))
  const blurred = (values: Record<string, EntryValue>, picture: Float32Array): Promise<Float32Array> =>
    treated(pool, 'directional', first('directional', values), width, height, picture)
  const spark = made((x, y) => (Math.abs(x - 100.5) < 1 && Math.abs(y - 75.5) < 1 ? 100 : 0), width, height)

  it('draws a spark along the curve through its points (Catmull and Rom’s matrix, laid down by NumPy)', async () => {
    const behind = 0.3
    const out = await blurred({ how: 'along a path', path, behind }, spark)
    const theirs = pythonOf<number[]>(
      `
import json, sys, numpy as np
d = json.load(sys.stdin); W, H = d['width'], d['height']
p = np.array(d['points'], float).reshape(4, 2)
p = np.vstack([2 * p[0] - p[1], p, 2 * p[3] - p[2]])
m = np.array([[0, 2, 0, 0], [-1, 0, 1, 0], [2, -5, 4, -1], [-1, 3, -3, 1]]) / 2
t = np.linspace(0, 1, 4000, endpoint=False); T = np.stack([t ** 0, t, t ** 2, t ** 3], 1)
way = np.vstack([T @ m @ p[i:i + 4] for i in range(3)])
far = np.r_[0, np.cumsum(np.linalg.norm(np.diff(way, axis=0), axis=1))]
even = np.stack([np.interp((np.arange(20000) + 0.5) / 20000 * far[-1], far, way[:, k]) for k in (0, 1)], 1)
stand = even[int(d['behind'] * 20000)]
at = even - stand + [100, 75]
a = np.zeros((H, W)); x, y = np.floor(at[:, 0]).astype(int), np.floor(at[:, 1]).astype(int); fx, fy = at[:, 0] - x, at[:, 1] - y
for dx, dy, w in ((0, 0, (1 - fx) * (1 - fy)), (1, 0, fx * (1 - fy)), (0, 1, (1 - fx) * fy), (1, 1, fx * fy)):
    np.add.at(a, (y + dy, x + dx), w * 100 / 20000)
print(json.dumps(a.ravel().tolist()))`,
      { points, behind, width, height },
    )
    let [sum, apart] = [0, 0]
    theirs.forEach((value, i) => {
      sum += out[i * 4]!
      apart += Math.abs(out[i * 4]! - value)
    })
    expect(sum / 100).toBeCloseTo(1, 3)
    expect(apart / 100).toBeLessThan(0.12)
  })
  it('is the straight one where its points lie on a line', async () => {
    const random = randomFrom(3)
    const picture = made(() => random(), width, height)
    const line = [50, 80, 70, 70, 90, 60, 110, 50].map((value, i) => value / (i % 2 ? height : width))
    const values = { length: Math.hypot(60, 30), angle: (Math.atan2(30, 60) * 180) / Math.PI, behind: 0.8 }
    const [drawn, straight] = await Promise.all([
      blurred({ ...values, how: 'along a path', path: line }, picture),
      blurred({ ...values, how: 'straight' }, picture),
    ])
    let worst = 0
    for (let i = 0; i < width * height; i++)
      if (i % width > 40 && i % width < 160 && i / width > 40 && i / width < 110)
        worst = Math.max(worst, Math.abs(drawn![i * 4]! - straight![i * 4]!))
    expect(worst).toBeLessThan(0.05)
  })
})

describe('an oval that is drawn', () => {
  it('lies where its handles have it, turned and wide as is said', async () => {
    const values = { amount: 1, how: 'by an oval', x: 0.4, y: 0.6, size: 0.3, wider: 1.8, turn: 25, softness: 1 }
    const out = await treat(
      'vignette',
      first('vignette', values),
      made(() => 1),
    )
    const cos = Math.cos((25 * Math.PI) / 180)
    const sin = Math.sin((25 * Math.PI) / 180)
    let clear = 0
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        const [dx, dy] = [x + 0.5 - 0.4 * WIDTH, y + 0.5 - 0.6 * HEIGHT]
        // To the right and up by the angle, counter-clockwise with y up
        const [a, b] = [dx * cos - dy * sin, dx * sin + dy * cos]
        const far = Math.hypot(a / ((0.3 * 1.8 * WIDTH) / Math.SQRT2), b / ((0.3 * HEIGHT) / Math.SQRT2))
        if (far < 0.99) expect(at(out, x, y)).toBe(1)
        if (far > 1.12) expect(at(out, x, y)).toBe(0)
        clear += far < 1 ? 1 : 0
      }
    expect(clear).toBeGreaterThan(500)
    const { handles } = treatmentOf('vignette')
    const frame = { width: WIDTH, height: HEIGHT }
    const held = handles!(values, frame)!
    // Each grip brought to where it is changes nothing
    for (const grip of held.grips) {
      const same = held.moved(grip.id, grip.at as [number, number])
      for (const [name, value] of Object.entries(same))
        expect(value as number).toBeCloseTo(values[name as 'x'] as number, 6)
    }
    const foot = held.moved('foot', [0.4 * WIDTH, 0.6 * HEIGHT + 20])
    expect(foot.turn).toBeCloseTo(0, 6)
    expect((foot.size as number) * (foot.wider as number)).toBeCloseTo(0.54, 6)
  })
})
