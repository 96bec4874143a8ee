// The desk as one works at it: eight objects of the demo touched up one after another, by hand, wheel, keys and typing;
// layers; columns copied; thousands of objects.
import { bellHouse, shotOf } from './demoShot'
import { at, documentOf, expect, fade, listed, saved, test, type } from './stage'

test('eight objects are touched up one after another, each lit up and seen as it was', async ({ page, stage }) => {
  const document = await bellHouse(page, stage)
  document.build.layers.render.desk = { everything: {}, objects: {} }
  const id = await shotOf(page, stage, 'touched up', document)
  await page.goto(`${stage.address}/shot/${id}?station=build`)
  await at(page, 'ready').waitFor()
  await page.keyboard.press('d')
  await at(page, 'round-begin').click()
  const names: string[] = []
  for (let i = 0; i < 8; i++) {
    const said = (await at(page, 'round-at').innerText()).split(',')[0]!
    names.push(said)
    await expect(at(page, 'lit')).toBeAttached()
    await expect(page.locator('.picked').first()).toBeVisible()
    await fade(page, `${said}-exposure`, 0.6 + i * 0.04)
    await page.keyboard.press('n')
  }
  expect(new Set(names).size).toBe(8)
  await saved(page)
  const { objects } = (await documentOf(page, stage, id)).document.build.layers.render.desk
  expect(Object.keys(objects).sort()).toEqual([...names].sort())
  // Each farther than the one before it
  const stops = names.map(name => objects[name].exposure as number)
  expect(stops.every((value, i) => value > 0.5 && (i === 0 || value > stops[i - 1]!))).toBe(true)

  // Back by one, and as it was when one came there
  await page.keyboard.press('Shift+N')
  await expect(at(page, 'round-at')).toContainText(names[7]!)
  const mean = (): Promise<number> =>
    at(page, 'picture').evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
      return data.reduce((sum, value) => sum + value, 0) / data.length
    })
  /** Once the picture has come that what was done before has asked for. */
  let bright = -1
  await expect
    .poll(
      async () => {
        const before = bright
        bright = await mean()
        return bright === before
      },
      { intervals: [2500] },
    )
    .toBe(true)
  await fade(page, `${names[7]!}-exposure`, 0.02)
  await expect.poll(mean).toBeLessThan(bright)
  await at(page, 'round-compare').click()
  await expect(at(page, 'compared')).toBeVisible()
  await at(page, 'round-compare').click()
  await expect(at(page, 'compared')).toBeHidden()
  await page.mouse.move(5, 300)
  await page.keyboard.down('b')
  await expect.poll(mean).toBe(bright)
  await page.keyboard.up('b')
  await expect.poll(mean).toBeLessThan(bright)
  await at(page, 'round-end').click()
  await expect(at(page, 'round-begin')).toBeVisible()
})

test('numbers by wheel, keys and typing; only what is changed; a column copied; layers graded by a line', async ({
  page,
  stage,
}) => {
  const document = await bellHouse(page, stage)
  document.build.layers.render.desk = { everything: {}, objects: {} }
  const id = await shotOf(page, stage, 'at the desk', document)
  await page.goto(`${stage.address}/shot/${id}?station=build`)
  await at(page, 'ready').waitFor()
  await page.keyboard.press('d')
  const deskNow = async () => {
    await saved(page)
    return (await documentOf(page, stage, id)).document.build.layers.render.desk
  }
  await at(page, 'desk-find').fill('bell')
  await expect(at(page, 'desk-count')).toHaveText(/^[1-9] columns$/)
  await at(page, 'desk-bell').click()
  await type(at(page, 'number-bell-contrast'), '1.2*1.5')
  // The wheel turns what has the focus, and nothing else
  await at(page, 'fader-bell-exposure').hover()
  await page.mouse.wheel(0, -100)
  await page.waitForTimeout(400)
  expect((await deskNow()).objects.bell).toEqual({ contrast: 1.8 })
  const fader = (await at(page, 'fader-bell-exposure').boundingBox())!
  await page.mouse.click(fader.x + 4, fader.y + 9)
  await page.mouse.wheel(0, -100)
  await page.mouse.wheel(0, -100)
  await expect.poll(async () => (await deskNow()).objects.bell).toEqual({ contrast: 1.8, exposure: 0.16 })
  // Keys: up is more, aside is the neighbour
  await page.keyboard.press('ArrowUp')
  await expect.poll(async () => (await deskNow()).objects.bell.exposure).toBeCloseTo(0.26, 5)
  await page.keyboard.press('ArrowLeft')
  await page.keyboard.type('-0.5')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await deskNow()).everything).toEqual({ exposure: -0.5 })

  await at(page, 'desk-find').fill('')
  await at(page, 'desk-changed').check()
  await expect(at(page, 'desk-bell')).toBeVisible()
  await expect(at(page, 'desk-roof')).toHaveCount(0)
  await at(page, 'desk-more-bell').click()
  await at(page, 'desk-copy').click()
  await at(page, 'desk-changed').uncheck()
  await at(page, 'desk-find').fill('roof')
  await at(page, 'desk-roof').hover()
  await at(page, 'desk-more-roof').click()
  await at(page, 'desk-lay').click()
  await expect.poll(async () => (await deskNow()).objects.roof).toEqual({ contrast: 1.8, exposure: 0.26 })
  await at(page, 'desk-more-roof').click()
  await at(page, 'desk-clear').click()
  await expect.poll(async () => Object.keys((await deskNow()).objects)).toEqual(['bell'])

  // A layer: what it is graded by stands in its recipe
  await at(page, 'desk-find').fill('')
  await at(page, 'desk-shown').selectOption('layers')
  await expect(at(page, 'number-Plate-diffuse_direct')).toHaveCount(0)
  await type(at(page, 'number-Plate-warmth'), '30')
  await type(at(page, 'number-Plate-opacity'), '0.9')
  await saved(page)
  const { layers } = (await documentOf(page, stage, id)).document.build
  expect(layers.plate.opacity).toBe(0.9)
  expect(listed(layers.plate.treatments)[0]).toMatchObject({ kind: 'desk_grade', values: { warmth: 30, contrast: 1 } })
})

test('five thousand objects: only what is in sight is on the page, and any is found', async ({ page, stage }) => {
  const document = await bellHouse(page, stage)
  const { file } = document.passes
  file.objects = [...file.objects, ...Array.from({ length: 5000 }, (_, i) => `stone ${i + 1}`)]
  const id = await shotOf(page, stage, 'many stones', document)
  await page.goto(`${stage.address}/shot/${id}?station=build`)
  await at(page, 'ready').waitFor()
  await page.keyboard.press('d')
  await expect(at(page, 'desk-count')).toHaveText(/50\d\d columns/)
  const cells = page.locator('[data-test=desk] [role=spinbutton]')
  expect(await cells.count()).toBeLessThan(300)
  await at(page, 'desk-find').fill('stone 4321')
  await expect(at(page, 'desk-stone 4321')).toBeVisible()
  await type(at(page, 'number-stone 4321-exposure'), '1')
  await at(page, 'desk-find').fill('')
  await at(page, 'desk-changed').check()
  await expect(at(page, 'desk-stone 4321')).toBeVisible()
  await at(page, 'desk-changed').uncheck()
  // From one to the next by keys, past the edge of what was in sight
  await at(page, 'number-everything-exposure').focus()
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight')
  const focused = page.locator('[data-test=desk] [role=spinbutton]:focus')
  await expect(focused).toHaveAttribute('aria-label', /^exposure of /)
  await expect(focused).toBeInViewport()
})

test('without passes the layers are there, and are graded', async ({ page, stage }) => {
  const document = await bellHouse(page, stage)
  document.passes.file = null
  const id = await shotOf(page, stage, 'not rendered', document)
  await page.goto(`${stage.address}/shot/${id}?station=build`)
  await at(page, 'ready').waitFor()
  await page.keyboard.press('d')
  await expect(page.getByText('objects of the render come here once there are passes')).toBeVisible()
  await expect(at(page, 'number-everything-exposure')).toHaveCount(0)
  await expect(at(page, 'round-begin')).toBeDisabled()
  await type(at(page, 'number-Plate-exposure'), '-1')
  await saved(page)
  const { layers } = (await documentOf(page, stage, id)).document.build
  expect(listed(layers.plate.treatments)[0]).toMatchObject({ kind: 'desk_grade', values: { exposure: -1 } })
})
