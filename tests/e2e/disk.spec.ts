// Disks that fill at the worst moment, and first starts that break: nothing is lost, it is said, and it goes on.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import { execFileSync, spawn, spawnSync } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { documentOf, expect, test } from './stage'
// @ts-expect-error plain JavaScript without types
import { postgres } from '../../tools/database.mjs'
// @ts-expect-error plain JavaScript without types
import { freePort, server } from '../../tools/setup.mjs'

const root = join(import.meta.dirname, '../..')
/** A disk of its own of so many megabytes; false where none can be had. */
const smallDisk = (folder: string, megabytes: number): boolean =>
  process.getuid?.() === 0 &&
  spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m,mode=755`, 'none', folder]).status === 0
const filler = (folder: string): string => join(folder, 'filler')
function fill(folder: string): void {
  const { bavail, bsize } = statfsSync(folder)
  writeFileSync(filler(folder), Buffer.alloc(Math.max(0, bavail * bsize - bsize)))
  // And the last pages
  spawnSync('dd', ['if=/dev/zero', `of=${filler(folder)}.rest`, 'bs=4096', 'count=64'])
}
function makeRoom(folder: string): void {
  rmSync(filler(folder), { force: true })
  rmSync(`${filler(folder)}.rest`, { force: true })
}

test('a disk that is full when footage comes in: its frames are seen all the same, what cannot be kept is said, and it goes on', async ({
  page,
  stage,
}) => {
  const path = join(stage.folder, 'small.mp4')
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=size=160x96:rate=25:duration=3'],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', path],
  ])
  const blobs = join(stage.folder, 'data/blobs')
  test.skip(!smallDisk(blobs, 4), 'a small disk cannot be mounted here')
  const { id } = (await (await page.request.post(`${stage.address}/api/shots`, { data: { name: 'full' } })).json()) as {
    id: string
  }
  const state = async (job: string): Promise<{ state: string; message: string | null }> =>
    (await page.request.get(`${stage.address}/api/jobs/${job}`)).json()
  const bring = async (blob: string): Promise<string> =>
    (
      (await (
        await page.request.post(`${stage.address}/api/shots/${id}/import`, {
          data: { files: [{ name: 'small.mp4', blob }], as: 'layer', frame: 1 },
        })
      ).json()) as { id: string }
    ).id
  try {
    const { blob } = (await (
      await page.request.post(`${stage.address}/api/blobs`, { data: readFileSync(path) })
    ).json()) as { blob: string }
    fill(blobs)
    const refused = await bring(blob)
    await expect.poll(async () => (await state(refused)).state, { timeout: 30000 }).toBe('failed')
    expect((await state(refused)).message).toMatch(/^The disk is full: .+ What was saved stays\.$/)
    makeRoom(blobs)
    const taken = await bring(blob)
    await expect.poll(() => state(taken), { timeout: 30000 }).toMatchObject({ state: 'done', message: null })
    const { document } = await documentOf(page, stage, id)
    const clip = document.build.layers[taken].picture.blob
    rmSync(join(blobs, 'frames'), { recursive: true, force: true })
    fill(blobs)
    for (const frame of [40, 3, 74]) {
      const answer = await page.request.get(`${stage.address}/api/blobs/${clip}.${frame}`)
      expect(answer.status()).toBe(200)
      expect((await answer.body()).subarray(1, 4).toString()).toBe('PNG')
    }
  } finally {
    execFileSync('umount', ['-l', blobs])
  }
})

test('a database whose own disk is full: changes are refused as for a while, and taken when there is room', async ({
  request,
}) => {
  const folder = mkdtempSync(join(tmpdir(), 'northmist-full-'))
  chmodSync(folder, 0o755)
  const data = join(folder, 'data')
  mkdirSync(data)
  test.skip(!smallDisk(data, 160), 'a small disk cannot be mounted here')
  const database = await postgres(data, 0)
  const running = await server({
    url: database.url,
    port: await freePort(0),
    data,
    env: { NORTHMIST_DEMO: 'no' },
    quiet: true,
  })
  const { address } = running
  try {
    const made = (await (await request.post(`${address}/api/shots`, { data: { name: 'full' } })).json()) as {
      id: string
      revision: number
    }
    let { revision } = made
    const name = (): string => `${revision} ${'n'.repeat(150)}`
    const change = () =>
      request.patch(`${address}/api/shots/${made.id}`, {
        data: {
          version: DOCUMENT_VERSION,
          revision,
          label: 'x'.repeat(180),
          patch: [{ op: 'replace', path: '/build/layers/plate/name', value: name() }],
        },
      })
    const accept = async (): Promise<number> => {
      const answer = await change()
      if (answer.status() === 200) revision = ((await answer.json()) as { revision: number }).revision
      return answer.status()
    }
    expect(await accept()).toBe(200)
    fill(data)
    let status = 200
    for (let i = 0; i < 3000 && status === 200; i++) status = await accept()
    expect(status).toBe(503)
    const said = ((await (await change()).json()) as { message: string }).message
    expect(said).toMatch(/The disk is full|The database does not answer/)
    makeRoom(data)
    await expect.poll(accept, { timeout: 30000, intervals: [300] }).toBe(200)
    // What was accepted is there, nothing else
    const shot = (await (await request.get(`${address}/api/shots/${made.id}`)).json()) as {
      revision: number
      document: { build: { layers: Record<string, { name: string }> } }
    }
    expect(shot.revision).toBe(revision)
    expect(shot.document.build.layers.plate!.name).toMatch(new RegExp(`^${revision - 1} n+$`))
  } finally {
    makeRoom(data)
    await running.stop()
    await database.stop()
    execFileSync('umount', ['-l', data])
    rmSync(folder, { recursive: true, force: true })
  }
})

test('a first start that is killed again and again comes to the whole demo in the end, once', async ({ request }) => {
  const folder = mkdtempSync(join(tmpdir(), 'northmist-first-'))
  chmodSync(folder, 0o755)
  const port = await freePort(0)
  const start = () => {
    const child = spawn(process.execPath, [join(root, 'tools/start.mjs')], {
      cwd: root,
      env: { ...process.env, NORTHMIST_DATA: join(folder, 'data'), PORT: String(port) },
    })
    let text = ''
    child.stdout!.on('data', chunk => (text += chunk))
    child.stderr!.on('data', chunk => (text += chunk))
    return { child, text: () => text, gone: new Promise(resolve => child.once('exit', resolve)) }
  }
  let last: ReturnType<typeof start> | undefined
  try {
    // During initdb, while the server begins, and in the middle of the demo
    for (const milliseconds of [900, 2500, 4000, 5000, 6000, 7000]) {
      const { child, gone } = start()
      await new Promise(resolve => setTimeout(resolve, milliseconds))
      child.kill('SIGKILL')
      await gone
    }
    last = start()
    await expect.poll(last.text, { timeout: 90000 }).toContain('Northmist is at')
    const address = `http://127.0.0.1:${port}`
    const list = (await (await request.get(`${address}/api/shots`)).json()) as { id: string; name: string }[]
    expect(list.map(({ name }) => name).sort()).toEqual(['Bell house', 'Night haar', 'Survey balloon'])
    for (const { id } of list) {
      const text = await (await request.get(`${address}/api/shots/${id}`)).text()
      for (const blob of new Set(text.match(/(?<=")[0-9a-f]{64}(?=")/g)))
        expect((await request.get(`${address}/api/blobs/${blob}`)).status(), blob).toBe(200)
    }
  } finally {
    last?.child.kill('SIGTERM')
    await last?.gone
    rmSync(folder, { recursive: true, force: true })
  }
})
