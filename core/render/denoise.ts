// Noise taken out of the light passes by guides and measured noise (kernels/assembly/denoise.ts). Data passes are never
// touched.
import * as L from '../../kernels/assembly/layout'
import { Denoise } from '../../kernels/records'
import { boxOf } from '../engine/box'
import type { Pool } from '../engine/pool'
import { litCounts, varianceAround, varianceByHalves, varianceOf } from './noise'
import type { Material } from '../scene/scene'
import { anyNeeds, LIGHT_PARTS, type LightPart } from './passes'
import type { Halves, RenderedPasses } from './planes'

/** How far it looks and what it takes for different; found on the demo's renders against 4096 samples. */
export interface DenoiseSettings {
  radius: number
  /** Noise that counts as a difference: the larger, the smoother. */
  noise: number
  albedo: number
  normal: number
}
export const DENOISE: DenoiseSettings = { radius: 3, noise: 1.3, albedo: 0.08, normal: 0.3 }

/** Samples below which a pixel’s own say too little of its noise: those about it do instead. */
const FEW = 8

export interface Guide {
  /** Interleaved channels. */
  plane: Float32Array
  channels: number
  /** Difference that makes a neighbour count for less (e to the minus 1). */
  like: number
}
export interface DenoiseInput {
  width: number
  height: number
  /** Light that is compared, one float a pixel, and its variance. */
  light: Float32Array
  variance: Float32Array
  guides: Guide[]
  /** What is filtered: one float a pixel, or RGB triples. */
  layers: Float32Array[]
}

/** Pixels between those that the second look takes, how far it goes in them, and how much more it takes for noise. */
const SECOND = { step: 3, radius: 2, noise: 1.5 }

const channelsOf = (layer: Float32Array, { width, height }: DenoiseInput): number => layer.length / (width * height)

/**
 * The layers with the noise taken out: from near, and then what is left of it, which spreads over more than that sees,
 * from further off (as in H. Dammertz and others, "Edge-avoiding à-trous wavelet transform", HPG 2010). Throws
 * OutOfMemory.
 */
export function denoiseLayers(
  pool: Pool,
  input: DenoiseInput,
  { radius, noise }: Pick<DenoiseSettings, 'radius' | 'noise'>,
): Float32Array[] {
  const { width, height, light, variance, guides, layers } = input
  const { kernels } = pool
  const pad = Math.ceil((Math.max(radius, SECOND.radius * SECOND.step) + 6) / 4) * 4
  const stride = Math.ceil((width + pad * 2) / 4) * 4
  const rows = height + pad * 2
  const size = stride * rows
  const guideCount = guides.reduce((sum, guide) => sum + guide.channels, 0)
  const count = layers.reduce((sum, layer) => sum + channelsOf(layer, input), 0)
  const bands = Math.ceil(height / L.BAND_ROWS)
  const owned: number[] = []
  const own = (pointer: number): number => {
    owned.push(pointer)
    return pointer
  }
  try {
    // Light, variance, where the picture is, guides, layers, and light once more: the first look filters it too
    const planes = own(kernels.allocate(size * 4 * (3 + guideCount + count + 1)))
    const out = own(kernels.allocate(size * 4 * (count + 2)))
    const room = own(kernels.allocate(kernels.exports.denoiseRoom(count + 1) * bands))
    const weights = own(
      kernels.place(
        Float32Array.from(guides.flatMap(guide => Array.from({ length: guide.channels }, () => 1 / guide.like ** 2))),
      ),
    )
    const planeAt = (from: number, index: number): Float32Array => kernels.floats(from + index * size * 4, size)
    const firstLayer = 3 + guideCount
    let next = 0
    const put = (from: Float32Array, channels: number): void => {
      for (let c = 0; c < channels; c++, next++) {
        const to = planeAt(planes, next)
        for (let y = 0; y < height; y++) {
          const row = (y + pad) * stride + pad
          for (let x = 0, at = y * width * channels + c; x < width; x++, at += channels) to[row + x] = from[at]!
        }
        repeatEdges(to, width, height, stride, pad)
      }
    }
    put(light, 1)
    put(variance, 1)
    const inside = planeAt(planes, next++)
    inside.fill(0)
    for (let y = 0; y < height; y++) inside.fill(1, (y + pad) * stride + pad, (y + pad) * stride + pad + width)
    for (const guide of guides) put(guide.plane, guide.channels)
    for (const layer of layers) put(layer, channelsOf(layer, input))
    planeAt(planes, next).set(planeAt(planes, 0))
    const look = (layerCount: number, reach: number, step: number, gain: number): void =>
      pool.run(Denoise, boxOf(width, height), {
        planes,
        out,
        room,
        weights,
        left: out + layerCount * size * 4,
        plane: size * 4,
        stride: stride * 4,
        padding: pad,
        guides: guideCount,
        layers: layerCount,
        radius: reach,
        step,
        gain: gain * gain,
      })
    look(count + 1, radius, 1, noise)
    // What came out of the first look goes into the second, and of the variance the share that is left
    for (let layer = 0; layer <= count; layer++) {
      const to = planeAt(planes, layer < count ? firstLayer + layer : 0)
      to.set(planeAt(out, layer))
      repeatEdges(to, width, height, stride, pad)
    }
    const left = planeAt(out, count + 1)
    const noisy = planeAt(planes, 1)
    for (let i = pad * stride, end = (pad + height) * stride; i < end; i++) noisy[i]! *= left[i]!
    repeatEdges(noisy, width, height, stride, pad)
    look(count, SECOND.radius, SECOND.step, noise * SECOND.noise)
    let from = 0
    return layers.map(layer => {
      const channels = channelsOf(layer, input)
      const result = new Float32Array(width * height * channels)
      for (let c = 0; c < channels; c++, from++) {
        const plane = planeAt(out, from)
        for (let y = 0, to = c; y < height; y++)
          for (let x = 0, at = (y + pad) * stride + pad; x < width; x++, at++, to += channels) result[to] = plane[at]!
      }
      return result
    })
  } finally {
    for (const pointer of owned) kernels.dispose(pointer)
  }
}

/** The picture's edge pixels repeated outward, to the borders of its plane. */
function repeatEdges(plane: Float32Array, width: number, height: number, stride: number, pad: number): void {
  for (let y = pad; y < pad + height; y++) {
    const row = y * stride
    plane.fill(plane[row + pad]!, row, row + pad)
    plane.fill(plane[row + pad + width - 1]!, row + pad + width, row + stride)
  }
  for (let y = 0; y < pad; y++) {
    plane.copyWithin(y * stride, pad * stride, (pad + 1) * stride)
    plane.copyWithin((pad + height + y) * stride, (pad + height - 1) * stride, (pad + height) * stride)
  }
}

export interface CleanPasses {
  light?: Record<LightPart, Float32Array>
  rawDirect?: Float32Array
  rawIndirect?: Float32Array
  groups?: Float32Array[]
  shadow?: Float32Array
}

const hasLight = (passes: readonly string[]): boolean =>
  anyNeeds(passes, 'light') || anyNeeds(passes, 'raw') || anyNeeds(passes, 'groups')

/** Whether there is anything in the passes that noise is taken out of: then the render must keep it (keepNoise). */
export const hasNoise = (passes: readonly string[]): boolean => hasLight(passes) || anyNeeds(passes, 'shadow')

/** Passes that guide how noise is taken out of the light; none where no light is rendered. */
export function guidePasses(passes: readonly string[], materials: readonly Material[]): string[] {
  return hasLight(passes)
    ? ['albedo', 'normal', ...(materials.some(material => (material.transmission ?? 0) > 0) ? ['through_normal'] : [])]
    : []
}

/**
 * The light passes and the shadow of a render with the noise taken out. The render must have kept its noise, and with
 * light surface colours and normals.
 */
export function denoisePasses(pool: Pool, passes: RenderedPasses, settings: DenoiseSettings = DENOISE): CleanPasses {
  if (!passes.noise) throw new Error('These passes were rendered without what noise is told by.')
  return {
    ...(passes.light ? cleanLight(pool, passes, settings) : {}),
    ...(passes.shadow && passes.noise.shadowOdd
      ? { shadow: cleanShadow(pool, passes, passes.noise.shadowOdd, settings) }
      : {}),
  }
}

function cleanLight(pool: Pool, passes: RenderedPasses, settings: DenoiseSettings): CleanPasses {
  const { width, height, albedo, normal } = passes
  const light = passes.light!
  const noise = passes.noise!
  if (!albedo || !normal) throw new Error('These passes were rendered without what noise is taken out by.')
  const pixels = width * height
  const guides: Guide[] = [
    { plane: passes.through?.albedo ?? albedo, channels: 3, like: settings.albedo },
    { plane: normal, channels: 3, like: settings.normal },
  ]
  // What light does, without what the surface's colour makes of it: texture is no noise
  const tint = new Float32Array(albedo)
  for (let i = 0; i < tint.length; i++) if (tint[i]! < 0.02) tint[i] = 0.02
  const none = new Float32Array(pixels * 3).fill(1)
  const over = (plane: Float32Array): Float32Array => {
    const out = new Float32Array(plane)
    for (let i = 0; i < out.length; i++) out[i]! /= tint[i]!
    return out
  }
  const times = (plane: Float32Array): Float32Array => {
    for (let i = 0; i < plane.length; i++) plane[i]! *= tint[i]!
    return plane
  }
  const cleaned = (
    parts: Float32Array[],
    halves: Halves,
    by: Float32Array,
    own: Guide[],
    layers: Float32Array[],
  ): Float32Array[] => {
    const whole = new Float32Array(pixels * 3)
    const bright = new Float32Array(pixels)
    const variance = new Float32Array(pixels)
    for (const plane of parts) for (let i = 0; i < whole.length; i++) whole[i]! += plane[i]!
    const measured = varianceOf(whole, halves, litCounts(passes), width, height)
    // Noise of the three is much the same noise: standard deviations add
    for (let i = 0, at = 0; i < pixels; i++, at += 3) {
      bright[i] = whole[at]! / by[at]! + whole[at + 1]! / by[at + 1]! + whole[at + 2]! / by[at + 2]!
      variance[i] =
        (Math.sqrt(measured[at]!) / by[at]! +
          Math.sqrt(measured[at + 1]!) / by[at + 1]! +
          Math.sqrt(measured[at + 2]!) / by[at + 2]!) **
        2
    }
    const told = passes.samples < FEW ? varianceAround(bright, width, height) : variance
    return denoiseLayers(pool, { width, height, light: bright, variance: told, guides: own, layers }, settings)
  }
  // Matt light is smooth where others mirror: each is compared with its like. Lamps and sky themselves have no noise
  const matt = cleaned([light.diffuse_direct, light.diffuse_indirect], noise.matt, tint, guides, [
    over(light.diffuse_direct),
    over(light.diffuse_indirect),
    ...(passes.rawDirect ? [passes.rawDirect, passes.rawIndirect!] : []),
  ])
  const behind: Guide[] = passes.through
    ? [...guides, { plane: passes.through.normal, channels: 3, like: settings.normal }]
    : guides
  const sent = cleaned([light.reflection, light.refraction], noise.sent, none, behind, [
    light.reflection,
    light.refraction,
    ...(passes.groups ?? []),
  ])
  const clean = {
    light: {
      ...light,
      diffuse_direct: times(matt[0]!),
      diffuse_indirect: times(matt[1]!),
      reflection: sent[0]!,
      refraction: sent[1]!,
    },
    rawDirect: matt[2],
    rawIndirect: matt[3],
  }
  return { ...clean, groups: passes.groups && summingTo(clean.light, sent.slice(2)) }
}

/** Lights whose sum is that of the light passes again, to the last bit of a float. */
function summingTo(light: Record<LightPart, Float32Array>, groups: Float32Array[]): Float32Array[] {
  for (let i = 0; i < light.reflection.length; i++) {
    let whole = 0
    let sum = 0
    for (const part of LIGHT_PARTS) whole += light[part][i]!
    for (const group of groups) sum += group[i]!
    if (sum > 0) for (const group of groups) group[i]! *= whole / sum
  }
  return groups
}

/** The shadow is compared with itself; nothing else is known of the ground. */
function cleanShadow(
  pool: Pool,
  { width, height, shadow, counts, samples }: RenderedPasses,
  odd: Float32Array,
  settings: DenoiseSettings,
): Float32Array {
  const grey = (plane: Float32Array): Float32Array =>
    Float32Array.from({ length: width * height }, (_, i) => plane[i * 3]! + plane[i * 3 + 1]! + plane[i * 3 + 2]!)
  const light = grey(shadow!)
  const variance =
    samples < FEW
      ? varianceAround(light, width, height)
      : grey(varianceByHalves(shadow!, odd, counts, width, height)).map(value => value * 3)
  return denoiseLayers(pool, { width, height, light, variance, guides: [], layers: [shadow!] }, settings)[0]!
}
