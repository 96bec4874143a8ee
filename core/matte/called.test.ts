// Names by what is written, against the shell's own patterns (fnmatch of Python's standard library).
import { expect, it } from 'vitest'
import { pythonOf } from '../../tests/python'
import { randomFrom } from '../../tests/compose/random'
import { calledSo } from './called'

it('takes * for any letters, as the shell does', () => {
  const random = randomFrom(4)
  const word = (letters: string, most: number): string =>
    Array.from({ length: Math.floor(random() * most) }, () => letters[Math.floor(random() * letters.length)]).join('')
  const names = Array.from({ length: 60 }, () => word('ab ', 7) || 'a')
  const patterns = [...Array.from({ length: 150 }, () => word('ab**', 7)), 'a*a', '**', 'ab*ba', '*']
  const expected = pythonOf<boolean[][]>(
    `
import json, sys, fnmatch
g = json.load(sys.stdin)
print(json.dumps([[fnmatch.fnmatchcase(n, p) for n in g['names']] for p in g['patterns']]))`,
    { names, patterns },
  )
  patterns.forEach((pattern, i) => expect(calledSo([pattern], names), pattern).toEqual(expected[i]))
})
it('takes # and a number for the one of that number, and a name for itself whatever it is', () => {
  expect(calledSo(['#2', 'net*'], ['bell', 'roof', 'net', 'net cord'])).toEqual([false, true, true, true])
  expect(calledSo(['#2'], ['#2', 'roof'])).toEqual([true, true])
  expect(calledSo(['a.b', '[ab]'], ['axb', 'a.b', '[ab]', 'a'])).toEqual([false, true, true, false])
  expect(calledSo([], ['bell'])).toEqual([false])
})
