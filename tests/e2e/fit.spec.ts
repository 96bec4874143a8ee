// The fit check in the page: a layer that does not fit is told of in words, mended by a line, and measured again.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { encode } from 'fast-png'
import { at, documentOf, expect, go, listed, newShot, saved, test } from './stage'

/** Patches of many tones of a colour, as one lights them: like enough to a scene to be measured. */
function patches(
  folder: string,
  name: string,
  width: number,
  height: number,
  tone: (value: number) => number[],
): string {
  const data = new Uint8Array(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const value = ((Math.floor(x / 13) * 37 + Math.floor(y / 11) * 71) % 60) / 60
      data.set(
        [...tone(value).map(channel => Math.max(0, Math.min(255, Math.round(channel)))), 255],
        (y * width + x) * 4,
      )
    }
  const path = join(folder, name)
  writeFileSync(path, encode({ width, height, channels: 4, data }))
  return path
}

test('what does not fit is said, mended by a line of the recipe, and fits', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'plate')
  const plate = patches(stage.folder, 'set.png', 480, 320, value => [
    60 + 120 * value,
    62 + 122 * value,
    66 + 120 * value,
  ])
  await page.locator('input[type=file]').first().setInputFiles([plate])
  await saved(page)
  await go(page, 'build')
  const warm = patches(stage.folder, 'warm.png', 200, 140, value => [
    66 + 185 * value,
    62 + 122 * value,
    56 + 84 * value,
  ])
  await at(page, 'add-layer').locator('input').setInputFiles([warm])
  await expect(at(page, 'layer-warm')).toBeVisible()
  await expect
    .poll(async () =>
      listed((await documentOf(page, stage, id)).document.build.layers).some(({ name }) => name === 'warm'),
    )
    .toBe(true)
  const before = (await documentOf(page, stage, id)).document
  await page.keyboard.press('m')
  const fit = at(page, 'fit')
  await expect(fit.locator('[data-test=fit-lights]')).toContainText('does not fit')
  await expect(fit.locator('[data-test=fit-lights]')).toContainText('more orange')
  await expect(fit.locator('[data-test=fit-layer]')).toHaveValue(/.+/)
  // It only looks: nothing was changed by it
  await saved(page)
  expect((await documentOf(page, stage, id)).document.build).toEqual(before.build)
  await fit.locator('[data-test=mend-lights]').click()
  await saved(page)
  const layer = listed((await documentOf(page, stage, id)).document.build.layers).find(({ name }) => name === 'warm')
  expect(listed(layer.treatments)).toMatchObject([{ kind: 'tones', on: true }])
  await expect(fit.locator('[data-test=fit-measure]')).toHaveText('measure again')
  await expect(fit.locator('[data-test=fit-lights]')).not.toContainText('does not fit')
  // Tones, too
  await expect(fit.locator('[data-test=fit-whites]')).toContainText('does not fit')
  await fit.locator('[data-test=mend-whites]').click()
  await expect(fit.locator('[data-test=fit-whites]')).toContainText('fits')
  await expect(fit.locator('[data-test=fit-whites]')).not.toContainText('does not fit')
  await page.keyboard.press('Control+z')
  // Undone as any other change; and the check says that it is of before
  await page.keyboard.press('Control+z')
  await expect(fit).toContainText('The shot has changed since it was measured.')
  await fit.locator('[data-test=fit-measure]').click()
  await expect(fit.locator('[data-test=fit-lights]')).toContainText('does not fit')
  // Nothing to measure is said, and breaks nothing
  await page.getByLabel('warm on or off').click()
  await expect(fit).toContainText('there is nothing to measure')
})
