// Changes of a document: what differs between two, as a JSON Patch (RFC 6902), and laid over what somebody else made of
// the same document meanwhile.
import type { Operation } from 'fast-json-patch'
import { isCurve } from '../time/curve'
import type { ShotDocument } from './document'
import { declared } from './schema/walk'
import { pathKey } from './values'

/** One value that is another now; undefined where there is none. Things are named by id, so no path means a neighbour. */
export interface Change {
  path: string[]
  before?: unknown
  after?: unknown
  /** The innermost thing kept by an id that it is of, or else the part of the document; and what that is called. */
  thing: { path: string[]; name: string }
}
type Loose = Record<string, unknown>

const same = (a: unknown, b: unknown): boolean => {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false
  if (Array.isArray(a) !== Array.isArray(b)) return false
  const keys = Object.keys(a).filter(key => (a as Loose)[key] !== undefined)
  return (
    keys.length === Object.keys(b).filter(key => (b as Loose)[key] !== undefined).length &&
    keys.every(key => Object.hasOwn(b, key) && same((a as Loose)[key], (b as Loose)[key]))
  )
}
/** What changes field by field. Lists and curves change as a whole: a number in them would not say which item it means. */
const hasParts = (value: unknown): value is Loose =>
  typeof value === 'object' && value !== null && !Array.isArray(value) && !isCurve(value)
const held = (holder: Loose, key: string): unknown => (Object.hasOwn(holder, key) ? holder[key] : undefined)

/** Each value that differs, once. */
function compare(
  a: Loose,
  b: Loose,
  found: (path: string[], was: unknown, is: unknown) => void,
  path: readonly string[] = [],
): void {
  if (a === b) return
  for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
    const was = held(a, key)
    const is = held(b, key)
    if (hasParts(was) && hasParts(is)) compare(was, is, found, [...path, key])
    else if (!same(was, is)) found([...path, key], was, is)
  }
}

/** What differs, each value once. */
export function changesBetween(before: ShotDocument, after: ShotDocument): Change[] {
  const found: Change[] = []
  compare(before as unknown as Loose, after as unknown as Loose, (path, was, is) => {
    found.push({ path, before: was, after: is, thing: thingAt(was === undefined ? after : before, path) })
  })
  return found
}

/** A value that is another now, by its path; without one where it is gone. */
export interface Step {
  path: string[]
  value?: unknown
}
/** What a copy of a document must be told to be another. */
export function stepsTo(from: ShotDocument, to: ShotDocument): Step[] {
  const steps: Step[] = []
  compare(from as unknown as Loose, to as unknown as Loose, (path, _, value) => steps.push({ path, value }))
  return steps
}
/** The document after steps; the one that is given stays as it is, and both share what is the same. */
export function followed(document: ShotDocument, steps: readonly Step[]): ShotDocument {
  const next = { ...document } as unknown as Loose
  const own = new Set<unknown>([next])
  for (const { path, value } of steps) {
    let at = next
    for (const key of path.slice(0, -1)) {
      if (!own.has(at[key])) own.add((at[key] = { ...(at[key] as Loose) }))
      at = at[key] as Loose
    }
    if (value === undefined) delete at[path.at(-1)!]
    else at[path.at(-1)!] = value
  }
  return next as unknown as ShotDocument
}

/** Changes as a patch that tests what it replaces. */
export const patchOf = (changes: readonly Change[]): Operation[] =>
  changes.flatMap(({ path, before, after }): Operation[] => {
    const at = pathKey(path)
    if (before === undefined) return [{ op: 'add', path: at, value: after }]
    const test: Operation = { op: 'test', path: at, value: before }
    return [test, after === undefined ? { op: 'remove', path: at } : { op: 'replace', path: at, value: after }]
  })

/** Changes of one thing that do not fit what somebody else made of it. */
export interface Refused {
  /** What the thing is called. */
  name: string
  /** It is no longer there. */
  gone: boolean
  changes: Change[]
}

/**
 * Lays changes over a document that somebody else has changed meanwhile. Where both changed the same value of a thing,
 * none of its changes is laid, and they come back as refused. The document that is given stays as it is.
 */
export function layChanges(
  document: ShotDocument,
  changes: readonly Change[],
): { document: ShotDocument; refused: Refused[] } {
  const next = JSON.parse(JSON.stringify(document)) as ShotDocument
  const things = new Map<string, Change[]>()
  for (const change of changes) {
    const key = pathKey(change.thing.path)
    things.set(key, [...(things.get(key) ?? []), change])
  }
  const refused: Refused[] = []
  for (const group of things.values()) {
    if (group.every(change => fits(next, change))) for (const change of group) lay(next, change)
    else
      refused.push({
        name: group[0]!.thing.name,
        gone: group.some(({ path }) => !holderOf(document, path)),
        changes: group,
      })
  }
  return { document: next, refused }
}

/** Lays changes whatever stands there; those whose thing is gone come back. */
export function forceChanges(document: ShotDocument, changes: readonly Change[]): Change[] {
  return changes.filter(change => {
    if (!holderOf(document, change.path)) return true
    lay(document, change)
    return false
  })
}

/** What holds a value; undefined when it is not there. */
function holderOf(document: ShotDocument, path: readonly string[]): Loose | undefined {
  let at: unknown = document
  for (const key of path.slice(0, -1)) {
    at = hasParts(at) ? held(at, key) : undefined
    if (at === undefined) return undefined
  }
  return hasParts(at) ? at : undefined
}

function fits(document: ShotDocument, change: Change): boolean {
  const holder = holderOf(document, change.path)
  if (!holder) return false
  const now = held(holder, change.path.at(-1)!)
  if (same(now, change.after) || same(now, change.before)) return true
  // Both have added it: what each put in it may be different parts
  return (
    change.before === undefined &&
    hasParts(now) &&
    hasParts(change.after) &&
    partsOf(change).every(part => fits(document, part))
  )
}
const partsOf = ({ path, after, thing }: Change): Change[] =>
  Object.entries(after as Loose).map(([key, value]) => ({ path: [...path, key], after: value, thing }))

function lay(document: ShotDocument, change: Change): void {
  const holder = holderOf(document, change.path)!
  const key = change.path.at(-1)!
  const { before, after } = change
  if (before === undefined && hasParts(held(holder, key)) && hasParts(after)) {
    for (const part of partsOf(change)) lay(document, part)
    return
  }
  if (after === undefined) delete holder[key]
  else holder[key] = JSON.parse(JSON.stringify(after)) as unknown
}

function thingAt(document: ShotDocument, path: readonly string[]): Change['thing'] {
  let at: unknown = document
  let deep = 0
  for (const [i, key] of path.entries()) {
    at = hasParts(at) ? held(at, key) : undefined
    if (hasParts(at) && at.id === key) deep = i + 1
  }
  const thing = path.slice(0, deep || 2)
  return { path: thing, name: declared(document, thing)?.titles.join(': ') || thing.join(' ') }
}
