// How far away things are, through layers, lens and treatments; and treatments that read other frames of a shot.
import { slipOf, valuedTerm } from '../core/shot/slip'
import { createHash } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { emptyWindow, stringAttribute, writeExr, type ExrChannel } from '../core/formats/exr/exr'
import { writePng } from '../core/formats/png/png'
import {
  newDocument,
  newTreatment,
  type Slip,
  type Layer,
  type PictureLayer,
  type ShotDocument,
  type TreatmentSettings,
  type WashLayer,
} from '../core/shot/document'
import { addRow, rowsOf, type Unplaced } from '../core/shot/rows'
import { startEngine, type Engine } from '../host/engine'
import { documentFaults } from '../shared/validate'

const [WIDTH, HEIGHT] = [60, 20]
const files = new Map<string, Uint8Array>()
const keep = (bytes: Uint8Array): string => {
  const name = createHash('sha256').update(bytes).digest('hex')
  files.set(name, bytes)
  return name
}
let engine: Engine
let evaluator: Evaluator
beforeAll(async () => {
  engine = await startEngine(2)
  evaluator = new Evaluator(engine.pool, async blob => files.get(blob)!, 2 ** 28)
})
afterAll(() => engine.stop())

/** A render by hand: black; of columns 20 to 40 something 10 m away covers all, of column 40 half. */
function passes(): Uint8Array {
  const plane = (value: (x: number) => number): Float32Array =>
    Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => value(i % WIDTH))
  const channels: Record<string, Float32Array> = {
    A: plane(x => (x >= 20 && x < 40 ? 1 : x === 40 ? 0.5 : 0)),
    'depth.Z': plane(x => (x >= 20 && x <= 40 ? 10 : 1e10)),
    ...Object.fromEntries(
      ['diffuse_direct', 'diffuse_indirect', 'reflection', 'refraction', 'emission', 'environment'].flatMap(part =>
        ['R', 'G', 'B'].map(c => [`${part}.${c}`, plane(() => 0)]),
      ),
    ),
  }
  return writeExr({
    dataWindow: emptyWindow(WIDTH, HEIGHT),
    displayWindow: emptyWindow(WIDTH, HEIGHT),
    compression: 'zip',
    attributes: [stringAttribute('northmist/objects', '["wall"]'), stringAttribute('northmist/materials', '["stone"]')],
    channels: Object.entries(channels)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, data]): ExrChannel => ({ name, type: 'float', linear: false, data })),
  })
}
const png = (width: number, height: number, at: (x: number) => number[], channels: 3 | 4 = 3): string =>
  keep(
    writePng({
      width,
      height,
      channels,
      maximum: 255,
      data: Uint8Array.from(
        { length: width * height * channels },
        (_, i) => at(Math.floor(i / channels) % width)[i % channels]!,
      ),
    }),
  )

/** Plate without distance; the wall 10 m away in the middle; a picture 4 m away over the last ten columns. */
function shot(): ShotDocument {
  const document = newDocument(WIDTH, HEIGHT)
  document.plate = {
    blob: png(WIDTH, HEIGHT, () => [128, 128, 128]),
    name: 'plate.png',
    encoding: 'linear',
    alpha: 'none',
    width: WIDTH,
    height: HEIGHT,
  }
  document.passes.file = {
    blob: keep(passes()),
    name: 'passes.exr',
    width: WIDTH,
    height: HEIGHT,
    passes: ['beauty', 'alpha', 'depth'],
    objects: ['wall'],
    materials: ['stone'],
    of: '',
  }
  addRow(document.build.layers, {
    id: 'near',
    kind: 'picture',
    name: 'Near',
    on: true,
    opacity: 1,
    mode: 'over',
    treatments: {},
    picture: {
      blob: png(10, HEIGHT, () => [255, 255, 255, 255], 4),
      name: 'near.png',
      encoding: 'linear',
      alpha: 'straight',
      width: 10,
      height: HEIGHT,
    },
    distance: 4,
    x: 55,
    y: HEIGHT / 2,
    scale: 1,
    rotation: 0,
  } as Unplaced<PictureLayer>)
  return document
}
const finishWith = (document: ShotDocument, ...lines: ReturnType<typeof newTreatment>[]): ShotDocument => {
  const next = { ...structuredClone(document), finish: rowsOf<TreatmentSettings>(lines) }
  expect(documentFaults(next).filter(fault => !/SHA-256/.test(fault))).toEqual([])
  return next
}
async function row(
  document: ShotDocument,
  show: Parameters<Evaluator['evaluate']>[0]['show'],
  frame = 1,
): Promise<number[][]> {
  const { pointer, width } = await evaluator.evaluate({ document, frame, shrink: 1, show })
  const pixels = engine.kernels.floats(pointer + width * 10 * 16, width * 4)
  return Array.from({ length: width }, (_, x) => [...pixels.slice(x * 4, x * 4 + 4)])
}
const red = (amount: number): ReturnType<typeof newTreatment> =>
  newTreatment('distance_tint', { amount, near: 5, far: 15, colour: [1, 0, 0] }, 'h')

describe('tint by distance at Finish', () => {
  it('sees the plate as farthest, the render where it is, a picture at its own distance, half-covered edges as half', async () => {
    const now = await row(finishWith(shot(), red(1)), { kind: 'finish' })
    const before = await row(shot(), { kind: 'finish' })
    // 1: all of the tint; the wall is half way between 5 and 15 m; 4 m is nearer than all
    const shares = { 5: 1, 30: 0.5, 55: 0 }
    for (const [x, share] of Object.entries(shares)) {
      const was = before[Number(x)]!
      ;[1, 0, 0].forEach((tint, c) => expect(now[Number(x)]![c]).toBeCloseTo(was[c]! + (tint - was[c]!) * share, 5))
    }
    const edge = before[40]!
    expect(now[40]![0]).toBeCloseTo(edge[0]! + (1 - edge[0]!) * (0.5 * 0.5 + 0.5 * 1), 5)
  })
  it('moves with the picture that is moved', async () => {
    const far = finishWith(shot(), red(1))
    ;(far.build.layers.near as PictureLayer).distance = 12
    expect((await row(far, { kind: 'finish' }))[55]![1]).toBeCloseTo(1 - 0.7, 5)
  })
  it('bends with the lens', async () => {
    const document = finishWith(shot(), red(1))
    document.lens = { k1: -0.2, k2: 0, on: true }
    document.plate = null
    const now = await row(document, { kind: 'finish' })
    const plain = await row({ ...document, finish: {} }, { kind: 'finish' })
    // Where the wall's cover ends its tint ends: half of what covers is half of the tint
    for (let x = 20; x < 45; x++) {
      const cover = plain[x]![3]!
      expect(now[x]![0]! - plain[x]![0]!).toBeGreaterThanOrEqual(-1e-6)
      if (cover > 0.99) expect(now[x]![0]).toBeCloseTo(0.5, 2)
    }
  })
})

describe('a matte of the picture at its line', () => {
  const line = (matte: Slip): ReturnType<typeof newTreatment> => ({
    ...newTreatment('exposure', { stops: 1 }, 'e'),
    matte,
  })
  it('by depth holds what stands between its ends, and is shown as it works', async () => {
    const term = { ...valuedTerm('depth'), values: { near: 8, far: 12, soft: 0 } }
    const matte = slipOf(term)
    const document = finishWith(shot(), line(matte))
    const shown = await row(document, { kind: 'matte', matte, line: 'e' })
    expect([5, 30, 40, 55].map(x => shown[x]![0])).toEqual([0, 1, 0.5, 0])
    const [now, before] = [await row(document, { kind: 'finish' }), await row(shot(), { kind: 'finish' })]
    expect(now[5]![0]).toBe(before[5]![0])
    expect(now[40]![0]).toBeCloseTo(before[40]![0]! * 1.5, 6)
    for (const turned of [
      { ...matte, invert: true },
      slipOf({ ...term, invert: true }),
      slipOf({ ...term, join: 'not' }),
    ])
      expect((await row(document, { kind: 'matte', matte: turned, line: 'e' })).map(([held]) => held)).toEqual(
        shown.map(([held]) => 1 - held!),
      )
  })
  it('by brightness is of the picture that comes to it, not of the one before the lines above', async () => {
    const matte = slipOf({ ...valuedTerm('brightness'), values: { low: 0.9, high: 1000, soft: 0 } })
    const alone = finishWith(shot(), line(matte))
    expect((await row(alone, { kind: 'matte', matte, line: 'e' }))[5]![0]).toBe(0)
    const after = finishWith(shot(), newTreatment('exposure', { stops: 2 }, 'first'), line(matte))
    expect((await row(after, { kind: 'matte', matte, line: 'e' }))[5]![0]).toBe(1)
    expect((await row(after, { kind: 'finish' }))[5]![0]).toBeCloseTo((128 / 255) * 8, 5)
  })
  it('as a veil or cut out it lies over what its line works in: the build, or the finish', async () => {
    const all = slipOf({ ...valuedTerm('brightness'), values: { low: 0, high: 1000, soft: 0 } })
    const none = slipOf({ ...valuedTerm('brightness'), values: { low: 900, high: 1000, soft: 0 } })
    const document = finishWith(shot(), newTreatment('exposure', { stops: 2 }, 'f'))
    const layer = document.build.layers.near as PictureLayer
    layer.treatments = rowsOf<TreatmentSettings>([line(none)])
    const [build, finish] = [await row(document, { kind: 'build' }), await row(document, { kind: 'finish' })]
    expect(finish[5]![0]).toBeCloseTo(build[5]![0]! * 4, 5)
    for (const [id, ground] of [
      ['e', build],
      ['f', finish],
    ] as const) {
      const as = (matte: typeof all, how: 'veil' | 'cut out'): Promise<number[][]> =>
        row(document, { kind: 'matte', matte, line: id, as: how })
      expect(await as(none, 'veil')).toEqual(ground)
      for (const channel of (await as(none, 'cut out'))[5]!.slice(0, 3)) expect(channel).toBeCloseTo(0.18, 6)
      const [veiled, cut] = [await as(all, 'veil'), await as(all, 'cut out')]
      cut[55]!.forEach((channel, c) => expect(channel).toBeCloseTo(ground[55]![c]!, 5))
      // So much of the veil, so much of the picture
      ground[55]!
        .slice(0, 3)
        .forEach((value, c) => expect(veiled[55]![c]).toBeCloseTo((value + [0.62, 0.05, 0.03][c]!) / 2, 5))
    }
  })
  it('as an outline it is a line where in meets out; cut out it stands over grey, black, white or a checker', async () => {
    const document = finishWith(shot(), newTreatment('exposure', { stops: 2 }, 'f'))
    const half = slipOf({
      ...valuedTerm('gradient'),
      values: { shape: 'line', from_x: 29.99, from_y: 0, to_x: 30.01, to_y: 0 },
    })
    const as = (how: 'outline' | 'cut out', over?: 'grey' | 'black' | 'white' | 'checker'): Promise<number[][]> =>
      row(document, { kind: 'matte', matte: half, line: 'f', as: how, over })
    const ground = await row(document, { kind: 'finish' })
    const outline = await as('outline')
    for (const [x, pixel] of outline.entries())
      if (x === 29 || x === 30) expect(pixel[0]).toBeCloseTo(1, 5)
      else if (x < 28 || x > 31) expect(pixel).toEqual(ground[x])
    for (const [over, value] of [
      ['black', 0],
      ['white', 1],
      ['grey', 0.18],
    ] as const) {
      const cut = await as('cut out', over)
      expect(cut[10]![1]).toBeCloseTo(value, 6)
      cut[50]!.forEach((channel, c) => expect(channel).toBeCloseTo(ground[50]![c]!, 5))
    }
    const squares = (await as('cut out', 'checker')).slice(0, 29).map(pixel => Math.round(pixel[0]! * 100))
    expect(new Set(squares)).toEqual(new Set([10, 32]))
    expect(squares.indexOf(squares[28]!)).toBe(16)
  })
  it('of a layer’s line is shown too, and of a line that is off', async () => {
    const matte = slipOf({ ...valuedTerm('brightness'), values: { low: 0.9, high: 1000, soft: 0 } })
    const document = shot()
    const layer = document.build.layers.near as PictureLayer
    layer.treatments = rowsOf<TreatmentSettings>([{ ...line(matte), on: false }])
    const shown = await row(document, { kind: 'matte', matte, line: 'e' })
    expect([5, 55].map(x => shown[x]![0])).toEqual([0, 1])
  })
})

it('average over frames reads the shot’s own frames: what moves goes soft by as much, the ends count again', async () => {
  const document = finishWith(shot(), newTreatment('average', { before: 1, after: 1 }, 'a'))
  document.frames = { first: 1, last: 10 }
  const layer = document.build.layers.near as PictureLayer
  layer.x = {
    keys: [
      { frame: 1, value: 5, ease: 'linear' },
      { frame: 6, value: 55, ease: 'linear' },
    ],
  }
  document.passes.file = null
  const plate = 128 / 255
  // At frame 3 the picture stands at 20 to 30; a frame before at 10 to 20, a frame on at 30 to 40
  const now = await row(document, { kind: 'finish' }, 3)
  for (const x of [12, 25, 35]) expect(now[x]![0]).toBeCloseTo((1 + 2 * plate) / 3, 5)
  expect(now[50]![0]).toBeCloseTo(plate, 5)
  const first = await row(document, { kind: 'finish' }, 1)
  expect(first[5]![0]).toBeCloseTo((2 + plate) / 3, 5)
})

it('a colour wash lies over all that is farther away than it, to the edge, and moves and treats like any layer', async () => {
  const document = shot()
  const before = await row(document, { kind: 'build' })
  addRow(document.build.layers, {
    id: 'wash',
    kind: 'wash',
    name: 'Wash',
    on: true,
    opacity: 0.5,
    mode: 'over',
    treatments: rowsOf<TreatmentSettings>([newTreatment('exposure', { stops: 1 }, 'w')]),
    colour: [0.5, 0.25, 0],
    distance: 7,
  } as Unplaced<Layer>)
  expect(documentFaults(document).filter(fault => !/SHA-256/.test(fault))).toEqual([])
  const washed = [1, 0.5, 0]
  const now = await row(document, { kind: 'build' })
  // Plate and wall (10 m) are behind it, the picture (4 m) before it
  for (const x of [5, 30, 40])
    washed.forEach((value, c) => expect(now[x]![c]).toBeCloseTo((before[x]![c]! + value) / 2, 6))
  expect(now[55]).toEqual(before[55])
  ;(document.build.layers.wash as WashLayer).distance = 12
  const farther = await row(document, { kind: 'build' })
  expect(farther[30]).toEqual(before[30])
  washed.forEach((value, c) => expect(farther[5]![c]).toBeCloseTo((before[5]![c]! + value) / 2, 6))
  // Half of the pixel is the wall before it, half of it is washed
  washed.forEach((value, c) => expect(farther[40]![c]).toBeCloseTo(before[40]![c]! / 2 + value * 0.25, 6))
})
