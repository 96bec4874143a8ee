import { expect, it } from 'vitest'
import { arithmetic } from '../text/arithmetic'
import { valueAt, withKey, withValue } from './curve'

it('curves hold, run straight or ease between keys and stay beyond them', () => {
  const curve = { keys: [{ frame: 1, value: 0, ease: 'linear' as const }, { frame: 11, value: 10, ease: 'hold' as const }, { frame: 21, value: 20, ease: 'smooth' as const }, { frame: 31, value: 0, ease: 'linear' as const }] }
  expect([0, 1, 6, 11, 20, 21, 26, 31, 99].map(frame => valueAt(curve, frame))).toEqual([0, 0, 5, 10, 10, 20, 10, 0, 0])
  // Smoothstep: t²(3 - 2t) at a quarter is 0.15625
  expect(valueAt(curve, 23.5)).toBeCloseTo(20 - 20 * 0.15625, 12)
})

it('keys are set in order, once a frame', () => {
  const curve = withKey(withKey(withKey(5, 10, 1), 2, 3), 10, 4)
  expect(curve.keys.map(key => [key.frame, key.value])).toEqual([[2, 3], [10, 4]])
  expect(withValue(2, 1, 7)).toBe(7)
  expect(valueAt(withValue(curve, 2, 9), 2)).toBe(9)
})

it('sums can be typed, with units and relative to what stands there', () => {
  expect(['2+0.5', '-(3-1)*2', '1,5', '35 mm', '1e2/4', '*=2', '+=1', '2.5 stops'].map(text => arithmetic(text, 10))).toEqual([2.5, -4, 1.5, 35, 25, 20, 11, 2.5])
  for (const text of ['', 'two', '1+', '(2', '1/0', 'alert(1)']) expect(arithmetic(text)).toBeUndefined()
})
