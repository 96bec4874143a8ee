// Stuck drawings of a document: begun on a frame, and what is put into them.
import type { FontReference, PictureReference, ShotDocument, StuckLayer, WordsLayer } from './document'
import { bringLayer } from './bring'
import { addLayer, makeLayer } from './layers'
import { newTerm, slipOf } from './slip'
import { ownRender } from './tree'
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

/** Of the frame, what a picture that is drawn takes of it at first. */
const SHARE = 0.35
const isThere = (document: ShotDocument, id: string): boolean => document.build.layers[id]?.kind === 'stuck'
/** A picture in it, in the middle of its frame. Returns its id; '' where the drawing is gone. */
export function drawPicture(document: ShotDocument, id: string, reference: PictureReference, frame: number): string {
  if (!isThere(document, id)) return ''
  const made = bringLayer(document, reference, frame)
  made.within = id
  if (typeof made.scale === 'number') made.scale *= SHARE
  return made.id
}
/** Words in it, on its picture. Returns their id; '' where the drawing is gone. */
export function drawWords(document: ShotDocument, id: string, font: FontReference, frame: number): string {
  if (!isThere(document, id)) return ''
  const made = bringWords(document, font, frame)
  Object.assign(document.build.layers[made]!, { within: id, put: 'on the picture' } satisfies Partial<WordsLayer>)
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
export function stuckRound({ build: { layers } }: ShotDocument, id: string): StuckLayer | undefined {
  const passed = new Set<string>()
  for (let at: string | undefined = id; at !== undefined && !passed.has(at);) {
    passed.add(at)
    const layer: ShotDocument['build']['layers'][string] | undefined = layers[at]
    if (layer?.kind === 'stuck') return layer
    at = layer?.within
  }
  return undefined
}
