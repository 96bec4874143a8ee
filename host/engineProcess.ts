// The process that does a server's long work: one that may die (a decoder of a package that never ends, memory that runs
// out) without taking the server along. Its engine runs in a thread of it, so that it hears of a cancellation meanwhile.
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import type { WorkNews, WorkOrder } from './engineThread'

export type ToEngine =
  | { kind: 'start'; folder: string; threads: number }
  | { kind: 'work'; order: Omit<WorkOrder, 'cancel'> }
  | { kind: 'cancel'; id: string }

let thread: Worker | undefined
const flags = new Map<string, Int32Array>()
process.on('message', (message: ToEngine) => {
  if (message.kind === 'start') {
    const { folder, threads } = message
    thread = new Worker(join(dirname(fileURLToPath(import.meta.url)), 'engineThread.mjs'), {
      workerData: { folder, threads },
    })
    thread.on('message', (news: WorkNews) => {
      if (news.kind !== 'progress') flags.delete(news.id)
      process.send!(news)
    })
    thread.on('error', error => {
      console.error('engine:', error)
      process.exit(1)
    })
    thread.on('exit', () => process.exit(1))
  } else if (message.kind === 'work') {
    const cancel = new SharedArrayBuffer(4)
    flags.set(message.order.id, new Int32Array(cancel))
    thread!.postMessage({ ...message.order, cancel } satisfies WorkOrder)
  } else {
    const flag = flags.get(message.id)
    if (flag) Atomics.store(flag, 0, 1)
  }
})
// The server is gone
process.on('disconnect', () => process.exit(0))
