// The noise of a render, measured from what taking it out changes.
import { luminance, MIDDLE_GREY } from '../colour/luminance'

/** Fewer pixels say nothing; darker ones than this share of middle grey hardly show any. */
const LEAST_PIXELS = 200
const DARKEST = 0.01

/**
 * Standard deviation at middle grey, as a share of it, taking noise to grow as the root of the light does: by the
 * median of what differs, so that single bright specks do not count. Both scene-linear premultiplied RGBA; of what a
 * mask holds. Undefined where that is too little.
 */
export function renderNoise(noisy: Float32Array, clean: Float32Array, mask: Uint8Array): number | undefined {
  const found: number[] = []
  for (let i = 0; i < mask.length; i++) {
    if (!mask[i]) continue
    const at = i * 4
    const light = luminance(clean[at]!, clean[at + 1]!, clean[at + 2]!) / MIDDLE_GREY
    if (!(light > DARKEST)) continue
    const differs = luminance(noisy[at]! - clean[at]!, noisy[at + 1]! - clean[at + 1]!, noisy[at + 2]! - clean[at + 2]!)
    found.push(Math.abs(differs) / MIDDLE_GREY / Math.sqrt(light))
  }
  if (found.length < LEAST_PIXELS) return undefined
  found.sort((a, b) => a - b)
  // Half of a bell lies within 0.6745 of its deviations
  return found[found.length >> 1]! / 0.6745
}
