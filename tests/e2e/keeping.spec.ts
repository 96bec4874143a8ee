// Nothing is lost: reload, two tabs, a killed server; and what comes in from outside is checked.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import { copyFileSync } from 'node:fs'
import { join } from 'node:path'
import { at, documentOf, expect, go, newShot, saved, test, type, listed } from './stage'

test('undo and redo reach across a reload', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-vignette').click()
  await type(at(page, 'value-amount'), '0.5')
  await saved(page)
  await page.reload()
  await at(page, 'ready').waitFor()
  await expect(at(page, 'value-amount')).toContainText('0.50')
  await at(page, 'undo').click()
  await expect(at(page, 'value-amount')).toContainText('0.00')
  await at(page, 'undo').click()
  await expect(at(page, 'treatment-vignette')).toHaveCount(0)
  await page.reload()
  await at(page, 'ready').waitFor()
  await at(page, 'redo').click()
  await at(page, 'redo').click()
  await expect(at(page, 'value-amount')).toContainText('0.50')
  await saved(page)
  expect(listed((await documentOf(page, stage, id)).document.finish)[0].values.amount).toBe(0.5)
})

test('two tabs: changes to different values join, to the same value are asked about', async ({
  page,
  stage,
  context,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await saved(page)
  const other = await context.newPage()
  await other.goto(`${stage.address}/shot/${id}?station=finish`)
  await at(other, 'ready').waitFor()
  await type(at(other, 'value-stops'), '1')
  // The first tab hears of it
  await expect(at(page, 'value-stops')).toContainText('1.00')
  // Both deaf to each other, both change the same value
  await page.route('**/api/events', route => route.abort())
  await page.route(`**/api/shots/${id}`, async route => {
    if (route.request().method() === 'PATCH') await new Promise(resolve => setTimeout(resolve, 1500))
    await route.continue()
  })
  await type(at(page, 'value-stops'), '2')
  await type(at(other, 'value-stops'), '3')
  await expect(at(page, 'take-mine')).toBeVisible()
  expect(listed((await documentOf(page, stage, id)).document.finish)[0].values.stops).toBe(3)
  await at(page, 'take-mine').click()
  await expect.poll(async () => listed((await documentOf(page, stage, id)).document.finish)[0].values.stops).toBe(2)
})

test('a layer that another window deletes: what is changed meanwhile stays with its own layer', async ({
  page,
  stage,
  context,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  for (const name of ['haze', 'people', 'bird']) {
    const path = join(stage.folder, `${name}.png`)
    copyFileSync(stage.layer, path)
    await at(page, 'add-layer').locator('input').setInputFiles([path])
    await expect(at(page, `layer-${name}`)).toBeVisible()
  }
  await saved(page)
  const other = await context.newPage()
  await other.goto(`${stage.address}/shot/${id}?station=build`)
  await expect(at(other, 'layer-bird')).toBeVisible()
  // The other window hears of nothing for a moment
  await context.route('**/api/shots/*', async route => {
    if (route.request().frame().page() === other) await route.abort()
    else await route.continue()
  })
  await at(page, 'layer-haze').click()
  await page.getByRole('button', { name: 'Remove this layer' }).click()
  await saved(page)
  const people = at(other, 'layer-people')
  await people.click()
  await type(people.locator('[data-test=opacity]'), '0.3')
  await at(other, 'layer-haze').click()
  await type(at(other, 'layer-haze').locator('[data-test=opacity]'), '0.6')
  await context.unroute('**/api/shots/*')
  await expect(other.getByText('“haze” was deleted elsewhere; what you changed there was left out.')).toBeVisible()
  await saved(other)
  await expect(at(page, 'layer-haze')).toHaveCount(0)
  const { layers } = (await documentOf(page, stage, id)).document.build
  expect(listed(layers).map(({ name, opacity }) => [name, opacity])).toEqual([
    ['Plate', 1],
    ['Shadow', undefined],
    ['Render', 1],
    ['people', 0.3],
    ['bird', 1],
  ])
})

test('a killed server loses nothing: what was changed meanwhile is saved when it is back', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-saturation').click()
  await saved(page)
  await stage.kill()
  await type(at(page, 'value-amount'), '0.25')
  await expect(at(page, 'save-state')).toHaveText('waiting for the server')
  await stage.start()
  await saved(page)
  expect(listed((await documentOf(page, stage, id)).document.finish)[0].values.amount).toBe(0.25)
})

test('a page killed before it could save brings its change back', async ({ page, stage, context }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-saturation').click()
  await saved(page)
  await page.route(`**/api/shots/${id}`, route =>
    route.request().method() === 'PATCH' ? route.abort() : route.continue(),
  )
  await type(at(page, 'value-amount'), '0.75')
  await expect(at(page, 'save-state')).toHaveText('waiting for the server')
  await page.close()
  const again = await context.newPage()
  await again.goto(`${stage.address}/shot/${id}?station=finish`)
  await at(again, 'ready').waitFor()
  await expect
    .poll(async () => listed((await documentOf(again, stage, id)).document.finish)[0].values.amount)
    .toBe(0.75)
})

test('what is not right is refused with a sentence, and the server stays up', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  const send = (path: string, data: unknown, method = 'POST') =>
    page.request.fetch(`${stage.address}${path}`, {
      method,
      data: data as object,
      headers: { 'content-type': 'application/json' },
    })
  const { revision } = await documentOf(page, stage, id)
  const cases: [string, unknown, RegExp][] = [
    [
      'a field that is not there',
      { version: DOCUMENT_VERSION, revision, label: 'x', patch: [{ op: 'add', path: '/colour', value: 1 }] },
      /should not exist/,
    ],
    [
      'a value out of range',
      {
        version: DOCUMENT_VERSION,
        revision,
        label: 'x',
        patch: [{ op: 'replace', path: '/passes/samples', value: -4 }],
      },
      /samples/,
    ],
    [
      'a blob that is not there',
      {
        version: DOCUMENT_VERSION,
        revision,
        label: 'x',
        patch: [{ op: 'replace', path: '/plate/blob', value: 'a'.repeat(64) }],
      },
      /not in the store/,
    ],
    [
      'a path that is not there',
      {
        version: DOCUMENT_VERSION,
        revision,
        label: 'x',
        patch: [{ op: 'replace', path: '/finish/7/on', value: true }],
      },
      /does not fit/,
    ],
    [
      'the prototype',
      { version: DOCUMENT_VERSION, revision, label: 'x', patch: [{ op: 'add', path: '/__proto__/x', value: 1 }] },
      /does not fit|not valid/,
    ],
    ['no patch', { version: DOCUMENT_VERSION, revision, label: 'x' }, /patch/],
  ]
  for (const [what, body, says] of cases) {
    const answer = await send(`/api/shots/${id}`, body, 'PATCH')
    expect(answer.status(), what).toBe(400)
    expect((await answer.json()).message, what).toMatch(says)
  }
  expect((await documentOf(page, stage, id)).revision).toBe(revision)
  const junk = await page.request.post(`${stage.address}/api/blobs`, { data: Buffer.from('neither picture nor scene') })
  expect(junk.status()).toBe(400)
  expect(
    (
      await page.request.get(`${stage.address}/api/shots`, { headers: { origin: 'http://elsewhere.example' } })
    ).status(),
  ).toBe(403)
  expect((await page.request.get(`${stage.address}/api/blobs/${'b'.repeat(64)}`)).status()).toBe(404)
  const policy = (await page.request.get(stage.address)).headers()['content-security-policy']
  expect(policy).toContain("default-src 'self'")
  expect(policy).not.toContain("'unsafe-inline' 'sha")
  expect((await page.request.get(`${stage.address}/api/shots`)).status()).toBe(200)
})
