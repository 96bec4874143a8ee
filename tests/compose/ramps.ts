// What mattes are held against.
import { expect } from 'vitest'

/** 1 from low to high, falling smoothly over so much outside. */
export const ramp = (value: number, low: number, high: number, soft: number): number => {
  const t = Math.min(1, Math.max(0, 1 - Math.max(low - value, value - high, 0) / Math.max(soft, 1e-6)))
  return t * t * (3 - 2 * t)
}
export const near = (found: readonly number[], expected: readonly number[], tolerance = 2e-5): void =>
  expected.forEach((value, i) => {
    if (!(Math.abs(found[i]! - value) <= tolerance)) expect.fail(`pixel ${i}: ${found[i]} for ${value}`)
  })
