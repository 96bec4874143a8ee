import { describe, expect, it } from 'vitest'
import { guessAlpha, guessEncoding, lookOfAlpha } from './describe'

/** Soft discs of one colour, brighter and darker by place, with alpha as asked. */
function disc(kind: 'straight' | 'premultiplied', colour = 0.6, outside = 0): Float32Array {
  const size = 64
  const pixels = new Float32Array(size * size * 4)
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const alpha = Math.min(1, Math.max(0, 1.4 - Math.hypot(x - 32, y - 32) / 20))
      const at = (y * size + x) * 4
      const value = colour * (0.8 + (0.4 * x) / size)
      for (let c = 0; c < 3; c++)
        pixels[at + c] = kind === 'premultiplied' ? value * alpha : alpha > 0 ? value : outside
      pixels[at + 3] = alpha
    }
  }
  return pixels
}

describe('alpha is told by soft edges', () => {
  it.each([
    ['straight', 0.6],
    ['straight', 0.05],
    ['straight', 8],
    ['premultiplied', 0.6],
    ['premultiplied', 0.05],
    ['premultiplied', 8],
  ] as const)('%s, colour %d', (kind, colour) => {
    expect(lookOfAlpha({ pixels: disc(kind, colour), hasAlpha: true })).toBe(kind)
  })
  it('colour where alpha is 0 is straight, even with hard edges', () => {
    const pixels = Float32Array.from({ length: 40 * 40 * 4 }, (_, i) => (i % 4 === 3 ? (i < 3200 ? 1 : 0) : 0.5))
    expect(lookOfAlpha({ pixels, hasAlpha: true })).toBe('straight')
  })
  it('nothing is claimed of too few soft pixels, nor of none', () => {
    expect(lookOfAlpha({ pixels: new Float32Array(64), hasAlpha: true })).toBe('unclear')
    expect(lookOfAlpha({ pixels: new Float32Array(64).fill(1), hasAlpha: true })).toBe('opaque')
    expect(lookOfAlpha({ pixels: new Float32Array(64).fill(1), hasAlpha: false })).toBe('none')
  })
  it('values that are no numbers do not decide', () => {
    const pixels = disc('premultiplied')
    for (let i = 0; i < pixels.length; i += 400) pixels[i] = i % 800 ? NaN : Infinity
    expect(lookOfAlpha({ pixels, hasAlpha: true })).toBe('premultiplied')
  })
})

describe('guesses', () => {
  it('what the file says goes before what it looks like, that before the rule of the format', () => {
    expect(guessAlpha({ hasAlpha: true, float: false, alphaSaid: 'premultiplied' }, 'straight')).toBe('premultiplied')
    expect(guessAlpha({ hasAlpha: true, float: true }, 'straight')).toBe('straight')
    expect(guessAlpha({ hasAlpha: true, float: true }, 'unclear')).toBe('premultiplied')
    expect(guessAlpha({ hasAlpha: true, float: false }, 'opaque')).toBe('straight')
    expect(guessAlpha({ hasAlpha: false, float: false }, 'none')).toBe('none')
  })
  it('come with a reason', () => {
    expect(guessEncoding({ format: 'exr', float: true, bits: 16 })).toEqual({
      encoding: 'linear',
      reason: expect.stringContaining('EXR'),
    })
    expect(guessEncoding({ format: 'png', float: false, bits: 16 })).toEqual({
      encoding: 'srgb',
      reason: expect.stringContaining('16-bit'),
    })
  })
})
