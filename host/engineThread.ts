// The thread that does a server's long work, one piece after another, so that requests are answered meanwhile.
import { parentPort, workerData } from 'node:worker_threads'
import { Evaluator } from '../core/compose/evaluate'
import type { PictureReference, ShotDocument } from '../core/shot/document'
import type { DeliveryFormat, PassFormat } from '../core/compose/deliveries'
import { BlobStore } from './blobs'
import { diskFault } from './disk'
import { startEngine } from './engine'
import { ImportCancelled, type ImportOptions } from './clips'
import type { MovieSettings } from './movie'
import {
  Cancelled,
  importClip,
  lookThrough,
  makeFile,
  makeMovie,
  renderPasses,
  type ImportFiles,
  type Report,
  type WorkResult,
} from './work'

export interface WorkOrder {
  id: string
  kind: 'render' | 'send' | 'import' | 'check' | 'movie'
  document: ShotDocument
  frame: number
  format?: DeliveryFormat | PassFormat
  /** Of a render: passes that still stand too. */
  all?: boolean
  files?: ImportFiles
  /** Of a check: the clip, and how it was brought in. */
  clip?: { made: PictureReference; options: ImportOptions }
  /** Of a movie: its frames, as files of the store, and what it is to be. */
  movie?: { frames: string[]; settings: MovieSettings }
  shotName: string
  cancel: SharedArrayBuffer
}
export type WorkNews =
  | { id: string; kind: 'progress'; share: number; message: string; preview?: Uint8Array }
  | { id: string; kind: 'done'; result: WorkResult }
  | { id: string; kind: 'failed'; message: string }
  | { id: string; kind: 'cancelled' }

const { folder, threads } = workerData as { folder: string; threads: number }
const store = new BlobStore(folder)
const post = (news: WorkNews): void => parentPort!.postMessage(news)
const ready = startEngine(threads).then(engine => ({
  engine,
  evaluator: new Evaluator(engine.pool, blob => store.get(blob)),
}))

let queue = Promise.resolve()
parentPort!.on('message', (order: WorkOrder) => {
  queue = queue.then(() => work(order))
})

async function work(order: WorkOrder): Promise<void> {
  const flag = new Int32Array(order.cancel)
  const report: Report = {
    progress: (share, message, preview) => post({ id: order.id, kind: 'progress', share, message, preview }),
    cancelled: () => Atomics.load(flag, 0) === 1,
  }
  try {
    const { engine, evaluator } = await ready
    const result =
      order.kind === 'import'
        ? await importClip(store, order.files!, order.document.rate, report)
        : order.kind === 'check'
          ? await lookThrough(store, order.clip!.made, order.clip!.options, report)
          : order.kind === 'render'
            ? await renderPasses(engine, evaluator, store, order.document, order.frame, report, order.all)
            : order.kind === 'movie'
              ? await makeMovie(store, order.movie!.frames, order.movie!.settings, report)
              : await makeFile(
                  engine,
                  evaluator,
                  store,
                  order.document,
                  order.frame,
                  order.format!,
                  order.shotName,
                  report,
                )
    post({ id: order.id, kind: 'done', result })
  } catch (error) {
    if (error instanceof Cancelled || error instanceof ImportCancelled) post({ id: order.id, kind: 'cancelled' })
    else {
      const { code, message } = error as Error & { code?: string }
      post({ id: order.id, kind: 'failed', message: diskFault(code ?? '') ?? message })
    }
  }
}
