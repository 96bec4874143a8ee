// A look of one shot on another at half its strength; a colour taken by a click; a picture that a line is made of.
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { readCube } from '../../core/formats/cube/cube'
import { at, documentOf, expect, go, listed, newShot, pixelAt, pointAt, saved, test, type } from './stage'

test('a look is kept, laid on the other shot at half strength, and saved as a table; it stays when the shot is gone', async ({
  page,
  stage,
}) => {
  await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await type(at(page, 'value-stops'), '-2')
  await at(page, 'add-treatment').click()
  await at(page, 'add-saturation').click()
  await saved(page)
  await at(page, 'look-keep').fill('night')
  await at(page, 'look-keep').press('Enter')
  await expect(page.getByText('The look “night” is kept')).toBeVisible()

  const other = await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  const plain = await pixelAt(page, 0.5, 0.2)
  await at(page, 'add-treatment').click()
  await at(page, 'choose-search').fill('night')
  await at(page, 'choose-search').press('Enter')
  await expect(at(page, 'treatment-look')).toContainText('Look night')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.2))[1]!).toBeLessThan(plain[1]! - 30)
  const whole = await pixelAt(page, 0.5, 0.2)
  await type(at(page, 'treatment-look').getByLabel('Strength'), '0.5')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.2))[1]!).toBeGreaterThan(whole[1]! + 10)
  expect((await pixelAt(page, 0.5, 0.2))[1]!).toBeLessThan(plain[1]!)
  await saved(page)
  const line = listed((await documentOf(page, stage, other)).document.finish)[0]
  expect([line.kind, line.name, line.strength, listed(line.lines).map((one: { kind: string }) => one.kind)]).toEqual([
    'look',
    'night',
    0.5,
    ['exposure', 'saturation'],
  ])
  // For a colleague, as a table; and by its lines
  const [download] = await Promise.all([page.waitForEvent('download'), at(page, 'look-cube').selectOption('srgb')])
  expect(download.suggestedFilename()).toBe('night.cube')
  const table = readCube(readFileSync(await download.path()))
  expect([table.kind, table.size, table.data[0]]).toEqual(['3d', 33, 0])
  // White four times darker, in sRGB codes (IEC 61966-2-1)
  expect(table.data.at(-1)).toBeCloseTo(1.055 * 0.25 ** (1 / 2.4) - 0.055, 4)
  await expect(at(page, 'look-unpack')).toBeDisabled()
  await type(at(page, 'treatment-look').getByLabel('Strength'), '1')
  await at(page, 'look-unpack').click()
  await expect(at(page, 'treatment-saturation')).toBeVisible()
  await expect(at(page, 'treatment-look')).toHaveCount(0)
  // That table as a line of the other recipe
  const path = join(stage.folder, 'night.cube')
  writeFileSync(path, readFileSync(await download.path()))
  await at(page, 'add-treatment').click()
  await at(page, 'add-lut').click()
  await at(page, 'line-table-file').setInputFiles(path)
  await expect(at(page, 'line-table-name')).toHaveText('night.cube')
  // Gone from the sheet
  await at(page, 'add-treatment').click()
  await at(page, 'look-remove').click()
  await expect(at(page, 'add-look')).toHaveCount(0)
})

test('a click gives a line its colours, a picture of the shot its likeness, and what changed against one is a matte', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  const before = await pixelAt(page, 0.5, 0.2)
  const { x, y } = await pointAt(page, 0.5, 0.2)
  await at(page, 'add-treatment').click()
  await at(page, 'add-balance').click()
  await at(page, 'line-take').click()
  await expect(at(page, 'line-take')).toHaveText('click it in the picture')
  await page.mouse.click(x, y)
  await expect(at(page, 'line-take')).toHaveText('click what should be grey')
  await expect
    .poll(async () => {
      const [r, g, b] = await pixelAt(page, 0.5, 0.2)
      return Math.max(r!, g!, b!) - Math.min(r!, g!, b!)
    })
    .toBeLessThan(8)
  expect(Math.max(...before) - Math.min(...before)).toBeGreaterThan(8)

  // Against the plate as it was: all of it changed, and nothing once the line is off
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await at(page, 'treatment-exposure').locator('[data-test="matte-chip"]').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-change').click()
  await expect(at(page, 'choose')).toBeHidden()
  await expect(at(page, 'term-missing')).toHaveText('It needs a picture.')
  await at(page, 'line-picture-there').selectOption({ label: 'the plate' })
  await expect(at(page, 'line-picture-name')).toBeVisible()
  await at(page, 'matte-as-grey').click()
  await type(at(page, 'value-more'), '0.05')
  await type(at(page, 'value-soft'), '0')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 255, 255])
  await at(page, 'treatment-balance')
    .getByLabel(/on or off/)
    .click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([0, 0, 0])
  await saved(page)
  const lines = listed((await documentOf(page, stage, id)).document.finish)
  expect(listed(lines[1].matte.terms)[0].picture.blob).toMatch(/^[0-9a-f]{64}$/)
})

test('a drawn part is made like another part, of this picture or of another', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.1, 0.2)).not.toEqual([0, 0, 0])
  const [dark, light] = [await pixelAt(page, 0.1, 0.2), await pixelAt(page, 0.9, 0.2)]
  expect(light[0]! - dark[0]!).toBeGreaterThan(40)
  const frameRound = async (u: number, v: number): Promise<void> => {
    await expect(at(page, 'take-frame')).toBeVisible()
    const [from, to] = [await pointAt(page, u - 0.06, v - 0.1), await pointAt(page, u + 0.06, v + 0.1)]
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: 3 })
    await page.mouse.up()
    await expect(at(page, 'take-frame')).toBeHidden()
  }
  const near = (wanted: number[]) =>
    expect
      .poll(async () => Math.max(...(await pixelAt(page, 0.1, 0.2)).map((value, c) => Math.abs(value - wanted[c]!))))
      .toBeLessThan(4)
  await at(page, 'add-treatment').click()
  await at(page, 'add-match').click()
  await expect(at(page, 'choose')).toBeHidden()
  await at(page, 'like-own').click()
  await expect(at(page, 'like-own')).toHaveText('draw a frame round what is to change')
  await frameRound(0.1, 0.2)
  await expect(at(page, 'like-own')).toHaveText('a part')
  // Esc ends it, and nothing was made yet
  await at(page, 'like-here').click()
  await page.keyboard.press('Escape')
  await expect(at(page, 'like-here')).toHaveText('a part of this one')
  expect(await pixelAt(page, 0.1, 0.2)).toEqual(dark)
  await at(page, 'like-here').click()
  await frameRound(0.9, 0.2)
  await near(light)
  // Of another picture, which stands there while the frame is drawn: the buoy's red
  await at(page, 'line-picture-file').setInputFiles(stage.layer)
  await expect(at(page, 'like-there')).toHaveText('a part of buoy.png')
  await at(page, 'like-there').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.5)).toEqual([230, 60, 40])
  await frameRound(0.5, 0.5)
  await near([230, 60, 40])
  await saved(page)
  const [line] = listed((await documentOf(page, stage, id)).document.finish)
  expect(line.kind).toBe('match')
  expect(line.values.to_a).toBeGreaterThan(0.1)
})
