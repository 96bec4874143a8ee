// What a fresh machine needs, step by step, each shown; nothing is done twice.
import { spawn, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  realpathSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const isRoot = process.getuid?.() === 0

export async function step(label, work) {
  const started = Date.now()
  process.stdout.write(`  ${label} … `)
  try {
    const result = await work()
    console.log(
      `${result ?? 'done'}${Date.now() - started > 1500 ? ` (${Math.round((Date.now() - started) / 1000)} s)` : ''}`,
    )
  } catch (error) {
    console.log('failed')
    throw error
  }
}

const steps = join(root, '.build/steps')
const isAlive = pid => {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}
/** What a starter that was killed left at work would write into the same folders as what is started now. */
async function endLeftovers() {
  for (const file of existsSync(steps) ? readdirSync(steps) : []) {
    const path = join(steps, file)
    const pid = Number(file)
    try {
      // A process that has the number by chance works elsewhere
      const ours = readlinkSync(`/proc/${pid}/cwd`) === realpathSync(root)
      if (ours && isAlive(Number(readFileSync(path, 'utf8')))) continue
      if (ours) process.kill(pid, 'SIGKILL')
      // What has ended but is not yet taken in has no folder any more
      while (ours && readlinkSync(`/proc/${pid}/cwd`)) await new Promise(resolve => setTimeout(resolve, 50))
    } catch {
      // It has ended
    }
    rmSync(path, { force: true })
  }
}

export async function run(command, args, options = {}) {
  await endLeftovers()
  mkdirSync(steps, { recursive: true })
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], ...options })
    const note = join(steps, String(child.pid))
    if (child.pid) writeFileSync(note, String(process.pid))
    let output = ''
    child.stdout.on('data', chunk => {
      output += chunk
    })
    child.stderr.on('data', chunk => {
      output += chunk
    })
    child.on('error', reject)
    child.on('close', code => {
      rmSync(note, { force: true })
      if (code === 0) resolve(output)
      else reject(new Error(`${command} ${args.join(' ')} ended with code ${code}:\n${output.slice(-4000)}`))
    })
  })
}

const installed = name =>
  spawnSync('dpkg-query', ['-W', '-f=${Status}', name], { encoding: 'utf8' }).stdout?.includes('install ok installed')

/** Debian packages that are missing, installed by apt. */
export async function debianPackages(names) {
  const missing = names.filter(name => !installed(name))
  if (!missing.length) return 'there'
  const how = `sudo apt-get install ${missing.join(' ')}`
  const sudo = isRoot ? [] : ['sudo', '-n']
  if (!isRoot && spawnSync('sudo', ['-n', 'true']).status !== 0)
    throw new Error(
      `Missing: ${missing.join(', ')}. Neither root nor password-less sudo is at hand; install with: ${how}`,
    )
  const apt = async args => {
    const [command, ...rest] = [...sudo, 'env', 'DEBIAN_FRONTEND=noninteractive', 'apt-get', ...args]
    await run(command, rest)
  }
  try {
    await apt(['update', '-q'])
    await apt(['install', '-y', '-q', '--no-install-recommends', ...missing])
  } catch (error) {
    throw new Error(`Could not install ${missing.join(', ')}. Try by hand: ${how}\n${error.message.slice(-1500)}`)
  }
  return `installed ${missing.join(', ')}`
}

export async function nodePackages() {
  const stamp = join(root, 'node_modules/.northmist-stamp')
  const hash = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === hash) return 'there'
  await run('npm', ['ci', '--no-audit', '--no-fund'])
  writeFileSync(stamp, hash)
}

export async function kernels() {
  const { buildKernels } = await import('./build-kernels.mjs')
  return (await buildKernels()) ? undefined : 'up to date'
}
export async function bundles() {
  const { bundle } = await import('./bundle.mjs')
  return (await bundle()) ? undefined : 'up to date'
}

/** The application, when a source is newer than the last build. */
export async function application() {
  const target = join(root, '.output/northmist-stamp')
  const newest = Math.max(
    ...['app', 'server', 'shared', 'core', 'host', 'kernels/build'].map(folder => newestIn(join(root, folder))),
    ...['nuxt.config.ts', 'package-lock.json'].map(file => statSync(join(root, file)).mtimeMs),
  )
  if (existsSync(target) && statSync(target).mtimeMs > newest) return 'up to date'
  await run(join(root, 'node_modules/.bin/nuxt'), ['build'], {
    env: { ...process.env, NODE_ENV: 'production', NUXT_TELEMETRY_DISABLED: '1' },
  })
  writeFileSync(target, '')
}
function newestIn(folder) {
  let newest = 0
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true }))
    if (entry.isFile() && !entry.name.endsWith('.test.ts'))
      newest = Math.max(newest, statSync(join(entry.parentPath ?? entry.path, entry.name)).mtimeMs)
  return newest
}

export async function freePort(wanted) {
  const { createServer } = await import('node:net')
  const tryPort = port =>
    new Promise(resolve => {
      const server = createServer()
      server.once('error', () => resolve(0))
      server.listen(port, '127.0.0.1', () => {
        const found = server.address().port
        server.close(() => resolve(found))
      })
    })
  return (await tryPort(wanted)) || (await tryPort(0))
}

/** The built server on a port; resolves when it answers. It ends by itself when this process is gone. */
export async function server({ url, port, data, env = {}, quiet = false }) {
  const child = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    cwd: root,
    // Its standard input is a pipe that closes with this process, however that ends
    stdio: ['pipe', quiet ? 'ignore' : 'inherit', 'inherit'],
    env: {
      ...process.env,
      NORTHMIST_STARTED: 'yes',
      NODE_ENV: 'production',
      DATABASE_URL: url,
      NORTHMIST_DATA: data,
      NORTHMIST_ROOT: root,
      HOST: '127.0.0.1',
      NITRO_HOST: '127.0.0.1',
      PORT: String(port),
      NITRO_PORT: String(port),
      ...env,
    },
  })
  const address = `http://127.0.0.1:${port}`
  for (let attempt = 0; ; attempt++) {
    if (child.exitCode !== null) throw new Error('The server ended while starting.')
    try {
      if ((await fetch(`${address}/api/shots`)).ok) break
    } catch {
      /* not yet */
    }
    if (attempt > 600) throw new Error('The server does not answer.')
    await new Promise(resolve => setTimeout(resolve, 100))
  }
  return {
    child,
    address,
    stop: signal =>
      new Promise(resolve => {
        if (child.exitCode !== null || child.signalCode) return resolve()
        child.once('exit', resolve)
        child.kill(signal ?? 'SIGTERM')
      }),
  }
}
