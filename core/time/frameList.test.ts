import { describe, expect, it } from 'vitest'
import { frameName, parseFrames } from './frameList'

describe('frames in writing', () => {
  it.each([
    ['7', [7]],
    ['1-4', [1, 2, 3, 4]],
    ['1-3, 30, 40-48x4', [1, 2, 3, 30, 40, 44, 48]],
    ['5, 1-3, 2', [5, 1, 2, 3]],
    ['-2-1', [-2, -1, 0, 1]],
    [' 1 - 3 , ', [1, 2, 3]],
    ['10-13x5', [10]],
  ])('%s', (text, frames) => expect(parseFrames(text)).toEqual(frames))
  it.each([
    ['', /No frames/],
    ['a-b', /“a-b” names no frames/],
    ['9-3', /ends before/],
    ['1-9x0', /goes on by no/],
    ['1-900000', /more than/],
    ['1..5', /names no frames/],
  ])('“%s” is refused', (text, says) => expect(() => parseFrames(text)).toThrow(says))
})

describe('names', () => {
  it('have the number where # stands, as long as that', () => {
    expect(frameName('quay ####', 7, 'png', true)).toBe('quay 0007.png')
    expect(frameName('quay_##_final', 123, 'exr', true)).toBe('quay_123_final.exr')
    expect(frameName('quay', 7, 'tif', true)).toBe('quay.0007.tif')
    expect(frameName('quay', 7, 'tif', false)).toBe('quay.tif')
    expect(frameName('a/b:c ##', -3, 'png', true)).toBe('a b c -03.png')
  })
})
