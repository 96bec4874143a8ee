// Each kind of matte that is told by values, against its definition; and what holds for all of them.
import { describe, expect, it } from 'vitest'
import { differenceCiede2000 } from 'culori'
import { firstValues } from '../core/declare/values'
import { MATTES, matteKindOf } from '../core/matte/registry'
import { near, ramp } from './compose/ramps'
import { pythonOf } from './python'
import {
  channelsOf,
  COUNT,
  HEIGHT,
  held,
  OTHERS,
  PIXELS,
  plane,
  planes,
  PLANES,
  random,
  term,
  WIDTH,
  type Setup,
  useMattes,
} from './heldMatte'

useMattes()

describe('colour', () => {
  it('is what is nearer in CIEDE2000, of colour divided by alpha', async () => {
    const sample = [0.5, 0.8, 0.3]
    const truth = differenceCiede2000()
    const rgb = ([r, g, b]: readonly number[]): object => ({ mode: 'lrgb', r, g, b })
    const expected = Array.from({ length: COUNT }, (_, i) => {
      const [r, g, b, a] = PIXELS.slice(i * 4, i * 4 + 4) as [number, number, number, number]
      return ramp(truth(rgb([r / a, g / a, b / a]), rgb(sample)), 0, 20, 15)
    })
    expect(expected.filter(value => value > 0.1 && value < 0.9).length).toBeGreaterThan(20)
    near(await held(term('colour', { sample, tolerance: 20, soft: 15 })), expected, 5e-4)
  })
  it('of several samples it is what is like any of them, but not like those that are taken away', async () => {
    const [sample, more, less] = [
      [0.5, 0.8, 0.3],
      [
        [0.1, 1.5, 0.6],
        [0.9, 0.05, 0.2],
      ],
      [
        [0.6, 0.6, 0.5],
        [0.2, 1.2, 0.9],
      ],
    ] as const
    const truth = differenceCiede2000()
    const rgb = ([r, g, b]: readonly number[]): object => ({ mode: 'lrgb', r, g, b })
    const count = { more: 0, less: 0 }
    const expected = Array.from({ length: COUNT }, (_, i) => {
      const [r, g, b, a] = PIXELS.slice(i * 4, i * 4 + 4) as [number, number, number, number]
      const like = (colour: readonly number[]): number => ramp(truth(rgb([r / a, g / a, b / a]), rgb(colour)), 0, 18, 9)
      const held = Math.max(like(sample), ...more.map(like))
      const taken = Math.max(...less.map(like))
      if (held > like(sample)) count.more++
      if (held > 0 && taken > 0) count.less++
      // As the line “but not” of a slip: what is left of it
      return held * (1 - taken)
    })
    expect(Math.min(count.more, count.less)).toBeGreaterThan(40)
    const values = { sample: [...sample], more: more.map(one => [...one]), less: less.map(one => [...one]) }
    near(await held(term('colour', { ...values, tolerance: 18, soft: 9 } as never)), expected, 5e-4)
    near(
      await held(term('colour', { ...values, tolerance: 18, soft: 9 } as never, true)),
      expected.map(value => 1 - value),
      5e-4,
    )
  })
})
describe('a channel', () => {
  it.each(['red', 'green', 'blue'])('%s of the picture, divided by alpha', async name => {
    const c = ['red', 'green', 'blue'].indexOf(name)
    near(
      await held(term('channel', { channel: name, low: 0.4, high: 0.9, soft: 0.3 })),
      Array.from({ length: COUNT }, (_, i) => ramp(PIXELS[i * 4 + c]! / PIXELS[i * 4 + 3]!, 0.4, 0.9, 0.3)),
    )
  })
  it('alpha of the picture; y of the normals; a pass of one number by any channel', async () => {
    near(
      await held(term('channel', { channel: 'alpha', low: 0.5, high: 0.9, soft: 0.2 })),
      Array.from({ length: COUNT }, (_, i) => ramp(PIXELS[i * 4 + 3]!, 0.5, 0.9, 0.2)),
    )
    near(
      await held(term('channel', { channel: 'green', of: 'normal', low: -0.5, high: 0, soft: 0.2 }), {
        planes: planes(),
      }),
      PLANES['normal.Y'].map(value => ramp(value, -0.5, 0, 0.2)),
    )
    near(
      await held(term('channel', { channel: 'blue', of: 'occlusion', low: 0.6, high: 1, soft: 0.1 }), {
        planes: planes(),
      }),
      PLANES['occlusion.V'].map(value => ramp(value, 0.6, 1, 0.1)),
    )
  })
})
it('facing goes by the angle to the camera, whose cosine the pass holds; where it holds none nothing is in', async () => {
  const facing = [...PLANES['facing.V']]
  for (const at of [3, 77, 500]) facing[at] = 0
  for (const [low, high, soft] of [
    [30, 70, 15],
    [60, 90, 20],
  ] as const)
    near(
      await held(term('facing', { low, high, soft }), { planes: { [channelsOf('facing')[0]!]: facing } }),
      facing.map(cosine => (cosine > 0 ? ramp((Math.acos(cosine) * 180) / Math.PI, low, high, soft) : 0)),
      2e-4,
    )
})
it('facing a direction goes by the angle of the normals to it; where there are none nothing is in', async () => {
  const normals = ['normal.X', 'normal.Y', 'normal.Z'] as const
  const [x, y, z] = normals.map(name => [...PLANES[name]]) as [number[], number[], number[]]
  for (const at of [3, 77, 500]) x[at] = y[at] = z[at] = 0
  const own = Object.fromEntries([x, y, z].map((plane, c) => [channelsOf('normal')[c]!, plane]))
  const towards = [0.6, -0.2, 1.5]
  const values = { of: 'a direction', towards, low: 40, high: 110, soft: 25 }
  near(
    await held(term('facing', values), { planes: own }),
    x.map((_, i) => {
      const long = Math.hypot(x[i]!, y[i]!, z[i]!)
      if (!long) return 0
      const cosine = (x[i]! * towards[0]! + y[i]! * towards[1]! + z[i]! * towards[2]!) / long / Math.hypot(...towards)
      return ramp((Math.acos(Math.min(1, Math.max(-1, cosine))) * 180) / Math.PI, 40, 110, 25)
    }),
    3e-4,
  )
})
it('occlusion goes by what is shut in', async () => {
  near(
    await held(term('occlusion', { low: 0.5, high: 0.8, soft: 0.1 }), { planes: planes() }),
    PLANES['occlusion.V'].map(open => ramp(1 - open, 0.5, 0.8, 0.1)),
  )
})
describe('every matte', () => {
  const ids = MATTES.map(({ id }) => id).filter(id => id !== 'names')
  const all = (): Setup => ({ planes: planes() })
  /** What a new one begins with lies beyond so small a frame. */
  const OWN: Record<string, Record<string, number>> = {
    gradient: { from_x: 5, from_y: 3, to_x: 25, to_y: 18 },
    place: { x: 0, y: 0, z: 0, across: 6, up: 6, deep: 6, soft: 3 },
  }
  const own = (id: string): Record<string, number> => OWN[id] ?? {}
  it.each(ids)('%s: is 0 to 1, with something between, and turned over it is the rest', async id => {
    const plain = await held(term(id, own(id)), all())
    const turned = await held(term(id, own(id), true), all())
    expect(Math.min(...plain)).toBeGreaterThanOrEqual(0)
    expect(Math.max(...plain)).toBeLessThanOrEqual(1)
    expect(new Set(plain).size).toBeGreaterThan(3)
    near(
      turned,
      plain.map(value => 1 - value),
      1e-6,
    )
  })
  it.each(ids)('%s: a region of it is that part of the whole, to the bit', async id => {
    const area = { left: 7, top: 5, right: 30, bottom: 18 }
    const whole = await held(term(id, own(id)), all())
    const part = await held(term(id, own(id)), { ...all(), area })
    let i = 0
    for (let y = area.top; y < area.bottom; y++)
      for (let x = area.left; x < area.right; x++) expect(part[i++]).toBe(whole[y * WIDTH + x])
  })
  it.each(ids)('%s: what is no number, or endless, is in or out and leaves all else as it is', async id => {
    const odd = PIXELS.map((value, i) => (i % 28 < 3 ? NaN : i % 28 < 6 ? Infinity : value))
    const strange = Object.fromEntries(
      Object.entries(planes()).map(([name, values]) => [name, values.map((value, i) => (i % 7 === 0 ? NaN : value))]),
    )
    const found = await held(term(id, own(id)), { pixels: odd, planes: strange })
    for (const value of found) expect(value >= 0 && value <= 1).toBe(true)
    const plain = await held(term(id, own(id)), all())
    // A key is made of what is round a pixel too
    if (id === 'key') return
    for (let i = 0; i < COUNT; i++) if (i % 7 > 1) expect(found[i]).toBe(plain[i])
  })
  it.each(ids)('%s: declares itself fully', id => {
    const { sentence, values, help, sample } = matteKindOf(id)
    expect(help).toMatch(/\.$/)
    for (const [name, field] of Object.entries(values)) {
      expect(sentence).toContain(`{${name}}`)
      expect(field.help).toMatch(/\.$/)
      if (field.kind !== 'values') expect(field.label).toBeTruthy()
    }
    if (sample) expect(values[sample]!.kind).toBe('values')
    expect(Object.keys(firstValues(values))).toEqual(Object.keys(values))
  })
})

describe('a picture, and what differs from one', () => {
  it('a picture’s channel is how much is in: of colour divided by alpha, its luminance, its coverage', async () => {
    const of = (say: (r: number, g: number, b: number, a: number) => number): number[] =>
      Array.from({ length: COUNT }, (_, i) => {
        const [r, g, b, a] = OTHERS.slice(i * 4, i * 4 + 4) as [number, number, number, number]
        return Math.min(1, Math.max(0, say(r / a, g / a, b / a, a)))
      })
    near(
      await held(term('picture', { channel: 'green' })),
      of((_, g) => g),
    )
    near(
      await held(term('picture', { channel: 'alpha' })),
      of((_r, _g, _b, a) => a),
    )
    near(
      await held(term('picture', { channel: 'brightness' })),
      of((r, g, b) => 0.2126 * r + 0.7152 * g + 0.0722 * b),
    )
  })
  it.each([
    ['a picture', 1],
    ['frame', 2],
  ])('change against %s is the most that a channel differs, in stops', async (from, times) => {
    const expected = Array.from({ length: COUNT }, (_, i) => {
      const a = PIXELS[i * 4 + 3]!
      const off = [0, 1, 2].map(c =>
        Math.abs(Math.log2(PIXELS[i * 4 + c]! / a + 0.01) - Math.log2((OTHERS[i * 4 + c]! * times) / a + 0.01)),
      )
      return ramp(Math.max(...off), 0.5, Infinity, 0.4)
    })
    expect(expected.filter(value => value > 0.1 && value < 0.9).length).toBeGreaterThan(10)
    near(await held(term('change', { from, frame: 2, more: 0.5, soft: 0.4, dark: 0.01 })), expected, 2e-4)
  })
})

describe('a place', () => {
  const [X, Y, Z] = channelsOf('position') as [string, string, string]
  const spread = (): number[] => plane(() => random() * 6 - 3)
  const there = { [X]: spread(), [Y]: spread(), [Z]: spread() }
  const values = { x: 0.5, y: -0.2, z: 0.3, across: 2, up: 3, deep: 1, soft: 0.8 }
  const by = (say: (x: number, y: number, z: number) => number): number[] =>
    there[X]!.map((x, i) => say(Math.abs(x - 0.5), Math.abs(there[Y]![i]! + 0.2), Math.abs(there[Z]![i]! - 0.3)))
  it('a box holds what is in it, and fades by the metres outside', async () => {
    const outside = (x: number, y: number, z: number): number =>
      Math.hypot(Math.max(0, x - 1), Math.max(0, y - 1.5), Math.max(0, z - 0.5))
    near(
      await held(term('place', values), { planes: there }),
      by((x, y, z) => ramp(outside(x, y, z), 0, 0, 0.8)),
    )
  })
  it('a ball of that width, height and depth', async () => {
    near(
      await held(term('place', { ...values, across: 2, up: 2, deep: 2, shape: 'ball' }), { planes: there }),
      by((x, y, z) => ramp(Math.hypot(x, y, z), 0, 1, 0.8)),
    )
    const [half] = await held(term('place', { ...values, shape: 'ball' }), {
      planes: {
        ...there,
        [X]: there[X]!.map(() => 1.5),
        [Y]: there[Y]!.map(() => -0.2),
        [Z]: there[Z]!.map(() => 0.3),
      },
    })
    expect(half).toBeCloseTo(1, 5)
  })
})

describe('noise', () => {
  const even = { size: 9, octaves: 1, contrast: 1, level: 0.5 }
  it('is about a half, smooth, of another pattern by seed, and drifts whole pixels as it is', async () => {
    const plain = await held(term('noise', even))
    const mean = plain.reduce((sum, value) => sum + value, 0) / COUNT
    expect(Math.abs(mean - 0.5)).toBeLessThan(0.06)
    const spread = Math.sqrt(plain.reduce((sum, value) => sum + (value - mean) ** 2, 0) / COUNT)
    expect(spread).toBeGreaterThan(0.08)
    // No step from pixel to pixel, also where the cells of the noise meet
    for (let i = 0; i < COUNT; i++) if (i % WIDTH) expect(Math.abs(plain[i]! - plain[i - 1]!)).toBeLessThan(0.16)
    const other = await held(term('noise', { ...even, seed: 2 }))
    expect(plain.filter((value, i) => Math.abs(value - other[i]!) > 0.05).length).toBeGreaterThan(COUNT / 3)
    const drifted = await held(term('noise', { ...even, drift_x: 4, drift_y: 2 }))
    for (let y = 2; y < HEIGHT; y++)
      for (let x = 4; x < WIDTH; x++) expect(drifted[y * WIDTH + x]).toBeCloseTo(plain[(y - 2) * WIDTH + x - 4]!, 5)
  })
  it('each octave is half as large and half as strong: its spectrum has the light there', async () => {
    const { slow, fast } = pythonOf<{ slow: number; fast: number }>(
      `
import json, sys, numpy as np
one, two = [np.array(a).reshape(${HEIGHT}, ${WIDTH}) for a in json.load(sys.stdin)]
def bands(a):
    f = np.abs(np.fft.rfft(a - a.mean(axis=1, keepdims=True), axis=1)) ** 2
    p = f.mean(axis=0)
    return p[1:9].sum(), p[9:].sum()
s1, f1 = bands(one); s2, f2 = bands(two)
print(json.dumps({'slow': s2 / s1, 'fast': f2 / f1}))`,
      [await held(term('noise', { ...even, size: 12 })), await held(term('noise', { ...even, size: 12, octaves: 3 }))],
    )
    expect(slow).toBeGreaterThan(0.7)
    expect(slow).toBeLessThan(1.6)
    expect(fast).toBeGreaterThan(2)
  })
  it('fixed to the world goes by places: what one sees of it moves with the thing; where none is known nothing is in', async () => {
    const frame = await held(term('noise', { ...even, octaves: 3 }))
    // A wall of a metre for nine pixels shows what the frame would
    const wall = (shift: number): Record<string, number[]> => {
      const places = [
        (x: number) => (x + shift + 0.5) / 9,
        (_: number, y: number) => (y + 0.5) / 9,
        (x: number, y: number) => (x === 20 && y === 10 ? NaN : 0),
      ]
      return Object.fromEntries(
        places.map((place, c) => [
          channelsOf('position')[c]!,
          Array.from({ length: COUNT }, (_, i) => place(i % WIDTH, Math.floor(i / WIDTH))),
        ]),
      )
    }
    const values = { ...even, octaves: 3, fixed: 'the world', metres: 1 }
    const still = await held(term('noise', values), { planes: wall(0) })
    still.forEach((value, i) =>
      i === 10 * WIDTH + 20 ? expect(value).toBe(0) : expect(value).toBeCloseTo(frame[i]!, 4),
    )
    const moved = await held(term('noise', values), { planes: wall(5) })
    for (let y = 0; y < 10; y++)
      for (let x = 0; x < WIDTH - 5; x++) expect(moved[y * WIDTH + x]).toBeCloseTo(still[y * WIDTH + x + 5]!, 4)
    const boiled = await held(term('noise', { ...values, boil: 0.7 }), { planes: wall(0) })
    expect(boiled.filter((value, i) => Math.abs(value - still[i]!) > 0.05).length).toBeGreaterThan(COUNT / 3)
  })
  it('level takes it from nothing to all, each pixel only ever further in: a thing dissolves in patches', async () => {
    let before = await held(term('noise', { ...even, contrast: 6, level: -2 }))
    expect(Math.max(...before)).toBe(0)
    for (const level of [-0.5, 0, 0.5, 1, 1.5, 3]) {
      const after = await held(term('noise', { ...even, contrast: 6, level }))
      after.forEach((value, i) => expect(value).toBeGreaterThanOrEqual(before[i]!))
      before = after
    }
    expect(Math.min(...before)).toBe(1)
  })
})
