// What stands at one pixel: for the readout and for picking.
import { NO_DEPTH } from '../render/passes'
import type { Going } from '../shot/along'
import type { NamesOf, Seen } from '../render/passes'
import { coverageOf, namesOf, type PassFile } from '../render/openpasses'
import { RAW_DEPTH } from '../render/reading'

export interface Named {
  name: string
  share: number
}
export interface Probe {
  metres?: number
  /** The value that a file from elsewhere has for its depth. */
  raw?: number
  /** Objects and materials there, greatest share first. */
  objects: Named[]
  materials: Named[]
  /** Objects seen through glass there, and those mirrored there. */
  through: Named[]
  mirrored: Named[]
}
export const nothingThere = (): Probe => ({ objects: [], materials: [], through: [], mirrored: [] })

/** One thing that a pointer may mean: what stands there, and what else is seen behind it or in it. */
export interface Meant {
  name: string
  seen: Seen
}
/** What a click may mean, the most likely first. What is seen through glass counts where less of it is seen without. */
export function meantBy({ objects, through, mirrored }: Probe): Meant[] {
  const out: Meant[] = objects[0] ? [{ name: objects[0].name, seen: 'straight' }] : []
  // A clear pane covers less of the pixel than what shows through it: it is known by not being seen through glass
  if (through.length)
    for (const { name, share } of objects.slice(1))
      if (share > 0.03 && !through.some(other => other.name === name)) out.push({ name, seen: 'straight' })
  // A pane that is half clear covers a part of what is behind it: all of that is held by what is seen through it
  const behind = through[0]
  const plainly = objects.find(({ name }) => name === behind?.name)?.share ?? 0
  if (behind && plainly < 0.9 * behind.share) out.push({ name: behind.name, seen: 'through' })
  if (mirrored[0] && mirrored[0].share > 0.05) out.push({ name: mirrored[0].name, seen: 'mirrored' })
  return out
}

/** Of a plane as it is kept, so that none is unpacked whole for one pixel. */
function numberAt(file: PassFile, name: string, pixel: number): number | undefined {
  const plane = file.planes.stored(name)
  const found = plane?.data[pixel]
  return found !== undefined && plane?.values ? plane.values[found] : found
}

/** u, v: place in the frame, 0..1. */
export function probe(file: PassFile, u: number, v: number): Probe {
  const x = Math.min(file.width - 1, Math.max(0, Math.floor(u * file.width)))
  const y = Math.min(file.height - 1, Math.max(0, Math.floor(v * file.height)))
  const pixel = y * file.width + x
  const depth = numberAt(file, 'depth.Z', pixel)
  const list = (of: NamesOf, seen: Seen): Named[] => {
    const coverage = coverageOf(file, of, seen)
    const names = namesOf(file, of)
    const out: Named[] = []
    if (!coverage) return out
    for (let rank = 0; rank < coverage.ranks; rank++) {
      const index = coverage.index[pixel * coverage.ranks + rank]!
      if (index) out.push({ name: names[index - 1]!, share: coverage.weight[pixel * coverage.ranks + rank]! })
    }
    return out
  }
  return {
    metres: depth !== undefined && depth < NO_DEPTH / 2 ? depth : undefined,
    raw: numberAt(file, RAW_DEPTH, pixel),
    objects: list('objects', 'straight'),
    materials: list('materials', 'straight'),
    through: list('objects', 'through'),
    mirrored: list('objects', 'mirrored'),
  }
}

/**
 * What is at places, 0..1 of the file; across, down: pixels of the frame that a pixel of the file is wide and tall.
 * Undefined where the file does not tell how things move.
 */
export function goingAt(
  file: PassFile,
  places: readonly (readonly [u: number, v: number])[],
  [across, down]: readonly [number, number],
): Going[] | undefined {
  const { width, height, planes } = file
  const plane = (name: string): ArrayLike<number> | undefined => planes.get(name)
  const [fx, fy, bx, by] = ['motion_forward.X', 'motion_forward.Y', 'motion_back.X', 'motion_back.Y'].map(plane)
  const ids = plane('object_id.I')
  const covered = plane('A')
  if (!fx || !fy || !bx || !by) return undefined
  return places.map(([u, v]) => {
    const [x, y] = [Math.floor(u * width), Math.floor(v * height)]
    const i = y * width + x
    const isIn = x >= 0 && y >= 0 && x < width && y < height
    // Without numbers of things whatever is there is one
    const thing = !isIn ? 0 : ids ? ids[i]! : covered && !(covered[i]! > 0) ? 0 : 1
    if (!thing) return { thing: 0, forward: [0, 0], back: [0, 0] }
    return { thing, forward: [fx[i]! * across, fy[i]! * down], back: [bx[i]! * across, by[i]! * down] }
  })
}

/** Of what a thing shows of itself, so much must lie in a frame that is drawn round it. */
const WITHIN = 0.9
/** A part of the frame: from the left and the top, 0..1. */
export interface Part {
  left: number
  top: number
  right: number
  bottom: number
}
/** What a frame was drawn round: names of what lies in it with all that is seen of it, or nearly all. */
export function namesWithin(file: PassFile, of: NamesOf, seen: Seen, { left, top, right, bottom }: Part): string[] {
  const coverage = coverageOf(file, of, seen)
  if (!coverage) return []
  const names = namesOf(file, of)
  const [inside, all] = [new Float64Array(names.length + 1), new Float64Array(names.length + 1)]
  const { width, height } = file
  const { index, weight, ranks } = coverage
  for (let y = 0, at = 0; y < height; y++) {
    const isRow = y + 0.5 >= top * height && y + 0.5 < bottom * height
    for (let x = 0; x < width; x++) {
      const isIn = isRow && x + 0.5 >= left * width && x + 0.5 < right * width
      for (let rank = 0; rank < ranks; rank++, at++) {
        const share = weight[at]!
        all[index[at]!]! += share
        if (isIn) inside[index[at]!]! += share
      }
    }
  }
  return names.filter((_, i) => all[i + 1]! > 0 && inside[i + 1]! >= WITHIN * all[i + 1]!)
}
