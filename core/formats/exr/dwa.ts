// DWAA and DWAB: a cosine transform of 8 x 8 values for colour, run lengths for alpha, deflate for the rest: read.
// Source: the OpenEXR library's description of its format in ImfDwaCompressor (public file format; read from memory).
import { zlib } from '../zlib'
import { floatsToHalves, halvesToFloats } from './half'
import { huffmanDecode } from './huffman'
import { BYTES, planesToRows, type BlockChannel, type ExrType } from './planes'
import { restoredBytes, runLengthDecode } from './bytes'

export const SIZES = 11
export type Scheme = 'plain' | 'cosine' | 'runs'
export const SCHEMES: Scheme[] = ['plain', 'cosine', 'runs']
const TYPES: ExrType[] = ['uint', 'half', 'float']
export interface Rule {
  suffix: string
  scheme: Scheme
  type: ExrType
  /** Place in a triple of red, green and blue; -1 for none. */
  colour: number
  anyCase: boolean
}

const rule = (suffix: string, scheme: Scheme, type: ExrType, colour = -1, anyCase = false): Rule => ({
  suffix,
  scheme,
  type,
  colour,
  anyCase,
})
const pair = (suffix: string, colour = -1, anyCase = false): Rule[] => [
  rule(suffix, 'cosine', 'half', colour, anyCase),
  rule(suffix, 'cosine', 'float', colour, anyCase),
]
/** What blocks of the first version take for granted. */
export const OLD_RULES: Rule[] = [
  ...['r', 'red'].flatMap(name => pair(name, 0, true)),
  ...['g', 'grn', 'green'].flatMap(name => pair(name, 1, true)),
  ...['b', 'blu', 'blue'].flatMap(name => pair(name, 2, true)),
  ...['y', 'by', 'ry'].flatMap(name => pair(name, -1, true)),
  ...TYPES.map(type => rule('a', 'runs', type, -1, true)),
]

/** Halves as they are packed (a power of 2.2 below 1, a logarithm above) back to light. */
let linearHalves: Uint16Array | undefined
function light(): Uint16Array {
  if (linearHalves) return linearHalves
  const values = halvesToFloats(Uint16Array.from({ length: 65536 }, (_, i) => i))
  const base = Math.pow(Math.fround(2.7182818), 2.2)
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!
    const size = Math.abs(value)
    values[i] = Number.isFinite(value)
      ? Math.sign(value) * (size <= 1 ? Math.pow(size, 2.2) : Math.pow(base, size - 1))
      : 0
  }
  return (linearHalves = floatsToHalves(values))
}

// Order of frequencies, from the lowest along the diagonals
export const ZIGZAG = [
  0, 1, 8, 16, 9, 2, 3, 10, 17, 24, 32, 25, 18, 11, 4, 5, 12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6, 7, 14, 21, 28,
  35, 42, 49, 56, 57, 50, 43, 36, 29, 22, 15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53, 60, 61, 54, 47,
  55, 62, 63,
]
export const COSINES = Float32Array.from({ length: 64 }, (_, i) => {
  const x = i >> 3
  const k = i & 7
  return (k === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos(((2 * x + 1) * k * Math.PI) / 16)
})
const across = new Float32Array(64)
/** Inverse cosine transform of 8 x 8 in place. */
function inverseCosine(values: Float32Array): void {
  for (let y = 0; y < 8; y++)
    for (let x = 0; x < 8; x++) {
      let sum = 0
      for (let k = 0; k < 8; k++) sum += COSINES[x * 8 + k]! * values[y * 8 + k]!
      across[y * 8 + x] = sum
    }
  for (let y = 0; y < 8; y++)
    for (let x = 0; x < 8; x++) {
      let sum = 0
      for (let k = 0; k < 8; k++) sum += COSINES[y * 8 + k]! * across[k * 8 + x]!
      values[y * 8 + x] = sum
    }
}

export interface Placed extends BlockChannel {
  start: number
  rule?: Rule
}

function rulesOf(packed: Uint8Array, version: number): { rules: Rule[]; at: number } {
  const at = SIZES * 8
  if (version < 2) return { rules: OLD_RULES, at }
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength)
  if (at + 2 > packed.length) throw new Error('it is cut off.')
  const end = at + view.getUint16(at, true)
  const rules: Rule[] = []
  if (end > packed.length || end < at + 2) throw new Error('its rules are damaged.')
  for (let from = at + 2; from < end;) {
    const stop = packed.indexOf(0, from)
    if (stop < 0 || stop + 3 > end) throw new Error('its rules are damaged.')
    const value = packed[stop + 1]!
    const scheme = SCHEMES[(value >> 2) & 3]
    const type = TYPES[packed[stop + 2]!]
    if (!scheme || !type) throw new Error('its rules are damaged.')
    rules.push({
      suffix: new TextDecoder().decode(packed.subarray(from, stop)),
      scheme,
      type,
      colour: (value >> 4) - 1,
      anyCase: (value & 1) === 1,
    })
    from = stop + 3
  }
  return { rules, at: end }
}

/** Streams of numbers that the cosine blocks of all channels share. */
interface Streams {
  high: Uint16Array
  highAt: number
  low: Uint16Array
  lowAt: number
}

/** One channel, or a triple that was turned into brightness and two differences, into the planes. */
function cosineChannels(channels: readonly Placed[], streams: Streams, planes: Uint8Array): void {
  const { across: width, down: height } = channels[0]!
  const blocksX = Math.ceil(width / 8)
  const blocksY = Math.ceil(height / 8)
  const blocks = blocksX * blocksY
  const count = channels.length
  const codes = channels.map(() => new Uint16Array(64))
  const table = light()
  const half = new Uint16Array(64)
  const outs = channels.map(({ type, start }) =>
    type === 'half' ? new Uint16Array(planes.buffer, start, width * height) : undefined,
  )
  const floats = channels.map(({ type }) => (type === 'float' ? new Float32Array(width * height) : undefined))
  const lowStart = streams.lowAt
  if (lowStart + blocks * count > streams.low.length) throw new Error('it is cut off in its means.')
  for (let block = 0; block < blocks; block++) {
    const values = channels.map((_, c) => {
      const zig = codes[c]!
      zig.fill(0)
      zig[0] = streams.low[lowStart + c * blocks + block]!
      for (let k = 1; k < 64;) {
        if (streams.highAt >= streams.high.length) throw new Error('it is cut off in its details.')
        const code = streams.high[streams.highAt++]!
        if (code === 0xff00) break
        if (code >> 8 === 0xff) k += code & 255
        else zig[k++] = code
      }
      for (let k = 0; k < 64; k++) half[ZIGZAG[k]!] = zig[k]!
      const out = halvesToFloats(half)
      inverseCosine(out)
      return out
    })
    if (count === 3) {
      // Rec.709 brightness and differences back to red, green and blue
      const [a, b, c] = values as [Float32Array, Float32Array, Float32Array]
      for (let i = 0; i < 64; i++) {
        const y = a[i]!
        const cb = b[i]!
        const cr = c[i]!
        a[i] = y + 1.5747 * cr
        b[i] = y - 0.1873 * cb - 0.4682 * cr
        c[i] = y + 1.8556 * cb
      }
    }
    const left = (block % blocksX) * 8
    const top = Math.floor(block / blocksX) * 8
    values.forEach((value, c) => {
      const packed = floatsToHalves(value)
      const linear = packed.map(code => table[code]!)
      const asFloats = floats[c] && halvesToFloats(linear)
      for (let y = 0; y < 8 && top + y < height; y++)
        for (let x = 0; x < 8 && left + x < width; x++) {
          const to = (top + y) * width + left + x
          if (outs[c]) outs[c]![to] = linear[y * 8 + x]!
          else floats[c]![to] = asFloats![y * 8 + x]!
        }
    })
  }
  streams.lowAt += blocks * count
  floats.forEach((plane, c) => {
    if (plane) planes.set(new Uint8Array(plane.buffer), channels[c]!.start)
  })
}

export function dwaDecode(
  packed: Uint8Array,
  channels: readonly BlockChannel[],
  rows: number,
  size: number,
): Uint8Array {
  if (packed.length < SIZES * 8) throw new Error('it is cut off.')
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength)
  const numbers = Array.from({ length: SIZES }, (_, i) => Number(view.getBigUint64(i * 8, true)))
  const [
    version,
    plainSize,
    plainPacked,
    highPacked,
    lowPacked,
    runsPacked,
    runsSize,
    runsRaw,
    highCount,
    lowCount,
    highKind,
  ] = numbers as [number, number, number, number, number, number, number, number, number, number, number]
  if (version > 2) throw new Error(`it is of version ${version}.`)
  const found = rulesOf(packed, version)
  let at = found.at
  if (at + plainPacked + highPacked + lowPacked + runsPacked > packed.length) throw new Error('it is cut off.')
  // No stream is longer than the pixels it stands for, but for the ends of blocks
  const most = size + 65536
  if (plainSize > most || runsRaw > most || runsSize > most * 2 || highCount > most || lowCount > most)
    throw new Error('its sizes cannot be.')
  const next = (length: number): Uint8Array => packed.subarray(at, (at += length))
  const plainBytes = next(plainPacked)
  const highBytes = next(highPacked)
  const lowBytes = next(lowPacked)
  const runsBytes = next(runsPacked)
  const plain = plainSize ? zlib().inflate(plainBytes, plainSize) : new Uint8Array(0)
  const words = (bytes: Uint8Array): Uint16Array => new Uint16Array(new Uint8Array(bytes).buffer, 0, bytes.length >> 1)
  const high = !highCount
    ? new Uint16Array(0)
    : highKind === 0
      ? huffmanDecode(highBytes, highCount)
      : words(zlib().inflate(highBytes, highCount * 2))
  const low = lowCount ? words(restoredBytes(zlib().inflate(lowBytes, lowCount * 2), lowCount * 2)) : new Uint16Array(0)
  const runs = runsRaw ? runLengthDecode(zlib().inflate(runsBytes, runsSize), runsRaw) : new Uint8Array(0)

  const placed = placedChannels(channels, found.rules)
  const planes = new Uint8Array(size)
  const streams: Streams = { high, highAt: 0, low, lowAt: 0 }
  const done = new Set<Placed>()
  for (const triple of triplesOf(placed)) {
    cosineChannels(triple, streams, planes)
    for (const channel of triple) done.add(channel)
  }
  let plainAt = 0
  let runsAt = 0
  for (const channel of placed) {
    if (done.has(channel)) continue
    const bytes = BYTES[channel.type] * channel.across * channel.down
    if (channel.rule?.scheme === 'cosine') {
      cosineChannels([channel], streams, planes)
      continue
    }
    if (channel.rule?.scheme === 'runs') {
      if (runsAt + bytes > runs.length) throw new Error('it is cut off in its runs.')
      // Bytes of equal weight stand together
      const width = BYTES[channel.type]
      const count = channel.across * channel.down
      for (let k = 0; k < width; k++)
        for (let i = 0; i < count; i++) planes[channel.start + i * width + k] = runs[runsAt + k * count + i]!
      runsAt += bytes
      continue
    }
    if (plainAt + bytes > plain.length) throw new Error('it is cut off in its plain channels.')
    planes.set(plain.subarray(plainAt, plainAt + bytes), channel.start)
    plainAt += bytes
  }
  return planesToRows(planes, channels, rows)
}

/** Channels with where their planes begin and the rule that they fall under; later rules win. */
export function placedChannels(channels: readonly BlockChannel[], rules: readonly Rule[]): Placed[] {
  let start = 0
  return channels.map((channel): Placed => {
    const own: Placed = { ...channel, has: channel.has, start }
    const name = channel.name.slice(channel.name.lastIndexOf('.') + 1)
    start += BYTES[channel.type] * channel.across * channel.down
    for (const rule of rules)
      if (
        rule.type === channel.type &&
        (rule.anyCase ? rule.suffix.toLowerCase() === name.toLowerCase() : rule.suffix === name)
      )
        own.rule = rule
    return own
  })
}

/** Red, green and blue of one layer, which are packed together; in the order of the layers' names. */
export function triplesOf(placed: readonly Placed[]): [Placed, Placed, Placed][] {
  const layers = new Map<string, (Placed | undefined)[]>()
  for (const channel of placed) {
    const colour = channel.rule?.scheme === 'cosine' ? channel.rule.colour : -1
    if (colour < 0) continue
    const layer = channel.name.slice(0, channel.name.lastIndexOf('.') + 1)
    const triple = layers.get(layer) ?? layers.set(layer, []).get(layer)!
    triple[colour] = channel
  }
  return [...layers]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .flatMap(([, [r, g, b]]): [Placed, Placed, Placed][] =>
      r && g && b && r.across === g.across && r.across === b.across && r.down === g.down && r.down === b.down
        ? [[r, g, b]]
        : [],
    )
}
