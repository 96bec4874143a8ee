// The camera found from lines drawn on the plate, scaled by something known, checked with poles.
import { project } from '../../core/match/project'
import type { Vector3 } from '../../core/scene/vector'
import { DEFAULT_CAMERA } from '../../core/shot/document'
import { cameraAt } from '../../core/shot/scene'
import { at, documentOf, expect, go, newShot, pointAt, saved, test, type, listed } from './stage'
import type { Page } from '@playwright/test'

const TRUE = { ...DEFAULT_CAMERA, heading: 35, pitch: -9, bank: 1.5, focalLength: 30, y: 1.7 }
const camera = cameraAt(TRUE, 1)
const seen = (p: Vector3): [number, number] => {
  const { u, v } = project(camera, 1.5, p)
  return [u, v]
}
async function drawn(page: Page, from: [number, number], to: [number, number]): Promise<void> {
  const a = await pointAt(page, ...from)
  const b = await pointAt(page, ...to)
  await page.mouse.move(a.x, a.y)
  await page.mouse.down()
  await page.mouse.move((a.x + b.x) / 2, (a.y + b.y) / 2)
  await page.mouse.move(b.x, b.y)
  await page.mouse.up()
}
/** A place on the ground ahead of the camera: so far away, so far to the right. */
const ground = (away: number, right: number, up = 0): Vector3 => {
  const h = (TRUE.heading * Math.PI) / 180
  return [-Math.sin(h) * away + Math.cos(h) * right, up, -Math.cos(h) * away - Math.sin(h) * right]
}

test('a still is matched from lines: focal length, pitch, bank, heading; scale from something upright; poles stand true', async ({
  page,
  stage,
}) => {
  const id = await newShot(page, stage)
  await go(page, 'scene')
  // The scene's own camera looks straight ahead; which way is left by the lines, so it is turned about right first
  await at(page, 'part-camera').click()
  await type(at(page, 'camera-heading').locator('.value'), '25')
  await saved(page)
  await at(page, 'match-x').click()
  const edge = async (start: Vector3, axis: 0 | 2, length: number): Promise<void> => {
    const end = [...start] as Vector3
    end[axis] += length
    await drawn(page, seen(start), seen(end))
  }
  await edge(ground(5, -1.2), 0, 2)
  await expect(at(page, 'match-fault')).toContainText('Two lines at least')
  await edge(ground(8, -1), 0, 3)
  await edge(ground(6, 0, 1.6), 0, 2)
  await expect(at(page, 'match-fault')).toContainText('One direction alone')
  await at(page, 'match-z').click()
  await edge(ground(5, -0.5), 2, -2.5)
  await edge(ground(5, 1.2, 1.2), 2, -3)
  await edge(ground(6, -1.5, 1.8), 2, -2.5)
  await expect(at(page, 'match-result')).toBeVisible()
  // A line that begins on another's end is a line of its own while the tool is on
  const corner = seen(ground(5, -0.5))
  const inward = seen(ground(5.4, -0.1))
  await drawn(page, corner, inward)
  await expect(page.locator('[data-test=match-overlay] g.drawn')).toHaveCount(7)
  await page.getByRole('button', { name: 'Remove line 7' }).click()
  // This plate has no edges to lay lines on: they stay, and that is said
  await at(page, 'match-snap').click()
  await expect(page.getByText(/No edge stands out within four pixels of across 1/)).toBeVisible()
  await expect(page.locator('[data-test=match-overlay] g.drawn')).toHaveCount(6)
  await at(page, 'match-use').click()
  await saved(page)
  const { camera: found } = (await documentOf(page, stage, id)).document.scene
  expect(Math.abs(((found.focalLength / 30) * 36) / found.sensorWidth - 1)).toBeLessThan(0.03)
  for (const [field, value] of [
    ['heading', 35],
    ['pitch', -9],
    ['bank', 1.5],
  ] as const)
    expect(Math.abs(found[field] - value), field).toBeLessThan(0.6)
  // A 2.4 m mast seen from foot to top gives the height of the camera
  await type(at(page, 'match-metres'), '2.4')
  await at(page, 'match-upright').click()
  await drawn(page, seen(ground(7, 0.5)), seen(ground(7, 0.5, 2.4)))
  await saved(page)
  await expect
    .poll(async () => Math.abs((await documentOf(page, stage, id)).document.scene.camera.y - 1.7))
    .toBeLessThan(0.08)
  // A pole where there is one in the picture ends where it ends there
  await at(page, 'match-pole').click()
  const foot = await pointAt(page, ...seen(ground(6, -0.6)))
  await page.mouse.click(foot.x, foot.y)
  await saved(page)
  const [pole] = listed((await documentOf(page, stage, id)).document.match.poles)
  const truth = ground(6, -0.6)
  // The scene's middle is free: distances from the camera are what the match says
  const { x, z } = (await documentOf(page, stage, id)).document.scene.camera
  expect(Math.abs(Math.hypot(pole.x - x, pole.z - z) / Math.hypot(truth[0], truth[2]) - 1)).toBeLessThan(0.06)
  // Lines stay across a reload, can be moved by an end, and taken away by undo
  await page.reload()
  await at(page, 'ready').waitFor()
  await expect(page.locator('[data-test=match-overlay] g.drawn')).toHaveCount(6)
  // A place above the horizon is refused
  await at(page, 'match-origin').click()
  const sky = await pointAt(page, 0.5, 0.05)
  await page.mouse.click(sky.x, sky.y)
  await expect(page.getByText(/on or above the horizon/)).toBeVisible()
})
