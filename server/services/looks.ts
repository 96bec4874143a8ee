// Looks: kept for every shot, each with its picture.
import { desc, eq, sql } from 'drizzle-orm'
import { BadInput } from '../../core/formats/errors'
import { identifier } from '../../core/shot/document'
import { alone, readLook, writeLook, type KeptLook, type Look } from '../../core/shot/look'
import { looks } from '../database/schema'
import { context } from './context'
import { holdFiles } from './files'
import { checked, NotFound } from './shots'

/** Looks at most: all of them are told at once. */
const MOST = 500
const TOLD = {
  id: looks.id,
  name: looks.name,
  picture: looks.picture,
  lines: sql<number>`(select count(*)::int from jsonb_object_keys(${looks.look} -> 'lines'))`,
}

export async function listLooks(): Promise<KeptLook[]> {
  const { database } = await context()
  return database.select(TOLD).from(looks).orderBy(desc(looks.createdAt)).limit(MOST)
}
/** The look itself. Throws NotFound. */
export async function getLook(id: string): Promise<Look> {
  const { database } = await context()
  const [row] = await database.select({ look: looks.look }).from(looks).where(eq(looks.id, id))
  if (!row) throw new NotFound('There is no such look.')
  return row.look
}

/** Keeps one. picture: a stored file. Throws BadInput for what is wrong with it. */
export async function keepLook(told: object, picture: string | undefined): Promise<KeptLook> {
  const look: Look = readLook(writeLook({ ...(told as Look), northmist: 'look' }))
  if (!Object.keys(look.lines).length) throw new BadInput('A look is made of lines; there are none that are on.')
  const { database, store } = await context()
  if (picture && !store.has(picture)) throw new BadInput('The picture of the look is not here.')
  return database.transaction(async transaction => {
    await holdFiles(transaction)
    await checked(alone(look))
    if ((await transaction.$count(looks)) >= MOST) throw new BadInput(`There are ${MOST} looks: delete one first.`)
    const [row] = await transaction
      .insert(looks)
      .values({ id: identifier(), name: look.name, look, picture })
      .returning(TOLD)
    return row!
  })
}

export async function deleteLook(id: string): Promise<void> {
  const { database } = await context()
  const gone = await database.delete(looks).where(eq(looks.id, id)).returning({ id: looks.id })
  if (!gone.length) throw new NotFound('There is no such look.')
}
