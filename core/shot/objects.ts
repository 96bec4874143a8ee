// The objects of a shot's scene: those of the file under their names, and those that were added; and the commands that
// change which there are.
import { Kept } from '../engine/kept'
import type { Material, Part, Scene, SceneObject } from '../scene/scene'
import { cornersOf, pulled } from '../scene/pulled'
import { rounder, SHARP_FROM } from '../scene/subdivide'
import { identity, type Vector3 } from '../scene/vector'
import { standInPart, type StandIn } from '../scene/standin'
import { valueAt, withValue, type Animatable } from '../time/curve'
import { identifier, type AddedObject, type ObjectSettings, type ShotDocument } from './document'
import { addRow, inOrder } from './rows'
import { eachPlace } from './schema/walk'

export interface ShotObjects {
  objects: SceneObject[]
  materials: Material[]
}

/**
 * All objects under the names that the shot gives them, not yet placed, as they are at a frame. A copy of something
 * that is gone is left out.
 */
export function objectsOf(document: ShotDocument, file: Scene | undefined, frame: number): ShotObjects {
  const { names = {}, added } = document.scene
  const objects: SceneObject[] = (file?.objects ?? []).map(object =>
    names[object.name] === undefined
      ? object
      : {
          ...object,
          name: names[object.name]!,
          asset: object.asset === object.name ? names[object.name]! : object.asset,
        },
  )
  const materials = [...(file?.materials ?? [])]
  const size = (value: Animatable): number => Math.max(0.001, valueAt(value, frame))
  for (const entry of inOrder(added)) {
    if (entry.kind === 'copy') {
      const source = objects.find(object => object.name === entry.of)
      if (source) objects.push({ ...source, name: entry.name, asset: entry.name })
      continue
    }
    const at =
      materials.push({
        name: entry.name,
        baseColour: [...entry.colour, 1],
        metallic: 0,
        roughness: Math.min(1, Math.max(0, valueAt(entry.roughness, frame))),
        emission: [0, 0, 0],
        alphaMode: 'opaque',
        alphaCutoff: 0.5,
        normalScale: 1,
        doubleSided: entry.shape === 'plane',
      }) - 1
    objects.push({
      name: entry.name,
      matrix: identity(),
      parts: standInParts(
        { ...entry, width: size(entry.width), height: size(entry.height), depth: size(entry.depth) },
        at,
      ),
      role: 'catcher',
      hidden: false,
      absent: false,
      ofPlate: true,
    })
  }
  return { objects: objects.map(object => shaped(object, document.scene.objects[object.name], frame)), materials }
}
/** The same for the same shape: what is made rounder of it is kept by that. */
const standIns = new Kept<Part[]>(64)
const standInParts = ({ shape, width, height, depth, points }: StandIn, material: number): Part[] =>
  standIns.of(JSON.stringify([shape, width, height, depth, points, material]), () => [
    standInPart({ shape, width, height, depth, points }, material),
  ])
/** As its corners were pulled, and as round as its settings make it. */
function shaped(object: SceneObject, own: ObjectSettings | undefined, frame: number): SceneObject {
  const parts = own?.pulled?.length ? pulled(object.parts, own.pulled) : object.parts
  const steps = valueAt(own?.roundSteps ?? 0, frame)
  const round = steps >= 1 ? rounder(parts, steps, valueAt(own?.roundAngle ?? SHARP_FROM, frame)) : parts
  return round === object.parts ? object : { ...object, parts: round }
}

/** Corners of an object as they are without being pulled, in its own space; undefined where it is no simple mesh. */
export function cornersOfObject(
  document: ShotDocument,
  file: Scene | undefined,
  frame: number,
  name: string,
): Vector3[] | undefined {
  const { pulled: _pulled, roundSteps: _steps, ...own } = document.scene.objects[name] ?? {}
  const plain = { ...document, scene: { ...document.scene, objects: { ...document.scene.objects, [name]: own } } }
  const object = objectsOf(plain, file, frame).objects.find(one => one.name === name)
  return object && cornersOf(object.parts)
}

/** The object of that name that is not in the file. */
export const addedCalled = (document: ShotDocument, name: string): AddedObject | undefined =>
  inOrder(document.scene.added).find(entry => entry.name === name)

const takenNames = (document: ShotDocument, fileNames: readonly string[]): Set<string> =>
  new Set([
    ...fileNames.map(name => document.scene.names?.[name] ?? name),
    ...inOrder(document.scene.added).map(entry => entry.name),
  ])

/** A name that nothing has yet. */
export function freeName(document: ShotDocument, fileNames: readonly string[], wanted: string): string {
  const taken = takenNames(document, fileNames)
  const bare = wanted.replace(/ \d+$/, '')
  if (!taken.has(wanted)) return wanted
  for (let count = 2; ; count++) if (!taken.has(`${bare} ${count}`)) return `${bare} ${count}`
}

const RENAME_REFUSED = (name: string): Error => new Error(`There is already something called “${name}”.`)

/** Gives an object another name, everywhere the shot speaks of it. Throws when the name is taken or empty. */
export function renameObject(document: ShotDocument, fileNames: readonly string[], from: string, wanted: string): void {
  const to = wanted.trim().slice(0, 200)
  if (!to) throw new Error('A name is needed.')
  if (to === from) return
  if (takenNames(document, fileNames).has(to)) throw RENAME_REFUSED(to)
  const { scene, passes } = document
  const added = addedCalled(document, from)
  if (added) added.name = to
  else {
    const original = fileNames.find(name => (scene.names?.[name] ?? name) === from)
    if (original === undefined) throw new Error(`There is no object “${from}”.`)
    const names = (scene.names ??= {})
    if (original === to) delete names[original]
    else names[original] = to
  }
  // Rendered files keep their names: they are read under the new ones
  const kept = Object.values(document.build.layers).map(layer =>
    layer.kind === 'render' ? layer.file : layer.kind === 'figure' ? layer.names : undefined,
  )
  for (const file of [passes.file, ...kept]) {
    if (!file?.objects.includes(from)) continue
    const stored = Object.entries(file.names ?? {}).find(([, now]) => now === from)?.[0] ?? from
    file.names = { ...file.names, [stored]: to }
  }
  eachPlace(document, ({ field, value, owner, put }) => {
    if (!('refers' in field) || field.refers !== 'object') return
    if (field.when && !field.when(owner as never)) return
    if (field.kind === 'text' && value === from) put(to)
    const record = value as Record<string, unknown>
    if (field.kind === 'named' && Object.hasOwn(record, from)) {
      record[to] = record[from]
      delete record[from]
    }
  })
}

/** A copy of an object beside it, with its settings and what is laid on it. Returns its name. */
export function copyObject(
  document: ShotDocument,
  fileNames: readonly string[],
  of: string,
  place: readonly [number, number, number],
): string {
  const name = freeName(document, fileNames, of)
  const { scene } = document
  const source = addedCalled(document, of)
  const id = identifier()
  addRow(
    (scene.added ??= {}),
    source?.kind === 'standin'
      ? { ...structuredCopy(source), id, name }
      : { id, name, kind: 'copy', of: source?.kind === 'copy' ? source.of : of },
  )
  const settings: ObjectSettings = { ...structuredCopy(scene.objects[of] ?? {}), position: [...place] }
  delete settings.pins
  scene.objects[name] = settings
  for (const print of inOrder(scene.prints))
    if (print.on === of) addRow(scene.prints!, { ...structuredCopy(print), id: identifier(), on: name })
  return name
}

/** Takes an added object away, and its copies; one of the file is left out. */
export function removeObject(document: ShotDocument, name: string): void {
  const { scene } = document
  const entry = addedCalled(document, name)
  if (!entry) {
    ;(scene.objects[name] ??= {}).absent = true
    return
  }
  delete scene.added![entry.id]
  delete scene.objects[name]
  for (const print of inOrder(scene.prints)) if (print.on === name) delete scene.prints![print.id]
  for (const other of inOrder(scene.added))
    if (other.kind === 'copy' && other.of === name) removeObject(document, other.name)
}

export function addStandIn(
  document: ShotDocument,
  fileNames: readonly string[],
  shape: StandIn,
  place: readonly [number, number, number],
  heading: number,
): string {
  const WORDS = {
    box: 'box',
    cylinder: 'cylinder',
    plane: 'plane',
    ball: 'ball',
    profile: 'turned shape',
    outline: 'block',
  } as const
  const name = freeName(document, fileNames, WORDS[shape.shape])
  addRow((document.scene.added ??= {}), {
    id: identifier(),
    name,
    kind: 'standin',
    colour: [0.35, 0.35, 0.35],
    roughness: 0.8,
    ...shape,
  })
  document.scene.objects[name] = { position: [...place], rotation: [heading, 0, 0], role: 'catcher', ofPlate: true }
  return name
}

/**
 * Metres across of the ground that catches shadows: past the horizon of what stands on it, no wider than sums allow.
 */
const GROUND = { least: 100, most: 4000, ofThings: 1000 }
const isGround = (entry: AddedObject): boolean =>
  entry.kind === 'standin' && entry.shape === 'plane' && valueAt(entry.width, 1) >= GROUND.least

/** The name of the shot's endless ground; undefined where it has none. */
export const groundOf = (document: ShotDocument): string | undefined =>
  inOrder(document.scene.added).find(isGround)?.name

/**
 * Lays an endless ground at height 0 that catches the shadows of all that stands on it. Returns its name; does nothing
 * where there is one.
 */
export function layGround(
  document: ShotDocument,
  fileNames: readonly string[],
  things: readonly { low: readonly number[]; high: readonly number[] }[],
): string {
  const there = groundOf(document)
  if (there) return there
  const size = Math.max(0, ...things.flatMap(({ low, high }) => high.map((value, k) => value - low[k]!)))
  const wide = Math.min(GROUND.most, Math.max(GROUND.least, size * GROUND.ofThings))
  const shape: StandIn = { shape: 'plane', width: wide, height: 0.001, depth: wide, points: [] }
  const drawn = addStandIn(document, fileNames, shape, [0, 0, 0], 0)
  const name = freeName(document, fileNames, 'ground')
  renameObject(document, fileNames, drawn, name)
  return name
}

/** Moves all that belong to the same group by the same step; the locked stay. Returns how many moved. */
export function moveTogether(
  document: ShotDocument,
  names: readonly string[],
  placeOf: (name: string) => readonly [number, number, number],
  by: readonly [number, number, number],
  frame: number,
): number {
  let moved = 0
  for (const name of names) {
    const settings = (document.scene.objects[name] ??= {})
    if (settings.locked) continue
    const now = placeOf(name)
    // An animated place gets a key at this frame
    settings.position = ([0, 1, 2] as const).map(k =>
      withValue(settings.position?.[k] ?? now[k], frame, Math.round((now[k] + by[k]) * 1e4) / 1e4),
    ) as [Animatable, Animatable, Animatable]
    moved++
  }
  return moved
}
const structuredCopy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** Names of the group that an object is in, itself included. */
export function groupOf(document: ShotDocument, name: string): string[] {
  const group = document.scene.objects[name]?.group
  return group
    ? Object.entries(document.scene.objects)
        .filter(([, settings]) => settings.group === group)
        .map(([other]) => other)
    : [name]
}
