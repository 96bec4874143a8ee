import { expect, it } from 'vitest'
import { findSequences, spans } from './sequence'

const told = (names: string[]) => {
  const { sequences, singles } = findSequences(names)
  return [
    sequences.map(({ before, after, padding, first, last, missing, files }) => [
      `${before}#${after}`,
      padding,
      first,
      last,
      missing,
      [...files.values()].map(index => names[index]),
    ]),
    singles.map(index => names[index]),
  ]
}

it('numbered files belong together, in the order of their numbers', () => {
  expect(told(['b.0003.exr', 'b.0001.exr', 'b.0002.exr'])).toEqual([
    [['b.#.exr', 4, 1, 3, [], ['b.0001.exr', 'b.0002.exr', 'b.0003.exr']]],
    [],
  ])
  expect(told(['f9.png', 'f10.png', 'f11.png'])).toEqual([
    [['f#.png', 0, 9, 11, [], ['f9.png', 'f10.png', 'f11.png']]],
    [],
  ])
})
it('gaps are listed, never filled', () => {
  expect(findSequences(['a.1.png', 'a.2.png', 'a.5.png', 'a.7.png']).sequences[0]!.missing).toEqual([3, 4, 6])
})
it('the last number counts, endings and fronts keep sequences apart', () => {
  expect(
    told(['quay_010.0042.exr', 'quay_010.0043.exr', 'quay_020.0042.exr', 'quay_020.0043.exr', 'quay_010.0042.png']),
  ).toEqual([
    [
      ['quay_010.#.exr', 4, 42, 43, [], ['quay_010.0042.exr', 'quay_010.0043.exr']],
      ['quay_020.#.exr', 4, 42, 43, [], ['quay_020.0042.exr', 'quay_020.0043.exr']],
    ],
    ['quay_010.0042.png'],
  ])
})
it('what has no number, or none beside it, is single; the same number twice too', () => {
  expect(told(['quay.png', 'notes', 'left_1.jpg'])).toEqual([[], ['left_1.jpg', 'notes', 'quay.png']])
  expect(told(['a1.png', 'a01.png', 'a2.png'])).toEqual([[['a#.png', 2, 1, 2, [], ['a1.png', 'a2.png']]], ['a01.png']])
})
it('numbers are said in spans', () => {
  expect(spans([3, 4, 6])).toBe('3–4, 6')
  expect(spans([1, 3, 5, 7, 9, 11, 13, 15])).toBe('1, 3, 5, 7, 9, 11 and 2 more')
})
it('a huge hole costs nothing', () => {
  expect(findSequences(['a1.png', 'a999999999.png']).sequences[0]!.missing.length).toBe(100000)
})
