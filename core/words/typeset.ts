// Text as outlines: shaped line by line, aligned, along a straight line, an arc or a curve.
import type { SetGlyph, Typeface } from '../formats/font/font'
import { contoursOf } from './glyphs'
import type { Outline } from './outline'
import { MOST_CHARACTERS } from './limits'
import { alongCurve, type Baseline } from './baseline'

export interface TypeSettings {
  /** Of fonts that have an axis of weight, 400 regular. */
  weight: number
  /** Put between letters, in ems. */
  tracking: number
  /** From one baseline to the next, in ems. */
  lineHeight: number
  align: 'left' | 'centre' | 'right'
  baseline: Baseline
}

/** A glyph on its line, and where the pen is, in heights of capitals. */
interface Placed extends SetGlyph {
  pen: number
}

/** Sets text in the first of the fonts that has each character; what none has shows as that font shows what it lacks. */
export function typeset(text: string, fonts: readonly Typeface[], settings: TypeSettings): Outline {
  const [main] = fonts
  if (!main) return []
  const em = 1 / main.capitals
  const lines = text
    .slice(0, MOST_CHARACTERS)
    .split(/\r\n?|\n/)
    .map(line => setLine(line, fonts, settings, em))
  const wide = Math.max(...lines.map(({ width }) => width))
  const share = { left: 0, centre: 0.5, right: 1 }[settings.align]
  return lines.flatMap(({ glyphs, width }, i) => {
    const down = i * settings.lineHeight * em
    return glyphs.flatMap(glyph => {
      const x = glyph.pen - width * share
      const half = (glyph.advance * em) / 2
      // A glyph turns as a whole about the middle of its place on the line
      const at = alongCurve(settings.baseline, x + half, share, wide)
      return contoursOf(glyph).map(contour => {
        const out = new Array<number>(contour.length)
        for (let i = 0; i < contour.length; i += 2) {
          const along = (contour[i]! + glyph.x) * em - half
          const high = down - (contour[i + 1]! + glyph.y) * em
          out[i] = at.x + at.cos * along - at.sin * high
          out[i + 1] = at.y + at.sin * along + at.cos * high
        }
        return out
      })
    })
  })
}

/** Glyphs of a line from its beginning on, and how wide it is. */
function setLine(
  line: string,
  fonts: readonly Typeface[],
  { weight, tracking }: TypeSettings,
  em: number,
): { glyphs: Placed[]; width: number } {
  const glyphs: Placed[] = []
  let pen = 0
  for (const { font, text } of runsOf(line, fonts))
    // Letters that are set apart are not joined to one (common practice, no source)
    for (const glyph of font.set(text, weight, tracking === 0)) {
      glyphs.push({ ...glyph, pen })
      // What stands on the letter before it takes no room of its own
      pen += glyph.advance * em + (glyph.advance > 0 ? tracking * em : 0)
    }
  return { glyphs, width: Math.max(0, pen - (glyphs.length ? tracking * em : 0)) }
}

/** Marks stay with the letter that they stand on, joiners with what they join. */
const CLINGS = /[\p{M}\u200c\u200d\ufe00-\ufe0f]/u
function runsOf(line: string, fonts: readonly Typeface[]): { font: Typeface; text: string }[] {
  const runs: { font: Typeface; text: string }[] = []
  for (const character of line.normalize('NFC')) {
    const code = character.codePointAt(0)!
    const last = runs.at(-1)
    // A space goes with what stands before it
    if (last && (CLINGS.test(character) || (/\s/u.test(character) && last.font.has(code)))) {
      last.text += character
      continue
    }
    const font = fonts.find(one => one.has(code)) ?? fonts[0]!
    if (last?.font === font) last.text += character
    else runs.push({ font, text: character })
  }
  return runs
}
