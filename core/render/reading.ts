// A set of passes from elsewhere seen as ours: planes of our channels made of its layers, as its reading says.
import { BadInput } from '../formats/errors'
import type { DepthReading, PassReading, ReadingTerm } from '../shot/schema/reading'
import { layersIn, type TheirLayer } from './layersOfFile'
import { LIGHT_PARTS, NO_DEPTH, passOf, rgb } from './passes'
import type { Planes, StoredPlane } from './passplanes'

/** Their own values of depth, before they became metres. */
export const RAW_DEPTH = 'raw_depth.Z'

/** Of a grey of which nothing is known yet: white is near, black far. */
export const GREY: DepthReading = { kind: 'grey', near: { value: 1, metres: 2 }, far: { value: 0, metres: 50 } }

/** Metres of a value, by what a file's depth counts in; what is no distance is as far as nothing. Axis, not ray. */
export function metresOf(reading: DepthReading): (value: number) => number {
  const { kind, unit = 1, near, far, inverse } = reading
  const distance = (metres: number): number => (metres > 0 && metres < NO_DEPTH / 2 ? metres : NO_DEPTH)
  if (kind === 'metres') return value => distance(value * unit)
  if (kind === 'inverse') return value => (value > 0 ? distance(unit / value) : NO_DEPTH)
  if (!near || !far || near.value === far.value) return () => NO_DEPTH
  const from = inverse ? 1 / near.metres : near.metres
  const slope = ((inverse ? 1 / far.metres : far.metres) - from) / (far.value - near.value)
  return value => {
    const at = from + (value - near.value) * slope
    return distance(inverse ? 1 / at : at)
  }
}

/** What is wrong with how a depth is to be read; '' where nothing is. */
export function depthFault({ kind, near, far }: DepthReading): string {
  if (kind !== 'grey') return ''
  if (!near || !far) return 'A grey depth needs two places of which the distance is known.'
  if (near.value === far.value) return 'The two places of the depth have the same value: choose ones that differ.'
  return near.metres === far.metres ? 'The two places of the depth are equally far away.' : ''
}

/** How much of a ray's length goes along the view axis, at a pixel. */
function alongAxis(angle: number, width: number, height: number): (at: number) => number {
  const half = Math.tan((angle * Math.PI) / 360)
  return at => {
    const x = (((at % width) + 0.5) / width) * 2 - 1
    const y = ((Math.floor(at / width) + 0.5 - height / 2) / width) * 2
    return 1 / Math.hypot(1, x * half, y * half)
  }
}

export class ReadPlanes implements Planes {
  private layers: Map<string, TheirLayer>
  private made = new Map<string, Float32Array>()
  private how = new Map<string, () => StoredPlane>()

  /** sets: names of the file's Cryptomattes. Throws BadInput for a layer that is not there. */
  constructor(
    private theirs: Planes,
    private reading: PassReading,
    private sets: readonly string[],
    private width: number,
    private height: number,
  ) {
    this.layers = new Map(layersIn([...theirs.keys()], sets).map(layer => [layer.name, layer]))
    for (const [id, terms] of Object.entries(reading.takes)) {
      const pass = passOf(id)
      if (!pass || !terms.length) continue
      for (const { layer, times } of terms)
        for (const name of [layer, times])
          if (name !== undefined && !this.layers.has(name))
            throw new BadInput(`This file has no layer “${name}”, which is to be its ${pass.label}.`)
      pass.channels.forEach((channel, c) => this.how.set(channel, () => this.added(channel, terms, c)))
    }
    if (reading.depth && this.how.has('depth.Z')) {
      this.how.set(RAW_DEPTH, this.how.get('depth.Z')!)
      this.how.set('depth.Z', () => this.kept('depth.Z', () => this.metres(reading.depth!)))
    }
    if (reading.motionUp)
      for (const channel of ['motion_forward.Y', 'motion_back.Y'])
        if (this.how.has(channel)) {
          const down = this.how.get(channel)!
          this.how.set(channel, () => this.kept(channel, () => floatsOf(down()).map(value => -value)))
        }
    if (reading.rest && this.has('R') && LIGHT_PARTS.some(id => this.has(`${id}.R`))) this.addRest()
  }

  /** Its light as the file has it, whatever that leaves over of the beauty. */
  withoutRest(): ReadPlanes {
    const { rest: _, ...reading } = this.reading
    return new ReadPlanes(this.theirs, reading, this.sets, this.width, this.height)
  }
  has(name: string): boolean {
    return this.how.has(name)
  }
  keys(): IterableIterator<string> {
    return this.how.keys()
  }
  get(name: string): Float32Array | undefined {
    const plane = this.stored(name)
    return plane && floatsOf(plane)
  }
  stored(name: string): StoredPlane | undefined {
    return this.how.get(name)?.()
  }

  private kept(name: string, make: () => Float32Array): StoredPlane {
    let data = this.made.get(name)
    if (!data) this.made.set(name, (data = make()))
    return { data }
  }
  /** One of the channels of a layer; the last of it where it has fewer. */
  private channel(name: string, c: number): StoredPlane {
    const { channels } = this.layers.get(name)!
    return this.theirs.stored(channels[Math.min(c, channels.length - 1)]!)!
  }
  private added(name: string, terms: readonly ReadingTerm[], c: number): StoredPlane {
    const [first] = terms
    if (terms.length === 1 && first!.times === undefined) return this.channel(first!.layer, c)
    return this.kept(name, () => {
      // All are unpacked before anything is added
      const planes = terms.map(({ layer, times }) => [
        this.channel(layer, c),
        times === undefined ? undefined : this.channel(times, c),
      ])
      const sum = new Float32Array(this.width * this.height)
      for (const [light, colour] of planes) {
        const own = floatsOf(light!)
        const by = colour && floatsOf(colour)
        for (let i = 0; i < sum.length; i++) sum[i]! += by ? own[i]! * by[i]! : own[i]!
      }
      return sum
    })
  }
  private metres(reading: DepthReading): Float32Array {
    const raw = floatsOf(this.stored(RAW_DEPTH)!)
    const cover = this.stored('A')
    const alpha = cover && floatsOf(cover)
    const metres = metresOf(reading)
    const share = reading.angle === undefined ? undefined : alongAxis(reading.angle, this.width, this.height)
    return raw.map((value, i) => {
      // What covers nothing is nowhere, whatever its depth was filled with
      if (alpha && !(alpha[i]! > 0)) return NO_DEPTH
      const found = metres(value)
      return share && found < NO_DEPTH ? found * share(i) : found
    })
  }
  /** The direct light takes what of the beauty no part accounts for. */
  private addRest(): void {
    const before = new Map(LIGHT_PARTS.map(id => [id, rgb(id).map(name => this.how.get(name))]))
    rgb('diffuse_direct').forEach((name, c) =>
      this.how.set(name, () =>
        this.kept(name, () => {
          const beauty = floatsOf(this.stored('RGB'[c]!)!).slice()
          for (const [id, parts] of before) {
            const part = id === 'diffuse_direct' ? undefined : parts[c]?.()
            const own = part && floatsOf(part)
            if (own) for (let i = 0; i < beauty.length; i++) beauty[i]! -= own[i]!
          }
          return beauty
        }),
      ),
    )
  }
}

export const floatsOf = ({ data, values }: StoredPlane): Float32Array =>
  values
    ? Float32Array.from(data, code => values[code]!)
    : data instanceof Float32Array
      ? data
      : Float32Array.from(data)

/** Pixels that are looked at to tell how well light adds up. */
const SAMPLES = 20_000
/**
 * How much of the beauty the parts of light leave over or add to it, as a share of it: 0 where they are all of it; undefined
 * where there is no beauty or no part. Throws StillPacked.
 */
export function leftOver(planes: Planes): number | undefined {
  const parts = LIGHT_PARTS.filter(id => planes.has(`${id}.R`))
  if (!parts.length || !planes.has('R')) return undefined
  let [apart, all] = [0, 0]
  const looked = [0, 1, 2].map(c => ({
    beauty: planes.get('RGB'[c]!)!,
    own: parts.map(id => planes.get(rgb(id)[c]!)!),
  }))
  for (const { beauty, own } of looked) {
    const step = Math.max(1, Math.floor(beauty.length / SAMPLES))
    for (let i = 0; i < beauty.length; i += step) {
      const sum = own.reduce((found, plane) => found + plane[i]!, 0)
      if (!Number.isFinite(sum) || !Number.isFinite(beauty[i]!)) continue
      apart += Math.abs(beauty[i]! - sum)
      all += Math.abs(beauty[i]!)
    }
  }
  return all > 0 ? apart / all : undefined
}
