// What is read of a picture at single places: pixels, mattes, what stands there.
import type { Evaluator } from '../../core/compose/evaluate'
import { goingAt, namesWithin, nothingThere, probe, type Part } from '../../core/compose/probe'
import { frameSize } from '../../core/compose/request'
import type { Pool } from '../../core/engine/pool'
import { unpacking } from '../../core/render/openpasses'
import type { NamesOf, Seen } from '../../core/render/passes'
import type { Going } from '../../core/shot/along'
import { straightPlace } from '../../core/shot/lens'
import { passBlobAt } from '../../core/shot/passFrames'
import { depthFileOf, passFileOf } from '../../core/shot/tree'
import type { EngineCall, PictureOrder, PixelReading } from './messages'

interface Made {
  pool: Pool
  evaluator: Evaluator
}
/** What of an order the evaluator is asked. */
export const request = ({
  document,
  frame,
  shrink,
  show,
  without,
  only,
  small,
}: PictureOrder): Parameters<Evaluator['evaluate']>[0] => ({ document, frame, shrink, show, without, only, small })

type Rgba = [number, number, number, number]
/** A pixel of a picture, scene-linear. */
async function valueOf(
  { pool, evaluator }: Made,
  order: PictureOrder,
  u: number,
  v: number,
): Promise<{ left: number; top: number; rgba: Rgba }> {
  const { width, height } = frameSize(order)
  const left = Math.min(width - 1, Math.max(0, Math.floor(u * width)))
  const top = Math.min(height - 1, Math.max(0, Math.floor(v * height)))
  const area = { left, top, right: left + 1, bottom: top + 1 }
  const { pointer } = await evaluator.evaluate(request(order), { area })
  return { left, top, rgba: [...pool.kernels.floats(pointer, 4)] as Rgba }
}
/** Of several places. */
export async function values(
  made: Made,
  order: PictureOrder,
  places: readonly (readonly [number, number])[],
): Promise<Rgba[]> {
  const out: Rgba[] = []
  for (const [u, v] of places) out.push((await valueOf(made, order, u, v)).rgba)
  return out
}
/** A pixel, how much a matte that is looked at holds there, and what stands there. */
export async function read(made: Made, order: PictureOrder, u: number, v: number): Promise<PixelReading> {
  const { pool, evaluator } = made
  const { width, height } = frameSize(order)
  const { left, top, rgba } = await valueOf(made, order, u, v)
  const { document, show, layer } = order
  // What is looked at through a matte says how much that holds there, too
  let held: number | undefined
  if (show.kind === 'matte') {
    // All of it once, which stays: a matte that is made of what is round a pixel costs nearly as much for one pixel
    const grey = await evaluator.evaluate(request({ ...order, show: { ...show, as: 'grey' } }))
    held = pool.kernels.floats(grey.pointer, width * height * 4)[(top * width + left) * 4]
  }
  const file = await evaluator.files.passesAt(document, order.frame, layer, order.ownDepth)
  const place = inPasses(order, u, v)
  return { rgba, held, ...(file ? await unpacking(() => probe(file, ...place)) : nothingThere()) }
}
/** Of a place that is seen the one in the passes: straight, in a file that reaches beyond the frame. */
function inPasses({ document, show, layer, frame, ownDepth }: PictureOrder, u: number, v: number): [number, number] {
  const { width, height } = document.frame
  const [across, down] = (ownDepth ? depthFileOf : passFileOf)(document, layer)?.margin ?? [0, 0]
  const isBent = show.kind === 'finish' || (show.kind === 'plate' && !show.straight)
  const [su, sv] = isBent ? straightPlace(document, frame, u, v) : [u, v]
  return [(su * width + across) / (width + 2 * across), (sv * height + down) / (height + 2 * down)]
}
/** What is at places of the straight frame, in its pixels; undefined where the passes of that frame do not tell. */
export async function going(
  { evaluator }: Made,
  { document, frame, layer, places }: Extract<EngineCall, { call: 'going' }>,
): Promise<Going[] | undefined> {
  const reference = passFileOf(document, layer)
  if (!reference?.frames || !passBlobAt(reference, frame).own) return undefined
  const file = await evaluator.files.passesAt(document, frame, layer)
  if (!file) return undefined
  const { width, height } = document.frame
  const [across, down] = reference.margin ?? [0, 0]
  const [wide, tall] = [width + 2 * across, height + 2 * down]
  const within = places.map(([x, y]) => [(x + across) / wide, (y + down) / tall] as const)
  return unpacking(() => goingAt(file, within, [wide / file.width, tall / file.height]))
}
/** What a frame that was drawn on the picture is round. */
export async function within(
  { evaluator }: Made,
  order: PictureOrder,
  { left, top, right, bottom }: Part,
  of: NamesOf,
  seen: Seen,
): Promise<string[]> {
  const file = await evaluator.files.passesAt(order.document, order.frame, order.layer)
  if (!file) return []
  const [first, last] = [inPasses(order, left, top), inPasses(order, right, bottom)]
  const part = { left: first[0], top: first[1], right: last[0], bottom: last[1] }
  return unpacking(() => namesWithin(file, of, seen, part))
}
