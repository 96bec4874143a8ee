// Before each file of tests: numbers that are the same to the bit are found equal at once. What differs is left to the
// comparison that says where.
import { expect } from 'vitest'

const bytesOf = ({ buffer, byteOffset, byteLength }: ArrayBufferView): Buffer =>
  Buffer.from(buffer, byteOffset, byteLength)

expect.addEqualityTesters([
  (a: unknown, b: unknown): boolean | undefined => {
    if (ArrayBuffer.isView(a) && ArrayBuffer.isView(b) && a.constructor === b.constructor)
      return bytesOf(a).equals(bytesOf(b)) || undefined
    if (Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.length > 100)
      return a.every((value, i) => typeof value === 'number' && Object.is(value, b[i])) || undefined
    return undefined
  },
])
