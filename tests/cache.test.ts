import { describe, expect, it } from 'vitest'
import { kernelModule } from '../host/engine'
import { operatorKey } from '../core/engine/key'
import { RasterCache } from '../core/compose/cache'
import { Kernels } from '../core/engine/memory'

const made = (budget = 1 << 20): { cache: RasterCache; kernels: Kernels; make: (key: string) => number } => {
  const kernels = new Kernels(kernelModule())
  const cache = new RasterCache(kernels, budget)
  return { cache, kernels, make: key => cache.get(key, () => cache.allocate(64, 64, 16)).pointer }
}

describe('keys', () => {
  it('are the same for the same operator, values and inputs, and others for any difference', () => {
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
  it('of a hundred thousand values do not meet', () => {
    expect(
      new Set(Array.from({ length: 100000 }, (_, i) => operatorKey('exposure', 1, { stops: i / 1000 }))).size,
    ).toBe(100000)
  })
})

describe('results', () => {
  it('are made once', () => {
    const { cache, make } = made()
    cache.begin()
    const first = make('a')
    cache.begin()
    expect(make('a')).toBe(first)
    expect([cache.hits, cache.misses]).toEqual([1, 1])
  })
  it('beyond the budget go, those not asked for longest first', () => {
    const { cache, make } = made(3 * 65536)
    for (const key of ['a', 'b', 'c']) {
      cache.begin()
      make(key)
    }
    cache.begin()
    make('a')
    cache.begin()
    make('d')
    expect(['a', 'b', 'c', 'd'].map(key => cache.has(key))).toEqual([true, false, true, true])
  })
  it('that the evaluation at hand uses stay, whatever the budget', () => {
    const { cache, make } = made(65536)
    cache.begin()
    for (const key of ['a', 'b', 'c', 'd']) make(key)
    expect(['a', 'b', 'c', 'd'].every(key => cache.has(key))).toBe(true)
    cache.begin()
    make('d')
    make('e')
    expect(['a', 'b', 'c', 'd', 'e'].map(key => cache.has(key))).toEqual([false, false, false, true, true])
  })
  it('give their memory back: a thousand results take no more than the budget', () => {
    const { cache, kernels, make } = made(10 * 65536)
    const before = kernels.used
    for (let i = 0; i < 1000; i++) {
      cache.begin()
      make(`r${i}`)
    }
    expect(kernels.used - before).toBeLessThanOrEqual(10 * 65536)
  })
  it('make room for one another when the memory is full', () => {
    const kernels = new Kernels(kernelModule())
    const cache = new RasterCache(kernels, Infinity)
    // 512 MiB each of 2 GiB
    const big = (key: string): number => cache.get(key, () => cache.allocate(8192, 4096, 16)).pointer
    for (const key of ['a', 'b', 'c', 'd', 'e']) {
      cache.begin()
      expect(big(key)).toBeGreaterThan(0)
    }
    expect(cache.has('a')).toBe(false)
    cache.begin()
    big('c')
    big('d')
    big('e')
    expect(() => big('f')).toThrow(/more than the 2 GiB/)
  })
})
