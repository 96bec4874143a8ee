// A layer measured beside the plate that it is to sit in, both as they stand in the picture before Finish.
import { boxOf, common, grown, heightOf, isEmpty, moved, widthOf, type Box } from '../engine/box'
import { BadInput } from '../formats/errors'
import {
  besideInDetail,
  besideInTone,
  besideNoise,
  boundsOfMask,
  type BesideDetail,
  type BesideTones,
  type Pair,
} from '../measure/beside'
import { showingOf, type Showing } from '../measure/showing'
import { renderNoise } from '../measure/renderNoise'
import type { Holds } from '../layer/layer'
import { layerKindOf } from '../layer/registry'
import type { RenderLayer, ShotDocument } from '../shot/document'
import { passFileOf } from '../shot/tree'
import { inOrder } from '../shot/rows'
import type { Evaluator } from './evaluate'
import { frameSize, type Request } from './request'

/** What a picture may show: these kinds, by what they hold, are no part of what others are to sit in. */
const THINGS: readonly Holds[] = ['passes', 'pass', 'picture', 'cut-out', 'element', 'words', 'lamp']
/** More pixels than these are made smaller for tones; so many are looked at one by one for sharpness and grain. */
const MOST_FOR_TONES = 700_000
const MOST_FOR_DETAIL = 1_600_000
/** What is covered more counts; what changes the picture by less shows nothing there. */
const COVERED = 0.99
const CHANGES = 1e-4

export interface FitMeasured extends BesideTones {
  grain: BesideDetail['grain']
  /** Where it was measured on the frame, in its pixels: what is looked at of the layer. */
  place: Box
  /** Where each is best seen, on the frame. */
  shows: Showing
}

/** The shot with its plate and what lies in the air alone. */
export function plateAlone(document: ShotDocument): ShotDocument {
  const layers = Object.fromEntries(
    Object.entries(document.build.layers).map(([id, layer]) => [
      id,
      THINGS.includes(layerKindOf(layer.kind).holds) ? { ...layer, on: false } : layer,
    ]),
  )
  return { ...document, build: { ...document.build, layers } }
}

/** Throws BadInput where there is nothing to measure. */
export async function measureFit(
  evaluator: Evaluator,
  document: ShotDocument,
  frame: number,
  layer: string,
): Promise<FitMeasured> {
  const name = document.build.layers[layer]?.name ?? ''
  if (!document.plate && !inOrder(document.build.layers).some(layer => layer.kind === 'plate' && layer.picture))
    throw new BadInput('There is no plate yet that anything could fit into.')
  const size = document.frame
  const shrink = ([1, 2, 4] as const).find(by => (size.width * size.height) / by ** 2 <= MOST_FOR_TONES) ?? 4
  const ask = { document, frame, show: { kind: 'build' } } as const
  const small = await pairOf(evaluator, { ...ask, shrink }, layer)
  const bounds = boundsOfMask(small.mask, small.width)
  if (!bounds) throw new BadInput(`Nothing of ${name} is seen here, before the plate: there is nothing to measure.`)
  const tones = besideInTone(small, shrink)
  const place = {
    ...{ left: bounds.left * shrink, top: bounds.top * shrink },
    ...{ right: bounds.right * shrink, bottom: bounds.bottom * shrink },
  }
  const area = about(place, boxOf(size.width, size.height))
  const pair = await pairOf(evaluator, { ...ask, shrink: 1 }, layer, area)
  const detail = besideInDetail(pair)
  const rows = [...tones.rows, ...detail.rows]
  if (document.build.layers[layer]!.kind === 'render')
    rows.push(besideNoise(detail.grain.plate, await noiseOf(evaluator, { ...ask, shrink: 1 }, layer, area, pair.mask)))
  const onFrame = (box: Box | undefined): Box | undefined => box && moved(box, area.left, area.top)
  const shows = Object.fromEntries(
    Object.entries(showingOf(pair)).map(([id, { plate, render }]) => [
      id,
      { plate: onFrame(plate), render: onFrame(render) },
    ]),
  )
  return { ...tones, rows, grain: detail.grain, place, shows }
}

/** Noise of a render as its layer shows it, by what it would be without; undefined where that is not known. */
async function noiseOf(
  evaluator: Evaluator,
  request: Request,
  layer: string,
  area: Box,
  mask: Uint8Array,
): Promise<number | undefined> {
  if (!passFileOf(request.document, layer)?.clean) return undefined
  const { layers } = request.document.build
  const cleaned = { ...layers, [layer]: { ...(layers[layer] as RenderLayer), clean: 1 } }
  const document = { ...request.document, build: { ...request.document.build, layers: cleaned } }
  const noisy = await pixelsOf(evaluator, { ...request, only: [layer] }, area)
  const clean = await pixelsOf(evaluator, { ...request, document, only: [layer] }, area)
  return renderNoise(noisy, clean, mask)
}
async function pixelsOf(evaluator: Evaluator, request: Request, box: Box): Promise<Float32Array> {
  const { pointer } = await evaluator.evaluate(request, { area: box })
  return evaluator.pool.kernels.floats(pointer, widthOf(box) * heightOf(box) * 4).slice()
}

/** A place and half as much round it, cut down about its middle to what is looked at pixel by pixel. */
function about(place: Box, frame: Box): Box {
  const room = common(grown(place, Math.round(Math.max(widthOf(place), heightOf(place)) / 2)), frame)
  const pixels = widthOf(room) * heightOf(room)
  if (pixels <= MOST_FOR_DETAIL) return room
  const factor = Math.sqrt(MOST_FOR_DETAIL / pixels)
  const [x, y] = [(place.left + place.right) / 2, (place.top + place.bottom) / 2]
  const [wide, high] = [(widthOf(room) * factor) / 2, (heightOf(room) * factor) / 2]
  const cut = {
    left: Math.floor(x - wide),
    top: Math.floor(y - high),
    right: Math.floor(x + wide),
    bottom: Math.floor(y + high),
  }
  return common(cut, frame)
}

/** The plate alone and the whole picture, and where that layer is what one sees in it. */
async function pairOf(evaluator: Evaluator, request: Request, layer: string, area?: Box): Promise<Pair> {
  const { width, height } = frameSize(request)
  const box = area ?? boxOf(width, height)
  if (isEmpty(box)) throw new BadInput('There is nothing to measure there.')
  const asked = (own: Request): Promise<Float32Array> => pixelsOf(evaluator, own, box)
  const plate = await asked({ ...request, document: plateAlone(request.document) })
  const without = await asked({ ...request, without: { id: layer } })
  const only = await asked({ ...request, only: [layer] })
  const render = await asked(request)
  const mask = Uint8Array.from({ length: plate.length / 4 }, (_, i) => {
    if (!(only[i * 4 + 3]! > COVERED)) return 0
    for (let c = i * 4; c < i * 4 + 3; c++) if (Math.abs(render[c]! - without[c]!) > CHANGES) return 1
    return 0
  })
  return { plate, render, mask, width: widthOf(box) }
}
