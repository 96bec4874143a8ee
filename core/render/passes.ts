// The registry of passes: what each is, what it is measured in, and the channels it has in a file.
import { beyond, coverage, rgb, xyz, type NamesOf, type PassDefinition, type Seen } from './passdefinition'

export {
  PASS_GROUPS,
  type NamesOf,
  type PassDefinition,
  type PassKind,
  type PassGroup,
  type Seen,
} from './passdefinition'

/** Before a channel's name: the same with its noise taken out. */
export const CLEAN = 'clean.'
/** How much of that is laid over what was rendered unless said otherwise (common practice: 80 %). */
export const CLEAN_AMOUNT = 0.8
/** The pass that is as many as there are lights: in a file, and where one is named, each is by_light.NAME. */
export const BY_LIGHT = 'by_light'
export const lightLayer = (group: string): string => `${BY_LIGHT}.${group.replaceAll('.', '_')}`
export const PASSES: readonly PassDefinition[] = [
  {
    id: 'beauty',
    label: 'beauty',
    help: 'All light that the camera sees: the sum of the six light passes.',
    kind: 'light',
    group: 'Light',
    channels: ['R', 'G', 'B'],
    needs: 'light',
  },
  {
    id: 'alpha',
    label: 'alpha',
    help: 'How much of the pixel the objects cover.',
    kind: 'share',
    group: 'Light',
    channels: ['A'],
  },
  {
    id: 'diffuse_direct',
    label: 'direct light',
    help: 'Light from sources that matt surfaces scatter.',
    kind: 'light',
    group: 'Light',
    channels: rgb('diffuse_direct'),
    needs: 'light',
  },
  {
    id: 'diffuse_indirect',
    label: 'indirect light',
    help: 'Light from other surfaces that matt surfaces scatter.',
    kind: 'light',
    group: 'Light',
    channels: rgb('diffuse_indirect'),
    needs: 'light',
  },
  {
    id: 'reflection',
    label: 'reflection',
    help: 'What shiny surfaces mirror, sources and surroundings.',
    kind: 'light',
    group: 'Light',
    channels: rgb('reflection'),
    needs: 'light',
  },
  {
    id: 'refraction',
    label: 'refraction',
    help: 'What is seen through glass, bent by it.',
    kind: 'light',
    group: 'Light',
    channels: rgb('refraction'),
    needs: 'light',
  },
  {
    id: 'emission',
    label: 'emission',
    help: 'What shines by itself.',
    kind: 'light',
    group: 'Light',
    channels: rgb('emission'),
    needs: 'light',
  },
  {
    id: 'environment',
    label: 'environment',
    help: 'The environment where the camera sees it.',
    kind: 'light',
    group: 'Light',
    channels: rgb('environment'),
    needs: 'light',
  },
  {
    id: 'raw_direct',
    label: 'raw direct light',
    help: 'Direct light before the surface colours it: times the surface colour it is the direct light.',
    kind: 'light',
    group: 'Light',
    channels: rgb('raw_direct'),
    needs: 'raw',
  },
  {
    id: 'raw_indirect',
    label: 'raw indirect light',
    help: 'Indirect light before the surface colours it: times the surface colour it is the indirect light.',
    kind: 'light',
    group: 'Light',
    channels: rgb('raw_indirect'),
    needs: 'raw',
  },
  {
    id: BY_LIGHT,
    label: 'each light',
    help: 'A beauty for each lamp or group of lamps, the environment and what shines; they add up to the beauty. The desk relights the picture by them.',
    kind: 'light',
    group: 'Light',
    channels: [],
    needs: 'groups',
  },
  {
    id: 'noise',
    label: 'noise',
    help: 'How uncertain the beauty is: its standard deviation, measured between the samples.',
    kind: 'light',
    group: 'Light',
    channels: rgb('noise'),
    needs: 'noise',
  },
  {
    id: 'shadow',
    label: 'shadow',
    help: 'On shadow catchers: light with the objects ÷ light without. Multiplies the plate.',
    kind: 'ratio',
    group: 'Light',
    channels: rgb('shadow'),
    needs: 'shadow',
  },
  {
    id: 'shadow_alpha',
    label: 'shadow as alpha',
    help: 'How dark the shadow on catchers is: 1 less its brightness.',
    kind: 'share',
    group: 'Light',
    channels: ['shadow_alpha.A'],
    needs: 'shadow',
  },
  {
    id: 'shadow_objects',
    label: 'shadow on objects',
    help: 'On objects: light with its shadows ÷ light without any.',
    kind: 'ratio',
    group: 'Light',
    channels: rgb('shadow_objects'),
    needs: 'shadow_objects',
  },
  {
    id: 'shadow_chosen',
    label: 'shadow of chosen objects',
    help: 'On catchers and objects: light ÷ light without those objects whose shadow is kept on its own.',
    kind: 'ratio',
    group: 'Light',
    channels: rgb('shadow_chosen'),
    needs: 'shadow_chosen',
  },
  {
    id: 'wet',
    label: 'wet ground',
    help: 'What wet catchers mirror of the objects, less what they mirror without them. Is added to the plate.',
    kind: 'light',
    group: 'Light',
    channels: rgb('wet'),
    needs: 'wet',
  },
  {
    id: 'volume',
    label: 'air',
    help: 'Light that mist, smoke or water in the scene scatters to the camera, and as its alpha what they take of what is behind. Laid over everything, as much of it as wanted.',
    kind: 'light',
    group: 'Light',
    channels: [...rgb('volume'), 'volume.A'],
    needs: 'volume',
  },
  {
    id: 'albedo',
    label: 'surface colour',
    help: 'The colour of the surface without light, times its coverage.',
    kind: 'colour',
    group: 'Shape',
    channels: rgb('albedo'),
    needs: 'surface',
  },
  {
    id: 'normal',
    label: 'normals',
    help: 'Which way the surface faces, in world axes.',
    kind: 'direction',
    group: 'Shape',
    channels: xyz('normal'),
    needs: 'surface',
  },
  {
    id: 'normal_camera',
    label: 'normals to the camera',
    help: 'Which way the surface faces, in the camera’s axes: right, up, towards it.',
    kind: 'direction',
    group: 'Shape',
    channels: xyz('normal_camera'),
    needs: 'surface',
  },
  {
    id: 'facing',
    label: 'facing',
    help: '1 where the surface faces the camera, 0 where it turns away.',
    kind: 'share',
    group: 'Shape',
    channels: ['facing.Y'],
    needs: 'surface',
  },
  {
    id: 'depth',
    label: 'depth',
    help: 'Metres along the view axis at the middle of the pixel.',
    kind: 'metres',
    group: 'Shape',
    channels: ['depth.Z'],
  },
  {
    id: 'depth_mean',
    label: 'depth by coverage',
    help: 'Metres along the view axis, mean over what covers the pixel: smooth at edges, for mist and blur.',
    kind: 'metres',
    group: 'Shape',
    channels: ['depth_mean.Z'],
    needs: 'surface',
  },
  {
    id: 'mist',
    label: 'mist',
    help: 'A smooth ramp of distance: 0 near, 1 far and where nothing is; smooth at edges.',
    kind: 'share',
    group: 'Shape',
    channels: ['mist.Y'],
    needs: 'mist',
  },
  {
    id: 'outline',
    label: 'outline',
    help: 'Lines round things, along folds and between materials. To be inked, or taken out of the objects’ edges.',
    kind: 'share',
    group: 'Shape',
    channels: ['outline.Y'],
    needs: 'outline',
  },
  {
    id: 'position',
    label: 'place',
    help: 'Where the surface is in the world, metres, at the middle of the pixel.',
    kind: 'place',
    group: 'Shape',
    channels: xyz('position'),
    needs: 'place',
  },
  {
    id: 'uv',
    label: 'texture place',
    help: 'Texture coordinates at the middle of the pixel; v grows downwards, as in glTF.',
    kind: 'uv',
    group: 'Shape',
    channels: ['uv.U', 'uv.V'],
    needs: 'place',
  },
  {
    id: 'motion_forward',
    label: 'motion forward',
    help: 'Pixels to where the surface is a frame on: right and down.',
    kind: 'motion',
    group: 'Shape',
    channels: ['motion_forward.X', 'motion_forward.Y'],
    needs: 'motion',
  },
  {
    id: 'motion_back',
    label: 'motion back',
    help: 'Pixels to where the surface was a frame ago: right and down.',
    kind: 'motion',
    group: 'Shape',
    channels: ['motion_back.X', 'motion_back.Y'],
    needs: 'motion',
  },
  {
    id: 'occlusion',
    label: 'occlusion',
    help: '1 in the open, 0 in closed creases.',
    kind: 'share',
    group: 'Shape',
    channels: ['occlusion.Y'],
    needs: 'occlusion',
  },
  {
    id: 'object_id',
    label: 'object number',
    help: 'A number for each object, 0 for none.',
    kind: 'id',
    group: 'Names',
    channels: ['object_id.I'],
  },
  {
    id: 'material_id',
    label: 'material number',
    help: 'A number for each material, 0 for none.',
    kind: 'id',
    group: 'Names',
    channels: ['material_id.I'],
  },
  {
    id: 'catcher_id',
    label: 'catcher number',
    help: 'A number for each shadow catcher, 0 for none: which of them a shadow falls on.',
    kind: 'id',
    group: 'Names',
    channels: ['catcher_id.I'],
  },
  coverage(
    'crypto_object',
    'objects',
    'Cryptomatte: how much of each pixel each object covers, by name.',
    'objects',
    'straight',
    'Names',
  ),
  coverage(
    'crypto_material',
    'materials',
    'Cryptomatte: how much of each pixel each material covers, by name.',
    'materials',
    'straight',
    'Names',
  ),
  coverage(
    'crypto_asset',
    'wholes',
    'Cryptomatte: how much of each pixel each whole thing covers (all parts under one node of the file).',
    'assets',
    'straight',
    'Names',
  ),
  ...beyond('through', 'Behind glass', 'seen, glass being as clear as air but for its bending'),
  ...beyond('mirrored', 'Mirrored', 'mirrored by smooth surfaces'),
]
export const PASS_IDS: readonly string[] = PASSES.map(pass => pass.id)
/** What a new shot renders; the rest is asked for. */
export const DEFAULT_PASSES: readonly string[] = PASS_IDS.filter(
  id =>
    !/^(through|mirrored|raw)_/.test(id) &&
    ![
      'normal_camera',
      'facing',
      'depth_mean',
      'position',
      'uv',
      'motion_forward',
      'motion_back',
      'crypto_asset',
      'noise',
      'shadow_alpha',
      'shadow_objects',
      'shadow_chosen',
      'wet',
      'mist',
      'outline',
      'volume',
    ].includes(id),
)
export const LIGHT_PARTS = [
  'diffuse_direct',
  'diffuse_indirect',
  'reflection',
  'refraction',
  'emission',
  'environment',
] as const
export type LightPart = (typeof LIGHT_PARTS)[number]
/** The Cryptomatte pass of those names, seen so. */
export const coveragePass = (of: NamesOf, seen: Seen): PassDefinition | undefined =>
  PASSES.find(pass => pass.coverage?.of === of && pass.coverage.seen === seen)
/** The pass of an id, or the one light of “each light” that it names. */
export const passOf = (id: string): PassDefinition | undefined =>
  PASSES.find(pass => pass.id === id) ??
  (id.startsWith(`${BY_LIGHT}.`)
    ? {
        ...PASSES.find(pass => pass.id === BY_LIGHT)!,
        id,
        label: `light of ${id.slice(BY_LIGHT.length + 1)}`,
        channels: rgb(id),
      }
    : undefined)
/** Passes one by one as they are looked at: each light on its own. */
export const eachPass = (ids: readonly string[], lights: readonly string[] = []): string[] =>
  ids.flatMap(id => (id === BY_LIGHT ? lights.map(lightLayer) : [id]))
/** Light and colours are looked at through a view; what is a number is shown as it stands. */
export const seenPlain = (id: string): boolean => !['light', 'ratio', 'colour'].includes(passOf(id)?.kind ?? '')
export const isDepth = (id: string | null): boolean => id !== null && passOf(id)?.kind === 'metres'
/** Whether any of the passes needs that. */
export const anyNeeds = (ids: readonly string[], needs: PassDefinition['needs']): boolean =>
  PASSES.some(pass => pass.needs === needs && ids.includes(pass.id))

/** Metres between which the mist rises unless said otherwise. */
export const MIST = { near: 5, far: 100 }
/** Depth written where there is no surface: finite, so that arithmetic on it stays finite. */
export const NO_DEPTH = 1e10
/** Ranks of a Cryptomatte pass unless asked otherwise (common practice: 6), and the most. */
export const CRYPTO_RANKS = 6
export const MOST_CRYPTO_RANKS = 8
