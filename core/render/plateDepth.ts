// The depth of a photograph or footage as its own file: a picture of greys, or a layer of an OpenEXR, made a set of passes that
// holds nothing but distances.
import { BadInput } from '../formats/errors'
import { boxHeight, boxWidth, openExr } from '../formats/exr/exr'
import { writeExr } from '../formats/exr/write'
import { pictureFormat, readPicture } from '../formats/picture/picture'
import type { PassReading } from '../shot/schema/reading'
import { layersIn, likelyReading } from './layersOfFile'
import { Channels, FilePlanes, unpacking } from './passplanes'
import { floatsOf, GREY } from './reading'

const LAYER = 'depth'
export interface PlateDepth {
  /** An OpenEXR with one layer. */
  bytes: Uint8Array
  width: number
  height: number
  reading: PassReading
}

/** Reads the numbers of a depth; a picture's as they stand in the file, from 0 to 1. Throws BadInput. */
export async function plateDepthOf(bytes: Uint8Array): Promise<PlateDepth> {
  const { width, height, values } = pictureFormat(bytes) === 'exr' ? await ofLayers(bytes) : await ofGreys(bytes)
  let most = -Infinity
  let least = Infinity
  for (const value of values) {
    if (!Number.isFinite(value)) continue
    most = Math.max(most, value)
    least = Math.min(least, value)
  }
  if (!(most > least)) throw new BadInput('All of this picture has the same number: it tells no distances.')
  const box = { xMin: 0, yMin: 0, xMax: width - 1, yMax: height - 1 }
  return {
    bytes: writeExr({
      ...{ dataWindow: box, displayWindow: box, compression: 'zip', attributes: [] },
      channels: [{ name: LAYER, type: 'float', linear: false, data: values }],
    }),
    ...{ width, height },
    reading: {
      takes: { depth: [{ layer: LAYER }] },
      // Of which nothing lies beyond 1 is a grey, as a rule (common practice, no source)
      depth: least >= 0 && most <= 1 ? GREY : { kind: 'metres' },
    },
  }
}

interface Numbers {
  width: number
  height: number
  values: Float32Array
}
async function ofGreys(bytes: Uint8Array): Promise<Numbers> {
  const { width, height, pixels } = await readPicture(bytes)
  const values = new Float32Array(width * height)
  for (let i = 0; i < values.length; i++) values[i] = pixels[i * 4]!
  return { width, height, values }
}
/** Of several layers the one whose name says depth, as Z does; else the only one that has one number a pixel. */
async function ofLayers(bytes: Uint8Array): Promise<Numbers> {
  const { window, parts } = openExr(bytes, true)
  const channels = new Channels(parts)
  const layers = layersIn(channels.names)
  const named = likelyReading(layers, [], false).takes['depth']?.[0]?.layer
  const single = layers.filter(layer => layer.channels.length === 1)
  const found =
    layers.find(({ name }) => name === named) ??
    (single.length === 1 || layers.length === single.length ? single[0] : undefined) ??
    (layers.length === 1 ? layers[0] : undefined)
  if (!found)
    throw new BadInput(
      `None of the layers of this OpenEXR is called depth or Z: ${layers.map(({ name }) => `“${name}”`).join(', ')}.`,
    )
  const planes = new FilePlanes(channels, found.channels)
  const values = await unpacking(() => floatsOf(planes.stored(found.channels[0]!)!))
  return { width: boxWidth(window), height: boxHeight(window), values: Float32Array.from(values) }
}
