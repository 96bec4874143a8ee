// The kernels' share in unpacking files.
import type { Kernels } from './memory'

/** Undoes OpenEXR's difference and reordering of bytes. The result is a view that the next call overwrites. */
export function byteRestorer(kernels: Kernels): (bytes: Uint8Array) => Uint8Array {
  let source = 0
  let out = 0
  let room = 0
  return bytes => {
    const size = bytes.length
    if (size > room) {
      kernels.dispose(source)
      kernels.dispose(out)
      // The kernel works in steps of 32 bytes and may run past the end by one
      source = out = 0
      source = kernels.allocate(size + 64)
      out = kernels.allocate(size + 64)
      room = size
    }
    kernels.bytes(source, size).set(bytes)
    kernels.exports.restoreBytes(source, out, size)
    return kernels.bytes(out, size)
  }
}
