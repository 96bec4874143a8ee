// A cut-out stood on the quay by hand: dragged by its foot, made as tall as the horizon has it, shaded, mirrored, swapped.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { encode } from 'fast-png'
import type { Page } from '@playwright/test'
import { encodeCryptomatte } from '../../core/formats/cryptomatte/cryptomatte'
import { emptyWindow, writeExr, type ExrChannel } from '../../core/formats/exr/exr'
import { at, documentOf, expect, go, listed, newShot, pixelAt, pointAt, saved, test, type, type Stage } from './stage'

/** Someone all in red, with room round them: 10 pixels at each side, 20 above, 5 below. */
function someone(folder: string, name: string, colour: [number, number, number]): string {
  const [width, height] = [60, 200]
  const data = new Uint8Array(width * height * 4)
  for (let y = 20; y < height - 5; y++) for (let x = 10; x < 50; x++) data.set([...colour, 255], (y * width + x) * 4)
  const path = join(folder, name)
  writeFileSync(path, encode({ width, height, channels: 4, data }))
  return path
}
const figureOf = async (page: Page, stage: Stage, id: string) => {
  await saved(page)
  const found = listed((await documentOf(page, stage, id)).document.build.layers).find(({ kind }) => kind === 'figure')
  return found as Record<string, number> & { picture: { name: string }; facing: string }
}
/** Metres before the camera of the stage (1.6 m high, level, 0.65 rad from top to bottom) that it sees on the ground. */
const metresAt = (v: number): number => 1.6 / ((v - 0.5) * 2 * Math.tan(0.325))
const isRed = ([r, g]: number[]): boolean => r! > 150 && g! < 110

test('a cut-out stands on the ground by its foot, and has its size, distance, shadow and mirror image from that', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await at(page, 'add-figure')
    .locator('input')
    .setInputFiles([someone(stage.folder, 'red coat.png', [220, 40, 30])])
  const row = at(page, 'layer-red coat')
  await expect(row).toBeVisible()
  // Its feet were found in the picture; it stands in the lower middle
  const first = await figureOf(page, stage, id)
  expect(first.foot_down).toBeCloseTo(195 / 200, 3)
  expect(first.head_down).toBeCloseTo(20 / 200, 3)
  expect(-first.z!).toBeCloseTo(metresAt(0.8), 1)
  await expect(row).toContainText(`${metresAt(0.8).toFixed(2)} m`)
  // Dragged by its foot to where the ground is farther off, and to the left
  const [from, to] = [await pointAt(page, 0.5, 0.8), await pointAt(page, 0.3, 0.7)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 5 })
  await page.mouse.up()
  const moved = await figureOf(page, stage, id)
  expect(Math.abs(-moved.z! / metresAt(0.7) - 1)).toBeLessThan(0.03)
  expect(Math.abs(moved.x! / (-0.2 * 2 * 1.5 * Math.tan(0.325) * metresAt(0.7)) - 1)).toBeLessThan(0.03)
  // 1.75 m over ground that is 1.6 m below the horizon: a little above that
  await expect.poll(async () => isRed(await pixelAt(page, 0.3, 0.5))).toBe(true)
  expect(isRed(await pixelAt(page, 0.3, 0.47))).toBe(false)
  expect(isRed(await pixelAt(page, 0.3, 0.69))).toBe(true)
  expect(isRed(await pixelAt(page, 0.3, 0.72))).toBe(false)
  // Too tall for a camera at eye height, and mended by what the note offers
  await type(row.locator('[data-test=value-height]'), '2.4')
  await expect(at(page, 'heads-off')).toContainText('above the horizon')
  await at(page, 'to-horizon').click()
  await expect(at(page, 'heads-off')).toHaveCount(0)
  expect((await figureOf(page, stage, id)).height).toBeCloseTo(1.71, 2)
  // A sun of one's own, low and to the left: its shadow falls to the right on the ground
  const bare = await pixelAt(page, 0.42, 0.7)
  await row.locator('[data-test=value-lit]').selectOption('by hand')
  await type(row.locator('[data-test=value-sun_heading]'), '-90')
  await expect.poll(async () => (await pixelAt(page, 0.36, 0.7))[2]! < bare[2]! * 0.85).toBe(true)
  const beside = await pixelAt(page, 0.24, 0.7)
  await type(row.locator('[data-test=value-shadow]'), '0')
  await expect.poll(async () => Math.abs((await pixelAt(page, 0.36, 0.7))[2]! - bare[2]!)).toBeLessThan(4)
  expect(Math.abs((await pixelAt(page, 0.24, 0.7))[2]! - beside[2]!)).toBeLessThan(4)
  // Mirrored below its foot
  const ground = await pixelAt(page, 0.3, 0.76)
  await type(row.locator('[data-test=value-mirror]'), '3')
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.76))[0]! > ground[0]! + 8).toBe(true)
  // Toned to the place: a line in its recipe, which comes again when it is asked for again
  const coat = await pixelAt(page, 0.3, 0.6)
  await at(page, 'tone').click()
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.6))[0]! < coat[0]! - 20).toBe(true)
  const lines = async () => listed((await figureOf(page, stage, id)).treatments)
  expect(await lines()).toMatchObject([{ kind: 'match', name: 'Toned to the place', strength: 0.7 }])
  await at(page, 'tone').click()
  await expect(at(page, 'tone')).toBeEnabled()
  expect(await lines()).toHaveLength(1)
  // Another picture: it stands where it stood, as tall
  await row
    .getByLabel('Swap the picture of red coat')
    .locator('input')
    .or(row.locator('.swap input'))
    .first()
    .setInputFiles([someone(stage.folder, 'blue coat.png', [30, 60, 220])])
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.6))[2]! > 180).toBe(true)
  const swapped = await figureOf(page, stage, id)
  expect(swapped).toMatchObject({ x: moved.x, z: moved.z, mirror: 3, picture: { name: 'blue coat.png' } })
})

test('a flat picture is stood up, and brought nearer in the soundings it walks along the ground', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await at(page, 'add-layer')
    .locator('input')
    .setInputFiles([someone(stage.folder, 'red coat.png', [220, 40, 30])])
  await at(page, 'stand-up').click()
  await expect(at(page, 'find-feet')).toBeVisible()
  const before = await figureOf(page, stage, id)
  expect(before.foot_down).toBeCloseTo(195 / 200, 3)
  const mark = at(page, 'sounding-red coat')
  await mark.focus()
  for (let i = 0; i < 5; i++) await mark.press('ArrowLeft')
  await expect
    .poll(async () => Math.abs((await figureOf(page, stage, id)).z! / before.z! - 1.03 ** -5))
    .toBeLessThan(0.002)
  const after = await figureOf(page, stage, id)
  expect(after.level).toBe(0)
  // All of it is one step back at a time
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await figureOf(page, stage, id)).z).not.toBe(after.z)
})

test('a figure is cut by a shape drawn on its own picture, which goes along with it', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await at(page, 'add-figure')
    .locator('input')
    .setInputFiles([someone(stage.folder, 'red coat.png', [220, 40, 30])])
  const row = at(page, 'layer-red coat')
  await row.locator('[data-test=value-shadow]').waitFor()
  await type(row.locator('[data-test=value-shadow]'), '0')
  // 7.9 m away: from the ground at 0.8 of the frame up to 0.47, 0.05 of it to each side
  await expect.poll(async () => isRed(await pixelAt(page, 0.5, 0.75))).toBe(true)
  await at(page, 'cut-to').locator('[data-test=matte-chip]').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-shape').click()
  await expect(at(page, 'choose')).toBeHidden()
  await at(page, 'draw-rectangle').click()
  const [from, to] = [await pointAt(page, 0.475, 0.5), await pointAt(page, 0.525, 0.65)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 5 })
  await page.mouse.up()
  await at(page, 'cut-to').locator('[data-test=matte-chip]').click()
  await expect.poll(async () => isRed(await pixelAt(page, 0.5, 0.75))).toBe(false)
  for (const [u, v, red] of [
    [0.5, 0.52, true],
    [0.5, 0.63, true],
    [0.5, 0.67, false],
    [0.5, 0.48, false],
  ] as const)
    // prettier-ignore
    expect([u, v, isRed(await pixelAt(page, u, v))]).toEqual([u, v, red])
  // Its own pixels: 0.1 and 0.17 of it down from its head, and so on
  const { matte } = (await figureOf(page, stage, id)) as unknown as { matte: { terms: object } }
  const points = listed(listed((listed(matte.terms)[0] as { shapes: object }).shapes)[0].points) as { y: number }[]
  expect(Math.min(...points.map(({ y }) => y))).toBeGreaterThan(20)
  expect(Math.max(...points.map(({ y }) => y))).toBeLessThan(130)
  // It goes along
  await type(row.locator('[data-test=value-x]'), '1.5')
  const across = 0.5 + 1.5 / (2 * 1.5 * Math.tan(0.325) * metresAt(0.8))
  await expect.poll(async () => isRed(await pixelAt(page, across, 0.6))).toBe(true)
  expect(isRed(await pixelAt(page, across, 0.75))).toBe(false)
})

test('one stood in the scene has its shadow rendered, and only the passes that it touches', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'passes')
  await type(at(page, 'samples'), '8')
  await at(page, 'render').click()
  const file = async () => (await documentOf(page, stage, id)).document.passes.file
  await expect.poll(file, { timeout: 60000 }).toBeTruthy()
  const blob = (await file()).blob
  await go(page, 'build')
  await at(page, 'add-figure')
    .locator('input')
    .setInputFiles([someone(stage.folder, 'red coat.png', [220, 40, 30])])
  const row = at(page, 'layer-red coat')
  await row.locator('[data-test=value-world]').selectOption('scene')
  // Nothing is laid of it any more, and what is rendered does not have it yet
  await expect(row.locator('[data-test=value-shadow]')).toHaveCount(0)
  await expect(row.locator('[data-test=ground-of]')).toHaveCount(0)
  await at(page, 'to-passes').click()
  await expect(at(page, 'partly')).toContainText('others still stand')
  await expect(at(page, 'partly')).not.toContainText('Depth')
  await at(page, 'render').click()
  await expect.poll(async () => (await file()).blob !== blob, { timeout: 60000 }).toBe(true)
  expect((await file()).standIns).toContain('red coat')
  await go(page, 'build')
  await row.locator('.title').click()
  await expect(at(page, 'to-passes')).toHaveCount(0)
  await expect(at(page, 'in-scene')).toBeVisible()
})

test('one is cut out of a render by the names of things that its file has', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  const [width, height] = [60, 80]
  const pixels = width * height
  const isLeft = (i: number): boolean => i % width < width / 2
  const coverage = {
    ranks: 1,
    index: Uint16Array.from({ length: pixels }, (_, i) => (isLeft(i) ? 1 : 2)),
    weight: new Float32Array(pixels).fill(1),
  }
  const told = encodeCryptomatte('Things', coverage, pixels, ['red post', 'blue post'])
  const channels = ['R', 'G', 'B', 'A'].map((name): ExrChannel => {
    const value = (i: number): number => (name === 'A' || (name === 'R') === isLeft(i) ? 1 : 0) * (name === 'G' ? 0 : 1)
    return { name, type: 'float', linear: false, data: Float32Array.from({ length: pixels }, (_, i) => value(i)) }
  })
  const path = join(stage.folder, 'posts.exr')
  const window = emptyWindow(width, height)
  writeFileSync(
    path,
    writeExr({
      ...{ dataWindow: window, displayWindow: window, compression: 'zip' },
      ...{ channels: [...channels, ...told.channels], attributes: [...told.attributes] },
    }),
  )
  await go(page, 'build')
  await at(page, 'add-figure').locator('input').setInputFiles([path])
  const row = at(page, 'layer-posts')
  await row.locator('[data-test=value-shadow]').waitFor()
  await type(row.locator('[data-test=value-shadow]'), '0')
  const isBlue = ([r, , b]: number[]): boolean => b! > 200 && r! < 60
  // 1.75 m tall at 7.9 m, three quarters as wide: 0.04 of the frame to each side of the middle
  await expect.poll(async () => isRed(await pixelAt(page, 0.48, 0.65))).toBe(true)
  await expect.poll(async () => isBlue(await pixelAt(page, 0.52, 0.65))).toBe(true)
  expect((await figureOf(page, stage, id)) as unknown as object).toMatchObject({
    names: { objects: ['red post', 'blue post'] },
  })
  await at(page, 'cut-to').locator('[data-test=matte-chip]').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-names').click()
  await expect(at(page, 'choose')).toBeHidden()
  await page.locator('[data-test=term-known]', { hasText: 'red post' }).click()
  await at(page, 'cut-to').locator('[data-test=matte-chip]').first().click()
  await expect.poll(async () => isBlue(await pixelAt(page, 0.52, 0.65))).toBe(false)
  expect(isRed(await pixelAt(page, 0.48, 0.65))).toBe(true)
})
