// npm start: sets up what is missing, starts PostgreSQL and Northmist with its demo, and ends both on Ctrl-C.
import { join } from 'node:path'
import {
  application,
  bundles,
  debianPackages,
  freePort,
  kernels,
  nodePackages,
  postgres,
  root,
  server,
  step,
} from './setup.mjs'

const data = process.env.NORTHMIST_DATA ?? join(root, '.data')
const own = !process.env.DATABASE_URL
let database
let app
let ending = false

async function end(code) {
  if (ending) return
  ending = true
  await app?.stop()
  await database?.stop()
  process.exit(code)
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    console.log('\nStopping.')
    void end(0)
  })

try {
  console.log('Northmist')
  await step('PostgreSQL and ffmpeg from Debian', () => debianPackages([...(own ? ['postgresql'] : []), 'ffmpeg']))
  await step('packages', nodePackages)
  await step('kernels', kernels)
  await step('tools', bundles)
  await step('application', application)
  if (own)
    await step('database', async () => {
      database = await postgres(data, 54329)
      return `on 127.0.0.1:${database.port}`
    })
  await step('server, demo on the first run', async () => {
    app = await server({
      url: database?.url ?? process.env.DATABASE_URL,
      port: await freePort(Number(process.env.PORT ?? 4173)),
      data,
    })
  })
  console.log(`\n  Northmist is at ${app.address}   (Ctrl-C ends it)\n`)
  app.child.once('exit', code => {
    if (!ending) {
      console.log(`The server ended (${code}).`)
      void end(1)
    }
  })
} catch (error) {
  console.error(`\n${error.message}`)
  await end(1)
}
