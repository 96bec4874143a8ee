// How far away what glass shows and what mirrors is: a ball over a polished floor, which shows the ball's image, the sky
// beside it, and a matt block that mirrors nothing. Distances of images by the law of reflection.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { boxOf } from '../../core/engine/box'
import { Runner } from '../../core/plan/runner'
import { sized } from '../../core/plan/size'
import { openPassFile, unpacking } from '../../core/render/openpasses'
import { passesToExr } from '../../core/render/passfile'
import { distancesOf, PassNodes } from '../../core/render/passnodes'
import { NO_DEPTH } from '../../core/render/passes'
import { startEngine, type Engine } from '../../host/engine'
import { ball, ground, lookAt, material, object, quad, renderScene, scene } from '../scenes'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const [WIDTH, HEIGHT] = [90, 60]
const PASSES = ['alpha', 'depth', 'mirrored_depth', 'through_depth', 'crypto_object', 'crypto_material']
it('is that of the image, of the sky where a smooth floor shows it, of the surface where that is rough', async () => {
  // The floor is at height 0, the camera at 1.5 looks level along -Z
  const rendered = renderScene(
    scene(
      [
        object('floor', ground(40, 0, 0)),
        object('ball', ball([0, 1.5, -8], 0.8, 48, 1)),
        object('block', quad([3, 0, -9], [5, 0, -9], [5, 3, -9], [3, 3, -9], 1)),
      ],
      {
        materials: [
          material({ name: 'polished', roughness: 0.05, metallic: 1 }),
          material({ name: 'matt', roughness: 1, specular: { strength: 0, colour: [0, 0, 0] } }),
        ],
      },
    ),
    {
      ...{ camera: lookAt([0, 1.5, 0], [0, 1.5, -1], 30), width: WIDTH, height: HEIGHT, samples: 32 },
      ...{ passes: PASSES, maxBounces: 2 },
    },
  )
  const told = {
    objectNames: ['floor', 'ball', 'block'],
    materialNames: ['polished', 'matt'],
    assetNames: ['floor', 'ball', 'block'],
  }
  const metresIn = async (passes: readonly string[]): Promise<(x: number, y: number) => number> => {
    const file = await openPassFile(passesToExr(rendered, { passes, ...told }))
    const opened = {
      ...{ file, key: passes.join() },
      map: (left: number, top: number, shrink: number) => ({
        ...{ scaleX: shrink, offsetX: -left, scaleY: shrink, offsetY: -top },
      }),
    }
    const size = sized({ width: WIDTH, height: HEIGHT, left: 0, top: 0 }, 1)
    const node = await unpacking(() => distancesOf(new PassNodes(opened, size), 'mirrored').depth())
    const raster = await unpackedRun(node)
    return (x, y) => raster[Math.floor(y) * WIDTH + Math.floor(x)]!
  }
  const unpackedRun = async (node: Parameters<Runner['run']>[0]): Promise<Float32Array> => {
    const { pointer } = await new Runner(engine.pool, 2 ** 26).run(node, boxOf(WIDTH, HEIGHT))
    return engine.kernels.floats(pointer, WIDTH * HEIGHT).slice()
  }
  // Pixels of focal length: 30 of 36 mm over 90
  const focal = (30 / 36) * WIDTH
  const at = (x: number, y: number, metres: number): [number, number] => [
    WIDTH / 2 + (focal * x) / metres,
    HEIGHT / 2 - (focal * (y - 1.5)) / metres,
  ]
  const metres = await metresIn(PASSES)
  // The image of the ball's middle lies as far below the floor as the ball is above it; its near side shows
  const image = metres(...at(0, -1.5, 8))
  expect(image).toBeGreaterThan(7.1)
  expect(image).toBeLessThan(7.6)
  // Beside it the floor shows nothing but sky; the ball and the block are where they stand
  expect(metres(...at(-2.5, 0, 6))).toBe(Math.fround(NO_DEPTH))
  expect(metres(...at(0, 1.5, 8))).toBeCloseTo(7.2, 1)
  expect(metres(...at(4, 1.5, 9))).toBeCloseTo(9, 2)
  // Without names what mirrors nothing is where it stands
  const unnamed = await metresIn(['alpha', 'depth', 'mirrored_depth'])
  expect(unnamed(...at(-2.5, 0, 6))).toBeCloseTo(6, 0)
  expect(unnamed(...at(0, -1.5, 8))).toBe(image)
})
