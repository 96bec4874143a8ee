// The registry of passes: what each is, what it is measured in, and the channels it has in a file.
export type PassKind = 'light' | 'ratio' | 'colour' | 'direction' | 'metres' | 'place' | 'motion' | 'uv' | 'share' | 'id' | 'coverage'

export interface PassDefinition {
  id: string
  label: string
  help: string
  kind: PassKind
  group: 'Light' | 'Shape' | 'Names'
  /** Channel names in a file; cryptomatte passes make theirs from their levels. */
  channels: readonly string[]
  /** What the renderer must keep for it beyond the nearest surface. */
  needs?: 'light' | 'occlusion' | 'shadow' | 'surface' | 'place' | 'motion'
}

const rgb = (id: string): string[] => [`${id}.R`, `${id}.G`, `${id}.B`]
const xyz = (id: string): string[] => [`${id}.X`, `${id}.Y`, `${id}.Z`]

export const PASSES: readonly PassDefinition[] = [
  { id: 'beauty', label: 'beauty', help: 'All light that the camera sees: the sum of the six light passes.', kind: 'light', group: 'Light', channels: ['R', 'G', 'B'], needs: 'light' },
  { id: 'alpha', label: 'alpha', help: 'How much of the pixel the objects cover.', kind: 'share', group: 'Light', channels: ['A'] },
  { id: 'diffuse_direct', label: 'direct light', help: 'Light from sources that matt surfaces scatter.', kind: 'light', group: 'Light', channels: rgb('diffuse_direct'), needs: 'light' },
  { id: 'diffuse_indirect', label: 'indirect light', help: 'Light from other surfaces that matt surfaces scatter.', kind: 'light', group: 'Light', channels: rgb('diffuse_indirect'), needs: 'light' },
  { id: 'reflection', label: 'reflection', help: 'What shiny surfaces mirror, sources and surroundings.', kind: 'light', group: 'Light', channels: rgb('reflection'), needs: 'light' },
  { id: 'refraction', label: 'refraction', help: 'What is seen through glass, bent by it.', kind: 'light', group: 'Light', channels: rgb('refraction'), needs: 'light' },
  { id: 'emission', label: 'emission', help: 'What shines by itself.', kind: 'light', group: 'Light', channels: rgb('emission'), needs: 'light' },
  { id: 'environment', label: 'environment', help: 'The environment where the camera sees it.', kind: 'light', group: 'Light', channels: rgb('environment'), needs: 'light' },
  { id: 'shadow', label: 'shadow', help: 'On shadow catchers: light with the objects ÷ light without. Multiplies the plate.', kind: 'ratio', group: 'Light', channels: rgb('shadow'), needs: 'shadow' },
  { id: 'albedo', label: 'surface colour', help: 'The colour of the surface without light, times its coverage.', kind: 'colour', group: 'Shape', channels: rgb('albedo'), needs: 'surface' },
  { id: 'normal', label: 'normals', help: 'Which way the surface faces, in world axes.', kind: 'direction', group: 'Shape', channels: xyz('normal'), needs: 'surface' },
  { id: 'normal_camera', label: 'normals to the camera', help: 'Which way the surface faces, in the camera’s axes: right, up, towards it.', kind: 'direction', group: 'Shape', channels: xyz('normal_camera'), needs: 'surface' },
  { id: 'facing', label: 'facing', help: '1 where the surface faces the camera, 0 where it turns away.', kind: 'share', group: 'Shape', channels: ['facing.Y'], needs: 'surface' },
  { id: 'depth', label: 'depth', help: 'Metres along the view axis at the middle of the pixel.', kind: 'metres', group: 'Shape', channels: ['depth.Z'] },
  { id: 'depth_mean', label: 'depth by coverage', help: 'Metres along the view axis, mean over what covers the pixel: smooth at edges, for mist and blur.', kind: 'metres', group: 'Shape', channels: ['depth_mean.Z'], needs: 'surface' },
  { id: 'position', label: 'place', help: 'Where the surface is in the world, metres, at the middle of the pixel.', kind: 'place', group: 'Shape', channels: xyz('position'), needs: 'place' },
  { id: 'uv', label: 'texture place', help: 'Texture coordinates at the middle of the pixel; v grows downwards, as in glTF.', kind: 'uv', group: 'Shape', channels: ['uv.U', 'uv.V'], needs: 'place' },
  { id: 'motion_forward', label: 'motion forward', help: 'Pixels to where the surface is a frame on: right and down.', kind: 'motion', group: 'Shape', channels: ['motion_forward.X', 'motion_forward.Y'], needs: 'motion' },
  { id: 'motion_back', label: 'motion back', help: 'Pixels to where the surface was a frame ago: right and down.', kind: 'motion', group: 'Shape', channels: ['motion_back.X', 'motion_back.Y'], needs: 'motion' },
  { id: 'occlusion', label: 'occlusion', help: '1 in the open, 0 in closed creases.', kind: 'share', group: 'Shape', channels: ['occlusion.Y'], needs: 'occlusion' },
  { id: 'object_id', label: 'object number', help: 'A number for each object, 0 for none.', kind: 'id', group: 'Names', channels: ['object_id.I'] },
  { id: 'material_id', label: 'material number', help: 'A number for each material, 0 for none.', kind: 'id', group: 'Names', channels: ['material_id.I'] },
  { id: 'catcher_id', label: 'catcher number', help: 'A number for each shadow catcher, 0 for none: which of them a shadow falls on.', kind: 'id', group: 'Names', channels: ['catcher_id.I'] },
  { id: 'crypto_object', label: 'objects', help: 'Cryptomatte: how much of each pixel each object covers, by name.', kind: 'coverage', group: 'Names', channels: [] },
  { id: 'crypto_material', label: 'materials', help: 'Cryptomatte: how much of each pixel each material covers, by name.', kind: 'coverage', group: 'Names', channels: [] },
  { id: 'crypto_asset', label: 'wholes', help: 'Cryptomatte: how much of each pixel each whole thing covers (all parts under one node of the file).', kind: 'coverage', group: 'Names', channels: [] },
]
export const PASS_IDS: readonly string[] = PASSES.map(pass => pass.id)
/** What a new shot renders; the rest is asked for. */
export const DEFAULT_PASSES: readonly string[] = PASS_IDS.filter(id => !['normal_camera', 'facing', 'depth_mean', 'position', 'uv', 'motion_forward', 'motion_back', 'crypto_asset'].includes(id))
export const LIGHT_PARTS = ['diffuse_direct', 'diffuse_indirect', 'reflection', 'refraction', 'emission', 'environment'] as const
export type LightPart = typeof LIGHT_PARTS[number]
export const passOf = (id: string): PassDefinition | undefined => PASSES.find(pass => pass.id === id)
/** Light and colours are looked at through a view; what is a number is shown as it stands. */
export const seenPlain = (id: string): boolean => !['light', 'ratio', 'colour'].includes(passOf(id)?.kind ?? '')
export const isDepth = (id: string | null): boolean => id !== null && passOf(id)?.kind === 'metres'
/** Whether any of the passes needs that. */
export const anyNeeds = (ids: readonly string[], needs: PassDefinition['needs']): boolean => PASSES.some(pass => pass.needs === needs && ids.includes(pass.id))

/** Depth written where there is no surface: finite, so that arithmetic on it stays finite. */
export const NO_DEPTH = 1e10
/** Ranks of a Cryptomatte pass unless asked otherwise (common practice: 6), and the most. */
export const CRYPTO_RANKS = 6
export const MOST_CRYPTO_RANKS = 8
