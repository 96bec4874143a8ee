// Work as the page knows it, when answers and news overtake each other.
import { createPinia, setActivePinia } from 'pinia'
import { expect, it } from 'vitest'
import { useJobs, type Job } from './jobs'

const job = (state: Job['state'], message: string | null = null): Job => ({
  id: 'one',
  shotId: 'shot',
  kind: 'import',
  state,
  progress: 0,
  message,
  createdAt: '2026-01-01T00:00:00Z',
  settings: { frame: 1 },
  result: null,
})

it('work that failed before the answer to its start came stays failed', () => {
  setActivePinia(createPinia())
  const jobs = useJobs()
  jobs.put(job('running'))
  jobs.put(job('failed', 'its files differ'))
  jobs.put(job('queued'))
  expect(jobs.list).toEqual([job('failed', 'its files differ')])
  expect(jobs.running).toEqual([])
})

it('work that a killed server left behind waits again', () => {
  setActivePinia(createPinia())
  const jobs = useJobs()
  jobs.put(job('running'))
  jobs.put(job('queued'))
  expect(jobs.list).toEqual([job('queued')])
})
