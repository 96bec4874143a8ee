// Documents of earlier versions, brought to today's. A step from each version to the next; each takes what may be wrong
// in any way and leaves that as it is for the checks to name.
import { operatorKey } from '../engine/key'
import { BadInput } from '../formats/errors'
import { rowsOf } from './rows'
import type { Row } from '../declare/field'
import { DOCUMENT_VERSION } from './schema/shot'

type Loose = Record<string, unknown>
const isLoose = (value: unknown): value is Loose => typeof value === 'object' && value !== null && !Array.isArray(value)

/** Steps by the version that they start from. */
const STEPS: Record<number, (document: Loose) => Loose> = { 1: keptById, 2: mattesOfKinds }

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
