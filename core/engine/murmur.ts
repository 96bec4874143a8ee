// MurmurHash3 x86 32 (A. Appleby, public domain), as the Cryptomatte specification 1.2 asks for.

export function murmur3(bytes: Uint8Array, seed = 0): number {
  let h = seed
  const blocks = bytes.length >> 2
  const mix = (k: number): number => {
    k = Math.imul(k, 0xcc9e2d51)
    k = (k << 15) | (k >>> 17)
    return Math.imul(k, 0x1b873593)
  }
  for (let i = 0; i < blocks; i++) {
    h ^= mix(bytes[i * 4]! | (bytes[i * 4 + 1]! << 8) | (bytes[i * 4 + 2]! << 16) | (bytes[i * 4 + 3]! << 24))
    h = (h << 13) | (h >>> 19)
    h = (Math.imul(h, 5) + 0xe6546b64) | 0
  }
  let k = 0
  for (let i = bytes.length - 1; i >= blocks * 4; i--) k = (k << 8) | bytes[i]!
  if (bytes.length & 3) h ^= mix(k)
  h ^= bytes.length
  h ^= h >>> 16
  h = Math.imul(h, 0x85ebca6b)
  h ^= h >>> 13
  h = Math.imul(h, 0xc2b2ae35)
  return (h ^ (h >>> 16)) >>> 0
}

/**
 * Hash of a name, with the exponent kept away from 0 and 255 so that it is a normal float (specification, "Hash to
 * float").
 */
export function nameHash(name: string): number {
  let hash = murmur3(new TextEncoder().encode(name))
  const exponent = (hash >>> 23) & 255
  if (exponent === 0 || exponent === 255) hash = (hash ^ (1 << 23)) >>> 0
  return hash
}
const word = new Uint32Array(1)
const asFloat = new Float32Array(word.buffer)
export function hashToFloat(hash: number): number {
  word[0] = hash
  return asFloat[0]!
}
export function floatToHash(value: number): number {
  asFloat[0] = value
  return word[0]!
}
export const hashText = (hash: number): string => hash.toString(16).padStart(8, '0')
