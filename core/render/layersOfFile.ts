// The layers of a multi-layer OpenEXR by the names of its channels, and what each of them most likely is.
import type { PassReading } from '../shot/schema/reading'
import { lightLayer, passOf } from './passes'

/** Channels of a file that belong together: one, two or three, in their order. */
export interface TheirLayer {
  /** What stands before the last dot, with the letters of its channels. */
  name: string
  channels: string[]
}

/** Endings of channels that make one layer, as OpenEXR's naming by dots has them ("Technical Introduction to OpenEXR"). */
const TOGETHER = [
  ['R', 'G', 'B'],
  ['red', 'green', 'blue'],
  ['X', 'Y', 'Z'],
  ['U', 'V'],
  ['X', 'Y'],
  ['Z', 'W'],
]
export const isCoverageChannel = (name: string, sets: readonly string[]): boolean =>
  sets.some(set => name.toLowerCase().startsWith(set.toLowerCase()) && /^\d\d\./.test(name.slice(set.length)))

/** Layers of channels; sets: names of the file's Cryptomattes, whose channels are not among them. */
export function layersIn(names: readonly string[], sets: readonly string[] = []): TheirLayer[] {
  const prefixes = new Map<string, Map<string, string>>()
  for (const name of names) {
    if (isCoverageChannel(name, sets)) continue
    const dot = name.lastIndexOf('.')
    const before = name.slice(0, dot + 1)
    prefixes.set(before, (prefixes.get(before) ?? new Map<string, string>()).set(name.slice(dot + 1), name))
  }
  const out: TheirLayer[] = []
  for (const [before, endings] of prefixes) {
    const left = new Map(endings)
    // XYZ with a W is two pairs: motion to the frame before and to the one after
    const pairs = [...endings.keys()].some(ending => ending.toLowerCase() === 'w')
    for (const set of TOGETHER) {
      if (pairs && set.length === 3 && set[0] === 'X') continue
      for (const written of [set, set.map(letter => letter.toLowerCase())]) {
        const own = written.map(ending => left.get(ending))
        if (own.includes(undefined)) continue
        out.push({ name: before + (set[0]!.length > 1 ? 'rgb' : written.join('')), channels: own as string[] })
        written.forEach(ending => left.delete(ending))
      }
    }
    for (const name of left.values()) out.push({ name, channels: [name] })
  }
  // The same layer in two spellings
  const seen = new Set<string>()
  for (const layer of out) {
    while (seen.has(layer.name)) layer.name += ' again'
    seen.add(layer.name)
  }
  return out
}

/** Words of a name in small letters: CamelCase, figures and whatever is no letter take them apart. */
const wordsOf = (name: string): string[] =>
  name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .split(/[^A-Za-z]+/)
    .filter(Boolean)
    .map(word => word.toLowerCase())

/** Whether all of some beginnings of words are there; | separates ones of which one is enough. */
type Has = (...beginnings: string[]) => boolean
const hasOf = (name: string): Has => {
  const words = wordsOf(name)
  return (...beginnings) =>
    beginnings.every(one => one.split('|').some(beginning => words.some(word => word.startsWith(beginning))))
}

/**
 * What words of the trade mean (common practice, no source): the first that fits. A colour of a kind of surface by which light
 * is to be multiplied is no pass of ours unless it is that of matt ones.
 */
const MEANINGS: readonly (readonly [pass: string, counts: readonly number[], fits: (has: Has) => boolean])[] = [
  ['depth', [1, 3], has => has('depth|distance') && !has('field')],
  ['mist', [1, 3], has => has('mist|fog')],
  ['normal_camera', [3], has => has('norm', 'cam|view|screen')],
  ['normal', [3], has => has('norm')],
  ['uv', [2, 3], has => has('uv') || has('texture', 'coord')],
  ['position', [3], has => has('position|world')],
  ['motion_forward', [2, 3], has => has('motion|vector|veloc|speed', 'forw|next|zw')],
  ['motion_back', [2, 3], has => has('motion|vector|veloc|speed')],
  ['occlusion', [1, 3], has => has('occl') || has('ao')],
  ['facing', [1, 3], has => has('facing|fresnel')],
  ['material_id', [1], has => has('mat', 'id|index|number')],
  ['object_id', [1], has => has('id|index|number')],
  ['shadow', [3], has => has('shadow')],
  ['albedo', [3], has => has('albedo') || (has('diff|base|surface', 'col|filter') && !has('dir|ind|light'))],
  ['', [3], has => has('col|filter', 'gloss|spec|refl|trans|refr|subsurf')],
  ['noise', [3], has => has('noise|varian')],
  ['diffuse_indirect', [3], has => has('diff', 'ind') || has('global', 'illum') || has('gi')],
  ['diffuse_direct', [3], has => has('diff') || has('subsurf|sss')],
  ['refraction', [3], has => has('refr|trans')],
  ['reflection', [3], has => has('refl|spec|gloss|mirror|coat|sheen')],
  ['emission', [3], has => has('emi|shin|glow') || has('self', 'illum')],
  ['environment', [3], has => has('env|backg|backd|sky')],
  ['beauty', [3], has => has('beauty|rgba|final|whole|main')],
  ['alpha', [1], has => has('alpha|opacity|coverage')],
]
/** Those of which one layer is enough. */
const isSum = (pass: string): boolean => passOf(pass)?.kind === 'light' && !['beauty', 'noise'].includes(pass)

/** What all names begin with says nothing of any: up to a dot. */
function sharedStart(names: readonly string[]): string {
  const [first = ''] = names
  let end = first.length
  for (const name of names) while (!name.startsWith(first.slice(0, end))) end--
  return names.length > 1 ? first.slice(0, first.slice(0, end).lastIndexOf('.') + 1) : ''
}

/** What a layer by itself would be: a pass, or '' for none. */
function likelyPass({ name, channels }: TheirLayer): string {
  if (/^rgb$/i.test(name)) return 'beauty'
  if (/^a$/i.test(name)) return 'alpha'
  if (/^z$/i.test(name)) return 'depth'
  if (/^n\.xyz$/i.test(name)) return 'normal'
  if (/^p\.xyz$/i.test(name)) return 'position'
  // The letters of its channels are no words of its name; but those of a Z alone, or of what goes to the next frame
  const said = channels.length > 1 && !/zw$/i.test(name) ? name.slice(0, Math.max(0, name.lastIndexOf('.'))) : name
  const has = hasOf(said)
  // The alpha of a layer is its own, but that of the whole picture
  if (channels.length === 1 && /\.a$/i.test(name)) return has('beauty|rgba|final|whole|main') ? 'alpha' : ''
  if (channels.length === 1 && /\.z$/i.test(name) && !has('norm|position|motion|vector|veloc')) return 'depth'
  const found = MEANINGS.find(([, counts, fits]) => counts.includes(channels.length) && fits(has))
  if (found) return found[0]
  if (channels.length === 3 && has('light|lamp')) return lightLayer(said.slice(said.lastIndexOf('.') + 1))
  return ''
}

/** Light that may be kept apart from the colour of its surface, and how that is called. */
export const COLOURED: readonly (readonly [kind: string, is: string])[] = [
  ['diffuse_direct', 'diff'],
  ['diffuse_indirect', 'diff'],
  ['reflection', 'refl|spec|gloss'],
  ['refraction', 'refr|trans'],
]
function likelyColour(pass: string, layers: readonly TheirLayer[]): string | undefined {
  const is = COLOURED.find(([kind]) => kind === pass)?.[1]
  if (!is) return undefined
  return layers.find(({ name, channels }) => channels.length === 3 && hasOf(name)(is, 'col|filter'))?.name
}

/**
 * What a file most likely is, by the names of its layers and its Cryptomattes. apart: light is multiplied by the colour of its
 * surface where the file has that.
 */
export function likelyReading(layers: readonly TheirLayer[], sets: readonly string[], apart: boolean): PassReading {
  const takes: PassReading['takes'] = {}
  const start = sharedStart(layers.map(({ name }) => name)).length
  for (const layer of layers) {
    const pass = likelyPass({ ...layer, name: layer.name.slice(start) })
    if (!pass || (takes[pass] && !isSum(pass))) continue
    const times = apart ? likelyColour(pass, layers) : undefined
    ;(takes[pass] ??= []).push({ layer: layer.name, ...(times ? { times } : {}) })
  }
  const taken: Record<string, string> = {}
  for (const [pass, beginning] of [
    ['crypto_object', 'obj'],
    ['crypto_material', 'mat'],
    ['crypto_asset', 'asset'],
  ] as const) {
    const set = sets.find(name => hasOf(name)(beginning))
    if (set) taken[pass] = set
  }
  // A single one without a word of what it names is of objects
  const [first] = sets
  if (first && !Object.keys(taken).length) taken['crypto_object'] = first
  return {
    takes,
    ...(Object.keys(taken).length ? { sets: taken } : {}),
    ...(takes['depth'] ? { depth: { kind: 'metres' as const } } : {}),
    rest: true,
  }
}
