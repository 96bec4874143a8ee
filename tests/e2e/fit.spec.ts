// The fit check in the page: a layer that does not fit is told of in words, mended by a line, and measured again.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { encode } from 'fast-png'
import { at, documentOf, expect, go, listed, newShot, pointAt, saved, test } from './stage'

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
  // A line that is pointed at shows where it is best seen
  const seen = () =>
    fit
      .locator('canvas')
      .first()
      .evaluate(canvas => (canvas as HTMLCanvasElement).toDataURL())
  const before_ = await seen()
  await fit.locator('[data-test=fit-whites]').hover()
  await expect(fit).toContainText('whites: the plate')
  await expect.poll(seen).not.toBe(before_)
  await fit.locator('h2').hover()
  await expect(fit).toContainText('the plate there')
  await expect.poll(seen).toBe(before_)
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

test('a shadow of the plate is clicked, and the sun of the scene held against it', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'scene')
  await page.getByRole('tab', { name: 'Light' }).click()
  await at(page, 'add-sun').click()
  await saved(page)
  await go(page, 'build')
  const grey = patches(stage.folder, 'grey.png', 200, 140, value => [60 + 120 * value, 60 + 120 * value, 90])
  await at(page, 'add-layer').locator('input').setInputFiles([grey])
  await expect(at(page, 'layer-grey')).toBeVisible()
  await page.keyboard.press('m')
  const row = at(page, 'fit').locator('[data-test=fit-sun]')
  await expect(row).toContainText('Not known until a shadow')
  // A pole of 1.5 m at 6 m whose shadow goes 1.5 m to the left: the sun stands to the right, 45 degrees high. The camera of
  // the stage stands 1.6 m high and level, and sees 0.65 rad from top to bottom
  const seen = (x: number, y: number, metres: number) =>
    pointAt(page, 0.5 + x / metres / (2 * 1.5 * Math.tan(0.325)), 0.5 + (1.6 - y) / metres / (2 * Math.tan(0.325)))
  const words = ['click its foot', 'click its top', 'click the tip of its shadow']
  await at(page, 'read-shadow').click()
  for (const [i, place] of (
    [
      [0, 0],
      [0, 1.5],
      [-1.5, 0],
    ] as const
  ).entries()) {
    await expect(at(page, 'read-shadow')).toHaveText(words[i]!)
    const { x, y } = await seen(place[0], place[1], 6)
    await page.mouse.click(x, y)
  }
  await expect(row).toContainText('does not fit')
  await expect(row).toContainText(/the sun stands 4[456]\.\d° high at (8[89]|9[012])\.\d°/)
  await at(page, 'mend-sun').click()
  await expect(row).toContainText('As in the plate')
  await saved(page)
  const [sun] = listed((await documentOf(page, stage, id)).document.scene.lights)
  expect(Math.abs(sun.azimuth - 90)).toBeLessThan(2)
  expect(Math.abs(sun.elevation - 45)).toBeLessThan(1.5)
})
