// The chunks of a PNG (PNG specification, third edition, 5.3).
import { joined } from '../bytes'

export interface Chunk {
  kind: string
  /** From its length to behind its checksum; the last may reach beyond the file's end. */
  from: number
  to: number
}

/** In their order, to the one that says it is the last. */
export function* chunksOf(bytes: Uint8Array): Generator<Chunk> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 8; at + 12 <= bytes.length;) {
    const kind = String.fromCharCode(...bytes.subarray(at + 4, at + 8))
    const to = at + 12 + view.getUint32(at)
    yield { kind, from: at, to }
    if (kind === 'IEND') return
    at = to
  }
}

/** What the chunks of picture data hold together. */
export const pictureData = (bytes: Uint8Array, chunks: readonly Chunk[]): Uint8Array =>
  joined(chunks.filter(({ kind }) => kind === 'IDAT').map(({ from, to }) => bytes.subarray(from + 8, to - 4)))
