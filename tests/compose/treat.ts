// A treatment on given pixels, through the framework that the application uses.
import type { EntryValue } from '../../core/declare/field'
import { valuesAt } from '../../core/declare/values'
import { boxOf, common, widthOf, type Box } from '../../core/engine/box'
import { appliedNode } from '../../core/compose/treatments'
import { scriptNode, type Node } from '../../core/plan/node'
import type { SmallPicture } from '../../core/formats/picture/small'
import type { Lut } from '../../core/colour/lut'
import { ANY_CAMERA, type Camera } from '../../core/scene/scene'
import type { Picture } from '../../core/plan/picture'
import { Runner } from '../../core/plan/runner'
import { NO_DEPTH } from '../../core/render/passes'
import { valueAt } from '../../core/time/curve'
import type { Surroundings } from '../../core/scene/surroundings'
import type { SeenLamp } from '../../core/treatment/lampsSeen'
import { treatmentOf } from '../../core/treatment/registry'
import type { Pool } from '../../core/engine/pool'

let count = 0
/** Given numbers as a picture; part of it where its window is less than them. */
export function given(
  data: ArrayLike<number>,
  width: number,
  pixel: 'colour' | 'single' = 'colour',
  window: Box = boxOf(width, data.length / width / (pixel === 'colour' ? 4 : 1)),
): Node {
  const floats = pixel === 'colour' ? 4 : 1
  return scriptNode(['given', count++], pixel, window, (out, _, kernels) => {
    const to = kernels.floats(out.pointer, widthOf(out) * (out.bottom - out.top) * floats)
    for (let y = out.top; y < out.bottom; y++)
      for (let x = out.left; x < out.right; x++)
        for (let c = 0; c < floats; c++)
          to[((y - out.top) * widthOf(out) + x - out.left) * floats + c] = data[(y * width + x) * floats + c]!
  })
}

/** Three straight curves, the last of half the light. */
const HALVED: Lut = { kind: '1d', size: 2, low: [0, 0, 0], high: [4, 4, 4], data: Float32Array.of(0, 0, 0, 3, 4, 2) }
/** Two by two, of which three are lit: it lies in no one's middle. */
const CORNER: SmallPicture = {
  width: 2,
  height: 2,
  pixels: Float32Array.from([1, 1, 1, 1, 1, 1, 1, 1, 0.5, 0.5, 0.5, 1, 0, 0, 0, 1]),
}
export interface TreatOptions {
  strength?: number
  matte?: ArrayLike<number>
  shrink?: 1 | 2 | 4
  depth?: ArrayLike<number>
  /** As Picture.motion has it. */
  motion?: ArrayLike<number>
  /** Pixels at other frames; the same where it is not said. */
  at?: (frame: number) => ArrayLike<number>
  frame?: number
  /** Passes of colour by their ids. */
  planes?: Record<string, ArrayLike<number>> | undefined
  /** Passes of one number a pixel. */
  shares?: Record<string, ArrayLike<number>> | undefined
  camera?: Camera
  /** Of the scene, as that camera sees them. */
  lamps?: readonly SeenLamp[]
  surroundings?: Surroundings
  /** Of what is made of one. */
  table?: Lut
  /** A shape of a file. */
  small?: SmallPicture
  /** What earlier lines took out as grain. */
  grain?: { before: ArrayLike<number>; after: ArrayLike<number> }[]
  /** Where the picture has pixels at all. */
  window?: Box
  /** What is asked for; all where it is not said. */
  area?: Box
}
export async function treat(
  pool: Pool,
  id: string,
  values: Record<string, EntryValue>,
  width: number,
  height: number,
  pixels: ArrayLike<number>,
  options: TreatOptions = {},
): Promise<Float32Array> {
  const { strength = 1, shrink = 1, frame = 1, at } = options
  const treatment = treatmentOf(id)
  const depth = given(options.depth ?? new Float32Array(width * height).fill(NO_DEPTH), width, 'single')
  const motion = options.motion && given(options.motion, width)
  const picture: Picture = {
    motion: motion && (() => motion),
    colour: given(pixels, width, 'colour', options.window),
    depth: () => depth,
    byDepth: say => say(depth),
  }
  const node = appliedNode(
    treatment,
    {
      ...picture,
      strength,
      matte: options.matte && given(options.matte, width, 'single'),
      width,
      height,
      shrink,
      frame,
      camera: () => options.camera ?? ANY_CAMERA,
      lamps: () => options.lamps ?? [],
      surroundings: () => options.surroundings,
      pass: id =>
        options.planes?.[id]
          ? given(options.planes[id], width)
          : options.shares?.[id] && given(options.shares[id], width, 'single'),
      grain: options.grain?.map(({ before, after }) => ({ before: given(before, width), after: given(after, width) })),
      small: () => ({ ...(options.small ?? CORNER), key: `small ${count++}` }),
      table: () => ({ lut: options.table ?? HALVED, key: `table ${count++}` }),
      at: other => (at && other !== frame ? { ...picture, colour: given(at(other), width) } : picture),
    },
    valuesAt(treatment.values, values, frame, valueAt, shrink),
  )
  const runner = new Runner(pool, 2 ** 28)
  const area = options.area ?? node.window
  const raster = await runner.run(node, area)
  const box = common(area, node.window)
  const result = pool.kernels.floats(raster.pointer, widthOf(box) * (box.bottom - box.top) * 4).slice()
  runner.clear()
  return result
}
