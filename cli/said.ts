// A line of words: what it is of, and its values as name=value.
import { ownOf } from '../core/declare/own'
import { ANY } from '../core/declare/field'
import type { EntryFields } from '../core/declare/values'
import { BadInput } from '../core/formats/errors'
import { list } from './arguments'

export interface Line {
  id: string
  given: Map<string, string>
}
export function lineOf(text: string, what: string, ids: readonly string[]): Line {
  const [, id = '', said = ''] = /^\s*(\S*)\s*(.*?)\s*$/s.exec(text)!
  // A value goes on to the next name=, so that names and files may have spaces
  const words = said ? said.split(/\s+(?=\w+=)/) : []
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

type Range = readonly [low: number, high: number]
/** Points as X,Y:X,Y, each number in its range. */
export const pointsOf = (text: string, name: string, across: Range, up: Range): [number, number][] =>
  text.split(':').map(point => {
    const parts = list(point)
    if (parts.length !== 2) throw new BadInput(`${name} takes points X,Y:X,Y, not “${text}”`)
    return [numberOf(parts[0]!, name, ...across), numberOf(parts[1]!, name, ...up)]
  })

/** A colour as R,G,B. */
function threeOf(text: string, name: string): number[] {
  const parts = list(text)
  if (parts.length !== 3) throw new BadInput(`${name} takes colours R,G,B:R,G,B, not “${text}”`)
  return parts.map(part => numberOf(part, name, -ANY, ANY))
}

const partsSaid = (parts: readonly string[]): string =>
  parts.length > 8 ? `${parts.slice(0, 4).join(', ')}, … ${parts.at(-1)}` : parts.join(', ')
/** Values by what is declared of them; those that are not said stand as in a new one, or as neutral. */
export function valuesOf(
  fields: EntryFields,
  { id, given }: Line,
  others: readonly string[],
): Record<string, number | number[] | string | number[][]> {
  const values: Record<string, number | number[] | string | number[][]> = {}
  for (const [name, text] of given) {
    if (others.includes(name)) continue
    const field = ownOf(fields, name)
    if (!field)
      throw new BadInput(`${id} has no value “${name}”; it has ${[...Object.keys(fields), ...others].join(', ')}`)
    if (field.kind === 'number') values[name] = numberOf(text, name, field.low, field.high, field.whole)
    else if (field.kind === 'list') {
      const { bend, most } = field
      if (bend) values[name] = pointsOf(text, name, [bend.across.low, bend.across.high], [bend.up.low, bend.up.high])
      else values[name] = text.split(':').map(colour => threeOf(colour, name))
      if (values[name].length > most) throw new BadInput(`${name} takes at most ${most}, not ${values[name].length}`)
    } else if (field.kind === 'choice') {
      if (!field.choices.includes(text))
        throw new BadInput(`${name} is one of ${field.choices.join(', ')}, not “${text}”`)
      values[name] = text
    } else {
      const parts = list(text)
      if (parts.length !== field.parts.length)
        throw new BadInput(`${name} takes ${field.parts.length} numbers (${partsSaid(field.parts)}), not “${text}”`)
      values[name] = parts.map(part => numberOf(part, name, field.low, field.high))
    }
  }
  return values
}
