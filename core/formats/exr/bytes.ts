// What RLE, ZIP and DWA blocks share: run lengths, and the reordering (even bytes, then odd) with differences of
// neighbours undone.

/** Undoes the difference of neighbours and the reordering. The result may be overwritten by the next. */
export function restoredBytes(bytes: Uint8Array, size: number): Uint8Array {
  if (bytes.length !== size) throw new Error(`it holds ${bytes.length} bytes of ${size}.`)
  return restorer(bytes)
}

let restorer = restoredByScript
/** Puts a faster way in place of the script: kernels, where there are some. */
export function useRestorer(replacement: (bytes: Uint8Array) => Uint8Array): void {
  restorer = replacement
}

function restoredByScript(bytes: Uint8Array): Uint8Array {
  const size = bytes.length
  const out = new Uint8Array(size)
  const half = (size + 1) >> 1
  let value = 128
  for (let i = 0, to = 0; i < half; i++, to += 2) {
    value = (value + bytes[i]! - 128) & 255
    out[to] = value
  }
  for (let i = half, to = 1; i < size; i++, to += 2) {
    value = (value + bytes[i]! - 128) & 255
    out[to] = value
  }
  return out
}

export function runLengthDecode(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size)
  let to = 0
  for (let at = 0; at < packed.length;) {
    const count = (packed[at++]! << 24) >> 24
    if (count < 0) {
      if (at - count > packed.length || to - count > size) throw new Error('a run reaches past its end.')
      out.set(packed.subarray(at, at - count), to)
      at -= count
      to -= count
    } else {
      if (to + count + 1 > size || at >= packed.length) throw new Error('a run reaches past its end.')
      out.fill(packed[at++]!, to, to + count + 1)
      to += count + 1
    }
  }
  if (to !== size) throw new Error(`it holds ${to} bytes of ${size}.`)
  return out
}

/** The reordering and the differences. */
export function preparedBytes(raw: Uint8Array): Uint8Array {
  const size = raw.length
  const out = new Uint8Array(size)
  const half = (size + 1) >> 1
  for (let i = 0, even = 0, odd = half; i < size;) {
    out[even++] = raw[i++]!
    if (i < size) out[odd++] = raw[i++]!
  }
  let before = out[0]!
  for (let i = 1; i < size; i++) {
    const value = out[i]!
    out[i] = (value - before + 384) & 255
    before = value
  }
  return out
}

export function runLengthEncode(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(Math.ceil(bytes.length * 1.5) + 2)
  let to = 0
  let start = 0
  while (start < bytes.length) {
    let end = start + 1
    while (end < bytes.length && bytes[end] === bytes[start] && end - start < 128) end++
    if (end - start >= 3) {
      out[to++] = end - start - 1
      out[to++] = bytes[start]!
      start = end
      continue
    }
    // Literal until the next three alike, at most 127
    end = start
    while (end < bytes.length && end - start < 127 && !(bytes[end] === bytes[end + 1] && bytes[end] === bytes[end + 2]))
      end++
    if (end === start) end++
    out[to++] = (start - end) & 255
    out.set(bytes.subarray(start, end), to)
    to += end - start
    start = end
  }
  return out.subarray(0, to)
}
