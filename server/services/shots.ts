// Shots in the database: every change is a patch on a revision, kept with its reverse.
import { and, desc, eq, getTableColumns, gt, isNull, sql } from 'drizzle-orm'
import jsonPatch, { type Operation } from 'fast-json-patch'
import { BadInput } from '../../core/formats/errors'
import { blobsOf, DOCUMENT_VERSION, identifier, newDocument, type ShotDocument } from '../../core/shot/document'
import { ofToday } from '../../core/shot/migrate'
import { documentFaults } from '../../shared/validate'
import { unsound } from '../../shared/sound'
import { changes, shots } from '../database/schema'
import { context } from './context'
import { holdFiles } from './files'
import { tell } from './news'

export type ShotRow = typeof shots.$inferSelect
/** The writer saw an older revision than there is now. */
export class Stale extends Error {
  constructor(readonly row: ShotRow) {
    super('This shot was changed elsewhere in the meantime.')
  }
}
export class NotFound extends Error {}
/** The page is of a Northmist of before, which kept shots in another form. */
export class OldPage extends Error {
  constructor() {
    super('This page is older than the server. Load it again: your change is kept in this browser until then.')
  }
}

export async function listShots(): Promise<Pick<ShotRow, 'id' | 'name' | 'revision' | 'thumbnail' | 'updatedAt'>[]> {
  const { database } = await context()
  return database
    .select({
      id: shots.id,
      name: shots.name,
      revision: shots.revision,
      thumbnail: shots.thumbnail,
      updatedAt: shots.updatedAt,
    })
    .from(shots)
    .where(isNull(shots.deletedAt))
    .orderBy(desc(shots.updatedAt))
}

/** Without what it was before it was brought to another version. */
const { former: _former, ...NOW } = getTableColumns(shots)

export async function getShot(id: string): Promise<Omit<ShotRow, 'former'> & { changes: number }> {
  const { database } = await context()
  const [row] = await database
    .select(NOW)
    .from(shots)
    .where(and(eq(shots.id, id), isNull(shots.deletedAt)))
  if (!row) throw new NotFound('There is no such shot.')
  const [count] = await database
    .select({ count: sql<number>`count(*)::int` })
    .from(changes)
    .where(eq(changes.shotId, id))
  return { ...row, changes: count!.count }
}

/** More than any shot of ours; what a patch makes of one is held to it before it is looked at. */
const MOST_BYTES = 8 * 1048576

export async function checked(document: unknown): Promise<ShotDocument> {
  const fault = unsound(document)
  if (fault) throw new BadInput(`The shot ${fault}.`)
  if (JSON.stringify(document).length > MOST_BYTES) throw new BadInput('The shot would be larger than 8 MiB.')
  const faults = documentFaults(document)
  if (faults.length) throw new BadInput(`The shot would not be valid: ${faults.slice(0, 3).join('; ')}.`)
  const { store } = await context()
  for (const blob of blobsOf(document as ShotDocument))
    if (!store.has(blob)) throw new BadInput('The shot refers to a file that is not in the store; send the file first.')
  return document as ShotDocument
}

interface NewShot {
  name: string
  document?: unknown
  thumbnail?: string | null
}
/** All of them, or none. */
export async function createShots(list: readonly NewShot[]): Promise<ShotRow[]> {
  const { database } = await context()
  const rows = await database.transaction(async transaction => {
    await holdFiles(transaction)
    const values = await Promise.all(
      list.map(async ({ name, document, thumbnail = null }) => ({
        id: identifier(),
        name,
        document: await checked(document === undefined ? newDocument() : ofToday(document)),
        thumbnail,
      })),
    )
    const made: ShotRow[] = []
    for (const value of values) made.push(...(await transaction.insert(shots).values(value).returning()))
    return made
  })
  tell({ kind: 'shots' })
  return rows
}
export const createShot = async (shot: NewShot): Promise<ShotRow> => (await createShots([shot]))[0]!

/**
 * Applies a patch made from `revision`, of a document of that version. Throws Stale when it is not the newest, OldPage,
 * BadInput when the result is no valid shot.
 */
export async function changeShot(
  id: string,
  revision: number,
  label: string,
  patch: Operation[],
  version: number = DOCUMENT_VERSION,
): Promise<ShotRow> {
  if (version !== DOCUMENT_VERSION) throw new OldPage()
  const { database } = await context()
  const row = await database.transaction(async transaction => {
    await holdFiles(transaction)
    const [before] = await transaction
      .select()
      .from(shots)
      .where(and(eq(shots.id, id), isNull(shots.deletedAt)))
      .for('update')
    if (!before) throw new NotFound('There is no such shot.')
    if (before.revision !== revision) throw new Stale(before)
    let after: unknown
    try {
      after = jsonPatch.applyPatch(
        structuredClone(before.document),
        structuredClone(patch),
        true,
        true,
        true,
      ).newDocument
    } catch (error) {
      throw new BadInput(`The change does not fit the shot: ${(error as Error).message.split('\n')[0]}`)
    }
    const document = await checked(after)
    const backward = jsonPatch.compare(document, before.document)
    const forward = jsonPatch.compare(before.document, document)
    if (!forward.length) return before
    // What was undone and is now left behind is no longer reachable by redo
    await transaction.delete(changes).where(and(eq(changes.shotId, id), gt(changes.sequence, before.cursor)))
    await transaction.insert(changes).values({ shotId: id, sequence: before.cursor + 1, label, forward, backward })
    const [saved] = await transaction
      .update(shots)
      .set({ document, revision: revision + 1, cursor: before.cursor + 1, updatedAt: new Date() })
      .where(eq(shots.id, id))
      .returning()
    return saved!
  })
  tell({ kind: 'shot', id, revision: row.revision })
  return row
}

/** The shot as it was before it was brought to today's version. Throws NotFound when it never was another. */
export async function formerShot(id: string): Promise<{ revision: number; document: unknown }> {
  const { database } = await context()
  const [row] = await database.select({ former: shots.former }).from(shots).where(eq(shots.id, id))
  if (!row?.former) throw new NotFound('This shot never was of another version.')
  return row.former
}

/** One step back or forth; the row as it was when there is none. */
export async function stepShot(
  id: string,
  revision: number,
  direction: 'undo' | 'redo',
): Promise<{ row: ShotRow; label: string | null }> {
  const { database } = await context()
  const result = await database.transaction(async transaction => {
    const [before] = await transaction
      .select()
      .from(shots)
      .where(and(eq(shots.id, id), isNull(shots.deletedAt)))
      .for('update')
    if (!before) throw new NotFound('There is no such shot.')
    if (before.revision !== revision) throw new Stale(before)
    const sequence = direction === 'undo' ? before.cursor : before.cursor + 1
    const [change] = await transaction
      .select()
      .from(changes)
      .where(and(eq(changes.shotId, id), eq(changes.sequence, sequence)))
    if (!change) return { row: before, label: null }
    const document = jsonPatch.applyPatch(
      structuredClone(before.document),
      direction === 'undo' ? change.backward : change.forward,
      false,
      true,
      true,
    ).newDocument
    const [row] = await transaction
      .update(shots)
      .set({
        document,
        revision: revision + 1,
        cursor: direction === 'undo' ? sequence - 1 : sequence,
        updatedAt: new Date(),
      })
      .where(eq(shots.id, id))
      .returning()
    return { row: row!, label: change.label }
  })
  tell({ kind: 'shot', id, revision: result.row.revision })
  return result
}

export async function updateShot(
  id: string,
  values: Partial<Pick<ShotRow, 'name' | 'thumbnail' | 'deletedAt'>>,
): Promise<void> {
  const { database } = await context()
  const found = await database
    .update(shots)
    .set({ ...values, ...('name' in values ? { updatedAt: new Date() } : {}) })
    .where(eq(shots.id, id))
    .returning({ id: shots.id })
  if (!found.length) throw new NotFound('There is no such shot.')
  tell({ kind: 'shots' })
}

export async function copyShot(id: string): Promise<ShotRow> {
  const original = await getShot(id)
  return createShot({
    name: `${original.name} copy`.slice(0, 200),
    document: original.document,
    thumbnail: original.thumbnail,
  })
}
