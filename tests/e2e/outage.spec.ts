// What goes wrong around Northmist: a killed database, a full disk, a killed starter, an engine that dies. The page says
// so, keeps the work and goes on by itself.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process'
import {
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  rmSync,
  writeFileSync,
  chmodSync,
} from 'node:fs'
import { createHash } from 'node:crypto'
import { request as http } from 'node:http'
import { connect } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { at, documentOf, expect, go, newShot, saved, test, type, listed } from './stage'
// @ts-expect-error plain JavaScript without types
import { freePort } from '../../tools/setup.mjs'

const root = join(import.meta.dirname, '../..')

test('a killed database: changes wait and are saved when it is back, within ten seconds; the page of shots says so', async ({
  page,
  stage,
  context,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-saturation').click()
  await saved(page)
  const list = await context.newPage()
  // The database stays away as long as its folder cannot be entered
  chmodSync(join(stage.folder, 'data'), 0o700)
  stage.killDatabase()
  await type(at(page, 'value-amount'), '0.25')
  await expect(at(page, 'save-state')).toHaveText('waiting for the server')
  await expect(at(page, 'treatment-saturation')).toContainText('0.25')
  await list.goto(stage.address)
  await expect(at(list, 'away')).toContainText('The database does not answer')
  const answer = await page.request.get(`${stage.address}/api/shots`)
  expect(answer.status()).toBe(503)
  // A second change, and a page that is closed meanwhile
  await type(at(page, 'value-amount'), '0.5')
  chmodSync(join(stage.folder, 'data'), 0o755)
  const back = Date.now()
  await expect(at(page, 'save-state')).toHaveText('saved', { timeout: 15000 })
  expect(Date.now() - back).toBeLessThan(10000)
  expect(listed((await documentOf(page, stage, id)).document.finish)[0].values.amount).toBe(0.5)
  await expect(at(list, 'away')).toHaveCount(0)
  await expect(at(list, 'shots').locator('article').first()).toBeVisible()
  await list.close()
})

test('a job that runs while the database is killed is finished all the same', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'passes')
  await at(page, 'render').click()
  await expect
    .poll(async () => (await (await page.request.get(`${stage.address}/api/shots/${id}/jobs`)).json())[0]?.state)
    .toMatch(/running|done/)
  stage.killDatabase()
  await expect
    .poll(
      async () => {
        const answer = await page.request.get(`${stage.address}/api/shots/${id}/jobs`)
        return answer.ok() ? (await answer.json())[0]?.state : 'away'
      },
      { timeout: 90000 },
    )
    .toBe('done')
})

test('a full disk: the file is refused with the reason, no part is left, and it goes on when there is room', async ({
  page,
  stage,
}) => {
  const blobs = join(stage.folder, 'data/blobs')
  test.skip(
    process.getuid?.() !== 0 || spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=2m', 'none', blobs]).status !== 0,
    'a small disk cannot be mounted here',
  )
  try {
    const noise = Buffer.alloc(6_000_000)
    for (let i = 0; i < noise.length; i++) noise[i] = (i * 2654435761) >>> 13
    readFileSync(stage.plate).copy(noise)
    const refused = await page.request.post(`${stage.address}/api/blobs`, { data: noise })
    expect(refused.status()).toBe(503)
    expect((await refused.json()).message).toMatch(/disk is full/i)
    expect(readdirSync(blobs)).toEqual([])
    const taken = await page.request.post(`${stage.address}/api/blobs`, { data: readFileSync(stage.plate) })
    expect(taken.status()).toBe(200)
  } finally {
    execFileSync('umount', [blobs])
  }
})

/** The engine's process of the stage's server: a child of a process that works in the stage's data folder. */
function engineOf(stage: { folder: string }): number | undefined {
  for (const pid of readdirSync('/proc').filter(name => /^\d+$/.test(name)))
    try {
      const line = readFileSync(`/proc/${pid}/cmdline`, 'utf8')
      if (line.includes('engineProcess') && readFileSync(`/proc/${pid}/environ`, 'utf8').includes(stage.folder))
        return Number(pid)
    } catch {
      /* gone */
    }
  return undefined
}

test('an engine that dies is started again; what killed it twice is failed with a word, and the server stays', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'passes')
  await at(page, 'samples').first().waitFor()
  await page.request.patch(`${stage.address}/api/shots/${id}`, {
    data: {
      version: DOCUMENT_VERSION,
      revision: (await documentOf(page, stage, id)).revision,
      label: 'x',
      patch: [{ op: 'replace', path: '/passes/samples', value: 4096 }],
    },
  })
  const job = (await (
    await page.request.post(`${stage.address}/api/shots/${id}/render`, { data: { frame: 1 } })
  ).json()) as { id: string }
  const state = async (): Promise<{ state: string; message: string | null; progress: number }> =>
    (await page.request.get(`${stage.address}/api/jobs/${job.id}`)).json()
  for (let kill = 0; kill < 2; kill++) {
    await expect
      .poll(async () => (await state()).state === 'running' && engineOf(stage) !== undefined, { timeout: 60000 })
      .toBe(true)
    await expect.poll(async () => (await state()).progress, { timeout: 60000 }).toBeGreaterThan(0)
    process.kill(engineOf(stage)!, 'SIGKILL')
    await expect.poll(async () => (await state()).state, { timeout: 30000 }).toMatch(kill ? /failed/ : /queued|running/)
    await page.waitForTimeout(500)
  }
  expect((await state()).message).toMatch(/ended the engine 2 times/)
  // The next one is done by a new engine
  await page.request.patch(`${stage.address}/api/shots/${id}`, {
    data: {
      version: DOCUMENT_VERSION,
      revision: (await documentOf(page, stage, id)).revision,
      label: 'x',
      patch: [{ op: 'replace', path: '/passes/samples', value: 2 }],
    },
  })
  const next = (await (
    await page.request.post(`${stage.address}/api/shots/${id}/render`, { data: { frame: 1 } })
  ).json()) as { id: string }
  await expect
    .poll(async () => (await (await page.request.get(`${stage.address}/api/jobs/${next.id}`)).json()).state, {
      timeout: 60000,
    })
    .toBe('done')
})

test('npm start: a second one says where the first runs and ends well; a killed one is cleared away by the next', async ({
  request,
}) => {
  const folder = mkdtempSync(join(tmpdir(), 'northmist-start-'))
  chmodSync(folder, 0o755)
  const port = await freePort(0)
  const running: ChildProcess[] = []
  const start = (): { child: ChildProcess; text: () => string; code: Promise<number | null> } => {
    const child = spawn(process.execPath, [join(root, 'tools/start.mjs')], {
      cwd: root,
      env: { ...process.env, NORTHMIST_DATA: join(folder, 'data'), NORTHMIST_DEMO: 'no', PORT: String(port) },
    })
    running.push(child)
    let text = ''
    child.stdout!.on('data', chunk => (text += chunk))
    child.stderr!.on('data', chunk => (text += chunk))
    return { child, text: () => text, code: new Promise(resolve => child.once('exit', resolve)) }
  }
  try {
    // A start that broke while the database was being made
    mkdirSync(join(folder, 'data/postgres-new'), { recursive: true })
    writeFileSync(join(folder, 'data/postgres-new/half'), 'x')
    const first = start()
    await expect.poll(first.text, { timeout: 60000 }).toContain('Northmist is at')
    const second = start()
    expect(await second.code).toBe(0)
    expect(second.text()).toContain(`http://127.0.0.1:${port}`)
    expect((await request.get(`http://127.0.0.1:${port}/api/shots`)).status()).toBe(200)
    // Killed without a word: its server goes with it
    first.child.kill('SIGKILL')
    await expect
      .poll(
        () =>
          request.get(`http://127.0.0.1:${port}/api/shots`).then(
            () => 'answers',
            () => 'gone',
          ),
        { timeout: 15000 },
      )
      .toBe('gone')
    const third = start()
    await expect.poll(third.text, { timeout: 60000 }).toContain(`Northmist is at http://127.0.0.1:${port}`)
    expect((await request.get(`http://127.0.0.1:${port}/api/shots`)).status()).toBe(200)
    third.child.kill('SIGTERM')
    expect(await third.code).toBe(0)
    expect(readdirSync(join(folder, 'data'))).not.toContain('northmist.lock')
  } finally {
    for (const child of running) child.kill('SIGKILL')
    await new Promise(resolve => setTimeout(resolve, 1000))
    rmSync(folder, { recursive: true, force: true })
  }
})

test('seven pages are open at once, and all of them load', async ({ stage, context, page }) => {
  const id = await newShot(page, stage)
  const pages = []
  for (let i = 0; i < 7; i++) {
    const other = await context.newPage()
    await other.goto(`${stage.address}/shot/${id}?station=finish`)
    await at(other, 'ready').waitFor()
    pages.push(other)
  }
  // And hear of what one of them does
  await at(pages[6]!, 'add-treatment').click()
  await at(pages[6]!, 'add-exposure').click()
  await expect(at(pages[0]!, 'treatment-exposure')).toBeVisible()
  for (const other of pages) await other.close()
})

/** Open files of the stage's server that lie in its store. */
function openFiles(stage: { folder: string }): number {
  let count = 0
  for (const pid of readdirSync('/proc').filter(name => /^\d+$/.test(name)))
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('.output/server/index.mjs')) continue
      for (const file of readdirSync(`/proc/${pid}/fd`))
        if (readlinkSync(`/proc/${pid}/fd/${file}`).startsWith(join(stage.folder, 'data/blobs'))) count++
    } catch {
      /* gone */
    }
  return count
}

test('downloads that are cut leave no file open; ranges, names and wrong addresses are answered as they should be', async ({
  page,
  stage,
}) => {
  const big = Buffer.alloc(8_000_000, 7)
  readFileSync(stage.plate).copy(big)
  const { blob } = (await (await page.request.post(`${stage.address}/api/blobs`, { data: big })).json()) as {
    blob: string
  }
  const address = `${stage.address}/api/blobs/${blob}`
  for (let i = 0; i < 60; i++)
    await new Promise<void>(resolve => {
      const asked = http(address, answer => answer.once('data', () => asked.destroy()))
      asked.on('error', () => resolve())
      asked.on('close', () => resolve())
      asked.end()
    })
  await expect.poll(() => openFiles(stage)).toBe(0)

  // A request that comes before the answer before it has left its connection (RFC 9112, 9.3.2) is answered, too
  const small = createHash('sha256').update(readFileSync(stage.plate)).digest('hex')
  await page.request.post(`${stage.address}/api/blobs`, { data: readFileSync(stage.plate) })
  const { hostname, port: of } = new URL(stage.address)
  const socket = connect(Number(of), hostname)
  let said = ''
  socket.on('data', data => {
    said += data.toString('latin1')
  })
  socket.write(`GET /api/blobs/${small} HTTP/1.1\r\nhost: ${hostname}:${of}\r\n\r\n`.repeat(3))
  await expect.poll(() => said.split('HTTP/1.1 200 OK').length - 1, { timeout: 10000 }).toBe(3)
  socket.destroy()

  const range = async (value: string) => {
    const answer = await page.request.get(address, { headers: { range: value } })
    return [answer.status(), answer.headers()['content-range'], (await answer.body()).length]
  }
  expect(await range('bytes=0-99')).toEqual([206, 'bytes 0-99/8000000', 100])
  expect(await range('bytes=7999990-')).toEqual([206, 'bytes 7999990-7999999/8000000', 10])
  expect(await range('bytes=-5')).toEqual([206, 'bytes 7999995-7999999/8000000', 5])
  expect((await range('bytes=9000000-'))[0]).toBe(416)
  expect((await range('bytes=5-2'))[0]).toBe(200)

  const named = await page.request.get(`${address}?name=${'x'.repeat(199)}${encodeURIComponent('🔔')}.png`)
  expect(named.headers()['content-disposition']).toContain('%F0%9F%94%94')

  const answers = async (method: string, path: string, headers: Record<string, string> = {}) => {
    const answer = await page.request.fetch(`${stage.address}${path}`, { method, headers })
    return [answer.status(), (await answer.json().catch(() => ({}))).message]
  }
  expect(await answers('GET', '/api/nothing')).toEqual([404, 'There is no such address.'])
  expect(await answers('PUT', '/api/shots')).toEqual([405, expect.stringMatching(/GET, POST|POST, GET/)])
  expect((await answers('POST', '/api/jobs/abc/preview'))[0]).toBe(405)
  const port = new URL(stage.address).port
  expect((await answers('GET', '/api/shots', { origin: `http://127.0.0.1:${Number(port) + 1}` }))[0]).toBe(403)
  expect((await answers('GET', '/api/shots', { 'sec-fetch-site': 'same-site' }))[0]).toBe(403)
  expect((await answers('GET', '/api/shots', { origin: stage.address }))[0]).toBe(200)
})
