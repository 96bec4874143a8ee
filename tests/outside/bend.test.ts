// Curves through points: the data of Fritsch and Carlson 1980 (RPN 14, from memory), what must hold of any, and as a
// treatment in the machine's own code.
import { describe, expect, it } from 'vitest'
import { bend, bendTable, isStraight } from '../../core/colour/bend'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { kernelModule } from '../../host/engine'
import { randomFrom } from '../compose/random'
import { treat } from '../compose/treat'
import { pythonOf } from '../python'

const RPN14: [number, number][] = [
  [7.99, 0],
  [8.09, 2.76429e-5],
  [8.19, 4.37498e-2],
  [8.7, 0.169183],
  [9.2, 0.469428],
  [10, 0.94374],
  [12, 0.998636],
  [15, 0.999919],
  [20, 0.999994],
]
const random = randomFrom(14)
const anyPoints = (count: number): [number, number][] => {
  let x = random()
  return Array.from({ length: count }, () => [(x += 0.02 + random()), random() * 3])
}

describe('a curve', () => {
  it('goes through its points and stays between neighbours, where a plain cubic overshoots', () => {
    for (const points of [RPN14, ...Array.from({ length: 60 }, () => anyPoints(2 + Math.floor(random() * 9)))]) {
      const at = bend(points)
      for (const [x, y] of points) expect(at(x)).toBeCloseTo(y, 10)
      for (let i = 1; i < points.length; i++) {
        const [[x0, y0], [x1, y1]] = [points[i - 1]!, points[i]!]
        let before = y0
        for (let k = 1; k <= 50; k++) {
          const value = at(x0 + ((x1 - x0) * k) / 50)
          expect(Math.sign(Number((value - before).toFixed(12))) * Math.sign(y1 - y0)).toBeGreaterThanOrEqual(0)
          before = value
        }
      }
    }
  })
  it('has no kink: its slope is the same from both sides', () => {
    for (let round = 0; round < 40; round++) {
      const points = anyPoints(6)
      const at = bend(points)
      for (const [x] of points) {
        const h = 1e-6
        expect(Math.abs((at(x + h) - at(x)) / h - (at(x) - at(x - h)) / h)).toBeLessThan(1e-2)
      }
    }
  })
  it('where it need not be held it is the cubic Hermite of mean slopes, as numpy solves it', () => {
    // Even places, secants that differ little
    const points: [number, number][] = [
      [0, 0],
      [1, 1],
      [2, 2.2],
      [3, 3.3],
      [4, 4.5],
    ]
    const expected = pythonOf<number[]>(
      `
import json, sys, numpy as np
p = np.array(json.load(sys.stdin))
x, y = p[:, 0], p[:, 1]
m = np.concatenate([[y[1] - y[0]], (y[2:] - y[:-2]) / 2, [y[-1] - y[-2]]])
out = []
for q in np.linspace(0, 4, 81)[:-1]:
    i = min(int(q), 3)
    # The cubic of two values and two slopes, by its linear system
    A = [[1, 0, 0, 0], [0, 1, 0, 0], [1, 1, 1, 1], [0, 1, 2, 3]]
    c = np.linalg.solve(A, [y[i], m[i], y[i + 1], m[i + 1]])
    t = q - i
    out.append(float(c @ [1, t, t * t, t ** 3]))
print(json.dumps(out))`,
      points,
    )
    const at = bend(points)
    expected.forEach((value, i) => expect(at(i / 20)).toBeCloseTo(value, 10))
  })
  it('goes on beyond its ends as it ends; of one point it is moved, of none it is straight; order does not matter', () => {
    const at = bend([
      [0.2, 0.1],
      [1, 0.9],
    ])
    expect([at(0), at(2)]).toEqual([expect.closeTo(-0.1, 10), expect.closeTo(1.9, 10)])
    expect([bend([])(0.3), bend([[0.5, 0.7]])(1)]).toEqual([0.3, expect.closeTo(1.2, 10)])
    expect(bend([...RPN14].reverse())(9)).toBe(bend(RPN14)(9))
    expect(
      isStraight([
        [0, 0],
        [0.4, 0.4],
      ]),
    ).toBe(true)
    expect(isStraight(RPN14)).toBe(false)
    expect([...bendTable([], 0, 4, 5)]).toEqual([0, 1, 2, 3, 4])
  })
})

it('as a treatment it bends light as the eye takes it, each channel first by its own, HDR and below nothing too', async () => {
  const pool = new Pool(new Kernels(kernelModule()))
  const all: [number, number][] = [
    [0, 0.02],
    [0.4, 0.3],
    [1, 1.1],
  ]
  const red: [number, number][] = [
    [0, 0],
    [0.5, 0.7],
    [1, 1],
  ]
  const straight: [number, number][] = [
    [0, 0],
    [1, 1],
  ]
  const signed = (value: number, power: number): number => Math.sign(value) * Math.abs(value) ** power
  const [ofAll, ofRed] = [bend(all), bend(red)]
  const on = (curve: (x: number) => number, seen: number): number =>
    curve(Math.min(4, Math.max(0, seen))) + Math.min(0, seen) + Math.max(0, seen - 4)
  const exact = (value: number, own?: (x: number) => number): number => {
    const seen = signed(value, 1 / 2.4)
    return signed(on(ofAll, own ? on(own, seen) : seen), 2.4)
  }
  const values = [-0.2, 0, 0.001, 0.05, 0.18, 0.5, 1, 3, 12, 80]
  const pixels = values.flatMap(value => [value, value, value / 2, 1])
  const out = await treat(pool, 'curves', { all, red, green: straight, blue: straight }, values.length, 1, pixels)
  values.forEach((value, i) => {
    for (const [c, expected] of [
      [0, exact(value, ofRed)],
      [1, exact(value)],
      [2, exact(value / 2)],
    ] as const)
      expect(Math.abs(out[i * 4 + c]! - expected), `${value}, ${c}`).toBeLessThan(2e-5 + 1e-4 * Math.abs(expected))
  })
  const only = await treat(pool, 'curves', { all }, values.length, 1, pixels)
  values.forEach((value, i) => expect(only[i * 4 + 1]).toBe(out[i * 4 + 1]))
})
