// A plate's own depth: files that OpenImageIO (Debian) writes, read as what was put into them; and what stands between the
// places of a photograph is hidden by those that are nearer, whatever their order.
import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../../core/compose/evaluate'
import { BadInput } from '../../core/formats/errors'
import { writePng } from '../../core/formats/png/png'
import { openPassFile, unpacking } from '../../core/render/openpasses'
import { NO_DEPTH } from '../../core/render/passes'
import { plateDepthOf } from '../../core/render/plateDepth'
import {
  newDocument,
  newTreatment,
  type PictureReference,
  type PlateLayer,
  type ShotDocument,
} from '../../core/shot/document'
import { addLayer, makeLayer } from '../../core/shot/layers'
import { addRow } from '../../core/shot/rows'
import { newTerm, slipOf } from '../../core/shot/slip'
import { startEngine, type Engine } from '../../host/engine'
import { documentFaults } from '../../shared/validate'
import { python, scratchFolder } from '../python'

const folder = scratchFolder()
const [WIDTH, HEIGHT] = [40, 20]
/** A file of the channels that a script makes; x, y: places of pixels. */
function written(name: string, script: string, type = 'float'): Uint8Array {
  const path = join(folder, name)
  python(
    `
import sys, json, numpy as np, OpenImageIO as o
y, x = np.mgrid[0:${HEIGHT}, 0:${WIDTH}].astype(np.float32)
out = {}
${script}
s = o.ImageSpec(${WIDTH}, ${HEIGHT}, len(out), '${type}'); s.channelnames = list(out)
f = o.ImageOutput.create(sys.argv[1]); f.open(sys.argv[1], s)
assert f.write_image(np.ascontiguousarray(np.dstack(list(out.values())).astype(np.float32))), f.geterror()
f.close(); print('1')`,
    path,
  )
  return new Uint8Array(readFileSync(path))
}
const metresIn = async (bytes: Uint8Array): Promise<ArrayLike<number>> => {
  const made = await plateDepthOf(bytes)
  expect([made.width, made.height]).toEqual([WIDTH, HEIGHT])
  const file = await openPassFile(made.bytes, made.reading)
  return unpacking(() => file.planes.get('depth.Z')!)
}

describe('files', () => {
  it('Z beside a picture, and a layer that is called depth, are metres', async () => {
    const beside = await metresIn(
      written('z.exr', `out = {'R': x*0+.5, 'G': x*0+.5, 'B': x*0+.5, 'A': x*0+1, 'Z': 2 + x/4 + y}`),
    )
    const called = await metresIn(written('d.exr', `out = {'Depth.V': 3 + x, 'other.V': x*0+9}`))
    for (const [x, y] of [
      [0, 0],
      [7, 3],
      [39, 19],
    ] as const) {
      expect(beside[y * WIDTH + x]).toBe(2 + x / 4 + y)
      expect(called[y * WIDTH + x]).toBe(3 + x)
    }
  })
  it('sixteen bits of grey are what the file has, white near', async () => {
    const made = await plateDepthOf(written('g.png', `out = {'Y': x/39}`, 'uint16'))
    expect(made.reading.depth).toMatchObject({ kind: 'grey', near: { value: 1 }, far: { value: 0 } })
    const metres = await metresIn(written('g.png', `out = {'Y': x/39}`, 'uint16'))
    expect(metres[39]).toBeCloseTo(2, 4)
    expect(metres[0]).toBeCloseTo(50, 3)
    // Not as a screen shows it: half way the code is half way
    const code = Math.round((20 / 39) * 65535) / 65535
    expect(metres[20]).toBeCloseTo(50 + (2 - 50) * code, 3)
  })
  it('what tells nothing is refused with a word', async () => {
    await expect(plateDepthOf(written('c.png', `out = {'Y': x*0+.5}`, 'uint8'))).rejects.toThrow('the same number')
    const two = written('two.exr', `out = {'a.R': x, 'a.G': x, 'a.B': x, 'b.R': y, 'b.G': y, 'b.B': y}`)
    await expect(plateDepthOf(two)).rejects.toThrow('None of the layers of this OpenEXR is called depth or Z: “a.RGB”')
    await expect(plateDepthOf(new TextEncoder().encode('no picture'))).rejects.toThrow(BadInput)
    await expect(plateDepthOf(two.subarray(0, 300))).rejects.toThrow(BadInput)
  })
})

describe('a photograph with a depth', () => {
  let engine: Engine
  let document: ShotDocument
  let bent: PlateLayer['depth']
  const files = new Map<string, Uint8Array>()
  const keep = (bytes: Uint8Array): string => {
    const name = createHash('sha256').update(bytes).digest('hex')
    files.set(name, bytes)
    return name
  }
  const flatPicture = (name: string, code: (i: number) => number[]): PictureReference => ({
    blob: keep(
      writePng({
        ...{ width: WIDTH, height: HEIGHT, channels: 3, maximum: 255 },
        data: Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => i).reduce(
          (out, _, i) => (out.set(code(i), i * 3), out),
          new Uint8Array(WIDTH * HEIGHT * 3),
        ),
      }),
    ),
    ...{ name, encoding: 'linear', alpha: 'none', width: WIDTH, height: HEIGHT },
  })
  beforeAll(async () => {
    engine = await startEngine(1)
    document = newDocument(WIDTH, HEIGHT)
    for (const id of ['shadow', 'render']) delete document.build.layers[id]
    document.plate = flatPicture('plate.png', i => [100 + (i % 7), 20, 40])
    // Left a post at 3 m, right a wall at 30 m, above sky
    const reference = async (script: string): Promise<PlateLayer['depth']> => {
      const { bytes, ...rest } = await plateDepthOf(written('p.exr', script))
      return { ...{ blob: keep(bytes), name: 'p.exr', passes: ['depth'], objects: [], materials: [], of: '' }, ...rest }
    }
    ;(document.build.layers.plate as PlateLayer).depth = await reference(
      `out = {'Z': np.where(y < 5, 0, np.where(x < 20, 3, 30))}`,
    )
    bent = await reference(`out = {'Z': np.where(x < 30, 3, 30)}`)
  })
  afterAll(() => engine.stop())
  const built = async (mutate: (next: ShotDocument) => void): Promise<Float32Array> => {
    const next = structuredClone(document)
    mutate(next)
    expect(documentFaults(next)).toEqual([])
    const evaluator = new Evaluator(engine.pool, blob => Promise.resolve(files.get(blob)!), 2 ** 28)
    const raster = await evaluator.evaluate({ document: next, frame: 1, shrink: 1, show: { kind: 'build' } })
    return engine.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()
  }
  const post = 12 * WIDTH + 8
  const wall = 12 * WIDTH + 32
  const sky = 2 * WIDTH + 8
  const isPlate = (pixels: Float32Array, at: number): boolean => Math.abs(pixels[at * 4 + 1]! - 20 / 255) < 1e-6
  const green = (metres: number) => (next: ShotDocument) => {
    const picture = flatPicture('green.png', () => [0, 200, 0])
    addLayer(next, makeLayer('picture', { picture, distance: metres, x: WIDTH / 2, y: HEIGHT / 2 }))
  }

  it('by itself is the photograph, to the bit', async () => {
    const plain = await built(next => {
      delete (next.build.layers.plate as PlateLayer).depth
    })
    expect(await built(() => {})).toEqual(plain)
  })
  it.each([
    [2, [false, false, false]],
    [10, [true, false, false]],
    [50, [true, true, false]],
  ] as const)('a picture %s m away is hidden by what is nearer', async (metres, hidden) => {
    const pixels = await built(green(metres))
    expect([post, wall, sky].map(at => isPlate(pixels, at))).toEqual(hidden)
  })
  it('a fog bank begins behind the post and lies before all of the wall', async () => {
    const before = await built(() => {})
    const pixels = await built(next => {
      addLayer(next, makeLayer('fogbank', { near: 5, far: 20, dense: 0.5, colour: [0, 1, 0] }))
    })
    const at = (of: Float32Array, place: number): number => of[place * 4 + 1]!
    expect(at(pixels, post)).toBe(at(before, post))
    expect(at(pixels, wall)).toBeCloseTo(at(before, wall) * 0.5 + 0.5, 4)
    expect(at(pixels, sky)).toBeCloseTo(at(before, sky) * 0.5 + 0.5, 4)
  })
  it('lines and slips see how far away it is', async () => {
    const pixels = await built(next => {
      const group = addLayer(next, makeLayer('group'))
      next.build.layers.plate!.within = group
      const slip = slipOf({ ...newTerm('depth'), values: { near: 0, far: 10, soft: 0.1 } } as never)
      addRow(next.build.layers[group]!.treatments, { ...newTreatment('exposure', { stops: 1 }), matte: slip })
    })
    const before = await built(() => {})
    expect([post, wall, sky].map(at => Math.round((pixels[at * 4]! / before[at * 4]!) * 100) / 100)).toEqual([2, 1, 1])
  })
  it('laid at half it is half as it would be without', async () => {
    const half = (next: ShotDocument) => {
      ;(next.build.layers.plate as PlateLayer).opacity = 0.5
    }
    const plain = await built(next => {
      half(next)
      delete (next.build.layers.plate as PlateLayer).depth
    })
    expect(await built(half)).toEqual(plain)
  })
  it('put at a distance it stands there as a whole', async () => {
    const pixels = await built(next => {
      ;(next.build.layers.plate as PlateLayer).distance = 20
      green(10)(next)
    })
    expect([post, wall, sky].map(at => isPlate(pixels, at))).toEqual([false, false, false])
    const behind = await built(next => {
      ;(next.build.layers.plate as PlateLayer).distance = 20
      green(25)(next)
    })
    expect([post, wall, sky].map(at => isPlate(behind, at))).toEqual([true, true, true])
  })
  it('the lens of the shot is taken off it as off the photograph', async () => {
    // The post is black, the wall white: with green between them nothing white is left
    const pixels = await built(next => {
      next.plate = flatPicture('bent.png', i => (i % WIDTH < 30 ? [0, 0, 0] : [250, 250, 250]))
      ;(next.build.layers.plate as PlateLayer).depth = bent
      next.lens = { k1: -0.2, k2: 0, on: true }
      green(10)(next)
    })
    let [post, white] = [0, 0]
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      if (pixels[i * 4 + 1]! < 0.1) post++
      if (pixels[i * 4]! > 0.6) white++
    }
    expect(post).toBeGreaterThan(WIDTH * HEIGHT * 0.6)
    expect(white).toBeLessThan(HEIGHT / 2)
  })
  it('what is no distance is as far as nothing', async () => {
    const made = await plateDepthOf(written('p.exr', `out = {'Z': np.where(y < 5, 0, np.where(x < 20, 3, 30))}`))
    const file = await openPassFile(made.bytes, made.reading)
    const metres = await unpacking(() => file.planes.get('depth.Z')!)
    expect([metres[sky], metres[post], metres[wall]]).toEqual([NO_DEPTH, 3, 30])
  })
})
