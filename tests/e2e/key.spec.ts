// The sky behind branches goes by one click and two values, and something else stands there.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { writeExr, emptyWindow } from '../../core/formats/exr/exr'
import { branches } from '../keyCases'
import { at, documentOf, expect, go, listed, pixelAt, pointAt, saved, test, type } from './stage'

test('the sky behind branches is keyed by one click and two values, and something is put behind it', async ({
  page,
  stage,
}) => {
  const { width, height, picture, alpha, click } = branches()
  const plate = join(stage.folder, 'branches.exr')
  const window = emptyWindow(width, height)
  writeFileSync(
    plate,
    writeExr({
      dataWindow: window,
      displayWindow: window,
      compression: 'zip',
      attributes: [],
      channels: ['R', 'G', 'B'].map((name, c) => ({
        name,
        type: 'float',
        linear: true,
        data: Float32Array.from({ length: width * height }, (_, i) => picture[i * 4 + c]!),
      })),
    }),
  )
  await page.goto(stage.address)
  await at(page, 'drop-new').locator('input').setInputFiles([plate])
  await page.waitForURL(/\/shot\//)
  await at(page, 'ready').waitFor()
  const id = /shot\/(\w+)/.exec(page.url())![1]!
  await go(page, 'build')
  await expect.poll(() => pixelAt(page, 0.5, 0.1)).not.toEqual([0, 0, 0])
  const [plateLayer] = listed((await documentOf(page, stage, id)).document.build.layers)
  await at(page, `layer-${plateLayer.name}`).click()
  // It stands somewhere now, so that something can be farther
  await at(page, 'put-at').click()
  await at(page, 'cut-to').locator('[data-test="matte-chip"]').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-key').click()
  await expect(at(page, 'choose')).toBeHidden()
  await expect(at(page, 'term-take-screen')).toHaveText('click it in the picture')
  const { x, y } = await pointAt(page, (click[0] + 0.5) / width, (click[1] + 0.5) / height)
  await page.mouse.click(x, y)
  await expect(at(page, 'term-take-screen')).toHaveText('take it')
  await at(page, 'value-by').selectOption('its light')
  await type(at(page, 'value-black'), '0.04')
  await type(at(page, 'value-white'), '0.96')
  await at(page, 'matte-as-grey').click()
  // As it is known to be: dark where the sky is, light where wood is
  const wood = alpha.findIndex((value, i) => value === 1 && i > width * 180)
  const at2 = (i: number): [number, number] => [((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height]
  await expect.poll(() => pixelAt(page, ...at2(click[1] * width + click[0]))).toEqual([0, 0, 0])
  await expect.poll(() => pixelAt(page, ...at2(wood))).toEqual([255, 255, 255])
  // Cut out over white, and how much is in at the pointer
  await at(page, 'matte-as-cut-out').click()
  await at(page, 'matte-over').selectOption('white')
  await expect.poll(() => pixelAt(page, ...at2(click[1] * width + click[0]))).toEqual([255, 255, 255])
  await page.mouse.move(x, y)
  await expect(at(page, 'held')).toHaveText('in 0.000')
  await at(page, 'matte-as-none').click()
  await at(page, 'add-kind').click()
  await at(page, 'add-wash').click()
  await type(at(page, 'opacity'), '1')
  await type(at(page, 'value-colour-0'), '0')
  await type(at(page, 'value-colour-1'), '0')
  await type(at(page, 'value-colour-2'), '1')
  await type(at(page, 'value-distance'), '500')
  await expect.poll(() => pixelAt(page, ...at2(click[1] * width + click[0]))).toEqual([0, 0, 255])
  const [red, , blue] = await pixelAt(page, ...at2(wood))
  expect(blue).toBeLessThan(100)
  expect(red).toBeGreaterThan(20)
  await saved(page)
  const document = (await documentOf(page, stage, id)).document
  const cut = listed(document.build.layers).find(layer => layer.kind === 'plate')
  expect(Object.values(cut.matte.terms)).toMatchObject([{ kind: 'key', values: { by: 'its light', black: 0.04 } }])
  // Whole again
  await at(page, `layer-${plateLayer.name}`).click()
  await at(page, 'matte-everywhere').click()
  await expect.poll(() => pixelAt(page, ...at2(click[1] * width + click[0]))).not.toEqual([0, 0, 255])
})
