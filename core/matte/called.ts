// Names by what is written: a name itself, one with * for any letters, or # and a number in their list.

const isOne = (pattern: string, name: string, number: number): boolean => {
  if (pattern === name) return true
  if (/^#\d+$/.test(pattern)) return Number(pattern.slice(1)) === number
  if (!pattern.includes('*')) return false
  // The parts between the stars, one after another: a star takes as little as it may
  const [first, ...rest] = pattern.split('*') as [string, ...string[]]
  const last = rest.pop()!
  if (name.length < first.length + last.length || !name.startsWith(first) || !name.endsWith(last)) return false
  let at = first.length
  for (const part of rest) {
    const found = name.indexOf(part, at)
    if (found < 0 || found + part.length > name.length - last.length) return false
    at = found + part.length
  }
  return true
}

/** Which of a list of names are meant, counted from 1. `calledSo(['bell*', '#3'], ['bell', 'roof', 'net'])` */
export const calledSo = (patterns: readonly string[], names: readonly string[]): boolean[] =>
  names.map((name, i) => patterns.some(pattern => isOne(pattern, name, i + 1)))

/** The same as a table by the numbers of things: 1 where one is meant; the first is nothing. */
export const chosenBy = (patterns: readonly string[], names: readonly string[]): Float32Array =>
  Float32Array.from([0, ...calledSo(patterns, names).map(Number)])
