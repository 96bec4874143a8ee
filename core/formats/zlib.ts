// Deflate for file formats. fflate everywhere by default; the server and the command line put Node's own, three to four
// times faster, in its place.
import { unzlibSync, zlibSync } from 'fflate'

export interface Zlib {
  /** Inflates zlib data whose size is known; throws when it is damaged or larger. */
  inflate(data: Uint8Array, size: number): Uint8Array
  deflate(data: Uint8Array): Uint8Array
}

const script: Zlib = {
  inflate: (data, size) => unzlibSync(data, { out: new Uint8Array(size) }),
  deflate: data => zlibSync(data, { level: 4 }),
}
let current = script
/**
 * Inflates with what the platform has (in a browser: compiled code, where fflate is script), as a promise. Same bounds
 * as Zlib.inflate.
 */
export async function inflateLater(data: Uint8Array, size: number): Promise<Uint8Array> {
  if (current !== script || typeof DecompressionStream === 'undefined') return current.inflate(data, size)
  const stream = new DecompressionStream('deflate')
  const writer = stream.writable.getWriter()
  const reader = stream.readable.getReader()
  // What goes wrong shows at the reader; the writer's promises would only say it again
  writer.write(data as BufferSource).catch(() => {})
  writer.close().catch(() => {})
  const out = new Uint8Array(size)
  let at = 0
  for (;;) {
    const { done, value } = await reader.read()
    if (done) return at === size ? out : out.subarray(0, at)
    if (at + value.length > size) {
      await reader.cancel()
      throw new Error('it is longer than its pixels.')
    }
    out.set(value, at)
    at += value.length
  }
}

export const zlib = (): Zlib => current
export function useZlib(replacement: Zlib): void {
  current = replacement
}
