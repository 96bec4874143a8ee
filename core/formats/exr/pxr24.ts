// PXR24: differences of neighbours, bytes of equal weight together, deflate; floats lose their lowest 8 bits.
// Source: the OpenEXR library's description of its format in ImfPxr24Compressor (public file format; read from memory).
import { zlib } from '../zlib'
import { BYTES, type BlockChannel } from './planes'

const KEPT = { uint: 4, half: 2, float: 3 } as const

export function pxr24Decode(
  packed: Uint8Array,
  channels: readonly BlockChannel[],
  rows: number,
  size: number,
): Uint8Array {
  let room = 0
  for (const { type, across, down } of channels) room += KEPT[type] * across * down
  const bytes = zlib().inflate(packed, room)
  const out = new Uint8Array(size)
  const view = new DataView(out.buffer)
  if (bytes.length !== room) throw new Error(`it holds ${bytes.length} bytes of ${room}.`)
  let from = 0
  let to = 0
  for (let line = 0; line < rows; line++) {
    for (const channel of channels) {
      if (!channel.has(line)) continue
      const { across, type } = channel
      const kept = KEPT[type]
      let value = 0
      for (let x = 0; x < across; x++) {
        let difference = 0
        for (let k = 0; k < kept; k++) difference = (difference << 8) | bytes[from + k * across + x]!
        value = (value + (type === 'float' ? difference << 8 : difference)) | 0
        if (type === 'half') view.setUint16(to, value & 0xffff, true)
        else view.setUint32(to, value >>> 0, true)
        to += BYTES[type]
      }
      from += kept * across
    }
  }
  return out
}
