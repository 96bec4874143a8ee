// Brings database, demo and queue up; requests wait until that is done.
import { context } from '../services/context'
import { startJobs, stopJobs } from '../services/jobs'
import { loadDemo } from '../services/demo'
import { useNode } from '../../host/engine'

export default defineNitroPlugin(nitro => {
  useNode()
  const ready = (async () => {
    await context()
    await startJobs()
    if (process.env.NORTHMIST_DEMO !== 'no') await loadDemo()
  })()
  ready.catch(error => {
    console.error(`Northmist cannot start: ${(error as Error).message}`)
    process.exit(1)
  })
  nitro.hooks.hook('request', () => ready)
  nitro.hooks.hook('close', () => stopJobs())
})
