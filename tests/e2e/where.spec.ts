// Choosing a treatment by its picture, taking a colour for a matte from the picture, and the instruments of light.
import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { at, documentOf, expect, go, listed, newShot, pixelAt, saved, test, type, type Stage } from './stage'

/** The middle of one half of a canvas on the page. */
const canvasAt = (page: Page, name: string, u: number, v: number): Promise<number[]> =>
  page
    .locator(`[data-test=${name}]`)
    .first()
    .evaluate(
      (found, [u, v]) => {
        const canvas = (found.matches('canvas') ? found : found.querySelector('canvas')) as HTMLCanvasElement
        const at = canvas
          .getContext('2d')!
          .getImageData(Math.floor(canvas.width * u!), Math.floor(canvas.height * v!), 1, 1)
        return [...at.data]
      },
      [u, v],
    )
const kinds = async (page: Page, stage: Stage, id: string): Promise<string[]> => {
  await saved(page)
  return listed((await documentOf(page, stage, id)).document.finish).map(({ kind }: { kind: string }) => kind)
}

test('a treatment is chosen by what it does: small pictures, a search, Enter for the first, the last used first', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await expect(at(page, 'choose-search')).toBeFocused()
  // Without it on the left, with it on the right
  await expect
    .poll(async () => {
      const [before] = await canvasAt(page, 'add-invert', 0.4, 0.5)
      const [after] = await canvasAt(page, 'add-invert', 0.6, 0.5)
      return Math.abs(after! - before!)
    })
    .toBeGreaterThan(40)
  await page.keyboard.type('lamps daylight kelvin')
  await expect(page.getByText('No treatment does that')).toBeVisible()
  await at(page, 'choose-search').fill('taken in one light')
  await page.keyboard.press('Enter')
  await expect(at(page, 'choose')).toBeHidden()
  await expect(at(page, 'treatment-balance')).toBeVisible()
  await at(page, 'add-treatment').click()
  await expect(page.locator('.choose .choice').first()).toHaveAttribute('data-test', 'add-balance')
  await page.getByRole('button', { name: 'softness', exact: true }).click()
  await expect(page.locator('.choose .choice')).toHaveCount(14)
  await at(page, 'add-blur').click()
  expect(await kinds(page, stage, id)).toEqual(['balance', 'blur'])
  await at(page, 'add-treatment').click()
  await page.keyboard.press('Escape')
  await expect(at(page, 'choose')).toBeHidden()
  expect(await kinds(page, stage, id)).toEqual(['balance', 'blur'])
})

test('a colour is taken from what comes to the line by a click; where nothing stands that is said', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-tint').click()
  await type(at(page, 'value-amount'), '1')
  await at(page, 'matte-chip').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-colour').click()
  await expect(at(page, 'choose')).toBeHidden()
  // Said at once how it lies
  await expect(at(page, 'matte-as-veil')).toHaveAttribute('aria-pressed', 'true')
  // It waits for the click that takes its colour
  await expect(at(page, 'term-take-sample')).toHaveText('click it in the picture')
  const box = (await page.locator('canvas').first().boundingBox())!
  await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.2)
  await expect(at(page, 'term-take-sample')).toHaveText('take it')
  await saved(page)
  const line = listed((await documentOf(page, stage, id)).document.finish)[0]
  const [term] = Object.values(line.matte.terms) as [{ values: { sample: number[] } }]
  await at(page, 'matte-as-grey').click()
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 255, 255])
  // What comes to the line, not what it makes of it
  await at(page, 'matte-as-none').click()
  const tinted = await pixelAt(page, 0.5, 0.2)
  const linear = tinted.map(code => (code / 255) ** 2.2)
  expect(Math.max(...term.values.sample.map((value, i) => Math.abs(value - linear[i]!)))).toBeGreaterThan(0.02)
  await at(page, 'term-add').click()
  await at(page, 'term-add-depth').click()
  await at(page, 'term-take-near').click()
  await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.2)
  await expect(page.getByText('Nothing is known to stand there.')).toBeVisible()
  // Names by what is written
  await at(page, 'term-add').click()
  await at(page, 'term-add-names').click()
  await at(page, 'term-name').fill('tall*')
  await at(page, 'term-name').press('Enter')
  await at(page, 'term-of').selectOption('materials')
  await saved(page)
  const [written] = listed((await documentOf(page, stage, id)).document.finish)
  expect(listed(written.matte.terms).at(-1)).toMatchObject({ kind: 'names', names: ['tall*'], of: 'materials' })
  await at(page, 'term-names').getByTitle('Take tall* out').click()
  await expect(at(page, 'term-names').getByTitle('Take tall* out')).toHaveCount(0)
  await at(page, 'term-names').locator('[data-test=term-remove]').click()
  // A pass that is not there is said
  await at(page, 'term-add').click()
  await at(page, 'term-add-facing').click()
  await expect(at(page, 'term-missing')).toContainText('render it at Passes')
})

test('a grade is taken from a file of several, held to what is possible, and saved as one', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await at(page, 'add-treatment').click()
  await at(page, 'add-cdl').click()
  const one = (name: string, slope: string): string =>
    `<ColorCorrection id="${name}"><SOPNode><Slope>${slope}</Slope></SOPNode></ColorCorrection>`
  const file = (text: string) => ({ name: 'day.ccc', mimeType: 'text/xml', buffer: Buffer.from(text) })
  await at(page, 'file-input').setInputFiles(
    file(`<ColorCorrectionCollection>${one('A', '1.5 1 1')}${one('B', '9 0.5 1')}</ColorCorrectionCollection>`),
  )
  await expect(at(page, 'file-found')).toHaveCount(2)
  await at(page, 'file-found').first().click()
  await expect(at(page, 'value-slope_r')).toContainText('1.50')
  await at(page, 'file-input').setInputFiles(file(one('B', '9 0.5 1')))
  await expect(page.getByText('slope, red: beyond what is possible here')).toBeVisible()
  await saved(page)
  expect(listed((await documentOf(page, stage, id)).document.finish)[0].values).toMatchObject({
    slope_r: 4,
    slope_g: 0.5,
  })
  await at(page, 'file-input').setInputFiles(file('<nothing/>'))
  await expect(page.getByText('holds no ColorCorrection')).toBeVisible()
  const download = page.waitForEvent('download')
  await at(page, 'file-save').click()
  const path = await (await download).path()
  expect(readFileSync(path, 'utf8')).toContain('<Slope>4 0.5 1</Slope>')
})

test('a curve is bent on its field: a point added by a click, moved by keys, dragged, taken away', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  const plain = await pixelAt(page, 0.5, 0.2)
  await at(page, 'add-treatment').click()
  await at(page, 'add-curves').click()
  await at(page, 'bend-all').click()
  const box = (await at(page, 'bend-field').boundingBox())!
  const points = at(page, 'bend-field').getByRole('slider')
  await expect(points).toHaveCount(2)
  await page.mouse.click(box.x + box.width * 0.45, box.y + box.height * 0.2)
  await expect(points).toHaveCount(3)
  await expect.poll(async () => (await pixelAt(page, 0.5, 0.2))[1]!).not.toBe(plain[1])
  const bent = async (): Promise<[number, number][]> => {
    await saved(page)
    return listed((await documentOf(page, stage, id)).document.finish)[0].values.all
  }
  const [, [x, y]] = (await bent()) as [unknown, [number, number]]
  await points.nth(1).focus()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Shift+ArrowRight')
  expect((await bent())[1]).toEqual([expect.closeTo(x + 0.1, 3), expect.closeTo(y - 0.01, 3)])
  // Not past its neighbour
  for (let i = 0; i < 12; i++) await page.keyboard.press('Shift+ArrowRight')
  expect((await bent())[1]![0]).toBeLessThan(1)
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowLeft')
  const point = (await points.nth(1).boundingBox())!
  await page.mouse.move(point.x + 5, point.y + 5)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.8, { steps: 4 })
  await page.mouse.up()
  expect((await bent())[1]![0]).toBeLessThan(0.5)
  await expect(at(page, 'bend-field')).toBeVisible()
  await points.nth(1).focus()
  await page.keyboard.press('Delete')
  await expect(points).toHaveCount(2)
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual(plain)
})

test('the instruments follow the picture, show what was before, and stay chosen', async ({ page, stage }) => {
  await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  await page.keyboard.press('i')
  await expect(at(page, 'light')).toBeVisible()
  await expect(at(page, 'mark-brightest')).toBeVisible()
  const words = (): Promise<string> => at(page, 'mark-brightest').innerText()
  const before = await words()
  const drawn = (name: string): Promise<string> =>
    at(page, name).evaluate(canvas => (canvas as HTMLCanvasElement).toDataURL())
  const first = await drawn('light-histogram')
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await type(at(page, 'value-stops'), '8')
  await expect.poll(words).not.toBe(before)
  expect(await words()).toMatch(/^100\.0 % brightest|^9\d\.\d % brightest/)
  await expect.poll(() => drawn('light-histogram')).not.toBe(first)
  const all = await drawn('light-wave')
  await at(page, 'light-channel').selectOption('red')
  await expect.poll(() => drawn('light-wave')).not.toBe(all)
  const display = await drawn('light-histogram')
  await at(page, 'light-scale').selectOption('stops')
  await expect.poll(() => drawn('light-histogram')).not.toBe(display)
  await saved(page)
  await page.reload()
  await at(page, 'ready').waitFor()
  await expect(at(page, 'light')).toBeVisible()
  await at(page, 'strip-soundings').click()
  await expect(at(page, 'soundings')).toBeVisible()
})
