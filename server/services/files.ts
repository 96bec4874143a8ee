// A lock about the files of the store: held shared by who makes a shot speak of them, alone by who takes them away.
import { sql } from 'drizzle-orm'
import type { Database } from './context'

const FILES_LOCK = 7_243_101
type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

/** Before a document is checked for the files that it needs: they stay until the transaction ends. */
export const holdFiles = (transaction: Transaction): Promise<unknown> =>
  transaction.execute(sql`select pg_advisory_xact_lock_shared(${FILES_LOCK})`)
/** Before files are taken away: until the transaction ends nothing comes to speak of one. */
export const takeFiles = (transaction: Transaction): Promise<unknown> =>
  transaction.execute(sql`select pg_advisory_xact_lock(${FILES_LOCK})`)
