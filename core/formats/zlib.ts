// Deflate for file formats. fflate everywhere by default; the server and the command line put Node's own, three to four times
// faster, in its place.
import { unzlibSync, zlibSync } from 'fflate'

export interface Zlib {
  /** Inflates zlib data whose size is known; throws when it is damaged or larger. */
  inflate(data: Uint8Array, size: number): Uint8Array
  deflate(data: Uint8Array): Uint8Array
}

let current: Zlib = {
  inflate: (data, size) => unzlibSync(data, { out: new Uint8Array(size) }),
  deflate: data => zlibSync(data, { level: 4 }),
}
export const zlib = (): Zlib => current
export function useZlib(replacement: Zlib): void { current = replacement }
