// Lines of a recipe: treatments of every sort, where they work, what they show of it, and what cannot fit.
import type { Page } from '@playwright/test'
import { DOCUMENT_VERSION } from '../../core/shot/document'
import { at, documentOf, expect, go, listed, newShot, pixelAt, saved, test, type, type Stage } from './stage'

async function add(page: Page, treatment: string): Promise<void> {
  await at(page, 'add-treatment').click()
  await at(page, `add-${treatment}`).click()
  await expect(at(page, `treatment-${treatment}`)).toBeVisible()
}
const finishOf = async (page: Page, stage: Stage, id: string) => {
  await saved(page)
  return listed((await documentOf(page, stage, id)).document.finish)
}

test('a new line begins with values that do something; a colour is three values; all of it is undone', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  const before = await pixelAt(page, 0.5, 0.2)
  await add(page, 'haze')
  // A plate has no distance: it counts as farthest
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual(before)
  await type(at(page, 'value-amount'), '1')
  await type(at(page, 'value-colour-0'), '1')
  await type(at(page, 'value-colour-1'), '0')
  await type(at(page, 'value-colour-2'), '0')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 0, 0])
  expect((await finishOf(page, stage, id))[0].values).toMatchObject({ amount: 1, colour: [1, 0, 0] })
  for (let i = 0; i < 5; i++) await at(page, 'undo').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual(before)
})

test('a matte by brightness is shown alone, follows its values while it is, is inverted, and gives way to depth', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await add(page, 'exposure')
  await at(page, 'matte-by-brightness').click()
  await expect(at(page, 'matte-chip')).toHaveText('brightness')
  await at(page, 'matte-chip').click()
  await type(at(page, 'value-soft'), '0')
  await type(at(page, 'value-low'), '0')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 255, 255])
  await type(at(page, 'value-low'), '900')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([0, 0, 0])
  await at(page, 'matte-invert').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 255, 255])
  await expect(at(page, 'matte-chip')).toHaveText('all but brightness')
  await at(page, 'matte-by-depth').click()
  await expect(at(page, 'matte-chip')).toHaveText('depth')
  expect((await finishOf(page, stage, id))[0].matte).toEqual({
    kind: 'depth',
    values: { near: 0, far: 20, soft: 1 },
    invert: false,
  })
})

test('a matte of a kind or with a value that there is not is refused by its name', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await add(page, 'blur')
  const [line] = await finishOf(page, stage, id)
  const { revision } = await documentOf(page, stage, id)
  for (const [value, says] of [
    [{ kind: 'glow', values: {}, invert: false }, /matte\.kind.*names, depth, brightness/],
    [{ kind: 'depth', values: { close: 1 }, invert: false }, /close/],
    [{ kind: 'depth', values: { near: -4 }, invert: false }, /near/],
    [{ kind: 'names', names: ['x'], of: 'clouds', invert: false }, /of/],
  ] as const) {
    const answer = await page.request.patch(`${stage.address}/api/shots/${id}`, {
      data: {
        version: DOCUMENT_VERSION,
        revision,
        label: 'x',
        patch: [{ op: 'replace', path: `/finish/${line.id}/matte`, value }],
      },
    })
    expect(answer.status()).toBe(400)
    expect(JSON.stringify(await answer.json())).toMatch(says)
  }
})

test('seen from near only what is seen is worked on, and what comes into view is there', async ({ page, stage }) => {
  await newShot(page, stage)
  await go(page, 'finish')
  await add(page, 'blur')
  await expect.poll(() => pixelAt(page, 0.02, 0.05)).not.toEqual([0, 0, 0])
  const canvas = page.locator('canvas').first()
  const box = (await canvas.boundingBox())!
  await page.mouse.move(box.x + box.width * 0.9, box.y + box.height * 0.9)
  for (let i = 0; i < 14; i++) await page.mouse.wheel(0, -120)
  await type(at(page, 'value-radius'), '20')
  // The far corner is not of the picture that is made now, and nothing old stands there
  await expect.poll(() => pixelAt(page, 0.02, 0.05)).toEqual([0, 0, 0])
  await page.keyboard.press('f')
  await expect.poll(() => pixelAt(page, 0.02, 0.05)).not.toEqual([0, 0, 0])
})

test('a colour is laid over all that is farther, moved before it all, and taken away', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  const before = await pixelAt(page, 0.5, 0.2)
  await at(page, 'add-kind').click()
  await at(page, 'add-wash').click()
  await expect(at(page, 'layer-Colour wash')).toBeVisible()
  await type(at(page, 'opacity'), '1')
  await type(at(page, 'value-colour-0'), '0')
  await type(at(page, 'value-colour-1'), '1')
  await type(at(page, 'value-colour-2'), '0')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([0, 255, 0])
  await saved(page)
  const wash = listed((await documentOf(page, stage, id)).document.build.layers).find(layer => layer.kind === 'wash')
  expect(wash).toMatchObject({ colour: [0, 1, 0], opacity: 1, distance: 10 })
  await page.getByLabel('Remove this layer').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual(before)
})

test('frames are counted in whole ones, whatever is typed', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await add(page, 'average')
  await type(at(page, 'value-after'), '2.6')
  await expect(at(page, 'value-after')).toContainText('3')
  expect((await finishOf(page, stage, id))[0].values).toEqual({ before: 1, after: 3 })
})
