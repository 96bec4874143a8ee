// The engine of the server, in a process of its own that is started when there is work and started again when it died.
import { fork, type ChildProcess } from 'node:child_process'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import type { ToEngine } from '../../host/engineProcess'
import type { WorkNews, WorkOrder } from '../../host/engineThread'
import { projectRoot } from '../../host/root'

type Progress = Extract<WorkNews, { kind: 'progress' }>
/** What came of a piece of work; died: the engine ended in the middle of it. */
export type WorkEnd = Exclude<WorkNews, Progress> | { id: string; kind: 'died'; message: string }

/** Milliseconds that the engine may take to obey a cancellation, and to say anything at all, before it is ended. */
const OBEYS = 10_000
const SPEAKS = 15 * 60_000

let child: ChildProcess | undefined
const waiting = new Map<string, { end(news: WorkEnd): void; progress(news: Progress): void; silence: NodeJS.Timeout }>()

const tell = (message: ToEngine): void => {
  child?.send(message)
}

function started(folder: string): ChildProcess {
  if (child) return child
  const own = fork(join(projectRoot(), '.build/engineProcess.mjs'), [], {
    serialization: 'advanced',
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  })
  child = own
  own.on('message', (news: WorkNews) => {
    const entry = waiting.get(news.id)
    if (!entry) return
    if (news.kind === 'progress') {
      entry.silence.refresh()
      entry.progress(news)
    } else entry.end(news)
  })
  own.on('error', error => console.error('engine:', error.message))
  own.on('exit', (code, signal) => {
    if (child === own) child = undefined
    for (const [id, entry] of waiting) entry.end({ id, kind: 'died', message: `the engine ended (${signal ?? code})` })
  })
  tell({ kind: 'start', folder, threads: availableParallelism() })
  return own
}

/** Does a piece of work; resolves with what came of it, whatever that is. */
export function work(
  folder: string,
  order: Omit<WorkOrder, 'cancel'>,
  progress: (news: Progress) => void,
): Promise<WorkEnd> {
  const own = started(folder)
  return new Promise(resolve => {
    const silence = setTimeout(() => own.kill('SIGKILL'), SPEAKS)
    waiting.set(order.id, {
      progress,
      silence,
      end: news => {
        clearTimeout(silence)
        waiting.delete(order.id)
        resolve(news)
      },
    })
    tell({ kind: 'work', order })
  })
}

/** Asks for a piece of work to end; an engine that does not listen is ended. */
export function cancelWork(id: string): void {
  if (!waiting.has(id)) return
  tell({ kind: 'cancel', id })
  const own = child
  setTimeout(() => {
    if (waiting.has(id)) own?.kill('SIGKILL')
  }, OBEYS).unref()
}

export function stopEngine(): void {
  child?.kill('SIGKILL')
}
