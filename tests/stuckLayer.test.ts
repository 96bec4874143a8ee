// A drawing stuck on a skin that turns and bends, against the same drawing rendered as its texture; how it is hidden, lit, and
// begins.
import { describe, expect, it } from 'vitest'
import { passesToExr } from '../core/render/passfile'
import type { RenderedPasses } from '../core/render/planes'
import type { Part, Scene, Texture } from '../core/scene/scene'
import { newDocument, type ShotDocument } from '../core/shot/document'
import { addRender } from '../core/shot/layers'
import { documentFaults } from '../shared/validate'
import type { Plane } from './compose/passes'
import { add, files, useLayers } from './layeredShot'
import { ball, constantEnvironment, lookAt, material, object, quad, renderScene, scene } from './scenes'
import { exrOf, lightPicture, shown } from './stuckShot'

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
  // Over white: what a mark takes of the channel that it takes most of
  const share = (i: number): number => {
    const rgb = [0, 1, 2].map(c => albedo![i * 3 + c]!)
    const high = Math.max(...rgb)
    return high < 0.02 ? 0 : Math.min(1, Math.max(0, (high - Math.min(...rgb)) / 0.25))
  }
  const rgb =
    (c: number): Plane =>
    (x, y) =>
      share(y * WIDTH + x) * albedo![(y * WIDTH + x) * 3 + c]!
  return exrOf([WIDTH, HEIGHT], { A: (x, y) => share(y * WIDTH + x), R: rgb(0), G: rgb(1), B: rgb(2) })
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
  const picture = lightPicture(files.keep(drawing()), WIDTH, HEIGHT)
  add(document, 'picture', { within: stuck, picture, x: WIDTH / 2, y: HEIGHT / 2, scale: 1, rotation: 0, distance: 1 })
  expect(documentFaults(document)).toEqual([])
  return document
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
