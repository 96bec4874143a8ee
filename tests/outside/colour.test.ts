// Encodings, matrices, CDL and lamp colours against OpenColorIO 2.1 (Debian), the standards' numbers and CIEDE2000.
import { describe, expect, it } from 'vitest'
import { differenceCiede2000 } from 'culori'
import { decodePixels, encodePixels, encodingOf, ENCODINGS } from '../../core/colour/encoding'
import { kelvinToRgb, planckianChromaticity } from '../../core/colour/kelvin'
import { AP1, apply3, REC709, rgbToRgb } from '../../core/colour/matrix'
import { viewOf, viewTables, VIEWS } from '../../core/colour/view'
import { displayCodes } from '../../core/compose/deliver'
import { Kernels } from '../../core/engine/memory'
import { boxOf } from '../../core/engine/box'
import { Pool } from '../../core/engine/pool'
import { kernelModule } from '../../host/engine'
import { treat } from '../compose/treat'
import { python } from '../python'

const pool = new Pool(new Kernels(kernelModule()))

/** A treatment on a row of RGBA pixels. */
const treated = async (
  kind: string,
  values: Record<string, number>,
  pixels: number[],
  strength = 1,
): Promise<number[]> => [...(await treat(pool, kind, values, pixels.length / 4, 1, pixels, { strength }))]
const CDL = {
  slope_r: 1.2,
  slope_g: 1,
  slope_b: 0.9,
  offset_r: 0.01,
  offset_g: -0.02,
  offset_b: 0.03,
  power_r: 1.1,
  power_g: 0.9,
  power_b: 1,
  saturation: 0.8,
}

it('AP1 to linear Rec.709 is OpenColorIO’s built-in matrix', () => {
  const columns = python<number[][]>(`
import json, PyOpenColorIO as O
p = O.Config.CreateRaw().getProcessor(O.BuiltinTransform('UTILITY - ACES-AP1_to_LINEAR-REC709_BFD')).getDefaultCPUProcessor()
print(json.dumps([p.applyRGB(list(c)) for c in ((1.0,0,0),(0,1.0,0),(0,0,1.0))]))`)
  const ours = rgbToRgb(AP1, REC709)
  for (let row = 0; row < 3; row++)
    for (let column = 0; column < 3; column++)
      expect(Math.abs(ours[row * 3 + column]! - columns[column]![row]!)).toBeLessThan(2e-5)
})

it('sRGB is OpenColorIO’s moncurve (gamma 2.4, offset 0.055) both ways', () => {
  const codes = [0, 0.001, 0.04, 0.0404, 0.0405, 0.1, 0.5, 0.9, 1]
  const expected = python<number[]>(
    `
import sys, json, PyOpenColorIO as O
t = O.ExponentWithLinearTransform(); t.setGamma([2.4]*3+[1]); t.setOffset([0.055]*3+[0])
p = O.Config.CreateRaw().getProcessor(t).getDefaultCPUProcessor()
print(json.dumps([p.applyRGB([v]*3)[0] for v in json.loads(sys.argv[1])]))`,
    JSON.stringify(codes),
  )
  codes.forEach((code, i) => {
    expect(Math.abs(encodingOf('srgb').decode!(code) - expected[i]!)).toBeLessThan(2e-6)
    expect(encodingOf('srgb').encode!(encodingOf('srgb').decode!(code))).toBeCloseTo(code, 6)
  })
})

describe('encodings of cameras and displays', () => {
  const CODES = [
    [0.02, 0.3, 0.9],
    [0.5, 0.5, 0.5],
    [1, 0.1, 0.4],
    [0.75, 0.76, 0.2],
  ]
  /**
   * Codes through OpenColorIO: built-in transforms one after another ('-' before a name: reversed), then CIE XYZ (D65)
   * to linear Rec.709 where asked.
   */
  const throughOcio = (transforms: string[], fromXyz: boolean): number[][] => {
    const found = python<number[][]>(
      `
import sys, json, PyOpenColorIO as O
g = O.GroupTransform()
for name in json.loads(sys.argv[1]):
    t = O.BuiltinTransform(name.lstrip('-'))
    if name[0] == '-': t.setDirection(O.TRANSFORM_DIR_INVERSE)
    g.appendTransform(t)
p = O.Config.CreateRaw().getProcessor(g).getDefaultCPUProcessor()
print(json.dumps([p.applyRGB(v) for v in json.loads(sys.argv[2])]))`,
      JSON.stringify(transforms),
      JSON.stringify(CODES),
    )
    // IEC 61966-2-1: XYZ to linear sRGB, as its amendment 1 gives it
    return fromXyz
      ? found.map(c =>
          apply3(
            [3.2406255, -1.537208, -0.4986286, -0.9689307, 1.8757561, 0.0415175, 0.0557101, -0.2040211, 1.0569959],
            c[0]!,
            c[1]!,
            c[2]!,
          ),
        )
      : found
  }
  const ours = (id: string): number[][] => {
    const pixels = Float32Array.from(CODES.flatMap(code => [...code, 1]))
    decodePixels(pixels, encodingOf(id))
    return CODES.map((_, i) => [...pixels.slice(i * 4, i * 4 + 3)])
  }
  const agree = (id: string, expected: number[][], tolerance = 2e-4): void =>
    ours(id).forEach((pixel, i) =>
      pixel.forEach((value, c) =>
        expect(
          Math.abs(value - expected[i]![c]!) / Math.max(1, Math.abs(expected[i]![c]!)),
          `${id} ${i} ${c}`,
        ).toBeLessThan(tolerance),
      ),
    )
  it('ACEScct, ACEScg and ACES2065-1 are OpenColorIO’s', () => {
    agree('acescct', throughOcio(['CURVE - ACEScct-LOG_to_LINEAR', 'UTILITY - ACES-AP1_to_LINEAR-REC709_BFD'], false))
    agree('acescg', throughOcio(['UTILITY - ACES-AP1_to_LINEAR-REC709_BFD'], false))
    agree('aces2065', throughOcio(['UTILITY - ACES-AP0_to_CIE-XYZ-D65_BFD'], true))
    expect([0.18, 0, 1].map(value => Number(encodingOf('acescct').encode!(value).toFixed(6)))).toEqual([
      0.413588, 0.072906, 0.554795,
    ])
  })
  it('BT.1886 is OpenColorIO’s Rec.1886 display', () =>
    agree('bt1886', throughOcio(['-DISPLAY - CIE-XYZ-D65_to_REC.1886-REC.709'], true)))
  it('P3 and Rec.2020 primaries are OpenColorIO’s', () => {
    const linear = (codes: number[][], gamma: number): number[][] =>
      codes.map(code => code.map(value => value ** gamma))
    for (const [id, display, gamma] of [
      ['p3', 'G2.6-P3-D65', 2.6],
      ['rec2020', 'REC.1886-REC.2020', 2.4],
    ] as const) {
      const expected = throughOcio([`-DISPLAY - CIE-XYZ-D65_to_${display}`], true)
      linear(CODES, gamma).forEach((light, i) =>
        apply3(encodingOf(id).toWorking!, light[0]!, light[1]!, light[2]!).forEach((value, c) =>
          expect(Math.abs(value - expected[i]![c]!)).toBeLessThan(2e-4),
        ),
      )
    }
  })
  it('PQ is SMPTE ST 2084 as OpenColorIO has it (1.0 there is 100 cd/m², here 203)', () => {
    const expected = throughOcio(['CURVE - ST-2084_to_LINEAR'], false)
    CODES.forEach((code, i) =>
      code.forEach((value, c) => {
        const light = (encodingOf('pq').decode!(value) * 203) / 100
        expect(Math.abs(light / expected[i]![c]! - 1)).toBeLessThan(2e-4)
      }),
    )
    expect(encodingOf('pq').encode!(100 / 203)).toBeCloseTo(0.508078396, 6)
    // ITU-R BT.2408, table 1 (from memory): reference white is 58 % PQ
    expect(encodingOf('pq').encode!(1)).toBeCloseTo(0.58, 2)
  })
  it('HLG has the numbers of ITU-R BT.2100 and BT.2408 (from memory): 1/12 at 50 %, white at 75 %, 18 % grey at 38 %', () => {
    const { decode, encode } = encodingOf('hlg')
    expect(decode!(0.5) / decode!(1)).toBeCloseTo(1 / 12, 6)
    expect(decode!(0.75)).toBeCloseTo(1, 9)
    expect(encode!(0.18)).toBeCloseTo(0.38, 2)
    expect(encode!(decode!(0.500001)) - encode!(decode!(0.499999))).toBeCloseTo(2e-6, 7)
  })
})

it('Rec.709 has the numbers of ITU-R BT.709-6, item 1.2', () => {
  const { encode } = encodingOf('rec709')
  expect(encode!(0.018)).toBeCloseTo(4.5 * 0.018, 3)
  expect(encode!(0.5)).toBeCloseTo(1.099 * 0.5 ** 0.45 - 0.099, 12)
  expect(encode!(1)).toBeCloseTo(1, 12)
})

it('every encoding comes back', () => {
  const pixels = Float32Array.from([0.02, 0.4, 0.9, 1, -0.1, 2.5, 0.18, 0.5])
  for (const encoding of ENCODINGS) {
    const copy = pixels.slice()
    encodePixels(copy, encoding)
    decodePixels(copy, encoding)
    copy.forEach((value, i) => expect(value).toBeCloseTo(pixels[i]!, 5))
  }
})

describe('ASC CDL', () => {
  it('is what OpenColorIO computes without clamping', async () => {
    const pixels = [
      [0.25, 0.5, 1],
      [-0.1, 0.5, 1.2],
      [0, 0, 0],
      [3, 0.01, 0.7],
    ]
    const expected = python<number[][]>(
      `
import sys, json, PyOpenColorIO as O
t = O.CDLTransform(); t.setSlope([1.2,1,.9]); t.setOffset([.01,-.02,.03]); t.setPower([1.1,.9,1]); t.setSat(.8); t.setStyle(O.CDL_NO_CLAMP)
p = O.Config.CreateRaw().getProcessor(t).getDefaultCPUProcessor()
print(json.dumps([p.applyRGB(v) for v in json.loads(sys.argv[1])]))`,
      JSON.stringify(pixels),
    )
    const ours = await treated(
      'cdl',
      CDL,
      pixels.flatMap(pixel => [...pixel, 1]),
    )
    pixels.forEach((_, i) =>
      expected[i]!.forEach((value, c) => expect(Math.abs(ours[i * 4 + c]! - value)).toBeLessThan(3e-6)),
    )
  })
})

it('powers are within 5e-7 of the exact ones', async () => {
  const bases = Array.from({ length: 400 }, (_, i) => 1e-4 * 1.03 ** i)
  for (const power of [0.1, 0.45, 1 / 2.4, 0.9, 1.1, 2.2, 4]) {
    const ours = await treated(
      'levels',
      { black: 0, white: 1, gamma: 1 / power, out_black: 0, out_white: 1 },
      bases.flatMap(value => [value, value, value, 1]),
    )
    bases.forEach((value, i) => {
      const exact = Math.fround(value) ** Math.fround(Math.fround(power))
      expect(Math.abs(ours[i * 4]! / exact - 1)).toBeLessThan(8e-7)
    })
  }
})

it('half strength goes half way', async () => {
  const pixels = [0.2, 0.7, 1.4, 1, 0.05, 0.1, 0.02, 0.4]
  const whole = await treated('exposure', { stops: 1 }, pixels)
  const half = await treated('exposure', { stops: 1 }, pixels, 0.5)
  whole.forEach((value, i) => expect(half[i]).toBeCloseTo((value + pixels[i]!) / 2, 5))
})

it('the display kernel rounds every view exactly', () => {
  const count = 4096
  const values = Float32Array.from({ length: count }, (_, i) =>
    i < 256 ? encodingOf('srgb').decode!(i / 255) : 2 ** ((i / count) * 24 - 16),
  )
  const { kernels } = pool
  const pixels = new Float32Array(count * 4)
  values.forEach((value, i) => pixels.fill(value, i * 4, i * 4 + 4))
  const pointer = kernels.place(pixels)
  for (const view of VIEWS) {
    const codes = displayCodes(pool, { pointer, ...boxOf(count, 1) }, view.id)
    values.forEach((value, i) => {
      const exact = view.encode(value) * 255
      const code = Math.min(255, Math.round(exact))
      if (Math.abs(exact - Math.round(exact)) < 0.4999) expect(codes[i * 4], `${view.id} of ${value}`).toBe(code)
    })
  }
  kernels.dispose(pointer)
  // A display picture comes back as it was
  for (let code = 0; code < 256; code++) {
    const { thresholds } = viewTables(viewOf('srgb'))
    const value = Math.fround(encodingOf('srgb').decode!(code / 255))
    expect(value >= thresholds[code]! && value < thresholds[code + 1]!).toBe(true)
  }
})

describe('lamp colours', () => {
  // CIE 15:2004, table of Planckian chromaticities as listed for illuminant A (2856 K): x 0.44757, y 0.40745
  it('2856 K lies on CIE illuminant A', () => {
    const [x, y] = planckianChromaticity(2856)
    expect(Math.abs(x - 0.44757)).toBeLessThan(0.0015)
    expect(Math.abs(y - 0.40745)).toBeLessThan(0.0015)
  })
  it('are warm below and cool above daylight, of luminance 1', () => {
    for (const kelvin of [1667, 2400, 5600, 9000, 25000]) {
      const [r, g, b] = kelvinToRgb(kelvin)
      expect(0.2126 * r + 0.7152 * g + 0.0722 * b).toBeCloseTo(1, 6)
    }
    expect(kelvinToRgb(2400)[0]).toBeGreaterThan(2 * kelvinToRgb(2400)[2])
    expect(kelvinToRgb(12000)[2]).toBeGreaterThan(kelvinToRgb(12000)[0])
  })
})

it('CIEDE2000 as used in these tests gives pair 1 of Sharma, Wu and Dalal (2005): 2.0425', () => {
  const difference = differenceCiede2000()(
    { mode: 'lab65', l: 50, a: 2.6772, b: -79.7751 },
    { mode: 'lab65', l: 50, a: 0, b: -82.7485 },
  )
  expect(difference).toBeCloseTo(2.0425, 4)
})
