// Cryptomatte 1.2 (open specification): ID and coverage pairs in ranked layers, names in a manifest.
import type { Coverage } from '../../render/planes'
import { BadInput } from '../errors'
import { attributeValue, stringAttribute, type ExrAttribute, type ExrChannel, type ExrImage } from '../exr/exr'
import { channelFloats } from '../picture/picture'
import { floatToHash, hashText, hashToFloat, nameHash } from '../../engine/murmur'

const LETTERS = ['R', 'G', 'B', 'A'] as const

/** The manifest of names, as it stands in the file or beside it. */
export function manifestOf(names: readonly string[]): string {
  return JSON.stringify(Object.fromEntries(names.map(entry => [entry, hashText(nameHash(entry))])))
}

/**
 * Channels and metadata of one layer set, `name` as in cryptoObject00.R. names[i] belongs to coverage index i + 1.
 * sidecar: file beside that holds the manifest.
 */
export function encodeCryptomatte(
  name: string,
  coverage: Coverage,
  pixels: number,
  names: string[],
  sidecar?: string,
): { channels: ExrChannel[]; attributes: ExrAttribute[] } {
  const floats = names.map(entry => hashToFloat(nameHash(entry)))
  const channels: ExrChannel[] = []
  for (let layer = 0; layer * 2 < coverage.ranks; layer++) {
    for (let letter = 0; letter < 4; letter++) {
      const rank = layer * 2 + (letter >> 1)
      const data = new Float32Array(pixels)
      if (rank < coverage.ranks) {
        for (let i = 0; i < pixels; i++) {
          const at = i * coverage.ranks + rank
          const index = coverage.index[at]!
          data[i] = index ? (letter & 1 ? coverage.weight[at]! : floats[index - 1]!) : 0
        }
      }
      channels.push({
        name: `${name}${String(layer).padStart(2, '0')}.${LETTERS[letter]}`,
        type: 'float',
        linear: true,
        data,
      })
    }
  }
  const key = hashText(nameHash(name)).slice(0, 7)
  const prefix = `cryptomatte/${key}/`
  return {
    channels,
    attributes: [
      stringAttribute(`${prefix}name`, name),
      stringAttribute(`${prefix}hash`, 'MurmurHash3_32'),
      stringAttribute(`${prefix}conversion`, 'uint32_to_float32'),
      sidecar
        ? stringAttribute(`${prefix}manif_file`, sidecar)
        : stringAttribute(`${prefix}manifest`, manifestOf(names)),
    ],
  }
}

export interface CryptomatteSet {
  /** Key of its metadata. */
  id: string
  name: string
  manifest: Record<string, string>
  /** The file in which its names stand, where they are not known from this one. */
  beside?: string
}

/** Text of a file that stands beside, by its name; undefined when it is not there. */
export type Beside = (file: string) => string | undefined

/**
 * The sets that a file's metadata tells of; a manifest that is kept beside comes from `beside`, without it its names
 * are not known.
 */
export function cryptomatteSets(attributes: ExrAttribute[], beside: Beside = () => undefined): CryptomatteSet[] {
  const sets: CryptomatteSet[] = []
  for (const attribute of attributes) {
    const key = /^cryptomatte\/([^/]+)\/name$/.exec(attribute.name)?.[1]
    if (!key) continue
    const manifest = attributes.find(other => other.name === `cryptomatte/${key}/manifest`)
    let names: Record<string, string> = {}
    const apart = attributes.find(other => other.name === `cryptomatte/${key}/manif_file`)
    const text = manifest ? String(attributeValue(manifest)) : apart && beside(String(attributeValue(apart)))
    if (text) {
      try {
        names = JSON.parse(text)
      } catch {
        throw new BadInput(`The manifest of the Cryptomatte “${attributeValue(attribute)}” is not JSON.`)
      }
    }
    sets.push({
      ...{ id: key, name: String(attributeValue(attribute)), manifest: names },
      ...(apart && !text ? { beside: String(attributeValue(apart)) } : {}),
    })
  }
  return sets
}

/** The ranked pairs of a set as coverage over `names`; IDs that no name has are numbered after them. */
export function decodeCryptomatte(
  image: Pick<ExrImage, 'channels'>,
  set: CryptomatteSet,
): { coverage: Coverage; names: string[] } {
  const layers = rankedLayers(image, set)
  const names = Object.keys(set.manifest)
  const index = new Map<number, number>(names.map((name, i) => [floatToHash(hashToFloat(nameHash(name))), i + 1]))
  const pixels = layers[0]!.id.length
  const coverage: Coverage = {
    ranks: layers.length,
    index: new Uint16Array(pixels * layers.length),
    weight: new Float32Array(pixels * layers.length),
  }
  layers.forEach(({ id, weight }, rank) => {
    for (let i = 0; i < pixels; i++) {
      if (!(weight[i]! > 0)) continue
      const hash = floatToHash(id[i]!)
      let number = index.get(hash)
      if (number === undefined) {
        number = names.push(hashText(hash))
        index.set(hash, number)
      }
      coverage.index[i * layers.length + rank] = number
      coverage.weight[i * layers.length + rank] = weight[i]!
    }
  })
  return { coverage, names }
}

function rankedLayers(
  image: Pick<ExrImage, 'channels'>,
  set: CryptomatteSet,
): { id: Float32Array; weight: Float32Array }[] {
  const out: { id: Float32Array; weight: Float32Array }[] = []
  const plane = (name: string): Float32Array | undefined => {
    const channel = image.channels.find(channel => channel.name.toLowerCase() === name.toLowerCase())
    return channel && channelFloats(channel)
  }
  for (let layer = 0; layer < 32; layer++) {
    const base = `${set.name}${String(layer).padStart(2, '0')}.`
    for (const [id, weight] of [
      ['R', 'G'],
      ['B', 'A'],
    ] as const) {
      const a = plane(base + id) ?? plane(base + (id === 'R' ? 'red' : 'blue'))
      const b = plane(base + weight) ?? plane(base + (weight === 'G' ? 'green' : 'alpha'))
      if (!a || !b) {
        if (!out.length) throw new BadInput(`The file names a Cryptomatte “${set.name}” but has no layer ${base}R.`)
        return out
      }
      out.push({ id: a, weight: b })
    }
  }
  return out
}

/**
 * Coverage of the named things together, 0..1; among: which of the file's sets are looked at. Throws BadInput when a
 * name is not in them.
 */
export function matteOf(
  image: ExrImage,
  wanted: string[],
  among: (set: string) => boolean = () => true,
  beside?: Beside,
): { matte: Float32Array; set: string } {
  const sets = cryptomatteSets(image.attributes, beside).filter(set => among(set.name))
  if (!sets.length) throw new BadInput('This file holds no such Cryptomatte.')
  const set = sets.find(candidate => wanted.every(name => name in candidate.manifest))
  if (!set) {
    const known = sets.flatMap(candidate => Object.keys(candidate.manifest))
    const missing = wanted.find(name => !known.includes(name))
    throw new BadInput(
      missing
        ? `There is no “${missing}” in this file. It has ${known.slice(0, 30).join(', ')}.`
        : 'These names are of different kinds: choose objects or materials, not both.',
    )
  }
  const hashes = new Set(wanted.map(name => floatToHash(hashToFloat(nameHash(name)))))
  const layers = rankedLayers(image, set)
  const matte = new Float32Array(layers[0]!.id.length)
  for (const { id, weight } of layers)
    for (let i = 0; i < matte.length; i++)
      if (weight[i]! > 0 && hashes.has(floatToHash(id[i]!))) matte[i] = Math.min(1, matte[i]! + weight[i]!)
  return { matte, set: set.name }
}
