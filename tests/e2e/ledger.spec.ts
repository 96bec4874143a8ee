// Versions of a shot: kept by name and at each send, compared with what is now, brought back whole or a layer at a time.
import type { Page } from '@playwright/test'
import { at, documentOf, expect, go, listed, newShot, pixelAt, saved, test, type, type Stage } from './stage'

const washOf = async (page: Page, stage: Stage, id: string) => {
  await saved(page)
  return listed((await documentOf(page, stage, id)).document.build.layers).find(({ kind }) => kind === 'wash')
}

test('a version is kept, compared by line, blink and difference, and brought back', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await at(page, 'add-kind').click()
  await at(page, 'add-wash').click()
  const row = at(page, 'layer-Colour wash')
  await type(row.locator('[data-test=opacity]'), '1')
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.2)).join()).toBe('173,188,203')
  // Kept by name; the list says so
  await at(page, 'ledger').click()
  await expect(page.getByText('No version kept yet.')).toBeVisible()
  await at(page, 'version-name').locator('input').fill('with haze')
  await at(page, 'version-keep').click()
  const version = at(page, 'version-with haze')
  await expect(version).toBeVisible()
  await version.locator('[data-test=version-open]').click()
  await expect(version).toContainText('All its layers are as they are now')
  await at(page, 'ledger-close').click()
  // The wash is taken away and the plate is seen
  await row.locator('.title').click()
  await row.getByLabel('Remove this layer').click()
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.2))[2]).toBe(140)
  await at(page, 'ledger').click()
  await version.locator('[data-test=version-open]').click()
  await expect(version).toContainText('Colour wash is gone')
  await version.locator('[data-test=compare-line]').click()
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.2, 'compared')).join()).toBe('173,188,203')
  expect((await pixelAt(page, 0.3, 0.2))[2]).toBe(140)
  await expect(page.getByText('with haze', { exact: true })).toBeVisible()
  // Blinking it is there and not there
  await version.locator('[data-test=compare-blink]').click()
  await expect(at(page, 'blinks')).toHaveText('with haze')
  await expect(at(page, 'compared')).toBeHidden()
  await expect(at(page, 'compared')).toBeVisible()
  await version.locator('[data-test=compare-difference]').click()
  await expect(page.getByText('difference, 8 times as bright')).toBeVisible()
  await version.locator('[data-test=compare-difference]').click()
  await expect(at(page, 'compared')).toBeHidden()
  await expect(version).not.toContainText('New since')
  // One layer comes back, by a change that is undone as any other
  expect(await washOf(page, stage, id)).toBeUndefined()
  await version.locator('[data-test="back-Colour wash"]').click()
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.2)).join()).toBe('173,188,203')
  await expect(version).toContainText('All its layers are as they are now')
  expect(await washOf(page, stage, id)).toMatchObject({ opacity: 1 })
  await at(page, 'undo').click()
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.2))[2]).toBe(140)
  await version.locator('[data-test=back-all]').click()
  await expect.poll(async () => (await pixelAt(page, 0.3, 0.2)).join()).toBe('173,188,203')
  // Named anew, and still there after a reload
  await version.locator('.rename').fill('hazy')
  await version.locator('.rename').press('Enter')
  await expect(at(page, 'version-hazy')).toBeVisible()
  await page.reload()
  await at(page, 'ledger').click()
  await expect(at(page, 'version-hazy')).toBeVisible()
  // A bad name is refused by the server with a sentence; nothing of another shot is reached
  const versions = `${stage.address}/api/shots/${id}/versions`
  const refused = await page.request.post(versions, { data: { name: '' } })
  expect(refused.status()).toBe(400)
  expect((await page.request.get(`${versions}/none`)).status()).toBe(404)
  const [first] = (await (await page.request.get(versions)).json()) as { id: string }[]
  const other = await page.request.post(`${stage.address}/api/shots`, { data: { name: 'other' } })
  const { id: otherId } = (await other.json()) as { id: string }
  expect((await page.request.get(`${stage.address}/api/shots/${otherId}/versions/${first!.id}`)).status()).toBe(404)
})

test('what is sent is kept by itself, once while nothing changes', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'send')
  await at(page, 'send-name').locator('input').fill('proof')
  const list = async (): Promise<{ id: string; name: string; why: string }[]> =>
    (await page.request.get(`${stage.address}/api/shots/${id}/versions`)).json()
  await at(page, 'send').click()
  await expect.poll(async () => (await list()).length).toBe(1)
  await at(page, 'send').click()
  await expect(at(page, 'sent')).toHaveCount(2)
  expect(await list()).toMatchObject([{ name: 'sent as proof', why: 'sent' }])
  // Changed and sent again it is another; the first is as it was
  await go(page, 'build')
  await at(page, 'add-kind').click()
  await at(page, 'add-wash').click()
  await saved(page)
  await at(page, 'ledger').click()
  await at(page, 'version-sent as proof').locator('[data-test=version-open]').click()
  await expect(at(page, 'version-sent as proof')).toContainText('New since then: Colour wash.')
  await at(page, 'ledger').click()
  await go(page, 'send')
  await at(page, 'send').click()
  await expect.poll(async () => (await list()).length).toBe(2)
  const [, first] = await list()
  const was = await (await page.request.get(`${stage.address}/api/shots/${id}/versions/${first!.id}`)).json()
  expect(listed(was.build.layers).some(({ kind }) => kind === 'wash')).toBe(false)
  // The page hears of it while the ledger is open, from wherever it was sent and under whatever name
  await at(page, 'ledger').click()
  await expect(page.locator('article.version')).toHaveCount(2)
  await page.request.put(`${stage.address}/api/shots/${id}/name`, { data: { name: 'harbour' } })
  await at(page, 'undo').click()
  await saved(page)
  await page.request.post(`${stage.address}/api/shots/${id}/send`, { data: { frame: 1, format: 'png8' } })
  await expect(at(page, 'version-sent as harbour')).toBeVisible()
  // Another station is what was asked for
  await go(page, 'finish')
  await expect(at(page, 'ledger-close')).toBeHidden()
})
