// All passes of a render in one multi-layer OpenEXR.
import { cryptomatteSets, encodeCryptomatte, manifestOf } from '../formats/cryptomatte/cryptomatte'
import {
  emptyWindow,
  stringAttribute,
  writeExr,
  writeExrParts,
  type Compression,
  type ExrAttribute,
  type ExrChannel,
  type ExrImage,
} from '../formats/exr/exr'
import { luminanceAt } from '../colour/luminance'
import { floatsToHalves } from '../formats/exr/half'
import { BadInput } from '../formats/errors'
import { BY_LIGHT, CLEAN, lightLayer, LIGHT_PARTS, passOf, PASSES, type LightPart, type NamesOf } from './passes'
import type { CleanPasses } from './denoise'
import { litCounts, varianceOf } from './noise'
import { beautyOf, sumOf, type RenderedPasses } from './planes'

export interface PassFileOptions {
  passes: readonly string[]
  objectNames: string[]
  materialNames: string[]
  assetNames?: string[]
  /** Names of the groups of light. */
  lightGroups?: string[]
  /** The light passes with their noise taken out, beside those as rendered. */
  clean?: CleanPasses
  /** Passes of another file of the same shot that still stand, to be kept beside these. */
  keep?: { image: ExrImage; passes: readonly string[] }
  /** Light as half instead of float. */
  half?: boolean
  compression?: Compression
  /** Manifests stand in files beside, named NAME.LAYER.json. */
  sidecar?: string
  /** Each layer as a part of its own, Cryptomatte with its manifest in its own. */
  parts?: boolean
}

const standardDeviation = (variance: Float32Array): Float32Array => variance.map(Math.sqrt)

export function passesToExr(passes: RenderedPasses, options: PassFileOptions): Uint8Array {
  const { width, height } = passes
  const pixels = width * height
  const channels: ExrChannel[] = []
  const attributes: ExrAttribute[] = [
    stringAttribute('northmist/objects', JSON.stringify(options.objectNames)),
    stringAttribute('northmist/materials', JSON.stringify(options.materialNames)),
    ...(options.assetNames ? [stringAttribute('northmist/assets', JSON.stringify(options.assetNames))] : []),
  ]
  const several = (names: readonly string[], data: Float32Array, count: number, half: boolean): void =>
    names.forEach((name, c) => {
      const plane = new Float32Array(pixels)
      for (let i = 0; i < pixels; i++) plane[i] = data[i * count + c]!
      channels.push(
        half
          ? { name, type: 'half', linear: false, data: floatsToHalves(plane) }
          : { name, type: 'float', linear: false, data: plane },
      )
    })
  const triple = (names: readonly string[], data: Float32Array, half: boolean): void => several(names, data, 3, half)
  const single = (name: string, data: Float32Array, half: boolean): void => {
    channels.push(
      half
        ? { name, type: 'half', linear: false, data: floatsToHalves(data) }
        : { name, type: 'float', linear: false, data },
    )
  }
  const half = options.half ?? false
  for (const { id, channels: names, coverage: named } of PASSES) {
    if (!options.passes.includes(id)) continue
    if (id === 'beauty') triple(names, beautyOf(passes), half)
    else if (id === 'alpha') single('A', passes.alpha, half)
    else if ((LIGHT_PARTS as readonly string[]).includes(id)) triple(names, passes.light![id as LightPart], half)
    else if (id === 'noise')
      triple(
        names,
        standardDeviation(varianceOf(beautyOf(passes), passes.noise!.whole, litCounts(passes), width, height)),
        half,
      )
    else if (id === 'raw_direct') triple(names, passes.rawDirect!, half)
    else if (id === 'raw_indirect') triple(names, passes.rawIndirect!, half)
    else if (id === BY_LIGHT)
      passes.groups?.forEach((group, i) => triple(passOf(lightLayer(options.lightGroups![i]!))!.channels, group, half))
    else if (id === 'albedo') triple(names, passes.albedo!, half)
    else if (id === 'normal') triple(names, passes.normal!, half)
    else if (id === 'normal_camera') triple(names, passes.normalCamera!, half)
    else if (id === 'facing') single('facing.Y', passes.facing!, half)
    else if (id === 'depth') single('depth.Z', passes.depth, false)
    else if (id === 'depth_mean') single('depth_mean.Z', passes.depthMean!, false)
    else if (id === 'position') several(names, passes.position!, 3, false)
    else if (id === 'rest') several(names, passes.rest!, 3, false)
    else if (id === 'uv') several(names, passes.uv!, 2, false)
    else if (id === 'motion_forward') several(names, passes.motionForward!, 2, false)
    else if (id === 'motion_back') several(names, passes.motionBack!, 2, false)
    else if (id === 'occlusion') single('occlusion.Y', passes.occlusion!, half)
    else if (id === 'shadow') triple(names, passes.shadow!, half)
    else if (id === 'shadow_alpha')
      single(
        names[0]!,
        Float32Array.from({ length: pixels }, (_, i) =>
          Math.min(1, Math.max(0, 1 - luminanceAt(passes.shadow!, i * 3))),
        ),
        half,
      )
    else if (id === 'shadow_objects') triple(names, passes.shadowObjects!, half)
    else if (id === 'shadow_chosen') triple(names, passes.shadowChosen!, half)
    else if (id === 'wet') triple(names, passes.wet!, half)
    else if (id === 'volume') several(names, passes.volume!, 4, half)
    else if (id === 'mist') single(names[0]!, passes.mist!, half)
    else if (id === 'outline') single(names[0]!, passes.outline!, half)
    else if (id === 'object_id')
      channels.push({ name: 'object_id.I', type: 'uint', linear: true, data: passes.objectId })
    else if (id === 'material_id')
      channels.push({ name: 'material_id.I', type: 'uint', linear: true, data: passes.materialId })
    else if (id === 'catcher_id')
      channels.push({ name: 'catcher_id.I', type: 'uint', linear: true, data: passes.catcherId })
    else if (named) {
      const encoded = encodeCryptomatte(
        named.layer,
        passes.coverage[id]!,
        pixels,
        listed(options, named.of),
        options.sidecar && `${options.sidecar}.${named.layer}.json`,
      )
      channels.push(...encoded.channels)
      attributes.push(...encoded.attributes)
    } else {
      const seen = id.startsWith('through_') ? passes.through! : passes.mirrored!
      if (id.endsWith('_depth')) single(names[0]!, seen.depth, false)
      else if (id.endsWith('_object_id'))
        channels.push({ name: names[0]!, type: 'uint', linear: true, data: seen.objectId })
      else triple(names, id.endsWith('_albedo') ? seen.albedo : seen.normal, half)
    }
  }
  if (options.clean)
    for (const [names, plane] of cleanPlanes(options.clean, options))
      triple(
        names.map(name => CLEAN + name),
        plane,
        half,
      )
  if (options.keep) {
    const { image: before, passes: kept } = options.keep
    const there = new Set(channels.map(channel => channel.name))
    const layers = kept.flatMap(id => passOf(id)?.coverage?.layer ?? [])
    channels.push(
      ...before.channels.filter(channel => !there.has(channel.name) && kept.some(id => belongs(channel.name, id))),
    )
    for (const set of cryptomatteSets(before.attributes))
      if (layers.includes(set.name))
        attributes.push(...before.attributes.filter(attribute => attribute.name.startsWith(`cryptomatte/${set.id}/`)))
  }
  // A codec for the eye takes names and numbers apart: data keep to one without loss
  const { compression = 'zip' } = options
  const lossy = compression.startsWith('dwa')
  const seen = new Set(
    [
      ...PASSES.filter(pass => ['light', 'colour'].includes(pass.kind) || pass.id === 'alpha').flatMap(
        pass => pass.channels,
      ),
      ...(options.lightGroups ?? []).flatMap(group => passOf(lightLayer(group))!.channels),
    ].flatMap(name => [name, CLEAN + name]),
  )
  const image = (own: ExrChannel[], said: ExrAttribute[]): ExrImage => ({
    dataWindow: emptyWindow(width, height),
    displayWindow: emptyWindow(width, height),
    compression: lossy && !own.every(channel => seen.has(channel.name)) ? 'zip' : compression,
    channels: own,
    attributes: said,
  })
  if (!options.parts) {
    if (lossy && !channels.every(channel => seen.has(channel.name)))
      throw new BadInput(
        `${compression.toUpperCase()} would change names and numbers: write the passes in several parts, of which data keep exact, or without loss.`,
      )
    return writeExr(image(channels, attributes))
  }
  return writeExrParts(
    layersOf(channels, attributes).map(({ name, channels: own, attributes: said }) => ({
      name,
      image: image(own, said),
    })),
  )
}

/**
 * Channels by layer, the beauty first: a reader that takes only the first part shows it. A Cryptomatte has what is said
 * of it in its own, the rest is said in the first.
 */
export function layersOf(
  channels: readonly ExrChannel[],
  attributes: readonly ExrAttribute[],
): { name: string; channels: ExrChannel[]; attributes: ExrAttribute[] }[] {
  const layers = new Map<string, ExrChannel[]>()
  const sets = cryptomatteSets([...attributes])
  for (const channel of channels) {
    const layer = layerOf(channel.name)
    layers.set(layer, [...(layers.get(layer) ?? []), channel])
  }
  return [...layers]
    .sort(([a], [b]) => Number(b === 'beauty') - Number(a === 'beauty'))
    .map(([name, own], i) => ({
      name,
      channels: own,
      attributes: attributes.filter(attribute =>
        attribute.name.startsWith('cryptomatte/')
          ? sets.some(set => set.name === name && attribute.name.startsWith(`cryptomatte/${set.id}/`))
          : i === 0,
      ),
    }))
}

const listed = ({ objectNames, materialNames, assetNames = [] }: PassFileOptions, of: NamesOf): string[] =>
  ({ objects: objectNames, materials: materialNames, assets: assetNames })[of]

/** The manifests that stand beside a pass file. */
export function sidecarsOf(options: PassFileOptions): { name: string; text: string }[] {
  return PASSES.flatMap(({ id, coverage }) =>
    coverage && options.sidecar && options.passes.includes(id)
      ? [{ name: `${options.sidecar}.${coverage.layer}.json`, text: manifestOf(listed(options, coverage.of)) }]
      : [],
  )
}

/** Channels and planes of the passes without noise that are asked for. */
function cleanPlanes(
  { light, rawDirect, rawIndirect, groups, shadow }: CleanPasses,
  { passes, lightGroups }: PassFileOptions,
): [readonly string[], Float32Array][] {
  const channels = (id: string): readonly string[] => passOf(id)!.channels
  const found: [readonly string[], Float32Array | undefined][] = [
    ['beauty', light && sumOf(light)],
    ...(['diffuse_direct', 'diffuse_indirect', 'reflection', 'refraction'] as const).map(id => [id, light?.[id]]),
    ['raw_direct', rawDirect],
    ['raw_indirect', rawIndirect],
    ['shadow', shadow],
  ].flatMap(([id, plane]) =>
    passes.includes(id as string) ? [[channels(id as string), plane as Float32Array | undefined]] : [],
  )
  if (passes.includes(BY_LIGHT))
    groups?.forEach((group, i) => found.push([channels(lightLayer(lightGroups![i]!)), group]))
  return found.filter((entry): entry is [readonly string[], Float32Array] => !!entry[1])
}

/** Whether a channel is part of a pass. */
function belongs(channel: string, id: string): boolean {
  const plain = channel.startsWith(CLEAN) ? channel.slice(CLEAN.length) : channel
  const pass = passOf(id)
  return pass?.coverage
    ? new RegExp(`^${pass.coverage.layer}\\d\\d\\.`).test(plain)
    : id === BY_LIGHT
      ? plain.startsWith(`${BY_LIGHT}.`)
      : (pass?.channels.includes(plain) ?? false)
}

/** Layer of a channel; those of a Cryptomatte are one. */
const layerOf = (channel: string): string =>
  channel.includes('.') ? channel.slice(0, channel.lastIndexOf('.')).replace(/^(crypto\w*?)\d\d$/, '$1') : 'beauty'
