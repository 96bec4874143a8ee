// A set of passes from elsewhere in the page: it is asked what is what, its grey depth becomes metres by two clicks, what
// stands between stands between, and the next file with the same layers is read as that one was.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { encodeCryptomatte, manifestOf } from '../../core/formats/cryptomatte/cryptomatte'
import { emptyWindow, writeExr, type ExrChannel } from '../../core/formats/exr/exr'
import { at, documentOf, expect, go, listed, newShot, pixelAt, pointAt, saved, test, type } from './stage'

const [WIDTH, HEIGHT] = [90, 60]
/** Left a red board at a depth of 0.8, right a green one at 0.3; with numbers of things and light in two parts. */
function set(folder: string, name: string, isTurned = false): string {
  const channel = (of: string, value: (isLeft: boolean) => number): ExrChannel => ({
    name: `Take.${of}`,
    type: 'float',
    linear: false,
    data: Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => value(i % WIDTH < WIDTH / 2 !== isTurned)),
  })
  const colour = (isLeft: boolean, c: number): number => (c === (isLeft ? 0 : 1) ? 0.6 : 0.02)
  const channels = ['R', 'G', 'B'].flatMap((letter, c) => [
    channel(`Sheet.${letter}`, isLeft => colour(isLeft, c)),
    channel(`DiffuseLight.${letter}`, isLeft => 0.75 * colour(isLeft, c)),
    channel(`Mirrored.${letter}`, isLeft => 0.25 * colour(isLeft, c)),
  ])
  channels.push(
    channel('Sheet.A', () => 1),
    channel('Away.V', isLeft => (isLeft ? 0.8 : 0.3)),
    channel('ThingNumber.I', isLeft => (isLeft ? 4 : 9)),
  )
  const window = emptyWindow(WIDTH, HEIGHT)
  const path = join(folder, name)
  writeFileSync(
    path,
    writeExr({ dataWindow: window, displayWindow: window, compression: 'zip', channels, attributes: [] }),
  )
  return path
}

test('is asked about, read, put in its depth by two clicks, and remembered', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'build')
  const add = at(page, 'add-layer').locator('input')
  await add.setInputFiles([set(stage.folder, 'boards.exr')])
  const asked = at(page, 'reading')
  await expect(asked).toContainText('Guessed from the names')
  // Nothing in their names says beauty or depth
  await expect(at(page, 'is-Take.Sheet.RGB')).toHaveValue('')
  await expect(at(page, 'is-Take.DiffuseLight.RGB')).toHaveValue('diffuse_direct')
  await expect(at(page, 'is-Take.Mirrored.RGB')).toHaveValue('reflection')
  await expect(at(page, 'is-Take.ThingNumber.I')).toHaveValue('object_id')
  await at(page, 'is-Take.Mirrored.RGB').selectOption('')
  await at(page, 'is-Take.Sheet.RGB').selectOption('beauty')
  await at(page, 'is-Take.Sheet.A').selectOption('alpha')
  // A quarter of the light is left out now
  await expect(at(page, 'reading-left')).toContainText('25 %')
  await at(page, 'is-Take.Mirrored.RGB').selectOption('reflection')
  await expect(at(page, 'reading-left')).toContainText('0.0 %')
  await at(page, 'is-Take.Away.V').selectOption('depth')
  await asked.locator('[data-test=depth-kind]').selectOption('grey')
  await at(page, 'reading-take').click()
  await expect(asked).toBeHidden()
  await expect(at(page, 'layer-boards')).toBeVisible()

  const point = async (end: string, u: number, metres: string): Promise<void> => {
    await at(page, `depth-${end}-click`).click()
    const { x, y } = await pointAt(page, u, 0.5)
    await page.mouse.click(x, y)
    await expect(at(page, `depth-${end}-click`)).toHaveText('by a click')
    await type(at(page, `depth-${end}-metres`), metres)
  }
  await point('near', 0.25, '3')
  await point('far', 0.75, '20')
  await saved(page)
  const layer = async () =>
    listed((await documentOf(page, stage, id)).document.build.layers).find(({ name }) => name === 'boards')
  const { file } = await layer()
  expect(file.reading.depth).toMatchObject({ kind: 'grey' })
  expect(file.reading.depth.near.metres).toBe(3)
  expect(file.reading.depth.near.value).toBeCloseTo(0.8, 5)
  expect(file.reading.depth.far.value).toBeCloseTo(0.3, 5)
  expect(file.reading.depth.far.metres).toBe(20)
  expect(file.objects).toEqual(['number 4', 'number 9'])
  expect(file.passes).toEqual(
    expect.arrayContaining(['beauty', 'alpha', 'diffuse_direct', 'reflection', 'depth', 'object_id', 'crypto_object']),
  )

  // What stands at 8 m is behind the red board and before the green one
  const red = await pixelAt(page, 0.25, 0.5)
  expect(red[0]! - red[1]!).toBeGreaterThan(100)
  await at(page, 'add-kind').click()
  await at(page, 'add-wash').click()
  await type(at(page, 'value-distance'), '8')
  await expect.poll(async () => (await pixelAt(page, 0.75, 0.5))[0]).toBeGreaterThan(90)
  expect(await pixelAt(page, 0.25, 0.5)).toEqual(red)
  // A thing is picked by its number, and is at the desk
  await at(page, 'layer-boards').locator('.title').click()
  await page.mouse.click(...(Object.values(await pointAt(page, 0.25, 0.5)) as [number, number]))
  await expect(page.locator('.picked')).toContainText('number 4')

  // The same again, after the page was loaded anew, and another file of its kind
  await saved(page)
  await page.reload()
  await at(page, 'ready').waitFor()
  await go(page, 'build')
  await expect.poll(async () => (await pixelAt(page, 0.25, 0.5))[0]).toBe(red[0])
  await add.setInputFiles([set(stage.folder, 'more boards.exr')])
  await expect(asked).toContainText('last file with the same layers')
  await expect(at(page, 'is-Take.Sheet.RGB')).toHaveValue('beauty')
  await expect(asked.locator('[data-test=depth-kind]')).toHaveValue('grey')
  await at(page, 'reading-close').click()
  await expect(at(page, 'layer-more boards')).toHaveCount(0)

  // What is what can be said again: here it is no set of passes but a picture and numbers
  await at(page, 'layer-boards').locator('.title').click()
  await at(page, 'read-again').click()
  await at(page, 'is-Take.Away.V').selectOption('')
  await at(page, 'reading-take').click()
  await expect(asked).toBeHidden()
  await saved(page)
  expect((await layer()).file.passes).not.toContain('depth')
  expect((await layer()).file.reading.depth).toBeUndefined()
})

test('a file that cannot be read so says why, and nothing is lost', async ({ page, stage }) => {
  await newShot(page, stage)
  await go(page, 'build')
  await at(page, 'add-layer')
    .locator('input')
    .setInputFiles([set(stage.folder, 'boards again.exr')])
  await expect(at(page, 'reading')).toBeVisible()
  await at(page, 'is-Take.DiffuseLight.RGB').selectOption('')
  await at(page, 'is-Take.Mirrored.RGB').selectOption('')
  await expect(at(page, 'reading-fault')).toContainText('Say which layer is the beauty')
  await expect(at(page, 'reading-take')).toBeDisabled()
  await at(page, 'reading-close').click()
  await expect(at(page, 'layer-boards again')).toHaveCount(0)
  await expect(at(page, 'save-state')).toHaveText('saved')
})

test('numbered files are the frames of one render, asked about once', async ({ page, stage }) => {
  const begun = await newShot(page, stage)
  await saved(page)
  const { document } = await documentOf(page, stage, begun)
  document.frames = { first: 3, last: 4 }
  const answer = await page.request.post(`${stage.address}/api/shots`, { data: { name: 'numbered', document } })
  const { id } = (await answer.json()) as { id: string }
  await page.goto(`${stage.address}/shot/${id}?station=build`)
  await at(page, 'ready').waitFor()
  const files = [set(stage.folder, 'run.0101.exr'), set(stage.folder, 'run.0102.exr', true)]
  await at(page, 'add-layer').locator('input').setInputFiles(files)
  await at(page, 'is-Take.Sheet.RGB').selectOption('beauty')
  await at(page, 'is-Take.Sheet.A').selectOption('alpha')
  await at(page, 'reading-take').click()
  await expect(at(page, 'reading')).toBeHidden()
  const isRed = async (u: number): Promise<boolean> => {
    const [r, g] = (await pixelAt(page, u, 0.5)) as [number, number]
    return r > 2 * g
  }
  await expect.poll(() => isRed(0.25)).toBe(true)
  await saved(page)
  const { file } = listed((await documentOf(page, stage, id)).document.build.layers).find(
    ({ kind, file }) => kind === 'render' && file,
  )
  expect(file.frames).toMatchObject({ first: 3 })
  expect(file.frames.blobs).toHaveLength(2)
  await at(page, 'frame').fill('4')
  await at(page, 'frame').press('Enter')
  await expect.poll(() => isRed(0.75)).toBe(true)
  expect(await isRed(0.25)).toBe(false)
})

test('names that stand in a file beside come with it, and one is told where they are', async ({ page, stage }) => {
  await newShot(page, stage)
  await go(page, 'build')
  const window = emptyWindow(WIDTH, HEIGHT)
  const pixels = WIDTH * HEIGHT
  const isLeft = (i: number): boolean => i % WIDTH < WIDTH / 2
  const coverage = {
    ranks: 1,
    index: Uint16Array.from({ length: pixels }, (_, i) => (isLeft(i) ? 1 : 2)),
    weight: new Float32Array(pixels).fill(1),
  }
  const told = encodeCryptomatte('Things', coverage, pixels, ['left board', 'right board'], 'boards.names.json')
  const grey = ['R', 'G', 'B', 'A'].map((name): ExrChannel => {
    return { name, type: 'float', linear: false, data: new Float32Array(pixels).fill(name === 'A' ? 1 : 0.4) }
  })
  const path = join(stage.folder, 'named boards.exr')
  const image = { dataWindow: window, displayWindow: window, compression: 'zip' as const }
  writeFileSync(path, writeExr({ ...image, channels: [...grey, ...told.channels], attributes: [...told.attributes] }))
  const names = join(stage.folder, 'boards.names.json')
  writeFileSync(names, manifestOf(['left board', 'right board']))
  const add = at(page, 'add-layer').locator('input')
  await add.setInputFiles([path])
  await expect(at(page, 'set-Things')).toContainText('its names are in boards.names.json')
  await at(page, 'reading-close').click()
  // Alone they belong to nothing
  await add.setInputFiles([names])
  await expect(page.getByText('“boards.names.json” holds names')).toBeVisible()
  await add.setInputFiles([names, path])
  await expect(at(page, 'set-Things')).toContainText('2')
  await expect(at(page, 'set-Things')).not.toContainText('its names')
  await at(page, 'reading-take').click()
  await expect(at(page, 'layer-named boards')).toContainText('2 objects')
})
