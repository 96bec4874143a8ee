// What is known of jobs: their rows in the database, how far the one that runs is, and who is told.
import { eq } from 'drizzle-orm'
import type { DeliveryFormat, MovieFormat, PassFormat } from '../../core/compose/deliveries'
import type { PictureReference } from '../../core/shot/document'
import type { RangeMade } from '../../core/shot/passFrames'
import type { StartImport } from '../../shared/requests'
import { jobs, type JobResult } from '../database/schema'
import { context } from './context'
import { tell } from './news'
import { outageOf } from './outage'
import { NotFound } from './shots'

export type JobRow = typeof jobs.$inferSelect

export type Settings = {
  frame: number
  last?: number
  /** Passes that still stand are rendered again too. */
  all?: boolean
  /** How often it ended the engine. */
  tries?: number
  /** Frames of a range that are done. */
  made?: RangeMade
  format?: DeliveryFormat | PassFormat | MovieFormat
  /** Frames of a sending, in writing, its name, and which are made. */
  frames?: string
  name?: string
  sent?: Record<string, string>
  /** Footage that is part of the shot already. */
  brought?: PictureReference
} & Partial<StartImport>

export const previews = new Map<string, Uint8Array>()
/** base, span, about: where the piece that is being worked on lies in the whole, and what it is. */
export const progress = new Map<
  string,
  { share: number; message: string; startedAt: number; base: number; span: number; about: string }
>()

/** A job without the document it works on. */
export type JobView = Omit<JobRow, 'document'> & { secondsLeft?: number }
export function view({ document: _document, ...whole }: JobRow): JobView {
  const { made: _made, sent: _sent, brought: _brought, files: came, ...settings } = whole.settings as Settings
  const { files, ...result } = whole.result ?? ({} as JobResult)
  const row = {
    ...whole,
    // Of numbered files the first stands for all: there may be thousands
    settings: { ...settings, ...(came && { files: came.slice(0, 1) }) } as JobRow['settings'],
    result: whole.result && { ...result, ...(files && { count: files.length }) },
  }
  const now = progress.get(row.id)
  if (!now || row.state !== 'running') return row
  const elapsed = (Date.now() - now.startedAt) / 1000
  return {
    ...row,
    progress: now.share,
    message: now.message,
    secondsLeft: now.share > 0.03 ? elapsed / now.share - elapsed : undefined,
  }
}
export const announce = (row: JobRow): void =>
  tell({ kind: 'job', id: row.id, shotId: row.shotId, job: view(row) as unknown as Record<string, unknown> })

let stopping = false
export const isStopping = (): boolean => stopping
/** The server ends: nothing is waited for any more. */
export function stopWaiting(): void {
  stopping = true
}

/** Does a thing with the database, again and again while that is away: what was computed must not be lost for it. */
export async function patiently<T>(thing: () => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await thing()
    } catch (error) {
      if (!outageOf(error) || stopping) throw error
      await new Promise(resolve => setTimeout(resolve, 1000))
    }
  }
}

let touched = 0
export async function touch(id: string): Promise<void> {
  const now = Date.now()
  if (now - touched < 200) return
  touched = now
  const row = await jobRow(id).catch(() => undefined)
  if (row) announce(row)
}

export async function jobRow(id: string): Promise<JobRow> {
  const { database } = await context()
  const [row] = await database.select().from(jobs).where(eq(jobs.id, id))
  if (!row) throw new NotFound('There is no such job.')
  return row
}
