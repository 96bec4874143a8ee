// Words against rays of our own that ask each place whether it lies in a letter, and against what stands before and
// behind them.
import { describe, expect, it } from 'vitest'
import { readFont } from '../core/formats/font/font'
import { LAYERS } from '../core/layer/registry'
import { seenWords } from '../core/layer/wordsPlace'
import type { WordsValues } from '../core/layer/wordsValues'
import { metresTo } from '../core/layer/card'
import { placeAt, project, rayThrough } from '../core/match/project'
import type { ShotDocument, WordsLayer } from '../core/shot/document'
import { bringWords } from '../core/shot/words'
import { standsAt } from '../core/shot/tree'
import { sightOf } from '../core/shot/scene'
import { flattenedBy } from '../core/words/flatten'
import { typeset } from '../core/words/typeset'
import { depthOfBall, pixels, plain, shot } from './elementShot'
import { camera, HEIGHT, keep, WIDTH } from './buildShot'
import { fileOf, measures, polygons, SETTINGS, winding } from './wordsShapes'

const OSWALD = { name: 'Oswald', files: [{ blob: keep(fileOf('oswald', 'latin')), name: 'oswald.woff2' }] }
/** The shot with words in it, and nothing else where `alone`. */
const worded = (change: Partial<WordsLayer>, alone = true): ShotDocument =>
  shot(plain(1, 1), (_, d) => {
    for (const layer of Object.values(d.build.layers)) layer.on = !alone && layer.kind !== 'element'
    const id = bringWords(d, OSWALD, 1)
    Object.assign(d.build.layers[id]!, { colour: [1, 1, 1], ...change })
  })

type V = readonly number[]
const dot = (a: V, b: V): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!

/** Places of a pixel that lie evenly whichever way an edge runs (a lattice of Fibonacci numbers). */
const LATTICE = { of: 144, step: 89 }

describe('where they are seen', () => {
  const TEXT = 'Hg8'
  const at = placeAt(camera, WIDTH / HEIGHT, 0.5, 0.6, 4)
  const place = { x: at[0], y: at[1], z: at[2] }
  const m = camera.matrix
  // Unit ways to the right and down of each plane, by what the values say: a turn from +X counter-clockwise from above
  const turn = (25 * Math.PI) / 180
  const level = [Math.cos(turn), 0, -Math.sin(turn)]
  it.each([
    ['facing the camera', [m[0]!, m[1]!, m[2]!], [-m[4]!, -m[5]!, -m[6]!], 0, place, 0.8],
    ['upright', level, [0, -1, 0], 0, place, 0.8],
    ['upright', level, [0, -1, 0], 20, place, 0.8],
    ['on the ground', level, [Math.sin(turn), 0, Math.cos(turn)], 0, { x: -0.6, y: 0, z: -3.5 }, 1],
    // Runs under the camera and behind it
    ['on the ground', level, [Math.sin(turn), 0, Math.cos(turn)], -90, { x: -0.5, y: 0, z: -1.5 }, 3.4],
  ] as const)('%s each pixel is covered as its places lie in letters', async (put, right, down, lean, from, size) => {
    const data = await pixels(worded({ put, ...from, turn: 25, size, lean, text: TEXT, align: 'centre' }))
    const font = await readFont(fileOf('oswald', 'latin'))
    const shapes = polygons(typeset(TEXT, [font], { ...SETTINGS, align: 'centre' }), 8)
    const [, , , left, most_x, top, low_y] = measures(shapes) as [
      number,
      number,
      number,
      number,
      number,
      number,
      number,
    ]
    const [c, s] = [Math.cos((lean * Math.PI) / 180), Math.sin((lean * Math.PI) / 180)]
    // Clockwise as it is seen: what was to the right goes down
    const along = right.map((value, i) => value * c + down[i]! * s)
    const low = right.map((value, i) => -value * s + down[i]! * c)
    const normal = [
      along[1]! * low[2]! - along[2]! * low[1]!,
      along[2]! * low[0]! - along[0]! * low[2]!,
      along[0]! * low[1]! - along[1]! * low[0]!,
    ]
    const off = [from.x - m[12]!, from.y - m[13]!, from.z - m[14]!]
    let [sum, most, covered] = [0, 0, 0]
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        let inside = 0
        for (let k = 0; k < LATTICE.of; k++) {
          const ray = rayThrough(
            camera,
            WIDTH / HEIGHT,
            (x + (k + 0.5) / LATTICE.of) / WIDTH,
            (y + (((k * LATTICE.step) % LATTICE.of) + 0.5) / LATTICE.of) / HEIGHT,
          )
          const far = dot(off, normal) / dot(ray, normal)
          if (!(far > 0)) continue
          const rest = ray.map((value, i) => value * far - off[i]!)
          const [px, py] = [dot(rest, along) / size, dot(rest, low) / size]
          if (px < left || px > most_x || py < top || py > low_y) continue
          if (winding(shapes, px, py) !== 0) inside++
        }
        const difference = Math.abs(data[(y * WIDTH + x) * 4 + 3]! - inside / LATTICE.of)
        sum += difference
        most = Math.max(most, difference)
        covered += inside / LATTICE.of
      }
    expect(covered).toBeGreaterThan(20)
    // 144 places a pixel tell an edge within 0.03
    expect(most).toBeLessThan(0.04)
    expect(sum / covered).toBeLessThan(0.02)
  })
  it('on the picture capitals are as many pixels tall as is said, whatever the camera does', async () => {
    const told = worded({ put: 'on the picture', across: 24, down: 20, letters: 12, text: 'H', lean: 0 })
    const data = await pixels(told)
    const rows = Array.from({ length: HEIGHT }, (_, y) =>
      Array.from({ length: WIDTH }, (_, x) => data[(y * WIDTH + x) * 4 + 3]!).reduce((sum, one) => sum + one),
    )
    expect(rows.map(row => row > 0.01).filter(Boolean)).toHaveLength(12)
    expect([rows[7]! < 0.01, rows[8]! > 1, rows[19]! > 1, rows[20]! < 0.01]).toEqual([true, true, true, true])
    const moved = structuredClone(told)
    Object.assign(moved.scene.camera, { x: 3, heading: 40 })
    expect(await pixels(moved)).toEqual(data)
  })
})

describe('through the camera', () => {
  it('a camera with a shifted lens sees them where it sees everything', () => {
    const shifted = { ...camera, shiftX: 0.2, shiftY: -0.3 }
    const [x, y, z, size] = [0.3, 0.9, -5, 0.7]
    for (const [put, right, down] of [
      ['upright', [1, 0, 0], [0, -1, 0]],
      ['on the ground', [1, 0, 0], [0, 0, 1]],
    ] as const) {
      const values = { put, x, y, z, size, turn: 0, lean: 0 } as unknown as WordsValues
      const seen = seenWords(values, shifted, { width: 300, height: 200 }, 0, 0)
      for (const [a, b] of [
        [0, 0],
        [2, -1],
        [-1, 0.5],
      ] as const) {
        const place = [x, y, z].map((value, i) => value + size * (a * right[i]! + b * down[i]!))
        const { u, v, metres } = project(shifted, 1.5, place as [number, number, number])
        const [px, py, w] = [0, 3, 6].map(row => seen[row]! * a + seen[row + 1]! * b + seen[row + 2]!) as [
          number,
          number,
          number,
        ]
        expect([px / w, py / w, w]).toEqual([u * 300, v * 200, metres].map(value => expect.closeTo(value, 6)))
      }
    }
  })
  it('what of a letter is behind it is cut off', () => {
    // A square from -1 to 1; before the camera, w = x, is its right half: at y / x and 1 / x
    const corners = [-1, -1, 1, -1, 1, 1, -1, 1, -1, -1]
    const contour = [corners[0]!, corners[1]!]
    for (let i = 2; i < corners.length; i += 2) {
      const [ax, ay, bx, by] = [corners[i - 2]!, corners[i - 1]!, corners[i]!, corners[i + 1]!]
      contour.push((2 * ax + bx) / 3, (2 * ay + by) / 3, (ax + 2 * bx) / 3, (ay + 2 * by) / 3, bx, by)
    }
    const { ends } = flattenedBy([contour], [0, 1, 0, 0, 0, 1, 1, 0, 0], 0.01)
    // Every place of it is one with x between a thousandth and 1
    for (let i = 1; i < ends.length; i += 2) {
      expect(ends[i]).toBeGreaterThanOrEqual(1 - 1e-9)
      expect(ends[i]).toBeLessThanOrEqual(1000 + 1e-6)
    }
    let area = 0
    for (let i = 0; i < ends.length; i += 4) area += (ends[i]! * ends[i + 3]! - ends[i + 2]! * ends[i + 1]!) / 2
    // From 1/x = 1 to 1000, as wide as 2/x: the integral of 2 q over q
    expect(Math.abs(area) / (1000 ** 2 - 1)).toBeCloseTo(1, 6)
  })
})

describe('what stands before them', () => {
  const u = project(camera, WIDTH / HEIGHT, [-0.8, 0.7, -4])
  const pixel = (data: Float32Array, dx = 0): number[] => {
    const i = (Math.floor(u.v * HEIGHT) * WIDTH + Math.floor(u.u * WIDTH) + dx) * 4
    return [...data.slice(i, i + 3)]
  }
  const WALL = {
    put: 'upright',
    turn: 0,
    size: 30,
    text: 'I',
    close: 0,
    colour: [0, 3, 0] as [number, number, number],
  } as const
  it('is what is nearer: a ball before words on a wall, words before it', async () => {
    // A bar as large as the view, its middle on the ball
    const bar = async (z: number): Promise<number[]> =>
      pixel(await pixels(worded({ ...WALL, x: -0.8, y: -14, z, align: 'centre' }, false)))
    const near = depthOfBall(u.u, u.v)
    const [behind, before] = [await bar(-6), await bar(-(near - 0.6))]
    const bare = pixel(await pixels(worded({ on: false }, false)))
    behind.forEach((value, i) => expect(value).toBeCloseTo(bare[i]!, 4))
    expect(before[1]).toBeCloseTo(3, 3)
    expect(before[0]).toBeCloseTo(0, 3)
  })
  it('not what is within what they are said to be close to', async () => {
    const near = depthOfBall(u.u, u.v)
    const at = { ...WALL, x: -0.8, y: -14, z: -(near + 0.1), align: 'centre' } as const
    const [far, close] = [
      pixel(await pixels(worded({ ...at, close: 0 }, false))),
      pixel(await pixels(worded({ ...at, close: 0.4 }, false))),
    ]
    expect(far[1]).toBeLessThan(1)
    expect(close[1]).toBeCloseTo(3, 3)
  })
  it('on ground that shows the plate they are seen where they lie, as far as they go', async () => {
    const told = { put: 'on the ground', x: 0, y: 0, z: -2.6, turn: 0, size: 20, text: 'I', align: 'centre' } as const
    const data = await pixels(worded({ ...told, close: 0.05, colour: [0, 3, 0] }, false))
    let count = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++) if (data[i * 4 + 1]! > 2.9 && data[i * 4]! < 0.1) count++
    expect(count).toBeGreaterThan(100)
  })
  it('they say how far away they are, and are brought along the way that one sees them', () => {
    const told = worded({ put: 'facing the camera' })
    const layer = Object.values(told.build.layers).find(({ kind }) => kind === 'words') as WordsLayer
    const sight = sightOf(told, 1)
    expect(standsAt(layer, sight)).toBeCloseTo(8, 3)
    expect(metresTo(sight.camera(), [layer.x, layer.y, layer.z] as [number, number, number])).toBeCloseTo(8, 3)
    expect(standsAt({ ...layer, put: 'on the picture', away: 3 }, sight)).toBe(3)
    for (const put of ['upright', 'on the ground'] as const)
      expect(standsAt({ ...layer, put, z: -3, x: 1, y: 0 }, sight)).toBeCloseTo(metresTo(camera, [1, 0, -3]), 6)
    // Brought to another distance by the soundings each goes on the way it is seen, or along the ground
    const { words } = LAYERS
    const brought = (put: WordsLayer['put']): Record<string, number> =>
      words.standing!.brought({ ...layer, put, x: 0.5, y: 0, z: -6 } as never, camera, 4)!
    expect(brought('on the picture')).toEqual({ away: 4 })
    for (const put of ['upright', 'on the ground'] as const) {
      const { x, y = 0, z } = brought(put) as { x: number; y?: number; z: number }
      const [from, to] = [project(camera, 1.5, [0.5, 0, -6]), project(camera, 1.5, [x, y, z])]
      expect(to.metres).toBeCloseTo(4, 6)
      // Away from the foot of a camera that looks down a little it is seen a little elsewhere
      expect(to.u).toBeCloseTo(from.u, put === 'upright' ? 6 : 2)
      if (put === 'upright') expect(to.v).toBeCloseTo(from.v, 6)
      else expect(y).toBe(0)
    }
  })
})
