// The Huffman coding of 16-bit numbers that PIZ and DWA blocks use: canonical codes, longer ones numerically smaller,
// and one code more than there are symbols that says how often the last is repeated. Source: the OpenEXR library's
// description of its format in ImfHuf (public file format; read from memory).
import { BitReader, BitWriter } from './bits'

const SYMBOLS = 65537
const LONGEST = 58
/** Lengths from here on say runs of unused symbols: 2..5 of them, and 6 and more with 8 bits for the rest. */
const SHORT_RUN = 59
const LONG_RUN = 63
const SHORTEST_LONG_RUN = 2 + LONG_RUN - SHORT_RUN
const FAST_BITS = 14

const view = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/** First code of each length, from the number of codes of each: the longest begin at 0. */
function firstCodes(counts: Int32Array): Float64Array {
  const first = new Float64Array(LONGEST + 2)
  let code = 0
  for (let length = LONGEST; length > 0; length--) {
    first[length] = code
    code = Math.floor((code + counts[length]!) / 2)
  }
  return first
}

/** Exactly `count` numbers. Throws Error with what is wrong. */
export function huffmanDecode(packed: Uint8Array, count: number): Uint16Array {
  const out = new Uint16Array(count)
  if (!count) return out
  if (packed.length < 20) throw new Error('its code table is not whole.')
  const head = view(packed)
  const low = head.getUint32(0, true)
  const high = head.getUint32(4, true)
  const bits = head.getUint32(12, true)
  if (low >= SYMBOLS || high >= SYMBOLS || low > high) throw new Error('its code table has symbols that do not exist.')
  const lengths = new Uint8Array(SYMBOLS)
  const table = new BitReader(packed, 20, Infinity)
  const counts = new Int32Array(LONGEST + 1)
  for (let symbol = low; symbol <= high;) {
    const length = table.take(6)
    if (length < SHORT_RUN) {
      lengths[symbol++] = length
      if (length) counts[length]!++
      continue
    }
    symbol += length === LONG_RUN ? table.take(8) + SHORTEST_LONG_RUN : length - SHORT_RUN + 2
    if (symbol > high + 1) throw new Error('its code table runs past its end.')
  }
  const first = firstCodes(counts)
  const starts = new Int32Array(LONGEST + 2)
  const next = new Int32Array(LONGEST + 2)
  let total = 0
  for (let length = 1; length <= LONGEST; length++) {
    starts[length] = next[length] = total
    total += counts[length]!
  }
  const symbols = new Int32Array(total)
  for (let symbol = low; symbol <= high; symbol++) if (lengths[symbol]) symbols[next[lengths[symbol]!]!++] = symbol
  // All codes of up to FAST_BITS bits by what the next bits are
  const fast = new Int32Array(1 << FAST_BITS)
  for (let length = 1; length <= FAST_BITS; length++) {
    for (let i = 0; i < counts[length]!; i++) {
      const code = (first[length]! + i) * 2 ** (FAST_BITS - length)
      if (code + (1 << (FAST_BITS - length)) > fast.length)
        throw new Error('its code table holds more codes than there can be.')
      fast.fill((symbols[starts[length]! + i]! << 6) | length, code, code + (1 << (FAST_BITS - length)))
    }
  }
  const reader = new BitReader(packed, table.byte, bits)
  let to = 0
  while (to < count) {
    if (reader.left <= 0) throw new Error(`it holds ${to} numbers of ${count}.`)
    const found = fast[reader.peek(FAST_BITS)]!
    let symbol: number
    if (found) {
      reader.skip(found & 63)
      symbol = found >> 6
    } else symbol = longSymbol(reader, first, counts, starts, symbols)
    if (symbol !== high) {
      out[to++] = symbol
      continue
    }
    const run = reader.take(8)
    if (!to || to + run > count) throw new Error('a run reaches past its end.')
    out.fill(out[to - 1]!, to, to + run)
    to += run
  }
  return out
}

function longSymbol(
  reader: BitReader,
  first: Float64Array,
  counts: Int32Array,
  starts: Int32Array,
  symbols: Int32Array,
): number {
  let code = 0
  for (let length = 1; length <= LONGEST; length++) {
    code = code * 2 + reader.take(1)
    const place = code - first[length]!
    if (place >= 0 && place < counts[length]!) return symbols[starts[length]! + place]!
  }
  throw new Error('it has a code that does not exist.')
}

/** Code lengths by frequency: the tree of least weight (D. A. Huffman 1952), with a heap. */
function codeLengths(frequencies: Float64Array, low: number, high: number): Uint8Array {
  const used: number[] = []
  for (let symbol = low; symbol <= high; symbol++) if (frequencies[symbol]! > 0) used.push(symbol)
  const lengths = new Uint8Array(SYMBOLS)
  const weights: number[] = used.map(symbol => frequencies[symbol]!)
  const parent: number[] = []
  const heap: number[] = []
  const less = (a: number, b: number): boolean => weights[a]! < weights[b]! || (weights[a] === weights[b] && a < b)
  const push = (node: number): void => {
    let i = heap.push(node) - 1
    while (i > 0) {
      const up = (i - 1) >> 1
      if (!less(heap[i]!, heap[up]!)) break
      ;[heap[i], heap[up]] = [heap[up]!, heap[i]!]
      i = up
    }
  }
  const pop = (): number => {
    const top = heap[0]!
    const last = heap.pop()!
    if (heap.length) {
      heap[0] = last
      for (let i = 0; ;) {
        let child = i * 2 + 1
        if (child >= heap.length) break
        if (child + 1 < heap.length && less(heap[child + 1]!, heap[child]!)) child++
        if (!less(heap[child]!, heap[i]!)) break
        ;[heap[i], heap[child]] = [heap[child]!, heap[i]!]
        i = child
      }
    }
    return top
  }
  used.forEach((_, i) => push(i))
  while (heap.length > 1) {
    const a = pop()
    const b = pop()
    const node = weights.push(weights[a]! + weights[b]!) - 1
    parent[a] = node
    parent[b] = node
    push(node)
  }
  const depth = new Uint8Array(weights.length)
  for (let node = weights.length - 2; node >= 0; node--) depth[node] = depth[parent[node]!]! + 1
  used.forEach((symbol, i) => {
    lengths[symbol] = used.length === 1 ? 1 : depth[i]!
  })
  return lengths
}

export function huffmanEncode(values: Uint16Array): Uint8Array {
  const frequencies = new Float64Array(SYMBOLS)
  for (let i = 0; i < values.length; i++) frequencies[values[i]!]!++
  let low = 0
  let high = SYMBOLS - 2
  while (low < high && !frequencies[low]) low++
  while (high > low && !frequencies[high]) high--
  // The code that says runs comes after the last symbol
  high++
  frequencies[high] = 1
  const lengths = codeLengths(frequencies, low, high)
  const counts = new Int32Array(LONGEST + 1)
  for (let symbol = low; symbol <= high; symbol++) if (lengths[symbol]) counts[lengths[symbol]!]!++
  const next = firstCodes(counts)
  const codes = new Float64Array(SYMBOLS)
  for (let symbol = low; symbol <= high; symbol++) if (lengths[symbol]) codes[symbol] = next[lengths[symbol]!]!++
  const table = new BitWriter(1024)
  for (let symbol = low; symbol <= high; symbol++) {
    if (lengths[symbol]) {
      table.put(lengths[symbol]!, 6)
      continue
    }
    let run = 1
    while (symbol + run <= high && !lengths[symbol + run] && run < 255 + SHORTEST_LONG_RUN) run++
    if (run >= SHORTEST_LONG_RUN) {
      table.put(LONG_RUN, 6)
      table.put(run - SHORTEST_LONG_RUN, 8)
    } else if (run >= 2) table.put(SHORT_RUN + run - 2, 6)
    else table.put(0, 6)
    symbol += run - 1
  }
  const tableBytes = table.done()
  const body = new BitWriter(values.length)
  const runLength = lengths[high]!
  const runCode = codes[high]!
  for (let i = 0; i < values.length;) {
    const symbol = values[i]!
    const length = lengths[symbol]!
    let more = 0
    while (i + more + 1 < values.length && values[i + more + 1] === symbol && more < 255) more++
    if (length + runLength + 8 < length * more) {
      body.putCode(codes[symbol]!, length)
      body.putCode(runCode, runLength)
      body.put(more, 8)
    } else for (let k = 0; k <= more; k++) body.putCode(codes[symbol]!, length)
    i += more + 1
  }
  const bits = body.bits
  const bodyBytes = body.done()
  const out = new Uint8Array(20 + tableBytes.length + bodyBytes.length)
  const head = view(out)
  head.setUint32(0, low, true)
  head.setUint32(4, high, true)
  head.setUint32(8, tableBytes.length, true)
  head.setUint32(12, bits, true)
  out.set(tableBytes, 20)
  out.set(bodyBytes, 20 + tableBytes.length)
  return out
}
