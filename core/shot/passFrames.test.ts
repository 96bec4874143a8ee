import { expect, it } from 'vitest'
import type { PassFileReference } from './document'
import { joinFrames, passBlobAt } from './passFrames'

const file = (blob: string): PassFileReference => ({
  blob,
  name: blob,
  width: 4,
  height: 3,
  passes: ['beauty'],
  objects: ['a'],
  materials: ['b'],
  of: '',
})

it('each frame has its own passes; where one is missing the nearest stands in, the earlier of two', () => {
  const joined = joinFrames({ file: file('l'), blobs: { 12: 'l', 10: 'j', 15: 'o' } }, 10, 16)
  expect(joined.frames).toEqual({ first: 10, blobs: ['j', null, 'l', null, null, 'o', null] })
  expect(joined.blob).toBe('j')
  const at = (frame: number) => passBlobAt(joined, frame)
  expect([10, 12, 15].map(at)).toEqual([
    { blob: 'j', own: true },
    { blob: 'l', own: true },
    { blob: 'o', own: true },
  ])
  expect([11, 13, 14, 16].map(at)).toEqual([
    { blob: 'j', own: false },
    { blob: 'l', own: false },
    { blob: 'o', own: false },
    { blob: 'o', own: false },
  ])
  expect([-500, 9, 17, 9000].map(at)).toEqual(['j', 'j', 'o', 'o'].map(blob => ({ blob, own: false })))
})
it('one picture stands for every frame', () => {
  expect(passBlobAt(file('x'), 77)).toEqual({ blob: 'x', own: true })
})
