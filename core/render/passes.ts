// The registry of passes: what each is, what it is measured in, and the channels it has in a file.
export type PassKind = 'light' | 'ratio' | 'colour' | 'direction' | 'metres' | 'share' | 'id' | 'coverage'

export interface PassDefinition {
  id: string
  label: string
  help: string
  kind: PassKind
  group: 'Light' | 'Shape' | 'Names'
  /** Channel names in a file; cryptomatte passes make theirs from their levels. */
  channels: readonly string[]
  /** What the renderer must do for it beyond finding the surface. */
  needs?: 'light' | 'occlusion' | 'shadow'
}

const rgb = (id: string): string[] => [`${id}.R`, `${id}.G`, `${id}.B`]

export const PASSES: readonly PassDefinition[] = [
  { id: 'beauty', label: 'beauty', help: 'All light that the camera sees: the sum of the five light passes.', kind: 'light', group: 'Light', channels: ['R', 'G', 'B'], needs: 'light' },
  { id: 'alpha', label: 'alpha', help: 'How much of the pixel the objects cover.', kind: 'share', group: 'Light', channels: ['A'] },
  { id: 'diffuse_direct', label: 'direct light', help: 'Light from sources that matt surfaces scatter.', kind: 'light', group: 'Light', channels: rgb('diffuse_direct'), needs: 'light' },
  { id: 'diffuse_indirect', label: 'indirect light', help: 'Light from other surfaces that matt surfaces scatter.', kind: 'light', group: 'Light', channels: rgb('diffuse_indirect'), needs: 'light' },
  { id: 'reflection', label: 'reflection', help: 'What shiny surfaces mirror, sources and surroundings.', kind: 'light', group: 'Light', channels: rgb('reflection'), needs: 'light' },
  { id: 'emission', label: 'emission', help: 'What shines by itself.', kind: 'light', group: 'Light', channels: rgb('emission'), needs: 'light' },
  { id: 'environment', label: 'environment', help: 'The environment where the camera sees it.', kind: 'light', group: 'Light', channels: rgb('environment'), needs: 'light' },
  { id: 'shadow', label: 'shadow', help: 'On shadow catchers: light with the objects ÷ light without. Multiplies the plate.', kind: 'ratio', group: 'Light', channels: rgb('shadow'), needs: 'shadow' },
  { id: 'albedo', label: 'surface colour', help: 'The colour of the surface without light, times its coverage.', kind: 'colour', group: 'Shape', channels: rgb('albedo') },
  { id: 'normal', label: 'normals', help: 'Which way the surface faces, in world axes.', kind: 'direction', group: 'Shape', channels: ['normal.X', 'normal.Y', 'normal.Z'] },
  { id: 'depth', label: 'depth', help: 'Metres along the view axis at the middle of the pixel.', kind: 'metres', group: 'Shape', channels: ['depth.Z'] },
  { id: 'occlusion', label: 'occlusion', help: '1 in the open, 0 in closed creases.', kind: 'share', group: 'Shape', channels: ['occlusion.Y'], needs: 'occlusion' },
  { id: 'object_id', label: 'object number', help: 'A number for each object, 0 for none.', kind: 'id', group: 'Names', channels: ['object_id.I'] },
  { id: 'material_id', label: 'material number', help: 'A number for each material, 0 for none.', kind: 'id', group: 'Names', channels: ['material_id.I'] },
  { id: 'catcher_id', label: 'catcher number', help: 'A number for each shadow catcher, 0 for none: which of them a shadow falls on.', kind: 'id', group: 'Names', channels: ['catcher_id.I'] },
  { id: 'crypto_object', label: 'objects', help: 'Cryptomatte: how much of each pixel each object covers, by name.', kind: 'coverage', group: 'Names', channels: [] },
  { id: 'crypto_material', label: 'materials', help: 'Cryptomatte: how much of each pixel each material covers, by name.', kind: 'coverage', group: 'Names', channels: [] },
]
export const PASS_IDS: readonly string[] = PASSES.map(pass => pass.id)
export const LIGHT_PARTS = ['diffuse_direct', 'diffuse_indirect', 'reflection', 'emission', 'environment'] as const
export type LightPart = typeof LIGHT_PARTS[number]
export const passOf = (id: string): PassDefinition | undefined => PASSES.find(pass => pass.id === id)

/** Depth written where there is no surface: finite, so that arithmetic on it stays finite. */
export const NO_DEPTH = 1e10
/** Ranks of a Cryptomatte pass unless asked otherwise (common practice: 6). */
export const CRYPTO_RANKS = 6
