// The soundings: what is picked stands before all of it; ends of fog and brackets of a slip are dragged; a plate's own depth
// is given, read, seen there, and hides what is behind it.
import { writeFileSync } from 'node:fs'
import { writePng } from '../../core/formats/png/png'
import { bellHouse, shotOf } from './demoShot'
import { at, documentOf, expect, listed, pixelAt, saved, test, type } from './stage'

test('ends are dragged, what is picked is seen, a plate with a depth hides what is behind it', async ({
  page,
  stage,
}, info) => {
  const document = await bellHouse(page, stage)
  document.finish = {}
  const id = await shotOf(page, stage, 'sounded', document)
  await page.goto(`${stage.address}/shot/${id}?station=build`)
  await at(page, 'ready').waitFor()
  await expect(at(page, 'spread-said')).toContainText('render')
  await page.keyboard.press('d')
  await at(page, 'desk-find').fill('bell')
  await at(page, 'desk-bell').click()
  await page.mouse.click(5, 300)
  await page.keyboard.press('d')
  await expect(at(page, 'spread-said')).toHaveText(/^bell [89]\.\d+ m – [89]\.\d+ m$/)
  await expect(at(page, 'spread-picked')).toBeAttached()
  await page.keyboard.press('Escape')

  // A bank of green fog: its nearer end is brought farther
  await at(page, 'add-kind').click()
  await at(page, 'add-fogbank').click()
  await expect(at(page, 'choose')).toBeHidden()
  const fogOf = async () =>
    listed((await documentOf(page, stage, id)).document.build.layers).find(({ kind }) => kind === 'fogbank')
  const end = at(page, 'range-Fog bank-near')
  const { x, y, width, height } = (await end.boundingBox())!
  await page.mouse.move(x + width / 2, y + height / 2)
  await page.mouse.down()
  await page.mouse.move(x + width / 2 + 120, y + height / 2, { steps: 5 })
  await page.mouse.up()
  await saved(page)
  const moved = await fogOf()
  expect(moved.near).toBeGreaterThan(9)
  expect(moved.far).toBe(60)
  await at(page, 'range-Fog bank-far').focus()
  await page.keyboard.press('ArrowRight')
  await saved(page)
  await expect.poll(async () => (await fogOf()).far).toBeCloseTo(61.8, 1)

  // All of it is in the fog, what is near at the left too; with a depth that is before it
  await type(at(page, 'value-dense'), '1')
  const near = (): Promise<number[]> => pixelAt(page, 0.15, 0.93)
  const sea = (): Promise<number[]> => pixelAt(page, 0.05, 0.5)
  await expect.poll(async () => Math.abs((await near())[0]! - (await sea())[0]!)).toBeLessThan(4)
  const across = 64
  const depth = info.outputPath('crate.png')
  // White before black: the left third is near
  const data = Uint8Array.from({ length: across * 40 }, (_, i) =>
    i % across < 22 && Math.floor(i / across) > 22 ? 255 : 0,
  )
  writeFileSync(depth, writePng({ width: across, height: 40, channels: 1, maximum: 255, data }))
  await page.locator('[data-test="layer-Plate"] .title').click()
  await at(page, 'plate-depth').locator('input').setInputFiles(depth)
  await expect(at(page, 'depth-reading')).toBeVisible()
  await expect(at(page, 'spread-said')).toContainText('plate')
  await expect.poll(async () => Math.abs((await near())[0]! - (await sea())[0]!)).toBeGreaterThan(20)
  // What is black is at 50 m as it comes: in the fog, but not behind all of it; then by a click and a number
  await at(page, 'depth-far-click').click()
  const picture = (await at(page, 'picture').boundingBox())!
  await page.mouse.click(picture.x + picture.width * 0.05, picture.y + picture.height * 0.2)
  await type(at(page, 'depth-far-metres'), '200')
  await saved(page)
  const { layers } = (await documentOf(page, stage, id)).document.build
  expect(layers.plate.depth).toMatchObject({
    name: 'crate.png',
    reading: { depth: { kind: 'grey', near: { value: 1, metres: 2 }, far: { value: 0, metres: 200 } } },
  })
  await at(page, 'drop-depth').click()
  await expect.poll(async () => Math.abs((await near())[0]! - (await sea())[0]!)).toBeLessThan(4)

  // A file that tells nothing says so, and nothing is lost
  const grey = info.outputPath('grey.png')
  writeFileSync(grey, writePng({ width: 4, height: 4, channels: 1, maximum: 255, data: new Uint8Array(16).fill(9) }))
  await at(page, 'plate-depth').locator('input').setInputFiles(grey)
  await expect(page.getByText('All of this picture has the same number')).toBeVisible()
})
