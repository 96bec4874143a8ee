/* eslint-disable @typescript-eslint/no-explicit-any -- what a page holds has no type here */
// A server of the tests' own: real PostgreSQL, the built application, no demo unless asked for.
import { Document, WebIO } from '@gltf-transform/core'
import { test as base, expect, type Locator, type Page } from '@playwright/test'
import { encode } from 'fast-png'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { inOrder } from '../../core/shot/rows'
// @ts-expect-error plain JavaScript without types
import { freePort, server } from '../../tools/setup.mjs'
// @ts-expect-error plain JavaScript without types
import { postgres } from '../../tools/database.mjs'

export interface Stage {
  address: string
  folder: string
  plate: string
  scene: string
  layer: string
  databaseUrl: string
  kill(): Promise<void>
  /** Kills the database's own process. */
  killDatabase(): void
  start(): Promise<void>
}

export const test = base.extend<{ problems: string[] }, { stage: Stage }>({
  stage: [
    async ({}, use) => {
      const folder = mkdtempSync(join(tmpdir(), 'northmist-browser-'))
      // The database's owner must be able to enter
      const { chmodSync } = await import('node:fs')
      chmodSync(folder, 0o755)
      const data = join(folder, 'data')
      mkdirSync(data)
      const database = await postgres(data, 0)
      const port = await freePort(0)
      const open = () => server({ url: database.url, port, data, env: { NORTHMIST_DEMO: 'no' }, quiet: true })
      let running = await open()
      const files = await makeFiles(folder)
      await use({
        address: running.address,
        folder,
        ...files,
        databaseUrl: database.url,
        kill: () => running.stop('SIGKILL'),
        killDatabase: () => process.kill(database.pid(), 'SIGKILL'),
        start: async () => {
          running = await open()
        },
      })
      await running.stop()
      await database.stop()
      rmSync(folder, { recursive: true, force: true })
    },
    { scope: 'worker', timeout: 120000 },
  ],
  problems: [
    async ({ page }, use) => {
      const list: string[] = []
      page.on('pageerror', error => list.push(error.message))
      page.on('console', message => {
        if (message.type() === 'error' && !/Failed to load resource|net::/.test(message.text()))
          list.push(message.text())
      })
      await use(list)
      expect(list).toEqual([])
    },
    { auto: true },
  ],
})
export { expect }

/** A plate with a gradient, a scene of a ball and a box on a catcher, a layer with alpha. */
async function makeFiles(folder: string): Promise<{ plate: string; scene: string; layer: string }> {
  const width = 240
  const height = 160
  const plate = new Uint8Array(width * height * 3)
  for (let i = 0; i < width * height; i++) plate.set([60 + (i % width) / 2, 90 + Math.floor(i / width) / 2, 140], i * 3)
  writeFileSync(join(folder, 'quayside.png'), encode({ width, height, channels: 3, data: plate }))
  const layer = new Uint8Array(80 * 80 * 4)
  for (let i = 0; i < 6400; i++)
    layer.set([230, 60, 40, Math.hypot((i % 80) - 40, Math.floor(i / 80) - 40) < 36 ? 255 : 0], i * 4)
  writeFileSync(join(folder, 'buoy.png'), encode({ width: 80, height: 80, channels: 4, data: layer }))

  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const add = (
    name: string,
    positions: number[],
    indices: number[],
    colour: [number, number, number],
    extras?: Record<string, unknown>,
  ): void => {
    const material = document
      .createMaterial(`${name} paint`)
      .setBaseColorFactor([...colour, 1])
      .setMetallicFactor(0)
      .setRoughnessFactor(0.5)
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute(
        'POSITION',
        document.createAccessor().setType('VEC3').setArray(Float32Array.from(positions)).setBuffer(buffer),
      )
      .setIndices(document.createAccessor().setType('SCALAR').setArray(Uint32Array.from(indices)).setBuffer(buffer))
    const node = document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive))
    if (extras) node.setExtras(extras)
    scene.addChild(node)
  }
  const block = (x: number, z: number, side: number, tall: number): [number[], number[]] => {
    const positions: number[] = []
    const indices: number[] = []
    const corners = [
      [x, 0, z],
      [x + side, 0, z],
      [x + side, 0, z - side],
      [x, 0, z - side],
    ]
    const face = (points: number[][]): void => {
      const base = positions.length / 3
      positions.push(...points.flat())
      indices.push(base, base + 1, base + 2, base, base + 2, base + 3)
    }
    const up = corners.map(([a, , c]) => [a!, tall, c!])
    face(up)
    for (let i = 0; i < 4; i++) face([corners[i]!, corners[(i + 1) % 4]!, up[(i + 1) % 4]!, up[i]!])
    return [positions, indices]
  }
  add('tall block', ...block(-0.5, -5, 1, 2), [0.7, 0.2, 0.1])
  add('low block', ...block(1.1, -6, 0.8, 0.7), [0.1, 0.4, 0.6])
  add('floor', [-30, 0, 30, 30, 0, 30, 30, 0, -30, -30, 0, -30], [0, 1, 2, 0, 2, 3], [0.3, 0.3, 0.3], {
    role: 'catcher',
  })
  scene.addChild(
    document
      .createNode('view')
      .setTranslation([0, 1.6, 0])
      .setCamera(document.createCamera('view').setType('perspective').setYFov(0.65).setAspectRatio(1.5).setZNear(0.1)),
  )
  writeFileSync(join(folder, 'blocks.glb'), await new WebIO().writeBinary(document))
  return { plate: join(folder, 'quayside.png'), scene: join(folder, 'blocks.glb'), layer: join(folder, 'buoy.png') }
}

export const at = (page: Page, name: string): Locator => page.locator(`[data-test="${name}"]`)

export async function newShot(page: Page, stage: Stage): Promise<string> {
  await page.goto(stage.address)
  await at(page, 'drop-new').locator('input').setInputFiles([stage.plate, stage.scene])
  await page.waitForURL(/\/shot\//)
  await at(page, 'ready').waitFor()
  return /shot\/(\w+)/.exec(page.url())![1]!
}
export async function go(page: Page, station: string): Promise<void> {
  await at(page, `station-${station}`).click()
  await expect(at(page, `station-${station}`)).toHaveAttribute('aria-current', 'step')
}
export async function saved(page: Page): Promise<void> {
  await expect(at(page, 'save-state')).toHaveText('saved')
}
/** Types a value into its field. */
export async function type(field: Locator, value: string): Promise<void> {
  await field.focus()
  await field.press('Enter')
  const input = field.page().locator('.value-input')
  await input.fill(value)
  await input.press('Enter')
}
/** Takes a fader of the desk in its middle and brings it to a share of its way. */
export async function fade(page: Page, name: string, share: number): Promise<void> {
  const { x, y, width, height } = (await at(page, `fader-${name}`).boundingBox())!
  await page.mouse.move(x + width / 2, y + height / 2)
  await page.mouse.down()
  await page.mouse.move(x + width * share, y + height / 2, { steps: 4 })
  await page.mouse.up()
}
export const documentOf = async (page: Page, stage: Stage, id: string) =>
  (await (await page.request.get(`${stage.address}/api/shots/${id}`)).json()) as {
    revision: number
    document: Record<string, any>
  }
/** Things that a document keeps by their ids, in their order. */
export const listed = (rows: any): any[] => inOrder(rows)
/** RGB of the viewer's canvas, or of that with what is compared, at a place of the frame (0..1). */
export const pixelAt = (page: Page, u: number, v: number, of: 'picture' | 'compared' = 'picture'): Promise<number[]> =>
  at(page, of).evaluate(
    (canvas: HTMLCanvasElement, [u, v]) => [
      ...canvas
        .getContext('2d')!
        .getImageData(Math.floor(u! * canvas.width), Math.floor(v! * canvas.height), 1, 1)
        .data.slice(0, 3),
    ],
    [u, v],
  )
export const pointAt = async (page: Page, u: number, v: number): Promise<{ x: number; y: number }> => {
  const box = (await at(page, 'picture').boundingBox())!
  return { x: box.x + box.width * u, y: box.y + box.height * v }
}
