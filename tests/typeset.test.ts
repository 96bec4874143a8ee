// Lines of words and their outlines, against what another reader of fonts shapes and outlines (fontkit); fonts of other
// makers, and files that are none.
import { create, type Font } from 'fontkit'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import decompress from 'woff2-encoder/decompress'
import { readFont } from '../core/formats/font/font'
import type { Outline } from '../core/words/outline'
import { typeset, type TypeSettings } from '../core/words/typeset'
import { fileOf, measures, polygons, SETTINGS, winding } from './wordsShapes'

/** The same file through another reader. */
async function other(family: string, weight = 400): Promise<Font> {
  const bytes = await decompress(fileOf(family, 'latin'))
  const font = (create as unknown as (bytes: Uint8Array) => Font)(bytes)
  return weight === 400 ? font : (font.getVariation({ wght: weight }) as unknown as Font)
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
