// One new user with things of their own: a photograph of a cup from above (turned by its EXIF, 4:2:0), a model of 9 cm
// without camera or light, a panorama of unknown brightness; from there to a picture that is sent, in under 40 actions.
import { Document, WebIO } from '@gltf-transform/core'
import { decode } from 'fast-png'
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ball } from '../scenes'
import { at, documentOf, expect, pixelAt, pointAt, saved, test } from './stage'

const WIDTH = 481
const HEIGHT = 360

function photograph(folder: string): string {
  const path = join(folder, 'IMG 0042 (1).JPG')
  // OpenCV draws it; OpenImageIO turns the pixels and says so in the file
  execFileSync('/usr/bin/python3', [
    '-c',
    `
import sys, cv2, numpy as np
rng = np.random.default_rng(4)
h, w = ${HEIGHT}, ${WIDTH}
img = np.full((h, w, 3), (52, 88, 130), np.float32)
img += 14 * np.sin(np.linspace(0, 90, w) + np.linspace(0, 6, h)[:, None])[..., None]
cv2.ellipse(img, (200, 190), (170, 140), 0, 0, 360, (30, 36, 170), -1, cv2.LINE_AA)
cv2.ellipse(img, (200, 150), (100, 80), 0, 0, 360, (205, 205, 205), -1, cv2.LINE_AA)
cv2.ellipse(img, (200, 158), (78, 60), 0, 0, 360, (30, 60, 110), -1, cv2.LINE_AA)
img += rng.normal(0, 3, img.shape)
cv2.imwrite(sys.argv[1], np.clip(img, 0, 255).astype(np.uint8))`,
    join(folder, 'straight.png'),
  ])
  execFileSync('oiiotool', [
    join(folder, 'straight.png'),
    ...['--rotate270', '--attrib', 'Orientation', '6', '--attrib', 'jpeg:subsampling', '4:2:0', '--compression'],
    ...['jpeg:92', '-o', path.replace('.JPG', '.jpg')],
  ])
  return path.replace('.JPG', '.jpg')
}

async function model(folder: string): Promise<string> {
  const document = new Document()
  const buffer = document.createBuffer()
  const { positions, normals, indices } = ball([0.6, 0.045, -0.3], 0.045, 48)
  const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array | Uint32Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const primitive = document
    .createPrimitive()
    .setMaterial(
      document.createMaterial('clay').setBaseColorFactor([0.6, 0.6, 0.6, 1]).setMetallicFactor(0).setRoughnessFactor(1),
    )
    .setAttribute('POSITION', accessor('VEC3', positions))
    .setAttribute('NORMAL', accessor('VEC3', normals!))
    .setIndices(accessor('SCALAR', indices))
  document
    .createScene()
    .addChild(document.createNode('pebble').setMesh(document.createMesh('pebble').addPrimitive(primitive)))
  const path = join(folder, 'pebble.glb')
  writeFileSync(path, await new WebIO().writeBinary(document))
  return path
}

/** A room whose window is high up, behind the camera and to its right: lit from there, shadows fall ahead and left. */
function panorama(folder: string): string {
  const path = join(folder, 'room.hdr')
  execFileSync('oiiotool', [
    ...['--create', '256x128', '3', '--fill:color=0.4,0.4,0.4', '256x128'],
    ...['--fill:color=160,150,140', '12x10+216+28', '-d', 'float', '-o', path],
  ])
  return path
}

test('a new user’s photograph, model and panorama become a sent picture in under 40 actions', async ({
  page,
  stage,
}) => {
  test.setTimeout(120000)
  const [photo, pebble, room] = [photograph(stage.folder), await model(stage.folder), panorama(stage.folder)]
  let actions = 0
  const click = async (name: string): Promise<void> => {
    actions++
    await at(page, name).first().click()
  }
  const bring = async (name: string, path: string): Promise<void> => {
    actions++
    await at(page, name).locator('input').setInputFiles(path)
  }
  const typed = async (name: string, value: string): Promise<void> => {
    actions += 2
    const field = at(page, name).and(page.locator('.value')).or(at(page, name).locator('.value'))
    await field.focus()
    await field.press('Enter')
    await page.locator('.value-input').fill(value)
    await page.locator('.value-input').press('Enter')
  }
  const clickPicture = async (u: number, v: number): Promise<void> => {
    actions++
    const p = await pointAt(page, u, v)
    await page.mouse.move(p.x, p.y)
    await page.mouse.click(p.x, p.y)
  }
  await page.goto(stage.address)
  await click('new-shot')
  await page.waitForURL(/\/shot\//)
  const id = /shot\/([^?]+)/.exec(page.url())![1]!
  const now = async () => (await documentOf(page, stage, id)).document
  await bring('plate-drop', photo)
  await expect.poll(async () => (await now()).frame).toEqual({ width: WIDTH, height: HEIGHT })
  // Turned as its EXIF says: the white of the cup stands where it was drawn
  await expect.poll(async () => (await pixelAt(page, 200 / WIDTH, 83 / HEIGHT))[2]!).toBeGreaterThan(185)

  // A model far from where the camera looks, and far too small: it is put where it is seen, and that is said
  await click('station-scene')
  await bring('scene-file', pebble)
  await expect(
    page.getByText(/It measures 9 cm in its file, too small .* on the ground before the camera/),
  ).toBeVisible()
  // The photograph was taken from above: the thing is out of view then, and an arrow says where
  await click('part-camera')
  await typed('camera-y', '0.4')
  await typed('camera-pitch', '-52')
  await expect(at(page, 'out-of-view')).toHaveCount(1)
  await expect(at(page, 'grid-step')).toHaveText('grid 10 cm')
  await click('out-of-view')
  await expect(at(page, 'bring-into-view')).toBeVisible()
  await click('file-bring')
  await expect(at(page, 'out-of-view')).toHaveCount(0)
  await expect.poll(async () => (await now()).scene.filePlace?.times).toBe(1)
  await click('put-where')
  await clickPicture(0.72, 0.66)
  await expect.poll(async () => (await now()).scene.objects.pebble?.position?.length).toBe(3)

  // Light: dark, then a panorama, whose brightness a white cup sets; shadows fall once the ground catches them
  await expect(at(page, 'dark')).toBeVisible()
  await click('part-light')
  await bring('environment-file', room)
  await expect(at(page, 'no-catcher')).toBeVisible()
  await click('lay-ground')
  await click('environment-grey')
  await clickPicture(200 / WIDTH, 83 / HEIGHT)
  await expect(
    page.getByText(/The panorama is [\d.]+ stops (darker|brighter) now: what reflects 80 % is/),
  ).toBeVisible()
  await saved(page)
  expect(Math.abs((await now()).scene.environment.stops)).toBeGreaterThan(0.1)
  // The preview is smooth from the first samples on: the pebble's light side hardly changes from pixel to pixel
  await expect(at(page, 'preview-plain')).toContainText('smoothed')
  const grain = () =>
    at(page, 'picture').evaluate((canvas: HTMLCanvasElement) => {
      const [w, h] = [canvas.width, canvas.height]
      const { data } = canvas.getContext('2d')!.getImageData(w * 0.69, h * 0.55, 12, 8)
      let sum = 0
      for (let i = 4; i < data.length; i += 4) if ((i / 4) % 12) sum += Math.abs(data[i + 1]! - data[i - 3]!)
      return sum / 88
    })
  await expect.poll(grain, { timeout: 20000 }).toBeLessThan(5)

  // What was picked in the scene is not what a treatment would take; the catcher is not offered
  await click('station-passes')
  await typed('samples', '16')
  await click('render')
  await expect(at(page, 'sheet-beauty')).toBeVisible({ timeout: 60000 })
  await click('station-build')
  await expect(page.locator('.picked')).toHaveCount(0)
  actions++
  await page.keyboard.press('d')
  await expect(at(page, 'fader-pebble-exposure')).toBeVisible()
  await expect(at(page, 'fader-ground-exposure')).toHaveCount(0)
  actions++
  await page.keyboard.press('d')
  // The soundings show a table top
  await expect(page.getByText(/render \d+(\.\d)? – \d+(\.\d)? cm|render [\d.]+ cm – [\d.]+ (cm|m)/)).toBeVisible()

  await click('station-send')
  await click('send')
  const link = at(page, 'download').first()
  await expect(link).toBeVisible({ timeout: 60000 })
  const [download] = await Promise.all([page.waitForEvent('download'), click('download')])
  const picture = decode(readFileSync((await download.path())!))
  expect([picture.width, picture.height]).toEqual([WIDTH, HEIGHT])
  const code = (u: number, v: number): number => {
    const i = (Math.floor(v * HEIGHT) * WIDTH + Math.floor(u * WIDTH)) * picture.channels
    return (Number(picture.data[i + 1]) / 2 ** picture.depth) * 256
  }
  // A grey thing stands where it was put, on wood that is darker in its shadow
  expect(code(0.72, 0.58)).toBeGreaterThan(100)
  expect(code(200 / WIDTH, 83 / HEIGHT)).toBeGreaterThan(185)
  expect(actions).toBeLessThan(40)
})
