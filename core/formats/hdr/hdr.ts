// Radiance RGBE pictures (G. Ward, "Real Pixels", Graphics Gems II, 1991; file layout of the Radiance reference
// manual).
import { BadInput, checkSize } from '../errors'

export interface FloatPicture {
  width: number
  height: number
  /** RGBA, linear. */
  pixels: Float32Array
}

export const isHdr = (bytes: Uint8Array): boolean =>
  bytes.length > 10 &&
  bytes[0] === 0x23 &&
  bytes[1] === 0x3f &&
  /^#\?(RADIANCE|RGBE)/.test(new TextDecoder().decode(bytes.subarray(0, 12)))

export function readHdr(bytes: Uint8Array): FloatPicture {
  if (!isHdr(bytes)) throw new BadInput('This is not a Radiance picture.')
  let at = 0
  const line = (): string => {
    const end = bytes.indexOf(10, at)
    if (end < 0 || end - at > 4096) throw new BadInput('This Radiance picture is cut off in its header.')
    const text = new TextDecoder().decode(bytes.subarray(at, end))
    at = end + 1
    return text
  }
  let exposure = 1
  for (let text = line(); text.trim() !== ''; text = line()) {
    const format = /^FORMAT=(.*)$/.exec(text.trim())
    if (format && format[1] !== '32-bit_rle_rgbe')
      throw new BadInput(`This Radiance picture is in the format “${format[1]}”; RGBE is read.`)
    const said = /^EXPOSURE=\s*([0-9.eE+-]+)/.exec(text)
    if (said && Number(said[1]) > 0) exposure *= Number(said[1])
  }
  const size = /^([-+])Y (\d+) ([-+])X (\d+)$/.exec(line().trim())
  if (!size) throw new BadInput('This Radiance picture does not say its size in the usual order of lines.')
  const height = Number(size[2])
  const width = Number(size[4])
  checkSize('This Radiance picture', width, height)
  // A row takes a pixel at least, and its repeats another
  if (bytes.length - at < height * 4)
    throw new BadInput('This Radiance picture is cut off: it holds fewer rows than it says.')
  const pixels = new Float32Array(width * height * 4)
  const row = new Uint8Array(width * 4)
  for (let y = 0; y < height; y++) {
    at = readRow(bytes, at, row, width)
    const to = (size[1] === '-' ? y : height - 1 - y) * width
    for (let x = 0; x < width; x++) {
      const out = (to + (size[3] === '+' ? x : width - 1 - x)) * 4
      const e = row[x * 4 + 3]!
      const scale = e ? 2 ** (e - 136) / exposure : 0
      pixels[out] = row[x * 4]! * scale
      pixels[out + 1] = row[x * 4 + 1]! * scale
      pixels[out + 2] = row[x * 4 + 2]! * scale
      pixels[out + 3] = 1
    }
  }
  return { width, height, pixels }
}

function readRow(bytes: Uint8Array, at: number, row: Uint8Array, width: number): number {
  const short = (): never => {
    throw new BadInput('This Radiance picture is cut off or damaged in its pixels.')
  }
  if (at + 4 > bytes.length) short()
  if (
    width >= 8 &&
    width < 32768 &&
    bytes[at] === 2 &&
    bytes[at + 1] === 2 &&
    bytes[at + 2]! * 256 + bytes[at + 3]! === width
  ) {
    at += 4
    for (let c = 0; c < 4; c++) {
      for (let x = 0; x < width;) {
        if (at + 2 > bytes.length) short()
        const count = bytes[at++]!
        if (count > 128) {
          if (x + count - 128 > width) short()
          for (let end = x + count - 128; x < end; x++) row[x * 4 + c] = bytes[at]!
          at++
        } else {
          if (count === 0 || x + count > width || at + count > bytes.length) short()
          for (let end = x + count; x < end; x++) row[x * 4 + c] = bytes[at++]!
        }
      }
    }
    return at
  }
  // Old form: plain pixels, (1, 1, 1, n) repeats the last one
  let shift = 0
  for (let x = 0; x < width;) {
    if (at + 4 > bytes.length) short()
    if (bytes[at] === 1 && bytes[at + 1] === 1 && bytes[at + 2] === 1) {
      const count = bytes[at + 3]! << shift
      if (x === 0 || x + count > width) short()
      for (let i = 0; i < count; i++, x++) row.copyWithin(x * 4, x * 4 - 4, x * 4)
      shift += 8
      if (shift > 16) short()
    } else {
      row.set(bytes.subarray(at, at + 4), x * 4)
      x++
      shift = 0
    }
    at += 4
  }
  return at
}

/** Writes RGBE, uncompressed. Negative values become 0. */
export function writeHdr(picture: FloatPicture): Uint8Array {
  const { width, height, pixels } = picture
  const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`)
  const out = new Uint8Array(head.length + width * height * 4)
  out.set(head)
  for (let i = 0, to = head.length; i < width * height; i++, to += 4) {
    const r = Math.max(0, pixels[i * 4]!)
    const g = Math.max(0, pixels[i * 4 + 1]!)
    const b = Math.max(0, pixels[i * 4 + 2]!)
    const top = Math.max(r, g, b)
    if (!(top > 1e-32)) continue
    const exponent = Math.floor(Math.log2(top)) + 1
    const scale = 2 ** (8 - exponent)
    for (const [c, value] of [r, g, b].entries()) out[to + c] = Math.min(255, Math.round(value * scale))
    out[to + 3] = exponent + 128
  }
  return out
}
