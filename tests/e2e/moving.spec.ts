// The moving shot, and the ground that catches shadows.
import { DOCUMENT_VERSION } from '../../core/shot/document'
import { execFileSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { at, documentOf, expect, go, newShot, saved, test, type } from './stage'
import { writeTrack } from '../../core/track/track'

test('the moving shot: footage imported and checked, matched by its track, a stand-in in it, played', async ({
  page,
  stage,
}) => {
  const film = join(stage.folder, 'walk.mov')
  const file = join(stage.folder, 'walk track.json')
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=size=240x160:rate=25:duration=0.8',
    '-c:v',
    'libx264',
    '-pix_fmt',
    'yuv420p',
    '-timecode',
    '02:00:00:00',
    film,
  ])
  writeFileSync(
    file,
    writeTrack({
      rate: { numerator: 25, denominator: 1 },
      first: 1,
      sensorWidth: 36,
      frames: Array.from({ length: 18 }, (_, i) => ({
        x: i * 0.1,
        y: 1.6,
        z: 0,
        heading: 0,
        pitch: -4,
        bank: 0,
        focalLength: 35,
      })),
      points: [{ name: 'mark', place: [0.5, 0, -5] }],
    }),
  )
  await page.goto(stage.address)
  await at(page, 'drop-new').locator('input').setInputFiles([film])
  await page.waitForURL(/\/shot\//)
  await expect(at(page, 'timeline')).toBeVisible({ timeout: 60000 })
  const id = /shot\/(\w+)/.exec(page.url())![1]!
  await expect(at(page, 'timecode')).toHaveText('02:00:00:00')
  await go(page, 'scene')
  await at(page, 'scene-file').locator('input[type=file]').setInputFiles(stage.scene)
  await at(page, 'part-camera').click()
  await at(page, 'track-file').locator('input[type=file]').setInputFiles(file)
  // Two frames short of the footage: told twice, against the shot and against the plate
  await expect(at(page, 'track-fault')).toHaveCount(2)
  await expect(at(page, 'track-fault').first()).toContainText('covers 1 to 18; the shot runs from 1 to 20')
  await saved(page)
  // The point of the track moves over the picture as the camera goes by it: 0.5 m right of its axis at first, 1.2 m left
  // of it at last, 5 m away, through 35 mm on 36
  const across = async (): Promise<number> => {
    const point = (await at(page, 'track-point').first().boundingBox())!
    const frame = (await at(page, 'tool-overlay').boundingBox())!
    return (point.x + point.width / 2 - frame.x) / frame.width
  }
  await expect.poll(across).toBeCloseTo(0.5 + (0.5 / 5) * (35 / 36), 2)
  await at(page, 'frame').fill('18')
  await at(page, 'frame').press('Enter')
  await expect.poll(across).toBeCloseTo(0.5 - (1.2 / 5) * (35 / 36), 2)
  await at(page, 'frame').blur()
  await page.keyboard.press('p')
  await expect(at(page, 'dropped')).toBeVisible()
  await page.waitForTimeout(2500)
  await page.keyboard.press('p')
  await expect(at(page, 'dropped')).toHaveCount(0)
  expect((await documentOf(page, stage, id)).document.scene.track).toMatchObject({ count: 18, start: 1 })
})

test('the ground catches shadows by one switch, which is offered where things are lit and nothing catches', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  const { revision } = await documentOf(page, stage, id)
  await page.request.patch(`${stage.address}/api/shots/${id}`, {
    data: {
      version: DOCUMENT_VERSION,
      revision,
      label: 'x',
      patch: [{ op: 'add', path: '/scene/objects/floor', value: { absent: true } }],
    },
  })
  await page.reload()
  await at(page, 'ready').waitFor()
  await go(page, 'scene')
  await page.getByRole('tab', { name: 'Things' }).click()
  await expect(at(page, 'object-tall block')).toBeVisible()
  await page.getByRole('tab', { name: 'Light' }).click()
  await at(page, 'add-sun').click()
  await page.getByRole('tab', { name: 'Things' }).click()
  await at(page, 'lay-ground').click()
  await expect(at(page, 'no-catcher')).toHaveCount(0)
  await expect(at(page, 'ground-catches')).toBeChecked()
  await saved(page)
  const { document } = await documentOf(page, stage, id)
  expect(document.scene.objects.ground).toMatchObject({ role: 'catcher', ofPlate: true, position: [0, 0, 0] })
  // The render darkens the plate where the blocks stand
  await go(page, 'passes')
  // With its shutter open for a quarter of a frame
  await page.getByText('bounds of samples').click()
  await at(page, 'shutter').check()
  await type(at(page, 'value-shutter'), '90')
  await expect(at(page, 'shutter-sharp')).toBeChecked()
  await saved(page)
  expect((await documentOf(page, stage, id)).document.passes.shutter).toMatchObject({ shutter: 90, from: -90 })
  await at(page, 'render').click()
  await expect
    .poll(async () => (await (await page.request.get(`${stage.address}/api/shots/${id}/jobs`)).json())[0]?.state, {
      timeout: 90000,
    })
    .toBe('done')
  await go(page, 'scene')
  await page.getByRole('tab', { name: 'Things' }).click()
  await at(page, 'ground-catches').click()
  await expect(at(page, 'no-catcher')).toBeVisible()
})
