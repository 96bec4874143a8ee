// A drawing at the borders of things: each pixel shows it by the share of what it lies on.
import { describe, expect, it } from 'vitest'
import { boxOf } from '../core/engine/box'
import { encodeCryptomatte } from '../core/formats/cryptomatte/cryptomatte'
import { stringAttribute } from '../core/formats/exr/exr'
import { stuckPlaces } from '../core/layer/stuckPlaces'
import { Runner } from '../core/plan/runner'
import { sized } from '../core/plan/size'
import { openPassFile, type PassFile } from '../core/render/openpasses'
import { PassNodes } from '../core/render/passnodes'
import { newDocument } from '../core/shot/document'
import { addRender } from '../core/shot/layers'
import { lit, type Plane } from './compose/passes'
import { add, engine, files, useLayers } from './layeredShot'
import { exrOf, shown } from './stuckShot'

useLayers()

describe('by the cover of each pixel', () => {
  /** A board on the left of a wall: its border goes through column 4, of which it fills 0.3; the wall behind is not drawn on. */
  const wide = 10
  const places = (by: number): Record<string, Plane> => {
    const isBoard: Plane = x => Number(x < 4)
    return {
      A: () => 1,
      'depth.Z': x => (isBoard(x, 0) ? 2 : 5),
      'object_id.I': x => (isBoard(x, 0) ? 1 : 2),
      'rest.X': x => (isBoard(x, 0) ? (x - by) * 0.1 : 50 + x),
      'rest.Y': (_, y) => y * 0.1,
      'rest.Z': x => (isBoard(x, 0) ? 0 : -3),
      ...lit(() => 0.5),
    }
  }
  const crypto = (share: (x: number) => number): ReturnType<typeof encodeCryptomatte> => {
    const coverage = { ranks: 2, index: new Uint16Array(wide * 4 * 2), weight: new Float32Array(wide * 4 * 2) }
    for (let i = 0; i < wide * 4; i++) {
      const own = share(i % wide)
      const parts = [
        [1, own],
        [2, 1 - own],
      ]
        .filter(([, weight]) => weight! > 0)
        .sort((a, b) => b[1]! - a[1]!)
      parts.forEach(([thing, weight], rank) => {
        coverage.index[i * 2 + rank] = thing!
        coverage.weight[i * 2 + rank] = weight!
      })
    }
    return encodeCryptomatte('cryptoObject', coverage, wide * 4, ['board', 'wall'])
  }
  const bytesOf = (by: number, share: (x: number) => number): Uint8Array => {
    const { channels, attributes } = crypto(share)
    return exrOf([wide, 4], places(by), {
      channels,
      attributes: [
        ...attributes,
        stringAttribute('northmist/objects', '["board","wall"]'),
        stringAttribute('northmist/materials', '[]'),
      ],
    })
  }
  const fileOf = (by: number, share: (x: number) => number): Promise<PassFile> => openPassFile(bytesOf(by, share))
  async function placesFor(share: (x: number) => number): Promise<[Float32Array, Float32Array]> {
    const size = sized({ width: wide, height: 4, left: 0, top: 0 }, 1)
    const nodes = async (by: number, key: string): Promise<PassNodes> =>
      new PassNodes(
        {
          ...{ file: await fileOf(by, share), key: `${key} ${share(4)}` },
          map: () => ({ scaleX: 1, offsetX: 0, scaleY: 1, offsetY: 0 }),
        },
        size,
      )
    const both = stuckPlaces(await nodes(1, 'now'), await nodes(0, 'there'))!
    const found: Float32Array[] = []
    for (const node of both) {
      const { pointer } = await new Runner(engine.pool, 2 ** 28).run(node, boxOf(wide, 4))
      found.push(engine.kernels.floats(pointer, wide * 4 * 4).slice())
    }
    return found as [Float32Array, Float32Array]
  }
  const at = (found: Float32Array, x: number): number[] => [...found.slice((2 * wide + x) * 4, (2 * wide + x) * 4 + 3)]
  it('at a border its places go on, as much as it covers, beside those of the other', async () => {
    const [first, next] = await placesFor(x => (x < 4 ? 1 : x === 4 ? 0.3 : 0))
    // It has gone one pixel to the right since
    expect(at(first, 3)[0]).toBeCloseTo(2.5, 4)
    expect(at(first, 3)[2]).toBe(1)
    expect(at(next, 3)[2]).toBe(0)
    // Of the border's pixel most is the wall, which stands; the rest is the board as it goes on
    expect(at(first, 4)[0]).toBeCloseTo(4.5, 4)
    expect(at(first, 4)[2]).toBeCloseTo(0.7, 5)
    expect(at(next, 4)[0]).toBeCloseTo(3.5, 4)
    expect(at(next, 4)[1]).toBeCloseTo(2.5, 4)
    expect(at(next, 4)[2]).toBeCloseTo(0.3, 5)
    expect(at(next, 5)[2]).toBe(0)
  })
  it('both are drawn on, so that nothing of the pixel is left out', async () => {
    const document = newDocument(wide, 4)
    document.build.layers = {}
    document.frames = { first: 1, last: 2 } as never
    const border = (x: number): number => (x < 4 ? 1 : x === 4 ? 0.3 : 0)
    const blobs = [0, 1].map(by => files.keep(bytesOf(by, border)))
    const passes = ['alpha', 'depth', 'object_id', 'crypto_object', 'rest']
    const render = addRender(
      document,
      {
        ...{
          blob: blobs[0]!,
          name: 'boards',
          width: wide,
          height: 4,
          passes,
          objects: ['board', 'wall'],
          materials: [],
        },
        ...{ of: '', frames: { first: 1, blobs } },
      },
      'Boards',
    )
    const stuck = add(document, 'stuck', { id: 'stuck', of: render, placed: 1, appears: 1, lit: 0 })
    add(document, 'wash', { within: stuck, colour: [1, 1, 1], opacity: 1, distance: 1 })
    const pixels = await shown(document, 2, 1, ['stuck'])
    expect(pixels[(2 * wide + 4) * 4 + 3]).toBeCloseTo(1, 4)
    expect(pixels[(2 * wide + 2) * 4 + 3]).toBeCloseTo(1, 4)
  })
  it('what covers nothing of a pixel is not drawn on', async () => {
    // The board is there, but clear
    const [first, next] = await placesFor(() => 0)
    for (let x = 0; x < 3; x++) expect([at(first, x)[2], at(next, x)[2]]).toEqual([0, 0])
  })
})
