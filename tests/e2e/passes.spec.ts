// Passes as one works with them: only what a change touches, lights on the desk, things behind glass picked, noise
// taken out by degrees.
import { rowsOf, type Unplaced } from '../../core/shot/rows'
import { Document, WebIO } from '@gltf-transform/core'
import { KHRMaterialsTransmission } from '@gltf-transform/extensions'
import type { APIRequestContext, Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { newDocument, type ShotDocument, type LightSettings } from '../../core/shot/document'
import { expect, fade, test, type Stage } from './stage'

/** A pane of glass before a wall with a post. */
async function glassScene(): Promise<Buffer> {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const glass = document.createExtension(KHRMaterialsTransmission)
  const quad = (
    name: string,
    x: number,
    z: number,
    half: number,
    colour: [number, number, number],
    clear = false,
  ): void => {
    const material = document
      .createMaterial(name)
      .setBaseColorFactor([...colour, 1])
      .setRoughnessFactor(clear ? 0 : 0.8)
      .setMetallicFactor(0)
      .setDoubleSided(true)
    if (clear) material.setExtension('KHR_materials_transmission', glass.createTransmission().setTransmissionFactor(1))
    const positions = Float32Array.from([
      x - half,
      1 - half,
      z,
      x + half,
      1 - half,
      z,
      x + half,
      1 + half,
      z,
      x - half,
      1 + half,
      z,
    ])
    scene.addChild(
      document.createNode(name).setMesh(
        document.createMesh(name).addPrimitive(
          document
            .createPrimitive()
            .setMaterial(material)
            .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(positions).setBuffer(buffer))
            .setIndices(
              document
                .createAccessor()
                .setType('SCALAR')
                .setArray(Uint16Array.from([0, 1, 2, 0, 2, 3]))
                .setBuffer(buffer),
            ),
        ),
      ),
    )
  }
  quad('wall', 0, -8, 6, [0.5, 0.5, 0.6])
  quad('post', 0, -6, 0.6, [0.8, 0.3, 0.1])
  quad('pane', 0, -4, 1.2, [1, 1, 1], true)
  return Buffer.from(await new WebIO().registerExtensions([KHRMaterialsTransmission]).writeBinary(document))
}
async function shotWith(request: APIRequestContext, stage: Stage): Promise<string> {
  const blob = async (data: Buffer): Promise<string> =>
    ((await (await request.post(`${stage.address}/api/blobs`, { data })).json()) as { blob: string }).blob
  const document: ShotDocument = newDocument(240, 160)
  document.plate = {
    blob: await blob(readFileSync(stage.plate)),
    name: 'quayside.png',
    encoding: 'srgb',
    alpha: 'none',
    width: 240,
    height: 160,
  }
  document.scene.file = { blob: await blob(await glassScene()), name: 'glass.glb' }
  const lamp = (id: string, name: string, x: number): Unplaced<LightSettings> => ({
    id,
    name,
    kind: 'ball',
    on: true,
    azimuth: x < 0 ? -60 : 60,
    elevation: 30,
    kelvin: 5600,
    stops: 7,
    diameter: 0.5,
    width: 0.5,
    height: 0.5,
    distance: 4,
    target: [x, 1, -5],
  })
  document.scene.lights = rowsOf<LightSettings>([lamp('a', 'left', -1), lamp('b', 'right', 1)])
  Object.assign(document.scene.camera, { x: 0, y: 1, z: 0, heading: 0, pitch: 0, bank: 0, focalLength: 35 })
  document.passes.samples = 16
  document.passes.selected = [
    'beauty',
    'alpha',
    'diffuse_direct',
    'diffuse_indirect',
    'reflection',
    'refraction',
    'emission',
    'environment',
    'by_light',
    'depth',
    'occlusion',
    'crypto_object',
    'through_crypto_object',
  ]
  const answer = await request.post(`${stage.address}/api/shots`, { data: { name: 'behind glass', document } })
  expect(answer.ok(), await answer.text()).toBe(true)
  return ((await answer.json()) as { id: string }).id
}
const mean = (page: Page): Promise<number> =>
  page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-test=picture]')!
    const data = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height).data
    let sum = 0
    for (let i = 0; i < data.length; i += 4) sum += data[i]! + data[i + 1]! + data[i + 2]!
    return sum / data.length
  })

test('only what a change touches is rendered again; lights are dimmed on the desk; the pane and what is behind it are picked', async ({
  page,
  request,
  stage,
}) => {
  test.setTimeout(150000)
  const id = await shotWith(request, stage)
  await page.goto(`${stage.address}/shot/${id}?station=passes`)
  await page.waitForSelector('[data-test=ready]', { state: 'attached' })
  await page.click('[data-test=render]')
  await expect(page.locator('[data-test=sheet-beauty]')).toBeVisible({ timeout: 60000 })
  await expect(page.locator('[data-test="sheet-by_light.left"]')).toBeVisible()
  // One more pass, and nothing else
  await page.locator('[data-test=pass-facing]').check()
  await expect(page.locator('[data-test=partly]')).toContainText('facing: the 13 others still stand')
  await page.click('[data-test=render]')
  await expect(page.locator('[data-test=sheet-facing]')).toBeVisible({ timeout: 60000 })
  await expect(page.locator('[data-test=partly]')).toHaveCount(0)

  await page.click('[data-test=station-build]')
  await expect(page.locator('[data-test=picture]')).toBeVisible()
  await page.waitForTimeout(1500)
  const before = await mean(page)
  await page.keyboard.press('d')
  for (const name of ['left', 'right']) {
    await page.click('[data-test=to-lights]')
    await page.locator(`[data-test=fader-light-${name}]`).scrollIntoViewIfNeeded()
    await fade(page, `light-${name}`, 0)
  }
  await expect.poll(() => mean(page)).toBeLessThan(before - 5)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect.poll(() => mean(page)).toBeGreaterThan(before - 1)
  await page.keyboard.press('d')

  // The middle shows the post through the pane: a click asks which is meant
  const box = (await page.locator('[data-test=picture]').boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
  await expect(page.locator('[data-test=offered] button')).toHaveText(['post', 'pane'])
  await page.locator('[data-test=offered] button', { hasText: 'pane' }).click()
  await expect(page.locator('.picked')).toContainText('pane')
  // How much noise is taken out is a value like any other
  await page.locator('[data-test="layer-Render"] .title').click()
  await expect(page.locator('[data-test=value-clean]')).toBeVisible()
  await page.click('[data-test=compare-clean]')
  await expect(page.locator('.on-picture', { hasText: 'as rendered' })).toBeVisible()

  // A frame drawn on the picture names what lies in it; what it cuts through it does not
  await page.click('[data-test=station-finish]')
  await page.click('[data-test=add-treatment]')
  await page.click('[data-test=add-exposure]')
  await page.click('[data-test=matte-chip]')
  await page.click('[data-test=term-add]')
  await page.click('[data-test=term-add-names]')
  await expect(page.locator('[data-test=choose]')).toBeHidden()
  const drawFrame = async (left: number, top: number, right: number, bottom: number): Promise<void> => {
    await page.click('[data-test=term-take-names]')
    const seen = (await page.locator('[data-test=take-frame]').boundingBox())!
    await page.mouse.move(seen.x + seen.width * left, seen.y + seen.height * top)
    await page.mouse.down()
    await page.mouse.move(seen.x + seen.width * right, seen.y + seen.height * bottom, { steps: 3 })
    await page.mouse.up()
    await expect(page.locator('[data-test=take-frame]')).toHaveCount(0)
  }
  const named = page.locator('[data-test=term-names] .chip')
  await drawFrame(0.02, 0.02, 0.06, 0.06)
  await expect(page.getByText('Nothing with a name lies wholly in that frame.')).toBeVisible()
  await expect(named).toHaveCount(0)
  await drawFrame(0.001, 0.001, 0.999, 0.999)
  await expect(named).toHaveText(['wall', 'post', 'pane'])
})

test('air shows where one works, and comes as a pass', async ({ page, request, stage }) => {
  test.setTimeout(120000)
  const id = await shotWith(request, stage)
  await page.goto(`${stage.address}/shot/${id}?station=scene`)
  await page.waitForSelector('[data-test=ready]', { state: 'attached' })
  await page.locator('button', { hasText: /^Light$/ }).click()
  await page.locator('[data-test=add-air-box]').scrollIntoViewIfNeeded()
  await page.click('[data-test=add-air-box]')
  await expect(page.locator('[data-test=air-box]')).toBeVisible()
  await page.click('[data-test=station-passes]')
  await expect(page.locator('[data-test=pass-volume]')).toBeChecked()
  await page.click('[data-test=render]')
  await expect(page.locator('[data-test=sheet-volume]')).toBeVisible({ timeout: 60000 })
  await page.click('[data-test=station-build]')
  // Its layer has come with it
  await page.locator('[data-test="layer-Air"] .title').click()
  await expect(page.locator('[data-test=value-amount]')).toBeVisible()
  // As the body of a thing, which is left out of the picture itself; undone, it is back
  await page.click('[data-test=station-scene]')
  await page.locator('[data-test=part-light]').click()
  await page.locator('[data-test=add-air-thing]').selectOption('post')
  await expect(page.locator('[data-test=air-body]')).toHaveValue('post')
  await page.locator('[data-test=part-things]').click()
  await expect(page.getByText('left out')).toHaveCount(1)
  await page.keyboard.press('Control+z')
  await expect(page.getByText('left out')).toHaveCount(0)
})
