/* eslint-disable @typescript-eslint/no-explicit-any -- what a page holds has no type here */
// What is brushed on a thing goes along with it, by the motion passes of a range of frames.
import type { Page } from '@playwright/test'
import { at, documentOf, expect, listed, newShot, pixelAt, pointAt, saved, test, type Stage } from './stage'

/** A shot at its finish whose tall block goes 0.4 m a frame along one axis of the world. */
async function sliding(page: Page, stage: Stage, last: number, axis: 0 | 2): Promise<{ id: string; document: any }> {
  const begun = await newShot(page, stage)
  await saved(page)
  const { document } = await documentOf(page, stage, begun)
  document.frames = { first: 1, last }
  document.passes.selected = ['beauty', 'alpha', 'depth', 'object_id', 'motion_forward', 'motion_back']
  Object.assign(document.passes, { samples: 8, scale: 0.5 })
  const slide = { keys: [1, last].map(frame => ({ frame, value: (frame - 1) * 0.4, ease: 'linear' })) }
  const position = [0, 1, 2].map(way => (way === axis ? slide : 0))
  document.scene.objects['tall block'] = { ...document.scene.objects['tall block'], position }
  const answer = await page.request.post(`${stage.address}/api/shots`, { data: { name: 'sliding', document } })
  expect(answer.ok(), await answer.text()).toBe(true)
  const { id } = (await answer.json()) as { id: string }
  await page.goto(`${stage.address}/shot/${id}?station=finish`)
  await at(page, 'ready').waitFor()
  return { id, document }
}

test('focus follows the block that comes nearer, by one click', async ({ page, stage }) => {
  const { id, document } = await sliding(page, stage, 3, 2)
  const started = await page.request.post(`${stage.address}/api/shots/${id}/render`, { data: { frame: 1, last: 3 } })
  expect(started.ok(), await started.text()).toBe(true)
  await at(page, 'add-treatment').click()
  await at(page, 'add-focus').click()
  await expect(at(page, 'choose')).toBeHidden()
  const line = at(page, 'treatment-focus')
  await expect
    .poll(async () => !!(await documentOf(page, stage, id)).document.passes.file?.frames, { timeout: 60000 })
    .toBe(true)
  await saved(page)
  await line.getByText('follow what is sharp').click()
  // The block's front: its middle is 1.6 m under the eye's height at 5 m
  const focal = document.scene.camera.focalLength / document.scene.camera.sensorWidth
  const place = await pointAt(
    page,
    0.5,
    0.5 - (((1.2 - 1.6) / 5) * focal * document.frame.width) / document.frame.height,
  )
  await page.mouse.click(place.x, place.y)
  const keys = async (): Promise<any[]> => {
    await saved(page)
    return listed((await documentOf(page, stage, id)).document.finish)[0].values.distance.keys ?? []
  }
  await expect.poll(async () => (await keys()).length).toBeGreaterThan(1)
  const all = await keys()
  expect(all[0]).toMatchObject({ frame: 1 })
  expect(all.at(-1)).toMatchObject({ frame: 3 })
  expect(all[0].value).toBeCloseTo(5, 1)
  expect(all.at(-1).value).toBeCloseTo(4.2, 1)
})

test('a stroke goes along with the block that it was brushed on', async ({ page, stage }) => {
  const { id, document } = await sliding(page, stage, 5, 0)
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await at(page, 'matte-chip').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-brush').click()
  await expect(at(page, 'choose')).toBeHidden()
  // The block's front: its middle is 1.6 m under the eye's height at 5 m, going right by 0.4 m a frame
  const { width, height } = document.frame
  const focal = document.scene.camera.focalLength / document.scene.camera.sensorWidth
  const seen = (x: number, y: number): [number, number] => [
    0.5 + (x / 5) * focal,
    0.5 - (((y - 1.6) / 5) * focal * width) / height,
  ]
  const stroke = async (): Promise<void> => {
    const [from, to] = [await pointAt(page, ...seen(-0.3, 1.2)), await pointAt(page, ...seen(0.3, 1.2))]
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: 6 })
    await page.mouse.up()
  }
  await stroke()
  const term = async (): Promise<any> => {
    await saved(page)
    return listed(listed((await documentOf(page, stage, id)).document.finish)[0].matte.terms)[0]
  }
  await expect.poll(async () => Object.keys((await term()).strokes).length).toBe(1)
  // Without the passes it says what it needs
  await expect(at(page, 'strokes-along')).toBeDisabled()
  await expect(at(page, 'strokes-along')).toHaveAttribute('title', /Render the passes “motion forward”/)
  const started = await page.request.post(`${stage.address}/api/shots/${id}/render`, { data: { frame: 1, last: 5 } })
  expect(started.ok(), await started.text()).toBe(true)
  await expect(at(page, 'strokes-along')).toBeEnabled({ timeout: 60000 })
  await at(page, 'strokes-along').click()
  await expect.poll(async () => typeof listed((await term()).strokes)[0].move_x).toBe('object')
  const [held] = listed((await term()).strokes)
  // As far as the block goes in pixels: 1.6 m of what is 5 m away
  expect(held.move_x.keys.at(-1)).toMatchObject({ frame: 5 })
  expect(held.move_x.keys.at(-1).value / ((1.6 / 5) * focal * width)).toBeCloseTo(1, 1)
  // Seen as grey: white where the block has gone to, and nothing where it was
  await at(page, 'matte-as-grey').click()
  for (const frame of [1, 3, 5]) {
    await at(page, 'frame').fill(String(frame))
    await at(page, 'frame').press('Enter')
    const now = (frame - 1) * 0.4
    await expect.poll(() => pixelAt(page, ...seen(now, 1.2))).toEqual([255, 255, 255])
    if (frame !== 3) expect(await pixelAt(page, ...seen(1.6 - now, 1.2))).toEqual([0, 0, 0])
  }
})
