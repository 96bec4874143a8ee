// Font files: TrueType and OpenType outlines, by themselves or as WOFF (W3C 2012) and WOFF2 (W3C 2022). Text is shaped
// by HarfBuzz.
import type { Font } from 'harfbuzzjs'
import { BadInput } from '../errors'
import { sfntOfWoff } from './woff'

/** Larger files and what they unpack to are no fonts that somebody sets words in. */
export const MAXIMUM_FONT = 64 * 1048576
const SIGNATURES = {
  truetype: [0x00010000, 0x74727565],
  opentype: [0x4f54544f],
  collection: [0x74746366],
  woff: [0x774f4646],
  woff2: [0x774f4632],
} as const
type FontFormat = keyof typeof SIGNATURES

/** A line of an outline, as paths of SVG have them: M, L, Q, C, Z with their places. */
interface PathCommand {
  readonly type: string
  readonly values: readonly number[]
}
/** A glyph of a line of text. Lengths in ems, y up. */
export interface SetGlyph {
  path: readonly PathCommand[]
  /** What the values of its path are multiplied with to be ems. */
  scale: number
  /** How far the pen goes on. */
  advance: number
  /** Where it stands, from the pen. */
  x: number
  y: number
}
/** A font that text is set in. */
export interface Typeface {
  /** What it calls itself. */
  name: string
  /** How high its capitals are, in ems. */
  capitals: number
  has(code: number): boolean
  /** The glyphs of a line of text, from left to right. weight: where it can be set at any; joined: letters that belong together as one. */
  set(text: string, weight: number, joined: boolean): SetGlyph[]
}

/** What a file is by its first bytes; undefined when it is no font. */
export function fontFormat(head: Uint8Array): FontFormat | undefined {
  if (head.length < 48) return undefined
  const signature = new DataView(head.buffer, head.byteOffset).getUint32(0)
  const found = Object.entries(SIGNATURES).find(([, all]) => (all as readonly number[]).includes(signature))
  return found?.[0] as FontFormat | undefined
}

/** Of a collection its first font. Throws BadInput. */
export async function readFont(bytes: Uint8Array): Promise<Typeface> {
  const format = fontFormat(bytes)
  if (!format) throw new BadInput('This file is no font (TrueType, OpenType, WOFF, WOFF2).')
  if (bytes.length > MAXIMUM_FONT) throw new BadInput(`This font is larger than ${MAXIMUM_FONT / 1048576} MiB.`)
  // Both say at byte 16 how long the font is that they hold
  if (format.startsWith('woff') && new DataView(bytes.buffer, bytes.byteOffset).getUint32(16) > MAXIMUM_FONT)
    throw new BadInput(`This font says that it unpacks to more than ${MAXIMUM_FONT / 1048576} MiB.`)
  try {
    return await typefaceOf(await sfntOf(bytes, format))
  } catch (error) {
    throw new BadInput(`This font cannot be read: ${(error as Error).message.replace(/\.$/, '')}.`)
  }
}

async function sfntOf(bytes: Uint8Array, format: FontFormat): Promise<Uint8Array> {
  if (format === 'woff') return sfntOfWoff(bytes, MAXIMUM_FONT)
  if (format !== 'woff2') return bytes
  // Its reader is large, and only fetched when there is one to read
  const { default: decompress } = await import('woff2-encoder/decompress')
  return decompress(bytes)
}

/** Positions are told in parts of a unit of the font. */
const PARTS = 64
/** Of fonts that do not say how high their capitals are, ems: common practice, no source. */
const CAPITALS = 0.7
const FULL_NAME = 4

async function typefaceOf(bytes: Uint8Array): Promise<Typeface> {
  const { Blob, Buffer, Face, Feature, Font, MetricsTag, shape, Variation } = await import('harfbuzzjs')
  const face = new Face(new Blob(bytes.slice().buffer))
  const { upem } = face
  const codes = new Set(face.collectUnicodes())
  if (!codes.size) throw new Error('it holds no characters')
  const axis = face.getAxisInfos().wght
  const scale = 1 / (upem * PARTS)
  const weighted = new Map<number, { font: Font; paths: Map<number, readonly PathCommand[]> }>()
  const at = (weight: number) => {
    const held = axis ? Math.round(Math.min(axis.max, Math.max(axis.min, weight))) : 0
    const known = weighted.get(held)
    if (known) return known
    const font = new Font(face)
    font.setScale(upem * PARTS, upem * PARTS)
    if (axis) font.setVariations([new Variation('wght', held)])
    // While it is dragged many come by
    if (weighted.size >= MOST_WEIGHTS) weighted.clear()
    const made = { font, paths: new Map<number, readonly PathCommand[]>() }
    weighted.set(held, made)
    return made
  }
  const first = at(400).font
  const capitals = (first.getMetricPosition(MetricsTag.CAP_HEIGHT) ?? 0) * scale
  const apart = ['liga', 'clig'].map(tag => new Feature(tag, 0))
  return {
    name: face.getName(FULL_NAME, 'en'),
    capitals: capitals > 0.1 && capitals < 2 ? capitals : CAPITALS,
    has: code => codes.has(code),
    set(text, weight, joined) {
      const { font, paths } = at(weight)
      const buffer = new Buffer()
      buffer.addText(text)
      buffer.guessSegmentProperties()
      shape(font, buffer, joined ? [] : apart)
      const positions = buffer.getGlyphPositions()
      return buffer.getGlyphInfos().map(({ codepoint: glyph }, i) => {
        const { xAdvance, xOffset, yOffset } = positions[i]!
        const path = paths.get(glyph) ?? font.glyphToJson(glyph)
        paths.set(glyph, path)
        return { path, scale, advance: xAdvance * scale, x: xOffset * scale, y: yOffset * scale }
      })
    },
  }
}
const MOST_WEIGHTS = 8
