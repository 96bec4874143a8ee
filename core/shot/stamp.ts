import { operatorKey } from '../engine/key'
import { PASSES, type PassDefinition } from '../render/passes'
import { cardsStamp } from './cards'
import type { ObjectSettings, ShotDocument } from './document'
import { hasLens } from './lens'
import { inOrder, type Rows } from './rows'
import { needsPlate } from './scene'
import type { Row } from '../declare/field'

/** With the keys of every object in order: a database may return them in another. */
function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, entry]) => [key, ordered(entry)]),
  )
}

/**
 * What is kept by id as the list that it was before it was (version 1): what was rendered then is not out of date
 * because the shot is kept in another form.
 */
const asList = <T extends Row>(rows: Rows<T> | undefined): Omit<T, 'order'>[] | undefined =>
  rows && inOrder(rows).map(({ order: _order, ...thing }) => thing)
const listed = ({ lights, volumes, added, prints, ...scene }: Omit<ShotDocument['scene'], 'track'>) => ({
  ...scene,
  lights: asList(lights)!,
  volumes: asList(volumes),
  added: asList(added)?.map(({ id: _id, ...thing }) => thing),
  prints: asList(prints),
})

/** Changes with anything that the passes are rendered from: passes with another stamp are out of date. */
export function sceneStamp(document: ShotDocument): string {
  const { file: _file, ...passes } = document.passes
  // Shadow trims and pins are laid on afterwards; the lens changes what must be seen beyond the frame
  const objects = Object.fromEntries(
    Object.entries(document.scene.objects).map(
      ([
        name,
        { shadowDensity: _density, shadowColour: _colour, pins: _pins, locked: _locked, group: _group, ...settings },
      ]) => [name, settings],
    ),
  )
  const { track: _track, ...held } = document.scene
  const scene = listed(held)
  const plate = needsPlate(document) ? document.plate : undefined
  const lens = hasLens(document) ? { k1: document.lens!.k1, k2: document.lens!.k2 } : undefined
  const cards = cardsStamp(document)
  return operatorKey(
    'scene',
    1,
    ordered([
      { ...scene, objects },
      passes,
      document.frame,
      ...(plate || lens ? [plate ?? null, lens ?? null] : []),
      ...(cards.length ? [{ cards }] : []),
    ]),
  )
}

/** What each pass is rendered from, in short: a pass whose stamp is the same still stands after a change. */
export function passStamps(document: ShotDocument, frame: number): Record<string, string> {
  const {
    scale,
    samples,
    seed,
    ranks,
    bounces,
    reach,
    falloff,
    cone,
    clamp,
    mist,
    outline,
    lens: opening,
    shutter,
    denoise,
    limits,
    noiseLevel,
    minutes,
  } = document.passes
  const { track: _track, ...held } = document.scene
  const { lights, environment, fileLights, volumes, ...scene } = listed(held)
  const lens = hasLens(document) ? { k1: document.lens!.k1, k2: document.lens!.k2 } : null
  const own = (pick: (settings: ObjectSettings) => unknown): unknown =>
    Object.fromEntries(Object.entries(scene.objects).map(([name, settings]) => [name, pick(settings)]))
  const shape = own(
    ({
      shadowDensity: _density,
      shadowColour: _colour,
      pins: _pins,
      locked: _locked,
      group: _group,
      darkens: _darkens,
      darkened: _darkened,
      ownShadow: _own,
      wet: _wet,
      wetRoughness: _rough,
      ofPlate: _plate,
      ...settings
    }) => settings,
  )
  const things = [
    { ...scene, objects: shape },
    document.frame,
    lens,
    frame,
    scale,
    ...(opening ? [opening] : []),
    ...(shutter ? [{ shutter }] : []),
  ]
  const sampled = [...things, samples, seed, noiseLevel, minutes]
  // Figures in the scene are not seen by its camera: what shows only that stands
  const figures = cardsStamp(document)
  const cards = figures.length ? [{ cards: figures }] : []
  const light = [
    ...sampled,
    lights,
    environment ?? null,
    fileLights,
    bounces,
    clamp,
    denoise,
    limits?.light,
    limits?.shadow,
    own(({ ofPlate }) => ofPlate),
    needsPlate(document) ? document.plate : null,
    ...cards,
  ]
  const of = ({ needs, coverage, id }: PassDefinition): unknown => {
    switch (needs) {
      case 'outline':
        return [things, outline]
      case 'occlusion':
        return [
          ...[sampled, reach, falloff, cone, limits?.occlusion],
          own(({ darkens, darkened }) => [darkens, darkened]),
          ...cards,
        ]
      case 'rest':
        return [sampled, document.frames.first]
      case 'mist':
        return [sampled, mist]
      case 'through':
      case 'mirrored':
        return [sampled, limits?.beyond, coverage && ranks, ...cards]
      case 'shadow_chosen':
        return [light, own(({ ownShadow }) => ownShadow)]
      case 'volume':
        return [light, volumes]
      case 'wet':
        return [light, own(({ wet, wetRoughness }) => [wet, wetRoughness])]
      case 'light':
      case 'raw':
      case 'groups':
      case 'noise':
      case 'shadow':
      case 'shadow_objects':
        return light
      default:
        return [sampled, coverage && ranks, id === 'crypto_asset']
    }
  }
  return Object.fromEntries(PASSES.map(pass => [pass.id, operatorKey('pass', 1, ordered(of(pass)))]))
}

/** Passes of the choice that are not there, or not from what the shot is now: all when the file cannot be added to. */
export function touchedPasses(document: ShotDocument, frame: number): string[] {
  const { file, selected } = document.passes
  const stamps = file?.stamps
  if (!stamps || file.frames) return [...selected]
  const now = passStamps(document, frame)
  return selected.filter(id => !file.passes.includes(id) || stamps[id] !== now[id])
}
