// A drawing stuck on a thing of the render: drawn on one frame, it goes along on the others, begins on a set frame, and says
// which pass it needs.
import { execFileSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { encode } from 'fast-png'
import { at, documentOf, expect, go, listed, newShot, pixelAt, saved, test, type } from './stage'

test('a drawing stays on the block that it was drawn on', async ({ page, stage }) => {
  const begun = await newShot(page, stage)
  await saved(page)
  const { document } = await documentOf(page, stage, begun)
  document.frames = { first: 1, last: 3 }
  document.passes.selected = ['beauty', 'alpha', 'depth', 'object_id', 'albedo', 'diffuse_direct', 'diffuse_indirect']
  Object.assign(document.passes, { samples: 8, scale: 0.5 })
  const slide = { keys: [1, 3].map(frame => ({ frame, value: (frame - 1) * 0.4, ease: 'linear' })) }
  document.scene.objects['tall block'] = { ...document.scene.objects['tall block'], position: [slide, 0, 0] }
  const answer = await page.request.post(`${stage.address}/api/shots`, { data: { name: 'drawn on', document } })
  const { id } = (await answer.json()) as { id: string }
  await page.goto(`${stage.address}/shot/${id}?station=build`)
  await at(page, 'ready').waitFor()
  const render = async (): Promise<void> => {
    const before = (await documentOf(page, stage, id)).document.passes.file?.blob
    const started = await page.request.post(`${stage.address}/api/shots/${id}/render`, { data: { frame: 1, last: 3 } })
    expect(started.ok(), await started.text()).toBe(true)
    await expect
      .poll(async () => (await documentOf(page, stage, id)).document.passes.file?.blob ?? before, { timeout: 60000 })
      .not.toBe(before)
  }
  await render()

  await at(page, 'add-kind').click()
  await at(page, 'add-stuck').click()
  const drawing = at(page, 'layer-Stuck drawing')
  await expect(drawing).toBeVisible()
  const yellow = join(stage.folder, 'yellow.png')
  const data = new Uint8Array(60 * 60 * 3).map((_, i) => [230, 200, 20][i % 3]!)
  writeFileSync(yellow, encode({ width: 60, height: 60, channels: 3, data }))
  await at(page, 'stuck-picture').locator('input').setInputFiles([yellow])
  await expect(at(page, 'layer-yellow')).toBeVisible()
  await saved(page)
  const layers = async () => listed((await documentOf(page, stage, id)).document.build.layers)
  const made = (await layers()).find(({ kind }) => kind === 'stuck')
  expect(made).toMatchObject({ placed: 1, appears: 1, onto: 'what the render shows' })
  expect((await layers()).find(({ name }) => name === 'yellow').within).toBe(made.id)

  // It says what it needs, and chooses it
  await drawing.locator('.title').click()
  await expect(at(page, 'stuck-missing')).toContainText('place on the thing')
  await at(page, 'stuck-ask').click()
  await expect(at(page, 'station-passes')).toHaveAttribute('aria-current', 'step')
  await saved(page)
  expect((await documentOf(page, stage, id)).document.passes.selected).toContain('rest')
  await render()
  await go(page, 'build')
  await expect(at(page, 'stuck-missing')).toHaveCount(0)

  // Along the middle of the picture, where it is drawn: the block's front stands at 5 m
  const { focalLength, sensorWidth } = document.scene.camera
  const across = focalLength / sensorWidth
  const isYellow = async (metres: number): Promise<boolean> => {
    const [r, g, b] = (await pixelAt(page, 0.5 + (metres / 5) * across, 0.5)) as [number, number, number]
    return r > 1.6 * b && g > 1.4 * b
  }
  // Nothing lights this shot: in its light it is black, by its own colour it is yellow
  expect(await isYellow(0)).toBe(false)
  await type(at(page, 'value-lit'), '0')
  await expect.poll(() => isYellow(0)).toBe(true)
  const to = async (frame: number): Promise<void> => {
    await at(page, 'frame').fill(String(frame))
    await at(page, 'frame').press('Enter')
  }
  await to(3)
  await expect(at(page, 'stuck-elsewhere')).toContainText('drawn on frame 1')
  await expect.poll(() => isYellow(0.8)).toBe(true)
  await expect(at(page, 'stuck-begins')).toBeVisible()

  // From frame 3 on only
  await at(page, 'stuck-begins').click()
  await expect.poll(() => isYellow(0.8)).toBe(true)
  await at(page, 'stuck-there').click()
  await expect(at(page, 'frame')).toHaveValue('1')
  await expect.poll(() => isYellow(0)).toBe(false)
  // Another drawing in it needs no new render
  await at(page, 'stuck-brush').click()
  await expect(at(page, 'layer-Brushed')).toBeVisible()
  await saved(page)
  await page.reload()
  await at(page, 'ready').waitFor()
  await to(3)
  await expect.poll(() => isYellow(0.8)).toBe(true)

  // A clip is put into it as a picture is, by a job of the server
  const clip = join(stage.folder, 'blinking.mp4')
  const source = ['-f', 'lavfi', '-i', 'testsrc2=size=80x60:rate=24:duration=0.25']
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...source, '-pix_fmt', 'yuv420p', clip])
  await drawing.locator('.title').click()
  await at(page, 'stuck-picture').locator('input').setInputFiles([clip])
  await expect(at(page, 'layer-blinking')).toBeVisible()
  const brought = async () => (await layers()).find(({ name }) => name === 'blinking')
  await expect.poll(async () => (await brought()).picture.clip?.count).toBe(6)
  expect(await brought()).toMatchObject({ kind: 'picture', within: made.id })
  expect((await brought()).scale).toBeLessThan(4)
})
