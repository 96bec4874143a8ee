/* eslint-disable @typescript-eslint/no-explicit-any -- what a page holds has no type here */
// The demo's bell house: three things that are seen through its panes get another colour, by what is seen through glass;
// what stands beside the panes keeps its own.
import { demoFile } from '../../host/demofile'
import { coverageOf, namesOf, openPassFile, unpacking } from '../../core/render/openpasses'
import { bellHouse, shotOf } from './demoShot'
import { at, documentOf, expect, listed, pixelAt, pointAt, saved, test, type } from './stage'

const THINGS = ['bell', 'yoke', 'floor']
/** Where, of the frame, most is seen of each through glass alone; and of a thing that is there without glass. */
async function places(): Promise<Record<string, [number, number]>> {
  const file = await openPassFile(new Uint8Array(demoFile('bell house passes.exr')))
  const [through, straight] = await unpacking(() => [
    coverageOf(file, 'objects', 'through')!,
    coverageOf(file, 'objects', 'straight')!,
  ])
  const names = namesOf(file, 'objects')
  const { width, height } = file
  const shareOf = ({ index, weight, ranks }: typeof through, name: string, pixel: number): number => {
    for (let rank = pixel * ranks; rank < (pixel + 1) * ranks; rank++)
      if (names[index[rank]! - 1] === name) return weight[rank]!
    return 0
  }
  const where = (value: (pixel: number) => number): [number, number] => {
    let [best, most] = [0, -1]
    // All round it is so too
    for (let y = 4; y < height - 4; y += 2)
      for (let x = 4; x < width - 4; x += 2) {
        const least = Math.min(...[0, -3, 3, -3 * width, 3 * width].map(offset => value(y * width + x + offset)))
        if (least > most) [best, most] = [y * width + x, least]
      }
    expect(most).toBeGreaterThan(0.5)
    return [((best % width) + 0.5) / width, (Math.floor(best / width) + 0.5) / height]
  }
  return {
    ...Object.fromEntries(
      THINGS.map(name => [
        name,
        where(pixel => (shareOf(straight, 'glass panes', pixel) > 0.15 ? shareOf(through, name, pixel) : 0)),
      ]),
    ),
    frame: where(pixel => shareOf(straight, 'iron frame', pixel)),
  }
}

test('three things seen through glass are recoloured; the house is brought into focus by a click', async ({
  page,
  stage,
}) => {
  const document = await bellHouse(page, stage)
  for (const [id, layer] of Object.entries<any>(document.build.layers))
    if (layer.kind === 'picture') delete document.build.layers[id]
  // The picture as it was taken: focus is what is tried here
  delete document.finish.lampglow
  for (const line of ['evening', 'bellsharp', 'platenoise']) delete document.build.layers.render.treatments[line]
  const id = await shotOf(page, stage, 'through glass', document)
  const where = await places()
  await page.goto(`${stage.address}/shot/${id}?station=finish`)
  await at(page, 'ready').waitFor()
  // The bell house is there: its iron is dark before the bright sky
  await expect
    .poll(async () => {
      const most = Math.max(...(await pixelAt(page, ...where.frame!)))
      return most > 0 && most < 60
    })
    .toBe(true)
  const before = Object.fromEntries(
    await Promise.all(Object.entries(where).map(async ([name, place]) => [name, await pixelAt(page, ...place)])),
  ) as Record<string, number[]>
  // Picked one after another; it is asked what is meant: the pane, what is seen of the thing beside it, or all of it
  for (const [index, name] of THINGS.entries()) {
    const { x, y } = await pointAt(page, ...where[name]!)
    if (index) await page.keyboard.down('Shift')
    await page.mouse.click(x, y)
    await at(page, 'offered')
      .or(page.locator('.picked', { hasText: name }))
      .first()
      .waitFor()
    await at(page, 'offered')
      .locator('button', { hasText: `${name} through glass` })
      .click()
    await page.keyboard.up('Shift')
    await expect(at(page, 'offered')).toBeHidden()
  }
  await at(page, 'add-treatment').click()
  await at(page, 'add-recolour').click()
  await expect(at(page, 'choose')).toBeHidden()
  await at(page, 'treatment-recolour').locator('[data-test="matte-chip"]').click()
  await expect(at(page, 'term-add-picked')).toHaveText('+ bell, yoke, floor through glass')
  await at(page, 'term-add-picked').click()
  await saved(page)
  const [line] = listed((await documentOf(page, stage, id)).document.finish).filter(({ kind }) => kind === 'recolour')
  expect(listed(line.matte.terms)[0]).toMatchObject({ kind: 'names', seen: 'through', names: THINGS })
  await page.getByText('not seen', { exact: true }).click()
  await type(at(page, 'value-brightness'), '0')
  await page.getByText('take its colour', { exact: true }).click()
  const bell = await pointAt(page, ...where.bell!)
  await page.mouse.click(bell.x, bell.y)
  // All three change, the bell, whose colour was taken, to the blue that a new one has
  for (const name of THINGS)
    await expect
      .poll(async () => {
        const now = await pixelAt(page, ...where[name]!)
        return Math.max(...now.map((value, c) => Math.abs(value - before[name]![c]!)))
      }, name)
      .toBeGreaterThan(5)
  const [red, , blue] = await pixelAt(page, ...where.bell!)
  expect(blue! - red!).toBeGreaterThan(before.bell![2]! - before.bell![0]! + 10)
  expect(await pixelAt(page, ...where.frame!)).toEqual(before.frame)

  // What a click takes for sharp stays so; with the focus close by, its dark iron goes soft before the bright sky
  await at(page, 'add-treatment').click()
  await at(page, 'choose-search').fill('focus')
  await page.keyboard.press('Enter')
  await expect(at(page, 'choose')).toBeHidden()
  const focus = at(page, 'treatment-focus')
  await focus.getByText('take what is sharp').click()
  const frame = await pointAt(page, ...where.frame!)
  await page.mouse.click(frame.x, frame.y)
  await expect(focus.getByText('take what is sharp')).toBeVisible()
  const distance = async (): Promise<number> => {
    await saved(page)
    const lines = listed((await documentOf(page, stage, id)).document.finish)
    return lines.find(({ kind }) => kind === 'focus').values.distance
  }
  // The house stands seven to ten metres away
  await expect.poll(distance).toBeGreaterThan(8.2)
  expect(await distance()).toBeLessThan(10)
  await type(focus.locator('[data-test="value-factor"]'), '12')
  await expect.poll(async () => Math.max(...(await pixelAt(page, ...where.frame!)))).toBeLessThan(60)
  const sharp = await pixelAt(page, ...where.frame!)
  await type(focus.locator('[data-test="value-distance"]'), '1.5')
  await expect
    .poll(async () => {
      const now = await pixelAt(page, ...where.frame!)
      return Math.max(...now.map((value, c) => Math.abs(value - sharp[c]!)))
    })
    .toBeGreaterThan(10)
})
