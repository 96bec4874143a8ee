// What goes by a map, a shape, a mesh or a direction: against OpenCV and NumPy (Debian), closed forms, and plain versions
// written from the papers.
import { describe, expect, it } from 'vitest'
import { writePng } from '../../core/formats/png/png'
import { readSmall } from '../../core/formats/picture/small'
import { firstValues } from '../../core/declare/values'
import { treatmentOf } from '../../core/treatment/registry'
import type { EntryValue } from '../../core/declare/field'
import { randomFrom } from '../compose/random'
import { treat as treated } from '../compose/treat'
import { at, HEIGHT, made, pool, treat, WIDTH } from './made'
import { pythonOf } from '../python'

const first = (id: string, values: Record<string, EntryValue> = {}): Record<string, EntryValue> => ({
  ...firstValues(treatmentOf(id).values),
  ...values,
})
const random = randomFrom(11)
const noise = made(() => random())

describe('blur by a shape', () => {
  const side = 9
  const own = randomFrom(4)
  // Not even, not symmetric: a shape that is turned or mirrored is another
  const shape = { width: side, height: side, pixels: made((x, y) => (x > y ? own() : own() * 0.2), side, side) }
  it('as large as its picture is the convolution with it (OpenCV’s filter2D on the shape turned about)', async () => {
    const out = await treat('shaped', { size: side }, noise, { small: shape })
    const theirs = pythonOf<number[]>(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
a = np.array(d['pixels'], np.float64).reshape(d['height'], d['width'], 4)[..., :3]
k = np.array(d['shape'], np.float64).reshape(d['side'], d['side'], 4)[..., :3]
out = np.stack([cv2.filter2D(a[..., c], -1, (k[..., c] / k[..., c].sum())[::-1, ::-1], borderType=cv2.BORDER_REFLECT) for c in range(3)], -1)
print(json.dumps(out.ravel().tolist()))`,
      { pixels: [...noise], shape: [...shape.pixels], side, width: WIDTH, height: HEIGHT },
    )
    theirs.forEach((value, i) => expect(Math.abs(out[Math.floor(i / 3) * 4 + (i % 3)]! - value)).toBeLessThan(1e-5))
  })
  it('a spark becomes the shape, upright, at any size, and no light is lost', async () => {
    // An L: its foot points to the right at its lower end
    const letter = made((x, y) => (x < 2 || y > 6 ? 1 : 0), 8, 8)
    const [width, height] = [256, 192]
    for (const size of [16, 60]) {
      const spark = made((x, y) => (Math.abs(x - 128.5) < 1 && Math.abs(y - 96.5) < 1 ? 1000 : 0), width, height)
      const out = await treated(pool, 'shaped', { size }, width, height, spark, {
        small: { width: 8, height: 8, pixels: letter },
      })
      const light = (from: (x: number, y: number) => boolean): number => {
        let sum = 0
        for (let i = 0; i < out.length; i += 4)
          if (from(((i >> 2) % width) + 0.5 - 128.5, Math.floor((i >> 2) / width) + 0.5 - 96.5)) sum += out[i]!
        return sum
      }
      expect(Math.abs(light(() => true) / 1000 - 1)).toBeLessThan(1e-3)
      const half = size / 2
      const corners = [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ].map(([sx, sy]) =>
        light((x, y) => x * sx! > half * 0.4 && y * sy! > half * 0.4 && Math.abs(x) < half && Math.abs(y) < half),
      )
      const [leftTop, rightTop, rightBottom, leftBottom] = corners as [number, number, number, number]
      expect(rightTop).toBeLessThan(leftTop * 0.15)
      expect(rightBottom).toBeGreaterThan(leftTop * 0.6)
      expect(leftBottom).toBeGreaterThan(leftTop)
    }
  })
  it('of a file: codes count as they are, half a code half; a large or black one is named', async () => {
    const png = (side: number, code: (i: number) => number): Uint8Array =>
      writePng({
        ...{ width: side, height: side, channels: 3, maximum: 255 },
        data: Uint8Array.from({ length: side * side * 3 }, (_, i) => code(Math.floor(i / 3))),
      })
    const read = await readSmall(png(2, i => [255, 128, 0, 51][i]!))
    expect([0, 4, 8, 12].map(i => read.pixels[i])).toEqual([1, Math.fround(128 / 255), 0, Math.fround(51 / 255)])
    await expect(readSmall(png(513, () => 255))).rejects.toThrow(/at most 512 × 512 pixels; this one has 513 × 513/)
    await expect(readSmall(png(2, () => 0))).rejects.toThrow(/black/)
    await expect(readSmall(Uint8Array.of(1, 2, 3))).rejects.toThrow(/picture/)
  })
})

describe('blur by a map', () => {
  it('is at every even map the bell so wide (OpenCV’s GaussianBlur)', async () => {
    for (const [share, least] of [
      [0.25, 0],
      [0.6, 0],
      [1, 0],
      [0, 0.5],
    ] as const) {
      const map = new Float32Array(WIDTH * HEIGHT).fill(share)
      const out = await treat('blur_map', { radius: 8, least }, noise, { matte: map })
      const theirs = pythonOf<number[]>(
        `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
a = np.array(d['pixels'], np.float64).reshape(d['height'], d['width'], 4)[..., :3]
print(json.dumps(cv2.GaussianBlur(a, (0, 0), d['sigma'], borderType=cv2.BORDER_REFLECT).ravel().tolist()))`,
        { pixels: [...noise], sigma: 8 * Math.max(share, least), width: WIDTH, height: HEIGHT },
      )
      // Between two bells it is a mixture of both: of the same variance, a little more pointed
      const bound = share === 0.6 ? 0.015 : 2e-3
      theirs.forEach((value, i) => expect(Math.abs(out[Math.floor(i / 3) * 4 + (i % 3)]! - value)).toBeLessThan(bound))
    }
  })
  it('where the map grows evenly nothing steps, and where it is black the picture is as it was', async () => {
    const map = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => Math.max(0, ((i % WIDTH) - 24) / 72))
    const edge = made((_, y) => (y < 32 ? 0 : 1))
    const out = await treat('blur_map', { radius: 6, least: 0 }, edge, { matte: map })
    for (let y = 0; y < HEIGHT; y++) for (let x = 0; x < 24; x++) expect(at(out, x, y)).toBe(at(edge, x, y))
    // The slope of an edge softened by a bell is 1 / (sigma root 2 pi): it falls evenly, from column to column
    for (let x = 40; x < WIDTH - 1; x++) {
      const slope = (column: number): number => at(out, column, 32) - at(out, column, 31)
      expect(slope(x + 1)).toBeLessThan(slope(x))
      expect(slope(x + 1) / slope(x)).toBeGreaterThan(0.85)
    }
  })
})

describe('wash of light', () => {
  it('is what its slip holds, softened, of its colour; added or laid over', async () => {
    const half = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < 48 ? 1 : 0))
    const grey = made(() => 0.2)
    const values = first('light_wash', { amount: 0.5, colour: [1, 0.5, 0.25], soft: 0, where: 'all over its slip' })
    const out = await treat('light_wash', values, grey, { matte: half })
    expect([0, 1, 2].map(c => at(out, 10, 10, c))).toEqual([0.7, 0.45, 0.325].map(value => expect.closeTo(value, 6)))
    expect(at(out, 80, 10)).toBeCloseTo(0.2, 6)
    const over = await treat('light_wash', { ...values, how: 'laid over it' }, grey, { matte: half })
    expect(at(over, 10, 10)).toBeCloseTo(0.1 + 0.5, 6)
    // Its border is the bell's integral
    const soft = await treat('light_wash', { ...values, soft: 5 }, grey, { matte: half })
    expect(at(soft, 52, 32) - 0.2).toBeCloseTo(0.5 * 0.1841, 2)
  })
  it('falls off as a bell about a place', async () => {
    const values = first('light_wash', { amount: 1, colour: [1, 1, 1], x: 0.25, y: 0.5, reach: 12 })
    const out = await treat(
      'light_wash',
      values,
      made(() => 0),
    )
    for (const [x, y] of [
      [24, 32],
      [36, 32],
      [24, 50],
    ] as const) {
      const square = (x + 0.5 - 24) ** 2 + (y + 0.5 - 32) ** 2
      expect(at(out, x, y)).toBeCloseTo(Math.exp(-square / 288), 5)
    }
  })
})

describe('tint by distance', () => {
  it('takes colours away, towards their own grey (Rec. ITU-R BT.709-6, 3.2), by the same ramp', async () => {
    const colour = [0.8, 0.2, 0.1]
    const depth = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => i % WIDTH)
    const out = await treat(
      'distance_tint',
      first('distance_tint', { amount: 0, grey: 0.6, near: 20, far: 70 }),
      made((_x, _y, c) => colour[c]!),
      { depth },
    )
    const grey = 0.2126 * 0.8 + 0.7152 * 0.2 + 0.0722 * 0.1
    for (const x of [5, 20, 45, 70, 90]) {
      const share = 0.6 * Math.min(1, Math.max(0, (x - 20) / 50))
      colour.forEach((value, c) => expect(at(out, x, 9, c)).toBeCloseTo(value + (grey - value) * share, 5))
    }
  })
})

describe('mesh', () => {
  const SIDE = 5
  /** Catmull–Rom along both ways, points beyond going on straight: written from the definition. */
  function moved(all: readonly number[], u: number, v: number, c: number): number {
    const point = (column: number, row: number): number => {
      const inside = (k: number): boolean => k >= 0 && k < SIDE
      if (!inside(column)) {
        const edge = column < 0 ? 0 : SIDE - 1
        return 2 * point(edge, row) - point(2 * edge - column, row)
      }
      if (!inside(row)) {
        const edge = row < 0 ? 0 : SIDE - 1
        return 2 * point(column, edge) - point(column, 2 * edge - row)
      }
      return all[(row * SIDE + column) * 2 + c]!
    }
    const curve = (t: number, p: readonly number[]): number =>
      0.5 *
      (2 * p[1]! +
        (p[2]! - p[0]!) * t +
        (2 * p[0]! - 5 * p[1]! + 4 * p[2]! - p[3]!) * t * t +
        (3 * p[1]! - p[0]! - 3 * p[2]! + p[3]!) * t ** 3)
    const [x, y] = [u, v].map(share => Math.min(1, Math.max(0, share)) * (SIDE - 1)) as [number, number]
    const [column, row] = [x, y].map(value => Math.min(SIDE - 2, Math.floor(value))) as [number, number]
    return curve(
      y - row,
      [-1, 0, 1, 2].map(j =>
        curve(
          x - column,
          [-1, 0, 1, 2].map(i => point(column + i, row + j)),
        ),
      ),
    )
  }
  const own = randomFrom(3)
  const all = Array.from({ length: SIDE * SIDE * 2 }, () => (own() - 0.5) * 0.08)
  it('brings each place to where its points and what is smooth between them say', async () => {
    const [width, height] = [160, 120]
    // A picture that says its own places
    const places = made((x, y, c) => (c === 0 ? x : c === 1 ? y : 1), width, height)
    const out = await treated(pool, 'mesh', first('mesh', { moved: all, filter: 'straight' }), width, height, places)
    let worst = 0
    for (let y = 12; y < height - 12; y++)
      for (let x = 12; x < width - 12; x++) {
        const i = (y * width + x) * 4
        const [px, py] = [out[i]!, out[i + 1]!]
        const far = [0, 1].map(c => moved(all, px / width, py / height, c) * (c ? height : width)) as [number, number]
        worst = Math.max(worst, Math.abs(px + far[0] - x - 0.5), Math.abs(py + far[1] - y - 0.5))
      }
    expect(worst).toBeLessThan(0.01)
  })
  it('is taken hold of at its points, and each goes where the hand brings it', () => {
    const { handles } = treatmentOf('mesh')
    const now = handles!({ moved: all }, { width: 160, height: 120 })!
    expect(now.grips).toHaveLength(25)
    const grip = now.grips[7]!
    expect(grip.at[0]).toBeCloseTo((2 / 4 + all[14]!) * 160, 9)
    const after = now.moved(grip.id, [60, 50]).moved as number[]
    const again = handles!({ moved: after }, { width: 160, height: 120 })!
    expect(again.grips[7]!.at).toEqual([expect.closeTo(60, 9), expect.closeTo(50, 9)])
    expect(after.filter((value, i) => value !== all[i])).toHaveLength(2)
  })
})

describe('ripple in the scene', () => {
  it('moves what is twice as near twice as far', async () => {
    const places = made((x, y, c) => (c === 0 ? x : c === 1 ? y : 1))
    const depth = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < 48 ? 4 : 16))
    const values = first('ripple', {
      amount: 3,
      length: 40,
      angle: 90,
      sway: 'swaying',
      phase: 0.25,
      filter: 'straight',
    })
    const even = await treat('ripple', values, places)
    const out = await treat('ripple', { ...values, nearer: 'more where it is nearer', near: 8 }, places, { depth })
    for (const [x, factor] of [
      [20, 2],
      [70, 0.5],
    ] as const)
      for (const y of [20, 33, 47]) {
        const far = at(even, x, y) - (x + 0.5)
        expect(at(out, x, y) - (x + 0.5)).toBeCloseTo(far * factor, 2)
      }
  })
})

describe('hatching', () => {
  const [width, height] = [240, 180]
  it('keeps the light of what it is laid on, in one layer and crossed', async () => {
    for (const cross of ['in one layer', 'crossed'])
      for (const light of [0.08, 0.2, 0.35]) {
        const values = first('hatch', {
          amount: 1,
          fill: 1,
          cross,
          soft: 0.05,
          tone: 1,
          size: 6,
          length: 16,
          ink: [0, 0, 0],
          paper: [0.5, 0.5, 0.5],
          white: Math.log2(0.5 / 0.18),
        })
        const out = await treated(
          pool,
          'hatch',
          values,
          width,
          height,
          made(() => light, width, height),
        )
        const mean = out.reduce((sum, value, i) => sum + (i % 4 === 0 ? value : 0), 0) / (width * height)
        expect(Math.abs(mean - light)).toBeLessThan(0.03)
        // It is strokes, not grey
        const inked = out.filter((value, i) => i % 4 === 0 && (value < 0.02 || value > 0.48)).length
        expect(inked / (width * height)).toBeGreaterThan(0.7)
      }
  })
  it('runs the way that is said, and round what turns away from the camera (NumPy’s structure tensor)', async () => {
    const run = async (values: Record<string, EntryValue>, normals?: Float32Array): Promise<number> => {
      const out = await treated(
        pool,
        'hatch',
        first('hatch', { fill: 1, size: 4, length: 60, ...values }),
        width,
        height,
        made(() => 0.2, width, height),
        { planes: normals ? { normal_camera: normals } : undefined },
      )
      return pythonOf<number>(
        `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
# Differences of neighbours see fine slopes less across than aslant: softened first
a = cv2.GaussianBlur(np.array(d['pixels']).reshape(d['height'], d['width'], 4)[..., 0], (0, 0), 2)
gy, gx = np.gradient(a)
jxx, jxy, jyy = (gx * gx).sum(), (gx * gy).sum(), (gy * gy).sum()
# Across the slopes, counter-clockwise from the right with y up
across = 0.5 * np.arctan2(2 * jxy, jxx - jyy)
print(json.dumps(float(np.degrees(-(across + np.pi / 2)) % 180)))`,
        { pixels: [...out], width, height },
      )
    }
    for (const angle of [30, 75, 150])
      expect(Math.abs((((await run({ runs: 'one way', angle })) - angle + 270) % 180) - 90)).toBeLessThan(3)
    // A wall that turns to the right and up: falls away along 30 degrees
    const wall = made(
      (_x, _y, c) => [0.7 * Math.cos(Math.PI / 6), 0.7 * Math.sin(Math.PI / 6), 0.71][c]!,
      width,
      height,
    )
    expect(Math.abs((((await run({ runs: 'round things', angle: 100 }, wall)) - 30 + 270) % 180) - 90)).toBeLessThan(3)
    expect(Math.abs((((await run({ runs: 'along things', angle: 100 }, wall)) - 120 + 270) % 180) - 90)).toBeLessThan(3)
  })
})

describe('lines drawn through', () => {
  it('join what is broken along a line, and leave alone what crosses none', async () => {
    // A dark line of dashes, in noise
    const own = randomFrom(9)
    const dashes = made((x, y) => 0.4 * (Math.abs(y - 32) < 1.2 && x % 8 < 5 ? 0.35 : 1) * (1 + 0.06 * (own() - 0.5)))
    const values = first('lines', { fill: 1, ink: [0, 0, 0], paper: [1, 1, 1], size: 2, from: 0.1, soft: 0.3, flow: 6 })
    const [broken, joined] = await Promise.all(
      ['as they come', 'drawn through'].map(run => treat('lines', { ...values, run }, dashes)),
    )
    const along = (out: Float32Array): number[] => Array.from({ length: 60 }, (_, i) => at(out, 18 + i, 32))
    expect(Math.max(...along(broken!))).toBeGreaterThan(0.5)
    expect(Math.max(...along(joined!))).toBeLessThan(0.35)
    for (let x = 10; x < 86; x++) for (const y of [12, 50]) expect(at(joined!, x, y)).toBeGreaterThan(0.95)
  })
})

describe('paper on the things', () => {
  it('goes with the view of them, and what is finer than a pixel is gone', async () => {
    const grey = made(() => 0.4)
    const wallFrom = (left: number, metres: number): Float32Array =>
      made((x, y, c) => (c === 0 ? (x + left) * metres : c === 1 ? y * metres : 5))
    const values = first('paper', { amount: 0.5, where: 'on the things', grain: 0.3 })
    const [here, gone, far] = await Promise.all(
      [wallFrom(0, 0.02), wallFrom(7, 0.02), wallFrom(0, 0.9)].map(position =>
        treat('paper', values, grey, { planes: { position } }),
      ),
    )
    let varies = 0
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH - 8; x++) {
        expect(Math.abs(at(gone!, x, y) - at(here!, x + 7, y))).toBeLessThan(1e-4)
        varies = Math.max(varies, Math.abs(at(here!, x, y) - 0.4))
      }
    expect(varies).toBeGreaterThan(0.05)
    expect([...far!].every((value, i) => Math.abs(value - (i % 4 === 3 ? 1 : 0.4)) < 1e-6)).toBe(true)
  })
})
