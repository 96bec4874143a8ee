import { expect, it } from 'vitest'
import { joinFrames, passBlobAt, type PassFileReference } from './passFrames'

const file = (blob: string): PassFileReference => ({ blob, name: blob, width: 4, height: 3, passes: ['beauty'], objects: ['a'], materials: ['b'], of: '' })

it('each frame has its own passes; where one is missing the nearest stands in, the earlier of two', () => {
  const joined = joinFrames(new Map([[12, file('l')], [10, file('j')], [15, file('o')]]), 10, 16)!
  expect(joined.frames).toEqual({ first: 10, blobs: ['j', null, 'l', null, null, 'o', null] })
  expect(joined.blob).toBe('j')
  const at = (frame: number) => passBlobAt(joined, frame)
  expect([10, 12, 15].map(at)).toEqual([{ blob: 'j', own: true }, { blob: 'l', own: true }, { blob: 'o', own: true }])
  expect([11, 13, 14, 16].map(at)).toEqual([{ blob: 'j', own: false }, { blob: 'l', own: false }, { blob: 'o', own: false }, { blob: 'o', own: false }])
  expect([-500, 9, 17, 9000].map(frame => at(frame).blob)).toEqual(['j', 'j', 'o', 'o'])
})
it('one picture stands for every frame; nothing made is nothing', () => {
  expect(passBlobAt(file('x'), 77)).toEqual({ blob: 'x', own: true })
  expect(joinFrames(new Map(), 1, 5)).toBeUndefined()
  expect(joinFrames(new Map([[3, file('x')]]), 3, 3)!.frames).toBeUndefined()
})
