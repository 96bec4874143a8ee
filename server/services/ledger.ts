// The ledger of a shot: versions kept by name, and by themselves at each send.
import { and, desc, eq } from 'drizzle-orm'
import { BadInput } from '../../core/formats/errors'
import { identifier, type ShotDocument } from '../../core/shot/document'
import type { KeptVersion, VersionReason } from '../../core/shot/ledger'
import { ofToday } from '../../core/shot/migrate'
import { shots, versions } from '../database/schema'
import { context, type Database } from './context'
import { holdFiles } from './files'
import { tell } from './news'
import { NotFound } from './shots'

/** So many of one shot are kept by name; all are told at once. */
const MOST = 2000
const TOLD = {
  id: versions.id,
  name: versions.name,
  why: versions.why,
  picture: versions.picture,
  createdAt: versions.createdAt,
}
type Told = Omit<KeptVersion, 'createdAt'> & { createdAt: Date }
const told = (row: Told): KeptVersion => ({ ...row, createdAt: row.createdAt.toISOString() })

/** The newest first. Throws NotFound where there is no such shot. */
export async function listVersions(shotId: string): Promise<KeptVersion[]> {
  const { database } = await context()
  const [shot] = await database.select({ id: shots.id }).from(shots).where(eq(shots.id, shotId))
  if (!shot) throw new NotFound('There is no such shot.')
  const rows = await database
    .select(TOLD)
    .from(versions)
    .where(eq(versions.shotId, shotId))
    .orderBy(desc(versions.createdAt), desc(versions.id))
  return rows.map(told)
}

/** The document of a version, brought to today's form. Throws NotFound. */
export async function getVersion(shotId: string, id: string): Promise<ShotDocument> {
  const { database } = await context()
  const [row] = await database
    .select({ document: versions.document })
    .from(versions)
    .where(and(eq(versions.shotId, shotId), eq(versions.id, id)))
  if (!row) throw new NotFound('There is no such version.')
  return ofToday(row.document) as ShotDocument
}

/**
 * Keeps a shot as it is saved now. What is kept by itself is not kept again while nothing has changed. Throws NotFound,
 * BadInput where there are too many.
 */
export async function keepVersion(shotId: string, name: string, why: VersionReason): Promise<KeptVersion> {
  const { database } = await context()
  const kept = await database.transaction(async transaction => {
    await holdFiles(transaction)
    // One after another: two sends at once are one version
    const [shot] = await transaction.select().from(shots).where(eq(shots.id, shotId)).for('update')
    if (!shot || shot.deletedAt) throw new NotFound('There is no such shot.')
    const last = why === 'sent' ? await newest(transaction, shotId) : undefined
    if (last && JSON.stringify(last.document) === JSON.stringify(shot.document)) return last
    // What is sent is never refused for that
    if (why === 'kept' && (await transaction.$count(versions, eq(versions.shotId, shotId))) >= MOST)
      throw new BadInput(`There are ${MOST} versions of this shot; double the shot to go on.`)
    const { document, thumbnail: picture } = shot
    const [row] = await transaction
      .insert(versions)
      .values({ id: identifier(), shotId, name, why, document, picture })
      .returning(TOLD)
    return row!
  })
  tell({ kind: 'ledger', id: shotId })
  const { id, createdAt, picture } = kept
  return told({ id, name: kept.name, why: kept.why, picture, createdAt })
}
const newest = async (database: Pick<Database, 'select'>, shotId: string) =>
  (
    await database
      .select()
      .from(versions)
      .where(eq(versions.shotId, shotId))
      .orderBy(desc(versions.createdAt), desc(versions.id))
      .limit(1)
  )[0]

export async function renameVersion(shotId: string, id: string, name: string): Promise<void> {
  const { database } = await context()
  const found = await database
    .update(versions)
    .set({ name })
    .where(and(eq(versions.shotId, shotId), eq(versions.id, id)))
    .returning({ id: versions.id })
  if (!found.length) throw new NotFound('There is no such version.')
  tell({ kind: 'ledger', id: shotId })
}
