// Long work, as the server tells of it.
import { defineStore } from 'pinia'
import { api } from '~/composables/api'
import type { News } from '~/workers/news.worker'
import { useShot } from './shot'

export interface Job {
  id: string
  shotId: string
  kind: 'render' | 'send' | 'import'
  state: 'queued' | 'running' | 'done' | 'failed' | 'cancelled'
  progress: number
  message: string | null
  secondsLeft?: number
  createdAt: string
  settings: { frame: number; format?: string; frames?: string; files?: { name: string }[] }
  result: { blob: string; name: string; bytes: number; /** Of numbered files. */ count?: number } | null
}

/** Whether it waits or runs. */
export const unended = (job: Job): boolean => job.state === 'queued' || job.state === 'running'

export const useJobs = defineStore('jobs', {
  state: () => ({ list: [] as Job[], shotsChanged: 0, ledgerChanged: 0, connected: false }),
  getters: {
    running: state => state.list.filter(unended),
    ofShot: state => (id: string) => state.list.filter(job => job.shotId === id),
  },
  actions: {
    put(job: Job) {
      const at = this.list.findIndex(other => other.id === job.id)
      if (at < 0) this.list.unshift(job)
      // The answer to a request may come after the news that the work has ended: an end is final
      else if (unended(this.list[at]!) || !unended(job)) this.list.splice(at, 1, job)
    },
    async load(shotId?: string) {
      for (const job of (await api<Job[]>(shotId ? `/api/shots/${shotId}/jobs` : '/api/jobs')).reverse()) this.put(job)
    },
    listen() {
      if (port) return
      port = new SharedWorker(new URL('../workers/news.worker.ts', import.meta.url), { type: 'module' }).port
      port.onmessage = ({ data }: MessageEvent<News>) => {
        if ('open' in data) {
          this.connected = data.open
          const shot = useShot()
          // What happened meanwhile was not heard
          if (data.open && shot.id) {
            void shot.heard(Infinity).catch(() => {})
            void this.load(shot.id).catch(() => {})
          }
          if (data.open) {
            this.shotsChanged++
            this.ledgerChanged++
          }
        } else this.hear(JSON.parse(data.data))
      }
      window.addEventListener('pagehide', () => port?.postMessage('gone'))
      // Brought back by the browser from where it kept it
      window.addEventListener('pageshow', event => {
        if (!event.persisted) return
        port = undefined
        this.listen()
      })
    },
    hear(news: { kind: string; id: string; revision: number; job: Job }) {
      if (news.kind === 'job') {
        const { kind, state, message, shotId, settings } = news.job
        this.put(news.job)
        // Footage comes in wherever one is; what is wrong with it is said there
        if (kind === 'import' && state === 'failed' && shotId === useShot().id)
          useShot().message = `“${settings.files?.[0]?.name ?? 'footage'}”: ${message}`
      }
      if (news.kind === 'shots') this.shotsChanged++
      if (news.kind === 'ledger' && news.id === useShot().id) this.ledgerChanged++
      if (news.kind === 'shot') {
        this.shotsChanged++
        const shot = useShot()
        if (shot.id === news.id) void shot.heard(news.revision)
      }
    },
    async start(shotId: string, kind: 'render' | 'send' | 'import', json: object) {
      const job = await api<Job>(`/api/shots/${shotId}/${kind}`, { method: 'POST', json })
      this.put(job)
      return job
    },
    async cancel(id: string) {
      this.put(await api<Job>(`/api/jobs/${id}`, { method: 'DELETE' }))
    },
  },
})
let port: MessagePort | undefined

export const timeLeft = (seconds?: number): string =>
  seconds === undefined
    ? ''
    : seconds < 90
      ? `${Math.max(1, Math.round(seconds))} s left`
      : `${Math.round(seconds / 60)} min left`
