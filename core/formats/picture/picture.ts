// Any picture file, told by its content, into scene-linear premultiplied RGBA; and back out.
import { codeTable, decodePixels, encodePixels, encodingOf, type Encoding } from '../../colour/encoding'
import { BadInput } from '../errors'
import {
  boxHeight,
  boxWidth,
  emptyWindow,
  isExr,
  readExrHeaders,
  readExrLater,
  writeExr,
  type Box,
  type ExrAttribute,
  type ExrChannel,
  type Compression,
} from '../exr/exr'
import { floatsToHalves, halvesToFloats } from '../exr/half'
import { isHdr, readHdr, writeHdr } from '../hdr/hdr'
import { isJpeg, readJpeg, writeJpeg } from '../jpeg/jpeg'
import { isPng, readPngLater, writePng, type CodedPicture } from '../png/png'
import { isTiff, readTiff, writeTiff } from '../tiff/tiff'
import { orientationOf, upright } from './orientation'

export type PictureFormat = 'png' | 'jpeg' | 'tiff' | 'hdr' | 'exr'
export type AlphaKind = 'none' | 'straight' | 'premultiplied' | 'ignore'

/** What a file holds, before it is said how to read it. */
export interface PictureFile {
  format: PictureFormat
  width: number
  height: number
  /**
   * RGBA as they stand: codes 0..1 or floats; alpha 1 where the file has none. Made when first asked for where the file
   * holds codes.
   */
  readonly pixels: Float32Array
  /** The codes, where it holds such. */
  coded?: CodedPicture
  bits: 8 | 16 | 32
  float: boolean
  hasAlpha: boolean
  /** What the file says of its alpha, where it does (TIFF). */
  alphaSaid?: 'straight' | 'premultiplied'
  /** EXR: what the file says of the whole frame, when its data window is another. */
  dataWindow?: Box
  displayWindow?: Box
  channels: string[]
}

/** Format told by content; undefined when it is none that is read. */
export function pictureFormat(bytes: Uint8Array): PictureFormat | undefined {
  return isPng(bytes)
    ? 'png'
    : isJpeg(bytes)
      ? 'jpeg'
      : isTiff(bytes)
        ? 'tiff'
        : isHdr(bytes)
          ? 'hdr'
          : isExr(bytes)
            ? 'exr'
            : undefined
}

/**
 * Reads any picture. An EXR gives its R, G, B, A (or Y); whole: all that it has pixels of (its data window) instead of
 * its frame. Throws BadInput.
 */
export async function readPicture(bytes: Uint8Array, { whole = false } = {}): Promise<PictureFile> {
  const format = pictureFormat(bytes)
  if (!format)
    throw new BadInput('This file is no picture that is read here. PNG, JPEG, TIFF, Radiance HDR and OpenEXR are.')
  if (format === 'exr') return readExrPicture(bytes, whole)
  if (format === 'hdr') {
    const { width, height, pixels } = readHdr(bytes)
    return { format, width, height, pixels, bits: 32, float: true, hasAlpha: false, channels: ['R', 'G', 'B'] }
  }
  const coded =
    format === 'png' ? await readPngLater(bytes) : format === 'jpeg' ? readJpeg(bytes) : await readTiff(bytes)
  return fromCodes(format, upright(coded, orientationOf(bytes)))
}

/** A file of codes as a picture. */
export function fromCodes(format: PictureFormat, coded: CodedPicture): PictureFile {
  const { width, height, channels, maximum, alphaSaid } = coded
  const grey = channels < 3
  const hasAlpha = channels === 2 || channels === 4
  let pixels: Float32Array | undefined
  return {
    format,
    width,
    height,
    bits: maximum === 1 ? 32 : maximum === 255 ? 8 : 16,
    float: maximum === 1,
    hasAlpha,
    ...(alphaSaid && { alphaSaid }),
    channels: (grey ? ['Y', 'A'] : ['R', 'G', 'B', 'A']).slice(0, channels === 1 || channels === 3 ? -1 : undefined),
    coded,
    get pixels() {
      return (pixels ??= spread(coded, undefined))
    },
  }
}

/** RGBA of codes: each through a table, or over the maximum. Alpha never goes through the table. */
function spread(
  { width, height, channels, maximum, data }: CodedPicture,
  table: Float32Array | undefined,
): Float32Array {
  const out = new Float32Array(width * height * 4)
  const scale = 1 / maximum
  const hasAlpha = channels === 2 || channels === 4
  const green = channels < 3 ? 0 : 1
  const blue = channels < 3 ? 0 : 2
  if (table)
    for (let at = 0, to = 0; to < out.length; at += channels, to += 4) {
      out[to] = table[data[at]!]!
      out[to + 1] = table[data[at + green]!]!
      out[to + 2] = table[data[at + blue]!]!
    }
  else
    for (let at = 0, to = 0; to < out.length; at += channels, to += 4) {
      out[to] = data[at]! * scale
      out[to + 1] = data[at + green]! * scale
      out[to + 2] = data[at + blue]! * scale
    }
  if (hasAlpha)
    for (let at = channels - 1, to = 3; to < out.length; at += channels, to += 4) out[to] = data[at]! * scale
  else for (let to = 3; to < out.length; to += 4) out[to] = 1
  return out
}

export const channelFloats = (channel: ExrChannel): Float32Array =>
  channel.type === 'half'
    ? halvesToFloats(channel.data as Uint16Array)
    : channel.type === 'float'
      ? (channel.data as Float32Array)
      : Float32Array.from(channel.data)

/**
 * Colour from brightness and the differences RY = (R - Y) / Y and BY = (B - Y) / Y, with the weights of Rec.709
 * ("Technical Introduction to OpenEXR", luminance/chroma images).
 */
function colourOfBrightness(
  y: Float32Array,
  ry: Float32Array | undefined,
  by: Float32Array | undefined,
): [Float32Array, Float32Array, Float32Array] | undefined {
  if (!ry || !by) return undefined
  const red = new Float32Array(y.length)
  const green = new Float32Array(y.length)
  const blue = new Float32Array(y.length)
  for (let i = 0; i < y.length; i++) {
    red[i] = (ry[i]! + 1) * y[i]!
    blue[i] = (by[i]! + 1) * y[i]!
    green[i] = (y[i]! - 0.2126 * red[i]! - 0.0722 * blue[i]!) / 0.7152
  }
  return [red, green, blue]
}

type ColourPart = 'R' | 'G' | 'B' | 'A' | 'Y' | 'RY' | 'BY'
const SPELLINGS: Record<ColourPart, readonly string[]> = {
  R: ['r', 'red'],
  G: ['g', 'green'],
  B: ['b', 'blue'],
  A: ['a', 'alpha'],
  Y: ['y', 'l', 'luma', 'luminance', 'grey', 'gray', 'value'],
  RY: ['ry'],
  BY: ['by'],
}
/** Channels that are no light, whatever else a file lacks. */
const DATA = /^(z|zback|depth|id|.*[ _-]id|u|v|n?[xyz]|motion.*|position.*|normal.*)$/i

/**
 * Which channels of an OpenEXR file are its picture: R, G, B (and A), however they are spelt, at the top or else of the
 * first layer that has them; else one of brightness; else the only one there is, unless it is data.
 */
function colourNames(all: readonly string[]): Partial<Record<ColourPart, string>> {
  const layers = [...new Set(['', ...all.map(name => name.slice(0, name.lastIndexOf('.') + 1))])]
  for (const layer of layers) {
    const own = all.filter(name => name.startsWith(layer) && !name.slice(layer.length).includes('.'))
    const found: Partial<Record<ColourPart, string>> = {}
    for (const part of Object.keys(SPELLINGS) as ColourPart[]) {
      const named = (spelt: string): string | undefined => own.find(name => name.slice(layer.length) === spelt)
      const other = own.find(name => SPELLINGS[part].includes(name.slice(layer.length).toLowerCase()))
      const name = named(part) ?? other
      if (name) found[part] = name
    }
    // A place or a texture's v may be called Y; brightness stands without an X
    const isPlace = own.some(name => /^x$/i.test(name.slice(layer.length)))
    if ((found.R && found.G && found.B) || (found.Y && !isPlace)) return found
  }
  const [only, ...others] = all.filter(name => !DATA.test(name.slice(name.lastIndexOf('.') + 1)))
  return only && !others.length && all.length <= 2 ? { Y: only } : {}
}

/** whole: all that it has pixels of, instead of its frame. */
async function readExrPicture(bytes: Uint8Array, whole = false): Promise<PictureFile> {
  const names = colourNames(readExrHeaders(bytes).parts.flatMap(part => part.channels.map(channel => channel.name)))
  const image = await readExrLater(bytes, name => Object.values(names).includes(name))
  const find = (part: ColourPart): Float32Array | undefined => {
    const channel = image.channels.find(channel => channel.name === names[part])
    return channel && channelFloats(channel)
  }
  const y = find('Y')
  const chroma = y && colourOfBrightness(y, find('RY'), find('BY'))
  const planes = [
    find('R') ?? chroma?.[0] ?? y,
    find('G') ?? chroma?.[1] ?? y,
    find('B') ?? chroma?.[2] ?? y,
    find('A'),
  ]
  if (!planes[0] || !planes[1] || !planes[2])
    throw new BadInput(
      'This OpenEXR file has no R, G and B channels (nor one of brightness): it holds no colour picture.',
    )
  // The frame is the display window; pixels of the data window outside it are left, those missing inside it are clear
  const window = whole ? image.dataWindow : image.displayWindow
  const width = boxWidth(window)
  const height = boxHeight(window)
  const dataWidth = boxWidth(image.dataWindow)
  const pixels = new Float32Array(width * height * 4)
  const offsetX = window.xMin - image.dataWindow.xMin
  const offsetY = window.yMin - image.dataWindow.yMin
  for (let row = 0; row < height; row++) {
    const sourceRow = row + offsetY
    if (sourceRow < 0 || sourceRow >= boxHeight(image.dataWindow)) continue
    for (let x = 0; x < width; x++) {
      const sourceX = x + offsetX
      if (sourceX < 0 || sourceX >= dataWidth) continue
      const at = sourceRow * dataWidth + sourceX
      const to = (row * width + x) * 4
      pixels[to] = planes[0][at]!
      pixels[to + 1] = planes[1][at]!
      pixels[to + 2] = planes[2][at]!
      pixels[to + 3] = planes[3] ? planes[3][at]! : 1
    }
  }
  return {
    format: 'exr',
    width,
    height,
    pixels,
    bits: image.channels[0]!.type === 'half' ? 16 : 32,
    float: true,
    hasAlpha: !!planes[3],
    dataWindow: image.dataWindow,
    displayWindow: image.displayWindow,
    channels: image.channels.map(channel => channel.name),
  }
}

/** Scene-linear, premultiplied RGBA of a file read as said. */
export function toWorking(file: PictureFile, encoding: Encoding, alpha: AlphaKind): Float32Array {
  const useAlpha = file.hasAlpha && alpha !== 'none' && alpha !== 'ignore'
  const premultiplied = useAlpha && alpha === 'premultiplied'
  // Whole codes go through a table; unpremultiplied ones are no whole codes any more
  const byTable = !!file.coded && !file.float && !!encoding.decode && !encoding.map && !premultiplied
  const curved = !!encoding.decode || !!encoding.map
  const out = byTable ? spread(file.coded!, codeTable(encoding, file.coded!.maximum)) : file.pixels.slice()
  if (file.hasAlpha && !useAlpha) for (let i = 3; i < out.length; i += 4) out[i] = 1
  // Codes were multiplied: undo before decoding, redo after
  if (premultiplied && curved)
    for (let i = 0; i < out.length; i += 4) {
      const a = out[i + 3]!
      if (a > 0 && a < 1) {
        out[i]! /= a
        out[i + 1]! /= a
        out[i + 2]! /= a
      }
    }
  decodePixels(out, byTable ? { ...encoding, decode: undefined } : encoding)
  if (useAlpha && (alpha === 'straight' || curved))
    for (let i = 0; i < out.length; i += 4) {
      const a = out[i + 3]!
      if (a !== 1) {
        out[i]! *= a
        out[i + 1]! *= a
        out[i + 2]! *= a
      }
    }
  return out
}

export interface WriteOptions {
  format: PictureFormat
  bits?: 8 | 16 | 32
  encoding: string
  compression?: Compression
  quality?: number
  attributes?: ExrAttribute[]
  alpha?: boolean
}

/** File of a scene-linear premultiplied picture. 8 and 16 bit: encoded, alpha straight where it is kept. */
export function writePicture(width: number, height: number, pixels: Float32Array, options: WriteOptions): Uint8Array {
  const encoding = encodingOf(options.encoding)
  const out = pixels.slice()
  const integer =
    options.format === 'png' || options.format === 'jpeg' || (options.format === 'tiff' && options.bits !== 32)
  // A JPEG has no cover to divide by
  if (integer && options.alpha && options.format !== 'jpeg') {
    for (let i = 0; i < out.length; i += 4) {
      const a = out[i + 3]!
      if (a > 0 && a < 1) {
        out[i]! /= a
        out[i + 1]! /= a
        out[i + 2]! /= a
      }
    }
  }
  encodePixels(out, encoding)
  if (options.format === 'exr')
    return writeExr(
      exrOf(
        width,
        height,
        out,
        options.bits === 32 ? 'float' : 'half',
        options.compression ?? 'zip',
        options.attributes ?? [],
      ),
    )
  if (options.format === 'hdr') return writeHdr({ width, height, pixels: out })
  const channels = options.alpha ? 4 : 3
  if (!integer)
    return writeTiff({ width, height, channels, maximum: 1, data: channels === 4 ? out : withoutAlpha(out) })
  const maximum = options.bits === 16 && options.format !== 'jpeg' ? 65535 : 255
  const data =
    maximum === 65535 ? new Uint16Array(width * height * channels) : new Uint8Array(width * height * channels)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < channels; c++) data[i * channels + c] = quantize(out[i * 4 + c]!, maximum)
  const picture: CodedPicture = { width, height, channels, maximum, data, alphaSaid: 'straight' }
  return options.format === 'png'
    ? writePng(picture)
    : options.format === 'jpeg'
      ? writeJpeg(picture, options.quality)
      : writeTiff(picture)
}

/** Nearest code of a value, 0 for what is no number. */
export const quantize = (value: number, maximum: number): number =>
  value > 0 ? Math.min(maximum, Math.floor(value * maximum + 0.5)) : 0

const withoutAlpha = (pixels: Float32Array): Float32Array => {
  const out = new Float32Array((pixels.length / 4) * 3)
  for (let i = 0, to = 0; i < pixels.length; i += 4, to += 3) {
    out[to] = pixels[i]!
    out[to + 1] = pixels[i + 1]!
    out[to + 2] = pixels[i + 2]!
  }
  return out
}

function exrOf(
  width: number,
  height: number,
  pixels: Float32Array,
  type: 'half' | 'float',
  compression: Compression,
  attributes: ExrAttribute[],
): Parameters<typeof writeExr>[0] {
  const channels = ['R', 'G', 'B', 'A'].map((name, c): ExrChannel => {
    const plane = new Float32Array(width * height)
    for (let i = 0; i < plane.length; i++) plane[i] = pixels[i * 4 + c]!
    return { name, type, linear: false, data: type === 'half' ? floatsToHalves(plane) : plane }
  })
  return {
    dataWindow: emptyWindow(width, height),
    displayWindow: emptyWindow(width, height),
    compression,
    channels,
    attributes,
  }
}
