// The whole path of a shot, as a user walks it: plate and scene, passes, build, finish, send.
import { decode } from 'fast-png'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { at, documentOf, expect, fade, go, newShot, pixelAt, pointAt, saved, test, type, listed } from './stage'

test('from a scene and a photograph to a finished picture', async ({ page, stage }) => {
  test.setTimeout(240000)
  const id = await newShot(page, stage)

  // Plate: read, encoding guessed with a reason, changeable
  await go(page, 'plate')
  await expect(page.getByText('quayside.png').first()).toBeVisible()
  await expect(page.getByText(/Guessed: 8-bit PNG/)).toBeVisible()
  // A display picture shown through its own encoding comes back to the code
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[2]).toBe(140)

  // Scene: the catcher came with the file; an object is chosen, moved by handle and by number
  await go(page, 'scene')
  await expect(at(page, 'object-floor')).toContainText('shadow catcher')
  await at(page, 'object-low block').click()
  await expect(at(page, 'handle-slide')).toBeVisible()
  const handle = (await at(page, 'handle-slide').boundingBox())!
  await page.mouse.move(handle.x + handle.width / 2, handle.y + handle.height / 2)
  await page.mouse.down()
  await page.mouse.move(handle.x + handle.width / 2 + 60, handle.y + handle.height / 2 + 4, { steps: 4 })
  await page.mouse.up()
  await saved(page)
  await expect
    .poll(async () => (await documentOf(page, stage, id)).document.scene.objects['low block']?.position?.[0])
    .toBeGreaterThan(0.1)
  await at(page, 'part-light').click()
  await at(page, 'add-sun').click()
  await expect.poll(async () => listed((await documentOf(page, stage, id)).document.scene.lights).length).toBe(1)

  // Passes: few samples, rendered on the server, shown on the sheet
  await go(page, 'passes')
  await type(at(page, 'samples'), '8')
  await at(page, 'render').click()
  await expect(at(page, 'sheet-beauty')).toBeVisible({ timeout: 60000 })
  for (const pass of ['depth', 'shadow', 'crypto_object', 'normal', 'occlusion'])
    await expect(at(page, `sheet-${pass}`)).toBeVisible()
  await at(page, 'sheet-depth').click()
  await page.waitForTimeout(600)
  const depth = await pixelAt(page, 0.5, 0.45)
  expect(depth[0]).toBe(depth[1])
  await at(page, 'save-all').click()

  // Build: the object under the pointer is named, picked, and graded alone
  await go(page, 'build')
  const block = await pointAt(page, 0.5, 0.45)
  await page.mouse.move(block.x, block.y)
  await expect(at(page, 'pointer-name')).toContainText('tall block')
  await page.mouse.click(block.x, block.y)
  await expect(page.locator('.picked')).toContainText('tall block')
  const before = await pixelAt(page, 0.5, 0.45)
  const elsewhere = await pixelAt(page, 0.05, 0.05)
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await expect(at(page, 'treatment-exposure').locator('[data-test=matte-chip]')).toContainText('tall block')
  await type(at(page, 'value-stops'), '1+1')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.45))[0]!).toBeGreaterThan(before[0]! + 15)
  expect(await pixelAt(page, 0.05, 0.05)).toEqual(elsewhere)
  // Its matte alone, then inverted
  await at(page, 'treatment-exposure').locator('[data-test=matte-chip]').click()
  await at(page, 'matte-as-grey').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.45)).toEqual([255, 255, 255])
  await at(page, 'matte-invert').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.45)).toEqual([0, 0, 0])
  await at(page, 'matte-invert').click()
  await at(page, 'treatment-exposure').locator('[data-test=matte-chip]').click()
  // The desk darkens one object and no other
  await page.keyboard.press('d')
  await fade(page, 'low block-exposure', 0.02)
  await saved(page)
  expect(
    (await documentOf(page, stage, id)).document.build.layers.render.desk.objects['low block'].exposure,
  ).toBeLessThan(-3)
  await page.keyboard.press('d')
  // A picture as a layer: in front at 2 m, behind at 20 m
  await at(page, 'add-layer').locator('input').setInputFiles(stage.layer)
  await expect(at(page, 'layer-buoy')).toBeVisible()
  await type(at(page, 'value-distance'), '2')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.45))[0]!).toBe(230)
  await type(at(page, 'value-distance'), '20')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.45))[0]!).not.toBe(230)
  const sounding = (await at(page, 'sounding-buoy').locator('rect').boundingBox())!
  await page.mouse.move(sounding.x + 9, sounding.y + 30)
  await page.mouse.down()
  await page.mouse.move(10, sounding.y + 40, { steps: 5 })
  await page.mouse.up()
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.45))[0]!).toBe(230)

  // Finish: exposure, with and without by holding a key, the dividing line
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await type(at(page, 'value-stops'), '-1')
  await page.waitForTimeout(500)
  const graded = await pixelAt(page, 0.05, 0.05)
  expect(graded[2]!).toBeLessThan(elsewhere[2]!)
  await page.mouse.click(5, 300)
  await page.keyboard.down('b')
  await expect.poll(async () => (await pixelAt(page, 0.05, 0.05))[2]!).toBeGreaterThan(graded[2]!)
  await page.keyboard.up('b')
  await expect.poll(() => pixelAt(page, 0.05, 0.05)).toEqual(graded)
  await at(page, 'compare-before').click()
  await expect(page.locator('canvas.before')).toBeVisible()
  await saved(page)

  // Send: what is sent is what is seen, code for code
  await go(page, 'send')
  await page.waitForTimeout(600)
  const seen = await at(page, 'picture').evaluate((canvas: HTMLCanvasElement) => [
    ...canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data,
  ])
  await at(page, 'send-format').click()
  await page.getByText('PNG, 8 bit', { exact: true }).click()
  await at(page, 'send').click()
  const file = at(page, 'sent').filter({ hasText: 'PNG, 8 bit' })
  await expect(file.locator('a')).toBeVisible({ timeout: 30000 })
  const [download] = await Promise.all([page.waitForEvent('download'), file.locator('a').click()])
  const sent = decode(readFileSync((await download.path())!))
  expect([sent.width, sent.height]).toEqual([240, 160])
  let different = 0
  for (let i = 0; i < 240 * 160; i++)
    for (let c = 0; c < 3; c++) if (sent.data[i * 3 + c] !== seen[i * 4 + c]) different++
  expect(different).toBe(0)
  // The one file of all passes is listed too
  await expect(at(page, 'sent').filter({ hasText: 'all passes' }).first()).toBeVisible()
})

test('shots are renamed, copied, deleted and brought back', async ({ page, stage }) => {
  await newShot(page, stage)
  await page.goto(stage.address)
  const cards = page.locator('article.card')
  // The list is fetched after the page stands
  await expect(cards.first()).toBeVisible()
  const count = await cards.count()
  await at(page, 'rename').first().click()
  await page.getByLabel('Name').fill('Morning')
  await page.getByLabel('Name').press('Enter')
  await expect(at(page, 'shot-Morning')).toBeVisible()
  await at(page, 'shot-Morning').locator('[data-test=copy]').click()
  await expect(at(page, 'shot-Morning copy')).toBeVisible()
  await at(page, 'shot-Morning copy').locator('[data-test=delete]').click()
  await expect(at(page, 'shot-Morning copy')).toHaveCount(0)
  await at(page, 'undo-delete').click()
  await expect(at(page, 'shot-Morning copy')).toBeVisible()
  await expect(cards).toHaveCount(count + 1)
})

test('an OBJ with its materials dropped with a photograph becomes a scene; without them that is said', async ({
  page,
  stage,
}) => {
  const obj = join(stage.folder, 'shed.obj')
  const mtl = join(stage.folder, 'shed.mtl')
  writeFileSync(
    obj,
    'mtllib shed.mtl\no shed wall\nusemtl tarred\nv -1 0 -4\nv 1 0 -4\nv 1 2 -4\nv -1 2 -4\nf 1 2 3 4\n',
  )
  writeFileSync(mtl, 'newmtl tarred\nKd 0.2 0.2 0.22\n')
  await page.goto(stage.address)
  await at(page, 'drop-new').locator('input').setInputFiles([stage.plate, obj, mtl])
  await page.waitForURL(/\/shot\//)
  await at(page, 'ready').waitFor()
  await go(page, 'scene')
  await expect(at(page, 'object-shed wall')).toBeVisible()
  const id = /shot\/(\w+)/.exec(page.url())![1]!
  expect((await documentOf(page, stage, id)).document.scene.file.name).toBe('shed.glb')
  await at(page, 'scene-file').locator('input').setInputFiles([obj])
  await expect(page.getByText(/\.mtl\): drop both together/)).toBeVisible()
})
