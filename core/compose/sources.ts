// Picture files as pictures that may be asked for, each in its own pixels.
import { boxOf, heightOf, widthOf } from '../engine/box'
import { mixed } from '../plan/fitted'
import { scriptNode, type Node } from '../plan/node'
import type { PictureReference } from '../shot/document'
import type { Rate } from '../time/rate'
import type { Raster } from '../../kernels/record'
import type { Decoded, Files } from './files'

/**
 * A picture at full size at a frame, premultiplied scene-linear; undefined where a clip shows nothing. Throws
 * StillPacked.
 */
export function pictureNode(
  files: Files,
  reference: PictureReference,
  frame: number,
  shotRate: Rate,
  small = false,
): Node | undefined {
  const found = files.picture(reference, frame, shotRate, small)
  if (!found) return undefined
  const nodeOf = ({ key, width, height, ready, pixels }: Decoded): Node =>
    scriptNode(
      ['picture file', key],
      'colour',
      boxOf(width, height),
      (out, _, kernels) =>
        copyRows(pixels(), width, out, kernels.floats(out.pointer, widthOf(out) * heightOf(out) * 4)),
      { wants: ready },
    )
  const first = nodeOf(found.first)
  return found.second ? mixed(first, nodeOf(found.second), found.mix) : first
}

function copyRows(pixels: Float32Array, width: number, out: Raster, to: Float32Array): void {
  const row = widthOf(out) * 4
  for (let y = out.top; y < out.bottom; y++) {
    const from = (y * width + out.left) * 4
    to.set(pixels.subarray(from, from + row), (y - out.top) * row)
  }
}
