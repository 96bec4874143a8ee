// Brings database, demo and queue up; requests wait until that is done.
import { context } from '../services/context'
import { startJobs, stopJobs } from '../services/jobs'
import { keepClean } from '../services/room'
import { renewShots } from '../services/renew'
import { loadDemo } from '../services/demo'
import { useNode } from '../../host/engine'

export default defineNitroPlugin(nitro => {
  useNode()
  const ready = (async () => {
    const { store, database } = await context()
    await renewShots(database)
    // Nothing is written yet: what there is of parts was left by a broken upload or import
    await store.sweepParts()
    await startJobs()
    if (process.env.NORTHMIST_DEMO !== 'no') await loadDemo()
    keepClean()
  })()
  ready.catch(error => {
    console.error(`Northmist cannot start: ${(error as Error).message}`)
    process.exit(1)
  })
  nitro.hooks.hook('request', () => ready)
  nitro.hooks.hook('close', () => stopJobs())
  // Started by npm start: it holds the other end of standard input, which closes when it is gone, however it went
  if (process.env.NORTHMIST_STARTED === 'yes') {
    process.stdin.resume()
    process.stdin.once('end', () => {
      process.kill(process.pid, 'SIGTERM')
      setTimeout(() => process.exit(1), 8000).unref()
    })
  }
})
