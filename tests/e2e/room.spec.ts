// Room on the disk: what nothing speaks of goes, what anything speaks of stays, and a shot deleted for good frees its own.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import { execFileSync } from 'node:child_process'
import { encode } from 'fast-png'
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { newDocument, type PictureReference, type ShotDocument } from '../../core/shot/document'
import { at, expect, test, type Stage } from './stage'

type Request = Parameters<Parameters<typeof test>[2]>[0]['request']
const picture = (seed: number): Buffer =>
  Buffer.from(
    encode({
      width: 64,
      height: 48,
      channels: 3,
      data: Uint8Array.from({ length: 64 * 48 * 3 }, (_, i) => (Math.imul(i + 1, 2654435761 + seed * 97) >>> 11) & 255),
    }),
  )
const send = async (request: Request, stage: Stage, seed: number): Promise<string> =>
  ((await (await request.post(`${stage.address}/api/blobs`, { data: picture(seed) })).json()) as { blob: string }).blob
const plateOf = (blob: string): PictureReference => ({
  blob,
  name: 'noise.png',
  encoding: 'srgb',
  alpha: 'none',
  width: 64,
  height: 48,
})
async function makeShot(request: Request, stage: Stage, name: string, blob: string): Promise<string> {
  const document: ShotDocument = { ...newDocument(64, 48), plate: plateOf(blob) }
  const answer = await request.post(`${stage.address}/api/shots`, { data: { name, document } })
  expect(answer.ok(), await answer.text()).toBe(true)
  return ((await answer.json()) as { id: string }).id
}
const there = async (request: Request, stage: Stage, blob: string): Promise<boolean> =>
  (await request.get(`${stage.address}/api/blobs/${blob}`)).ok()

test('a shot deleted for good frees what only it used; the page says what is used', async ({
  page,
  request,
  stage,
}) => {
  const [own, shared, undone] = [
    await send(request, stage, 1),
    await send(request, stage, 2),
    await send(request, stage, 3),
  ]
  const first = await makeShot(request, stage, 'to go', own)
  await makeShot(request, stage, 'to stay', shared)
  // It used the shared one, then another, then its own again: what can be undone counts as its own
  let revision = 1
  for (const blob of [shared, undone, own]) {
    const answer = await request.patch(`${stage.address}/api/shots/${first}`, {
      data: {
        version: DOCUMENT_VERSION,
        revision,
        label: 'plate',
        patch: [{ op: 'replace', path: '/plate/blob', value: blob }],
      },
    })
    expect(answer.ok(), await answer.text()).toBe(true)
    revision = ((await answer.json()) as { revision: number }).revision
  }
  await page.goto(stage.address)
  await expect(at(page, 'room')).toHaveText(/^[\d.]+ (kB|MB) on disk, in \d+ files$/)
  await at(page, 'shot-to go').locator('[data-test=delete]').click()
  // Only marked: all of it is there, and it comes back
  await expect(at(page, 'shot-to go')).toHaveCount(0)
  for (const blob of [own, shared, undone]) expect(await there(request, stage, blob)).toBe(true)
  await at(page, 'show-removed').click()
  await at(page, 'bring-back').first().click()
  await expect(at(page, 'shot-to go')).toBeVisible()
  await at(page, 'shot-to go').locator('[data-test=delete]').click()
  await at(page, 'removed').locator('li', { hasText: 'to go' }).locator('[data-test=forget]').click()
  await at(page, 'forget-now').click()
  await expect(page.getByText(/“to go” is gone; [\d.]+ (kB|MB) are free again/)).toBeVisible()
  expect(await there(request, stage, own)).toBe(false)
  expect(await there(request, stage, undone)).toBe(false)
  expect(await there(request, stage, shared)).toBe(true)
  expect((await request.post(`${stage.address}/api/shots/${first}/restore`)).status()).toBe(404)
  // One that is not marked as deleted is not taken by this door
  const other = await makeShot(request, stage, 'alive', shared)
  expect((await request.delete(`${stage.address}/api/removed/${other}`)).status()).toBe(404)
  expect((await request.get(`${stage.address}/api/shots/${other}`)).ok()).toBe(true)
})

test('after the grace time, what no shot, change or work speaks of is cleaned; frames of a clip stay', async ({
  request,
  stage,
}) => {
  const [loose, held] = [await send(request, stage, 11), await send(request, stage, 12)]
  await makeShot(request, stage, 'holds', held)
  // A clip is a list of its frames: they are spoken of by that file alone
  const frames: { name: string; blob: string }[] = []
  for (let i = 1; i <= 3; i++) frames.push({ name: `f.${i}.png`, blob: await send(request, stage, 20 + i) })
  const clipShot = await makeShot(request, stage, 'clip', held)
  const job = (await (
    await request.post(`${stage.address}/api/shots/${clipShot}/import`, {
      data: { files: frames, as: 'plate', frame: 1 },
    })
  ).json()) as { id: string }
  const state = async (): Promise<string> =>
    ((await (await request.get(`${stage.address}/api/jobs/${job.id}`)).json()) as { state: string }).state
  await expect.poll(state, { timeout: 30000 }).toBe('done')
  // A clip of a video names that alone; what was decoded of a clip that is gone goes too
  const film = join(stage.folder, 'film.mp4')
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=size=64x48:rate=25:duration=1'],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', film],
  ])
  const { blob: video } = (await (
    await request.post(`${stage.address}/api/blobs`, { data: readFileSync(film) })
  ).json()) as { blob: string }
  const second = (await (
    await request.post(`${stage.address}/api/shots/${clipShot}/import`, {
      data: { files: [{ name: 'film.mp4', blob: video }], as: 'layer', frame: 1 },
    })
  ).json()) as { id: string }
  await expect
    .poll(
      async () =>
        ((await (await request.get(`${stage.address}/api/jobs/${second.id}`)).json()) as { state: string }).state,
      { timeout: 30000 },
    )
    .toBe('done')
  const decoded = join(stage.folder, 'data', 'blobs', 'frames')
  const gone = join(decoded, 'f'.repeat(64))
  mkdirSync(gone, { recursive: true })
  writeFileSync(join(gone, '0.png'), 'of a clip that is gone')
  const unfinished = join(stage.folder, 'data', 'blobs', 'unfinished')
  mkdirSync(unfinished, { recursive: true })
  writeFileSync(join(unfinished, 'old.0'), 'stopped long ago')
  await stage.kill()
  process.env.NORTHMIST_GRACE_HOURS = '0'
  try {
    await stage.start()
    await expect.poll(() => there(request, stage, loose), { timeout: 30000 }).toBe(false)
    expect(await there(request, stage, held)).toBe(true)
    for (const { blob } of frames) expect(await there(request, stage, blob)).toBe(true)
    expect(await there(request, stage, video)).toBe(true)
    expect(readdirSync(unfinished)).toEqual([])
    await expect.poll(() => readdirSync(decoded).includes('f'.repeat(64))).toBe(false)
  } finally {
    delete process.env.NORTHMIST_GRACE_HOURS
    await stage.kill()
    await stage.start()
  }
})
