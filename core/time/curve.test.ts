import { addRow } from '../shot/rows'
import { describe, expect, it } from 'vitest'
import { arithmetic } from '../text/arithmetic'
import { newDocument, newTreatment } from '../shot/document'
import { animatedValues, putValue, setRate } from '../shot/values'
import {
  movedKeys,
  pastedKeys,
  valueAt,
  withKey,
  withMotion,
  withoutKeys,
  withValue,
  type Animatable,
  type Curve,
} from './curve'

it('curves hold, run straight or ease between keys and stay beyond them', () => {
  const curve = {
    keys: [
      { frame: 1, value: 0, ease: 'linear' as const },
      { frame: 11, value: 10, ease: 'hold' as const },
      { frame: 21, value: 20, ease: 'smooth' as const },
      { frame: 31, value: 0, ease: 'linear' as const },
    ],
  }
  expect([0, 1, 6, 11, 20, 21, 26, 31, 99].map(frame => valueAt(curve, frame))).toEqual([0, 0, 5, 10, 10, 20, 10, 0, 0])
  // Smoothstep: t²(3 - 2t) at a quarter is 0.15625
  expect(valueAt(curve, 23.5)).toBeCloseTo(20 - 20 * 0.15625, 12)
})

it('keys are set in order, once a frame', () => {
  const curve = withKey(withKey(withKey(5, 10, 1), 2, 3), 10, 4)
  expect(curve.keys.map(key => [key.frame, key.value])).toEqual([
    [2, 3],
    [10, 4],
  ])
  expect(withValue(2, 1, 7)).toBe(7)
  expect(valueAt(withValue(curve, 2, 9), 2)).toBe(9)
})

it('sums can be typed, with units and relative to what stands there', () => {
  expect(
    ['2+0.5', '-(3-1)*2', '1,5', '35 mm', '1e2/4', '*=2', '+=1', '2.5 stops'].map(text => arithmetic(text, 10)),
  ).toEqual([2.5, -4, 1.5, 35, 25, 20, 11, 2.5])
  for (const text of ['', 'two', '1+', '(2', '1/0', 'alert(1)']) expect(arithmetic(text)).toBeUndefined()
})

describe('handles', () => {
  it('of a third, level, are the plain smooth ease; in line they are a straight line', () => {
    const plain = {
      keys: [
        { frame: 0, value: 2, ease: 'smooth' as const },
        { frame: 30, value: 8, ease: 'smooth' as const },
      ],
    }
    const level = {
      keys: [
        { ...plain.keys[0]!, after: { frames: 10, value: 0 } },
        { ...plain.keys[1]!, before: { frames: 10, value: 0 } },
      ],
    }
    const straight = {
      keys: [
        { ...plain.keys[0]!, after: { frames: 10, value: 2 } },
        { ...plain.keys[1]!, before: { frames: 10, value: -2 } },
      ],
    }
    for (let frame = 0; frame <= 30; frame += 0.7) {
      expect(valueAt(level, frame)).toBeCloseTo(valueAt(plain, frame), 9)
      expect(valueAt(straight, frame)).toBeCloseTo(2 + frame / 5, 9)
    }
  })
  it('follow the cubic Bezier (Bernstein polynomials) at known parameters, and never run back in time', () => {
    const curve = {
      keys: [
        { frame: 0, value: 0, ease: 'smooth' as const, after: { frames: 5, value: 9 } },
        { frame: 20, value: 10, ease: 'smooth' as const, before: { frames: 15, value: 3 } },
      ],
    }
    for (const s of [0.1, 0.35, 0.5, 0.9]) {
      const x = 3 * (1 - s) ** 2 * s * 5 + 3 * (1 - s) * s * s * 5 + s ** 3 * 20
      const y = 3 * (1 - s) ** 2 * s * 9 + 3 * (1 - s) * s * s * 13 + s ** 3 * 10
      expect(valueAt(curve, x)).toBeCloseTo(y, 8)
    }
    const far = {
      keys: [
        { frame: 0, value: 0, ease: 'smooth' as const, after: { frames: 500, value: 0 } },
        { frame: 10, value: 1, ease: 'smooth' as const, before: { frames: 500, value: 0 } },
      ],
    }
    const list = Array.from({ length: 101 }, (_, i) => valueAt(far, i / 10))
    list.forEach((value, i) => {
      if (i) expect(value).toBeGreaterThanOrEqual(list[i - 1]! - 1e-12)
    })
  })
})

describe('drift and sway', () => {
  it('drift adds so much a second from the first key on', () => {
    const curve = withMotion(5, 11, { drift: 3 }, 24000 / 1001)
    expect(valueAt(curve, 11)).toBe(5)
    expect(valueAt(curve, 11 + (24000 / 1001) * 2)).toBeCloseTo(11, 9)
    expect(valueAt(curve, 11 - 24000 / 1001)).toBeCloseTo(2, 9)
    expect(withMotion(curve, 1, {}, 24)).toBe(5)
  })
  it('sway stays within its amount, has no steps, and depends on its seed alone', () => {
    const make = (seed: number): Animatable => withMotion(100, 1, { sway: { amount: 4, speed: 2, seed } }, 24)
    const a = Array.from({ length: 2000 }, (_, i) => valueAt(make(1), i / 4) - 100)
    const b = Array.from({ length: 2000 }, (_, i) => valueAt(make(2), i / 4) - 100)
    expect(Math.max(...a.map(Math.abs))).toBeLessThanOrEqual(4)
    expect(Math.max(...a)).toBeGreaterThan(2)
    expect(Math.min(...a)).toBeLessThan(-2)
    a.forEach((value, i) => {
      if (i) expect(Math.abs(value - a[i - 1]!)).toBeLessThan(0.4)
    })
    expect(a.reduce((sum, value, i) => sum + value * b[i]!, 0) / 2000 / 16).toBeLessThan(0.1)
    expect(a).toEqual(Array.from({ length: 2000 }, (_, i) => valueAt(make(1), i / 4) - 100))
  })
  it('a value typed is the value seen, with what wanders on top', () => {
    const curve = withMotion(
      withKey(withKey(0, 1, 0, 'linear'), 21, 20),
      1,
      { drift: 2, sway: { amount: 3, speed: 1, seed: 9 } },
      25,
    )
    expect(valueAt(withValue(curve, 9, 4), 9)).toBeCloseTo(4, 9)
    const bare = withMotion(7, 1, { drift: 2 }, 25)
    expect(valueAt(withValue(bare, 40, 1), 40)).toBeCloseTo(1, 9)
    expect((withValue(bare, 40, 1) as Curve).keys).toHaveLength(1)
  })
})

describe('keys under the hand', () => {
  const curve: Curve = {
    keys: [
      [1, 0],
      [5, 10],
      [9, 20],
      [20, 5],
    ].map(([frame, value]) => ({ frame: frame!, value: value!, ease: 'linear' as const })),
  }
  const told = (value: Animatable): number[][] => (value as Curve).keys.map(key => [key.frame, key.value])
  it('move in time and value, and win where they land', () => {
    expect(told(movedKeys(curve, new Set([5, 9]), { frames: 11, value: 1 }))).toEqual([
      [1, 0],
      [16, 11],
      [20, 21],
    ])
  })
  it('stretch about a frame, on whole frames; turned about, what led in leads out', () => {
    expect(told(movedKeys(curve, new Set([1, 5, 9]), { scale: 2, about: 1 }))).toEqual([
      [1, 0],
      [9, 10],
      [17, 20],
      [20, 5],
    ])
    expect(told(movedKeys(curve, new Set([1, 5, 9]), { scale: 0.4, about: 1 }))).toEqual([
      [1, 0],
      [3, 10],
      [4, 20],
      [20, 5],
    ])
    const turned = movedKeys(
      {
        keys: [
          { frame: 0, value: 0, ease: 'smooth', after: { frames: 4, value: 1 } },
          { frame: 10, value: 1, ease: 'smooth' },
        ],
      },
      new Set([0, 10]),
      { scale: -1, about: 10 },
    )
    expect(turned.keys[1]).toEqual({ frame: 20, value: 0, ease: 'smooth', before: { frames: 4, value: 1 } })
  })
  it('are copied to another frame, and the last one taken away leaves its value', () => {
    expect(told(pastedKeys(curve, curve.keys.slice(0, 2), 18))).toEqual([
      [1, 0],
      [5, 10],
      [9, 20],
      [18, 0],
      [20, 5],
      [22, 10],
    ])
    expect(withoutKeys(curve, new Set([1, 5, 9, 20]))).toBe(0)
    expect(told(withoutKeys(curve, new Set([1, 20])))).toEqual([
      [5, 10],
      [9, 20],
    ])
  })
})

it('curves of things in an order come in that order, however they are held', () => {
  const document = newDocument()
  for (const id of ['zz', '7', 'b'])
    addRow(document.finish, { ...newTreatment('exposure', {}, id), values: { stops: withKey(0, 1, 2) } })
  expect(animatedValues(document).map(({ path }) => path[1])).toEqual(['zz', '7', 'b'])
})
it('every curve of a document is found, named, and kept to the rate', () => {
  const document = newDocument()
  document.scene.camera.pitch = withKey(1, 1, 2)
  addRow(document.finish, {
    ...newTreatment('exposure', {}, 'e'),
    values: { stops: withMotion(0, 1, { drift: 1 }, 24) },
  })
  expect(animatedValues(document).map(({ key, owner, name }) => [key, owner, name])).toEqual([
    ['/scene/camera/pitch', 'Camera', 'pitch'],
    ['/finish/e/values/stops', 'Exposure', 'exposure'],
  ])
  setRate(document, { numerator: 50, denominator: 1 })
  expect(valueAt(document.finish.e!.values.stops as Animatable, 51)).toBeCloseTo(1, 9)
  putValue(document, ['scene', 'camera', 'pitch'], 3)
  expect(document.scene.camera.pitch).toBe(3)
  expect(() => putValue(document, ['scene', 'nothing', 'x'], 1)).toThrow(/no scene nothing x/)
})
