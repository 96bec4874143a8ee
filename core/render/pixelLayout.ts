// Where the accumulator keeps what of a pixel.
import * as L from '../../kernels/assembly/layout'
import { anyNeeds, CRYPTO_RANKS, PASSES } from './passes'

/** Where the blocks of a pixel begin, in floats; 0 for those that are not there. */
export interface PixelLayout {
  light: number
  groups: number
  groupCount: number
  raw: number
  noise: number
  surface: number
  place: number
  motion: boolean
  rest: number
  occlusion: number
  shadow: number
  shadowObjects: number
  shadowChosen: number
  wet: number
  mist: number
  volume: number
  through: number
  mirrored: number
  /** Cryptomatte, by the pass. */
  coverage: Record<string, number>
  stride: number
  ranks: number
  slots: number
}

/**
 * groupCount: groups of light in the scene. keepNoise: what noise is measured by is kept of the light and the shadow
 * that are rendered anyway.
 */
export function pixelLayout(
  passes: readonly string[],
  ranks = CRYPTO_RANKS,
  groupCount = 0,
  keepNoise = false,
): PixelLayout {
  let stride = L.PIXEL_HEAD
  const block = (wanted: boolean, size: number): number => {
    if (!wanted) return 0
    const at = stride
    stride += size
    return at
  }
  const slots = ranks + L.SPARE_SLOTS
  const motion = anyNeeds(passes, 'motion')
  const raw = anyNeeds(passes, 'raw')
  const groups = anyNeeds(passes, 'groups')
  const noise = anyNeeds(passes, 'noise')
  return {
    light: block(raw || groups || noise || anyNeeds(passes, 'light'), L.LIGHT_BLOCK),
    groups: block(groups && groupCount > 0, groupCount * 3),
    groupCount,
    raw: block(raw, L.RAW_BLOCK),
    noise: block(noise || keepNoise, L.NOISE_BLOCK),
    surface: block(anyNeeds(passes, 'surface'), L.SURFACE_BLOCK),
    place: block(motion || anyNeeds(passes, 'place'), L.PLACE_BLOCK),
    motion,
    rest: block(anyNeeds(passes, 'rest'), L.REST_BLOCK),
    occlusion: block(anyNeeds(passes, 'occlusion'), L.OCCLUSION_BLOCK),
    shadow: block(anyNeeds(passes, 'shadow'), L.SHADOW_BLOCK),
    shadowObjects: block(anyNeeds(passes, 'shadow_objects'), L.SHADOW_BLOCK),
    shadowChosen: block(anyNeeds(passes, 'shadow_chosen'), L.SHADOW_BLOCK),
    wet: block(anyNeeds(passes, 'wet'), L.LIGHT_BLOCK),
    mist: block(anyNeeds(passes, 'mist'), 1),
    volume: block(anyNeeds(passes, 'volume'), L.VOLUME_BLOCK),
    through: block(anyNeeds(passes, 'through'), L.BEYOND_BLOCK),
    mirrored: block(anyNeeds(passes, 'mirrored'), L.BEYOND_BLOCK),
    coverage: Object.fromEntries(
      PASSES.filter(pass => pass.coverage && passes.includes(pass.id)).map(pass => [pass.id, block(true, slots * 2)]),
    ),
    stride,
    ranks,
    slots,
  }
}
