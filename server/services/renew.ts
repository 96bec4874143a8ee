// Shots of earlier versions, with all that can be undone in them, brought to today's when the server starts.
import { and, asc, eq, gt, lte, ne, sql } from 'drizzle-orm'
import jsonPatch, { type Operation } from 'fast-json-patch'
import { DOCUMENT_VERSION, type ShotDocument } from '../../core/shot/document'
import { ofToday } from '../../core/shot/migrate'
import { changes, jobs, shots } from '../database/schema'
import type { Database } from './context'

const versionOf = (column: unknown) => sql<number>`(${column}->>'version')::int`
const applied = (document: unknown, patch: Operation[]): unknown =>
  jsonPatch.applyPatch(structuredClone(document), structuredClone(patch), false, true, true).newDocument
const renewed = (document: unknown): ShotDocument => ofToday(document) as ShotDocument

/** Each shot in a transaction of its own: one that is broken off goes on at the next start. Returns how many there were. */
export async function renewShots(database: Database): Promise<number> {
  const old = await database
    .select({ id: shots.id })
    .from(shots)
    .where(ne(versionOf(shots.document), DOCUMENT_VERSION))
  for (const { id } of old) await database.transaction(transaction => renewShot(transaction as Database, id))
  // What waits or was broken off is done from the document that it was asked for with
  for (const { id, document } of await database
    .select({ id: jobs.id, document: jobs.document })
    .from(jobs)
    .where(ne(versionOf(jobs.document), DOCUMENT_VERSION)))
    await database
      .update(jobs)
      .set({ document: renewed(document) })
      .where(eq(jobs.id, id))
  return old.length
}

async function renewShot(database: Database, id: string): Promise<void> {
  const [row] = await database.select().from(shots).where(eq(shots.id, id)).for('update')
  if (!row) return
  const { document, cursor, revision } = row
  const one = (sequence: number) => and(eq(changes.shotId, id), eq(changes.sequence, sequence))
  const listed = await database
    .select({ sequence: changes.sequence })
    .from(changes)
    .where(eq(changes.shotId, id))
    .orderBy(asc(changes.sequence))
  const known = new Set(listed.map(({ sequence }) => sequence))
  /** One way from the document as it stands: each change is made again between what it led from and to. */
  const walk = async (first: number, step: 1 | -1): Promise<void> => {
    let now: unknown = document
    for (let sequence = first; known.has(sequence); sequence += step) {
      const [change] = await database.select().from(changes).where(one(sequence))
      let next: unknown
      let pair: { forward: Operation[]; backward: Operation[] }
      try {
        next = applied(now, step < 0 ? change!.backward : change!.forward)
        const [before, after] = step < 0 ? [renewed(next), renewed(now)] : [renewed(now), renewed(next)]
        pair = { forward: jsonPatch.compare(before, after), backward: jsonPatch.compare(after, before) }
      } catch (error) {
        // Undo ends there; the page says so
        console.error(`Shot ${id}: change ${sequence} cannot be read any more: ${(error as Error).message}`)
        const beyond = step < 0 ? lte(changes.sequence, sequence) : gt(changes.sequence, sequence - 1)
        await database.delete(changes).where(and(eq(changes.shotId, id), beyond))
        return
      }
      await database.update(changes).set(pair).where(one(sequence))
      now = next
    }
  }
  await walk(cursor, -1)
  await walk(cursor + 1, 1)
  await database
    .update(shots)
    .set({ document: renewed(document), former: { revision, document } })
    .where(eq(shots.id, id))
}
