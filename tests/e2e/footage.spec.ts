// Footage: brought in by the server, told, matched in rate, played, kept across a killed server.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import { encode } from 'fast-png'
import { execFileSync } from 'node:child_process'
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { at, documentOf, expect, go, newShot, pixelAt, saved, test, type, type Stage, listed } from './stage'

const film = (folder: string, name: string, rate: string, seconds: number, extra: string[] = []): string => {
  const path = join(folder, name)
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    `testsrc2=size=240x160:rate=${rate}:duration=${seconds}`,
    '-c:v',
    'libx264',
    '-pix_fmt',
    'yuv420p',
    ...extra,
    path,
  ])
  return path
}

/** States of the shot's imports. */
const imports = async (page: Page, stage: Stage, id: string): Promise<string[]> =>
  (
    (await (await page.request.get(`${stage.address}/api/shots/${id}/jobs`)).json()) as {
      kind: string
      state: string
    }[]
  )
    .filter(({ kind }) => kind === 'import')
    .map(({ state }) => state)

test('footage can be played while it is still being looked through', async ({ page, stage }) => {
  const path = film(stage.folder, 'long.mp4', '25', 20, ['-vf', 'scale=1920:1080', '-preset', 'ultrafast'])
  await page.goto(stage.address)
  await at(page, 'drop-new').locator('input').setInputFiles([path])
  await page.waitForURL(/\/shot\//)
  const id = /shot\/(\w+)/.exec(page.url())![1]!
  const looking = async (): Promise<boolean> => (await imports(page, stage, id)).includes('running')
  await expect(at(page, 'timeline')).toBeVisible({ timeout: 30000 })
  await expect.poll(async () => Math.max(...(await pixelAt(page, 0.1, 0.5)))).toBeGreaterThan(40)
  await at(page, 'play').click()
  const seconds = async (): Promise<string> => (await at(page, 'timecode').textContent())!
  const before = await seconds()
  await expect.poll(seconds).not.toBe(before)
  expect(await looking()).toBe(true)
  await page.keyboard.press('p')
  // Then all is there, and nothing of the shot has changed by it
  const { revision } = await documentOf(page, stage, id)
  await expect.poll(looking, { timeout: 120000 }).toBe(false)
  expect((await documentOf(page, stage, id)).revision).toBe(revision)
  expect((await documentOf(page, stage, id)).document.plate.clip.count).toBe(500)
})

test('footage that comes in while a long render runs is there at once', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'passes')
  await at(page, 'samples').first().waitFor()
  const { revision } = await documentOf(page, stage, id)
  await page.request.patch(`${stage.address}/api/shots/${id}`, {
    data: {
      version: DOCUMENT_VERSION,
      revision,
      label: 'x',
      patch: [{ op: 'replace', path: '/passes/samples', value: 16384 }],
    },
  })
  const job = (await (
    await page.request.post(`${stage.address}/api/shots/${id}/render`, { data: { frame: 1 } })
  ).json()) as { id: string }
  const state = async (): Promise<string> =>
    ((await (await page.request.get(`${stage.address}/api/jobs/${job.id}`)).json()) as { state: string }).state
  await expect.poll(state, { timeout: 30000 }).toBe('running')
  await go(page, 'build')
  await at(page, 'add-layer')
    .locator('input')
    .setInputFiles([film(stage.folder, 'mist.mp4', '25', 1)])
  await expect(at(page, 'layer-mist')).toBeVisible({ timeout: 20000 })
  expect(await state()).toBe('running')
  expect(await imports(page, stage, id)).toEqual(['queued'])
  await page.request.delete(`${stage.address}/api/jobs/${job.id}`)
  await expect.poll(() => imports(page, stage, id), { timeout: 30000 }).toEqual(['done'])
  // Once
  const { layers } = (await documentOf(page, stage, id)).document.build
  expect(listed(layers).filter(({ name }) => name === 'mist')).toHaveLength(1)
})

test('a video that breaks off keeps the frames that are there, and says how many', async ({ page, stage }) => {
  const path = film(stage.folder, 'breaks.mp4', '25', 4, ['-g', '10'])
  const bytes = readFileSync(path)
  bytes.fill(0xa5, Math.floor(bytes.length * 0.5), Math.floor(bytes.length * 0.7))
  writeFileSync(path, bytes)
  const id = await newShot(page, stage)
  await go(page, 'plate')
  await at(page, 'plate-drop').locator('input').setInputFiles([path])
  await expect(at(page, 'import-failed')).toContainText('This video breaks off after', { timeout: 30000 })
  const { count } = (await documentOf(page, stage, id)).document.plate.clip
  expect(count).toBeGreaterThan(20)
  expect(count).toBeLessThan(90)
  // As a layer it is said where one is
  const other = join(stage.folder, 'spray.mp4')
  copyFileSync(path, other)
  await go(page, 'build')
  await at(page, 'add-layer').locator('input').setInputFiles([other])
  await expect(page.getByText('“spray.mp4”: This video breaks off after')).toBeVisible({ timeout: 30000 })
  await expect(at(page, 'layer-spray')).toBeVisible()
})

test('a video starts a shot: length, exact rate, timecode; it plays, steps and keeps what is changed of its time', async ({
  page,
  stage,
}) => {
  const path = film(stage.folder, 'harbour.mov', '24000/1001', 1, ['-timecode', '01:00:00:00'])
  await page.goto(stage.address)
  await at(page, 'drop-new').locator('input').setInputFiles([path])
  await page.waitForURL(/\/shot\//)
  await expect(at(page, 'timeline')).toBeVisible({ timeout: 60000 })
  const id = /shot\/(\w+)/.exec(page.url())![1]!
  const { document } = await documentOf(page, stage, id)
  expect([document.rate, document.frames, document.plate.clip.count]).toEqual([
    { numerator: 24000, denominator: 1001 },
    { first: 1, last: 24 },
    24,
  ])
  await expect(at(page, 'timecode')).toHaveText('01:00:00:00')
  await expect(page.getByText('Size, shape, encoding and alpha fit.')).toBeVisible()
  // Stepping shows another picture; the step back the first again
  await expect.poll(async () => (await pixelAt(page, 0.1, 0.9)).join()).not.toBe('0,0,0')
  const picture = (): Promise<string> => at(page, 'picture').evaluate((canvas: HTMLCanvasElement) => canvas.toDataURL())
  await page.waitForTimeout(500)
  const first = await picture()
  await at(page, 'step-on').click()
  await expect(at(page, 'timecode')).toHaveText('01:00:00:01')
  await expect.poll(picture).not.toBe(first)
  await page.keyboard.press('ArrowLeft')
  await expect.poll(picture).toBe(first)
  // Played round and round, nothing is dropped once all frames are there
  await at(page, 'play').click()
  await expect
    .poll(
      async () => {
        const rects = await page
          .locator('[data-test=frames] rect.kept')
          .evaluateAll(list => list.map(entry => Number(entry.getAttribute('width'))))
        const whole = (await at(page, 'frames').boundingBox())!.width
        return rects.length === 1 && rects[0]! > whole * 0.98
      },
      { timeout: 30000 },
    )
    .toBe(true)
  await page.keyboard.press('p')
  await expect(at(page, 'dropped')).toHaveCount(0)
  const rest = await at(page, 'timecode').textContent()
  await page.waitForTimeout(300)
  await expect(at(page, 'timecode')).toHaveText(rest!)
  // Half as fast, backwards: kept in the document, across a reload
  await type(at(page, 'clip-speed'), '0.5')
  await page.getByLabel('Direction').selectOption('back')
  await saved(page)
  await page.reload()
  await at(page, 'ready').waitFor()
  await expect(at(page, 'clip-speed')).toContainText('0.50')
  expect((await documentOf(page, stage, id)).document.plate.clip.timing).toMatchObject({ speed: 0.5, reverse: true })
})

test('a clip of another rate is told with its drift and mended by one click; a sequence with a gap by its numbers', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'plate')
  await at(page, 'shot-rate').fill('24000/1001')
  await at(page, 'shot-rate').press('Enter')
  await at(page, 'shot-rate').blur()
  await saved(page)
  await go(page, 'build')
  await at(page, 'add-layer')
    .locator('input')
    .setInputFiles([film(stage.folder, 'smoke.mp4', '25', 1)])
  await expect(at(page, 'layer-smoke')).toBeVisible({ timeout: 60000 })
  await at(page, 'layer-smoke').click()
  await expect(at(page, 'fault').filter({ hasText: 'Its rate is 25, the shot’s 24000/1001' })).toBeVisible()
  await page.getByRole('button', { name: 'Play it by the clock' }).click()
  await expect(at(page, 'fault')).toHaveCount(0)
  await saved(page)
  const smoke = listed((await documentOf(page, stage, id)).document.build.layers).find(({ kind }) => kind === 'picture')
  expect(smoke.picture.clip.timing.conform).toBe('time')
  // Numbered files, one missing
  const folder = join(stage.folder, 'numbered')
  mkdirSync(folder, { recursive: true })
  const paths = [7, 8, 10, 11].map(number => {
    const path = join(folder, `sea_${String(number).padStart(3, '0')}.png`)
    writeFileSync(
      path,
      encode({ width: 60, height: 40, channels: 3, data: new Uint8Array(60 * 40 * 3).fill(number * 20) }),
    )
    return path
  })
  await go(page, 'plate')
  await at(page, 'plate-drop').locator('input').setInputFiles(paths)
  await expect(page.getByText('Frame 9 is missing')).toBeVisible({ timeout: 30000 })
  await expect.poll(() => pixelAt(page, 0.5, 0.5)).toEqual([140, 140, 140])
  // Another size among them: refused by number, the plate stays
  writeFileSync(paths[1]!, encode({ width: 30, height: 20, channels: 3, data: new Uint8Array(1800) }))
  await at(page, 'plate-drop').locator('input').setInputFiles(paths)
  await expect(at(page, 'import-failed')).toContainText('8 is 30 x 20, the others 60 x 40', { timeout: 30000 })
  expect((await documentOf(page, stage, id)).document.plate.clip.count).toBe(5)
  // Two things at once are no plate
  await at(page, 'plate-drop').locator('input').setInputFiles([paths[0]!, stage.plate])
  await expect(page.getByText(/These are 2 things/)).toBeVisible()
})

test('a broken video is refused with a sentence; an import goes on after a killed server', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'plate')
  const broken = join(stage.folder, 'broken.mov')
  writeFileSync(broken, Buffer.concat([Buffer.from([0, 0, 0, 20]), Buffer.from('ftypqt  '), Buffer.alloc(2000, 7)]))
  await at(page, 'plate-drop').locator('input').setInputFiles([broken])
  await expect(at(page, 'import-failed')).toContainText('This video cannot be read', { timeout: 30000 })
  const path = film(stage.folder, 'long.mov', '25', 24, ['-vf', 'scale=1280:854', '-preset', 'ultrafast'])
  await at(page, 'plate-drop').locator('input').setInputFiles([path])
  await expect.poll(async () => (await imports(page, stage, id)).includes('running'), { intervals: [30] }).toBe(true)
  await stage.kill()
  await stage.start()
  await expect
    .poll(async () => (await documentOf(page, stage, id)).document.plate.clip?.count, { timeout: 60000 })
    .toBe(600)
  // Once, and looked through to its end
  await expect
    .poll(async () => (await imports(page, stage, id)).filter(state => state === 'done').length, { timeout: 60000 })
    .toBe(1)
})
