// What is put into the air and on the ground by hand: smoke as an element and ten of it, snow, standing water.
import { join } from 'node:path'
import { writeFileSync } from 'node:fs'
import { encode } from 'fast-png'
import type { Page } from '@playwright/test'
import { at, documentOf, expect, go, listed, newShot, pixelAt, pointAt, saved, test, type, type Stage } from './stage'

/** A soft grey ball on black. */
function puff(folder: string): string {
  const side = 64
  const data = new Uint8Array(side * side * 3)
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const far = Math.hypot(x - 31.5, y - 31.5) / 30
      data.fill(far < 1 ? Math.round(230 * (1 - far * far)) : 0, (y * side + x) * 3, (y * side + x) * 3 + 3)
    }
  const path = join(folder, 'puff.png')
  writeFileSync(path, encode({ width: side, height: side, channels: 3, data }))
  return path
}
const layerOf = async (page: Page, stage: Stage, id: string, kind: string) => {
  await saved(page)
  return listed((await documentOf(page, stage, id)).document.build.layers).filter(
    layer => layer.kind === kind,
  ) as unknown as Record<string, number>[]
}

test('smoke stands in the scene where it is dragged, and is ten at once, which are parted', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  // The plate is there: nowhere black
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBeGreaterThan(60)
  const [sky, bare] = [await pixelAt(page, 0.5, 0.5), await pixelAt(page, 0.3, 0.35)]
  await at(page, 'add-element')
    .locator('input')
    .setInputFiles([puff(stage.folder)])
  const row = at(page, 'layer-puff')
  await expect(row).toBeVisible()
  // In the middle, half as tall as the frame; its corners are black, which is nothing
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]! > sky[0]! + 20).toBe(true)
  const [first] = await layerOf(page, stage, id, 'element')
  expect(first).toMatchObject({ mode: 'screen', taken: 'on black' })
  // Dragged by its middle it stays at its distance
  const [from, to] = [await pointAt(page, 0.5, 0.5), await pointAt(page, 0.3, 0.35)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 5 })
  await page.mouse.up()
  const [moved] = await layerOf(page, stage, id, 'element')
  expect(moved!.z).toBeCloseTo(first!.z!, 1)
  expect(moved!.x!).toBeLessThan(first!.x! - 0.5)
  expect(moved!.y!).toBeGreaterThan(first!.y! + 0.3)
  // A lamp that is not there lights nothing
  await type(row.locator('[data-test=value-lit]'), '1')
  await row.locator('[data-test=value-by]').selectOption('one light')
  await expect(row.locator('[data-test=light]')).toBeVisible()
  // Screened, what is dark is nothing
  const red = async (): Promise<number> => (await pixelAt(page, 0.3, 0.35))[0]!
  await expect.poll(async () => Math.abs((await red()) - bare[0]!)).toBeLessThan(4)
  await type(row.locator('[data-test=value-lit]'), '0')
  await expect.poll(async () => (await red()) > bare[0]! + 20).toBe(true)
  await at(page, 'ten-1').click()
  const [ten] = await layerOf(page, stage, id, 'element')
  expect(ten).toMatchObject({ copies: 10, spread: 'in a region' })
  await expect(at(page, 'handle-wide')).toBeVisible()
  await at(page, 'part').click()
  await expect(at(page, 'layer-puff 10')).toBeVisible()
  expect(await layerOf(page, stage, id, 'element')).toHaveLength(10)
})

test('snow falls before the camera, and says when there is more than is drawn', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await at(page, 'add-kind').click()
  await at(page, 'add-specks').click()
  await at(page, 'specks-snow').click()
  const row = at(page, 'layer-Snow')
  await expect(row).toBeVisible()
  await expect(at(page, 'specks-count')).toContainText('in sight')
  await type(row.locator('[data-test=value-size]'), '80')
  // So large hardly a place is without
  const look = async (): Promise<string> =>
    (await Promise.all([0.2, 0.4, 0.6, 0.8].map(u => pixelAt(page, u, 0.4)))).join(' ')
  const before = await look()
  await type(row.locator('[data-test=value-seed]'), '77')
  await expect.poll(look).not.toBe(before)
  await type(row.locator('[data-test=value-density]'), '90000')
  await expect(at(page, 'specks-count')).toContainText('more than 200,000 are not drawn')
  const [snow] = await layerOf(page, stage, id, 'specks')
  expect(snow).toMatchObject({ density: 90000, seed: 77 })
})

test('standing water mirrors what stands over it, from the line that is dragged on', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.9))[0]!).toBeGreaterThan(60)
  const dry = await pixelAt(page, 0.5, 0.9)
  // A figure to be mirrored: wide and bright
  await at(page, 'add-element')
    .locator('input')
    .setInputFiles([puff(stage.folder)])
  await expect(at(page, 'layer-puff')).toBeVisible()
  await at(page, 'add-kind').click()
  await at(page, 'add-water').click()
  const row = at(page, 'layer-Standing water')
  await expect(row).toBeVisible()
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.9)).join() !== dry.join()).toBe(true)
  for (const value of ['wave_steep', 'ripple_steep', 'rough', 'clear'])
    await type(row.locator(`[data-test=value-${value}]`), '0')
  // The puff is 8 m away, its middle at the height of the camera: mirrored as far below the water
  const [puffed] = await layerOf(page, stage, id, 'element')
  expect(-puffed!.z!).toBeCloseTo(8, 1)
  const beside = await pixelAt(page, 0.15, 0.86)
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.86))[0]! > beside[0]! + 6).toBe(true)
  // The line where it ends, dragged nearer
  const [before] = await layerOf(page, stage, id, 'water')
  const grip = (await at(page, 'handle-shore').boundingBox())!
  const [x, y] = [grip.x + grip.width / 2, grip.y + grip.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x, y + 30, { steps: 4 })
  await page.mouse.up()
  const [after] = await layerOf(page, stage, id, 'water')
  expect(after!.shore!).toBeLessThan(before!.shore! * 0.8)
  expect(after!.level).toBe(before!.level)
})

test('a light accent is dragged over the ground and lights it there; all of it goes under water', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.5))[0]!).toBeGreaterThan(60)
  const red = async (u: number, v: number): Promise<number> => (await pixelAt(page, u, v))[0]!
  const dark = [await red(0.3, 0.9), await red(0.7, 0.9), await red(0.5, 0.1)] as const
  await at(page, 'add-kind').click()
  await at(page, 'add-accent').click()
  const row = at(page, 'layer-Light accent')
  for (const [name, value] of [
    ['x', '0'],
    ['y', '0.4'],
    ['z', '-6'],
    ['stops', '3'],
    ['halo', '0'],
  ] as const)
    await type(row.locator(`[data-test=value-${name}]`), value)
  // Seen 1.2 m below the eye and 6 m away; dragged to the left it lights the ground there
  const down = 0.5 + 0.2 / 2 / Math.tan(0.325)
  const [from, to] = [await pointAt(page, 0.5, down), await pointAt(page, 0.3, down)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 5 })
  await page.mouse.up()
  const [moved] = await layerOf(page, stage, id, 'accent')
  expect(moved!.x!).toBeLessThan(-0.8)
  expect(moved!.z!).toBeCloseTo(-6, 1)
  await expect.poll(async () => (await red(0.3, 0.9)) - dark[0]).toBeGreaterThan(30)
  expect((await red(0.3, 0.9)) - dark[0]).toBeGreaterThan(((await red(0.7, 0.9)) - dark[1]) * 3)
  // The sky is not lit
  expect(Math.abs((await red(0.5, 0.1)) - dark[2])).toBeLessThan(2)
  await type(row.locator('[data-test=opacity]'), '0')
  await expect.poll(async () => Math.abs((await red(0.3, 0.9)) - dark[0])).toBeLessThan(2)
  await at(page, 'add-kind').click()
  await at(page, 'add-underwater').click()
  await expect(at(page, 'layer-Under water')).toBeVisible()
  // Far off red is lost before blue
  await expect
    .poll(async () => {
      const [r, , b] = await pixelAt(page, 0.5, 0.3)
      return b! - r!
    })
    .toBeGreaterThan(60)
})
