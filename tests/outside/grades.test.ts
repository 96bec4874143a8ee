// Treatments of light and colour against OpenColorIO 2.1 (Debian), culori (npm), tables of the CIE and their closed forms.
import { describe, expect, it } from 'vitest'
import { converter } from 'culori'
import { lightChromaticity, lightOf } from '../../core/colour/kelvin'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { kernelModule } from '../../host/engine'
import { treatmentOf } from '../../core/treatment/registry'
import { randomFrom } from '../compose/random'
import type { TakeOfColour } from '../../core/treatment/treatment'
import { treat } from '../compose/treat'
import { pythonOf } from '../python'

const pool = new Pool(new Kernels(kernelModule()))
type Colour = readonly [number, number, number]
const treated = async (
  id: string,
  values: Record<string, number | number[] | string>,
  colours: readonly Colour[],
): Promise<Colour[]> => {
  const out = await treat(
    pool,
    id,
    values,
    colours.length,
    1,
    colours.flatMap(colour => [...colour, 1]),
  )
  return colours.map((_, i) => [out[i * 4]!, out[i * 4 + 1]!, out[i * 4 + 2]!])
}
const near = (found: readonly Colour[], expected: readonly (readonly number[])[], tolerance: number): void =>
  expected.forEach((colour, i) =>
    colour.forEach((value, c) =>
      expect(Math.abs(found[i]![c]! - value), `${i}: ${found[i]!.join()} for ${colour.join()}`).toBeLessThanOrEqual(
        tolerance * Math.max(1, Math.abs(value)),
      ),
    ),
  )
const random = randomFrom(21)
const RANDOM = Array.from({ length: 200 }, (): Colour => [random() ** 2 * 4, random() ** 2 * 4, random() ** 2 * 4])

it('into the gamut is the Academy’s reference gamut compression, as OpenColorIO has it', async () => {
  // Also beyond the gamut, and dark
  const colours = [...RANDOM, ...RANDOM.map(([r, g, b]): Colour => [r - 0.3, g * 0.01, b - 0.2])]
  const { applied } = pythonOf<{ applied: Colour[] }>(
    `
import json, sys, PyOpenColorIO as O
t = O.FixedFunctionTransform(O.FIXED_FUNCTION_ACES_GAMUT_COMP_13, [1.147, 1.264, 1.312, 0.815, 0.803, 0.880, 1.2])
p = O.Config.CreateRaw().getProcessor(t).getDefaultCPUProcessor()
print(json.dumps({'applied': [p.applyRGB(c) for c in json.load(sys.stdin)]}))`,
    colours,
  )
  expect(
    applied.filter((colour, i) => colour.some((value, c) => Math.abs(value - colours[i]![c]!) > 1e-3)).length,
  ).toBeGreaterThan(50)
  near(await treated('gamut', { cyan_limit: 1.147, magenta_limit: 1.264, yellow_limit: 1.312 }, colours), applied, 3e-6)
})

describe('hues, by culori’s OKLCh', () => {
  const oklch = converter('oklch')
  const lrgb = converter('lrgb')
  const turned = ([r, g, b]: Colour, by: number): Colour => {
    const colour = oklch({ mode: 'lrgb', r, g, b })
    const out = lrgb({ ...colour, h: (colour.h ?? 0) + by })
    return [out.r, out.g, out.b]
  }
  it.each([-150, -20, 45, 180])('turned by %s°', async angle => {
    near(
      await treated('hue', { angle }, RANDOM),
      RANDOM.map(colour => turned(colour, angle)),
      2e-5,
    )
  })
  it('below nothing, too, and very bright: a turn there and back changes nothing', async () => {
    const colours: Colour[] = [
      [-0.2, 0.4, 0.1],
      [60000, 2, 0.001],
      [0.5, -0.1, 300],
    ]
    const there = await treated('hue', { angle: 70 }, colours)
    const back = await treated('hue', { angle: -70 }, there)
    // A channel is known as well as the strongest beside it
    colours.forEach((colour, i) =>
      colour.forEach((value, c) => expect(Math.abs(back[i]![c]! - value)).toBeLessThan(1e-6 * Math.max(...colour))),
    )
  })
  it('one range: what is in it is turned as strong as it was, what is opposite and what is grey stays', async () => {
    const blue: Colour = [0.02, 0.05, 0.9]
    const others: Colour[] = [
      [0.9, 0.6, 0.02],
      [0.3, 0.3, 0.3],
      [0, 0, 0],
      [0.8, 0.02, 0.1],
    ]
    const values = { hue: oklch({ mode: 'lrgb', r: blue[0], g: blue[1], b: blue[2] }).h!, width: 20, soft: 10 }
    const out = await treated('range', { ...values, turn: 60 }, [blue, ...others])
    near(out, [turned(blue, 60), ...others], 3e-5)
    const [stronger, , grey] = await treated('range', { ...values, turn: 0, saturation: 0.5, stops: 1 }, [
      blue,
      ...others,
    ])
    const half = oklch({ mode: 'lrgb', r: blue[0], g: blue[1], b: blue[2] })
    const { r, g, b } = lrgb({ ...half, c: half.c / 2 })
    near([stronger!, grey!], [[r * 2, g * 2, b * 2], others[1]!], 3e-5)
  })
  it('all hues make a whole: half in, half out, as the end is soft', async () => {
    const around = Array.from({ length: 360 }, (_, h): Colour => {
      const { r, g, b } = lrgb({ mode: 'oklch', l: 0.7, c: 0.1, h })
      return [r, g, b]
    })
    const out = await treated('range', { hue: 100, width: 30, soft: 20, stops: 1 }, around)
    const gains = out.map((colour, i) => Math.log2(colour[1] / around[i]![1]))
    expect(gains[100]).toBeCloseTo(1, 4)
    expect(gains[129]).toBeCloseTo(1, 2)
    expect(gains[151]).toBeCloseTo(0, 2)
    expect(gains[49]).toBeCloseTo(0, 2)
    // No step between neighbours
    gains.forEach((gain, i) => expect(Math.abs(gain - gains[(i + 1) % 360]!)).toBeLessThan(0.12))
  })
})

describe('white balance', () => {
  const TO_XYZ = [0.4123908, 0.3575843, 0.1804808, 0.212639, 0.7151687, 0.0721923, 0.0193308, 0.1191948, 0.9505322]
  const times = (m: readonly number[], [a, b, c]: readonly number[]): Colour => [
    m[0]! * a! + m[1]! * b! + m[2]! * c!,
    m[3]! * a! + m[4]! * b! + m[5]! * c!,
    m[6]! * a! + m[7]! * b! + m[8]! * c!,
  ]
  it('daylight of 6504 K is D65, 5003 K is D50, 2856 K is illuminant A (CIE 15:2004, table T.3), to 0.0006', () => {
    for (const [kelvin, x, y] of [
      [6504, 0.3127, 0.329],
      [5003, 0.3457, 0.3585],
      [7504, 0.299, 0.3149],
      [2856, 0.4476, 0.4074],
    ] as const) {
      const [foundX, foundY] = lightChromaticity(kelvin)
      expect(Math.abs(foundX - x)).toBeLessThan(6e-4)
      expect(Math.abs(foundY - y)).toBeLessThan(6e-4)
    }
  })
  it.each([
    // Rows as published: S. Lam's in ICC.1:2010, annex E; C. Li et al. 2017
    ['bradford', [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296]],
    ['cat16', [0.401288, 0.650173, -0.051461, -0.250268, 1.204414, 0.045854, -0.002079, 0.048952, 0.953127]],
  ])('%s: each response of the eye goes as its white does', async (by, responses) => {
    const white = (kelvin: number): Colour => {
      const [x, y] = lightChromaticity(kelvin)
      return [x / y, 1, (1 - x - y) / y]
    }
    const [from, to] = [white(3000), white(6504)].map(xyz => times(responses, xyz)) as [Colour, Colour]
    const out = await treated('balance', { from: 3000, to: 6504, by }, RANDOM)
    RANDOM.forEach((colour, i) => {
      const before = times(responses, times(TO_XYZ, colour))
      const after = times(responses, times(TO_XYZ, out[i]!))
      after.forEach((value, c) => expect(Math.abs(value - (before[c]! * to[c]!) / from[c]!)).toBeLessThan(1e-4))
    })
  })
  it('a white taken in lamp light comes out white; tint takes green away', async () => {
    const [x, y] = lightChromaticity(3200)
    const xyz = [x / y, 1, (1 - x - y) / y]
    // Inverse of the matrix above (IEC 61966-2-1)
    const lamp = times(
      [3.2409699, -1.5373832, -0.4986108, -0.9692436, 1.8759675, 0.0415551, 0.0556301, -0.203977, 1.0569715],
      xyz,
    )
    near(await treated('balance', { from: 3200, to: 6504, by: 'bradford' }, [lamp]), [[1, 1, 1]], 2e-3)
    const [greener] = await treated('balance', { to_tint: 20 }, [[1, 1, 1]])
    expect(greener![1] - (greener![0] + greener![2]) / 2).toBeGreaterThan(0.02)
  })
})

describe('light', () => {
  it('contrast: stops about the pivot, so many for each, below nothing as above', async () => {
    const colours = [-4, -1, 0, 1, 5].map((stops): Colour => [0.18 * 2 ** stops, -0.18 * 2 ** stops, 0.18])
    near(
      await treated('contrast', { amount: 1.5 }, colours),
      [-4, -1, 0, 1, 5].map(stops => [0.18 * 2 ** (1.5 * stops), -0.18 * 2 ** (1.5 * stops), 0.18]),
      2e-6,
    )
    const [out] = await treated('contrast', { amount: 0.5, pivot: 1, of: 'brightness' }, [[8, 2, 4]])
    expect(out![0] / out![1]).toBeCloseTo(4, 4)
    const light = 8 * 0.2126 + 2 * 0.7152 + 4 * 0.0722
    expect(out![0] * 0.2126 + out![1] * 0.7152 + out![2] * 0.0722).toBeCloseTo(Math.sqrt(light), 4)
  })
  it('a shoulder leaves what is darker, goes on as steep, never reaches its limit', async () => {
    const values = { start: 0.6, limit: 1.4 }
    const of = async (x: number): Promise<number> => (await treated('shoulder', values, [[x, 0, -1]]))[0]![0]
    expect(await of(0.5999)).toBe(Math.fround(0.5999))
    expect((await of(0.6 + 1e-3)) - (await of(0.6))).toBeCloseTo(1e-3, 5)
    expect(await of(1.4)).toBeCloseTo(0.6 + (0.8 * 1) / 2, 5)
    expect(await of(60000)).toBeLessThanOrEqual(1.4)
    const [kept] = await treated('shoulder', { ...values, of: 'brightness' }, [[8, 4, 2]])
    expect(kept![0]! / kept![1]!).toBeCloseTo(2, 5)
    expect(kept![0]!).toBeLessThan(1.4)
  })
  it('tones: each part has its own light and colour, middle grey the middles’ alone', async () => {
    const values = {
      dark: -3,
      shadow_stops: 1,
      middle_stops: 0.5,
      bright: 3,
      light_stops: -1,
      light_colour: [1, 0.5, 0.25],
      soft: 2,
    }
    const at = (stops: number): Colour => [0.18 * 2 ** stops, 0.18 * 2 ** stops, 0.18 * 2 ** stops]
    const out = await treated('tones', values, [-6, 0, 6, -3].map(at))
    near(
      out,
      [
        at(-5),
        at(0.5),
        [at(5)[0], at(5)[1] / 2, at(5)[2] / 4],
        // On the border half of each
        at(-3 + 0.75),
      ],
      2e-5,
    )
    // Light never runs backwards through the borders
    const ramp = Array.from({ length: 400 }, (_, i) => at(-8 + i / 25))
    const grey = await treated('tones', { ...values, light_stops: -0.5 }, ramp)
    for (let i = 1; i < grey.length; i++) expect(grey[i]![0]).toBeGreaterThan(grey[i - 1]![0])
    expect((await treated('tones', values, [[0, 0, 0]]))[0]).toEqual([0, 0, 0])
  })
})

describe('colour and numbers', () => {
  it('channels are mixed as a matrix says, tint keeps the luminance, invert takes from white', async () => {
    near(
      await treated('channels', { red_red: 0, red_green: 0.5, red_blue: 0.5, blue_red: 1, blue_blue: 0 }, [[1, 2, 4]]),
      [[3, 2, 1]],
      1e-6,
    )
    const tinted = await treated('tint', { amount: 1, colour: [2, 1, 0.5] }, [[0.2, 0.5, 0.9]])
    const light = 0.2 * 0.2126 + 0.5 * 0.7152 + 0.9 * 0.0722
    expect(tinted[0]![0] / tinted[0]![2]).toBeCloseTo(4, 5)
    expect(tinted[0]![0] * 0.2126 + tinted[0]![1] * 0.7152 + tinted[0]![2] * 0.0722).toBeCloseTo(light, 6)
    near(await treated('invert', { amount: 1, white: 2 }, [[0.25, 2, 5]]), [[1.75, 0, -3]], 1e-6)
  })
  it('clamp holds all there is, and makes a number of what is none', async () => {
    expect(
      await treated('clamp', { low: -0.5, high: 2 }, [
        [NaN, Infinity, -Infinity],
        [-1, 1, 3],
      ]),
    ).toEqual([
      [-0.5, 2, -0.5],
      [-0.5, 1, 2],
    ])
  })
  it('colour is multiplied and divided by coverage; where there is none it stays', async () => {
    const pixels = [1, 0.5, 0.25, 0.5, 0.3, 0.2, 0.1, 0]
    expect([...(await treat(pool, 'premultiply', { how: 'multiplied' }, 2, 1, pixels))]).toEqual([
      0.5, 0.25, 0.125, 0.5, 0, 0, 0, 0,
    ])
    const divided = [...(await treat(pool, 'premultiply', { how: 'divided' }, 2, 1, pixels))]
    expect(divided).toEqual([...Float32Array.from([2, 1, 0.5, 0.5, 0.3, 0.2, 0.1, 0])])
  })
  it('sparing saturation moves strong colours and skin less than others, greys not', async () => {
    const spread = ([r, g, b]: Colour): number => Math.max(r, g, b) - Math.min(r, g, b)
    const pale: Colour = [0.4, 0.5, 0.55]
    const skin: Colour = [0.55, 0.47, 0.42]
    const strong: Colour = [0.05, 0.1, 0.6]
    const out = await treated('saturation', { amount: 1.6, how: 'sparing' }, [pale, skin, strong, [0.3, 0.3, 0.3]])
    const grown = [pale, skin, strong].map((colour, i) => spread(out[i]!) / spread(colour))
    expect(grown[0]).toBeGreaterThan(1.4)
    expect(grown[1]).toBeLessThan(1.25)
    expect(grown[2]).toBeLessThan(1.2)
    near([out[3]!], [[0.3, 0.3, 0.3]], 1e-6)
    // Luminance stays, as ever
    out.slice(0, 3).forEach((colour, i) => {
      const of = (c: Colour): number => c[0] * 0.2126 + c[1] * 0.7152 + c[2] * 0.0722
      expect(of(colour)).toBeCloseTo(of([pale, skin, strong][i]!), 6)
    })
  })
})

describe('a click on what should be grey', () => {
  it('finds lamps and daylight by their colour: CIE 15:2004, table T.3, to 1 %', () => {
    for (const [x, y, kelvin] of [
      [0.3127, 0.329, 6504],
      [0.3457, 0.3585, 5003],
      [0.299, 0.3149, 7504],
      [0.4476, 0.4074, 2856],
    ] as const) {
      const found = lightOf([x, y])
      expect(Math.abs(found.kelvin / kelvin - 1)).toBeLessThan(0.01)
      expect(Math.abs(found.duv)).toBeLessThan(0.001)
    }
  })
  it('makes it grey, whatever light it stood in', async () => {
    const [take] = treatmentOf('balance').takes! as TakeOfColour[]
    for (const colour of [
      [0.5, 0.3, 0.12],
      [0.2, 0.26, 0.34],
      [0.3, 0.34, 0.22],
    ] as const) {
      const values = take!.values(colour) as Record<string, number>
      for (const by of ['cat16', 'bradford']) {
        const [[r, g, b]] = (await treated('balance', { ...values, by }, [[...colour]])) as [Colour]
        expect(Math.max(r, g, b) / Math.min(r, g, b), `${colour.join()} ${by}`).toBeLessThan(1.01)
      }
    }
  })
})
