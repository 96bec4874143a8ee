// Values, viewer and keys: what a hand does all day.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import type { Page } from '@playwright/test'
import { at, documentOf, expect, go, newShot, pixelAt, pointAt, saved, test, type, type Stage, listed } from './stage'

async function finishWith(page: Page, stage: Stage, ...treatments: string[]): Promise<string> {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  for (const treatment of treatments) {
    await at(page, 'add-treatment').click()
    await at(page, `add-${treatment}`).click()
    await expect(at(page, `treatment-${treatment}`)).toBeVisible()
  }
  return id
}
const valueOf = async (page: Page, stage: Stage, id: string, treatment = 0): Promise<Record<string, unknown>> => {
  await saved(page)
  return listed((await documentOf(page, stage, id)).document.finish)[treatment].values
}

test('a value is dragged, typed with arithmetic, stepped, reset, bounded and keyed', async ({ page, stage }) => {
  const id = await finishWith(page, stage, 'exposure')
  const field = at(page, 'value-stops')
  await type(field, '1/4 + 2*0.5')
  expect((await valueOf(page, stage, id)).stops).toBe(1.25)
  await type(field, '400')
  expect((await valueOf(page, stage, id)).stops).toBe(10)
  // What is no number is not taken, and said
  await field.focus()
  await field.press('Enter')
  await page.locator('.value-input').fill('bright')
  await page.locator('.value-input').press('Enter')
  await expect(page.locator('.value-input.bad')).toBeVisible()
  await page.locator('.value-input').press('Escape')
  await expect(field).toContainText('10.00')
  await type(field, '0')
  // What is changed while a request is under way is sent as soon as that is back: a drag that begins then would be two
  await saved(page)
  const box = (await field.boundingBox())!
  await page.mouse.move(box.x + 5, box.y + 8)
  await page.mouse.down()
  await page.mouse.move(box.x + 105, box.y + 8, { steps: 3 })
  await page.mouse.up()
  const dragged = (await valueOf(page, stage, id)).stops as number
  expect(dragged).toBeGreaterThan(0.2)
  // A whole drag is one step of undo
  await at(page, 'undo').click()
  await expect(field).toContainText('0.00')
  await at(page, 'redo').click()
  await expect(field).toContainText(dragged.toFixed(2))
  await field.focus()
  await field.press('ArrowUp')
  await expect.poll(async () => (await valueOf(page, stage, id)).stops).toBeGreaterThan(dragged)
  await field.press('Delete')
  await expect.poll(async () => (await valueOf(page, stage, id)).stops).toBe(0)
  await field.press('k')
  await expect
    .poll(async () => (await valueOf(page, stage, id)).stops)
    .toEqual({ keys: [expect.objectContaining({ frame: 1, value: 0 })] })
})

test('treatments change places, go off, are left out while held, and are removed', async ({ page, stage }) => {
  const id = await finishWith(page, stage, 'saturation', 'exposure')
  await type(at(page, 'value-stops'), '-2')
  await saved(page)
  await page.waitForTimeout(400)
  const dark = await pixelAt(page, 0.5, 0.1)
  const line = at(page, 'treatment-exposure')
  await line.click({ position: { x: 200, y: 8 } })
  const hold = (await line.locator('[data-test=hold-without]').boundingBox())!
  await page.mouse.move(hold.x + 4, hold.y + 4)
  await page.mouse.down()
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.1))[2]!).toBeGreaterThan(dark[2]! + 30)
  await page.mouse.up()
  await expect.poll(() => pixelAt(page, 0.5, 0.1)).toEqual(dark)
  await line.getByLabel('Exposure on or off').click()
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.1))[2]!).toBeGreaterThan(dark[2]! + 30)
  await line.getByLabel('Earlier').click()
  await saved(page)
  expect(listed((await documentOf(page, stage, id)).document.finish).map(({ kind }) => kind)).toEqual([
    'exposure',
    'saturation',
  ])
  await line.getByLabel('Remove').click()
  await expect(line).toHaveCount(0)
})

test('the viewer zooms about the pointer, pans, fits, shows channels and looks brighter without changing the shot', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'plate')
  await page.waitForTimeout(400)
  const { revision } = await documentOf(page, stage, id)
  const point = await pointAt(page, 0.25, 0.75)
  await page.mouse.move(point.x, point.y)
  await page.mouse.wheel(0, -600)
  const after = await pointAt(page, 0.25, 0.75)
  expect(Math.hypot(after.x - point.x, after.y - point.y)).toBeLessThan(1.5)
  await page.keyboard.down('Space')
  await page.mouse.down()
  await page.mouse.move(point.x + 50, point.y - 20)
  await page.mouse.up()
  await page.keyboard.up('Space')
  const panned = await pointAt(page, 0.25, 0.75)
  expect([Math.round(panned.x - after.x), Math.round(panned.y - after.y)]).toEqual([50, -20])
  await page.keyboard.press('f')
  const fitted = (await at(page, 'picture').boundingBox())!
  const wall = (await at(page, 'viewer').boundingBox())!
  expect(fitted.x).toBeGreaterThanOrEqual(wall.x)
  expect(fitted.x + fitted.width).toBeLessThanOrEqual(wall.x + wall.width + 0.5)
  // The readout is scene-linear: code 90 of the plate's first row
  const corner = await pointAt(page, 0.002, 0.003)
  await page.mouse.move(corner.x, corner.y)
  await expect(page.locator('.readout')).toContainText((((90 / 255 + 0.055) / 1.055) ** 2.4).toFixed(4))
  await page.getByLabel('Channel shown').selectOption({ label: 'Blue' })
  await expect.poll(() => pixelAt(page, 0.5, 0.5)).toEqual([140, 140, 140])
  await page.getByLabel('Channel shown').selectOption({ label: 'Colour' })
  const before = (await pixelAt(page, 0.5, 0.5))[2]!
  await type(page.getByLabel('Exposure for looking only'), '1')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[2]!).toBeGreaterThan(before + 30)
  expect((await documentOf(page, stage, id)).revision).toBe(revision)
})

test('keys lead everywhere and are listed; typing in a field is no key', async ({ page, stage }) => {
  await newShot(page, stage)
  await page.mouse.click(5, 300)
  for (const [key, station] of [
    ['1', 'plate'],
    ['5', 'finish'],
    ['6', 'send'],
    ['4', 'build'],
  ] as const) {
    await page.keyboard.press(key)
    await expect(at(page, `station-${station}`)).toHaveAttribute('aria-current', 'step')
  }
  // The key after one that leads to a station acts there, however soon it comes
  await page.keyboard.press('5')
  await page.evaluate(() => {
    for (const key of ['4', 'd']) window.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
  })
  await expect(at(page, 'desk')).toBeVisible()
  await page.keyboard.press('d')
  await expect(at(page, 'desk')).toHaveCount(0)
  await page.keyboard.press('v')
  await expect(page.locator('aside.side')).toHaveCount(0)
  await page.keyboard.press('v')
  await page.keyboard.press('l')
  await expect(page.locator('.v-theme--dim').first()).toBeVisible()
  await page.keyboard.press('l')
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog')).toContainText('dividing line')
  await page.keyboard.press('Escape')
  const name = page.getByLabel('Name of Plate')
  await name.fill('2 quay')
  await name.press('Enter')
  await expect(at(page, 'station-build')).toHaveAttribute('aria-current', 'step')
  await expect(at(page, 'layer-2 quay')).toBeVisible()
})

test('a plate read wrongly is told in words and mended by one click; a picture that is none is refused', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'plate')
  await expect(page.getByText('Size, shape, encoding and alpha fit.')).toBeVisible()
  await at(page, 'encoding').click()
  await page.getByText('linear Rec.709', { exact: false }).last().click()
  await expect(page.getByText(/read as linear light looks washed out/)).toBeVisible()
  await page.getByRole('button', { name: 'Read as sRGB' }).click()
  await expect(page.getByText('Size, shape, encoding and alpha fit.')).toBeVisible()
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'holiday.png', mimeType: 'image/png', buffer: Buffer.from('no picture at all') })
  await expect(page.getByText(/no picture that is read here/)).toBeVisible()
  expect((await documentOf(page, stage, id)).document.plate.name).toBe('quayside.png')
  // A larger picture: the frame follows, or says that it does not
  await page.locator('input[type=file]').first().setInputFiles(stage.layer)
  await expect(page.getByText('80 x 80').first()).toBeVisible()
  await expect(page.getByText(/alpha that cuts something out|alpha fit/)).toBeVisible()
})

test('what is said stands as long as it should, though something was said just before', async ({ page, stage }) => {
  await newShot(page, stage)
  await go(page, 'plate')
  const refuse = (name: string): Promise<void> =>
    at(page, 'plate-drop')
      .locator('input')
      .setInputFiles({ name, mimeType: 'image/png', buffer: Buffer.from('no picture') })
  await refuse('first.png')
  await expect(page.locator('.v-snackbar')).toContainText('no picture')
  const first = await page.locator('.v-snackbar').textContent()
  await page.waitForTimeout(5000)
  // Another sentence, two seconds before the first one would have gone
  await at(page, 'plate-drop').locator('input').setInputFiles([stage.plate, stage.layer])
  await expect(page.locator('.v-snackbar')).toContainText('2 things')
  expect(await page.locator('.v-snackbar').textContent()).not.toBe(first)
  await page.waitForTimeout(4000)
  await expect(page.locator('.v-snackbar')).toContainText('2 things')
})

test('a name that is being typed stays while the shot changes around it; Escape leaves it as it was', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  const name = page.getByLabel('Name of Plate')
  await name.fill('sea wall')
  const { revision } = await documentOf(page, stage, id)
  const patch = [{ op: 'replace', path: '/build/layers/render/name', value: 'the house' }]
  await page.request.patch(`${stage.address}/api/shots/${id}`, {
    data: { version: DOCUMENT_VERSION, revision, label: 'elsewhere', patch },
  })
  await expect(page.getByLabel('Name of the house')).toBeVisible()
  await expect(name).toHaveValue('sea wall')
  await name.press('Escape')
  await expect(name).toHaveValue('Plate')
  await name.fill('sea wall')
  await name.press('Enter')
  await saved(page)
  expect((await documentOf(page, stage, id)).document.build.layers.plate.name).toBe('sea wall')
})

test('a value that is typed right after the click on it is taken whole; one that is opened and left says nothing', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  const opacity = at(page, 'layer-Plate').locator('[data-test=opacity]')
  await at(page, 'layer-Plate').click()
  await opacity.click()
  await page.keyboard.type('0.4')
  await page.keyboard.press('Enter')
  await page.waitForTimeout(500)
  await expect(opacity).toHaveText('0.40')
  // Opened; then somebody else changes it, and one leaves it
  await opacity.click()
  await expect(page.locator('.value-input')).toHaveValue('0.4')
  await saved(page)
  const { revision } = await documentOf(page, stage, id)
  const patch = [{ op: 'replace', path: '/build/layers/plate/opacity', value: 0.9 }]
  await page.request.patch(`${stage.address}/api/shots/${id}`, {
    data: { version: DOCUMENT_VERSION, revision, label: 'elsewhere', patch },
  })
  await expect.poll(async () => (await documentOf(page, stage, id)).revision).toBe(revision + 1)
  await page.waitForTimeout(500)
  await page.locator('.value-input').blur()
  await expect(opacity).toHaveText('0.90')
  await saved(page)
  expect((await documentOf(page, stage, id)).document.build.layers.plate.opacity).toBe(0.9)
})

test('keys act only when nothing under the focus takes them: figures begin to type, selected text is left alone', async ({
  page,
  stage,
}) => {
  await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  const field = at(page, 'value-stops')
  await field.focus()
  await page.keyboard.press('2')
  await expect(at(page, 'station-finish')).toHaveAttribute('aria-current', 'step')
  await page.keyboard.press('.')
  await page.keyboard.press('5')
  await page.keyboard.press('Enter')
  await expect(field).toContainText('2.5')
  // Ctrl-A leads nowhere, and while text is selected a figure is not meant for the stations
  await page.locator('body').click({ position: { x: 640, y: 790 } })
  await page.keyboard.press('Control+a')
  await page.evaluate(() => window.getSelection()!.selectAllChildren(document.querySelector('h1')!))
  expect(await page.evaluate(() => window.getSelection()!.isCollapsed)).toBe(false)
  await page.keyboard.press('1')
  await page.waitForTimeout(300)
  await expect(at(page, 'station-finish')).toHaveAttribute('aria-current', 'step')
  await page.evaluate(() => window.getSelection()?.removeAllRanges())
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
  await page.keyboard.press('5')
  await expect(at(page, 'station-finish')).toHaveAttribute('aria-current', 'step')
  await page.keyboard.press('1')
  await expect(at(page, 'station-plate')).toHaveAttribute('aria-current', 'step')
})
