// Sheets (words, figures, washes) cut by the things of one render: a red ball before a blue wall, and a green sheet between
// them or said to be behind the ball. What a pixel at the ball's border shows is by hand: its cover times the ball, and
// nothing of the wall, where the sheet hides that.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { newDocument, type AddedObject, type ShotDocument } from '../core/shot/document'
import { addLayer, groupTogether, makeLayer } from '../core/shot/layers'
import { addStandIn, renameObject } from '../core/shot/objects'
import { addRow, inOrder } from '../core/shot/rows'
import { addStuck } from '../core/shot/stuck'
import { bringWords } from '../core/shot/words'
import { documentFaults } from '../shared/validate'
import { BlobStore } from '../host/blobs'
import { startEngine, type Engine } from '../host/engine'
import { renderPasses } from '../host/work'
import { scratchFolder } from './python'
import { fileOf } from './wordsShapes'

const [WIDTH, HEIGHT] = [120, 80]
let engine: Engine
let store: BlobStore
let base: ShotDocument
/** Of each pixel what the ball covers. */
let ball: Float32Array
beforeAll(async () => {
  engine = await startEngine(2)
  store = new BlobStore(scratchFolder())
  base = newDocument(WIDTH, HEIGHT)
  const put = (shape: 'box' | 'ball', side: number, depth: number, at: [number, number, number], colour: number[]) => {
    const name = addStandIn(base, [], { shape, width: side, height: side, depth, points: [] }, at, 0)
    const entry = Object.values(base.scene.added!).find(one => one.name === name) as AddedObject & { colour: number[] }
    entry.colour = colour
    base.scene.objects[name] = { ...base.scene.objects[name], role: 'object', ofPlate: false }
  }
  put('ball', 1.2, 1.2, [0, 1, -4], [1, 0, 0])
  put('box', 40, 0.2, [0, -20, -12], [0, 0, 1])
  addRow(base.scene.lights, {
    ...{ id: 'l', name: 'sun', kind: 'sun' as const, on: true },
    ...{ azimuth: 180, elevation: 10, kelvin: 6500, stops: 2, diameter: 20 },
    ...{ width: 1, height: 1, distance: 1, target: [0, 0, 0] as [number, number, number] },
  })
  base.passes.selected = ['beauty', 'alpha', 'depth', 'rest', 'crypto_object']
  Object.assign(base.passes, { samples: 64, denoise: false })
  const evaluator = new Evaluator(engine.pool, blob => store.get(blob), 2 ** 28)
  const { passFile } = await renderPasses(engine, evaluator, store, base, 1, {
    progress: () => {},
    cancelled: () => false,
  })
  base.passes.file = passFile!
  const matte = await evaluator.matte(base, 1, { names: ['ball'], of: 'objects', invert: false })
  ball = engine.kernels.floats(matte!.pointer, WIDTH * HEIGHT).slice()
  expect(ball[45 * WIDTH + 60]).toBeGreaterThan(0.99)
})
afterAll(() => engine.stop())

async function shown(change: (document: ShotDocument) => void): Promise<Float32Array> {
  const document = structuredClone(base)
  change(document)
  expect(documentFaults(document)).toEqual([])
  const evaluator = new Evaluator(engine.pool, blob => store.get(blob), 2 ** 28)
  const { pointer } = await evaluator.evaluate({ document, frame: 1, shrink: 1, show: { kind: 'build' } })
  return engine.kernels.floats(pointer, WIDTH * HEIGHT * 4).slice()
}
/** A green sheet over all of the frame. */
const sheet =
  (metres: number, behind?: string[]) =>
  (document: ShotDocument): void => {
    const wash = makeLayer('wash', { distance: metres, colour: [0, 1, 0], opacity: 1, ...(behind ? { behind } : {}) })
    addLayer(document, wash)
  }
/** The same as letters over most of the frame. */
const words =
  (change: Record<string, unknown>) =>
  async (document: ShotDocument): Promise<void> => {
    const files = [{ blob: await store.put(fileOf('oswald', 'latin')), name: 'oswald.woff2' }]
    const id = bringWords(document, { name: 'Oswald', files }, 1)
    const place = { text: 'MMM', put: 'on the picture', across: 60, down: 78, letters: 70, align: 'centre' }
    Object.assign(document.build.layers[id]!, { ...place, colour: [0, 1, 0], ...change })
  }
/** At the borders of the ball: how much of the wall is seen, and how far off the sheet is. */
function atBorder(data: Float32Array): { pixels: number; wall: number; off: number } {
  let [pixels, wall, off] = [0, 0, 0]
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const cover = ball[i]!
    if (!(cover > 0.02 && cover < 0.98)) continue
    pixels++
    wall = Math.max(wall, data[i * 4 + 2]!)
    off = Math.max(off, Math.abs(data[i * 4 + 1]! - (1 - cover)))
  }
  return { pixels, wall, off }
}

describe('a sheet between two things of a render', () => {
  it('is hidden by the nearer by as much as that covers, with nothing of the farther', async () => {
    const { pixels, wall, off } = atBorder(await shown(sheet(8)))
    expect(pixels).toBeGreaterThan(60)
    // Of the wall's 1.3
    expect(wall).toBeLessThan(0.1)
    expect(off).toBeLessThan(0.04)
  })
  it('so are words, which are cut as all that stands by its depth is', async () => {
    const document = structuredClone(base)
    await words({ away: 8 })(document)
    const data = await shown(d => Object.assign(d, document))
    const letters = await shown(d => {
      Object.assign(d, structuredClone(document))
      for (const layer of Object.values(d.build.layers)) if (layer.kind === 'render') layer.on = false
    })
    let [worst, seen] = [0, 0]
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const cover = ball[i]!
      if (!(cover > 0.02 && cover < 0.98) || letters[i * 4 + 1]! < 0.999) continue
      seen++
      worst = Math.max(worst, data[i * 4 + 2]!)
    }
    expect(seen).toBeGreaterThan(10)
    expect(worst).toBeLessThan(0.1)
  })
})

describe('a sheet that is said to be behind a thing', () => {
  it('stands before all else and behind that, with the borders that depth would give', async () => {
    const named = await shown(sheet(2, ['ball']))
    const { wall, off } = atBorder(named)
    // Of the wall's 1.3
    expect(wall).toBeLessThan(0.1)
    expect(off).toBeLessThan(0.04)
    expect(named).toEqual(await shown(sheet(8)))
    // Before the wall as before
    expect(named[(5 * WIDTH + 60) * 4 + 1]).toBeCloseTo(1, 4)
  })
  it('by parts of names and several of them; a thing that is no more is nothing', async () => {
    expect(await shown(sheet(2, ['ba*', 'gone']))).toEqual(await shown(sheet(2, ['ball'])))
    const bare = await shown(() => {})
    // The ball is red, lit, and where it was asked for
    expect(bare[(45 * WIDTH + 60) * 4]).toBeGreaterThan(0.5)
    const all = await shown(sheet(2, ['ball', 'box']))
    for (let i = 0; i < all.length; i++) expect(Math.abs(all[i]! - bare[i]!)).toBeLessThan(2e-3)
  })
  it('words at a distance, on the ground and upright, whatever stands between', async () => {
    for (const put of [{ away: 2 }, { put: 'upright', x: 0, y: 0.4, z: -2, size: 1.4 }]) {
      const make = async (behind: string[]) => {
        const document = structuredClone(base)
        await words({ ...put, behind })(document)
        return shown(d => {
          Object.assign(d, document)
          // A thin grey veil at 3 m, before the ball
          addLayer(d, makeLayer('wash', { distance: 3, colour: [0, 0, 0], opacity: 0.5 }))
        })
      }
      const [before, behind] = [await make([]), await make(['ball'])]
      let [covered, let_] = [0, 0]
      for (let i = 0; i < WIDTH * HEIGHT; i++) {
        if (ball[i]! > 0.99 && before[i * 4 + 1]! > 0.9) {
          covered++
          expect(behind[i * 4]!).toBeGreaterThan(0.3)
          expect(behind[i * 4 + 1]!).toBeLessThan(0.05)
        }
        if (ball[i]! === 0) {
          let_++
          expect(behind[i * 4 + 1]!).toBeCloseTo(before[i * 4 + 1]!, 5)
        }
      }
      expect(covered).toBeGreaterThan(50)
      expect(let_).toBeGreaterThan(5000)
    }
  })
  it('and behind what is drawn on that thing; and of a render that is in a group by hand', async () => {
    const drawn = (document: ShotDocument): void => {
      const id = addStuck(document, 1)
      Object.assign(document.build.layers[id]!, { lit: 0 })
      // A white wash over all that the render shows
      addLayer(document, { ...makeLayer('wash', { distance: 1, colour: [1, 1, 1], opacity: 1 }), within: id } as never)
    }
    const words_ = structuredClone(base)
    await words({ away: 2, behind: ['ball'] })(words_)
    const on = (document: ShotDocument): void => {
      Object.assign(document, structuredClone(words_))
      drawn(document)
    }
    const [with_, without] = [await shown(on), await shown(drawn)]
    let seen = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      if (!(ball[i]! > 0.999) || !(without[i * 4 + 1]! > 0.9)) continue
      seen++
      expect(with_[i * 4]!).toBeCloseTo(without[i * 4]!, 3)
    }
    expect(seen).toBeGreaterThan(300)
    const grouped = await shown(document => {
      const render = inOrder(document.build.layers).find(({ kind }) => kind === 'render')!
      const group = groupTogether(document, [render.id])
      Object.assign(document.build.layers[group]!, { ordered: 'by hand' })
      sheet(2, ['ball'])(document)
    })
    const { wall, off } = atBorder(grouped)
    expect(wall).toBeLessThan(0.1)
    expect(off).toBeLessThan(0.04)
  })
  it('goes on being behind a thing that is called otherwise now', async () => {
    const data = await shown(document => {
      sheet(2, ['ball'])(document)
      renameObject(document, [], 'ball', 'buoy')
    })
    expect(data).toEqual(await shown(sheet(2, ['ball'])))
  })
})
