// Words put into a shot.
import type { FontReference, ShotDocument, WordsLayer } from './document'
import { standing } from './elements'
import { addLayer, makeLayer } from './layers'

/** New ones stand in the middle of the frame, so many metres away, their capitals such a share of its height. */
const BEGINS = { metres: 8, share: 0.12 }
const FIRST_TEXT = 'Words'

/** Adds words in the middle of the frame. Returns their id. */
export function bringWords(document: ShotDocument, font: FontReference, frame: number, text = FIRST_TEXT): string {
  const { place, pixel } = standing(document, frame, [0.5, 0.5], BEGINS.metres)
  const { width, height } = document.frame
  return addLayer(
    document,
    makeLayer('words', {
      ...place,
      ...{ text, font, size: Number((pixel * height * BEGINS.share).toPrecision(4)) },
      ...{ across: width / 2, down: height / 2, letters: Math.round(height * BEGINS.share) },
    } satisfies Partial<WordsLayer>),
  )
}
