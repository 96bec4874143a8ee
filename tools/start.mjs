// npm start: sets up what is missing, starts PostgreSQL and Northmist with its demo, and ends both on Ctrl-C.
import { join } from 'node:path'
import { entryOf, takeLock } from './lock.mjs'
import { application, bundles, debianPackages, freePort, kernels, nodePackages, root, server, step } from './setup.mjs'

const data = process.env.NORTHMIST_DATA ?? join(root, '.data')
const own = !process.env.DATABASE_URL
let database
let app
let ending = false
let lock

async function end(code) {
  if (ending) return
  ending = true
  await app?.stop()
  await database?.stop()
  lock?.release()
  process.exit(code)
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    console.log('\nStopping.')
    void end(0)
  })

try {
  console.log('Northmist')
  const taken = await takeLock(data)
  if (taken.other) {
    console.log(
      `\n  Northmist runs already on ${data}: ${taken.other.address ?? 'it is starting'} (process ${taken.other.starter.pid})\n`,
    )
    process.exit(0)
  }
  lock = taken.lock
  await step('PostgreSQL and ffmpeg from Debian', () => debianPackages([...(own ? ['postgresql'] : []), 'ffmpeg']))
  await step('packages', nodePackages)
  await step('kernels', kernels)
  await step('tools', bundles)
  await step('application', application)
  if (own)
    await step('database', async () => {
      const { postgres } = await import('./database.mjs')
      database = await postgres(data, 54329, text => console.log(text))
      return `on 127.0.0.1:${database.port}`
    })
  await step('server, demo on the first run', async () => {
    app = await server({
      url: database?.url ?? process.env.DATABASE_URL,
      port: await freePort(Number(process.env.PORT ?? 4173)),
      data,
    })
  })
  lock.say({ server: entryOf(app.child.pid), address: app.address })
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
