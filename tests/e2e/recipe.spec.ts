// Lines of a recipe: treatments of every sort, where they work, what they show of it, and what cannot fit.
import type { Page } from '@playwright/test'
import { DOCUMENT_VERSION, type ShotDocument } from '../../core/shot/document'
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
  await add(page, 'distance_tint')
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

test('a matte by brightness is shown as grey, veil and cut out, follows its values, is turned over, goes', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await add(page, 'exposure')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  const plain = await pixelAt(page, 0.5, 0.2)
  await expect(at(page, 'matte-chip')).toHaveText('everything')
  await at(page, 'matte-chip').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-brightness').click()
  await expect(at(page, 'matte-chip')).toHaveText('brightness')
  await at(page, 'matte-as-grey').click()
  await type(at(page, 'value-soft'), '0')
  await type(at(page, 'value-low'), '0')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 255, 255])
  // Its small picture is of it too
  const small = (): Promise<number[]> =>
    at(page, 'term-brightness')
      .locator('canvas')
      .evaluate(canvas => [
        ...(canvas as HTMLCanvasElement).getContext('2d')!.getImageData(50, 30, 1, 1).data.slice(0, 3),
      ])
  await expect.poll(small).toEqual([255, 255, 255])
  await at(page, 'matte-as-cut-out').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual(plain)
  await at(page, 'matte-as-veil').click()
  await expect
    .poll(async () => {
      const [red, green] = await pixelAt(page, 0.5, 0.2)
      return red! - green! - (plain[0]! - plain[1]!)
    })
    .toBeGreaterThan(30)
  await type(at(page, 'value-low'), '900')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual(plain)
  await expect.poll(small).toEqual([0, 0, 0])
  await at(page, 'matte-as-grey').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([0, 0, 0])
  await at(page, 'matte-invert').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 255, 255])
  await expect(at(page, 'matte-chip')).toHaveText('all but brightness')
  await at(page, 'term-remove').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-depth').click()
  await expect(at(page, 'matte-chip')).toHaveText('all but depth')
  expect((await finishOf(page, stage, id))[0].matte).toMatchObject({ invert: true, refine: {} })
  expect(listed((await finishOf(page, stage, id))[0].matte.terms)).toMatchObject([
    { kind: 'depth', values: { near: 0, far: 20, soft: 1 }, invert: false, join: 'also', on: true },
  ])
  await at(page, 'matte-everywhere').click()
  await expect(at(page, 'matte-chip')).toHaveText('everything')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual(plain)
  expect((await finishOf(page, stage, id))[0].matte).toBeNull()
})

test('a slip of five lines, refined, kept by a name and used twice: what is changed once changes both', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await add(page, 'exposure')
  await at(page, 'matte-chip').click()
  for (const kind of ['brightness', 'depth', 'brightness', 'depth', 'brightness']) {
    await at(page, 'term-add').click()
    await at(page, `term-add-${kind}`).click()
  }
  const terms = page.locator('[data-test^=term-]:has(> canvas)')
  await expect(terms).toHaveCount(5)
  for (const [i, join] of ['not', 'only', 'apart', 'not'].entries())
    await terms
      .nth(i + 1)
      .locator('[data-test=term-join]')
      .selectOption(join)
  await expect(at(page, 'matte-chip')).toHaveText(
    'brightness but not depth only where brightness apart from what both hold, depth but not brightness',
  )
  await at(page, 'refine-add-soften').click()
  await at(page, 'refine-add-clip').click()
  await terms.nth(4).locator('[data-test=term-on]').click()
  await terms.nth(3).getByRole('button', { name: 'Line earlier' }).click()
  await expect(at(page, 'matte-chip')).toHaveText(
    'brightness but not depth apart from what both hold, depth only where brightness',
  )
  await at(page, 'matte-keep').fill('the sky')
  await at(page, 'matte-keep').press('Enter')
  await expect(at(page, 'matte-chip')).toHaveText('the sky')
  // One step, there and back
  await saved(page)
  await page.keyboard.press('Control+z')
  await expect(at(page, 'matte-chip')).toHaveText(
    'brightness but not depth apart from what both hold, depth only where brightness',
  )
  await saved(page)
  expect((await documentOf(page, stage, id)).document).toHaveProperty('mattes', {})
  await page.keyboard.press('Control+Shift+z')
  await expect(at(page, 'matte-chip')).toHaveText('the sky')
  await add(page, 'saturation')
  await at(page, 'matte-chip').nth(1).click()
  await at(page, 'term-add').click()
  await page.locator('.choice', { has: page.locator('b', { hasText: 'the sky' }) }).click()
  await expect(at(page, 'matte-chip').nth(1)).toHaveText('the sky')
  // Opened from the second use, changed there
  await at(page, 'term-kept-name').click()
  await expect(page.getByText('Used 2 times')).toBeVisible()
  await at(page, 'kept-name').fill('all of the sky')
  await at(page, 'kept-name').press('Enter')
  await expect(at(page, 'matte-chip').first()).toHaveText('all of the sky')
  await page.locator('.slip.inner').locator('[data-test=term-remove]').first().click()
  await saved(page)
  const document = (await documentOf(page, stage, id)).document as ShotDocument
  const [kept] = Object.values(document.mattes)
  expect(Object.values(kept!.slip.terms)).toHaveLength(4)
  expect(listed(kept!.slip.refine).map(({ kind }) => kind)).toEqual(['soften', 'clip'])
  for (const line of Object.values(document.finish))
    expect(Object.values(line.matte!.terms)).toMatchObject([{ kind: 'kept', matte: kept!.id }])
})

test('a matte of a kind or with a value that there is not is refused by its name', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await add(page, 'blur')
  const [line] = await finishOf(page, stage, id)
  const { revision } = await documentOf(page, stage, id)
  const own = { id: 'a', order: 'a0', join: 'also', on: true, invert: false }
  for (const [term, says] of [
    [{ ...own, kind: 'glow', values: {} }, /kind.*names, kept, shape, brush, key, change/],
    [{ ...own, kind: 'depth', values: { close: 1 } }, /close/],
    [{ ...own, kind: 'depth', values: { near: -4 } }, /near/],
    [{ ...own, kind: 'names', names: ['x'], of: 'clouds' }, /of/],
    [{ ...own, kind: 'depth', values: {}, join: 'and' }, /join.*also, not, only, apart/],
  ] as const) {
    const answer = await page.request.patch(`${stage.address}/api/shots/${id}`, {
      data: {
        version: DOCUMENT_VERSION,
        revision,
        label: 'x',
        patch: [
          { op: 'replace', path: `/finish/${line.id}/matte`, value: { terms: { a: term }, refine: {}, invert: false } },
        ],
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
