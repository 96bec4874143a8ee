// Words set by hand: typed, put into the scene, brought behind what stands there, set in a font of one's own.
import { join } from 'node:path'
import { writeFileSync } from 'node:fs'
import { at, documentOf, expect, go, listed, newShot, pixelAt, pointAt, saved, test, type } from './stage'

test('words are typed, dragged to where they stand, and hidden by what is nearer', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBeGreaterThan(60)
  const words = async () => {
    await saved(page)
    const found = listed((await documentOf(page, stage, id)).document.build.layers)
    return found.find(({ kind }) => kind === 'words') as unknown as Record<string, number> & {
      text: string
      font: { name: string; files: { blob: string }[] }
    }
  }
  await at(page, 'add-kind').click()
  await at(page, 'add-words').click()
  const row = at(page, 'layer-Words')
  await expect(row).toContainText('Words, in Source Serif')
  await expect(row).toContainText('8.00 m')
  // Four bars in a row: white where they are
  await row.locator('[data-test=words-text]').fill('IIII')
  await row.locator('[data-test=font]').selectOption('Oswald')
  await expect(row).toContainText('IIII, in Oswald')
  await type(row.locator('[data-test=value-weight]'), '700')
  await type(row.locator('[data-test=value-size]'), '2')
  await type(row.locator('[data-test=value-bright]'), '1')
  const isWhite = async (u: number, v: number): Promise<boolean> => (await pixelAt(page, u, v)).every(one => one > 240)
  /** Some of a row of the picture. */
  const whites = async (v: number): Promise<number> => {
    let count = 0
    for (let u = 0.3; u < 0.7; u += 0.02) if (await isWhite(u, v)) count++
    return count
  }
  await expect.poll(() => whites(0.45)).toBeGreaterThan(4)
  expect(await whites(0.55)).toBe(0)
  // Dragged down by where they stand; they stay as far away
  const [from, to] = [await pointAt(page, 0.5, 0.5), await pointAt(page, 0.5, 0.7)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 5 })
  await page.mouse.up()
  await expect.poll(() => whites(0.65)).toBeGreaterThan(4)
  expect((await words()).z).toBeCloseTo(-8, 2)
  // A wash that is nearer lies over them, one that is farther under them
  await at(page, 'add-kind').click()
  await at(page, 'add-wash').click()
  const wash = at(page, 'layer-Colour wash')
  await type(wash.locator('[data-test=opacity]'), '1')
  await type(wash.locator('[data-test=value-distance]'), '3')
  await expect.poll(() => whites(0.65)).toBe(0)
  await type(wash.locator('[data-test=value-distance]'), '20')
  await expect.poll(() => whites(0.65)).toBeGreaterThan(4)
  // A font of one's own; what is none is refused and changes nothing
  await row.locator('.title').click()
  const none = join(stage.folder, 'none.ttf')
  writeFileSync(none, 'This is no font whatever it may be called, and it says so with many words.')
  await row.locator('[data-test=font-file]').setInputFiles([none])
  await expect(page.getByText('This file is no font')).toBeVisible()
  await row.locator('[data-test=font-file]').setInputFiles(['/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'])
  await expect(row).toContainText('IIII, in DejaVu Sans')
  expect((await words()).font.files).toHaveLength(1)
  // On the picture they stand in its middle, as large as they were made for it
  await row.locator('[data-test=value-put]').selectOption('on the picture')
  await expect(at(page, 'handle-place')).toBeVisible()
  await expect.poll(() => whites(0.46)).toBeGreaterThan(0)
  expect(await whites(0.65)).toBe(0)
})

test('words are put behind a thing by a click on it, however far away they are', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'passes')
  await type(at(page, 'samples'), '4')
  await at(page, 'render').click()
  await expect
    .poll(async () => (await documentOf(page, stage, id)).document.passes.file?.objects ?? [], { timeout: 60000 })
    .toContain('tall block')
  await go(page, 'build')
  await at(page, 'add-kind').click()
  await at(page, 'add-words').click()
  const row = at(page, 'layer-Words')
  await row.locator('[data-test=words-text]').fill('I')
  await row.locator('[data-test=value-put]').selectOption('on the picture')
  await type(row.locator('[data-test=value-away]'), '1')
  await type(row.locator('[data-test=value-letters]'), '150')
  await type(row.locator('[data-test=value-down]'), '155')
  const places = [0.49, 0.495, 0.5, 0.505, 0.51]
  const whites = async (): Promise<number> => {
    let count = 0
    for (const u of places) if ((await pixelAt(page, u, 0.5)).every(one => one > 200)) count++
    return count
  }
  await expect.poll(whites).toBeGreaterThan(2)
  const before = await pixelAt(page, 0.5, 0.2)
  const block = await pointAt(page, 0.5, 0.5)
  await page.mouse.click(block.x, block.y)
  await expect(at(page, 'behind-picked')).toContainText('put it behind tall block')
  await at(page, 'behind-picked').click()
  await expect.poll(whites).toBe(0)
  expect(await pixelAt(page, 0.5, 0.2)).toEqual(before)
  // Before it again
  await at(page, 'behind').getByText('tall block').click()
  await expect.poll(whites).toBeGreaterThan(2)
})
