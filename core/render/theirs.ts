// A set of passes from elsewhere as it is looked at before it is known what is what: its layers with a small picture and the
// reach of their numbers, and what each most likely is.
import { cryptomatteSets } from '../formats/cryptomatte/cryptomatte'
import { boxHeight, boxWidth, openExr } from '../formats/exr/exr'
import type { PassReading } from '../shot/schema/reading'
import { layersIn, likelyReading, type TheirLayer } from './layersOfFile'
import { contentOf, openPassFile } from './openpasses'
import { Channels, FilePlanes, unpacking } from './passplanes'
import { CLEAN, NO_DEPTH, PASSES, passOf } from './passes'
import { floatsOf, GREY, leftOver, ReadPlanes } from './reading'

/** Pixels across of the small picture of a layer. */
const SMALL = 96
export interface SeenLayer extends TheirLayer {
  /** Between which its numbers lie, but for the outermost hundredth of either side. */
  low: number
  high: number
  picture: { width: number; height: number; codes: Uint8ClampedArray<ArrayBuffer> }
}
export interface Theirs {
  width: number
  height: number
  layers: SeenLayer[]
  /** beside: the file that the names stand in, where they are not in this one. */
  sets: { name: string; names: number; beside?: string }[]
  likely: PassReading
}

const isOurs = (channel: string): boolean => {
  const plain = channel.startsWith(CLEAN) ? channel.slice(CLEAN.length) : channel
  const dot = plain.lastIndexOf('.')
  return PASSES.some(pass => pass.channels.includes(plain)) || !!passOf(plain.slice(0, dot))?.channels.includes(plain)
}
const isOurSet = (name: string): boolean => PASSES.some(({ coverage }) => coverage?.layer === name)
/** What pictures are made of: colour, or brightness and differences of colour. */
const PICTURE_CHANNELS = ['R', 'G', 'B', 'A', 'Y', 'RY', 'BY']

/**
 * What there is to ask of a file before its passes can be built from; undefined for a picture, and where its passes have the
 * names that ours have. Throws BadInput.
 */
export async function theirsOf(bytes: Uint8Array): Promise<Theirs | undefined> {
  const { window, attributes, parts } = openExr(bytes, true)
  const channels = new Channels(parts)
  const sets = cryptomatteSets(attributes)
  const names = sets.map(set => set.name)
  const layers = layersIn(channels.names, names)
  const own = layers.flatMap(layer => layer.channels)
  const isPicture = !sets.length && own.every(name => PICTURE_CHANNELS.includes(name))
  const isNamed = attributes.some(({ name }) => name === 'northmist/objects')
  if (isPicture || isNamed || (own.every(isOurs) && names.every(isOurSet))) return undefined
  const planes = new FilePlanes(channels, own)
  const size = { width: boxWidth(window), height: boxHeight(window) }
  const seen: SeenLayer[] = []
  for (const layer of layers)
    seen.push(
      await unpacking(() => {
        const all = layer.channels.map(name => floatsOf(planes.stored(name)!))
        return { ...layer, ...looked(all, size.width, size.height) }
      }),
    )
  const together = likelyReading(layers, names, false)
  const byParts = likelyReading(layers, names, true)
  // Whether light is kept apart from the colour of surfaces is told by which of the two is the beauty
  const leftBy = (reading: PassReading): Promise<number | undefined> =>
    unpacking(() => leftOver(new ReadPlanes(planes, reading, names, size.width, size.height).withoutRest()))
  const [left, leftApart] = [await leftBy(together), await leftBy(byParts)]
  const likely = (leftApart ?? 1) < (left ?? 1) ? byParts : together
  // A depth of which nothing lies beyond 1 is a grey, as a rule (common practice, no source)
  const depth = seen.find(({ name }) => name === likely.takes['depth']?.[0]?.layer)
  if (likely.depth && depth && depth.low >= 0 && depth.high <= 1) likely.depth = GREY
  return {
    ...size,
    layers: seen,
    sets: sets.map(({ name, manifest, beside }) => ({
      ...{ name, names: Object.keys(manifest).length },
      ...(beside ? { beside } : {}),
    })),
    likely,
  }
}

/** What a file is when it is read so: what a document says of it, and what tells whether that is right. Throws BadInput. */
export async function readSo(
  bytes: Uint8Array,
  reading: PassReading,
): Promise<{
  content: (NonNullable<ReturnType<typeof contentOf>> & { reading: PassReading }) | undefined
  /** Of the beauty, what the parts of light leave over (core/render/reading.ts). */
  left?: number
  /** Metres between which what is there lies. */
  depth?: readonly [near: number, far: number]
}> {
  const file = await openPassFile(bytes, reading)
  const content = await unpacking(() => contentOf(file))
  const metres = await unpacking(() => file.planes.get('depth.Z'))
  let near = NO_DEPTH
  let far = 0
  metres?.forEach(value => {
    if (!(value < NO_DEPTH / 2)) return
    near = Math.min(near, value)
    far = Math.max(far, value)
  })
  return {
    content: content && { ...content, reading },
    left: await unpacking(() => leftOver(file.planes instanceof ReadPlanes ? file.planes.withoutRest() : file.planes)),
    ...(far > 0 ? { depth: [near, far] as const } : {}),
  }
}

/** Numbers of each channel, sorted, that are looked at. */
const SAMPLES = 10_000
function looked(
  planes: readonly Float32Array[],
  width: number,
  height: number,
): Pick<SeenLayer, 'low' | 'high' | 'picture'> {
  const step = Math.max(1, Math.floor((width * height) / SAMPLES))
  const sorted: number[] = []
  for (const plane of planes)
    for (let i = 0; i < plane.length; i += step) if (Number.isFinite(plane[i]!)) sorted.push(plane[i]!)
  sorted.sort((a, b) => a - b)
  const at = (share: number): number => sorted[Math.round(share * (sorted.length - 1))] ?? 0
  const [low, high] = [at(0.01), at(0.99)]
  // Light as a screen shows it; all else from the least to the most
  const isLight = planes.length === 3 && at(0) >= 0
  const [from, to] = isLight ? [0, Math.max(0.05, Math.min(1, high))] : [low, high]
  const across = Math.min(SMALL, width)
  const down = Math.max(1, Math.round((across * height) / width))
  const codes = new Uint8ClampedArray(across * down * 4)
  for (let y = 0; y < down; y++)
    for (let x = 0; x < across; x++) {
      const from0 = Math.floor(((y + 0.5) / down) * height) * width + Math.floor(((x + 0.5) / across) * width)
      const to0 = (y * across + x) * 4
      for (let c = 0; c < 3; c++) {
        const plane = planes[Math.min(c, planes.length - 1)]!
        const missing = planes.length === 2 && c === 2
        const share = missing || to <= from ? 0 : (plane[from0]! - from) / (to - from)
        codes[to0 + c] = 255 * Math.max(0, isLight ? Math.min(1, share) ** (1 / 2.2) : share)
      }
      codes[to0 + 3] = 255
    }
  return { low, high, picture: { width: across, height: down, codes } }
}
