import { expect, it } from 'vitest'
import { operatorKey } from '../../core/engine/key'

it('keys are the same for the same operator, values and inputs, and others for any difference', () => {
  expect(operatorKey('blur', 1, { radius: 2 }, 'abc')).toBe(operatorKey('blur', 1, { radius: 2 }, 'abc'))
  const all = [
    ['blur', 1, { radius: 2 }, 'abc'],
    ['blur', 2, { radius: 2 }, 'abc'],
    ['blur', 1, { radius: 2.0000001 }, 'abc'],
    ['blur', 1, { radius: 2 }, 'abd'],
    ['blur', 1, { radius: 2 }],
    ['blur', 1, ['radius', 2], 'abc'],
    ['blur', '1', { radius: 2 }, 'abc'],
  ]
  expect(new Set(all.map(parts => operatorKey(...parts))).size).toBe(all.length)
})
it('keys of a hundred thousand values do not meet', () => {
  expect(new Set(Array.from({ length: 100000 }, (_, i) => operatorKey('exposure', 1, { stops: i / 1000 }))).size).toBe(
    100000,
  )
})
