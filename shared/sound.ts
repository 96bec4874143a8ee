// What JSON from outside may hold before anything else looks at it: so that what checking it costs is known.

/** Deeper than any document of ours. */
const MOST_DEEP = 40
/** Objects and lists together: checked by class-validator at some 50 microseconds each. */
const MOST_HOLDERS = 40_000
/** Names that plain objects bring themselves. */
const TAKEN = new Set(['__proto__', 'constructor', 'prototype'])

/** What is wrong with a value, to follow “The request …”; undefined when nothing is. */
export function unsound(value: unknown): string | undefined {
  let holders = 0
  const text = (words: string): string | undefined => {
    if (words.includes('\0')) return 'holds a NUL character, which no text may hold'
    return words.isWellFormed() ? undefined : 'holds half of a character (a lone surrogate)'
  }
  const visit = (part: unknown, depth: number): string | undefined => {
    if (typeof part === 'string') return text(part)
    if (typeof part !== 'object' || part === null) return undefined
    if (depth > MOST_DEEP) return `is nested more than ${MOST_DEEP} deep`
    if (++holders > MOST_HOLDERS) return `holds more than ${MOST_HOLDERS} things`
    if (Array.isArray(part)) {
      for (const entry of part) {
        const fault = visit(entry, depth + 1)
        if (fault) return fault
      }
      return undefined
    }
    for (const key of Object.keys(part)) {
      if (TAKEN.has(key)) return `names something “${key}”, which no name may be`
      const fault = text(key) ?? visit((part as Record<string, unknown>)[key], depth + 1)
      if (fault) return fault
    }
    return undefined
  }
  return visit(value, 0)
}
