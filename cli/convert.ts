import { basename, extname } from 'node:path'
import { ENCODING_IDS, encodingOf } from '../core/colour/encoding'
import { BadInput } from '../core/formats/errors'
import {
  WRITTEN,
  isExr,
  readExrParts,
  type Compression,
  type ExrImage,
  writable,
  writeExr,
  writeExrParts,
} from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import { guessAlpha, guessEncoding } from '../core/formats/picture/describe'
import { readPicture, toWorking, writePicture } from '../core/formats/picture/picture'
import { useNode } from '../host/engine'
import { isMeshName, sceneAsGlb } from '../core/formats/mesh/mesh'
import { meshNeighbours } from './neighbours'
import { parse, PICTURE_ENDINGS, readInput, whole, writeOutput } from './arguments'
import type { Command } from './command'

const COMPRESSIONS: readonly Compression[] = WRITTEN

/** Floats as halves; halves and whole numbers as they are. */
const halved = (image: ExrImage): ExrImage => ({
  ...image,
  channels: image.channels.map(channel =>
    channel.type === 'float'
      ? { ...channel, type: 'half', data: floatsToHalves(channel.data as Float32Array) }
      : channel,
  ),
})

export const convert: Command = {
  usage: 'convert IN OUT [--encoding-in E] [--encoding-out E] [--compression C] [--half] [--tile N]',
  help: `Another format, encoding or compression. Encodings: ${ENCODING_IDS.join(', ')}. Compressions of OpenEXR: ${COMPRESSIONS.join(', ')}. OpenEXR to OpenEXR keeps every part, channel, type, window and attribute (deep pixels are flattened). OBJ (with the materials and pictures beside it), PLY and STL become .glb.`,
  async run(args) {
    const options = parse(args, ['IN', 'OUT'], ['encoding-in', 'encoding-out', 'compression', 'tile'], ['half'])
    const [from, to] = options.files as [string, string]
    if (isMeshName(from) && /\.glb$/i.test(to)) {
      const bytes = await readInput(from)
      const beside = Object.entries(await meshNeighbours(from)).map(([name, own]) => ({ name, bytes: own }))
      const made = await sceneAsGlb([{ name: basename(from), bytes }, ...beside])
      for (const note of made.notes) process.stderr.write(`${note}\n`)
      return writeOutput(to, made.bytes)
    }
    const format = PICTURE_ENDINGS[extname(to).toLowerCase()]
    if (!format)
      throw new BadInput(
        `the ending of ${to} names no format that is written; ${Object.keys(PICTURE_ENDINGS).join(', ')} do`,
      )
    const compression = options.compression as Compression | undefined
    if (compression && !COMPRESSIONS.includes(compression))
      throw new BadInput(`--compression is one of ${COMPRESSIONS.join(', ')}, not “${compression}”`)
    for (const name of ['encoding-in', 'encoding-out'] as const) {
      const value = options[name]
      if (value && !ENCODING_IDS.includes(value))
        throw new BadInput(`--${name} is one of ${ENCODING_IDS.join(', ')}, not “${value}”`)
    }
    useNode()
    const bytes = await readInput(from)
    if (isExr(bytes) && format === 'exr' && !options['encoding-in'] && !options['encoding-out']) {
      const parts = readExrParts(bytes)
      const tile = options.tile === undefined ? undefined : whole('tile', options.tile, 4, 4096)
      const changed = parts.map(({ name, image }, i) => ({
        name: name || `part ${i + 1}`,
        image: { ...(options.half ? halved(image) : image), compression: compression ?? writable(image.compression) },
        options: { tile },
      }))
      return writeOutput(
        to,
        changed.length > 1 ? writeExrParts(changed) : writeExr(changed[0]!.image, changed[0]!.options),
      )
    }
    const picture = await readPicture(bytes)
    const encodingIn = encodingOf(options['encoding-in'] ?? guessEncoding(picture).encoding)
    // Floats stay light: a float TIFF is read as linear again
    const float = format === 'exr' || format === 'hdr' || (format === 'tiff' && picture.bits === 32)
    const encodingOut = options['encoding-out'] ?? (encodingIn.data ? 'data' : float ? 'linear' : 'srgb')
    const pixels = toWorking(picture, encodingIn, guessAlpha(picture, 'unclear'))
    const bits = format === 'exr' ? (options.half || (picture.bits === 16 && picture.float) ? 16 : 32) : picture.bits
    await writeOutput(
      to,
      writePicture(picture.width, picture.height, pixels, {
        format,
        bits,
        encoding: encodingOut,
        compression,
        alpha: picture.hasAlpha,
      }),
    )
  },
}
