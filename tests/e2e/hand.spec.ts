// The hand on mattes: chosen by a picture, held by handles on the picture, samples one after another; and the marks and
// the box of the instruments.
import type { Page } from '@playwright/test'
import { newDocument } from '../../core/shot/document'
import { addLayer, makeLayer } from '../../core/shot/layers'
import { slipOf, valuedTerm } from '../../core/shot/slip'
import { withKey } from '../../core/time/curve'
import { at, documentOf, expect, go, listed, newShot, pixelAt, saved, test, type, type Stage } from './stage'

const box = async (page: Page) => (await page.locator('canvas').first().boundingBox())!
const dragged = async (page: Page, name: string, dx: number, dy: number): Promise<void> => {
  const grip = (await at(page, name).boundingBox())!
  const [x, y] = [grip.x + grip.width / 2, grip.y + grip.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + dx, y + dy, { steps: 4 })
  await page.mouse.up()
}
const termsOf = async (
  page: Page,
  stage: Stage,
  id: string,
): Promise<{ kind: string; values: Record<string, number> }[]> => {
  await saved(page)
  const [line] = listed((await documentOf(page, stage, id)).document.finish)
  return listed(line.matte.terms) as never
}
/** A new shot whose picture is there, with one line at Finish. */
async function begun(page: Page, stage: Stage, kind: string): Promise<string> {
  const id = await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  await at(page, 'add-treatment').click()
  await at(page, `add-${kind}`).click()
  return id
}
/** The grey of a small picture of the chooser. */
const greyAt = (page: Page, name: string, u: number, v: number): Promise<number> =>
  at(page, name)
    .locator('canvas')
    .evaluate(
      (found, [u, v]) => {
        const { width, height } = found as HTMLCanvasElement
        const context = (found as HTMLCanvasElement).getContext('2d')!
        return context.getImageData(Math.floor(width * u!), Math.floor(height * v!), 1, 1).data[0]!
      },
      [u, v],
    )

test('a matte is chosen by what it holds; gradients and places are held by the hand', async ({ page, stage }) => {
  const id = await begun(page, stage, 'exposure')
  await at(page, 'matte-chip').click()
  await at(page, 'term-add').click()
  // All above, nothing below: as it would lie in this frame; a shape and a stroke in its middle
  await expect.poll(() => greyAt(page, 'term-add-gradient', 0.5, 0.05)).toBeGreaterThan(240)
  await expect.poll(() => greyAt(page, 'term-add-gradient', 0.5, 0.95)).toBeLessThan(10)
  await expect.poll(() => greyAt(page, 'term-add-shape', 0.5, 0.5)).toBeGreaterThan(240)
  await expect.poll(() => greyAt(page, 'term-add-brush', 0.5, 0.5)).toBeGreaterThan(100)
  // What a search took away is there when it comes back
  await at(page, 'choose-search').fill('strokes')
  await expect(at(page, 'term-add-gradient')).toHaveCount(0)
  await at(page, 'choose-search').fill('')
  expect(await greyAt(page, 'term-add-gradient', 0.5, 0.05)).toBeGreaterThan(240)
  await at(page, 'choose-search').fill('along a line')
  await at(page, 'choose-search').press('Enter')
  await expect(at(page, 'term-gradient')).toBeVisible()
  await expect(at(page, 'choose')).toBeHidden()
  // By its ends on the picture
  const before = (await termsOf(page, stage, id))[0]!.values
  const { width } = await box(page)
  const { frame } = (await documentOf(page, stage, id)).document
  const scale = frame.width / width
  await dragged(page, 'handle-to', 40, 25)
  const valuesNow = async (): Promise<Record<string, number>> => (await termsOf(page, stage, id))[0]!.values
  await expect.poll(async () => (await valuesNow()).to_x).not.toBe(before.to_x)
  const after = await valuesNow()
  expect(after.to_x! - before.to_x!).toBeCloseTo(40 * scale, -0.5)
  expect(after.to_y! - before.to_y!).toBeCloseTo(25 * scale, -0.5)
  expect([after.from_x, after.from_y]).toEqual([before.from_x, before.from_y])
  // By keys
  await at(page, 'handle-from').focus()
  await page.keyboard.press('Shift+ArrowRight')
  const from = async (): Promise<number> => (await valuesNow()).from_x!
  await expect.poll(from).toBe(before.from_x! + 10)
  await page.keyboard.press('Control+z')
  await expect.poll(from).toBe(before.from_x)
  // An ellipse has a third; with depth there is nothing to hold in the frame
  await at(page, 'value-shape').selectOption('ellipse')
  await expect(at(page, 'handle-aside')).toBeVisible()
  await at(page, 'value-shape').selectOption('depth')
  await expect(at(page, 'handle-to')).toHaveCount(0)
  await expect(at(page, 'value-near')).toBeVisible()
  await expect(at(page, 'value-to_x')).toHaveCount(0)
  // A place in the scene: its top goes up, its bottom stays
  await at(page, 'term-remove').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-place').click()
  await expect(at(page, 'choose')).toBeHidden()
  await expect(at(page, 'handle-top')).toBeVisible()
  const low = await valuesNow()
  await dragged(page, 'handle-top', 0, -30)
  await expect.poll(async () => (await valuesNow()).up).toBeGreaterThan(low.up! + 0.05)
  const high = await valuesNow()
  expect(high.y! - high.up! / 2).toBeCloseTo(low.y! - low.up! / 2, 2)
  await at(page, 'matte-chip').click()
  await expect(at(page, 'handle-top')).toHaveCount(0)
})

test('colours are taken one after another, and taken away; a swatch goes by a click', async ({ page, stage }) => {
  const id = await begun(page, stage, 'exposure')
  await at(page, 'matte-chip').click()
  await at(page, 'term-add').click()
  await at(page, 'term-add-colour').click()
  await expect(at(page, 'choose')).toBeHidden()
  const { x, y, width, height } = await box(page)
  const press = (u: number, v: number): Promise<void> => page.mouse.click(x + width * u, y + height * v)
  await press(0.5, 0.2)
  await at(page, 'term-take-more').click()
  await press(0.3, 0.8)
  await expect(at(page, 'swatch-more')).toHaveCount(1)
  await expect(at(page, 'term-take-more')).toHaveAttribute('aria-pressed', 'true')
  await press(0.7, 0.9)
  await expect(at(page, 'swatch-more')).toHaveCount(2)
  await at(page, 'term-take-more').click()
  await at(page, 'term-take-less').click()
  await press(0.2, 0.3)
  await expect(at(page, 'swatch-less')).toHaveCount(1)
  await at(page, 'term-take-less').click()
  await press(0.5, 0.5)
  await expect(at(page, 'swatch-less')).toHaveCount(1)
  await at(page, 'swatch-more').first().click()
  await expect(at(page, 'swatch-more')).toHaveCount(1)
  const taken = async (): Promise<number[]> => {
    const [{ values }] = (await termsOf(page, stage, id)) as unknown as [{ values: Record<string, number[][]> }]
    return [values.more!.length, values.less!.length]
  }
  await expect.poll(taken).toEqual([1, 1])
})

test('what one wants to know of is marked on the picture; the instruments look at a box, or at what is in view', async ({
  page,
  stage,
}) => {
  await newShot(page, stage)
  await go(page, 'finish')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([0, 0, 0])
  await page.keyboard.press('i')
  await at(page, 'add-treatment').click()
  await at(page, 'add-exposure').click()
  await type(at(page, 'value-stops'), '9')
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).toEqual([255, 255, 255])
  const line = async (): Promise<string[]> => {
    const found: string[] = []
    for (let i = 0; i < 16; i++) found.push((await pixelAt(page, 0.5 + i / 640, 0.2)).join())
    return found
  }
  expect(new Set(await line())).toEqual(new Set(['255,255,255']))
  await at(page, 'mark-brightest').click()
  await expect.poll(async () => new Set(await line()).size).toBe(2)
  await expect(at(page, 'mark-brightest')).toHaveAttribute('aria-pressed', 'true')
  // Marks are there while the strip that tells of them is
  await at(page, 'strip-soundings').click()
  await expect.poll(async () => new Set(await line()).size).toBe(1)
  await at(page, 'strip-light').click()
  await expect.poll(async () => new Set(await line()).size).toBe(2)
  await at(page, 'mark-brightest').click()
  await expect.poll(async () => new Set(await line()).size).toBe(1)
  // Colours on another plane
  const drawn = (): Promise<string> =>
    at(page, 'light-vectors').evaluate(canvas => (canvas as HTMLCanvasElement).toDataURL())
  const chroma = await drawn()
  await at(page, 'light-plane').selectOption('xy')
  await expect.poll(drawn).not.toBe(chroma)
  // A box over the dark
  await type(at(page, 'value-stops'), '-12')
  const bars = (): Promise<string> =>
    at(page, 'light-histogram').evaluate(canvas => (canvas as HTMLCanvasElement).toDataURL())
  await expect.poll(() => pixelAt(page, 0.5, 0.2)).not.toEqual([255, 255, 255])
  await type(at(page, 'value-stops'), '0')
  await at(page, 'light-of').selectOption('box')
  const { x, y, width, height } = await box(page)
  await page.mouse.move(x + width * 0.4, y + height * 0.1)
  await page.mouse.down()
  await page.mouse.move(x + width * 0.6, y + height * 0.3, { steps: 3 })
  await page.mouse.up()
  await expect(at(page, 'measured-middle')).toBeVisible()
  await page.waitForTimeout(500)
  const boxed = await bars()
  await dragged(page, 'measured-middle', 0, height * 0.5)
  await expect.poll(bars).not.toBe(boxed)
  const moved = await bars()
  await at(page, 'light-of').selectOption('whole')
  await expect(at(page, 'measured-middle')).toHaveCount(0)
  await expect.poll(bars).not.toBe(moved)
})

test('a colour is chosen by hue and strength on its field; where light is parted is drawn on the histogram', async ({
  page,
  stage,
}) => {
  const id = await begun(page, stage, 'tones')
  await expect(at(page, 'choose')).toBeHidden()
  const valuesNow = async (): Promise<Record<string, never>> => {
    await saved(page)
    return listed((await documentOf(page, stage, id)).document.finish)[0].values
  }
  const colourNow = async (): Promise<number[]> => (await valuesNow()).shadow_colour! as number[]
  // Red is to the right, by the definition of OKLCh between magenta and yellow: 0° has red above green above nothing
  await at(page, 'colour-swatch').first().click()
  const disc = (await at(page, 'colour-field').locator('canvas').boundingBox())!
  await page.mouse.click(disc.x + disc.width * 0.9, disc.y + disc.height / 2)
  await expect.poll(async () => (await colourNow())[0]! > 1 && (await colourNow())[1]! < 1).toBe(true)
  const [red, green, blue] = await colourNow()
  const cones = [
    0.4122214708 * red! + 0.5363325363 * green! + 0.0514459929 * blue!,
    0.2119034982 * red! + 0.6806995451 * green! + 0.1073969566 * blue!,
    0.0883024619 * red! + 0.2817188376 * green! + 0.6299787005 * blue!,
  ].map(Math.cbrt)
  // As light as white was (OKLab), with no b, and a as far as four fifths of the field
  expect(0.2104542553 * cones[0]! + 0.793617785 * cones[1]! - 0.0040720468 * cones[2]!).toBeCloseTo(1, 2)
  expect(0.0259040371 * cones[0]! + 0.7827717662 * cones[1]! - 0.808675766 * cones[2]!).toBeCloseTo(0, 1)
  expect(1.9779984951 * cones[0]! - 2.428592205 * cones[1]! + 0.4505937099 * cones[2]!).toBeCloseTo(0.32, 1)
  // By keys, and back to no colour
  await at(page, 'colour-dot').focus()
  await page.keyboard.press('Shift+ArrowLeft')
  await expect.poll(async () => (await colourNow())[2]! < blue!).toBe(true)
  await at(page, 'colour-grey').click()
  await expect.poll(async () => (await colourNow()).every(value => Math.abs(value - 1) < 2e-3)).toBe(true)
  // Borders on the histogram: dragged, and by keys
  await at(page, 'borders').click()
  await expect(at(page, 'light')).toBeVisible()
  await expect(at(page, 'light-scale')).toBeDisabled()
  const { width } = (await at(page, 'tone-borders').boundingBox())!
  const before = (await valuesNow()).dark! as number
  await dragged(page, 'border-dark', width / 10, 0)
  // Two of twenty stops
  await expect.poll(async () => Math.abs(((await valuesNow()).dark! as number) - before - 2)).toBeLessThan(0.15)
  const pulled = (await valuesNow()).dark! as number
  await at(page, 'border-dark').focus()
  await page.keyboard.press('ArrowLeft')
  await expect.poll(async () => (await valuesNow()).dark! as number).toBeCloseTo(pulled - 0.1, 5)
})

test('a veil dissolves a layer in patches over twenty frames; pinned pixels show it over time', async ({
  page,
  request,
  stage,
}) => {
  const document = newDocument(160, 96)
  document.frames = { first: 1, last: 20 }
  // Pure blue over all that is farther than half a kilometre, where the noise says so: by level, which has two keys
  const noise = valuedTerm('noise', document.frame)
  noise.values = { ...noise.values, size: 40, contrast: 2.5 }
  noise.values.level = withKey(withKey(-1, 1, -1, 'linear'), 20, 2, 'linear')
  addLayer(document, {
    ...makeLayer('wash', { colour: [0, 0, 1], distance: 500 }),
    ...{ name: 'blue', opacity: 1, matte: slipOf(noise) },
  } as never)
  const answer = await request.post(`${stage.address}/api/shots`, { data: { name: 'a veil', document } })
  expect(answer.ok(), await answer.text()).toBe(true)
  const { id } = (await answer.json()) as { id: string }
  await page.goto(`${stage.address}/shot/${id}?station=finish`)
  await at(page, 'ready').waitFor()
  /** How much of the picture is blue. */
  const blue = (): Promise<number> =>
    at(page, 'picture').evaluate((canvas: HTMLCanvasElement) => {
      const { width, height } = canvas
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, width, height)
      let sum = 0
      for (let i = 2; i < data.length; i += 4) sum += data[i]!
      return sum / 255 / (data.length / 4)
    })
  const to = async (frame: number): Promise<void> => {
    await at(page, 'frame').fill(String(frame))
    await at(page, 'frame').press('Enter')
  }
  await expect.poll(blue).toBeLessThan(0.02)
  let before = 0
  for (const frame of [7, 10, 13]) {
    await to(frame)
    await expect.poll(blue).toBeGreaterThan(before + 0.05)
    await page.waitForTimeout(300)
    before = await blue()
    // In patches, not as a whole: some of it wholly, some not at all
    if (frame === 10) {
      const codes = await at(page, 'picture').evaluate((canvas: HTMLCanvasElement) => [
        ...canvas
          .getContext('2d')!
          .getImageData(0, 0, canvas.width, canvas.height)
          .data.filter((_, i) => i % 4 === 2),
      ])
      expect(codes.filter(code => code < 10).length / codes.length).toBeGreaterThan(0.05)
      expect(codes.filter(code => code > 245).length / codes.length).toBeGreaterThan(0.05)
    }
  }
  await to(20)
  await expect.poll(blue).toBeGreaterThan(0.98)
  // Over time: nothing at first, all at last, and never back
  await at(page, 'strip-pixels').click()
  await at(page, 'pin-add').click()
  const { x, y, width, height } = await box(page)
  await page.mouse.click(x + width * 0.3, y + height * 0.4)
  await page.mouse.click(x + width * 0.7, y + height * 0.6)
  await expect(at(page, 'pin')).toHaveCount(2)
  await at(page, 'pin-channel').selectOption('blue')
  const line = page.locator('[data-test=pins] .apexcharts-line-series path.apexcharts-line').first()
  await expect(line).toBeVisible()
  const heights = (): Promise<number[]> =>
    line.evaluate(path => {
      const long = (path as SVGPathElement).getTotalLength()
      return Array.from({ length: 21 }, (_, i) => (path as SVGPathElement).getPointAtLength((i / 20) * long).y)
    })
  // Higher is further up
  await expect.poll(async () => Math.min(...(await heights())) < (await heights())[0]! - 20).toBe(true)
  const found = await heights()
  found.slice(1).forEach((value, i) => expect(value).toBeLessThan(found[i]! + 0.5))
  await expect(at(page, 'pin').first()).toContainText('1.0000')
  await at(page, 'pin-remove').first().click()
  await expect(at(page, 'pin-grip')).toHaveCount(1)
})
