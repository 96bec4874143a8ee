// The server's side of the bargain, asked directly: jobs, undo, files, bounds.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import type { APIRequestContext, APIResponse } from '@playwright/test'
import { decode, encode } from 'fast-png'
import { unzipSync } from 'fflate'
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { createReadStream, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { request as http } from 'node:http'
import { dirname, join } from 'node:path'
import { readExr } from '../../core/formats/exr/exr'
import { newDocument, type ShotDocument } from '../../core/shot/document'
import { expect, test, type Stage } from './stage'

interface Job {
  id: string
  state: string
  kind: string
  progress: number
  message: string | null
  result: { blob: string; name: string; bytes: number } | null
}
interface Shot {
  id: string
  name: string
  revision: number
  cursor: number
  changes: number
  document: ShotDocument
}

const upload = async (
  request: APIRequestContext,
  stage: Stage,
  file: string,
): Promise<{ blob: string; kind: string }> =>
  (await (await request.post(`${stage.address}/api/blobs`, { data: readFileSync(file) })).json()) as {
    blob: string
    kind: string
  }
const json = async <T>(answer: APIResponse): Promise<T> => {
  expect(answer.ok(), await answer.text()).toBe(true)
  return (await answer.json()) as T
}
async function makeShot(
  request: APIRequestContext,
  stage: Stage,
  mutate: (document: ShotDocument) => void = () => {},
): Promise<Shot> {
  const document = newDocument(240, 160)
  document.plate = {
    blob: (await upload(request, stage, stage.plate)).blob,
    name: 'quayside.png',
    encoding: 'srgb',
    alpha: 'none',
    width: 240,
    height: 160,
  }
  document.scene.file = { blob: (await upload(request, stage, stage.scene)).blob, name: 'blocks.glb' }
  mutate(document)
  return json<Shot>(await request.post(`${stage.address}/api/shots`, { data: { name: 'service', document } }))
}
const shotOf = async (request: APIRequestContext, stage: Stage, id: string): Promise<Shot> =>
  json<Shot>(await request.get(`${stage.address}/api/shots/${id}`))
const jobOf = async (request: APIRequestContext, stage: Stage, id: string): Promise<Job> =>
  json<Job>(await request.get(`${stage.address}/api/jobs/${id}`))

test('a render job of a killed server starts again and gives the passes it would have given', async ({
  request,
  stage,
}) => {
  test.setTimeout(180000)
  const shot = await makeShot(request, stage, document => {
    document.passes.samples = 96
  })
  const job = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/render`, { data: { frame: 1 } }),
  )
  await expect
    .poll(async () => (await jobOf(request, stage, job.id)).progress, { intervals: [50] })
    .toBeGreaterThan(0.05)
  await stage.kill()
  await stage.start()
  await expect.poll(async () => (await jobOf(request, stage, job.id)).state, { timeout: 90000 }).toBe('done')
  const { document, changes } = await shotOf(request, stage, shot.id)
  expect(changes).toBe(1)
  expect(document.passes.file!.objects).toEqual(['tall block', 'low block', 'floor'])
  // The same again without a kill: the same bytes, so the same name
  const second = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/render`, { data: { frame: 1 } }),
  )
  await expect.poll(async () => (await jobOf(request, stage, second.id)).state, { timeout: 90000 }).toBe('done')
  expect((await jobOf(request, stage, second.id)).result!.blob).toBe(document.passes.file!.blob)
})

test('jobs: cancelled while they wait and while they run; what cannot be done is said', async ({ request, stage }) => {
  const shot = await makeShot(request, stage, document => {
    document.passes.samples = 4000
  })
  const first = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/render`, { data: { frame: 1 } }),
  )
  const second = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/render`, { data: { frame: 1 } }),
  )
  await expect.poll(async () => (await jobOf(request, stage, first.id)).state).toBe('running')
  expect((await json<Job>(await request.delete(`${stage.address}/api/jobs/${second.id}`))).state).toBe('cancelled')
  await request.delete(`${stage.address}/api/jobs/${first.id}`)
  await expect.poll(async () => (await jobOf(request, stage, first.id)).state).toBe('cancelled')
  expect((await shotOf(request, stage, shot.id)).document.passes.file).toBeNull()
  const empty = await json<Shot>(await request.post(`${stage.address}/api/shots`, { data: { name: 'empty' } }))
  const refused = await request.post(`${stage.address}/api/shots/${empty.id}/render`, { data: { frame: 1 } })
  expect([refused.status(), (await refused.json()).message]).toEqual([
    400,
    expect.stringContaining('no scene to render'),
  ])
  const unknown = await request.post(`${stage.address}/api/shots/${empty.id}/send`, {
    data: { frame: 1, format: 'gif' },
  })
  expect([unknown.status(), (await unknown.json()).message]).toEqual([400, expect.stringContaining('format')])
  // A job that fails says why, and the queue goes on
  const passes = await json<Job>(
    await request.post(`${stage.address}/api/shots/${empty.id}/send`, { data: { frame: 1, format: 'passes' } }),
  )
  await expect.poll(async () => (await jobOf(request, stage, passes.id)).state).toBe('failed')
  expect((await jobOf(request, stage, passes.id)).message).toContain('no passes yet')
  const picture = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/send`, { data: { frame: 1, format: 'png8' } }),
  )
  await expect.poll(async () => (await jobOf(request, stage, picture.id)).state).toBe('done')
})

test('every format is sent, listed with its size, and holds the same picture', async ({ request, stage }) => {
  test.setTimeout(180000)
  const shot = await makeShot(request, stage)
  const bytes = new Map<string, Buffer>()
  for (const format of ['png8', 'png16', 'tiff8', 'tiff16', 'tiff32', 'jpeg', 'exr16', 'exr32']) {
    const job = await json<Job>(
      await request.post(`${stage.address}/api/shots/${shot.id}/send`, { data: { frame: 1, format } }),
    )
    await expect.poll(async () => (await jobOf(request, stage, job.id)).state).toBe('done')
    const { result } = await jobOf(request, stage, job.id)
    const answer = await request.get(
      `${stage.address}/api/blobs/${result!.blob}?name=${encodeURIComponent(result!.name)}`,
    )
    const body = await answer.body()
    expect([body.length, createHash('sha256').update(body).digest('hex')]).toEqual([result!.bytes, result!.blob])
    expect(answer.headers()['content-disposition']).toContain(encodeURIComponent(result!.name))
    bytes.set(format, body)
  }
  // An untouched 8-bit plate comes back to the code, and its float is that code in linear light (IEC 61966-2-1)
  const plate = decode(readFileSync(stage.plate))
  const sent = decode(bytes.get('png8')!)
  expect(Buffer.compare(Buffer.from(sent.data.buffer), Buffer.from(plate.data.buffer))).toBe(0)
  const exr = readExr(bytes.get('exr32')!)
  const green = exr.channels.find(channel => channel.name === 'G')!.data
  for (let i = 0; i < green.length; i += 97) {
    const code = plate.data[i * 3 + 1]! / 255
    expect(green[i]!).toBeCloseTo(((code + 0.055) / 1.055) ** 2.4, 5)
  }
  expect((await json<Job[]>(await request.get(`${stage.address}/api/shots/${shot.id}/jobs`))).length).toBe(8)
})

test('a shot with its files in one ZIP builds the same picture by the command line, clips too', async ({
  request,
  stage,
}) => {
  const shot = await makeShot(request, stage)
  const frames = await Promise.all(
    [40, 90, 140].map(async (code, i) => ({
      name: `sea_${i + 1}.png`,
      blob: (
        (await (
          await request.post(`${stage.address}/api/blobs`, {
            data: Buffer.from(
              encode({ width: 240, height: 160, channels: 3, data: new Uint8Array(240 * 160 * 3).fill(code) }),
            ),
          })
        ).json()) as { blob: string }
      ).blob,
    })),
  )
  const job = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/import`, {
      data: { files: frames, as: 'plate', frame: 1 },
    }),
  )
  await expect.poll(async () => (await jobOf(request, stage, job.id)).state).toBe('done')
  const answer = await request.get(`${stage.address}/api/shots/${shot.id}/bundle`)
  expect(answer.headers()['content-type']).toBe('application/zip')
  const folder = join(stage.folder, 'unpacked')
  for (const [name, bytes] of Object.entries(unzipSync(new Uint8Array(await answer.body())))) {
    mkdirSync(dirname(join(folder, name)), { recursive: true })
    writeFileSync(join(folder, name), bytes)
  }
  execFileSync(
    process.execPath,
    [
      'bin/northmist.mjs',
      'build',
      join(folder, 'service.json'),
      '--out',
      join(folder, 'two.png'),
      '--frame',
      '2',
      '--bits',
      '8',
    ],
    { cwd: process.cwd() },
  )
  const built = decode(readFileSync(join(folder, 'two.png')))
  expect([built.width, built.height, built.data[0], built.data[1000]]).toEqual([240, 160, 90, 90])
  expect((await request.get(`${stage.address}/api/shots/none/bundle`)).status()).toBe(404)
})

test('undo and redo walk the kept changes; a new change cuts off what was undone', async ({ request, stage }) => {
  const { id } = await makeShot(request, stage)
  const patch = async (value: number): Promise<void> => {
    const { revision } = await shotOf(request, stage, id)
    await json(
      await request.patch(`${stage.address}/api/shots/${id}`, {
        data: {
          version: DOCUMENT_VERSION,
          revision,
          label: `seed ${value}`,
          patch: [{ op: 'replace', path: '/passes/seed', value }],
        },
      }),
    )
  }
  const step = async (direction: string): Promise<{ label: string | null; document: ShotDocument }> =>
    json(
      await request.post(`${stage.address}/api/shots/${id}/step/${direction}`, {
        data: { revision: (await shotOf(request, stage, id)).revision },
      }),
    )
  await patch(11)
  await patch(12)
  await patch(13)
  expect((await step('undo')).document.passes.seed).toBe(12)
  expect(await step('undo')).toMatchObject({ label: 'seed 12', document: { passes: { seed: 11 } } })
  expect((await step('redo')).document.passes.seed).toBe(12)
  await patch(20)
  expect((await step('redo')).label).toBeNull()
  expect(await shotOf(request, stage, id)).toMatchObject({ cursor: 3, changes: 3, document: { passes: { seed: 20 } } })
  for (let i = 0; i < 5; i++) await step('undo')
  expect(await shotOf(request, stage, id)).toMatchObject({ cursor: 0, document: { passes: { seed: 1 } } })
  const stale = await request.patch(`${stage.address}/api/shots/${id}`, {
    data: { version: DOCUMENT_VERSION, revision: 1, label: 'late', patch: [] },
  })
  expect(stale.status()).toBe(409)
  expect(await stale.json()).toMatchObject({ document: { passes: { seed: 1 } } })
  expect(
    (await request.post(`${stage.address}/api/shots/${id}/step/sideways`, { data: { revision: 1 } })).status(),
  ).toBe(404)
})

test('of many writers on one revision exactly one wins', async ({ request, stage }) => {
  const { id, revision } = await makeShot(request, stage)
  const answers = await Promise.all(
    Array.from({ length: 12 }, (_, i) =>
      request.patch(`${stage.address}/api/shots/${id}`, {
        data: {
          version: DOCUMENT_VERSION,
          revision,
          label: 'race',
          patch: [{ op: 'replace', path: '/passes/seed', value: 100 + i }],
        },
      }),
    ),
  )
  expect(answers.filter(answer => answer.status() === 200)).toHaveLength(1)
  expect(answers.filter(answer => answer.status() === 409)).toHaveLength(11)
  expect((await shotOf(request, stage, id)).revision).toBe(revision + 1)
})

test('files are told by content, bounded, and junk is not kept', async ({ request, stage }) => {
  expect((await upload(request, stage, stage.scene)).kind).toBe('gltf')
  const renamed = await request.post(`${stage.address}/api/blobs`, {
    data: readFileSync(stage.plate),
    headers: { 'content-type': 'model/gltf-binary' },
  })
  expect((await renamed.json()).kind).toBe('png')
  const junk = Buffer.from('neither this nor that'.repeat(100))
  const name = createHash('sha256').update(junk).digest('hex')
  expect((await request.post(`${stage.address}/api/blobs`, { data: junk })).status()).toBe(400)
  expect((await request.get(`${stage.address}/api/blobs/${name}`)).status()).toBe(404)
  const { id } = await makeShot(request, stage)
  const heavy = await request.put(`${stage.address}/api/shots/${id}/thumbnail`, {
    data: Buffer.concat([readFileSync(stage.plate), Buffer.alloc(3 * 2 ** 20)]),
  })
  expect([heavy.status(), (await heavy.json()).message]).toEqual([400, expect.stringContaining('larger than 2 MiB')])
  expect(
    (await request.put(`${stage.address}/api/shots/${id}/thumbnail`, { data: readFileSync(stage.scene) })).status(),
  ).toBe(400)
  // A body that does not say its length is refused before it is read
  const status = await new Promise<number>((resolve, reject) => {
    const asked = http(
      `${stage.address}/api/shots`,
      { method: 'POST', headers: { 'content-type': 'application/json', 'transfer-encoding': 'chunked' } },
      answer => {
        answer.resume()
        resolve(answer.statusCode!)
      },
    )
    asked.on('error', reject)
    createReadStream(stage.scene).pipe(asked)
  })
  expect(status).toBe(400)
  expect((await request.post(`${stage.address}/api/shots`, { data: { name: 'x'.repeat(201) } })).status()).toBe(400)
  expect(
    (
      await request.post(`${stage.address}/api/shots`, { data: '[1', headers: { 'content-type': 'application/json' } })
    ).status(),
  ).toBe(400)
  expect((await request.get(`${stage.address}/api/shots`, { headers: { host: 'northmist.example' } })).status()).toBe(
    403,
  )
  expect((await request.get(`${stage.address}/api/shots/no-such-shot`)).status()).toBe(404)
})

test('a range of frames: each is kept when it is done, and a killed server goes on with the first that is missing', async ({
  request,
  stage,
}) => {
  test.setTimeout(180000)
  const shot = await makeShot(request, stage, document => {
    document.passes.samples = 48
    document.passes.selected = ['beauty', 'alpha', 'depth', 'motion_forward']
    document.frames = { first: 1, last: 4 }
    document.scene.camera.x = {
      keys: [
        { frame: 1, value: -0.5, ease: 'linear' },
        { frame: 4, value: 0.5, ease: 'linear' },
      ],
    }
  })
  expect(
    (await request.post(`${stage.address}/api/shots/${shot.id}/render`, { data: { frame: 3, last: 2 } })).status(),
  ).toBe(400)
  const job = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/render`, { data: { frame: 1, last: 4 } }),
  )
  await expect
    .poll(async () => (await jobOf(request, stage, job.id)).progress, { intervals: [50], timeout: 60000 })
    .toBeGreaterThan(0.3)
  await stage.kill()
  await stage.start()
  // It does not begin anew: the first frame is there
  const seen: string[] = []
  await expect
    .poll(
      async () => {
        const now = await jobOf(request, stage, job.id)
        seen.push(String((now as unknown as { message: string | null }).message))
        return now.state
      },
      { timeout: 90000, intervals: [30] },
    )
    .toBe('done')
  expect(seen.join()).not.toMatch(/frame 1 of/)
  expect(seen.join()).toMatch(/frame [234] of 1 to 4/)
  const { frames, blob } = (await shotOf(request, stage, shot.id)).document.passes.file!
  expect(frames!.first).toBe(1)
  expect(frames!.blobs).toHaveLength(4)
  expect(new Set(frames!.blobs).size).toBe(4)
  expect(frames!.blobs[0]).toBe(blob)
  // One frame of the range by itself is the same to the byte
  const alone = await json<Job>(
    await request.post(`${stage.address}/api/shots/${shot.id}/render`, { data: { frame: 3 } }),
  )
  await expect.poll(async () => (await jobOf(request, stage, alone.id)).state, { timeout: 60000 }).toBe('done')
  expect((await jobOf(request, stage, alone.id)).result!.blob).toBe(frames!.blobs[2])
})
