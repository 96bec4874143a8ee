// Things kept by their id, in an order that each of them carries. Between any two places there is another, so nothing
// else changes when something is added, moved or taken away (fractional indexing; package fractional-indexing).
import { generateKeyBetween, generateNKeysBetween } from 'fractional-indexing'
import type { Row } from '../declare/field'

export type Rows<T extends Row> = Record<string, T>

const sorted = (a: Row, b: Row): number => (a.order < b.order ? -1 : a.order > b.order ? 1 : a.id < b.id ? -1 : 1)
/** The things in their order. */
export const inOrder = <T extends Row>(rows: Rows<T> | undefined): T[] => Object.values(rows ?? {}).sort(sorted)

/**
 * An order just after a neighbour (null: before all). Where two pages have put something at the very same place there
 * is none between: what follows there is moved on.
 */
function orderAfter<T extends Row>(rows: Rows<T>, neighbour: string | null, without?: string): string {
  const list = inOrder(rows).filter(({ id }) => id !== without)
  const at = neighbour === null ? -1 : list.findIndex(({ id }) => id === neighbour)
  const before = list[at]?.order ?? null
  let next = at + 1
  while (before !== null && list[next] && list[next]!.order <= before) next++
  const keys = generateNKeysBetween(before, list[next]?.order ?? null, next - at)
  list.slice(at + 1, next).forEach((row, i) => {
    row.order = keys[i + 1]!
  })
  return keys[0]!
}

/** A thing that has no place in an order yet. */
export type Unplaced<T extends Row> = T extends Row ? Omit<T, 'order'> : never

/** Adds a thing at the end, or just after a neighbour (null: before all). Returns it as it stands in the record. */
export function addRow<T extends Row, U extends Unplaced<T>>(rows: Rows<T>, thing: U, after?: string | null): U & T {
  const last = inOrder(rows).at(-1)
  const order = after === undefined ? generateKeyBetween(last?.order ?? null, null) : orderAfter(rows, after)
  const row = { ...thing, order } as unknown as U & T
  rows[row.id] = row
  return row
}

/** Moves a thing to just after a neighbour (null: before all). */
export function moveRow<T extends Row>(rows: Rows<T>, id: string, after: string | null): void {
  if (after !== id) rows[id]!.order = orderAfter(rows, after, id)
}

/** Moves a thing by so many places; past an end it stays there. */
export function stepRow<T extends Row>(rows: Rows<T>, id: string, by: number): void {
  const list = inOrder(rows)
  const from = list.findIndex(row => row.id === id)
  const to = Math.min(list.length - 1, Math.max(0, from + by))
  if (from < 0 || to === from) return
  moveRow(rows, id, by > 0 ? list[to]!.id : (list[to - 1]?.id ?? null))
}

/** A list made rows. */
export function rowsOf<T extends Row>(list: readonly Unplaced<T>[]): Rows<T> {
  const keys = generateNKeysBetween(null, null, list.length)
  const rows = list.map((thing, i) => ({ ...thing, order: keys[i]! }) as unknown as T)
  return Object.fromEntries(rows.map(row => [row.id, row]))
}
