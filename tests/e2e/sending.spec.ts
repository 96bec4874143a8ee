// A moving shot leaves: numbered files as one ZIP, movies with exact rate and timecode, across a kill, with cancel.
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { decode } from 'fast-png'
import { unzipSync } from 'fflate'
import { join } from 'node:path'
import { at, expect, go, test, type Stage } from './stage'
import type { Page } from '@playwright/test'

async function footage(page: Page, stage: Stage, seconds = 1): Promise<string> {
  const path = join(stage.folder, `sail ${seconds}.mov`)
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', `testsrc2=size=240x160:rate=24000/1001:duration=${seconds}`],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-timecode', '10:00:00:00', path],
  ])
  await page.goto(stage.address)
  await at(page, 'drop-new').locator('input').setInputFiles([path])
  await page.waitForURL(/\/shot\//)
  await expect(at(page, 'timeline')).toBeVisible({ timeout: 60000 })
  await go(page, 'send')
  return /shot\/(\w+)/.exec(page.url())![1]!
}
const choose = async (page: Page, label: string): Promise<void> => {
  await at(page, 'send-format').click()
  await page.getByRole('option', { name: label }).click()
}
const download = async (page: Page, stage: Stage): Promise<Buffer> => {
  const link = at(page, 'download').first()
  await expect(link).toBeVisible({ timeout: 90000 })
  return (await page.request.get(`${stage.address}${await link.getAttribute('href')}`)).body()
}

test('some frames leave as numbered files in one ZIP, under names that were shown; wrong ones are said', async ({
  page,
  stage,
}) => {
  await footage(page, stage)
  await at(page, 'frames-some').click()
  const frames = at(page, 'frames-text').locator('input')
  await frames.fill('9-3')
  await expect(at(page, 'frames-fault')).toContainText('ends before it begins')
  await expect(at(page, 'send')).toBeDisabled()
  await frames.fill('3, 30')
  await expect(at(page, 'frames-fault')).toContainText('Frame 30 is not in the shot')
  await frames.fill('1-3, 10-14x2')
  await at(page, 'send-name').locator('input').fill('sail ###')
  await expect(at(page, 'send-example')).toHaveText('sail 001.png … sail 014.png (6 files)')
  await at(page, 'send').click()
  const files = unzipSync(new Uint8Array(await download(page, stage)))
  expect(Object.keys(files)).toEqual([1, 2, 3, 10, 12, 14].map(n => `sail ${String(n).padStart(3, '0')}.png`))
  const pictures = Object.values(files).map(bytes => decode(bytes))
  for (const { width, height, depth } of pictures) expect([width, height, depth]).toEqual([240, 160, 16])
  // Each is a frame of its own
  expect(new Set(pictures.map(({ data }) => Buffer.from(data.buffer).toString('base64'))).size).toBe(6)
})

test('all frames leave as a movie with the rate and timecode of the plate, and go on after a kill', async ({
  page,
  stage,
}) => {
  const id = await footage(page, stage, 2)
  await choose(page, 'Movie, FFV1, lossless, 16 bit')
  await expect(at(page, 'send-example')).toContainText('.mkv')
  await at(page, 'send').click()
  const job = async (): Promise<{ state: string; progress: number } | undefined> =>
    (await (await page.request.get(`${stage.address}/api/shots/${id}/jobs`)).json()).find(
      (entry: { kind: string }) => entry.kind === 'send',
    )
  await expect.poll(async () => (await job())?.progress ?? 0, { timeout: 60000, intervals: [100] }).toBeGreaterThan(0.1)
  await stage.kill()
  await stage.start()
  await expect.poll(async () => (await job())?.state, { timeout: 90000 }).toBe('done')
  const movie = await download(page, stage)
  const path = join(stage.folder, 'out.mkv')
  const { writeFileSync } = await import('node:fs')
  writeFileSync(path, movie)
  const video = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-count_frames', '-show_streams', '-show_format', '-of', 'json', path], {
      encoding: 'utf8',
    }),
  )
  expect(video.streams[0]).toMatchObject({ r_frame_rate: '24000/1001', nb_read_frames: '48', pix_fmt: 'gbrp16le' })
  expect(JSON.stringify(video)).toContain('10:00:00:00')
  expect(readFileSync(path).length).toBe(movie.length)
})

test('a sending that is cancelled ends in a second', async ({ page, stage }) => {
  const id = await footage(page, stage, 8)
  await choose(page, 'Movie, HEVC, 10 bit')
  await at(page, 'send').click()
  const state = async (): Promise<string> =>
    (await (await page.request.get(`${stage.address}/api/shots/${id}/jobs`)).json()).find(
      (entry: { kind: string }) => entry.kind === 'send',
    )?.state ?? ''
  await expect.poll(state, { timeout: 30000 }).toBe('running')
  await page.waitForTimeout(1500)
  await page
    .getByRole('button', { name: /^cancel/ })
    .last()
    .click()
  const asked = Date.now()
  await expect.poll(state, { intervals: [50] }).toBe('cancelled')
  expect(Date.now() - asked).toBeLessThan(1000)
})
