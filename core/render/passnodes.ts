// Rendered passes as pictures that may be asked for.
import { around, boxOf, heightOf, holds, widthOf, type Box } from '../engine/box'
import { atSize, mixed } from '../plan/fitted'
import { kernelNode, scriptNode, type Node } from '../plan/node'
import { ShareOfAll } from '../plan/beyond'
import { SHOWS, type Picture, type Standing } from '../plan/picture'
import { pointNode, whole } from '../plan/pointNode'
import { boxOfSize, type Size } from '../plan/size'
import { PIXEL_BYTES, type PixelKind } from '../../kernels/record'
import { ShareByCover, WithAlpha } from '../../kernels/records'
import { COVERAGE_RANKS, CUT_REACH } from '../../kernels/assembly/layout'
import { boxOfPlane, coverageOf, namesOf, unpacking, type OpenedPasses, type PassFile } from './openpasses'
import { mirroringOf } from './mirrors'
import { CLEAN, coveragePass, LIGHT_PARTS, NO_DEPTH, xyz, type LightPart, type NamesOf, type Seen } from './passes'
import { placeAt } from '../match/project'
import type { Camera } from '../scene/scene'

/** A row of a plane into every fourth number. */
function putRow(
  { data, values }: { data: ArrayLike<number>; values?: ArrayLike<number> },
  from: number,
  out: Float32Array,
  to: number,
  count: number,
): void {
  const end = from + count
  if (values) for (; from < end; from++, to += 4) out[to] = values[data[from]!]!
  else for (; from < end; from++, to += 4) out[to] = data[from]!
}

/** The passes of a file, brought to the frame's pixels at a size. */
export class PassNodes {
  constructor(
    private opened: OpenedPasses,
    readonly size: Size,
    /** What saw the whole file, where that is known. */
    private camera?: () => Camera,
  ) {}

  get file(): PassFile {
    return this.opened.file
  }

  /** What names its file, for keys. */
  get key(): string {
    return this.opened.key
  }
  /** How pixels at the size that is worked at stand in the file. */
  get map(): ReturnType<OpenedPasses['map']> {
    return this.opened.map(this.size.left, this.size.top, this.size.shrink)
  }

  private wanting(names: readonly string[]): () => Promise<void> {
    const { file } = this
    return async () => {
      await unpacking(() => names.forEach(name => file.planes.stored(name)))
    }
  }

  /** Four floats a pixel of three planes (grey where one is given), alpha from the pass; missing planes give `blank`. */
  colour(names: readonly string[], blank: number): Node {
    const { file } = this
    const planes = [...[0, 1, 2].map(c => names[Math.min(c, names.length - 1)]!), 'A']
    const own = scriptNode(
      ['passes', 2, this.opened.key, names, blank],
      'colour',
      boxOf(file.width, file.height),
      (out, _, kernels) => {
        const across = widthOf(out)
        const pixels = kernels.floats(out.pointer, across * heightOf(out) * 4)
        // Plane by plane and row by row: a loop over one plane each is what the compiler makes fast
        planes.forEach((name, c) => {
          const plane = file.planes.stored(name)
          for (let y = out.top; y < out.bottom; y++) {
            let to = (y - out.top) * across * 4 + c
            if (plane) putRow(plane, y * file.width + out.left, pixels, to, across)
            else for (let x = 0; x < across; x++, to += 4) pixels[to] = c === 3 ? 1 : blank
          }
        })
      },
      { wants: this.wanting(planes) },
    )
    return fitted(own, this.size, this.opened.map(this.size.left, this.size.top, 1))
  }

  /**
   * A pass as it is, by its channels: single where it has one, with an alpha of its own where it has four, else with that of
   * the picture; undefined where the file has none of them.
   */
  plain(channels: readonly string[]): Node | undefined {
    if (!channels.length || !channels.every(name => this.file.planes.has(name))) return undefined
    if (channels.length === 1) return this.single(channels[0]!)
    const source = this.colour(channels.slice(0, 3), 0)
    const own = channels[3]
    return own ? kernelNode(WithAlpha, { source, alpha: this.single(own) }, { window: source.window }) : source
  }

  /** Where surfaces are in the world: by the pass, else by depth and the camera that saw them. */
  places(): Node | undefined {
    const { file, camera } = this
    const pass = this.plain(xyz('position'))
    if (pass || !camera || !file.planes.has('depth.Z')) return pass
    const seen = camera()
    const aspect = file.width / file.height
    // Rays go evenly with the place in the frame: three say all of them
    const eye = [12, 13, 14].map(i => seen.matrix[i]!)
    const ray = (u: number, v: number): number[] => placeAt(seen, aspect, u, v, 1).map((value, k) => value - eye[k]!)
    const [corner, across, down] = [ray(0, 0), ray(1, 0), ray(0, 1)]
    const own = scriptNode(
      ['places', 1, this.opened.key, seen],
      'colour',
      boxOf(file.width, file.height),
      (out, _, kernels) => {
        const wide = widthOf(out)
        const pixels = kernels.floats(out.pointer, wide * heightOf(out) * 4)
        const depths = new Float32Array(wide * 4)
        const cover = file.planes.stored('A')
        const depth = file.planes.stored('depth.Z')!
        for (let y = out.top; y < out.bottom; y++) {
          const row = (y - out.top) * wide * 4
          putRow(depth, y * file.width + out.left, depths, 0, wide)
          if (cover) putRow(cover, y * file.width + out.left, pixels, row + 3, wide)
          const v = (y + 0.5) / file.height
          for (let x = 0; x < wide; x++) {
            const u = (out.left + x + 0.5) / file.width
            const metres = depths[x * 4]!
            const to = row + x * 4
            const there = metres < NO_DEPTH / 2
            for (let k = 0; k < 3; k++)
              pixels[to + k] = there
                ? eye[k]! + metres * (corner[k]! + u * (across[k]! - corner[k]!) + v * (down[k]! - corner[k]!))
                : 0
            if (!cover) pixels[to + 3] = there ? 1 : 0
          }
        }
      },
      { wants: this.wanting(['A', 'depth.Z']) },
    )
    return fitted(own, this.size, this.opened.map(this.size.left, this.size.top, 1))
  }

  /** A light pass with so much of its noise taken out (0..1), where the file has it so. */
  light(names: readonly string[], blank: number, clean: number): Node {
    const cleaned = names.map(name => CLEAN + name)
    if (clean <= 0 || !this.file.planes.has(cleaned[0]!)) return this.colour(names, blank)
    const without = this.colour(cleaned, blank)
    return clean >= 1 ? without : mixed(this.colour(names, blank), without, clean)
  }

  part(part: LightPart, clean = 0): Node {
    return this.light(this.channelsOf(part), 0, clean)
  }
  private channelsOf(part: LightPart): string[] {
    // A file with a beauty and no parts (from elsewhere) is built from as if all of it were direct light
    const whole = !LIGHT_PARTS.some(id => this.file.planes.has(`${id}.R`))
    return whole && part === 'diffuse_direct' ? ['R', 'G', 'B'] : [`${part}.R`, `${part}.G`, `${part}.B`]
  }

  /**
   * Where the light parts or the cover have anything, or one of the parts alone, at the size that is worked at; all of it
   * where they reach its edge, beyond which a picture goes on. Throws StillPacked.
   */
  bounds(only?: LightPart): Box {
    const { file, size } = this
    const channels = (only ? [only] : LIGHT_PARTS).flatMap(part => this.channelsOf(part))
    const there = [...(only ? [] : ['A']), ...channels, ...channels.map(name => CLEAN + name)].filter(name =>
      file.planes.has(name),
    )
    const whole = boxOfSize(size)
    if (!file.planes.has('A')) return whole
    const box = there.map(name => boxOfPlane(file, name)).reduce(around)
    const { scaleX, offsetX, scaleY, offsetY } = this.map
    // As far round it as the filters on the way to the frame reach: two pixels of the file, and those that are halved
    const across = Math.ceil(2 / scaleX) + 2
    const down = Math.ceil(2 / scaleY) + 2
    const found = {
      left: Math.floor((box.left - offsetX) / scaleX) - across,
      top: Math.floor((box.top - offsetY) / scaleY) - down,
      right: Math.ceil((box.right - offsetX) / scaleX) + across,
      bottom: Math.ceil((box.bottom - offsetY) / scaleY) + down,
    }
    return found.left < found.right && found.top < found.bottom && holds(whole, found) ? found : whole
  }

  /** One float a pixel: depth or occlusion, taken from the nearest pixel, never blended. */
  single(name: string): Node {
    return this.nearest(['single', name], 'single', this.wanting([name]), () => {
      const plane = this.file.planes.stored(name)
      const nothing = name.endsWith('.Z') ? NO_DEPTH : 1
      if (!plane) return (_, out, to) => out.fill(nothing, to, to + 1)
      const { data, values } = plane
      return values
        ? (from, out, to) => {
            out[to] = values[data[from]!]!
          }
        : (from, out, to) => {
            out[to] = data[from]!
          }
    })
  }

  /**
   * How far away what glass shows is, or what is mirrored: what mirrors nothing at all is as far away as it stands, and what is
   * smooth shows the sky where it mirrors no thing.
   */
  depthBeyond(seen: 'through' | 'mirrored'): Node {
    const { file } = this
    const names = [`${seen}_depth.Z`, 'depth.Z']
    const wants = async (): Promise<void> => {
      await this.wanting(names)()
      if (seen === 'mirrored') await unpacking(() => mirroringOf(file))
    }
    return this.nearest(['beyond', seen], 'single', wants, () => {
      const [there, own] = names.map(name => file.planes.stored(name))
      const mirrors = seen === 'mirrored' && mirroringOf(file)
      const at = ({ data, values }: NonNullable<typeof own>, from: number): number =>
        values ? values[data[from]!]! : data[from]!
      return (from, out, to) => {
        const metres = at(there!, from)
        const isThere = metres < NO_DEPTH / 2 || !own || !mirrors || mirrors(from)
        out[to] = isThere ? metres : at(own, from)
      }
    })
  }

  /** Where things go, as Picture.motion says; undefined where the file does not. */
  motion(): Node | undefined {
    const { planes } = this.file
    const names = ['motion_forward', 'motion_back'].flatMap(id => [`${id}.X`, `${id}.Y`])
    if (!names.every(name => planes.has(name))) return undefined
    // Pixels of the file, over those of it that are in one that is worked at
    const { scaleX, scaleY } = this.map
    return this.nearest(['motion'], 'colour', this.wanting(names), () => {
      const all = names.map(name => planes.stored(name)!)
      return (from, out, to) =>
        all.forEach(({ data, values }, i) => {
          out[to + i] = (values ? values[data[from]!]! : data[from]!) / (i % 2 ? scaleY : scaleX)
        })
    })
  }

  /** Throws StillPacked. */
  coverage(of: NamesOf, seen: Seen = 'straight'): Node {
    const { file } = this
    // Names that only the coverage tells must be known to whoever makes tables of them
    if (!file.listed[of]) coverageOf(file, of, seen)
    const most = namesOf(file, of).length
    const wants = async (): Promise<void> => {
      await unpacking(() => coverageOf(file, of, seen))
    }
    return this.nearest(['coverage', of, seen], 'ranks', wants, () => {
      const coverage = coverageOf(file, of, seen)
      return (from, out, to) => {
        out.fill(0, to, to + COVERAGE_RANKS * 2)
        if (!coverage) return
        const { index, weight, ranks } = coverage
        for (
          let rank = 0, held = from * ranks;
          rank < COVERAGE_RANKS && rank < ranks && weight[held]! > 0;
          rank++, held++
        ) {
          out[to + rank * 2] = index[held]! <= most ? index[held]! : 0
          out[to + rank * 2 + 1] = weight[held]!
        }
      }
    })
  }

  /** Straight at the size that is worked on, each pixel from the nearest of the file. */
  private nearest(
    key: readonly unknown[],
    pixel: PixelKind,
    wants: () => Promise<void>,
    start: () => (from: number, out: Float32Array, to: number) => void,
  ): Node {
    const { file, size } = this
    const floats = PIXEL_BYTES[pixel] / 4
    const { scaleX, offsetX, scaleY, offsetY } = this.map
    const within = (at: number, side: number): number => Math.min(side - 1, Math.max(0, Math.floor(at)))
    return scriptNode(
      ['nearest', 1, this.opened.key, key, scaleX, offsetX, scaleY, offsetY],
      pixel,
      boxOfSize(size),
      (raster, _, kernels) => {
        const put = start()
        const out = kernels.floats(raster.pointer, widthOf(raster) * heightOf(raster) * floats)
        let to = 0
        for (let y = raster.top; y < raster.bottom; y++) {
          const row = within((y + 0.5) * scaleY + offsetY, file.height) * file.width
          for (let x = raster.left; x < raster.right; x++, to += floats)
            put(row + within((x + 0.5) * scaleX + offsetX, file.width), out, to)
        }
      },
      { wants },
    )
  }
}

/** How far away what passes show is, and where it goes. */
export const distancesOf = (passes: PassNodes, seen: Seen = 'straight'): Standing => {
  const depth = (): Node => (seen === 'straight' ? passes.single('depth.Z') : passes.depthBeyond(seen))
  const byDepth: Picture['byDepth'] = (say, parted) => {
    const isKnown = seen === 'straight' || passes.file.coverage.has(coveragePass('objects', seen)!.id)
    if (!parted || !isKnown) return say(depth())
    const coverage = passes.coverage('objects', seen)
    return kernelNode(ShareByCover, { coverage, share: say(depth()) }, { window: coverage.window, reach: CUT_REACH })
  }
  const motion = passes.motion()
  return { depth, byDepth, motion: motion && (() => motion) }
}

/**
 * What glass shows and what is smooth mirrors, as far as the render says how far away that is. only: one part of its light,
 * of all of it.
 */
export function beyondOf(passes: PassNodes, only: (part: LightPart) => Node, all: Node): Picture['beyond'] {
  const { planes } = passes.file
  const known = SHOWS.filter(shows => planes.has(`${shows}_depth.Z`) && planes.has(`${LIGHT_BEYOND[shows]}.R`))
  if (!known.length) return undefined
  return () =>
    Object.fromEntries(
      known.map(shows => {
        const part = LIGHT_BEYOND[shows]
        return [shows, { ...distancesOf(passes, shows), share: pointNode(ShareOfAll, whole(only(part)), { all }) }]
      }),
    )
}
const LIGHT_BEYOND = { through: 'refraction', mirrored: 'reflection' } as const

/** Passes, where they were rendered. */
function fitted(
  own: Node,
  size: Size,
  { scaleX, offsetX, scaleY, offsetY }: { scaleX: number; offsetX: number; scaleY: number; offsetY: number },
): Node {
  return atSize(own, size, [scaleX, offsetX, scaleY, offsetY], {
    same: offsetX === 0 && offsetY === 0 && scaleX === 1 && scaleY === 1,
    edge: true,
  })
}
