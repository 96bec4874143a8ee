// Components of a JPEG: how they are sampled and what they stand for, and RGB made from them.

export interface JpegHead {
  width: number
  height: number
  /** Identifier and sampling factors of each (ITU-T T.81, B.2.2). */
  components: { id: number; h: number; v: number }[]
  jfif: boolean
  /** The colour transform that an Adobe marker names, and where in the file (ITU-T T.872, 6.5.3). */
  adobe?: { transform: number; at: number }
}

/** What the markers before the first scan say, before anything is decoded; undefined without a frame header. */
export function headOf(bytes: Uint8Array): JpegHead | undefined {
  let jfif = false
  let adobe: JpegHead['adobe']
  let at = 2
  while (at + 9 < bytes.length) {
    if (bytes[at] !== 0xff) {
      at++
      continue
    }
    const marker = bytes[at + 1]!
    const text = (word: string): boolean => [...word].every((letter, i) => bytes[at + 4 + i] === letter.charCodeAt(0))
    if (marker === 0xe0 && text('JFIF')) jfif = true
    if (marker === 0xee && text('Adobe') && at + 15 < bytes.length) adobe = { transform: bytes[at + 15]!, at: at + 15 }
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc) {
      const count = bytes[at + 9]!
      return {
        height: bytes[at + 5]! * 256 + bytes[at + 6]!,
        width: bytes[at + 7]! * 256 + bytes[at + 8]!,
        components: Array.from({ length: count }, (_, i) => {
          const factors = bytes[at + 11 + i * 3] ?? 0
          return { id: bytes[at + 10 + i * 3] ?? 0, h: factors >> 4, v: factors & 15 }
        }),
        jfif,
        adobe,
      }
    }
    if (marker === 0xff || (marker >= 0xd0 && marker <= 0xd9) || marker === 1) {
      at += marker === 0xff ? 1 : 2
      continue
    }
    at += 2 + bytes[at + 2]! * 256 + bytes[at + 3]!
  }
  return undefined
}

/** Coded blocks of 8 x 8 that the picture has in all its components. */
export function blocksOf({ width, height, components }: JpegHead): number {
  const across = Math.max(...components.map(({ h }) => h))
  const down = Math.max(...components.map(({ v }) => v))
  return components.reduce(
    (sum, { h, v }) => sum + Math.ceil((width * h) / across / 8) * Math.ceil((height * v) / down / 8),
    0,
  )
}

/** Scans of the file, each of which goes over the picture: segments are passed by their lengths (T.81, B.1.1). */
export function scansOf(bytes: Uint8Array): number {
  let scans = 0
  for (let at = 2; at + 4 <= bytes.length;) {
    const marker = bytes[at + 1]!
    // Coded data, in which 0xff is followed by 0 or by a restart
    if (bytes[at] !== 0xff || marker === 0 || (marker >= 0xd0 && marker <= 0xd8)) at++
    else if (marker === 0xff) at++
    else if (marker === 0xd9) break
    else {
      if (marker === 0xda) scans++
      at += 2 + bytes[at + 2]! * 256 + bytes[at + 3]!
    }
  }
  return scans
}

/** Whether the three are luma and two of chroma; else they are red, green and blue as they stand. */
function isLumaChroma({ jfif, adobe, components }: JpegHead): boolean {
  if (jfif) return true
  if (adobe) return adobe.transform !== 0
  return !components.every(({ id }, i) => id === 'RGB'.charCodeAt(i))
}

/**
 * RGB codes of a picture of three components. raw: RGBA whose first three are the components, each repeated to the
 * picture's size from its upper left. Those that were sampled coarser are interpolated between their centres, where JFIF
 * 1.02 puts them: in the middle of the pixels that they stand for.
 */
export function mixed(raw: Uint8Array, width: number, height: number, head: JpegHead): Uint8Array {
  const { components } = head
  const most = { h: Math.max(...components.map(({ h }) => h)), v: Math.max(...components.map(({ v }) => v)) }
  const out = new Uint8Array(width * height * 3)
  const rows = components.map(() => new Float32Array(width))
  const between = components.map(() => new Float32Array(width))
  const luma = isLumaChroma(head)
  for (let y = 0; y < height; y++) {
    components.forEach(({ h, v }, c) =>
      rowOf(raw, width, height, c, most.h / Math.max(1, h), most.v / Math.max(1, v), y, between[c]!, rows[c]!),
    )
    const [a, b, r] = rows as [Float32Array, Float32Array, Float32Array]
    for (let x = 0, o = y * width * 3; x < width; x++, o += 3) {
      // ITU-T T.871, 7: full range, coefficients of BT.601
      const cb = b[x]! - 128
      const cr = r[x]! - 128
      out[o] = code(luma ? a[x]! + 1.402 * cr : a[x]!)
      out[o + 1] = code(luma ? a[x]! - 0.344136 * cb - 0.714136 * cr : b[x]!)
      out[o + 2] = code(luma ? a[x]! + 1.772 * cb : r[x]!)
    }
  }
  return out
}
const code = (value: number): number => (value <= 0 ? 0 : value >= 255 ? 255 : Math.round(value))

/** One row of one component at the picture's size. between: room for a row of it. */
function rowOf(
  raw: Uint8Array,
  width: number,
  height: number,
  c: number,
  across: number,
  down: number,
  y: number,
  between: Float32Array,
  to: Float32Array,
): void {
  const at = (x: number, row: number): number => raw[(row * width + x) * 4 + c]!
  if (across === 1 && down === 1) {
    for (let x = 0; x < width; x++) to[x] = at(x, y)
    return
  }
  const columns = Math.ceil(width / across)
  const last = Math.ceil(height / down) - 1
  const middle = (y + 0.5) / down - 0.5
  const upper = Math.floor(middle)
  const share = middle - upper
  // Where the repeated samples of the two rows begin
  const top = Math.floor(Math.min(last, Math.max(0, upper)) * down)
  const bottom = Math.floor(Math.min(last, Math.max(0, upper + 1)) * down)
  for (let k = 0; k < columns; k++) {
    const x = Math.floor(k * across)
    between[k] = at(x, top) * (1 - share) + at(x, bottom) * share
  }
  for (let x = 0; x < width; x++) {
    const place = (x + 0.5) / across - 0.5
    const left = Math.floor(place)
    const part = place - left
    to[x] = between[Math.max(0, left)]! * (1 - part) + between[Math.min(columns - 1, Math.max(0, left + 1))]! * part
  }
}
