// A scene of very many things: the list at the station Scene stays short on the page, and everything in it is found.
import { Document, WebIO } from '@gltf-transform/core'
import { newDocument } from '../../core/shot/document'
import { shotOf } from './demoShot'
import { at, expect, test } from './stage'

/** Stones in rows on the ground, all of one mesh. */
async function stones(count: number): Promise<Buffer> {
  const document = new Document()
  const buffer = document.createBuffer()
  const of = (type: 'VEC3' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const mesh = document.createMesh('stone').addPrimitive(
    document
      .createPrimitive()
      .setIndices(of('SCALAR', Uint16Array.of(0, 1, 2)))
      .setAttribute('POSITION', of('VEC3', Float32Array.of(-0.1, 0, 0, 0.1, 0, 0, 0, 0.2, 0))),
  )
  const scene = document.createScene('stones')
  for (let i = 0; i < count; i++)
    scene.addChild(
      document
        .createNode(`stone ${i + 1}`)
        .setMesh(mesh)
        .setTranslation([(i % 40) * 0.3 - 6, 0, -6 - Math.floor(i / 40) * 0.3]),
    )
  return Buffer.from(await new WebIO().writeBinary(document))
}

test('of two thousand things those in sight are on the page; any is found, picked, grouped', async ({
  page,
  stage,
}) => {
  const answer = await page.request.post(`${stage.address}/api/blobs`, { data: await stones(2000) })
  const { blob } = (await answer.json()) as { blob: string }
  const document = newDocument(240, 160)
  document.scene.file = { blob, name: 'stones.glb' }
  const id = await shotOf(page, stage, 'stones', document)
  await page.goto(`${stage.address}/shot/${id}?station=scene`)
  await at(page, 'ready').waitFor()
  await expect(at(page, 'things-count')).toHaveText('2000 things')
  const listed = page.locator('[data-test^="object-"]')
  await expect(listed.first()).toBeVisible()
  expect(await listed.count()).toBeLessThan(60)
  await at(page, 'find-thing').fill('stone 1877')
  await expect(at(page, 'things-count')).toHaveText('1 of 2000')
  await at(page, 'object-stone 1877').click()
  await expect(at(page, 'thing-name')).toHaveValue('stone 1877')
  // What was found and picked is in sight among all of them
  await at(page, 'find-thing').press('Escape')
  await expect(at(page, 'things-count')).toHaveText('2000 things')
  await at(page, 'find-thing').fill('stone 1878')
  await at(page, 'object-stone 1878').click({ modifiers: ['Shift'] })
  await at(page, 'group').click()
  await at(page, 'find-thing').press('Escape')
  // Groups stand first
  await expect(at(page, 'object-stone 1877')).toBeInViewport()
  await expect(at(page, 'object-stone 1878')).toBeInViewport()
})
