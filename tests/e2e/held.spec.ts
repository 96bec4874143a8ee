// What treatments are taken hold of by on the picture and along the soundings, and shapes that come from files.
import type { Page } from '@playwright/test'
import { writePng } from '../../core/formats/png/png'
import { at, documentOf, expect, go, listed, newShot, pixelAt, saved, test, type, type Stage } from './stage'

async function withLine(page: Page, stage: Stage, kind: string): Promise<string> {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, `add-${kind}`).click()
  await expect(at(page, `treatment-${kind}`)).toBeVisible()
  await expect(at(page, 'choose')).toBeHidden()
  return id
}
const lineOf = async (
  page: Page,
  stage: Stage,
  id: string,
): Promise<{ values: Record<string, never>; table?: object }> => {
  await saved(page)
  return listed((await documentOf(page, stage, id)).document.finish)[0]
}
async function drag(page: Page, name: string, dx: number, dy: number): Promise<void> {
  const box = (await at(page, name).boundingBox())!
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + dx / 2, y + dy / 2)
  await page.mouse.move(x + dx, y + dy)
  await page.mouse.up()
}

test('a point of a mesh goes where the hand brings it, in one step of undo, and all go back at once', async ({
  page,
  stage,
}) => {
  const id = await withLine(page, stage, 'mesh')
  await saved(page)
  const frame = (await at(page, 'picture').boundingBox())!
  await drag(page, 'handle-2.3', frame.width * 0.1, -frame.height * 0.05)
  const { moved } = (await lineOf(page, stage, id)).values as unknown as { moved: number[] }
  expect(moved[(2 * 5 + 1) * 2]).toBeCloseTo(0.1, 2)
  expect(moved[(2 * 5 + 1) * 2 + 1]).toBeCloseTo(-0.05, 2)
  expect(moved.filter(value => value !== 0)).toHaveLength(2)
  await page.keyboard.press('Control+z')
  await expect
    .poll(async () =>
      ((await lineOf(page, stage, id)).values as unknown as { moved: number[] }).moved.every(v => v === 0),
    )
    .toBe(true)
  await page.keyboard.press('Control+Shift+z')
  await at(page, 'straight-moved').click()
  const after = (await lineOf(page, stage, id)).values as unknown as { moved: number[] }
  expect(after.moved.every(value => value === 0)).toBe(true)
})

test('what is sharp stands on the soundings: its middle and its ends are dragged there', async ({ page, stage }) => {
  const id = await withLine(page, stage, 'focus')
  await expect(at(page, 'sounding-zone')).toBeVisible()
  // As it begins all is sharp of a picture so small, as far as can be
  await expect(at(page, 'zone-far')).toHaveAttribute('aria-valuenow', 'Infinity')
  await type(at(page, 'value-factor'), '20')
  const before = (await lineOf(page, stage, id)).values as unknown as { distance: number; fNumber: number }
  await drag(page, 'zone-middle', 40, 0)
  const nearer = (await lineOf(page, stage, id)).values as unknown as { distance: number; fNumber: number }
  expect(nearer.distance).toBeGreaterThan(before.distance * 1.05)
  expect(nearer.fNumber).toBe(before.fNumber)
  // Sharp farther on, what is nearest staying where it is: a smaller opening
  const ends = async (): Promise<[number, number]> => [
    Number(await at(page, 'zone-near').getAttribute('aria-valuenow')),
    Number(await at(page, 'zone-far').getAttribute('aria-valuenow')),
  ]
  const [near, far] = await ends()
  await drag(page, 'zone-far', 30, 0)
  const [nearAfter, farAfter] = await ends()
  expect(farAfter).toBeGreaterThan(far * 1.05)
  expect(Math.abs(nearAfter / near - 1)).toBeLessThan(0.03)
  expect((await lineOf(page, stage, id)).values.fNumber).toBeGreaterThan(nearer.fNumber)
})

test('a shape comes from a small picture; what is none, or too large, is named', async ({ page, stage }) => {
  const id = await withLine(page, stage, 'shaped')
  const png = (side: number, code: number): Buffer =>
    Buffer.from(
      writePng({
        ...{ width: side, height: side, channels: 3, maximum: 255 },
        data: new Uint8Array(side * side * 3).fill(code),
      }),
    )
  const give = (name: string, buffer: Buffer): Promise<void> =>
    at(page, 'line-table-file').setInputFiles({ name, mimeType: 'image/png', buffer })
  await give('large.png', png(600, 255))
  await expect(page.getByText(/at most 512 × 512 pixels; this one has 600 × 600/)).toBeVisible()
  await give('black.png', png(3, 0))
  await expect(page.getByText(/black: it gives no shape/)).toBeVisible()
  await give('square.png', png(3, 255))
  await expect(at(page, 'line-table-name')).toHaveText('square.png')
  expect((await lineOf(page, stage, id)).table).toMatchObject({ name: 'square.png' })
})

test('a lamp at a place, an oval and a path are dragged on the picture; handles are there with their line alone', async ({
  page,
  stage,
}) => {
  const id = await withLine(page, stage, 'halo')
  await expect(at(page, 'handle-middle')).toBeHidden()
  await at(page, 'value-feeds').selectOption('a place')
  const frame = (await at(page, 'picture').boundingBox())!
  const dark = await pixelAt(page, 0.4, 0.5)
  await drag(page, 'handle-middle', (0.4 - 0.7) * frame.width, (0.5 - 0.3) * frame.height)
  const { values } = await lineOf(page, stage, id)
  expect(values.x).toBeCloseTo(0.4, 2)
  expect(values.y).toBeCloseTo(0.5, 2)
  // What it is made of stands where it was brought, on a shot that has nothing else to show
  await at(page, 'value-shows').selectOption('what feeds it')
  await expect.poll(async () => (await pixelAt(page, 0.4, 0.5))[1]!).toBeGreaterThan(dark[1]! + 100)

  await at(page, 'add-treatment').click()
  await at(page, 'add-vignette').click()
  await expect(at(page, 'choose')).toBeHidden()
  await expect(at(page, 'handle-side')).toBeVisible()
  await drag(page, 'handle-middle', -0.1 * frame.width, 0)
  await drag(page, 'handle-foot', 0, -0.1 * frame.height)
  await saved(page)
  const vignette = listed((await documentOf(page, stage, id)).document.finish).find(
    ({ kind }: { kind: string }) => kind === 'vignette',
  )
  expect(vignette.values.x).toBeCloseTo(0.4, 2)
  expect(vignette.values.size).toBeCloseTo(0.55 - 0.1 * Math.SQRT2, 2)

  await at(page, 'add-treatment').click()
  await at(page, 'add-directional').click()
  await expect(at(page, 'choose')).toBeHidden()
  await at(page, 'treatment-directional').locator('[data-test=value-how]').selectOption('along a path')
  await expect(at(page, 'handle-side')).toBeHidden()
  await drag(page, 'handle-3', 0.05 * frame.width, 0)
  await saved(page)
  const blur = listed((await documentOf(page, stage, id)).document.finish).find(
    ({ kind }: { kind: string }) => kind === 'directional',
  )
  expect(blur.values.path[6]).toBeCloseTo(0.61, 2)
  await go(page, 'passes')
  await expect(at(page, 'handle-3')).toBeHidden()
})
