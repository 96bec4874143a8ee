// A drawing stuck on a skin that turns and bends, against the same drawing rendered as its texture; how it is hidden, lit, and
// begins.
import { describe, expect, it } from 'vitest'
import { encodeCryptomatte } from '../core/formats/cryptomatte/cryptomatte'
import { emptyWindow, stringAttribute, writeExr, type ExrChannel } from '../core/formats/exr/exr'
import { stuckPlaces } from '../core/layer/stuckPlaces'
import { Runner } from '../core/plan/runner'
import { boxOf } from '../core/engine/box'
import { sized } from '../core/plan/size'
import { openPassFile, type PassFile } from '../core/render/openpasses'
import { PassNodes } from '../core/render/passnodes'
import { lit, passFile, type Plane } from './compose/passes'
import { passesToExr } from '../core/render/passfile'
import type { RenderedPasses } from '../core/render/planes'
import { project, rayThrough } from '../core/match/project'
import type { Camera, Part, Scene, Texture } from '../core/scene/scene'
import { cameraAt } from '../core/shot/scene'
import { newDocument, type PictureLayer, type ShotDocument } from '../core/shot/document'
import { documentFaults } from '../shared/validate'
import { addRender } from '../core/shot/layers'
import { add, engine, evaluator, files, useLayers } from './layeredShot'
import { ball, constantEnvironment, lookAt, material, object, quad, renderScene, scene } from './scenes'

useLayers()
const [WIDTH, HEIGHT] = [192, 144]
const camera = lookAt([0, 0.2, 5], [0, 0, 0], 50)
const PLACED = 6
const FIRST = 1

/** Four round marks in four colours on the front of the skin, in texture coordinates; where there is none it is white. */
const MARKS: readonly (readonly [u: number, v: number, colour: readonly number[]])[] = [
  [0.2, 0.4, [200, 20, 20]],
  [0.3, 0.4, [20, 160, 20]],
  [0.2, 0.56, [30, 40, 200]],
  [0.3, 0.56, [180, 150, 10]],
]
const SIDE = 1024
function marked(): Texture {
  const pixels = new Uint8Array(SIDE * SIDE * 4).fill(255)
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++)
      for (const [u, v, colour] of MARKS)
        if (Math.hypot((x + 0.5) / SIDE - u, ((y + 0.5) / SIDE - v) * 0.6) < 0.028)
          pixels.set(colour, (y * SIDE + x) * 4)
  return { width: SIDE, height: SIDE, pixels, wrapS: 'repeat', wrapT: 'repeat' } as unknown as Texture
}
function skin(frame: number): Part {
  const part = ball([0, 0, 0], 1, 96, 0)
  const turn = (frame - FIRST) * 0.02
  const positions = part.positions.slice()
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!]
    const wide = 1 + 0.08 * Math.sin(frame * 0.4 + y * 2)
    positions[i] = (x * Math.cos(turn) + z * Math.sin(turn)) * wide + 0.06 * Math.sin(frame * 0.15) * (y + 1) ** 2
    positions[i + 2] = (-x * Math.sin(turn) + z * Math.cos(turn)) * wide
  }
  return { ...part, positions }
}
const texture = marked()
function worldAt(frame: number, withMarks: boolean): Scene {
  const x = -1.6 + frame * 0.06
  return scene(
    [
      object('skin', skin(frame)),
      object('post', quad([x - 0.08, -1.4, 1.5], [x + 0.08, -1.4, 1.5], [x + 0.08, 1.4, 1.5], [x - 0.08, 1.4, 1.5], 1)),
    ],
    {
      materials: [
        material(withMarks ? { baseTexture: texture } : {}),
        material({ name: 'post', baseColour: [0, 0, 0, 1] }),
      ],
      environment: constantEnvironment(0.8),
    },
  )
}
const PASSES = [
  'beauty',
  'alpha',
  'depth',
  'object_id',
  'crypto_object',
  'rest',
  'albedo',
  'diffuse_direct',
  'diffuse_indirect',
  'reflection',
  'refraction',
  'emission',
  'environment',
]
const made = new Map<string, RenderedPasses>()
function rendered(frame: number, withMarks: boolean): RenderedPasses {
  const key = `${frame} ${withMarks}`
  let found = made.get(key)
  if (!found)
    made.set(
      key,
      (found = renderScene(
        worldAt(frame, withMarks),
        { camera, width: WIDTH, height: HEIGHT, samples: 16, passes: PASSES },
        { first: worldAt(FIRST, withMarks) },
      )),
    )
  return found
}
/** What of a pixel is a mark, by how far its colour is from white and black: the marks of the albedo as a picture with alpha. */
function drawing(): Uint8Array {
  const { albedo } = rendered(PLACED, true)
  const channel = (name: string, of: (i: number) => number): ExrChannel => ({
    name,
    type: 'float',
    linear: false,
    data: Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => of(i)),
  })
  // Over white: what a mark takes of the channel that it takes most of
  const share = (i: number): number => {
    const rgb = [0, 1, 2].map(c => albedo![i * 3 + c]!)
    const high = Math.max(...rgb)
    return high < 0.02 ? 0 : Math.min(1, Math.max(0, (high - Math.min(...rgb)) / 0.25))
  }
  const window = emptyWindow(WIDTH, HEIGHT)
  return writeExr({
    dataWindow: window,
    displayWindow: window,
    compression: 'zip',
    attributes: [],
    channels: [
      channel('A', share),
      ...['R', 'G', 'B'].map((name, c) => channel(name, i => share(i) * albedo![i * 3 + c]!)),
    ],
  })
}
function shot(frames: readonly number[], more: Record<string, unknown> = {}): ShotDocument {
  const document = newDocument(WIDTH, HEIGHT)
  document.build.layers = {}
  document.frames = { first: FIRST, last: 60 } as never
  const told = { passes: PASSES, objectNames: ['skin', 'post'], materialNames: ['white', 'post'] }
  const blobs = Array.from({ length: 60 }, (_, i) =>
    frames.includes(i + FIRST) ? files.keep(passesToExr(rendered(i + FIRST, false), told)) : null,
  )
  const render = addRender(
    document,
    {
      ...{
        blob: blobs.find(Boolean)!,
        name: 'passes',
        width: WIDTH,
        height: HEIGHT,
        passes: PASSES,
        objects: ['skin', 'post'],
      },
      ...{ materials: [], of: '', frames: { first: FIRST, blobs } },
    },
    'Skin',
  )
  const stuck = add(document, 'stuck', { id: 'stuck', of: render, placed: PLACED, appears: FIRST, lit: 0, ...more })
  const picture = {
    blob: files.keep(drawing()),
    name: 'marks.exr',
    encoding: 'linear',
    alpha: 'premultiplied',
    width: WIDTH,
    height: HEIGHT,
  }
  add(document, 'picture', { within: stuck, picture, x: WIDTH / 2, y: HEIGHT / 2, scale: 1, rotation: 0, distance: 1 })
  expect(documentFaults(document)).toEqual([])
  return document
}
async function shown(document: ShotDocument, frame: number, shrink: 1 | 2 = 1, only?: string[]): Promise<Float32Array> {
  const raster = await evaluator.evaluate({ document, frame, shrink, show: { kind: 'build' }, only })
  return engine.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
}
/** Middle and amount of a mark: of the pixels that have its hue, by how strong. */
function markOf(
  at: (i: number, c: number) => number,
  colour: readonly number[],
  wide: number,
  count: number,
): [number, number, number] {
  const light = colour.map(code => (code / 255) ** 2.2)
  const strongest = light.indexOf(Math.max(...light))
  const second = colour[0]! > 100 && colour[1]! > 100
  let [x, y, sum] = [0, 0, 0]
  for (let i = 0; i < count; i++) {
    const rgb = [0, 1, 2].map(c => at(i, c))
    const others = rgb.filter((_, c) => c !== strongest && !(second && c < 2))
    const weight = Math.max(
      0,
      (second ? Math.min(rgb[0]!, rgb[1]!) : rgb[strongest]!) - Math.max(...others) - (second ? 0 : 0.02),
    )
    if (!second && strongest < 2 && rgb[1 - strongest]! > rgb[strongest]! * 0.5) continue
    x += weight * ((i % wide) + 0.5)
    y += weight * (Math.floor(i / wide) + 0.5)
    sum += weight
  }
  return [x / sum, y / sum, sum]
}

describe('marks stuck on a skin that turns and bends', () => {
  const FRAMES = [1, 6, 12, 20, 30, 40, 48]

  it('are where the texture has them, in size too, on frames before and after', async () => {
    const document = shot(FRAMES)
    let [worst, sum, count] = [0, 0, 0]
    for (const frame of FRAMES) {
      const pixels = await shown(document, frame, 1, ['stuck'])
      const { albedo } = rendered(frame, true)
      for (const [, , colour] of MARKS) {
        const own = markOf((i, c) => pixels[i * 4 + c]!, colour, WIDTH, WIDTH * HEIGHT)
        const truth = markOf((i, c) => albedo![i * 3 + c]!, colour, WIDTH, WIDTH * HEIGHT)
        // Hidden, or cut by the post: nothing to be held against
        if (truth[2] < 8) continue
        const off = Math.hypot(own[0] - truth[0], own[1] - truth[1])
        worst = Math.max(worst, off)
        sum += off
        count++
        expect(own[2] / truth[2], `frame ${frame}`).toBeGreaterThan(0.8)
        expect(own[2] / truth[2], `frame ${frame}`).toBeLessThan(1.2)
      }
    }
    expect(count).toBeGreaterThan(20)
    expect(sum / count).toBeLessThan(0.3)
    expect(worst).toBeLessThan(1)
  })

  it('are cut by what passes before them, pixel by pixel as the render is', async () => {
    // The post stands over the two marks in the middle
    const frame = 28
    const hue = (rgb: readonly number[]): number => Math.max(...rgb) - Math.min(...rgb)
    const pixels = await shown(shot([PLACED, frame]), frame)
    const { albedo } = rendered(frame, true)
    const bare = rendered(frame, false)
    const post = bare.coverage['crypto_object']!
    let [borders, crossing, off, most, sum] = [0, 0, 0, 0, 0]
    const flat = await shown(shot([PLACED, frame]), frame, 1, ['stuck'])
    for (let y = 40; y < 110; y++)
      for (let x = 80; x < 150; x++) {
        const i = y * WIDTH + x
        let share = 0
        for (let rank = 0; rank < post.ranks; rank++)
          if (post.index[i * post.ranks + rank] === 2) share = post.weight[i * post.ranks + rank]!
        // No rim: nowhere more of a colour than there is cover
        for (const c of [0, 1, 2]) expect(flat[i * 4 + c]).toBeLessThanOrEqual(flat[i * 4 + 3]! + 1e-6)
        // Nothing of it over the post
        if (share > 0.999) expect(flat[i * 4 + 3]).toBe(0)
        if (share < 0.05 || share > 0.95) continue
        // On its border: as much of the mark as is left of the pixel, where the texture has it, too
        const truth = hue([0, 1, 2].map(c => albedo![i * 3 + c]!))
        const own = hue([0, 1, 2].map(c => flat[i * 4 + c]!))
        borders++
        if (truth > 0.1) {
          crossing++
          off += Math.abs(truth - own) / truth
        }
        most = Math.max(most, Math.abs(truth - own))
        sum += Math.abs(truth - own)
      }
    expect(borders).toBeGreaterThan(60)
    expect(crossing).toBeGreaterThan(5)
    expect(off / crossing).toBeLessThan(0.05)
    expect(sum / borders).toBeLessThan(0.01)
    expect(most).toBeLessThan(0.1)
    // Laid on the render it is the render where there is no mark
    const render = await shown(shot([PLACED, frame], { on: false }), frame)
    for (let i = 0; i < WIDTH * HEIGHT; i++) if (!(flat[i * 4 + 3]! > 0)) expect(pixels[i * 4]).toBe(render[i * 4])
  })

  it('in its light are as bright as the texture in the same light', async () => {
    const frame = 12
    const pixels = await shown(shot([PLACED, frame], { lit: 1 }), frame)
    const truth = rendered(frame, true)
    const light = (i: number, c: number): number =>
      truth.light!.diffuse_direct[i * 3 + c]! +
      truth.light!.diffuse_indirect[i * 3 + c]! +
      truth.light!.reflection[i * 3 + c]!
    for (const [, , colour] of MARKS) {
      const at = markOf((i, c) => truth.albedo![i * 3 + c]!, colour, WIDTH, WIDTH * HEIGHT)
      const i = Math.round(at[1] - 0.5) * WIDTH + Math.round(at[0] - 0.5)
      const strongest = [0, 1, 2].reduce((best, c) => (colour[c]! > colour[best]! ? c : best))
      expect(Math.abs(pixels[i * 4 + strongest]! / light(i, strongest) - 1)).toBeLessThan(0.08)
      // And not as without
      expect(Math.abs(light(i, strongest) / truth.albedo![i * 3 + strongest]! - 1)).toBeGreaterThan(0.1)
    }
  })

  it('are there from their first frame on, and not without places at rest', async () => {
    const alphas = async (document: ShotDocument, frame: number): Promise<number> =>
      (await shown(document, frame, 1, ['stuck'])).reduce((sum, value, i) => (i % 4 === 3 ? sum + value : sum), 0)
    const document = shot([6, 12], { appears: 12 })
    expect(await alphas(document, 6)).toBe(0)
    expect(await alphas(document, 12)).toBeGreaterThan(100)
    const [render] = Object.values(document.build.layers).filter(({ kind }) => kind === 'render') as {
      file: { frames: { blobs: (string | null)[] } }
    }[]
    const without = passesToExr(rendered(12, false), {
      passes: PASSES.filter(id => id !== 'rest'),
      objectNames: ['skin', 'post'],
      materialNames: ['white', 'post'],
    })
    render!.file.frames.blobs[11] = files.keep(without)
    expect(await alphas(document, 12)).toBe(0)
  })

  it('at half size lie where they lie', async () => {
    const document = shot([6, 12])
    const [whole, half] = [await shown(document, 12, 1, ['stuck']), await shown(document, 12, 2, ['stuck'])]
    for (const [, , colour] of MARKS) {
      const one = markOf((i, c) => whole[i * 4 + c]!, colour, WIDTH, WIDTH * HEIGHT)
      const two = markOf((i, c) => half[i * 4 + c]!, colour, WIDTH / 2, (WIDTH * HEIGHT) / 4)
      expect(Math.hypot(one[0] - 2 * two[0], one[1] - 2 * two[1])).toBeLessThan(0.4)
    }
  })
})

describe('on a flat place of footage', () => {
  const move = (frame: number): Record<string, number> => ({ x: 0.03 * frame, z: -0.03 * frame, heading: -0.5 * frame })
  function footage(onto: string, more: Record<string, unknown>): ShotDocument {
    const document = newDocument(WIDTH, HEIGHT)
    document.build.layers = {}
    document.frames = { first: 1, last: 60 } as never
    const camera = document.scene.camera as unknown as Record<string, unknown>
    for (const [name, at] of Object.entries(move(1)))
      camera[name] = {
        keys: [1, 41].map(frame => ({ frame, value: frame === 1 ? at : move(41)[name], ease: 'linear' })),
      }
    const stuck = add(document, 'stuck', { id: 'stuck', placed: 5, appears: 1, onto, ...more })
    const channel = (name: string, of: (x: number, y: number) => number): ExrChannel => ({
      ...{ name, type: 'float', linear: false },
      data: Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => of(i % WIDTH, Math.floor(i / WIDTH))),
    })
    const spot = (x: number, y: number): number => Number(Math.hypot(x + 0.5 - 80, y + 0.5 - 100) < 5)
    const window = emptyWindow(WIDTH, HEIGHT)
    const bytes = writeExr({
      ...{ dataWindow: window, displayWindow: window, compression: 'zip', attributes: [] },
      channels: ['A', 'R', 'G', 'B'].map(name => channel(name, spot)),
    })
    const picture = {
      ...{ blob: files.keep(bytes), name: 'spot.exr', encoding: 'linear', alpha: 'premultiplied' },
      ...{ width: WIDTH, height: HEIGHT },
    }
    add(document, 'picture', {
      within: stuck,
      picture,
      x: WIDTH / 2,
      y: HEIGHT / 2,
      scale: 1,
      rotation: 0,
      distance: 1,
    })
    expect(documentFaults(document)).toEqual([])
    return document
  }
  it.each([
    ['the ground', { y: 0.2 }],
    ['a wall of the plate', { x: 1, z: -6, turn: 25 }],
  ] as const)('stays where it is on %s, by the pinhole’s own projection', async (onto, more) => {
    const document = footage(onto, more)
    const seenBy = (frame: number): Camera => cameraAt(document.scene.camera, frame)
    // Where the ray through the spot meets the plane, and where that is seen on another frame
    const aspect = WIDTH / HEIGHT
    const [eye, way] = [seenBy(5).matrix.slice(12, 15), rayThrough(seenBy(5), aspect, 80 / WIDTH, 100 / HEIGHT)]
    const angle = (25 * Math.PI) / 180
    const [normal, from] =
      onto === 'the ground'
        ? [
            [0, 1, 0],
            [0, 0.2, 0],
          ]
        : [
            [Math.sin(angle), 0, Math.cos(angle)],
            [1, 0, -6],
          ]
    const dotted = (a: readonly number[], b: readonly number[]): number =>
      a.reduce((sum, value, i) => sum + value * b[i]!, 0)
    const far =
      dotted(
        normal!,
        from!.map((value, i) => value - eye[i]!),
      ) / dotted(normal!, way)
    const point = [0, 1, 2].map(i => eye[i]! + far * way[i]!) as [number, number, number]
    for (const frame of [1, 5, 12, 22]) {
      const pixels = await shown(document, frame)
      let [x, y, sum] = [0, 0, 0]
      for (let i = 0; i < WIDTH * HEIGHT; i++) {
        const alpha = pixels[i * 4 + 3]!
        x += alpha * ((i % WIDTH) + 0.5)
        y += alpha * (Math.floor(i / WIDTH) + 0.5)
        sum += alpha
      }
      const { u, v } = project(seenBy(frame), aspect, point)
      // All of the spot is in the frame
      expect(u * WIDTH).toBeGreaterThan(8)
      expect(sum, `frame ${frame}`).toBeGreaterThan(20)
      expect(Math.hypot(x / sum - u * WIDTH, y / sum - v * HEIGHT), `frame ${frame}`).toBeLessThan(0.5)
    }
    // It has gone a way
    const [one, other] = [project(seenBy(1), aspect, point), project(seenBy(22), aspect, point)]
    expect(Math.hypot((one.u - other.u) * WIDTH, (one.v - other.v) * HEIGHT)).toBeGreaterThan(15)
  })

  it('is hidden by a render before it, also where it is of one', async () => {
    const document = footage('the ground', { y: 0.2 })
    const before = passFile(files, [WIDTH, HEIGHT], { A: () => 1, 'depth.Z': () => 0.5, ...lit(() => 0.3) })
    const render = addRender(document, before, 'before it')
    Object.assign(document.build.layers['stuck']!, { of: render })
    const pixels = await shown(document, 5)
    const i = (100 * WIDTH + 80) * 4
    expect(pixels[i]).toBeCloseTo(0.3, 5)
    Object.assign(document.build.layers[render]!, { on: false })
    expect((await shown(document, 5))[i]).toBeCloseTo(1, 2)
  })
  it('is not seen beyond the horizon', async () => {
    const document = footage('the ground', { y: 0.2 })
    // All of the frame is drawn on
    const white = writeExr({
      ...{ dataWindow: emptyWindow(8, 8), displayWindow: emptyWindow(8, 8), compression: 'zip', attributes: [] },
      channels: ['A', 'R', 'G', 'B'].map(name => ({
        ...{ name, type: 'float' as const, linear: false, data: new Float32Array(64).fill(1) },
      })),
    })
    const drawn = Object.values(document.build.layers).find(({ kind }) => kind === 'picture')! as PictureLayer
    Object.assign(drawn.picture, { blob: files.keep(white), width: 8, height: 8 })
    drawn.scale = 60
    const pixels = await shown(document, 12)
    // The camera looks level from 1.62 m: the horizon is the middle
    const alpha = (y: number): number => pixels[(y * WIDTH + WIDTH / 2) * 4 + 3]!
    for (let y = 0; y < HEIGHT / 2 - 1; y++) expect(alpha(y)).toBe(0)
    expect(alpha(HEIGHT - 10)).toBeCloseTo(1, 5)
  })
})

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
    const planes = Object.entries(places(by)).map(([name, value]): ExrChannel => ({
      ...{ name, type: 'float', linear: false },
      data: Float32Array.from({ length: wide * 4 }, (_, i) => value(i % wide, Math.floor(i / wide))),
    }))
    const window = emptyWindow(wide, 4)
    return writeExr({
      ...{ dataWindow: window, displayWindow: window, compression: 'zip' },
      channels: [...planes, ...channels],
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
