// The tree of layers: dragged, grouped, doubled, seen alone, noted, carried to another shot; renders as layers.
import { copyFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { at, documentOf, expect, go, listed, newShot, pixelAt, saved, test, type, type Stage } from './stage'

async function withPictures(page: Page, stage: Stage, names: readonly string[]): Promise<string> {
  const id = await newShot(page, stage)
  await go(page, 'build')
  for (const name of names) {
    const path = join(stage.folder, `${name}.png`)
    copyFileSync(stage.layer, path)
    await at(page, 'add-layer').locator('input').setInputFiles([path])
    await expect(at(page, `layer-${name}`)).toBeVisible()
  }
  await saved(page)
  return id
}
const shown = (page: Page): Promise<string[]> =>
  page
    .locator('[data-test^="layer-"]')
    .evaluateAll(rows =>
      rows.map(
        row =>
          '.'.repeat(Number(getComputedStyle(row).getPropertyValue('--depth'))) +
          (row as HTMLElement).dataset.test!.slice(6),
      ),
    )
const layersOf = async (page: Page, stage: Stage, id: string) => {
  await saved(page)
  return (await documentOf(page, stage, id)).document.build.layers
}
const called = async (page: Page, stage: Stage, id: string, name: string) =>
  listed(await layersOf(page, stage, id)).find(layer => layer.name === name)
const title = (page: Page, name: string) => at(page, `layer-${name}`).locator('.title')
/** Drags a row by its grip to a share of the height of another. */
async function drag(page: Page, name: string, to: string, share: number): Promise<void> {
  const grip = (await at(page, `layer-${name}`).locator('[data-test=grip]').boundingBox())!
  const target = (await title(page, to).boundingBox())!
  await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2)
  await page.mouse.down()
  await page.mouse.move(target.x + 60, target.y + target.height * 0.5, { steps: 6 })
  await page.mouse.move(target.x + 62, target.y + target.height * share, { steps: 6 })
  await page.waitForTimeout(120)
  await page.mouse.up()
}

test('layers are dragged to another distance, into a group and out of it; the keyboard does the same', async ({
  page,
  stage,
}) => {
  const id = await withPictures(page, stage, ['haze', 'people', 'bird'])
  for (const [name, metres] of [
    ['haze', '16'],
    ['people', '4'],
    ['bird', '2'],
  ] as const) {
    // By the keyboard too
    await at(page, `layer-${name}`).locator('[data-test=open]').press('Enter')
    await type(at(page, 'value-distance'), metres)
  }
  expect(await shown(page)).toEqual(['Plate', 'Shadow', 'haze', 'people', 'bird', 'Render'])
  // Between 16 and 4 metres: at 8, as far from one as from the other in proportion
  await title(page, 'Render').click()
  await drag(page, 'bird', 'people', 0.1)
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'haze', 'bird', 'people', 'Render'])
  expect((await called(page, stage, id, 'bird')).distance).toBe(8)
  // Two chosen, grouped; another dragged into the group
  await title(page, 'haze').click()
  await title(page, 'bird').click({ modifiers: ['Control'] })
  await at(page, 'group').click()
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'people', 'Render', 'Group', '.haze', '.bird'])
  const group = (await called(page, stage, id, 'Group')).id
  await title(page, 'Plate').click()
  await drag(page, 'people', 'Group', 0.5)
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'Render', 'Group', '.haze', '.bird', '.people'])
  expect((await called(page, stage, id, 'people')).within).toBe(group)
  // Nothing goes into itself
  await drag(page, 'Group', 'bird', 0.5)
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'Render', 'Group', '.haze', '.bird', '.people'])
  // Out of it by the menu, where it stands; nearer by the arrows
  await title(page, 'haze').click()
  await at(page, 'within').selectOption('')
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'haze', 'Render', 'Group', '.bird', '.people'])
  await title(page, 'people').click()
  await page.getByLabel('Farther').click()
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'haze', 'Render', 'Group', '.people', '.bird'])
  await title(page, 'Group').click()
  await at(page, 'ordered').selectOption('by hand')
  await at(page, 'layer-Group').locator('[data-test=fold]').click()
  expect(await shown(page)).toEqual(['Plate', 'Shadow', 'haze', 'Render', 'Group'])
  await at(page, 'layer-Group').locator('[data-test=fold]').click()
  await at(page, 'dissolve').click()
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'haze', 'people', 'bird', 'Render'])
  await at(page, 'undo').click()
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'haze', 'Render', 'Group', '.people', '.bird'])
})

test('a group is one picture with lines of its own; a layer is seen alone, noted, doubled, removed with its group', async ({
  page,
  stage,
}) => {
  const id = await withPictures(page, stage, ['buoy'])
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBe(230)
  const corner = await pixelAt(page, 0.02, 0.05)
  await at(page, 'group').click()
  await title(page, 'Group').click()
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await type(at(page, 'value-stops'), '-10')
  // The line works on the group, and on nothing else
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBeLessThan(20)
  expect(await pixelAt(page, 0.02, 0.05)).toEqual(corner)
  await at(page, 'layer-Group').getByLabel('Exposure on or off').click()
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBe(230)
  // Alone, then with the others
  await at(page, 'solo').click()
  await expect.poll(() => pixelAt(page, 0.02, 0.05)).toEqual([0, 0, 0])
  expect((await pixelAt(page, 0.5, 0.5))[0]).toBe(230)
  await at(page, 'solo-none').click()
  await expect.poll(() => pixelAt(page, 0.02, 0.05)).toEqual(corner)
  await at(page, 'add-note').click()
  await at(page, 'note').fill('as seen at low tide')
  await at(page, 'note').blur()
  expect((await called(page, stage, id, 'Group')).note).toBe('as seen at low tide')
  await at(page, 'duplicate').click()
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'Render', 'Group', '.buoy', 'Group copy', '.buoy'])
  const copy = await called(page, stage, id, 'Group copy')
  const all = listed(await layersOf(page, stage, id))
  expect(all.filter(layer => layer.within === copy.id)).toHaveLength(1)
  expect(Object.keys(copy.treatments)).not.toEqual(Object.keys((await called(page, stage, id, 'Group')).treatments))
  await page.getByLabel('Remove this layer').click()
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'Render', 'Group', '.buoy'])
})

test('a second plate is a picture of its own over the frame, and gives way to the shot’s', async ({ page, stage }) => {
  const id = await withPictures(page, stage, [])
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[2]!).toBe(140)
  await at(page, 'add-kind').click()
  await at(page, 'add-plate').click()
  await at(page, 'other-plate').locator('input').setInputFiles(stage.layer)
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBe(230)
  const plates = listed(await layersOf(page, stage, id)).filter(({ kind }) => kind === 'plate')
  expect(plates.map(({ picture }) => picture?.name)).toEqual([undefined, 'buoy.png'])
  await at(page, 'own-plate').click()
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[2]!).toBe(140)
})

/** What the clipboard of a window gets, or is given, without the keys of the system. */
const clip = (page: Page, kind: 'copy' | 'cut' | 'paste', text = ''): Promise<string> =>
  page.evaluate(
    ([type, held]) => {
      const data = new DataTransfer()
      if (held) data.setData('text/plain', held)
      document.dispatchEvent(new ClipboardEvent(type, { clipboardData: data, bubbles: true, cancelable: true }))
      return data.getData('text/plain')
    },
    [kind, text] as const,
  )

test('layers are carried to another shot as text; what is not right is refused by what is wrong', async ({
  page,
  stage,
}) => {
  const id = await withPictures(page, stage, ['haze', 'people'])
  await title(page, 'haze').click()
  await title(page, 'people').click({ modifiers: ['Control'] })
  await at(page, 'group').click()
  const text = await clip(page, 'copy')
  expect(JSON.parse(text)).toMatchObject({ northmist: 'layers', frame: { width: 240, height: 160 } })
  const other = await newShot(page, stage)
  await go(page, 'build')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5)).some(Boolean)).toBe(true)
  await clip(page, 'paste', text)
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'Render', 'Group', '.haze', '.people'])
  const pasted = listed(await layersOf(page, stage, other))
  const before = Object.keys(await layersOf(page, stage, id))
  expect(pasted.filter(layer => before.includes(layer.id)).map(({ name }) => name)).toEqual([
    'Plate',
    'Shadow',
    'Render',
  ])
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBe(230)
  // A value that cannot be, a file that is not there, a text that is cut off: nothing changes
  const revision = (await documentOf(page, stage, other)).revision
  await clip(page, 'paste', text.replace('"opacity": 1', '"opacity": 7'))
  await expect(page.getByText('What is to be pasted is not right: build.layers')).toBeVisible()
  await clip(page, 'paste', text.replace(/"blob": "[0-9a-f]{6}/g, '"blob": "000000'))
  await expect(page.getByText('that these layers need')).toBeVisible()
  await clip(page, 'paste', text.slice(0, 400))
  await expect(page.getByText('What is to be pasted is not whole.')).toBeVisible()
  expect((await documentOf(page, stage, other)).revision).toBe(revision)
  await clip(page, 'cut')
  await expect.poll(() => shown(page)).toEqual(['Plate', 'Shadow', 'Render'])
})

test('passes are kept as a layer and brought in as one; a picture catches the shadow; ink stays on its render', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'passes')
  await at(page, 'pass-outline').click()
  await at(page, 'render').click()
  await expect
    .poll(async () => (await documentOf(page, stage, id)).document.passes.file?.passes?.length ?? 0, { timeout: 60000 })
    .toBeGreaterThan(5)
  await go(page, 'build')
  await title(page, 'Render').click()
  const before = await pixelAt(page, 0.5, 0.45)
  await at(page, 'keep').click()
  await expect(at(page, 'layer-Render kept')).toBeVisible()
  const kept = await called(page, stage, id, 'Render kept')
  const { file } = (await documentOf(page, stage, id)).document.passes
  expect([kept.on, kept.file.blob]).toEqual([false, file.blob])
  expect(await pixelAt(page, 0.5, 0.45)).toEqual(before)
  // The file of another shot's passes is a render with a shadow of its own
  const answer = await page.request.get(`${stage.address}/api/blobs/${file.blob}`)
  const path = join(stage.folder, 'of the other.exr')
  writeFileSync(path, await answer.body())
  await at(page, 'add-layer').locator('input').setInputFiles([path])
  await expect(at(page, 'layer-of the other')).toBeVisible()
  await expect(at(page, 'layer-Shadow of of the other')).toBeVisible()
  const brought = await called(page, stage, id, 'of the other')
  expect(brought.file).toMatchObject({ width: 240, height: 160, objects: expect.arrayContaining(['tall block']) })
  await at(page, 'layer-of the other').getByLabel('of the other on or off').click()
  await at(page, 'layer-Shadow of of the other').getByLabel('on or off').click()
  // What was of a render that is gone is given to another
  await at(page, 'layer-of the other').locator('[data-test=open]').press('Enter')
  await page.getByLabel('Remove this layer').click()
  await title(page, 'Shadow of of the other').click()
  await expect(at(page, 'layer-Shadow of of the other')).toContainText('its render is gone')
  await at(page, 'of').selectOption({ label: 'Render' })
  await expect(at(page, 'layer-Shadow of of the other')).toContainText('of Render')
  // Ink makes a group of itself and its render
  await title(page, 'Render').click()
  await at(page, 'ink').click()
  await expect.poll(() => shown(page)).toContain('.Ink')
  expect((await called(page, stage, id, 'Render, inked')).ordered).toBe('by hand')
  // A picture on the ground under the block is darkened by the block's shadow
  await at(page, 'add-layer').locator('input').setInputFiles(stage.layer)
  await expect(at(page, 'layer-buoy')).toBeVisible()
  await type(at(page, 'value-distance'), '2')
  await type(at(page, 'value-scale'), '3')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.6))[0]!).toBe(230)
  await at(page, 'caught-of').selectOption({ label: 'Render' })
  await type(at(page, 'value-shadow'), '2')
  await saved(page)
  expect(await called(page, stage, id, 'buoy')).toMatchObject({ of: 'render', shadow: 2 })
})
