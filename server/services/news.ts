// What happened, to every open page: shots changed, jobs moved on.
import { EventEmitter } from 'node:events'

export type News =
  | { kind: 'shot'; id: string; revision: number }
  | { kind: 'shots' }
  | { kind: 'ledger'; id: string }
  | { kind: 'job'; id: string; shotId: string; job: Record<string, unknown> }

const emitter = new EventEmitter()
emitter.setMaxListeners(0)
export const tell = (news: News): void => {
  emitter.emit('news', news)
}
export function listen(listener: (news: News) => void): () => void {
  emitter.on('news', listener)
  return () => {
    emitter.off('news', listener)
  }
}
