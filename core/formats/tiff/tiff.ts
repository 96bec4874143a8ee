// TIFF 6.0: read by geotiff (8, 16, float; plain, zip, LZW, PackBits; strips or tiles) with bounded decoders of ours,
// written uncompressed by ourselves, because no package at hand writes 16 bit and float.
import { fromArrayBuffer } from 'geotiff'
import { BadInput, checkSize } from '../errors'
import type { CodedPicture } from '../png/png'
import { READ_PACKINGS, useBoundedDecoders } from './decoders'

useBoundedDecoders()

/** PhotometricInterpretation of TIFF 6.0 and its supplements that is not read, in words. */
const OTHER_COLOURS = new Map([
  [3, 'a palette'],
  [4, 'a mask'],
  [5, 'the four inks of print (CMYK)'],
  [6, 'brightness and colour difference, as JPEG has them (YCbCr)'],
  [8, 'CIE L*a*b*'],
  [9, 'ICC L*a*b*'],
  [10, 'ITU L*a*b*'],
  [32803, 'the mosaic of a camera’s sensor'],
  [34892, 'the raw colours of a camera'],
])

export const isTiff = (bytes: Uint8Array): boolean =>
  bytes.length > 8 &&
  ((bytes[0] === 0x49 && bytes[1] === 0x49 && bytes[2] === 42 && bytes[3] === 0) ||
    (bytes[0] === 0x4d && bytes[1] === 0x4d && bytes[2] === 0 && bytes[3] === 42))

/** maximum is 1 for float pictures. */
export async function readTiff(bytes: Uint8Array): Promise<CodedPicture> {
  try {
    const file = await fromArrayBuffer(new Uint8Array(bytes).buffer)
    const image = await file.getImage()
    const width = image.getWidth()
    const height = image.getHeight()
    const samples = image.getSamplesPerPixel()
    checkSize('This TIFF', width, height)
    const bits = Number(image.getBitsPerSample())
    const format = Number(image.getSampleFormat())
    if (![8, 16, 32].includes(bits) || samples < 1 || samples > 16)
      throw new BadInput(`This TIFF has ${samples} samples of ${bits} bits, which is not read.`)
    if (bits === 32 && format !== 3) throw new BadInput('This TIFF has 32-bit integers, which are not read.')
    const channels = Math.min(4, samples) as 1 | 2 | 3 | 4
    const needed = (width * height * samples * bits) / 8
    if (needed > 2 ** 31) throw new BadInput('This TIFF is larger than 2 GiB when unpacked.')
    const directory = image.fileDirectory as unknown as { getValue?(tag: string): unknown } & Record<string, unknown>
    const tag = (name: string): unknown => (directory.getValue ? directory.getValue(name) : directory[name])
    const photometric = tag('PhotometricInterpretation')
    const colours = OTHER_COLOURS.get(Number(photometric))
    if (colours) throw new BadInput(`This TIFF is in ${colours}, which is not read. Save it as RGB.`)
    const packing = Number(tag('Compression') ?? 1)
    if (!READ_PACKINGS.has(packing))
      throw new BadInput(
        `This TIFF is packed in a way (${packing}) that is not read; ${[...new Set(READ_PACKINGS.values())].join(', ')} are.`,
      )
    const data = (await image.readRasters({
      interleave: true,
      samples: Array.from({ length: channels }, (_, i) => i),
    })) as unknown as Uint8Array | Uint16Array | Float32Array
    if (data.length < width * height * channels) throw new BadInput('it holds fewer pixels than it says')
    // TIFF 6.0, section 18, ExtraSamples: 1 associated (premultiplied), 2 unassociated alpha
    const extra = (tag('ExtraSamples') as ArrayLike<number> | undefined)?.[0]
    const alphaSaid =
      channels % 2 || !extra
        ? undefined
        : extra === 1
          ? ('premultiplied' as const)
          : extra === 2
            ? ('straight' as const)
            : undefined
    const maximum = format === 3 ? 1 : bits === 16 ? 65535 : 255
    if (photometric === 0) for (let i = 0; i < data.length; i++) data[i] = maximum - data[i]!
    return { width, height, channels, maximum, data, ...(alphaSaid && { alphaSaid }) }
  } catch (error) {
    if (error instanceof BadInput) throw error
    throw new BadInput(`This TIFF cannot be read: ${(error as Error).message}`)
  }
}

/**
 * Little-endian, one strip, chunky. Uint8Array, Uint16Array or Float32Array data; a fourth channel is alpha, associated
 * unless alphaSaid is straight.
 */
export function writeTiff(picture: CodedPicture): Uint8Array {
  const { width, height, channels, data } = picture
  const bytesPer = data.BYTES_PER_ELEMENT
  const entries: [number, number, number[]][] = [
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, Array(channels).fill(bytesPer * 8)],
    [259, 3, [1]],
    [262, 3, [channels < 3 ? 1 : 2]],
    [273, 4, [0]],
    [277, 3, [channels]],
    [278, 4, [height]],
    [279, 4, [data.byteLength]],
    [284, 3, [1]],
  ]
  if (channels === 4 || channels === 2) entries.push([338, 3, [picture.alphaSaid === 'straight' ? 2 : 1]])
  entries.push([339, 3, Array(channels).fill(data instanceof Float32Array ? 3 : 1)])
  entries.sort((a, b) => a[0] - b[0])
  const directory = 8
  const directorySize = 2 + entries.length * 12 + 4
  let extra = directory + directorySize
  const extras: [number, number[]][] = []
  const place = entries.map(([, type, values]) => {
    if (values.length * (type === 3 ? 2 : 4) <= 4) return 0
    const at = extra
    extras.push([at, values])
    extra += values.length * 2
    return at
  })
  const start = (extra + 3) & ~3
  const out = new Uint8Array(start + data.byteLength)
  const view = new DataView(out.buffer)
  out.set([0x49, 0x49, 42, 0, directory, 0, 0, 0])
  view.setUint16(directory, entries.length, true)
  entries.forEach(([tag, type, values], i) => {
    const at = directory + 2 + i * 12
    view.setUint16(at, tag, true)
    view.setUint16(at + 2, type, true)
    view.setUint32(at + 4, values.length, true)
    if (place[i]) view.setUint32(at + 8, place[i]!, true)
    else
      values.forEach((value, k) => {
        const v = tag === 273 ? start : value
        if (type === 3) view.setUint16(at + 8 + k * 2, v, true)
        else view.setUint32(at + 8, v, true)
      })
  })
  for (const [at, values] of extras) values.forEach((value, k) => view.setUint16(at + k * 2, value, true))
  out.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), start)
  return out
}
