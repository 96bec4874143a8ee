// CIELAB and CIEDE2000 in formulas, against culori (npm) on the pairs of Sharma, Wu and Dalal 2005 (table 1; their numbers
// from memory, their differences as culori has them) and on many others.
import { expect, it } from 'vitest'
import { converter, differenceCiede2000 } from 'culori'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { ciede2000, labOf, labTerms } from '../../core/formula/lab'
import { point } from '../../core/formula/point'
import { Colour } from '../../core/formula/term'
import { kernelModule } from '../../host/engine'
import { shade } from '../../kernels/record'
import { randomFrom } from '../compose/random'

type Three = [number, number, number]
const pool = new Pool(new Kernels(kernelModule()))
const Difference = point('Difference', { lab: shade }, ({ colour, values: { lab } }) => {
  const found = ciede2000(colour, lab)
  return new Colour(found, found, found)
})
const ToLab = point('ToLab', {}, ({ colour }) => labTerms(colour))
function run(kernel: typeof Difference, values: Three[], given: object): Three[] {
  const box = { left: 0, top: 0, right: values.length, bottom: 1 }
  const raster = { ...box, pointer: pool.kernels.allocate(values.length * 16) }
  const floats = pool.kernels.floats(raster.pointer, values.length * 4)
  floats.set(values.flatMap(value => [...value, 1]))
  pool.run(kernel, box, { source: raster, out: raster, strength: 1, straight: 0, ...given } as never)
  const out = values.map((_, i): Three => [floats[i * 4]!, floats[i * 4 + 1]!, floats[i * 4 + 2]!])
  pool.kernels.dispose(raster.pointer)
  return out
}
const between = (one: Three, other: Three): number => run(Difference, [one], { lab: other })[0]![0]
const lab = ([l, a, b]: Three): object => ({ mode: 'lab65', l, a, b })
const truth = differenceCiede2000()

const PAIRS: [Three, Three][] = [
  [
    [50, 2.6772, -79.7751],
    [50, 0, -82.7485],
  ],
  [
    [50, 3.1571, -77.2803],
    [50, 0, -82.7485],
  ],
  [
    [50, 2.8361, -74.02],
    [50, 0, -82.7485],
  ],
  [
    [50, -1.3802, -84.2814],
    [50, 0, -82.7485],
  ],
  [
    [50, -1.1848, -84.8006],
    [50, 0, -82.7485],
  ],
  [
    [50, -0.9009, -85.5211],
    [50, 0, -82.7485],
  ],
  [
    [50, 0, 0],
    [50, -1, 2],
  ],
  [
    [50, -1, 2],
    [50, 0, 0],
  ],
  [
    [50, 2.5, 0],
    [50, 0, -2.5],
  ],
  [
    [50, 2.5, 0],
    [73, 25, -18],
  ],
  [
    [50, 2.5, 0],
    [61, -5, 29],
  ],
  [
    [50, 2.5, 0],
    [56, -27, -3],
  ],
  [
    [50, 2.5, 0],
    [58, 24, 15],
  ],
  [
    [50, 2.5, 0],
    [50, 3.1736, 0.5854],
  ],
  [
    [50, 2.5, 0],
    [50, 3.2972, 0],
  ],
  [
    [50, 2.5, 0],
    [50, 1.8634, 0.5757],
  ],
  [
    [50, 2.5, 0],
    [50, 3.2592, 0.335],
  ],
  [
    [60.2574, -34.0099, 36.2677],
    [60.4626, -34.1751, 39.4387],
  ],
  [
    [63.0109, -31.0961, -5.8663],
    [62.8187, -29.7946, -4.0864],
  ],
  [
    [61.2901, 3.7196, -5.3901],
    [61.4292, 2.248, -4.962],
  ],
  [
    [35.0831, -44.1164, 3.7933],
    [35.0232, -40.0716, 1.5901],
  ],
  [
    [22.7233, 20.0904, -46.694],
    [23.0331, 14.973, -42.5619],
  ],
  [
    [36.4612, 47.858, 18.3852],
    [36.2715, 50.5065, 21.2231],
  ],
  [
    [90.8027, -2.0831, 1.441],
    [91.1528, -1.6435, 0.0447],
  ],
  [
    [90.9257, -0.5406, -0.9208],
    [88.6381, -0.8985, -0.7239],
  ],
  [
    [6.7747, -0.2908, -2.4247],
    [5.8714, -0.0985, -2.2286],
  ],
  [
    [2.0776, 0.0795, -1.135],
    [0.9033, -0.0636, -0.5514],
  ],
]
it('the first pair differs by 2.0425, the tenth by 27.1492 (as published)', () => {
  expect(between(...PAIRS[0]!)).toBeCloseTo(2.0425, 3)
  expect(between(...PAIRS[9]!)).toBeCloseTo(27.1492, 3)
})
it('all pairs, both ways round', () => {
  for (const [one, other] of PAIRS) {
    const expected = truth(lab(one), lab(other))
    for (const found of [between(one, other), between(other, one)])
      expect(Math.abs(found - expected), `${one.join()} ${other.join()}`).toBeLessThan(5e-4)
  }
})
it('two thousand colours against each other', () => {
  const random = randomFrom(8)
  const any = (): Three => [random() * 100, random() * 200 - 100, random() * 200 - 100]
  for (let round = 0; round < 20; round++) {
    const reference = any()
    const colours = Array.from({ length: 100 }, any)
    run(Difference, colours, { lab: reference }).forEach(([found], i) => {
      const expected = truth(lab(colours[i]!), lab(reference))
      // Nearly opposite hues have two means, a rounding apart
      const [, a1, b1] = colours[i]!
      const [, a2, b2] = reference
      const cosine = (a1 * a2 + b1 * b2) / Math.hypot(a1, b1) / Math.hypot(a2, b2)
      if (cosine > -0.9999)
        expect(Math.abs(found - expected), `${colours[i]!.join()} ${reference.join()}`).toBeLessThan(2e-3)
    })
  }
  const same = any()
  expect(between(same, same)).toBe(0)
})
it('CIELAB for D65 of scene-linear Rec.709, dark and bright', () => {
  const random = randomFrom(5)
  const colours = Array.from({ length: 300 }, (): Three => [random() ** 4 * 4, random() ** 4 * 4, random() ** 4 * 4])
  const toLab = converter('lab65')
  const found = run(ToLab as unknown as typeof Difference, colours, {})
  colours.forEach(([r, g, b], i) => {
    const { l, a, b: yellow } = toLab({ mode: 'lrgb', r, g, b })
    ;[l, a, yellow].forEach((value, c) => {
      expect(Math.abs(found[i]![c]! - value)).toBeLessThan(2e-3)
      expect(Math.abs(labOf([r, g, b])[c]! - value)).toBeLessThan(2e-3)
    })
  })
})
