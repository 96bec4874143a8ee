// Stuck drawings of a document: begun on a frame, and what is put into them.
import type { FontReference, PictureReference, ShotDocument, StuckLayer, WordsLayer } from './document'
import { bringLayer, squareSize } from './bring'
import { addLayer, makeLayer } from './layers'
import { newTerm, slipOf } from './slip'
import { groupsRound, ownRender } from './tree'
import { bringWords } from './words'

/** A drawing that is made on a frame: on what a render shows (the shot's own where none is said), else on the ground. */
export function addStuck(document: ShotDocument, frame: number, render = ownRender(document.build.layers)?.id): string {
  const made = makeLayer('stuck', {
    placed: frame,
    appears: document.frames.first,
    ...(render === undefined ? { onto: 'the ground' } : { of: render }),
  })
  return addLayer(document, made, render)
}

/** A place of the frame that is drawn on: its middle, and how large what is drawn is at first, in pixels. */
export interface Spot {
  x: number
  y: number
  side: number
}
/** Of what it is drawn on, or of the frame, what a drawing takes at first. */
const SHARE = 0.6
/** Letters to a spot. */
const LETTERS = 4
/** The middle of the frame, where nothing is known of what is drawn on. */
const middle = ({ frame: { width, height } }: ShotDocument): Spot => ({
  x: width / 2,
  y: height / 2,
  side: Math.min(width, height) * SHARE,
})
/** The middle of the largest part of an outline (core/compose/border.ts), and most of its lesser side; undefined for none. */
export function spotIn(outline: string): Spot | undefined {
  let found: Spot | undefined
  for (const ring of outline.split('Z')) {
    const places = [...ring.matchAll(/[ML](-?[\d.]+) (-?[\d.]+)/g)].map(([, x, y]) => [Number(x), Number(y)] as const)
    if (!places.length) continue
    const [xs, ys] = [places.map(([x]) => x), places.map(([, y]) => y)]
    const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
    const side = Math.min(right - left, bottom - top) * SHARE
    if (!found || side > found.side) found = { x: (left + right) / 2, y: (top + bottom) / 2, side }
  }
  return found
}
const isThere = (document: ShotDocument, id: string): boolean => document.build.layers[id]?.kind === 'stuck'
/**
 * A picture or clip in it, at a spot of its frame; under an id of its own where one is said. Returns its id; '' where the
 * drawing is gone.
 */
export function drawPicture(
  document: ShotDocument,
  id: string,
  reference: PictureReference,
  frame: number,
  { x, y, side } = middle(document),
  own?: string,
): string {
  if (!isThere(document, id)) return ''
  const made = bringLayer(document, reference, frame, own)
  const { width, height } = squareSize(reference)
  Object.assign(made, { within: id, x, y, scale: side / Math.max(width, height) })
  return made.id
}
/** Words in it, on its picture. Returns their id; '' where the drawing is gone. */
export function drawWords(
  document: ShotDocument,
  id: string,
  font: FontReference,
  frame: number,
  { x, y, side } = middle(document),
): string {
  if (!isThere(document, id)) return ''
  const made = bringWords(document, font, frame)
  Object.assign(document.build.layers[made]!, {
    ...{ within: id, put: 'on the picture', across: x, down: y, letters: Math.max(1, side / LETTERS) },
  } satisfies Partial<WordsLayer>)
  return made
}
/** A colour that is brushed on. Returns its id; '' where the drawing is gone. */
export function drawByBrush(document: ShotDocument, id: string): string {
  if (!isThere(document, id)) return ''
  const term = newTerm('brush')
  return addLayer(
    document,
    makeLayer('wash', {
      name: 'Brushed',
      within: id,
      opacity: 1,
      colour: [0.6, 0.05, 0.03],
      distance: 1,
      matte: slipOf(term),
    }),
  )
}

/** The drawing that a layer is in, or is; undefined for all others. */
export const stuckRound = ({ build: { layers } }: ShotDocument, id: string): StuckLayer | undefined =>
  [id, ...groupsRound(layers, id)].map(one => layers[one]).find(layer => layer?.kind === 'stuck')
