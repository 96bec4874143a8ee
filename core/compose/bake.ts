// Lines of a recipe as a table of colours: what they make of every colour of a lattice.
import { decodePixels, encodingOf, encodePixels } from '../colour/encoding'
import type { Lut } from '../colour/lut'
import { boxOf, heightOf, widthOf } from '../engine/box'
import { scriptNode, type Node } from '../plan/node'
import { atDistance } from '../plan/picture'
import { NO_DEPTH } from '../render/passes'
import { cameraAt } from '../shot/scene'
import type { ShotDocument } from '../shot/document'
import type { Files } from './files'
import { treated } from './treatments'

/**
 * Every colour of a cube of so many to a side (codes 0 to 1 of an encoding), with a shot's finish laid on it: one row a
 * line of red. Throws StillPacked.
 */
export function latticeNode(files: Files, document: ShotDocument, frame: number, side: number, encoding: string): Node {
  const window = boxOf(side, side * side)
  const pixels = new Float32Array(side ** 3 * 4)
  for (let i = 0; i < side ** 3; i++) {
    const codes = [i % side, Math.floor(i / side) % side, Math.floor(i / side / side)]
    codes.forEach((code, c) => (pixels[i * 4 + c] = code / (side - 1)))
    pixels[i * 4 + 3] = 1
  }
  decodePixels(pixels, encodingOf(encoding))
  const colour = scriptNode(['lattice', side, encoding], 'colour', window, (out, _, kernels) => {
    const to = kernels.floats(out.pointer, widthOf(out) * heightOf(out) * 4)
    for (let y = out.top; y < out.bottom; y++) {
      const from = (y * side + out.left) * 4
      to.set(pixels.subarray(from, from + widthOf(out) * 4), (y - out.top) * widthOf(out) * 4)
    }
  })
  const by = {
    frame,
    size: { width: side, height: side * side, shrink: 1, left: 0, top: 0, frameWidth: side, frameHeight: side * side },
    frames: document.frames,
    passes: undefined,
    mattes: document.mattes,
    relative: false,
    camera: () => cameraAt(document.scene.camera, frame),
    table: ({ blob }: { blob: string }) => ({ lut: files.table(blob), key: blob }),
    small: ({ blob }: { blob: string }) => ({ ...files.small(blob), key: blob }),
  }
  const picture = { colour, ...atDistance(NO_DEPTH, window) }
  const at = (): ReturnType<Parameters<typeof treated>[2]['at']> => ({ picture, by: { ...by, at } })
  return treated(picture, document.finish, { ...by, at }).colour
}
/** The table of what came of it, in codes of the encoding again. pixels: as latticeNode lays them. */
export function latticeTable(pixels: Float32Array, side: number, encoding: string): Lut {
  const codes = pixels.slice()
  encodePixels(codes, encodingOf(encoding))
  const data = new Float32Array(side ** 3 * 3)
  for (let i = 0; i < side ** 3; i++) for (let c = 0; c < 3; c++) data[i * 3 + c] = codes[i * 4 + c]!
  return { kind: '3d', size: side, low: [0, 0, 0], high: [1, 1, 1], data }
}
