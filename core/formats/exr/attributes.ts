// Attributes of OpenEXR headers, and bytes put together.
import { joined } from '../bytes'

/** An attribute as it stands in the file: kept byte for byte when a file is written again. */
export interface ExrAttribute {
  name: string
  type: string
  value: Uint8Array
}

export const utf8 = (value: string): Uint8Array => new TextEncoder().encode(value)
export const text = (value: string): Uint8Array => joined([utf8(value), Uint8Array.of(0)])
export const ints = (...values: number[]): Uint8Array => new Uint8Array(Int32Array.from(values).buffer)

export const stringAttribute = (name: string, value: string): ExrAttribute => ({
  name,
  type: 'string',
  value: utf8(value),
})
export const floatAttribute = (name: string, value: number): ExrAttribute => ({
  name,
  type: 'float',
  value: new Uint8Array(Float32Array.of(value).buffer),
})

/** The value of an attribute as JavaScript sees it; bytes in base 16 for types that are not understood. */
export function attributeValue(attribute: ExrAttribute): unknown {
  const { value, type } = attribute
  const view = new DataView(value.buffer, value.byteOffset, value.byteLength)
  const many = (count: number, read: (at: number) => number): number[] =>
    Array.from({ length: count }, (_, i) => read(i * 4))
  try {
    switch (type) {
      case 'string':
        return new TextDecoder().decode(value)
      case 'int':
        return view.getInt32(0, true)
      case 'float':
        return view.getFloat32(0, true)
      case 'double':
        return view.getFloat64(0, true)
      case 'v2f':
        return many(2, at => view.getFloat32(at, true))
      case 'v3f':
        return many(3, at => view.getFloat32(at, true))
      case 'v2i':
        return many(2, at => view.getInt32(at, true))
      case 'box2i':
        return many(4, at => view.getInt32(at, true))
      case 'm44f':
        return many(16, at => view.getFloat32(at, true))
      case 'chromaticities':
        return many(8, at => view.getFloat32(at, true))
      case 'rational':
        return [view.getInt32(0, true), view.getUint32(4, true)]
      case 'timecode':
        return many(2, at => view.getUint32(at, true))
    }
  } catch {
    /* too short for its type: shown as bytes */
  }
  return Array.from(value, byte => byte.toString(16).padStart(2, '0')).join('')
}
