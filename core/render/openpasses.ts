// Passes of a file, read back for building: its headers first, each part when one of its planes is asked for.
import { cryptomatteSets, decodeCryptomatte } from '../formats/cryptomatte/cryptomatte'
import type { Box } from '../engine/box'
import { BadInput } from '../formats/errors'
import { attributeValue, boxHeight, boxWidth, openExr, type ExrAttribute } from '../formats/exr/exr'
import { BY_LIGHT, CLEAN, coveragePass, PASS_IDS, PASSES, type NamesOf, type Seen } from './passes'
import { isCoverageChannel } from './layersOfFile'
import { Channels, FilePlanes, unpacking, type Planes } from './passplanes'
import type { Coverage } from './planes'
import { ReadPlanes } from './reading'
import type { PassReading } from '../shot/schema/reading'

export { StillPacked, unpacking } from './passplanes'

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
 * Reads the headers of a pass file; its planes throw StillPacked until their part is unpacked (see unpacking). reading: of a
 * file from elsewhere, whose picture is its display window. Throws BadInput.
 */
export async function openPassFile(bytes: Uint8Array, reading?: PassReading): Promise<PassFile> {
  const { window, attributes, parts } = openExr(bytes, !!reading)
  const [width, height] = [boxWidth(window), boxHeight(window)]
  const channels = new Channels(parts)
  const sets = cryptomatteSets(attributes)
  const setNames = sets.map(set => set.name)
  const isCoverage = (name: string): boolean =>
    reading ? isCoverageChannel(name, setNames) : /^crypto.*\d\d\./.test(name)
  const own = new FilePlanes(
    channels,
    channels.names.filter(name => !isCoverage(name)),
  )
  const planes = reading ? new ReadPlanes(own, reading, setNames, width, height) : own
  const lists: Record<NamesOf, string[]> = {
    objects: listIn(attributes, 'northmist/objects'),
    materials: listIn(attributes, 'northmist/materials'),
    assets: listIn(attributes, 'northmist/assets'),
  }
  const listed = { objects: !!lists.objects.length, materials: !!lists.materials.length, assets: !!lists.assets.length }
  const unpack = new Map<string, () => Coverage>()
  const unnamed: string[] = []
  const covered = (id: string, of: NamesOf, make: () => { coverage: Coverage; names: string[] }): void => {
    unpack.set(id, () => {
      const { coverage, names } = make()
      lists[of].splice(0, Infinity, ...names)
      return coverage
    })
  }
  for (const { id, coverage: named } of PASSES) {
    const called = named && (reading ? reading.sets?.[id] : named.layer)?.toLowerCase()
    const set = named && sets.find(candidate => candidate.name.toLowerCase() === called)
    if (!set) continue
    const ranked = channels.names.filter(name => isCoverageChannel(name, [set.name]))
    covered(id, named.of, () => {
      const decoded = decodeCryptomatte({ channels: ranked.map(name => channels.get(name)!) }, set)
      for (const name of ranked) channels.forget(name)
      return lists[named.of].length ? renumbered(decoded, lists[named.of]) : decoded
    })
    // A file from elsewhere has no list of its own: what its things are called is known from their coverage
    if (!lists[named.of].length && named.seen === 'straight') unnamed.push(id)
  }
  // Things that are only numbered are told apart by their numbers
  if (reading)
    for (const [id, of] of NUMBERED)
      if (!unpack.has(`crypto_${of.slice(0, -1)}`) && planes.has(`${id}.I`)) {
        covered(`crypto_${of.slice(0, -1)}`, of, () => numbered(planes.get(`${id}.I`)!, planes.get('A')))
        unnamed.push(`crypto_${of.slice(0, -1)}`)
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
    width,
    height,
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

const NUMBERED = [
  ['object_id', 'objects'],
  ['material_id', 'materials'],
] as const
/** Kinds of things that numbers are kept for. */
const MOST_NUMBERS = 65_535
/** Coverage by whole numbers of each pixel, 0 for nothing. Throws BadInput where they are no numbers of things. */
function numbered(numbers: Float32Array, alpha: Float32Array | undefined): { coverage: Coverage; names: string[] } {
  const found = new Map<number, number>()
  for (const value of numbers) {
    const number = Math.round(value)
    if (number && !found.has(number)) found.set(number, 0)
    if (found.size > MOST_NUMBERS)
      throw new BadInput(`What is to be the numbers of things has more than ${MOST_NUMBERS} of them.`)
  }
  const sorted = [...found.keys()].sort((a, b) => a - b)
  sorted.forEach((number, i) => found.set(number, i + 1))
  return {
    coverage: {
      ranks: 1,
      index: Uint16Array.from(numbers, value => found.get(Math.round(value)) ?? 0),
      weight: numbers.map((value, i) => (Math.round(value) ? (alpha?.[i] ?? 1) : 0)),
    },
    names: sorted.map(number => `number ${number}`),
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
