// What is said of a pass, and the passes that are alike.
export type PassKind =
  'light' | 'ratio' | 'colour' | 'direction' | 'metres' | 'place' | 'motion' | 'uv' | 'share' | 'id' | 'coverage'

/**
 * How things are seen: as they stand, through glass as if it were not there but for its bending, or in what mirrors.
 */
export type Seen = 'straight' | 'through' | 'mirrored'
export type NamesOf = 'objects' | 'materials' | 'assets'
export const PASS_GROUPS = ['Light', 'Shape', 'Names', 'Behind glass', 'Mirrored'] as const
export type PassGroup = (typeof PASS_GROUPS)[number]

export interface PassDefinition {
  id: string
  label: string
  help: string
  kind: PassKind
  group: PassGroup
  /** Channel names in a file; cryptomatte passes make theirs from their levels. */
  channels: readonly string[]
  /** What the renderer must keep for it beyond the nearest surface. */
  needs?:
    | 'light'
    | 'occlusion'
    | 'shadow'
    | 'surface'
    | 'place'
    | 'motion'
    | 'rest'
    | 'through'
    | 'mirrored'
    | 'raw'
    | 'groups'
    | 'noise'
    | 'shadow_objects'
    | 'shadow_chosen'
    | 'wet'
    | 'mist'
    | 'outline'
    | 'volume'
  /** Of a Cryptomatte: name of its layers in a file, and what it names. */
  coverage?: { layer: string; of: NamesOf; seen: Seen }
}

export const rgb = (id: string): string[] => [`${id}.R`, `${id}.G`, `${id}.B`]
export const xyz = (id: string): string[] => [`${id}.X`, `${id}.Y`, `${id}.Z`]
export const coverage = (
  id: string,
  label: string,
  help: string,
  of: NamesOf,
  seen: Seen,
  group: PassGroup,
  needs?: PassDefinition['needs'],
): PassDefinition => ({
  id,
  label,
  help,
  kind: 'coverage',
  group,
  channels: [],
  needs,
  coverage: {
    layer: id.replace(
      /(?:(\w+?)_)?crypto_(\w+)/,
      (_, how: string | undefined, what: string) => `crypto${how ? capital(how) : ''}${capital(what)}`,
    ),
    of,
    seen,
  },
})
const capital = (word: string): string => word[0]!.toUpperCase() + word.slice(1)
export const beyond = (seen: 'through' | 'mirrored', group: PassGroup, where: string): PassDefinition[] => [
  {
    id: `${seen}_depth`,
    label: 'depth',
    help: `Metres to what is ${where}, along the way that light takes, measured along the view axis.`,
    kind: 'metres',
    group,
    channels: [`${seen}_depth.Z`],
    needs: seen,
  },
  {
    id: `${seen}_albedo`,
    label: 'surface colour',
    help: `The colour of what is ${where}, without light, times its coverage.`,
    kind: 'colour',
    group,
    channels: rgb(`${seen}_albedo`),
    needs: seen,
  },
  {
    id: `${seen}_normal`,
    label: 'normals',
    help: `Which way the surface of what is ${where} faces, in world axes.`,
    kind: 'direction',
    group,
    channels: xyz(`${seen}_normal`),
    needs: seen,
  },
  {
    id: `${seen}_object_id`,
    label: 'object number',
    help: `A number for each object that is ${where}, 0 for none.`,
    kind: 'id',
    group,
    channels: [`${seen}_object_id.I`],
    needs: seen,
  },
  coverage(
    `${seen}_crypto_object`,
    'objects',
    `Cryptomatte: how much of each pixel each object fills that is ${where}, by name.`,
    'objects',
    seen,
    group,
    seen,
  ),
  coverage(
    `${seen}_crypto_material`,
    'materials',
    `Cryptomatte: how much of each pixel each material fills that is ${where}, by name.`,
    'materials',
    seen,
    group,
    seen,
  ),
]

export const LIGHT_PARTS = [
  'diffuse_direct',
  'diffuse_indirect',
  'reflection',
  'refraction',
  'emission',
  'environment',
] as const
export type LightPart = (typeof LIGHT_PARTS)[number]

/** Metres between which the mist rises unless said otherwise. */
export const MIST = { near: 5, far: 100 }
export { NO_DEPTH } from '../plan/picture'
/** Ranks of a Cryptomatte pass unless asked otherwise (common practice: 6), and the most. */
export const CRYPTO_RANKS = 6
export const MOST_CRYPTO_RANKS = 8

/** Before a channel's name: the same with its noise taken out. */
export const CLEAN = 'clean.'
/** How much of that is laid over what was rendered unless said otherwise (common practice: 80 %). */
export const CLEAN_AMOUNT = 0.8
/** The pass that is as many as there are lights: in a file, and where one is named, each is by_light.NAME. */
export const BY_LIGHT = 'by_light'
export const lightLayer = (group: string): string => `${BY_LIGHT}.${group.replaceAll('.', '_')}`
