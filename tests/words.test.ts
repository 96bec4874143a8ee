// Words against what another reader of fonts shapes and outlines (fontkit), against rays of our own that ask each place whether it lies in a
// letter, and against what stands before and behind them.
import { create, type Font } from 'fontkit'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import decompress from 'woff2-encoder/decompress'
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
import type { Outline } from '../core/words/outline'
import { typeset, type TypeSettings } from '../core/words/typeset'
import { depthOfBall, pixels, plain, shot } from './elementShot'
import { camera, HEIGHT, keep, WIDTH } from './buildShot'

const root = join(import.meta.dirname, '..')
const fileOf = (family: string, part: string): Uint8Array =>
  new Uint8Array(
    readFileSync(join(root, `node_modules/@fontsource-variable/${family}/files/${family}-${part}-wght-normal.woff2`)),
  )
/** The same file through another reader. */
async function other(family: string, weight = 400): Promise<Font> {
  const bytes = await decompress(fileOf(family, 'latin'))
  const font = (create as unknown as (bytes: Uint8Array) => Font)(bytes)
  return weight === 400 ? font : (font.getVariation({ wght: weight }) as unknown as Font)
}
const SETTINGS: TypeSettings = {
  ...{ weight: 400, tracking: 0, lineHeight: 1.2, align: 'left', baseline: { runs: 'straight' } },
}
/** All of it as corners of closed polygons, curves in so many steps. */
function polygons(outline: Outline, steps = 12): number[][] {
  return outline.map(contour => {
    const out = [contour[0]!, contour[1]!]
    for (let i = 2; i < contour.length; i += 6) {
      const p = [out.at(-2)!, out.at(-1)!, ...contour.slice(i, i + 6)]
      const isStraight = Math.hypot(p[2]! * 3 - p[0]! * 2 - p[6]!, p[3]! * 3 - p[1]! * 2 - p[7]!) < 1e-9
      for (let k = isStraight ? steps : 1; k <= steps; k++) {
        const [t, u] = [k / steps, 1 - k / steps]
        for (const d of [0, 1])
          out.push(u ** 3 * p[d]! + 3 * u * u * t * p[2 + d]! + 3 * u * t * t * p[4 + d]! + t ** 3 * p[6 + d]!)
      }
    }
    return out
  })
}
const measures = (all: readonly number[][]): number[] => {
  let [area, left, right, top, bottom, momentX, momentY] = [0, Infinity, -Infinity, Infinity, -Infinity, 0, 0]
  for (const polygon of all)
    for (let i = 0; i < polygon.length; i += 2) {
      const j = (i + 2) % polygon.length
      const [ax, ay, bx, by] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
      const cross = ax * by - bx * ay
      area += cross / 2
      momentX += ((ax + bx) * cross) / 6
      momentY += ((ay + by) * cross) / 6
      ;[left, right, top, bottom] = [Math.min(left, ax), Math.max(right, ax), Math.min(top, ay), Math.max(bottom, ay)]
    }
  return [area, momentX / area, momentY / area, left, right, top, bottom]
}

/** How often polygons turn round a place. */
function winding(all: readonly number[][], x: number, y: number): number {
  let turns = 0
  for (const polygon of all)
    for (let i = 0; i < polygon.length; i += 2) {
      const j = (i + 2) % polygon.length
      const [ax, ay, bx, by] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
      if (ay <= y === by <= y) continue
      if (ax + ((y - ay) / (by - ay)) * (bx - ax) > x) turns += by > ay ? 1 : -1
    }
  return turns
}
const LIGATURES = ['ff', 'fi', 'fl', 'ffi', 'tt', 'th', 'oo', 'll', 'ee']

describe('shaping and outlines', () => {
  const TEXTS = ['AVATAR To Wave', 'ffi fl office', 'Čřž ŁÓŚ élan', 'e\u0301n a\u0308', '3½ × “qu’ay” – №7']
  it.each([
    ['source-serif-4', 400],
    ['source-serif-4', 730],
    ['oswald', 700],
    ['oswald', 400],
    ['atkinson-hyperlegible-next', 800],
  ] as const)('%s at %i are those of fontkit', async (family, weight) => {
    const reference = await other(family, weight)
    const font = await readFont(fileOf(family, 'latin'))
    const capital = reference.capHeight
    // Of weights only letters by themselves: the other one rounds what they move to whole units, and where they stand with that
    for (const text of weight === 400 ? TEXTS : [...'AgW&8%é']) {
      // Only what this file has: what it lacks comes from others
      const held = [...text.normalize('NFC')].filter(one => font.has(one.codePointAt(0)!)).join('')
      let pen = 0
      const expected: number[][] = []
      const { glyphs, positions } = reference.layout(held)
      glyphs.forEach((glyph, i) => {
        const { xAdvance, xOffset, yOffset } = positions[i]!
        const [x0, y0] = [pen + xOffset, yOffset]
        for (const { command, args } of glyph.path.commands) {
          const last = expected.at(-1)
          const at = (k: number): [number, number] => [(args[k]! + x0) / capital, -(args[k + 1]! + y0) / capital]
          if (command === 'moveTo') expected.push([...at(0)])
          else if (command === 'lineTo') last!.push(...at(0))
          else if (command === 'quadraticCurveTo') {
            const [a, b, c] = [last!.slice(-2), at(0), at(2)] as [number[], number[], number[]]
            for (let k = 1; k <= 12; k++) {
              const [t, u] = [k / 12, 1 - k / 12]
              last!.push(...[0, 1].map(d => u * u * a[d]! + 2 * u * t * b[d]! + t * t * c[d]!))
            }
          } else if (command !== 'closePath') throw new Error(`${command} is not looked for`)
        }
        pen += xAdvance
      })
      const found = polygons(typeset(held, [font], { ...SETTINGS, weight }))
      const [own, wanted] = [measures(found).slice(3), measures(expected).slice(3)] as [number[], number[]]
      wanted.forEach((value, i) => {
        expect(Math.abs(own[i]! - value), `${text}, ${i}`).toBeLessThan(weight === 400 ? 1e-4 : 0.005)
      })
      // The same places lie within, however often what overlaps is turned round
      const [left, right, top, bottom] = wanted as [number, number, number, number]
      let [missed, state] = [0, 7]
      const random = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296
      for (let k = 0; k < 3000; k++) {
        const [x, y] = [left + random() * (right - left), top + random() * (bottom - top)]
        if ((winding(found, x, y) !== 0) !== (winding(expected, x, y) !== 0)) missed++
      }
      expect(missed / 3000, text).toBeLessThan(weight === 400 ? 0.001 : 0.01)
      // Nowhere more than once
      for (let k = 0; k < 1000; k++)
        expect(
          Math.abs(winding(found, left + random() * (right - left), top + random() * (bottom - top))),
        ).toBeLessThanOrEqual(1)
    }
  })
  it('takes of each character the first file that has it, marks with their letter', async () => {
    const [latin, more] = [await readFont(fileOf('oswald', 'latin')), await readFont(fileOf('oswald', 'latin-ext'))]
    const whole = typeset('aĞb', [latin, more], SETTINGS)
    const parts = ['a', 'Ğ', 'b'].map((one, i) => typeset(one, [i === 1 ? more : latin], SETTINGS).length)
    expect(whole.length).toBe(parts.reduce((sum, count) => sum + count, 0))
    // With the first alone the letter shows as what is lacking there
    const lacking = typeset('aĞb', [latin], SETTINGS)
    expect(measures(polygons(lacking))[0]).not.toBeCloseTo(measures(polygons(whole))[0]!, 3)
    expect(typeset('e\u0301', [latin], SETTINGS)).toEqual(typeset('é', [latin], SETTINGS))
  })
  it('aligns lines, sets letters apart, and lines as high as is said', async () => {
    const font = await readFont(fileOf('oswald', 'latin'))
    const box = (text: string, change: Partial<TypeSettings>): number[] =>
      measures(polygons(typeset(text, [font], { ...SETTINGS, ...change }))).slice(3)
    const reference = await other('oswald')
    const em = reference.unitsPerEm / reference.capHeight
    const [left, right] = box('HHHH', {}) as [number, number]
    const [middle, end] = [box('HHHH', { align: 'centre' }), box('HHHH', { align: 'right' })]
    const advance = (reference.layout('HHHH').advanceWidth / reference.unitsPerEm) * em
    expect(middle[0]).toBeCloseTo(left - advance / 2, 5)
    expect(end[1]).toBeCloseTo(right - advance, 5)
    // Three gaps of a tenth of an em
    expect(box('HHHH', { tracking: 0.1 })[1]! - right).toBeCloseTo(0.3 * em, 5)
    const [, , top, bottom] = box('H\nH', { lineHeight: 1.5 })
    expect(top).toBeCloseTo(-1, 5)
    expect(bottom).toBeCloseTo(1.5 * em, 5)
  })
  it('letters that belong together are joined, but not where they are set apart', async () => {
    const font = await readFont(fileOf('caveat', 'latin'))
    const joined = LIGATURES.find(text => font.set(text, 400, true).length < font.set(text, 400, false).length)!
    expect(joined).toBeDefined()
    // A gap between each two of them
    const right = (tracking: number): number =>
      measures(polygons(typeset(joined, [font], { ...SETTINGS, tracking })))[4]!
    expect(right(0.2) - right(1e-9)).toBeCloseTo((0.2 * (joined.length - 1)) / font.capitals, 4)
  })
  it('along an arc every letter stands on its circle, along a curve on that', async () => {
    const font = await readFont(fileOf('oswald', 'latin'))
    const row = 'H'.repeat(9)
    const reference = await other('oswald')
    const wide = reference.layout(row).advanceWidth / reference.capHeight
    const bars = (baseline: TypeSettings['baseline'], align: TypeSettings['align']): Outline =>
      typeset(row, [font], { ...SETTINGS, align, baseline })
    const bent = bars({ runs: 'arc', bend: 120 }, 'centre')
    expect(bent).toHaveLength(9)
    const radius = wide / ((120 * Math.PI) / 180)
    bent.forEach((contour, i) => {
      const [, x, y] = measures(polygons([contour]))
      // The middle of an H is half a capital off the line
      const angle = ((i - 4) / 9) * ((120 * Math.PI) / 180)
      expect(x).toBeCloseTo((radius + 0.5) * Math.sin(angle), 2)
      expect(y).toBeCloseTo(radius - (radius + 0.5) * Math.cos(angle), 2)
    })
    // A quarter turn down: from level to upright; the circle as a cubic (0.5523 of its radius, from memory) is off it by 3e-4
    const r = wide / (Math.PI / 2)
    const curve = bars({ runs: 'curve', places: [0.5523 * r, 0, r, r - 0.5523 * r, r, r] }, 'left')
    curve.forEach((contour, i) => {
      const [, x, y] = measures(polygons([contour]))
      const angle = ((i + 0.5) / 9) * (Math.PI / 2)
      expect(x).toBeCloseTo((r + 0.5) * Math.sin(angle), 1)
      expect(y).toBeCloseTo(r - (r + 0.5) * Math.cos(angle), 1)
    })
  })
})

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
  it('nor the ground that they lie on', async () => {
    // On the quay itself: the same plane as what is rendered
    const ground = { put: 'on the ground', x: 0, y: 0, z: -2.6, turn: 0, size: 20, text: 'I', align: 'centre' } as const
    const [bare, on] = [
      await pixels(worded({ ...ground, close: 0, colour: [0, 3, 0] }, false)),
      await pixels(worded({ ...ground, close: 0.05, colour: [0, 3, 0] }, false)),
    ]
    const green = (data: Float32Array): number => {
      let count = 0
      for (let i = 0; i < WIDTH * HEIGHT; i++) if (data[i * 4 + 1]! > 2.9 && data[i * 4]! < 0.1) count++
      return count
    }
    expect(green(on)).toBeGreaterThan(100)
    expect(green(bare)).toBeLessThanOrEqual(green(on))
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

describe('fonts that are none', () => {
  it.each([
    ['text', new TextEncoder().encode('this is no font at all, whatever its name may say about it'), 'no font'],
    ['a cut one', fileOf('oswald', 'latin').slice(0, 4000), 'cannot be read'],
  ])('%s is refused with a sentence', async (_, bytes, said) => {
    await expect(readFont(bytes)).rejects.toThrow(said)
  })
  it('one that says it unpacks to gigabytes is refused before any of it is', async () => {
    const bytes = fileOf('oswald', 'latin').slice()
    new DataView(bytes.buffer).setUint32(16, 0xf0000000)
    await expect(readFont(bytes)).rejects.toThrow('unpacks to more than')
  })
  it('reads TrueType, OpenType with cubic outlines, and WOFF of other makers', async () => {
    const fonts = '/usr/share/javascript/mathjax/fonts/HTML-CSS/TeX'
    const read = async (path: string) => readFont(new Uint8Array(readFileSync(path)))
    const truetype = await read('/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf')
    expect(typeset('Northmist', [truetype], SETTINGS).length).toBeGreaterThan(9)
    const [opentype, woff] = [
      await read(`${fonts}/otf/MathJax_Main-Regular.otf`),
      await read(`${fonts}/woff/MathJax_Main-Regular.woff`),
    ]
    // One is packed from the other: the same curves, the same places
    const [first, second] = [opentype, woff].map(font => measures(polygons(typeset('Quay & 8', [font], SETTINGS))))
    expect(Math.abs(first![0]!)).toBeGreaterThan(1)
    first!.forEach((value, i) => expect(second![i]).toBeCloseTo(value, 6))
    await expect(
      readFont(new Uint8Array(readFileSync(`${fonts}/woff/MathJax_Main-Regular.woff`)).slice(0, 5000)),
    ).rejects.toThrow('it ends before its tables do')
  })
})
