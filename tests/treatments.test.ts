// Each treatment against its definition in double precision, at every proxy size, under mattes and partial alpha.
import { describe, expect, it } from 'vitest'
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { firstValues, sentenceAt, within, type EntryFields } from '../core/declare/values'
import { TREATMENTS, treatmentOf } from '../core/treatment/registry'
import { doesNothing } from '../core/compose/treatments'
import type { ChoiceField, EntryValue, NumberField } from '../core/declare/field'
import { randomFrom } from './compose/random'
import { pythonOf } from './python'
import { kernelModule } from '../host/engine'
import { treat as treated, type TreatOptions } from './compose/treat'

const pool = new Pool(new Kernels(kernelModule()))
const treat = (
  id: string,
  values: Record<string, EntryValue>,
  width: number,
  height: number,
  pixels: ArrayLike<number>,
  options: TreatOptions = {},
): Promise<Float32Array> => treated(pool, id, values, width, height, pixels, options)
const close = (ours: ArrayLike<number>, expected: number[], tolerance = 2e-6): void => {
  expected.forEach((value, i) =>
    expect(Math.abs(ours[i]! - value), `value ${i}: ${ours[i]} for ${value}`).toBeLessThanOrEqual(
      tolerance * Math.max(1, Math.abs(value)),
    ),
  )
}
const COLOURS: [number, number, number][] = [
  [0.18, 0.18, 0.18],
  [0.9, 0.1, 0.02],
  [0, 0, 0],
  [4, 0.5, 1],
  [-0.05, 0.3, 0.1],
  [60000, 2, 0.001],
]
const opaque = COLOURS.flatMap(colour => [...colour, 1])

it('exposure doubles the light with each stop, coverage stays', async () => {
  for (const stops of [-3, 0.5, 2])
    close(
      await treat('exposure', { stops }, COLOURS.length, 1, opaque),
      COLOURS.flatMap(colour => [...colour.map(value => value * 2 ** stops), 1]),
    )
})

it('levels: (in - black) / (white - black), to 1/gamma, to the ends out; below black straight on', async () => {
  const [black, white, gamma, low, high] = [0.05, 0.8, 2.2, 0.02, 1.5]
  const exact = (value: number): number => {
    const t = (value - black) / (white - black)
    return low + (t > 0 ? t ** (1 / gamma) : t) * (high - low)
  }
  close(
    await treat('levels', { black, white, gamma, out_black: low, out_white: high }, COLOURS.length, 1, opaque),
    COLOURS.flatMap(colour => [...colour.map(exact), 1]),
    4e-6,
  )
})
it('levels whose ends meet stay finite', async () => {
  for (const value of await treat('levels', { black: 1, white: 0.5 }, COLOURS.length, 1, opaque))
    expect(Number.isFinite(value)).toBe(true)
})

it('saturation keeps the luminance of Rec. ITU-R BT.709-6, item 3.2; 0 is grey', async () => {
  const luminance = (c: number[]): number => 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!
  for (const amount of [0, 0.4, 1.8])
    close(
      await treat('saturation', { amount }, COLOURS.length, 1, opaque),
      COLOURS.flatMap(colour => {
        const grey = luminance(colour)
        return [...colour.map(value => grey + (value - grey) * amount), 1]
      }),
    )
})

describe('vignette', () => {
  const flat = (width: number, height: number): Float32Array => new Float32Array(width * height * 4).fill(1)
  const values = { amount: 0.6, size: 0.4, softness: 30 }
  it('leaves the middle, takes its whole amount beyond the ramp, and is even on both sides', async () => {
    const [width, height] = [96, 64]
    const out = await treat('vignette', { ...values, softness: 10 }, width, height, flat(width, height))
    const at = (x: number, y: number): number => out[(y * width + x) * 4]!
    expect(at(48, 32)).toBe(1)
    expect(at(0, 0)).toBeCloseTo(0.4, 6)
    for (const [x, y] of [
      [5, 9],
      [30, 2],
      [47, 31],
    ] as const) {
      expect(at(x, y)).toBeCloseTo(at(width - 1 - x, y), 6)
      expect(at(x, y)).toBeCloseTo(at(x, height - 1 - y), 6)
    }
    expect(at(17, 32)).toBeGreaterThan(at(0, 0))
  })
  it('looks the same on proxies: lengths are pixels of the full frame', async () => {
    const full = await treat('vignette', values, 128, 80, flat(128, 80))
    for (const shrink of [2, 4] as const) {
      const [width, height] = [128 / shrink, 80 / shrink]
      const small = await treat('vignette', values, width, height, flat(width, height), { shrink })
      for (let y = 0; y < height; y++) {
        for (let x = 0; x < width; x++) {
          let mean = 0
          for (let j = 0; j < shrink; j++)
            for (let i = 0; i < shrink; i++) mean += full[((y * shrink + j) * 128 + x * shrink + i) * 4]! / shrink ** 2
          expect(Math.abs(small[(y * width + x) * 4]! - mean)).toBeLessThan(0.01)
        }
      }
    }
  })
})

describe('every treatment', () => {
  const isNumber = (id: string, name: string): boolean => treatmentOf(id).values[name]!.kind === 'number'
  /** Values that do something: a little off those that a new line begins with. */
  const unusual = (id: string): Record<string, number> =>
    Object.fromEntries(
      Object.entries(firstValues(treatmentOf(id).values)).map(([name, first], i) => {
        const field = treatmentOf(id).values[name]!
        if (field.kind === 'list') {
          const [low, high] = field.bend!.up.seen
          return [name, field.first!.map(([x, y]) => [x!, y! + (high - low) * 0.08])]
        }
        if (field.kind === 'values' && field.onPicture) return [name, field.parts.map((_, k) => (k % 7) * 0.02)]
        if (!isNumber(id, name)) return [name, first]
        const { low, high, whole } = treatmentOf(id).values[name] as NumberField
        const at = Math.min(high, (first as number) + (Math.min(high, 100) - low) * (0.03 + i * 0.01))
        return [name, whole ? Math.round(at) : at]
      }),
    ) as Record<string, number>
  type Held = ReturnType<typeof firstValues>[string]
  const neutralOf = (field: EntryFields[string], first: Held): Held =>
    field.kind === 'list' || field.neutral === undefined
      ? first
      : field.kind === 'values'
        ? field.parts.map(() => field.neutral!)
        : field.neutral
  /** Values at which each pixel of a small picture changes. */
  const STRONG: Record<string, Record<string, number | [number, number][]>> = {
    degrain: { amount: 2, smoothing: 4, search: 2 },
    over_frames: { amount: 2, smoothing: 4, before: 1, after: 1, search: 1 },
    shaped: { size: 3 },
    vignette: { amount: 0.5, size: 0, softness: 1 },
    focus: { distance: 1, fNumber: 0.1, factor: 50, most: 2 },
    motion_blur: { shutter: 360, from: 0, most: 100 },
    clamp: { low: 0.25, high: 0.35 },
    round: { turn: 170 },
    deconvolve: { radius: 1, amount: 1, goes: 6 },
    shoulder: { start: 0.01, limit: 0.5 },
    gamut: { cyan: 0.1, cyan_limit: 1.9, magenta: 0.1, magenta_limit: 1.9, yellow: 0.1, yellow_limit: 1.9, power: 1.2 },
    curves: {
      all: [
        [0, 0],
        [0.3, 0.2],
        [1, 0.9],
      ],
    },
    range: { hue: 40, width: 170, soft: 10, turn: 60, saturation: 0.6, stops: 0.5 },
  }
  const strong = (id: string): Record<string, number | [number, number][]> => STRONG[id] ?? unusual(id)
  /** Colour and coverage are multiplied or divided on purpose there, or a shadow is laid beneath what is covered. */
  const OF_COLOUR = (): string[] => ids.filter(id => id !== 'premultiply' && id !== 'contact')
  /** Something to see for what reads other frames or distances. */
  const round = (count: number, factor = 1): TreatOptions => ({
    depth: Array.from({ length: count }, () => 30),
    motion: Array.from({ length: count }, (_, i) => [1.5, 0.5 * i, -1.5, 0]).flat(),
    planes: {
      shadow: Array.from({ length: count }, () => [0.4, 0.5, 0.6, 1]).flat(),
      uv: Array.from({ length: count }, (_, i) => [0.9 - i / 4, 0.5, 0, 1]).flat(),
      normal_camera: Array.from({ length: count }, () => [0.6, -0.3, 0.7, 1]).flat(),
    },
    shares: { occlusion: Array.from({ length: count }, () => 0.3), mist: Array.from({ length: count }, () => 0.6) },
    grain: [
      {
        before: Array.from({ length: count }, () => [0.3, 0.1, 0.2, 1]).flat(),
        after: Array.from({ length: count }, () => [0.1, 0.1, 0.3, 1]).flat(),
      },
    ].map(({ before, after }) => ({
      before: before.map(value => value * factor),
      after: after.map(value => value * factor),
    })),
    at: () =>
      Array.from({ length: count }, () => [0.8, 0.1, 0.5, 1])
        .flat()
        .map(value => value * factor),
  })
  // What lines of its own make is of tests/looks.test.ts
  const ids = TREATMENTS.filter(({ lined }) => !lined).map(({ id }) => id)
  it.each(OF_COLOUR().filter(id => !treatmentOf(id).fed))(
    '%s: works where the matte is 1, not where it is 0, half way between',
    async id => {
      const pixels = [0.4, 0.3, 0.2, 1, 0.1, 0.6, 0.5, 1, 0.9, 0.2, 0.3, 1]
      const values = strong(id)
      const whole = await treat(id, values, 3, 1, pixels, round(3))
      const out = await treat(id, values, 3, 1, pixels, { ...round(3), matte: [1, 0.5, 0] })
      expect([...whole].some((value, i) => Math.abs(value - pixels[i]!) > 1e-3)).toBe(true)
      close(out.slice(0, 4), [...whole.slice(0, 4)])
      close(
        out.slice(4, 8),
        [...whole.slice(4, 8)].map((value, c) => (value + pixels[4 + c]!) / 2),
      )
      expect([...out.slice(8)]).toEqual([...Float32Array.from(pixels.slice(8))])
    },
  )
  it.each(OF_COLOUR())('%s: half-covered colour is treated as the colour it is half of', async id => {
    const values = strong(id)
    const solid = await treat(id, values, 1, 1, [0.4, 0.3, 0.2, 1], round(1))
    const thin = await treat(id, values, 1, 1, [0.2, 0.15, 0.1, 0.5], round(1, 0.5))
    close(
      thin,
      [...solid].map(value => value / 2),
    )
  })
  it.each(ids.filter(id => id !== 'contact'))('%s: keeps clear pixels clear and coverage as it is', async id => {
    const clear = { ...round(1, 0) }
    expect([...(await treat(id, unusual(id), 1, 1, [0, 0, 0, 0], clear))].every(value => value === 0)).toBe(true)
    // What is brought to another place takes its coverage there
    if (treatmentOf(id).shape) return
    expect((await treat(id, unusual(id), 1, 1, [0.1, 0.1, 0.1, 0.3], round(1, 0.3)))[3]).toBeCloseTo(0.3, 6)
  })
  it.each(ids)('%s: declares itself fully', id => {
    const { sentence, values, help } = treatmentOf(id)
    for (const [name, field] of Object.entries(values)) {
      expect(sentence).toContain(`{${name}}`)
      if (field.kind !== 'values') expect(field.label).toBeTruthy()
      if (field.kind === 'choice') {
        expect(field.choices.length).toBeGreaterThan(1)
        for (const word of [field.neutral, field.first]) expect([undefined, ...field.choices]).toContain(word)
      } else if (field.kind === 'list') expect(field.first!.length).toBeGreaterThan(1)
      else {
        expect(field.low).toBeLessThan(field.high)
        if (field.neutral !== undefined) expect(field.neutral).toBeGreaterThanOrEqual(field.low)
      }
      expect(field.help).toMatch(/\.$/)
    }
    expect(help).toMatch(/\.$/)
  })
  it.each(ids)('%s: its sentence says no word of what does not count', id => {
    const { sentence, values } = treatmentOf(id)
    const first = firstValues(values)
    expect(sentenceAt(sentence, values, first)).not.toMatch(/[[\]]/)
    for (const [name, field] of Object.entries(values)) {
      if (!field.with) continue
      const { name: beside, is } = field.with
      const others = values[beside] as ChoiceField
      for (const choice of others.choices as string[]) {
        const said = sentenceAt(sentence, values, { ...first, [beside]: choice })
        expect(said.includes(`{${name}}`), `${name} at ${choice}`).toBe(is.includes(choice))
      }
    }
  })
  it.each(ids)('%s: is shown by values that do something, each within its range', id => {
    const { values, shown = {} } = treatmentOf(id)
    for (const [name, value] of Object.entries(shown)) {
      const field = values[name]!
      for (const one of [value].flat())
        if (field.kind === 'number' || field.kind === 'values')
          expect(within(one as number, field.low, field.high)).toBe(one)
    }
    expect(doesNothing(treatmentOf(id), { ...firstValues(values), ...shown })).toBe(false)
  })
  it.each(ids)('%s: does nothing at its neutral values, and is then not computed', id => {
    const treatment = treatmentOf(id)
    const neutral = Object.fromEntries(
      Object.entries(firstValues(treatment.values)).map(([name, first]) => [
        name,
        neutralOf(treatment.values[name]!, first),
      ]),
    )
    if (id === 'recolour') neutral.to = neutral.from!
    // What is made of a file does nothing without one (tests/compose)
    const hasNeutral = Object.values(treatment.values).some(field => 'neutral' in field && field.neutral !== undefined)
    if (!treatment.tabled && hasNeutral) expect(doesNothing(treatment, neutral)).toBe(true)
    expect(doesNothing(treatment, unusual(id))).toBe(false)
  })
  it.each(ids)('%s: what is no number, or endless, does not spread', async id => {
    const [width, height] = [24, 16]
    const random = randomFrom(3)
    const pixels = Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 1 : random()))
    const depth = Array.from({ length: width * height }, () => 5 + random() * 20)
    const odd = pixels.map((value, i) => ({ 400: NaN, 405: Infinity, 802: -Infinity })[i] ?? value)
    const own = new Set([100, 101, 200])
    const found = await treat(id, unusual(id), width, height, odd, { depth, at: () => odd })
    const plain = await treat(id, unusual(id), width, height, pixels, { depth, at: () => pixels })
    const { beside } = TREATMENTS.find(treatment => treatment.id === id)!
    for (let i = 0; i < found.length; i++) {
      if (own.has(i >> 2)) continue
      const isRight = beside ? Number.isFinite(found[i]) : found[i] === plain[i]
      if (!isRight) throw new Error(`pixel ${i >> 2}: ${found[i]}, else ${plain[i]}`)
    }
  })
  it.each(ids)('%s: regions and proxies agree with the whole', async id => {
    const [width, height] = [96, 64]
    const random = randomFrom(7)
    const smooth = (x: number, y: number, c: number): number =>
      c === 3 ? 1 : 0.4 + 0.3 * Math.sin(x / 17 + c) * Math.cos(y / 13) + random() * 0.01
    const pixels = Array.from({ length: width * height * 4 }, (_, i) =>
      smooth((i >> 2) % width, Math.floor((i >> 2) / width), i % 4),
    )
    const depth = Array.from({ length: width * height }, (_, i) => 5 + (i % width))
    const at = (): number[] => pixels.map((value, i) => (i % 4 === 3 ? 1 : value * 0.7))
    const values = unusual(id)
    const whole = await treat(id, values, width, height, pixels, { depth, at })
    const area = { left: 21, top: 17, right: 70, bottom: 41 }
    const part = await treat(id, values, width, height, pixels, { depth, at, area })
    let i = 0
    for (let y = area.top; y < area.bottom; y++)
      for (let x = area.left; x < area.right; x++)
        for (let c = 0; c < 4; c++) if (part[i++] !== whole[(y * width + x) * 4 + c]) throw new Error(`${x} ${y} ${c}`)
    const halved = (data: ArrayLike<number>, channels: number): number[] =>
      Array.from({ length: (width / 2) * (height / 2) * channels }, (_, k) => {
        const c = k % channels
        const x = (Math.floor(k / channels) % (width / 2)) * 2
        const y = Math.floor(k / channels / (width / 2)) * 2
        const read = (dx: number, dy: number): number => data[((y + dy) * width + x + dx) * channels + c]!
        return (read(0, 0) + read(1, 0) + read(0, 1) + read(1, 1)) / 4
      })
    // Of what has no order only the spread agrees (tests/near.test.ts)
    if (id === 'grain' || id === 'hatch') return
    const small = await treat(id, values, width / 2, height / 2, halved(pixels, 4), {
      depth: halved(depth, 1),
      at: () => halved(at(), 4),
      shrink: 2,
    })
    const expected = halved(whole, 4)
    const misses = [...small].map((value, k) => Math.abs(value - expected[k]!) / Math.max(1, expected[k]!))
    // At its seams what is brought to another place is another pixel: there the mean tells
    const worst = treatmentOf(id).shape
      ? misses.reduce((sum, miss) => sum + miss, 0) / misses.length
      : Math.max(...misses)
    // What goes by the hue meets noise where a picture is nearly grey
    expect(worst).toBeLessThan({ range: 0.04, posterise: 0.06, over_frames: 0.08 }[id] ?? 0.03)
  })
})

describe('Gaussian blur', () => {
  const [width, height] = [150, 110]
  const random = randomFrom(3)
  const noise = Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 1 : random() ** 4 * 3))
  it.each([
    [0.6, 2e-3],
    [1.5, 2e-4],
    [5, 2e-4],
    [12, 5e-4],
    [20, 2e-3],
    [45, 4e-3],
  ])('of standard deviation %s is OpenCV’s to %s', async (radius, tolerance) => {
    const expected = pythonOf<number[]>(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
a = np.array(d['pixels'], np.float64).reshape(d['height'], d['width'], 4)
k = 2 * int(np.ceil(d['radius'] * 6)) + 1
print(json.dumps(cv2.GaussianBlur(a, (k, k), d['radius'], borderType=cv2.BORDER_REFLECT).ravel().tolist()))`,
      { pixels: noise, width, height, radius },
    )
    const ours = await treat('blur', { radius }, width, height, noise)
    const worst = ours.reduce((most, value, i) => Math.max(most, Math.abs(value - expected[i]!)), 0)
    expect(worst).toBeLessThan(tolerance)
  })
  it('of a piece in the frame spreads into nothing: all of its light stays, none is cut at its rim', async () => {
    for (const radius of [3, 20]) {
      const [w, h] = [400, 300]
      const window = { left: 190, top: 141, right: 207, bottom: 152 }
      const pixels = new Float32Array(w * h * 4).fill(1)
      const out = await treat('blur', { radius }, w, h, pixels, {
        window,
        area: { left: 0, top: 0, right: w, bottom: h },
      })
      const sum = out.reduce((total, value) => total + value, 0)
      expect(sum / (17 * 11 * 4)).toBeCloseTo(1, 3)
    }
  })
})

describe('tint by distance', () => {
  const values = { amount: 0.8, near: 10, far: 30, colour: [0.2, 0.4, 0.9] }
  it('grows evenly from the near distance to the far one, by its share; what has no distance is farthest', async () => {
    const depth = [5, 10, 15, 20, 30, 1000, 1e30]
    const shares = [0, 0, 0.25, 0.5, 1, 1, 1].map(share => share * 0.8)
    const out = await treated(
      pool,
      'distance_tint',
      values,
      depth.length,
      1,
      depth.flatMap(() => [1, 0.5, 0.25, 1]),
      { depth },
    )
    close(
      out,
      shares.flatMap(share => [1 + (0.2 - 1) * share, 0.5 + (0.4 - 0.5) * share, 0.25 + (0.9 - 0.25) * share, 1]),
    )
  })
})

describe('average over frames', () => {
  it('is the mean of the frames, those at the ends of the shot counted again', async () => {
    const at = (frame: number): number[] => [frame / 100, 1, 0, 1]
    const out = await treat('average', { before: 2, after: 1 }, 1, 1, at(10), { at, frame: 10 })
    close(out, [(8 + 9 + 10 + 11) / 400, 1, 0, 1])
  })
})
