// A line of words: what it is of, and its values as name=value.
import { BadInput } from '../core/formats/errors'

export interface Line {
  id: string
  given: Map<string, string>
}
export function lineOf(text: string, what: string, ids: readonly string[]): Line {
  const [id = '', ...words] = text.trim().split(/\s+(?=\S+=)|\s+/)
  if (!ids.includes(id)) throw new BadInput(`there is no ${what} “${id}”; there are ${ids.join(', ')}`)
  const given = new Map<string, string>()
  for (const word of words) {
    const at = word.indexOf('=')
    if (at < 1) throw new BadInput(`“${word}” of “${text}” is not name=value`)
    given.set(word.slice(0, at), word.slice(at + 1))
  }
  return { id, given }
}

export function numberOf(text: string, name: string, low: number, high: number, whole = false): number {
  const value = text.trim() === '' ? NaN : Number(text)
  if (!Number.isFinite(value) || (whole && !Number.isInteger(value)))
    throw new BadInput(`${name} takes ${whole ? 'a whole number' : 'a number'}, not “${text}”`)
  if (value < low || value > high) throw new BadInput(`${name} goes from ${low} to ${high}; ${text} does not`)
  return value
}

export const switchOf = (text: string | undefined, name: string): boolean => {
  if (text === undefined || text === '0') return false
  if (text === '1') return true
  throw new BadInput(`${name} is 0 or 1, not “${text}”`)
}
