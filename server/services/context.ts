// What the server holds while it runs: database, blob store, queue. Made once by the start plugin.
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { join } from 'node:path'
import pg from 'pg'
import { BlobStore } from '../../host/blobs'
import { projectRoot } from '../../host/root'
import * as schema from '../database/schema'

export type Database = NodePgDatabase<typeof schema>
export interface Context {
  database: Database
  pool: pg.Pool
  store: BlobStore
  url: string
}

let opening: Promise<Context> | undefined

export function context(): Promise<Context> {
  return (opening ??= open())
}

async function open(): Promise<Context> {
  const url = process.env.DATABASE_URL
  if (!url) throw new Error('DATABASE_URL is not set: start Northmist with npm start.')
  const pool = new pg.Pool({ connectionString: url, max: 8 })
  pool.on('error', error => console.error('database connection lost:', error.message))
  const database = drizzle(pool, { schema })
  await migrate(database, { migrationsFolder: join(projectRoot(), 'server/database/migrations') })
  const store = new BlobStore(join(process.env.NORTHMIST_DATA ?? join(projectRoot(), '.data'), 'blobs'))
  return { database, pool, store, url }
}
