// Numbered files as sequences: which belong together, what is missing.

export interface FoundSequence {
  /** Text before and after the number, and digits it is padded to (0: not padded). */
  before: string
  after: string
  padding: number
  first: number
  last: number
  /** Place of each file in the list that was given, by number. */
  files: Map<number, number>
  missing: number[]
}

interface Numbered {
  before: string
  after: string
  digits: string
  index: number
}

/** The last number of a name before its ending counts: shot_010.0042.exr is frame 42. */
function numbered(name: string, index: number): Numbered | undefined {
  const found = /^(.*?)(\d+)(\D*\.[A-Za-z0-9]+)$/.exec(name)
  return found ? { before: found[1]!, digits: found[2]!, after: found[3]!, index } : undefined
}

/**
 * Sorts names into sequences of at least two numbers and single files, in the order of the names. Numbers without
 * padding (9, 10) and with (09, 10) belong together where they can be the same count.
 */
export function findSequences(names: readonly string[]): { sequences: FoundSequence[]; singles: number[] } {
  const groups = new Map<string, Numbered[]>()
  const singles: number[] = []
  names.forEach((name, index) => {
    const entry = numbered(name, index)
    if (!entry) {
      singles.push(index)
      return
    }
    const key = JSON.stringify([entry.before, entry.after.toLowerCase()])
    groups.set(key, [...(groups.get(key) ?? []), entry])
  })
  const sequences: FoundSequence[] = []
  for (const group of groups.values()) {
    const files = new Map<number, number>()
    // The same number twice (1 and 01): the first stays, the other is a file of its own
    for (const entry of group) {
      const number = Number(entry.digits)
      if (files.has(number)) singles.push(entry.index)
      else files.set(number, entry.index)
    }
    if (files.size < 2) {
      singles.push(...files.values())
      continue
    }
    const numbers = [...files.keys()].sort((a, b) => a - b)
    const first = numbers[0]!
    const last = numbers[numbers.length - 1]!
    const missing: number[] = []
    for (let at = 1; at < numbers.length; at++)
      for (let number = numbers[at - 1]! + 1; number < numbers[at]! && missing.length < 100000; number++)
        missing.push(number)
    const padded = group.find(entry => entry.digits.startsWith('0'))
    sequences.push({
      before: group[0]!.before,
      after: group[0]!.after,
      padding: padded?.digits.length ?? 0,
      first,
      last,
      files: new Map([...files].sort((a, b) => a[0] - b[0])),
      missing,
    })
  }
  const order = new Map(names.map((name, index) => [index, name]))
  sequences.sort((a, b) => (a.before < b.before ? -1 : a.before > b.before ? 1 : a.first - b.first))
  return { sequences, singles: singles.sort((a, b) => (order.get(a)! < order.get(b)! ? -1 : 1)) }
}

/** Numbers in words: 1005–1007, 1012. */
export function spans(numbers: readonly number[], most = 6): string {
  const parts: string[] = []
  for (let i = 0; i < numbers.length;) {
    let end = i
    while (end + 1 < numbers.length && numbers[end + 1] === numbers[end]! + 1) end++
    parts.push(end === i ? String(numbers[i]) : `${numbers[i]}–${numbers[end]}`)
    i = end + 1
  }
  return parts.length > most ? `${parts.slice(0, most).join(', ')} and ${parts.length - most} more` : parts.join(', ')
}
