// Another size of the frame: what was placed on the picture is where it was on it.
import { addRow, inOrder, rowsOf } from '../core/shot/rows'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { join } from 'node:path'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { bringLayer, bringPlate } from '../core/shot/bring'
import {
  newDocument,
  newTreatment,
  type PictureReference,
  type ShotDocument,
  type MatchCurve,
  type MatchLine,
  type MatchPoint,
} from '../core/shot/document'
import { setFrame } from '../core/shot/values'
import { valueAt, type Animatable } from '../core/time/curve'
import { BlobStore } from '../host/blobs'
import { startEngine, type Engine } from '../host/engine'
import { documentFaults } from '../shared/validate'
import { scratchFolder } from './python'

const store = new BlobStore(join(scratchFolder(), 'blobs'))
let engine: Engine
beforeAll(async () => {
  engine = await startEngine(1)
})
afterAll(() => {
  engine.stop()
})
const grey = async (width: number, height: number, code: number): Promise<PictureReference> => ({
  blob: await store.put(
    writePng({ width, height, channels: 3, maximum: 255, data: new Uint8Array(width * height * 3).fill(code) }),
  ),
  name: 'grey.png',
  encoding: 'srgb',
  alpha: 'none',
  width,
  height,
})
/** Middle and spread of what is brighter than half, as shares of the frame. */
async function brightPart(document: ShotDocument, frame: number): Promise<number[]> {
  const raster = await new Evaluator(engine.pool, blob => store.get(blob), 2 ** 26).evaluate({
    document,
    frame,
    shrink: 1,
    show: { kind: 'finish' },
  })
  const { width, height } = raster
  const pixels = engine.kernels.floats(raster.pointer, width * height * 4)
  let count = 0
  let [x, y] = [0, 0]
  for (let i = 0; i < width * height; i++)
    if (pixels[i * 4]! > 0.5) {
      count++
      x += (i % width) + 0.5
      y += Math.floor(i / width) + 0.5
    }
  return [x / count / width, (y / count - height / 2) / width, Math.sqrt(count) / width]
}

it('a picture that was placed in a frame of another size stays in its place on the plate, at its size, moving or not', async () => {
  const document = newDocument(120, 80)
  bringPlate(document, await grey(120, 80, 20))
  const layer = bringLayer(document, await grey(20, 20, 250), 1)
  layer.x = { keys: [1, 11].map(at => ({ frame: at, value: 20 + at * 4, ease: 'linear' as const })), drift: 0 }
  layer.y = 30
  layer.rotation = 0
  const soft = newTreatment('vignette', { amount: 0, size: 1, softness: 40 }, 'soft')
  addRow(document.finish, soft)
  const before = [await brightPart(document, 1), await brightPart(document, 11)]
  for (const [width, height] of [
    [480, 320],
    [360, 400],
    [60, 40],
  ] as const) {
    const next = structuredClone(document)
    bringPlate(next, await grey(width, height, 20))
    expect(documentFaults(next)).toEqual([])
    expect(next.frame).toEqual({ width, height })
    for (const [i, frame] of [1, 11].entries()) {
      const after = await brightPart(next, frame)
      for (const [k, value] of after.entries())
        expect(Math.abs(value - before[i]![k]!), `${width} ${k}`).toBeLessThan(0.01)
    }
    expect(valueAt(inOrder(next.finish)[0]!.values.softness as Animatable, 1)).toBeCloseTo((40 * width) / 120)
  }
})

it('what was drawn for the match moves with the plate, and there and back nothing has moved', () => {
  const document = newDocument(1200, 800)
  document.match = {
    lines: rowsOf<MatchLine>([{ id: 'a', axis: 'x', from: [10, 20], to: [600, 400] }]),
    focal: 'solve',
    poles: {},
    points: rowsOf<MatchPoint>([{ id: 'p', name: 'p', world: [0, 0, 0], pixel: [1200, 800] }]),
    curves: rowsOf<MatchCurve>([
      {
        id: 'c',
        points: [
          [0, 0],
          [300, 400],
          [600, 0],
        ],
      },
    ]),
  }
  const before = structuredClone(document)
  setFrame(document, { width: 2400, height: 2000 })
  expect(document.match!.lines.a).toMatchObject({ from: [20, 240], to: [1200, 1000] })
  expect(document.match!.points!.p!.pixel).toEqual([2400, 1800])
  setFrame(document, { width: 1200, height: 800 })
  expect(document).toEqual(before)
})

it('a picture much wider, much higher or much smaller than the frame comes in whole and in its middle', async () => {
  for (const [width, height] of [
    [3000, 40],
    [40, 3000],
    [16, 16],
  ] as const) {
    const document = newDocument(300, 200)
    const layer = bringLayer(document, await grey(width, height, 250), 1)
    const scale = valueAt(layer.scale, 1)
    expect([width * scale <= 300, height * scale <= 200, layer.x, layer.y]).toEqual([true, true, 150, 100])
  }
})
