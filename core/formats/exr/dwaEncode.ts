// DWAA and DWAB written: see dwa.ts. Coefficients are rounded as far as a table of tolerances allows (the quantization
// tables of ITU-T T.81, annex K, scaled to their smallest entry), to halves with as few bits as that leaves.
import { zlib } from '../zlib'
import { preparedBytes, runLengthEncode } from './bytes'
import { joined } from '../bytes'
import { text } from './attributes'
import { COSINES, OLD_RULES, placedChannels, SCHEMES, SIZES, triplesOf, ZIGZAG, type Placed } from './dwa'
import { floatToHalf, floatsToHalves, halfToFloat, halvesToFloats } from './half'
import { huffmanEncode } from './huffman'
import { BYTES, rowsToPlanes, type BlockChannel, type ExrType } from './planes'

/** Error that is allowed, common practice: 45 hundred-thousandths at the lowest frequency. */
const BASE_ERROR = 45 / 100000
const BRIGHT = [
  16, 11, 10, 16, 24, 40, 51, 61, 12, 12, 14, 19, 26, 58, 60, 55, 14, 13, 16, 24, 40, 57, 69, 56, 14, 17, 22, 29, 51,
  87, 80, 62, 18, 22, 37, 56, 68, 109, 103, 77, 24, 35, 55, 64, 81, 104, 113, 92, 49, 64, 78, 87, 103, 121, 120, 101,
  72, 92, 95, 98, 112, 100, 103, 99,
].map(value => (value / 10) * BASE_ERROR)
const COLOUR = [
  17,
  18,
  24,
  47,
  99,
  99,
  99,
  99,
  18,
  21,
  26,
  66,
  99,
  99,
  99,
  99,
  24,
  26,
  56,
  99,
  99,
  99,
  99,
  99,
  47,
  66,
  99,
  99,
  99,
  99,
  99,
  99,
  ...Array.from({ length: 32 }, () => 99),
].map(value => (value / 17) * BASE_ERROR)
const TYPES: ExrType[] = ['uint', 'half', 'float']

/** Light to what is packed: a power of 1 / 2.2 below 1, a logarithm above. */
let packedTable: Float32Array | undefined
function packedValues(): Float32Array {
  if (packedTable) return packedTable
  const values = halvesToFloats(Uint16Array.from({ length: 65536 }, (_, i) => i))
  const base = Math.log(Math.pow(Math.fround(2.7182818), 2.2))
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!
    const size = Math.abs(value)
    values[i] = Number.isFinite(value)
      ? Math.sign(value) * (size <= 1 ? Math.pow(size, 1 / 2.2) : Math.log(size) / base + 1)
      : 0
  }
  return (packedTable = halvesToFloats(floatsToHalves(values)))
}

/** The half nearest to a value with the fewest bits that stays within the tolerance. */
function rounded(value: number, tolerance: number): number {
  if (Math.abs(value) < tolerance) return 0
  const exact = floatToHalf(value)
  for (let drop = 10; drop > 0; drop--) {
    const code = ((exact + (1 << (drop - 1))) >> drop) << drop
    if ((code & 0x7c00) !== 0x7c00 && Math.abs(halfToFloat(code) - value) < tolerance) return code
  }
  return exact
}

const across = new Float32Array(64)
function cosine(values: Float32Array): void {
  for (let y = 0; y < 8; y++)
    for (let k = 0; k < 8; k++) {
      let sum = 0
      for (let x = 0; x < 8; x++) sum += COSINES[x * 8 + k]! * values[y * 8 + x]!
      across[y * 8 + k] = sum
    }
  for (let k = 0; k < 8; k++)
    for (let x = 0; x < 8; x++) {
      let sum = 0
      for (let y = 0; y < 8; y++) sum += COSINES[y * 8 + k]! * across[y * 8 + x]!
      values[k * 8 + x] = sum
    }
}

function cosineChannels(channels: readonly Placed[], planes: Uint8Array, high: number[], low: number[]): void {
  const { across: width, down: height } = channels[0]!
  const blocksX = Math.ceil(width / 8)
  const blocksY = Math.ceil(height / 8)
  const table = packedValues()
  const means: number[][] = channels.map(() => [])
  const sources = channels.map(({ type, start }) =>
    type === 'half'
      ? new Uint16Array(planes.buffer, start, width * height)
      : floatsToHalves(new Float32Array(planes.slice(start, start + width * height * 4).buffer)),
  )
  for (let block = 0; block < blocksX * blocksY; block++) {
    const left = (block % blocksX) * 8
    const top = Math.floor(block / blocksX) * 8
    const values = sources.map(source => {
      const out = new Float32Array(64)
      for (let y = 0; y < 8; y++)
        for (let x = 0; x < 8; x++)
          out[y * 8 + x] = table[source[Math.min(height - 1, top + y) * width + Math.min(width - 1, left + x)]!]!
      return out
    })
    if (values.length === 3) {
      const [a, b, c] = values as [Float32Array, Float32Array, Float32Array]
      for (let i = 0; i < 64; i++) {
        const r = a[i]!
        const g = b[i]!
        const bl = c[i]!
        a[i] = 0.2126 * r + 0.7152 * g + 0.0722 * bl
        b[i] = -0.1146 * r - 0.3854 * g + 0.5 * bl
        c[i] = 0.5 * r - 0.4542 * g - 0.0458 * bl
      }
    }
    values.forEach((value, c) => {
      cosine(value)
      const tolerances = c === 0 ? BRIGHT : COLOUR
      const codes = ZIGZAG.map(at => rounded(value[at]!, tolerances[at]!))
      means[c]!.push(codes[0]!)
      for (let k = 1; k < 64;) {
        if (codes[k]) {
          high.push(codes[k]!)
          k++
          continue
        }
        let run = 1
        while (k + run < 64 && !codes[k + run]) run++
        high.push(k + run === 64 ? 0xff00 : run === 1 ? 0 : 0xff00 | run)
        k += run
      }
    })
  }
  low.push(...means.flat())
}

/** huffman: how details are packed (DWAA), else by deflate (DWAB). */
export function dwaEncode(
  raw: Uint8Array,
  channels: readonly BlockChannel[],
  rows: number,
  huffman: boolean,
): Uint8Array {
  const planes = rowsToPlanes(raw, channels, rows)
  const placed = placedChannels(channels, OLD_RULES)
  const triples = triplesOf(placed)
  const together = new Set(triples.flat())
  const high: number[] = []
  const low: number[] = []
  const plain: Uint8Array[] = []
  const runs: Uint8Array[] = []
  for (const triple of triples) cosineChannels(triple, planes, high, low)
  for (const channel of placed) {
    if (together.has(channel)) continue
    const bytes = planes.subarray(channel.start, channel.start + BYTES[channel.type] * channel.across * channel.down)
    if (channel.rule?.scheme === 'cosine') cosineChannels([channel], planes, high, low)
    else if (channel.rule?.scheme === 'runs') {
      const width = BYTES[channel.type]
      const count = bytes.length / width
      const out = new Uint8Array(bytes.length)
      for (let k = 0; k < width; k++) for (let i = 0; i < count; i++) out[k * count + i] = bytes[i * width + k]!
      runs.push(out)
    } else plain.push(bytes)
  }
  const words = (list: number[]): Uint8Array => new Uint8Array(Uint16Array.from(list).buffer)
  const deflated = (bytes: Uint8Array): Uint8Array => (bytes.length ? zlib().deflate(bytes) : bytes)
  const plainBytes = joined(plain)
  const runsRaw = joined(runs)
  const runsCoded = runsRaw.length ? runLengthEncode(runsRaw) : runsRaw
  const parts = [
    deflated(plainBytes),
    !high.length ? new Uint8Array(0) : huffman ? huffmanEncode(Uint16Array.from(high)) : zlib().deflate(words(high)),
    low.length ? zlib().deflate(preparedBytes(words(low))) : new Uint8Array(0),
    deflated(runsCoded),
  ] as const
  const used = OLD_RULES.filter(rule => placed.some(channel => channel.rule === rule))
  const rules = joined(
    used.flatMap(rule => [
      text(rule.suffix),
      Uint8Array.of(
        ((rule.colour + 1) << 4) | (SCHEMES.indexOf(rule.scheme) << 2) | (rule.anyCase ? 1 : 0),
        TYPES.indexOf(rule.type),
      ),
    ]),
  )
  const head = new Uint8Array(SIZES * 8 + 2)
  const view = new DataView(head.buffer)
  ;[
    2,
    plainBytes.length,
    parts[0].length,
    parts[1].length,
    parts[2].length,
    parts[3].length,
    runsCoded.length,
    runsRaw.length,
    high.length,
    low.length,
    huffman ? 0 : 1,
  ].forEach((value, i) => view.setBigUint64(i * 8, BigInt(value), true))
  view.setUint16(SIZES * 8, rules.length + 2, true)
  return joined([head, rules, ...parts])
}
