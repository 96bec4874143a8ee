// Room on the disk: what is used, and the cleaning of files that nothing speaks of any more.
import { and, eq, isNotNull, sql } from 'drizzle-orm'
import { readdir, readFile, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { isBlobName } from '../../host/blobs'
import { blobs, shots } from '../database/schema'
import { context, type Database } from './context'
import { takeFiles } from './files'
import { tell } from './news'
import { NotFound } from './shots'

const HOUR = 3_600_000
/** A file that nothing speaks of stays this long: an upload comes before the change that needs it. */
const GRACE = Number(process.env.NORTHMIST_GRACE_HOURS ?? 24) * HOUR
const EVERY = 6 * HOUR
/** Lists of frames are JSON; larger files are none. */
const MOST_LIST = 16 * 1048576
/**
 * Names of files that anything speaks of: shots (deleted ones too, they can be brought back), their kept versions and
 * changes, work that is not done with all it holds, and what was sent.
 */
async function spokenOf(database: Pick<Database, 'execute'>, shot?: string): Promise<Set<string>> {
  const only = (column: string) => (shot === undefined ? sql`true` : sql`${sql.identifier(column)} = ${shot}`)
  const { rows } = await database.execute<{ name: string }>(sql`
    with texts as (
      select document::text || coalesce(thumbnail, '') as t from shots where ${only('id')}
      union all select document::text || coalesce(picture, '') from versions where ${only('shot_id')}
      union all select forward::text || backward::text from changes where ${only('shot_id')}
      union all select document::text || settings::text from jobs
        where state in ('queued', 'running') and ${only('shot_id')}
      union all select look::text || coalesce(picture, '') from looks where ${shot === undefined}
      union all select coalesce(result::text, '') from jobs where kind = 'send' and ${only('shot_id')}
    )
    select distinct m[1] as name from texts, regexp_matches(t, '([0-9a-f]{64})', 'g') as m`)
  const found = new Set(rows.map(row => row.name))
  // A clip names its frames, or its video, in a file
  for (const name of [...found]) for (const frame of await listed(name)) found.add(frame)
  return found
}

/** Names of files in a file, where it is a list of such. */
async function listed(name: string): Promise<string[]> {
  const { store } = await context()
  if (!store.has(name) || (await store.size(name)) > MOST_LIST) return []
  const [first] = await store.head(name, 1)
  if (first !== 0x7b) return []
  return (await readFile(store.path(name), 'utf8')).match(/(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])/g) ?? []
}

/** Every file of the store: its name, bytes, and when it was written. */
async function* filesOfStore(): AsyncGenerator<{ name: string; path: string; bytes: number; at: number }> {
  const { store } = await context()
  for (const folder of await readdir(store.folder).catch(() => [])) {
    if (!/^[0-9a-f]{2}$/.test(folder)) continue
    for (const rest of await readdir(join(store.folder, folder)).catch(() => [])) {
      const path = join(store.folder, folder, rest)
      const facts = await stat(path).catch(() => undefined)
      if (facts && isBlobName(folder + rest)) yield { name: folder + rest, path, bytes: facts.size, at: facts.mtimeMs }
    }
  }
}

/** Bytes and files of the store, and of the frames decoded from it. */
export async function roomUsed(): Promise<{ bytes: number; files: number }> {
  const { store } = await context()
  const used = await store.frames.used()
  for await (const { bytes } of filesOfStore()) {
    used.bytes += bytes
    used.files++
  }
  return used
}

/** Takes away files that nothing speaks of: those that `which` picks. Returns bytes and files. */
async function clean(
  which: (file: { name: string; at: number }) => boolean,
): Promise<{ bytes: number; files: number }> {
  const { database, store } = await context()
  const freed = { bytes: 0, files: 0 }
  const candidates: { name: string; path: string; bytes: number }[] = []
  const spoken = await spokenOf(database)
  for await (const file of filesOfStore()) if (!spoken.has(file.name) && which(file)) candidates.push(file)
  if (!candidates.length) return freed
  await database.transaction(async transaction => {
    await takeFiles(transaction)
    // Once more: a change may have come to speak of one in between
    const now = await spokenOf(transaction)
    for (const { name, path, bytes } of candidates) {
      // Sent again in between, it is new
      const at = (await stat(path).catch(() => undefined))?.mtimeMs
      if (now.has(name) || at === undefined || !which({ name, at })) continue
      await rm(path, { force: true })
      await transaction.delete(blobs).where(eq(blobs.sha256, name))
      await store.frames.forget(name)
      freed.bytes += bytes
      freed.files++
    }
  })
  return freed
}

/** Files that nothing has spoken of for the grace time, and renders that were stopped before that. */
export async function cleanStore(grace = GRACE): Promise<{ bytes: number; files: number }> {
  const before = Date.now() - grace
  const { store } = await context()
  const folder = join(store.folder, 'unfinished')
  for (const part of await readdir(folder).catch(() => [])) {
    const facts = await stat(join(folder, part)).catch(() => undefined)
    if (facts && facts.mtimeMs < before) await rm(join(folder, part), { force: true })
  }
  const freed = await clean(({ at }) => at < before)
  await store.frames.sweep(clip => store.has(clip))
  return freed
}

let timer: ReturnType<typeof setInterval> | undefined
/** Cleans now and then for as long as the server runs. */
export function keepClean(): void {
  const now = (): void =>
    void cleanStore().then(
      ({ bytes, files }) => {
        if (files) console.log(`${files} files that nothing needs are gone: ${(bytes / 1e6).toFixed(1)} MB`)
      },
      error => console.error('cleaning:', (error as Error).message),
    )
  setTimeout(now, 5_000).unref()
  timer = setInterval(now, EVERY)
  timer.unref()
}

export interface RemovedShot {
  id: string
  name: string
  thumbnail: string | null
  deletedAt: Date | null
}
export async function removedShots(): Promise<RemovedShot[]> {
  const { database } = await context()
  return database
    .select({ id: shots.id, name: shots.name, thumbnail: shots.thumbnail, deletedAt: shots.deletedAt })
    .from(shots)
    .where(isNotNull(shots.deletedAt))
    .orderBy(shots.deletedAt)
}

/** A deleted shot goes for good, with its changes and work, and the files that only it spoke of. */
export async function forgetShot(id: string): Promise<{ bytes: number; files: number }> {
  const { database } = await context()
  const own = await spokenOf(database, id)
  const gone = await database
    .delete(shots)
    .where(and(eq(shots.id, id), isNotNull(shots.deletedAt)))
    .returning({ id: shots.id })
  if (!gone.length) throw new NotFound('There is no such deleted shot.')
  const freed = await clean(({ name }) => own.has(name))
  tell({ kind: 'shots' })
  return freed
}
