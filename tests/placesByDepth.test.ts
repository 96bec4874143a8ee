// Places of the world by depth and the camera, where a file has no pass of them: against the pass that the renderer makes,
// with a shifted lens and with what lies beyond the frame.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { boxOf } from '../core/engine/box'
import { Runner } from '../core/plan/runner'
import { sized } from '../core/plan/size'
import { openPassFile, unpacking } from '../core/render/openpasses'
import { passesToExr } from '../core/render/passfile'
import { PassNodes } from '../core/render/passnodes'
import { NO_DEPTH } from '../core/render/passes'
import type { Camera } from '../core/scene/scene'
import { beyondFrame } from '../core/shot/lens'
import { startEngine, type Engine } from '../host/engine'
import { ball, ground, lookAt, object, renderScene, scene } from './scenes'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const [WIDTH, HEIGHT] = [96, 60]
const told = { objectNames: ['ball', 'floor'], materialNames: ['plain'], assetNames: ['ball', 'floor'] }
/** The frame is smaller by a margin than what was rendered. */
it.each([
  [0, 0],
  [12, 6],
])('are those of the pass, with %i and %i pixels beyond the frame', async (across, down) => {
  const own: Camera = { ...lookAt([0.7, 1.4, 4], [0.1, 0.3, -0.5], 32), shiftX: 0.21, shiftY: -0.13 }
  const frame = { width: WIDTH - 2 * across, height: HEIGHT - 2 * down }
  const camera = beyondFrame(own, frame, [across, down])
  const passes = ['alpha', 'depth', 'position']
  const rendered = renderScene(scene([object('ball', ball([0, 0.6, 0], 0.6, 48)), object('floor', ground(2))]), {
    ...{ camera, width: WIDTH, height: HEIGHT, samples: 16, passes },
  })
  const made = async (some: readonly string[], seen: Camera | undefined): Promise<Float32Array | undefined> => {
    const file = await openPassFile(passesToExr(rendered, { passes: some, ...told }))
    const opened = {
      file,
      key: some.join(),
      map: (left: number, top: number, shrink: number) => ({
        ...{ scaleX: shrink, offsetX: -left, scaleY: shrink, offsetY: -top },
      }),
    }
    const size = sized({ width: WIDTH, height: HEIGHT, left: 0, top: 0 }, 1)
    const node = await unpacking(() => new PassNodes(opened, size, seen && (() => seen)).places())
    if (!node) return undefined
    const { pointer } = await new Runner(engine.pool, 2 ** 26).run(node, boxOf(WIDTH, HEIGHT))
    return engine.kernels.floats(pointer, WIDTH * HEIGHT * 4).slice()
  }
  const truth = (await made(passes, undefined))!
  const found = (await made(['alpha', 'depth'], camera))!
  let there = 0
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    expect(found[i * 4 + 3]).toBe(truth[i * 4 + 3])
    if (!(rendered.depth[i]! < NO_DEPTH / 2)) {
      expect([...found.slice(i * 4, i * 4 + 3)]).toEqual([0, 0, 0])
      continue
    }
    // Within a pixel that its middle misses both are of the nearest that a sample met, which lies beside the middle
    if (truth[i * 4 + 3]! < 1) continue
    there++
    for (let k = 0; k < 3; k++) expect(Math.abs(found[i * 4 + k]! - truth[i * 4 + k]!)).toBeLessThan(2e-3)
  }
  expect(there).toBeGreaterThan(1500)
  // Without a camera, or without depth, nothing is known
  expect(await made(['alpha', 'depth'], undefined)).toBeUndefined()
  expect(await made(['alpha'], camera)).toBeUndefined()
})
