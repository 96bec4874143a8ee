// Documents of earlier versions, brought to today's. A step from each version to the next; each takes what may be wrong
// in any way and leaves that as it is for the checks to name.
import { operatorKey } from '../engine/key'
import { BadInput } from '../formats/errors'
import { addRow, rowsOf } from './rows'
import type { Row } from '../declare/field'
import { DOCUMENT_VERSION } from './schema/shot'

type Loose = Record<string, unknown>
const isLoose = (value: unknown): value is Loose => typeof value === 'object' && value !== null && !Array.isArray(value)

/** Steps by the version that they start from. */
const STEPS: Record<number, (document: Loose) => Loose> = {
  1: keptById,
  2: mattesOfKinds,
  3: treeOfLayers,
  4: slips,
  5: byOtherNames,
}

/**
 * The document as it is kept today; the one that is given stays as it is. The same always gives the same. Throws
 * BadInput for a version that there never was, or is not yet.
 */
export function ofToday(document: unknown): unknown {
  if (!isLoose(document)) return document
  let now = document
  while (now.version !== DOCUMENT_VERSION) {
    const step = STEPS[now.version as number]
    if (!step)
      throw new BadInput(
        `The shot is of version ${JSON.stringify(now.version)}; versions ${Object.keys(STEPS).join(', ')} and ${DOCUMENT_VERSION} are read here.`,
      )
    now = step(now)
  }
  return now
}

/** A thing with some of its fields changed, those that are there. */
function within(thing: unknown, change: Record<string, (value: unknown) => unknown>): unknown {
  return isLoose(thing)
    ? {
        ...thing,
        ...Object.fromEntries(
          Object.entries(change).flatMap(([field, of]) =>
            thing[field] === undefined ? [] : [[field, of(thing[field])]],
          ),
        ),
      }
    : thing
}

/** Every thing of a record, changed. */
const eachOf = (record: unknown, change: (thing: unknown) => unknown): unknown =>
  isLoose(record) ? Object.fromEntries(Object.entries(record).map(([id, thing]) => [id, change(thing)])) : record

/**
 * From 1 to 2: what stood in lists, named by its number there, is kept by its id and carries its place in the order. Ids
 * that two things of a list shared are told apart.
 */
function keptById(document: Loose): Loose {
  const rows = (list: unknown, each: (thing: Loose) => Loose = thing => thing): unknown => {
    if (!Array.isArray(list) || !list.every(isLoose)) return list
    const taken = new Set<string>()
    return rowsOf(
      list.map(thing => {
        const own = typeof thing.id === 'string' ? thing.id : operatorKey(thing.name)
        let id = own
        for (let count = 2; taken.has(id); count++) id = `${own.slice(0, 36)}-${count}`
        taken.add(id)
        return { ...each(thing), id } as unknown as Row
      }),
    )
  }
  const plain = (list: unknown): unknown => rows(list)
  return within(document, {
    version: () => 2,
    build: build =>
      within(build, { layers: layers => rows(layers, layer => within(layer, { treatments: plain }) as Loose) }),
    finish: plain,
    scene: scene =>
      within(scene, {
        lights: plain,
        volumes: plain,
        prints: plain,
        added: plain,
        objects: objects =>
          isLoose(objects)
            ? Object.fromEntries(Object.entries(objects).map(([name, own]) => [name, within(own, { pins: plain })]))
            : objects,
      }),
    match: match => within(match, { lines: plain, poles: plain, points: plain, curves: plain }),
  }) as Loose
}

/** From 2 to 3: a matte says of which kind it is; there was one. */
function mattesOfKinds(document: Loose): Loose {
  const lines = (record: unknown): unknown =>
    eachOf(record, line => within(line, { matte: matte => (isLoose(matte) ? { kind: 'names', ...matte } : matte) }))
  return within(document, {
    version: () => 3,
    build: build => within(build, { layers: layers => eachOf(layers, layer => within(layer, { treatments: lines })) }),
    finish: lines,
  }) as Loose
}

/**
 * From 3 to 4: the shadow, the wet ground, the air and the ink of the render are layers of their own, and the desk stands
 * in the render. A render with ink becomes a group of both, which has its lines, so that they are laid on the inked one.
 */
function treeOfLayers(document: Loose): Loose {
  const next = { ...document, version: 4 }
  const { build, passes } = document
  if (!isLoose(build) || !isLoose(build.layers) || !Object.values(build.layers).every(isLoose)) return next
  const layers: Record<string, Loose> = { ...(build.layers as Record<string, Loose>) }
  const list = Object.values(layers)
  const render = list.find(({ kind }) => kind === 'render')
  const plate = list.find(({ kind }) => kind === 'plate')
  const desk = build.desk
  // The blending mode of a plate was offered and not heeded
  if (plate) layers[plate.id as string] = { ...plate, mode: 'over' }
  if (!render) return { ...next, build: { layers } }
  const file = isLoose(passes) && isLoose(passes.file) ? passes.file : undefined
  const has = (pass: string): boolean => Array.isArray(file?.passes) && file.passes.includes(pass)
  const id = String(render.id)
  const named = (end: string): string => {
    let name = `${id.slice(0, 32)}-${end}`
    while (name in layers) name += '+'
    return name
  }
  const { shadow, wet, air, ink, ...rest } = render
  const own: Loose = { ...rest, desk }
  layers[id] = own
  let last = plate ? String(plate.id) : null
  /** after: stands next to a neighbour (null: before all, undefined: behind the last). */
  const add = (kind: string, name: string, values: Loose, after?: string | null): string => {
    const made = { id: named(kind), kind, name, on: render.on, treatments: {}, of: id, ...values }
    addRow(layers as unknown as Record<string, Row>, made as unknown as Row, after)
    return made.id
  }
  last = add('shadow', 'Shadow', { amount: shadow }, last)
  if (wet !== undefined || has('wet')) add('wet', 'Wet ground', { amount: wet ?? 1 }, last)
  if (air !== undefined || has('volume')) add('air', 'Air', { amount: air ?? 1 })
  const inks = (value: unknown): boolean => value !== 0 && value !== undefined
  if (isLoose(ink) && (inks(ink.strength) || inks(ink.bite))) {
    const group = named('group')
    const { treatments, opacity, mode, order, on } = own
    const round = { name: own.name, on, opacity, mode, treatments, order }
    layers[group] = { id: group, kind: 'group', ordered: 'by hand', ...round }
    layers[id] = { ...own, on: true, opacity: 1, mode: 'over', treatments: {}, within: group, order: 'a0' }
    const made = named('ink')
    layers[made] = {
      id: made,
      kind: 'ink',
      name: 'Ink',
      on: true,
      treatments: {},
      of: id,
      ...ink,
      within: group,
      order: 'a1',
    }
  }
  return { ...next, build: { layers } }
}

/** From 4 to 5: a matte is a slip of lines; there was one, and it was turned over itself. */
function slips(document: Loose): Loose {
  const slip = (matte: unknown): unknown =>
    isLoose(matte)
      ? { terms: { a: { id: 'a', order: 'a0', join: 'also', on: true, ...matte } }, refine: {}, invert: false }
      : matte
  const lines = (record: unknown): unknown => eachOf(record, line => within(line, { matte: slip }))
  const next = within(document, {
    version: () => 5,
    build: build => within(build, { layers: layers => eachOf(layers, layer => within(layer, { treatments: lines })) }),
    finish: lines,
  }) as Loose
  return { ...next, mattes: {} }
}

/** Treatments that were called otherwise up to version 5. */
const CALLED: Record<string, string> = { haze: 'distance_tint' }
/** From 5 to 6: what tints by distance is called so. */
function byOtherNames(document: Loose): Loose {
  const lines = (record: unknown): unknown =>
    eachOf(record, line =>
      within(line, { kind: kind => (Object.hasOwn(CALLED, String(kind)) ? CALLED[String(kind)] : kind), lines }),
    )
  return within(document, {
    version: () => 6,
    build: build => within(build, { layers: layers => eachOf(layers, layer => within(layer, { treatments: lines })) }),
    finish: lines,
  }) as Loose
}
