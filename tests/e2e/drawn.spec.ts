// Drawn on the picture: shapes by clicks and drags, made soft and keyed by the hand; strokes of a brush, one by one.
import type { Page } from '@playwright/test'
import { at, documentOf, expect, go, listed, newShot, pixelAt, pointAt, saved, test, type } from './stage'

const WHITE = [255, 255, 255]
const BLACK = [0, 0, 0]
async function pull(page: Page, from: readonly [number, number], to: readonly [number, number]): Promise<void> {
  const a = await pointAt(page, ...from)
  const b = await pointAt(page, ...to)
  await page.mouse.move(a.x, a.y)
  await page.mouse.down()
  await page.mouse.move(b.x, b.y, { steps: 5 })
  await page.mouse.up()
}
async function clickAt(page: Page, u: number, v: number): Promise<void> {
  const { x, y } = await pointAt(page, u, v)
  await page.mouse.click(x, y)
}

test('shapes are drawn, bent, made soft, moved over time; strokes give, take away and go one by one', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await at(page, 'matte-chip').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-shape').click()
  await expect(at(page, 'choose')).toBeHidden()
  await at(page, 'matte-as-grey').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.5)).toEqual(BLACK)

  // A box of two corners, and an ellipse taken out of it
  await at(page, 'draw-rectangle').click()
  await pull(page, [0.2, 0.2], [0.8, 0.8])
  await expect.poll(() => pixelAt(page, 0.5, 0.5)).toEqual(WHITE)
  expect(await pixelAt(page, 0.15, 0.5)).toEqual(BLACK)
  await at(page, 'draw-ellipse').click()
  await pull(page, [0.4, 0.4], [0.6, 0.6])
  await expect(at(page, 'shape-line')).toHaveCount(2)
  await page.getByLabel('Shape joined').selectOption('not')
  await expect.poll(() => pixelAt(page, 0.5, 0.5)).toEqual(BLACK)
  expect(await pixelAt(page, 0.3, 0.5)).toEqual(WHITE)

  // A curve by clicks, closed on its first point, bent by a corner made round
  await at(page, 'draw-curve').click()
  for (const [u, v] of [
    [0.05, 0.1],
    [0.15, 0.1],
    [0.15, 0.9],
    [0.05, 0.9],
    [0.05, 0.1],
  ] as const)
    await clickAt(page, u, v)
  await expect(at(page, 'shape-point')).toHaveCount(4)
  await expect.poll(() => pixelAt(page, 0.1, 0.5)).toEqual(WHITE)
  const shapes = async () => {
    await saved(page)
    const [line] = listed((await documentOf(page, stage, id)).document.finish)
    return listed(listed(line.matte.terms)[0].shapes)
  }
  const before = listed((await shapes())[2].points)
  expect(before.map(({ x, in_x }: { x: number; in_x?: number }) => [x, in_x])).toHaveLength(4)
  await at(page, 'shape-point').nth(1).dblclick()
  await expect(at(page, 'handle-out')).toBeVisible()
  expect(listed((await shapes())[2].points)[1]).toHaveProperty('in_x')
  // A point more where the edge is clicked twice; taken away by a key
  const { x, y } = await pointAt(page, 0.05, 0.5)
  await page.mouse.dblclick(x, y)
  await expect(at(page, 'shape-point')).toHaveCount(5)
  await page.keyboard.press('Delete')
  await expect(at(page, 'shape-point')).toHaveCount(4)

  // Soft by the grip across its edge
  await at(page, 'shape-point').nth(3).click()
  const grip = (await at(page, 'soft-outer').boundingBox())!
  await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2)
  await page.mouse.down()
  await page.mouse.move(grip.x - 30, grip.y + 30, { steps: 4 })
  await page.mouse.up()
  expect(listed((await shapes())[2].points)[3].outer).toBeGreaterThan(10)

  // Moved as a whole, with keys: at another frame it stands elsewhere
  await at(page, 'shape-key').nth(2).click()
  const keyed = listed((await shapes())[2].points)
  for (const point of keyed) expect(point.x.keys).toHaveLength(1)
  await at(page, 'shape-remove').nth(2).click()
  await expect(at(page, 'shape-line')).toHaveCount(2)
  await at(page, 'undo').click()
  await expect(at(page, 'shape-line')).toHaveCount(3)

  // The brush takes a stripe out of it all, wholly and hard
  await at(page, 'term-add').click()
  await at(page, 'term-add-brush').click()
  await expect(at(page, 'choose')).toBeHidden()
  await page.getByLabel('Joined', { exact: true }).selectOption('not')
  await type(at(page, 'term-brush').locator('[data-test="value-hardness"]'), '1')
  await pull(page, [0.1, 0.7], [0.9, 0.7])
  await expect.poll(() => pixelAt(page, 0.3, 0.7)).toEqual(BLACK)
  expect(await pixelAt(page, 0.3, 0.5)).toEqual(WHITE)
  await at(page, 'tip-takes').click()
  await pull(page, [0.25, 0.7], [0.35, 0.7])
  await expect.poll(() => pixelAt(page, 0.3, 0.7)).toEqual(WHITE)
  await expect(at(page, 'strokes-open')).toHaveText('2 strokes')
  await at(page, 'stroke-last').click()
  await expect.poll(() => pixelAt(page, 0.3, 0.7)).toEqual(BLACK)
  await at(page, 'undo').click()
  await expect.poll(() => pixelAt(page, 0.3, 0.7)).toEqual(WHITE)
})
