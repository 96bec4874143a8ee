// The scene that sits in its plate: stand-ins, names, lamps, pins, known points, the lens, values over time, a track.
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { at, documentOf, expect, go, newShot, pointAt, saved, test, listed, type as typed } from './stage'
import { project } from '../../core/match/project'
import { DEFAULT_CAMERA } from '../../core/shot/document'
import { cameraAt } from '../../core/shot/scene'
import { writeTrack } from '../../core/track/track'

type Page = Parameters<typeof at>[0]
const ASPECT = 240 / 160
async function cameraOf(page: Page, stage: Parameters<typeof documentOf>[1], id: string) {
  return cameraAt((await documentOf(page, stage, id)).document.scene.camera, 1)
}
const clickAt = async (page: Page, u: number, v: number): Promise<void> => {
  const p = await pointAt(page, u, v)
  await page.mouse.move(p.x, p.y)
  await page.mouse.click(p.x, p.y)
}

test('a stand-in is drawn on the ground, renamed, copied, locked, and rendered as a catcher of the plate’s colour', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'scene')
  await at(page, 'part-things').click()
  const camera = await cameraOf(page, stage, id)
  const seen = (x: number, y: number, z: number): [number, number] => {
    const { u, v } = project(camera, ASPECT, [x, y, z])
    return [u, v]
  }
  await at(page, 'draw-box').click()
  await expect(at(page, 'draw-how')).toContainText('two ends of an edge')
  for (const [x, y, z] of [
    [-2.2, 0, -6],
    [-1.4, 0, -6],
    [-1.4, 0, -6.6],
  ] as const)
    await clickAt(page, ...seen(x, y, z))
  await clickAt(page, ...seen(-1.4, 0.9, -6.6))
  await saved(page)
  await expect(at(page, 'object-box')).toContainText('shadow catcher')
  const [box] = listed((await documentOf(page, stage, id)).document.scene.added)
  for (const [field, value] of [
    ['width', 0.8],
    ['depth', 0.6],
    ['height', 0.9],
  ] as const)
    expect(Math.abs(box[field] - value), field).toBeLessThan(0.05)
  // Its name, a copy of it, its lock
  await at(page, 'thing-name').fill('crate')
  await at(page, 'thing-name').press('Enter')
  await expect(at(page, 'object-crate')).toBeVisible()
  await at(page, 'thing-copy').click()
  await expect(at(page, 'object-crate 2')).toBeVisible()
  await at(page, 'lock').click()
  await expect(at(page, 'handle-slide')).toHaveCount(0)
  await at(page, 'lock').click()
  await expect(at(page, 'handle-slide')).toBeVisible()
  // A taken name is refused with a sentence
  await at(page, 'thing-name').fill('floor')
  await at(page, 'thing-name').press('Enter')
  await expect(page.getByText('There is already something called “floor”.')).toBeVisible()
  await at(page, 'thing-remove').click()
  await expect(at(page, 'object-crate 2')).toHaveCount(0)
  // Grouped, it goes along
  await at(page, 'object-crate').click({ modifiers: ['Shift'] })
  await at(page, 'object-tall block').click({ modifiers: ['Shift'] })
  await at(page, 'group').click()
  await saved(page)
  const before = (await documentOf(page, stage, id)).document.scene.objects
  expect([before.crate.group, before['tall block'].group]).toEqual(['group 1', 'group 1'])
  await at(page, 'object-crate').click()
  const handle = (await at(page, 'handle-slide').boundingBox())!
  await page.mouse.move(handle.x + handle.width / 2, handle.y + handle.height / 2)
  await page.mouse.down()
  await page.mouse.move(handle.x + handle.width / 2 + 40, handle.y + handle.height / 2, { steps: 4 })
  await page.mouse.up()
  await saved(page)
  const after = (await documentOf(page, stage, id)).document.scene.objects
  expect(after.crate.position[0]).toBeGreaterThan(before.crate.position[0] + 0.1)
  expect(after['tall block'].position[0]).toBeGreaterThan(0.1)
  // Lamps of every kind, in lumen, aimed at it
  await at(page, 'part-light').click()
  for (const kind of ['disc', 'tube', 'ball', 'spot']) await at(page, `add-${kind}`).click()
  await page.locator('[data-test=light-spot] [data-test=light-aim]').selectOption('crate')
  await page.locator('[data-test=light-spot] [data-test=light-unit]').selectOption('lumen')
  await saved(page)
  const lights = listed((await documentOf(page, stage, id)).document.scene.lights)
  expect(lights.map(({ kind }) => kind)).toEqual(['disc', 'tube', 'ball', 'spot'])
  expect(lights[3]).toMatchObject({ aim: 'crate', unit: 'lumen', amount: 1000 })
  // Rendered, the new catcher has its own shadow trims
  await go(page, 'passes')
  await typed(at(page, 'samples'), '4')
  await at(page, 'render').click()
  await expect(at(page, 'sheet-catcher_id')).toBeVisible({ timeout: 60000 })
  expect((await documentOf(page, stage, id)).document.passes.file.objects).toContain('crate')
})

test('the sun is read from a shadow, and from place and hour', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'scene')
  await at(page, 'part-light').click()
  await at(page, 'add-sun').click()
  const camera = await cameraOf(page, stage, id)
  const seen = (x: number, y: number, z: number): [number, number] => {
    const { u, v } = project(camera, ASPECT, [x, y, z])
    return [u, v]
  }
  await at(page, 'sun-shadow').click()
  await expect(at(page, 'tool-overlay')).toHaveClass(/tool/)
  // Light from the left behind, 45 degrees high: a 1 m thing throws 1 m to the right and away
  for (const place of [seen(0, 0, -5), seen(0, 1, -5), seen(Math.SQRT1_2, 0, -5 - Math.SQRT1_2)])
    await clickAt(page, ...place)
  await expect(page.getByText(/The sun stands 4[345]\.\d° high/)).toBeVisible()
  await saved(page)
  const [sun] = listed((await documentOf(page, stage, id)).document.scene.lights)
  expect(Math.abs(sun.elevation - 45)).toBeLessThan(2)
  expect(Math.abs(((sun.azimuth + 360) % 360) - 225)).toBeLessThan(4)
  await at(page, 'sun-sky').click()
  // Reda and Andreas' example (NREL/TP-560-34302)
  await at(page, 'sky-latitude').fill('39.742476')
  await at(page, 'sky-longitude').fill('-105.1786')
  await at(page, 'sky-when').fill('2003-10-17T12:30')
  await at(page, 'sky-zone').fill('-7')
  await at(page, 'sky-use').click()
  await saved(page)
  await expect
    .poll(async () => listed((await documentOf(page, stage, id)).document.scene.lights)[0].azimuth)
    .toBeGreaterThan(193.9)
  expect(Math.abs(listed((await documentOf(page, stage, id)).document.scene.lights)[0].elevation - 39.9)).toBeLessThan(
    0.3,
  )
  await at(page, 'sky-latitude').fill('north')
  await at(page, 'sky-use').click()
  await expect(page.getByText('Latitude “north” is no number.')).toBeVisible()
})

test('the camera follows known points; a thing is pinned to the plate', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'scene')
  await at(page, 'part-camera').click()
  const truth = cameraAt(
    { ...DEFAULT_CAMERA, ...(await documentOf(page, stage, id)).document.scene.camera, heading: 3, y: 1.9 },
    1,
  )
  await at(page, 'known-add').click()
  await page.waitForTimeout(2500)
  const now = await cameraOf(page, stage, id)
  let count = 0
  for (const corner of [
    [-0.5, 2, -5],
    [0.5, 2, -5],
    [1.9, 0, -6],
    [1.1, 0.7, -6],
    [1.9, 0.7, -6],
  ] as const) {
    const here = project(now, ASPECT, [...corner])
    const there = project(truth, ASPECT, [...corner])
    await clickAt(page, here.u, here.v)
    await expect(at(page, 'known-add')).toContainText('now click where it belongs')
    await clickAt(page, there.u, there.v)
    await expect(at(page, `known-${count++}`)).toBeVisible()
  }
  await page.keyboard.press('Escape')
  await page.locator('[data-test=match-keep]').count()
  await expect(at(page, 'known-result')).toBeVisible()
  await at(page, 'known-use').click()
  await saved(page)
  const found = (await documentOf(page, stage, id)).document.scene.camera
  expect(Math.abs(found.heading - 3)).toBeLessThan(1.5)
  expect(Math.abs(found.y - 1.9)).toBeLessThan(0.3)
  // Pins: the low block is dragged by a corner
  await at(page, 'part-things').click()
  await at(page, 'object-low block').click()
  await at(page, 'pin').click()
  await page.waitForTimeout(2500)
  const camera = await cameraOf(page, stage, id)
  const corner = project(camera, ASPECT, [1.1, 0.7, -6])
  await clickAt(page, corner.u, corner.v)
  await expect(at(page, 'pin-handle')).toHaveCount(1)
  const grip = await pointAt(page, corner.u, corner.v)
  const to = await pointAt(page, corner.u - 0.08, corner.v)
  await page.mouse.move(grip.x, grip.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 5 })
  await page.mouse.up()
  await saved(page)
  await expect
    .poll(async () => (await documentOf(page, stage, id)).document.scene.objects['low block']?.position?.[0] ?? 0)
    .toBeLessThan(-0.2)
  const { objects } = (await documentOf(page, stage, id)).document.scene
  const moved = objects['low block'].position
  const shown = project(camera, ASPECT, [1.1 + moved[0], 0.7 + moved[1], -6 + moved[2]])
  expect(Math.abs(shown.u - (corner.u - 0.08))).toBeLessThan(0.01)
})

test('the lens is straightened from drawn lines, and the finished picture gets its bend back', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'plate')
  await at(page, 'lens-draw').click()
  // A bulging line along the top: 3 % at its middle
  for (const [u, v] of [
    [0.05, 0.1],
    [0.3, 0.06],
    [0.5, 0.05],
    [0.7, 0.06],
    [0.95, 0.1],
  ] as const)
    await clickAt(page, u, v)
  await page.keyboard.press('Enter')
  await expect(at(page, 'lens-result')).toBeVisible()
  await at(page, 'lens-use').click()
  await saved(page)
  const { lens } = (await documentOf(page, stage, id)).document
  expect(lens.k1).toBeLessThan(-0.01)
  await expect(page.getByText(/px wider and/)).toBeVisible()
  // A straight line through the middle says nothing
  await page.getByText('take the lines away').click()
  await at(page, 'lens-draw').click()
  await at(page, 'lens-draw').click()
  for (const u of [0.1, 0.5, 0.9]) await clickAt(page, u, 0.5)
  await page.keyboard.press('Enter')
  await expect(at(page, 'lens-fault')).toContainText('run through the middle')
  await go(page, 'finish')
  await expect(page.locator('canvas').first()).toBeVisible()
})

test('values over time: a key by the menu, moved in the sheet, drift, and all of it undone', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'plate')
  await typed(page.getByRole('spinbutton', { name: 'Last frame', exact: true }), '25')
  await saved(page)
  await go(page, 'scene')
  await at(page, 'part-camera').click()
  await at(page, 'camera-pitch').locator('.value').click({ button: 'right' })
  await at(page, 'menu-curves').click()
  await expect(at(page, 'curves')).toContainText('Camera, pitch')
  await saved(page)
  // A second key at frame 13
  await at(page, 'frame').fill('13')
  await at(page, 'frame').press('Enter')
  await typed(at(page, 'camera-pitch').locator('.value'), '-6')
  await saved(page)
  await expect(at(page, 'key-pitch-13')).toBeVisible()
  const key = (await at(page, 'key-pitch-13').boundingBox())!
  // The time line below has the same scale of frames: its mark of frame 13 stands under the key
  const bar = (await at(page, 'frames').boundingBox())!
  const perFrame = bar.width / 25
  expect(Math.abs(key.x + key.width / 2 - (bar.x + 12.5 * perFrame))).toBeLessThan(1)
  await page.mouse.move(key.x + key.width / 2, key.y + key.height / 2)
  await page.mouse.down()
  await page.mouse.move(key.x + key.width / 2 + perFrame * 6, key.y + key.height / 2, { steps: 5 })
  await page.mouse.up()
  await saved(page)
  const keys = async (): Promise<{ frame: number; value: number; ease: string }[]> =>
    (await documentOf(page, stage, id)).document.scene.camera.pitch.keys
  expect((await keys()).map(entry => entry.frame)).toEqual([1, 19])
  await at(page, 'ease-hold').click()
  await saved(page)
  expect((await keys())[1]!.ease).toBe('hold')
  await at(page, 'keys-copy').click()
  await at(page, 'frame').fill('25')
  await at(page, 'frame').press('Enter')
  await at(page, 'keys-paste').click()
  await saved(page)
  expect((await keys()).map(entry => entry.frame)).toEqual([1, 19, 25])
  await typed(at(page, 'drift'), '1.5')
  await saved(page)
  expect((await documentOf(page, stage, id)).document.scene.camera.pitch).toMatchObject({ drift: 1.5, perSecond: 24 })
  await at(page, 'curve-graph').focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Delete')
  await saved(page)
  expect(typeof (await documentOf(page, stage, id)).document.scene.camera.pitch).toBe('number')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await keys())?.length).toBe(3)
})

test('a camera track is brought in, told where it does not fit, and a thing is set on one of its points', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  const file = join(stage.folder, 'walk.json')
  const broken = join(stage.folder, 'broken.csv')
  writeFileSync(
    file,
    writeTrack({
      rate: { numerator: 25, denominator: 1 },
      first: 1,
      sensorWidth: 36,
      frames: Array.from({ length: 10 }, (_, i) => ({
        x: i * 0.05,
        y: 1.6,
        z: 0,
        heading: 0,
        pitch: -4,
        bank: 0,
        focalLength: 35,
      })),
      points: [{ name: 'mark', place: [-1, 0, -5] }],
    }),
  )
  writeFileSync(broken, 'frame,x,y,z,heading,pitch,bank,focalLength\n1,0,0,0,0,0,0,35\n5,0,0,0,0,0,0,35\n')
  await go(page, 'scene')
  await at(page, 'part-camera').click()
  await at(page, 'track-file').locator('input[type=file]').setInputFiles(broken)
  await expect(page.getByText(/frame 5 in line 3 comes where frame 2 should stand/)).toBeVisible()
  await at(page, 'track-file').locator('input[type=file]').setInputFiles(file)
  await expect(at(page, 'track-facts')).toContainText('10 frames at 25')
  await expect(at(page, 'track-fault').first()).toContainText('25')
  await saved(page)
  await at(page, 'part-things').click()
  await at(page, 'object-low block').click()
  await at(page, 'part-camera').click()
  await at(page, 'track-place').click()
  await at(page, 'track-point').first().click({ force: true })
  await saved(page)
  const { objects, camera } = (await documentOf(page, stage, id)).document.scene
  // Its foot's middle (1.5, 0, -6.4) comes to the mark
  objects['low block'].position.forEach((value: number, k: number) =>
    expect(Math.abs(value - [-2.5, 0, 1.4][k]!)).toBeLessThan(0.01),
  )
  expect(camera.x.keys).toHaveLength(10)
})

test('corners of a thing are pulled to where they belong in the plate, and let go', async ({ page, stage }) => {
  const id = await newShot(page, stage)
  await go(page, 'scene')
  await at(page, 'part-things').click()
  await at(page, 'object-low block').click()
  await at(page, 'pull').click()
  const grips = page.locator('[data-test^=corner-]')
  await expect(grips).toHaveCount(8)
  const camera = await cameraOf(page, stage, id)
  const pull = async (from: [number, number, number], across: number, down: number, shift = false) => {
    const { u, v } = project(camera, ASPECT, from)
    const [a, b] = [await pointAt(page, u, v), await pointAt(page, u + across, v + down)]
    await page.mouse.move(a.x, a.y)
    if (shift) await page.keyboard.down('Shift')
    await page.mouse.down()
    await page.mouse.move(b.x, b.y, { steps: 5 })
    await page.mouse.up()
    if (shift) await page.keyboard.up('Shift')
    await saved(page)
    return { u: u + across, v: v + down }
  }
  const rows = async (): Promise<number[][]> =>
    (await documentOf(page, stage, id)).document.scene.objects['low block']?.pulled ?? []
  // The upper left corner before goes with the picture: it is seen where it was let go, as far away as before
  const top = await pull([1.1, 0.7, -6], -0.05, -0.06)
  const [[, x, y, z]] = (await rows()) as [number[]]
  const shown = project(camera, ASPECT, [1.1 + x!, 0.7 + y!, -6 + z!])
  expect(Math.hypot(shown.u - top.u, shown.v - top.v)).toBeLessThan(0.006)
  expect(shown.metres).toBeCloseTo(project(camera, ASPECT, [1.1, 0.7, -6]).metres, 2)
  // One at its foot goes along the ground
  const foot = await pull([1.9, 0, -6], 0.04, 0.03)
  const [, [, fx, fy, fz]] = (await rows()) as [number[], number[]]
  expect(fy).toBeCloseTo(0, 4)
  const stands = project(camera, ASPECT, [1.9 + fx!, 0, -6 + fz!])
  expect(Math.hypot(stands.u - foot.u, stands.v - foot.v)).toBeLessThan(0.006)
  // With Shift straight up
  await pull([1.9, 0.7, -6], 0.03, -0.05, true)
  const last = (await rows()).at(-1)!
  expect([last[1], last[3]]).toEqual([0, 0])
  expect(last[2]).toBeGreaterThan(0.1)
  expect(await rows()).toHaveLength(3)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await rows()).length).toBe(2)
  await at(page, 'pulls-off').click()
  await expect.poll(async () => (await rows()).length).toBe(0)
  await at(page, 'pull').click()
  await expect(grips).toHaveCount(0)
})
