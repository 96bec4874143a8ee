import { boolean, index, integer, jsonb, pgTable, primaryKey, real, text, timestamp } from 'drizzle-orm/pg-core'
import type { Operation } from 'fast-json-patch'
import type { Look } from '../../core/shot/look'
import type { VersionReason } from '../../core/shot/ledger'
import type { ShotDocument } from '../../core/shot/document'

const when = (name: string) => timestamp(name, { withTimezone: true })

export const shots = pgTable('shots', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  document: jsonb('document').$type<ShotDocument>().notNull(),
  /** Grows with every change; a writer must name the one it saw. */
  revision: integer('revision').notNull().default(1),
  /** How many of the kept changes are applied: undo moves it back, redo forth. */
  cursor: integer('cursor').notNull().default(0),
  /** As it was before it was brought to another version: what a page kept unsaved then was made from it. */
  former: jsonb('former').$type<{ revision: number; document: unknown }>(),
  thumbnail: text('thumbnail'),
  createdAt: when('created_at').notNull().defaultNow(),
  updatedAt: when('updated_at').notNull().defaultNow(),
  deletedAt: when('deleted_at'),
})

export const changes = pgTable(
  'changes',
  {
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    sequence: integer('sequence').notNull(),
    label: text('label').notNull(),
    forward: jsonb('forward').$type<Operation[]>().notNull(),
    backward: jsonb('backward').$type<Operation[]>().notNull(),
    at: when('at').notNull().defaultNow(),
  },
  table => [primaryKey({ columns: [table.shotId, table.sequence] })],
)

export const blobs = pgTable('blobs', {
  sha256: text('sha256').primaryKey(),
  bytes: real('bytes').notNull(),
  kind: text('kind').notNull(),
  createdAt: when('created_at').notNull().defaultNow(),
})

/** Lines of recipes kept together, for every shot. */
export const looks = pgTable('looks', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  look: jsonb('look').$type<Look>().notNull(),
  /** The picture of the shot that it was made on. */
  picture: text('picture'),
  createdAt: when('created_at').notNull().defaultNow(),
})

/** Kept states of shots: by name, and by themselves at each send. */
export const versions = pgTable(
  'versions',
  {
    id: text('id').primaryKey(),
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    why: text('why').$type<VersionReason>().notNull(),
    document: jsonb('document').$type<ShotDocument>().notNull(),
    /** How the shot looked then. */
    picture: text('picture'),
    createdAt: when('created_at').notNull().defaultNow(),
  },
  table => [index('versions_by_shot').on(table.shotId, table.createdAt)],
)

export type JobKind = 'render' | 'send' | 'import'
export type JobState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled'
export interface JobResult {
  blob: string
  name: string
  bytes: number
  /** Numbered files, fetched as one ZIP; blob is the first one's. */
  files?: { name: string; blob: string }[]
}

export const jobs = pgTable(
  'jobs',
  {
    id: text('id').primaryKey(),
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    kind: text('kind').$type<JobKind>().notNull(),
    settings: jsonb('settings').$type<Record<string, unknown>>().notNull(),
    document: jsonb('document').$type<ShotDocument>().notNull(),
    state: text('state').$type<JobState>().notNull().default('queued'),
    progress: real('progress').notNull().default(0),
    message: text('message'),
    result: jsonb('result').$type<JobResult>(),
    cancelRequested: boolean('cancel_requested').notNull().default(false),
    createdAt: when('created_at').notNull().defaultNow(),
    startedAt: when('started_at'),
    finishedAt: when('finished_at'),
  },
  table => [index('jobs_by_shot').on(table.shotId, table.createdAt)],
)
