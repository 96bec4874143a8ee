// Names of a Cryptomatte that stand in a file beside (“manif_file” of the specification, version 1.2), put into the
// OpenEXR itself: from then on it needs nothing beside it. Pixels and all else stay byte for byte.
import { BadInput } from '../errors'
import { joined } from '../bytes'
import { ints, text, utf8 } from '../exr/attributes'
import { readExrHeaders } from '../exr/exr'
import { cryptomatteSets, type CryptomatteSet } from './cryptomatte'

/** A file of names. */
export interface NamesFile {
  name: string
  text: string
}
/** Sets of an OpenEXR whose names stand beside it. Throws BadInput. */
export const namesApart = (bytes: Uint8Array): NamesApart[] =>
  readExrHeaders(bytes)
    .parts.flatMap(({ attributes }) => cryptomatteSets(attributes))
    .filter((set): set is NamesApart => set.beside !== undefined)
type NamesApart = CryptomatteSet & { beside: string }

const lastOf = (path: string): string => path.replace(/^.*[\\/]/, '').toLowerCase()
/** The file of names of a set: the one that it asks for, or the only one that there is where it asks alone. */
const fileOf = ({ beside }: NamesApart, files: readonly NamesFile[], alone: boolean): NamesFile | undefined =>
  files.find(({ name }) => lastOf(name) === lastOf(beside)) ?? (alone && files.length === 1 ? files[0] : undefined)

/**
 * The OpenEXR with the names of those files in it; the same where none belongs to it. Throws BadInput where one is no list
 * of names.
 */
export function withNames(bytes: Uint8Array, files: readonly NamesFile[]): Uint8Array {
  const apart = namesApart(bytes)
  return apart.reduce((whole, set) => {
    const found = fileOf(set, files, apart.length === 1)
    return found ? inserted(whole, set.id, checked(found)) : whole
  }, bytes)
}

/** Names to IDs of 32 bits in base 16. */
function checked({ name, text: said }: NamesFile): string {
  let manifest: unknown
  try {
    manifest = JSON.parse(said)
  } catch {
    throw new BadInput(`“${name}” is not JSON: it holds no names of a Cryptomatte.`)
  }
  const isList = typeof manifest === 'object' && manifest !== null && !Array.isArray(manifest)
  if (!isList || !Object.values(manifest as object).every(id => typeof id === 'string' && /^[0-9a-f]{1,8}$/i.test(id)))
    throw new BadInput(`“${name}” is no list of names of a Cryptomatte: each name has an ID of eight signs of base 16.`)
  return said
}

/** With one attribute more beside the set's other metadata; the tables of offsets count it. */
function inserted(bytes: Uint8Array, id: string, manifest: string): Uint8Array {
  const { parts } = readExrHeaders(bytes)
  const value = utf8(manifest)
  const attribute = joined([text(`cryptomatte/${id}/manifest`), text('string'), ints(value.length), value])
  const at = indexOf(bytes.subarray(0, parts[0]!.table), joined([text(`cryptomatte/${id}/manif_file`), text('string')]))
  const out = joined([bytes.subarray(0, at), attribute, bytes.subarray(at)])
  const view = new DataView(out.buffer, out.byteOffset, out.byteLength)
  for (const { table, chunks } of parts)
    for (let i = 0; i < chunks; i++) {
      const place = table + attribute.length + i * 8
      const offset = view.getBigUint64(place, true)
      // A chunk that was never written has none
      if (offset) view.setBigUint64(place, offset + BigInt(attribute.length), true)
    }
  return out
}
function indexOf(bytes: Uint8Array, wanted: Uint8Array): number {
  for (let at = bytes.indexOf(wanted[0]!); at >= 0; at = bytes.indexOf(wanted[0]!, at + 1))
    if (wanted.every((byte, i) => bytes[at + i] === byte)) return at
  throw new BadInput('The header of this OpenEXR file does not hold what it was read from.')
}
