// Layers as text, to be taken from one shot to another by the clipboard.
import { ownOf } from '../declare/own'
import { BadInput } from '../formats/errors'
import { blobsOf, newDocument, type Layer, type RenderLayer, type ShotDocument } from './document'
import { renewed } from './layers'
import { ofToday } from './migrate'
import { inOrder, moveRow } from './rows'
import type { PassFileReference } from './schema/passes'
import type { PictureReference } from './schema/picture'
import { groupOfLayer, ownRender, withAllIn } from './tree'
import { setFrame, setRate } from './values'

/** What the text holds: the layers, and what of their shot they show. */
interface Copied {
  northmist: 'layers'
  version: number
  /** Of the shot that they were copied from. */
  shot: string
  frame: ShotDocument['frame']
  rate: ShotDocument['rate']
  plate: PictureReference | null
  passes: PassFileReference | null
  layers: Record<string, Layer>
}
const MOST_CHARACTERS = 8 * 1048576

/** Layers, each with all that is in it, as text. shot: the id of the one that they are of. */
export function copiedText(document: ShotDocument, shot: string, ids: readonly string[]): string {
  const { layers } = document.build
  const list = ids.flatMap(id => withAllIn(layers, id))
  const told: Copied = {
    northmist: 'layers',
    version: document.version,
    shot,
    frame: document.frame,
    rate: document.rate,
    plate: list.some(layer => layer.kind === 'plate') ? document.plate : null,
    passes: list.some(layer => 'of' in layer || layer.kind === 'render') ? document.passes.file : null,
    layers: Object.fromEntries(list.map(layer => [layer.id, layer])),
  }
  return JSON.stringify(told, null, 1)
}

/** Whether a text may be layers. */
export const isCopied = (text: string): boolean => /^\s*\{\s*"northmist"\s*:\s*"layers"/.test(text.slice(0, 200))

export interface Pasting {
  /** Puts them into the shot, next to a layer. Returns the ids of those that are in none of the others. */
  into: (document: ShotDocument, beside?: string) => string[]
  /** The files that they need. */
  blobs: string[]
  /** A shot of nothing but them, to be checked. */
  alone: ShotDocument
}

/**
 * Reads layers from a text for a shot (by its id), as large and as fast as that is. Throws BadInput for what cannot be
 * read; whether their values are valid is for the checks of `alone`.
 */
export function pasting(text: string, document: ShotDocument, shot: string): Pasting {
  if (text.length > MOST_CHARACTERS) throw new BadInput('What is to be pasted is too large: 8 MiB of text at most.')
  let told: Copied
  try {
    told = JSON.parse(text) as Copied
  } catch {
    throw new BadInput('What is to be pasted is not whole.')
  }
  const frame = told.frame as ShotDocument['frame'] | undefined
  const alone = ofToday({
    ...newDocument(frame?.width, frame?.height),
    version: told.version,
    rate: told.rate,
    plate: told.plate,
    build: { layers: told.layers },
  }) as ShotDocument
  if (typeof told.layers !== 'object' || !told.layers)
    throw new BadInput('What is to be pasted holds no layers of ours.')
  for (const layer of inOrder(alone.build.layers)) {
    // What showed the other shot's own passes and plate still does
    if (told.shot === shot) continue
    if (layer.kind === 'render' && !layer.file && told.passes) layer.file = told.passes
    if (layer.kind === 'plate' && !layer.picture && told.plate) layer.picture = told.plate
  }
  alone.plate = null
  return {
    alone,
    blobs: blobsOf(alone),
    into(target, beside) {
      const sized = JSON.parse(JSON.stringify(alone)) as ShotDocument
      setFrame(sized, target.frame)
      setRate(sized, target.rate)
      const { copies } = renewed(inOrder(sized.build.layers))
      const there = target.build.layers
      const neighbour = beside === undefined ? undefined : ownOf(there, beside)
      const group = neighbour && groupOfLayer(there, neighbour)
      const outer: string[] = []
      const own = new Set(copies.map(({ id }) => id))
      let last = neighbour?.id ?? inOrder(there).at(-1)?.id ?? null
      for (const copy of copies) {
        there[copy.id] = copy
        if ('of' in copy && copy.of !== undefined && !own.has(copy.of) && !isRender(there[copy.of])) {
          const render = ownRender(there)
          if (render) copy.of = render.id
        }
        if (copy.within !== undefined && own.has(copy.within)) continue
        if (group) copy.within = group
        else delete copy.within
        outer.push(copy.id)
      }
      for (const copy of copies) {
        moveRow(there, copy.id, last)
        last = copy.id
      }
      return outer
    },
  }
}
const isRender = (layer: Layer | undefined): layer is RenderLayer => layer?.kind === 'render'
