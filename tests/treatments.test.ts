// Each treatment against its definition in double precision, at every proxy size, under mattes and partial alpha.
import { describe, expect, it } from 'vitest'
import { Kernels } from '../core/engine/memory'
import { boxOf } from '../core/engine/box'
import { Pool } from '../core/engine/pool'
import { TREATMENTS, treatmentOf } from '../core/treatment/registry'
import { kernelModule } from '../host/engine'

const pool = new Pool(new Kernels(kernelModule()))
const { kernels } = pool
/** Runs a treatment over a picture. matte: one weight a pixel. */
function treat(
  id: string,
  values: Record<string, number>,
  width: number,
  height: number,
  pixels: ArrayLike<number>,
  options: { strength?: number; matte?: ArrayLike<number>; shrink?: 1 | 2 | 4 } = {},
): Float32Array {
  const treatment = treatmentOf(id)
  const area = boxOf(width, height)
  const source = { pointer: kernels.place(Float32Array.from(pixels)), ...area }
  const out = { pointer: kernels.allocate(width * height * 16), ...area }
  const matte = options.matte ? { pointer: kernels.place(Float32Array.from(options.matte)), ...area } : undefined
  const all = {
    ...Object.fromEntries(treatment.parameters.map(parameter => [parameter.id, parameter.neutral])),
    ...values,
  }
  const { kernel, straight, given } = treatment.point
  pool.run(kernel, area, {
    source,
    out,
    matte,
    strength: options.strength ?? 1,
    straight: straight ? 1 : 0,
    ...given(all, { width, height, shrink: options.shrink ?? 1 }),
  })
  const result = kernels.floats(out.pointer, width * height * 4).slice()
  for (const raster of [source, out, matte]) kernels.dispose(raster?.pointer ?? 0)
  return result
}
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

it('exposure doubles the light with each stop, coverage stays', () => {
  for (const stops of [-3, 0.5, 2])
    close(
      treat('exposure', { stops }, COLOURS.length, 1, opaque),
      COLOURS.flatMap(colour => [...colour.map(value => value * 2 ** stops), 1]),
    )
})

it('levels: (in - black) / (white - black), to 1/gamma, to the ends out; below black straight on', () => {
  const [black, white, gamma, low, high] = [0.05, 0.8, 2.2, 0.02, 1.5]
  const exact = (value: number): number => {
    const t = (value - black) / (white - black)
    return low + (t > 0 ? t ** (1 / gamma) : t) * (high - low)
  }
  close(
    treat('levels', { black, white, gamma, out_black: low, out_white: high }, COLOURS.length, 1, opaque),
    COLOURS.flatMap(colour => [...colour.map(exact), 1]),
    4e-6,
  )
})
it('levels whose ends meet stay finite', () => {
  for (const value of treat('levels', { black: 1, white: 0.5 }, COLOURS.length, 1, opaque))
    expect(Number.isFinite(value)).toBe(true)
})

it('saturation keeps the luminance of Rec. ITU-R BT.709-6, item 3.2; 0 is grey', () => {
  const luminance = (c: number[]): number => 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!
  for (const amount of [0, 0.4, 1.8])
    close(
      treat('saturation', { amount }, COLOURS.length, 1, opaque),
      COLOURS.flatMap(colour => {
        const grey = luminance(colour)
        return [...colour.map(value => grey + (value - grey) * amount), 1]
      }),
    )
})

describe('vignette', () => {
  const flat = (width: number, height: number): Float32Array => new Float32Array(width * height * 4).fill(1)
  const values = { amount: 0.6, size: 0.4, softness: 30 }
  it('leaves the middle, takes its whole amount beyond the ramp, and is even on both sides', () => {
    const [width, height] = [96, 64]
    const out = treat('vignette', { ...values, softness: 10 }, width, height, flat(width, height))
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
  it('looks the same on proxies: lengths are pixels of the full frame', () => {
    const full = treat('vignette', values, 128, 80, flat(128, 80))
    for (const shrink of [2, 4] as const) {
      const [width, height] = [128 / shrink, 80 / shrink]
      const small = treat('vignette', values, width, height, flat(width, height), { shrink })
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
  const unusual = (id: string): Record<string, number> =>
    Object.fromEntries(
      treatmentOf(id).parameters.map((parameter, i) => [
        parameter.id,
        Math.min(parameter.high, parameter.neutral + (parameter.high - parameter.neutral) * (0.03 + i * 0.01)),
      ]),
    )
  it.each(TREATMENTS.map(treatment => treatment.id))(
    '%s: works where the matte is 1, not where it is 0, half way between',
    id => {
      const pixels = Array.from({ length: 3 }, () => [0.4, 0.3, 0.2, 1]).flat()
      const values = unusual(id)
      // A vignette of one row would only reach its ends: the three pixels are one
      const whole = [0, 1, 2].map(i => treat(id, values, 3, 1, pixels).slice(i * 4, i * 4 + 4))
      const out = treat(id, values, 3, 1, pixels, { matte: [1, 0.5, 0] })
      close(out.slice(0, 4), [...whole[0]!])
      close(
        out.slice(4, 8),
        [...whole[1]!].map((value, c) => (value + pixels[c]!) / 2),
      )
      expect([...out.slice(8)]).toEqual([...Float32Array.from(pixels.slice(8))])
    },
  )
  it.each(TREATMENTS.map(treatment => treatment.id))(
    '%s: half-covered colour is treated as the colour it is half of',
    id => {
      const values = unusual(id)
      const solid = treat(id, values, 1, 1, [0.4, 0.3, 0.2, 1])
      const thin = treat(id, values, 1, 1, [0.2, 0.15, 0.1, 0.5])
      close(
        thin,
        [...solid].map(value => value / 2),
      )
    },
  )
  it.each(TREATMENTS.map(treatment => treatment.id))(
    '%s: keeps clear pixels clear, coverage as it is, and declares itself fully',
    id => {
      expect([...treat(id, unusual(id), 1, 1, [0, 0, 0, 0])].every(value => value === 0)).toBe(true)
      expect(treat(id, unusual(id), 1, 1, [0.1, 0.1, 0.1, 0.3])[3]).toBe(Math.fround(0.3))
      const { sentence, parameters, help } = treatmentOf(id)
      for (const parameter of parameters) {
        expect(sentence).toContain(`{${parameter.id}}`)
        expect(parameter.low).toBeLessThan(parameter.high)
        expect(parameter.neutral).toBeGreaterThanOrEqual(parameter.low)
        expect(parameter.neutral).toBeLessThanOrEqual(parameter.high)
      }
      expect(help).toMatch(/\.$/)
    },
  )
})
