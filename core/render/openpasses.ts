// Passes of a file, read back for building: its headers first, each part when one of its planes is asked for.
import { cryptomatteSets, decodeCryptomatte } from '../formats/cryptomatte/cryptomatte'
import type { Box } from '../engine/box'
import { BadInput } from '../formats/errors'
import {
  attributeValue,
  boxHeight,
  boxWidth,
  openExr,
  type ExrAttribute,
  type ExrChannel,
  type OpenedExr,
} from '../formats/exr/exr'
import { HALF_VALUES } from '../formats/exr/half'
import { channelFloats } from '../formats/picture/picture'
import { BY_LIGHT, CLEAN, coveragePass, PASS_IDS, PASSES, type NamesOf, type Seen } from './passes'
import type { Coverage } from './planes'

/** Passes of a file. Missing ones are absent. */
export interface PassFile {
  width: number
  height: number
  passes: string[]
  /** Planes by channel name, floats. */
  planes: Planes
  readonly objectNames: string[]
  readonly materialNames: string[]
  readonly assetNames: string[]
  /** Whether the file itself lists these names; else they are known as far as its coverage was unpacked. */
  readonly listed: Readonly<Record<NamesOf, boolean>>
  /** Cryptomatte, by the pass. */
  coverage: CoverageByPass
  /** Groups of light that have a beauty of their own. */
  lights: string[]
}

/** Thrown by what asks for a plane that still lies packed: unpack, then ask again. */
export class StillPacked extends Error {
  constructor(readonly unpack: () => Promise<void>) {
    super('This part of the pass file was not unpacked yet.')
  }
}

/** Asks until nothing that it needs is packed any more. */
export async function unpacking<T>(ask: () => T): Promise<T> {
  for (;;) {
    try {
      return ask()
    } catch (error) {
      if (!(error instanceof StillPacked)) throw error
      await error.unpack()
    }
  }
}

class Channels {
  private known = new Map<string, ExrChannel>()
  private packed = new Map<string, () => Promise<void>>()
  readonly names: readonly string[]

  constructor(parts: OpenedExr['parts']) {
    this.names = parts.flatMap(part => part.channels)
    for (const { channels, read } of parts) {
      const unpack = async (): Promise<void> => {
        for (const channel of await read()) {
          this.packed.delete(channel.name)
          this.known.set(channel.name, channel)
        }
      }
      for (const name of channels) this.packed.set(name, unpack)
    }
  }

  /** Throws StillPacked. */
  get(name: string): ExrChannel | undefined {
    const unpack = this.packed.get(name)
    if (unpack) throw new StillPacked(unpack)
    return this.known.get(name)
  }
  /** What was made of it is kept elsewhere. */
  forget(name: string): void {
    this.known.delete(name)
  }
}

class Planes {
  private known = new Map<string, Float32Array>()
  private names: Set<string>
  constructor(
    private channels: Channels,
    names: readonly string[],
  ) {
    this.names = new Set(names)
  }
  has(name: string): boolean {
    return this.names.has(name)
  }
  keys(): IterableIterator<string> {
    return this.names.keys()
  }
  /** All of a plane as floats; one of halves is made anew each time, see `stored`. Throws StillPacked. */
  get(name: string): Float32Array | undefined {
    const known = this.known.get(name)
    if (known || !this.names.has(name)) return known
    const channel = this.channels.get(name)!
    const plane = channelFloats(channel)
    if (channel.type === 'half') return plane
    this.channels.forget(name)
    this.known.set(name, plane)
    return plane
  }
  /** A plane as it is kept: codes with the value of each, or values. Throws StillPacked. */
  stored(name: string): { data: ArrayLike<number>; values?: ArrayLike<number> } | undefined {
    const known = this.known.get(name)
    if (known || !this.names.has(name)) return known && { data: known }
    const channel = this.channels.get(name)!
    return channel.type === 'half' ? { data: channel.data, values: HALF_VALUES } : { data: this.get(name)! }
  }
}

class CoverageByPass {
  private known = new Map<string, Coverage>()
  constructor(private unpack: ReadonlyMap<string, () => Coverage>) {}
  has(id: string): boolean {
    return this.unpack.has(id)
  }
  /** Throws StillPacked. */
  get(id: string): Coverage | undefined {
    if (!this.known.has(id) && this.unpack.has(id)) this.known.set(id, this.unpack.get(id)!())
    return this.known.get(id)
  }
}

export const namesOf = (file: PassFile, of: NamesOf): string[] =>
  ({ objects: file.objectNames, materials: file.materialNames, assets: file.assetNames })[of]
/** Throws StillPacked. */
export const coverageOf = (file: PassFile, of: NamesOf, seen: Seen = 'straight'): Coverage | undefined =>
  file.coverage.get(coveragePass(of, seen)?.id ?? '')

/**
 * Reads the headers of a pass file; its planes throw StillPacked until their part is unpacked (see unpacking). Throws
 * BadInput.
 */
export async function openPassFile(bytes: Uint8Array): Promise<PassFile> {
  const { dataWindow, attributes, parts } = openExr(bytes)
  const channels = new Channels(parts)
  const isCoverage = (name: string): boolean => /^crypto.*\d\d\./.test(name)
  const planes = new Planes(
    channels,
    channels.names.filter(name => !isCoverage(name)),
  )
  const lists: Record<NamesOf, string[]> = {
    objects: listIn(attributes, 'northmist/objects'),
    materials: listIn(attributes, 'northmist/materials'),
    assets: listIn(attributes, 'northmist/assets'),
  }
  const listed = { objects: !!lists.objects.length, materials: !!lists.materials.length, assets: !!lists.assets.length }
  const sets = cryptomatteSets(attributes)
  const unpack = new Map<string, () => Coverage>()
  const unnamed: string[] = []
  for (const { id, coverage: named } of PASSES) {
    const set = named && sets.find(candidate => candidate.name.toLowerCase() === named.layer.toLowerCase())
    if (!set) continue
    const own = channels.names.filter(name => name.toLowerCase().startsWith(set.name.toLowerCase()) && isCoverage(name))
    unpack.set(id, () => {
      const decoded = decodeCryptomatte({ channels: own.map(name => channels.get(name)!) }, set)
      const { coverage, names } = lists[named.of].length ? renumbered(decoded, lists[named.of]) : decoded
      for (const name of own) channels.forget(name)
      lists[named.of].splice(0, Infinity, ...names)
      return coverage
    })
    // A file from elsewhere has no list of its own: what its things are called is known from their coverage
    if (!lists[named.of].length && named.seen === 'straight') unnamed.push(id)
  }
  const coverage = new CoverageByPass(unpack)
  for (const id of unnamed) await unpacking(() => coverage.get(id))
  const lights = [...planes.keys()].flatMap(name =>
    name.startsWith(`${BY_LIGHT}.`) && name.endsWith('.R') ? [name.slice(BY_LIGHT.length + 1, -2)] : [],
  )
  const passes = PASSES.filter(pass =>
    pass.channels.length
      ? pass.channels.every(channel => planes.has(channel))
      : pass.id === BY_LIGHT
        ? lights.length
        : coverage.has(pass.id),
  ).map(pass => pass.id)
  return {
    width: boxWidth(dataWindow),
    height: boxHeight(dataWindow),
    passes,
    planes,
    objectNames: lists.objects,
    materialNames: lists.materials,
    assetNames: lists.assets,
    listed,
    coverage,
    lights,
  }
}

/** The whole of a pass file, unpacked. Throws BadInput. */
export async function readPassFile(bytes: Uint8Array): Promise<PassFile> {
  const file = await openPassFile(bytes)
  await unpacking(() => {
    for (const name of file.planes.keys()) file.planes.get(name)
  })
  for (const id of file.passes) await unpacking(() => file.coverage.get(id))
  return file
}

function listIn(attributes: readonly ExrAttribute[], key: string): string[] {
  const attribute = attributes.find(attribute => attribute.name === key)
  if (!attribute) return []
  try {
    return (JSON.parse(String(attributeValue(attribute))) as unknown[]).map(String)
  } catch {
    throw new BadInput(`The attribute “${key}” of this pass file is damaged.`)
  }
}

/** Numbers the coverage as the file's own list does, so that it agrees with object_id. */
function renumbered(
  decoded: { coverage: Coverage; names: string[] },
  listed: string[],
): { coverage: Coverage; names: string[] } {
  const names = [...listed]
  const numbers = new Map(names.map((name, i) => [name, i + 1]))
  const map = decoded.names.map(name => {
    let at = numbers.get(name)
    if (at === undefined) {
      at = names.push(name)
      numbers.set(name, at)
    }
    return at
  })
  const { index } = decoded.coverage
  for (let i = 0; i < index.length; i++) if (index[i]) index[i] = map[index[i]! - 1]!
  return { coverage: decoded.coverage, names }
}

/** A pass file, its things under the names that they have now. */
export interface OpenedPasses {
  file: PassFile
  /** What names it and where it lies, for keys. */
  key: string
  /** How pixels of the frame, counted from a place beyond its corner, stand in the pass file. */
  map(left: number, top: number, shrink: number): { scaleX: number; offsetX: number; scaleY: number; offsetY: number }
}

/** What passes alone make of a file, beyond a picture. */
const PICTURE_PASSES = ['beauty', 'alpha']
/** What a pass file holds, as a document speaks of it; undefined for what is a picture alone. Throws StillPacked. */
export function contentOf(
  file: PassFile,
):
  | {
      width: number
      height: number
      passes: string[]
      objects: string[]
      materials: string[]
      lights?: string[]
      clean?: true
    }
  | undefined {
  const passes = file.passes.filter(id => PASS_IDS.includes(id))
  if (passes.every(id => PICTURE_PASSES.includes(id))) return undefined
  // Names that only the coverage tells are known once it was looked at
  for (const of of ['objects', 'materials'] as const) if (!file.listed[of]) coverageOf(file, of)
  return {
    width: file.width,
    height: file.height,
    passes,
    objects: [...file.objectNames],
    materials: [...file.materialNames],
    ...(file.lights.length ? { lights: [...file.lights] } : {}),
    ...([...file.planes.keys()].some(name => name.startsWith(CLEAN)) ? { clean: true as const } : {}),
  }
}

const boxes = new WeakMap<PassFile, Map<string, Box>>()
/** The pixels of a plane that are not 0; no area where all are. Throws StillPacked. */
export function boxOfPlane(file: PassFile, name: string): Box {
  const known = boxes.get(file) ?? new Map<string, Box>()
  boxes.set(file, known)
  let box = known.get(name)
  if (!box) known.set(name, (box = lookedAt(file, name)))
  return box
}
/** Codes of halves without their sign. */
const HALF_SIZE = 0x7fff
function lookedAt(file: PassFile, name: string): Box {
  const plane = file.planes.stored(name)
  const { width, height } = file
  const box = { left: width, top: height, right: 0, bottom: 0 }
  if (!plane) return box
  // Halves are looked at as their codes; one kind of array a function, which is what the compiler makes fast
  const look = plane.values ? firstHalf : firstFloat
  const back = plane.values ? lastHalf : lastFloat
  for (let y = 0; y < height; y++) {
    const row = y * width
    const first = look(plane.data as never, row, row + width) - row
    if (first === width) continue
    box.left = Math.min(box.left, first)
    box.right = Math.max(box.right, back(plane.data as never, row + Math.max(first, box.right), row + width) - row)
    box.top = Math.min(box.top, y)
    box.bottom = y + 1
  }
  return box
}
function firstHalf(data: Uint16Array, from: number, to: number): number {
  while (from < to && !(data[from]! & HALF_SIZE)) from++
  return from
}
function firstFloat(data: Float32Array, from: number, to: number): number {
  while (from < to && data[from] === 0) from++
  return from
}
/** Just after the last that is there; from where there is none. */
function lastHalf(data: Uint16Array, from: number, to: number): number {
  while (to > from && !(data[to - 1]! & HALF_SIZE)) to--
  return to
}
function lastFloat(data: Float32Array, from: number, to: number): number {
  while (to > from && data[to - 1] === 0) to--
  return to
}
