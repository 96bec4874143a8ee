// Files as pictures that may be asked for: each in its own pixels, then brought to the frame's.
import { boxOf, common, grown, heightOf, widthOf, type Box } from '../engine/box'
import { kernelNode, scriptNode, type Node } from '../plan/node'
import type { Picture } from '../plan/picture'
import { coverageOf, namesOf, unpacking, type PassFile } from '../render/openpasses'
import { CLEAN, LIGHT_PARTS, NO_DEPTH, type LightPart, type NamesOf, type Seen } from '../render/passes'
import type { PictureReference } from '../shot/document'
import type { Rate } from '../time/rate'
import { COVERAGE_RANKS } from '../../kernels/assembly/layout'
import { Halve, Mix, Place } from '../../kernels/records'
import type { Raster } from '../../kernels/record'
import type { Decoded, Files, OpenedPasses } from './files'
import { boxOfSize, type Size } from './size'

/** What an area needs of a source that an affine map takes its pixels to, with two pixels all round for the filter. */
export function mappedBox(area: Box, [a, b, c, d, e, f]: readonly number[]): Box {
  const corners = [
    [area.left, area.top],
    [area.right, area.top],
    [area.left, area.bottom],
    [area.right, area.bottom],
  ] as const
  const xs = corners.map(([x, y]) => a! * x + b! * y + c!)
  const ys = corners.map(([x, y]) => d! * x + e! * y + f!)
  return grown(
    {
      left: Math.floor(Math.min(...xs)),
      top: Math.floor(Math.min(...ys)),
      right: Math.ceil(Math.max(...xs)),
      bottom: Math.ceil(Math.max(...ys)),
    },
    2,
  )
}

/**
 * A picture at full size at a frame, premultiplied scene-linear; undefined where a clip shows nothing. Throws
 * StillPacked.
 */
export function pictureNode(
  files: Files,
  reference: PictureReference,
  frame: number,
  shotRate: Rate,
  small = false,
): Node | undefined {
  const found = files.picture(reference, frame, shotRate, small)
  if (!found) return undefined
  const nodeOf = ({ key, width, height, ready, pixels }: Decoded): Node =>
    scriptNode(
      ['picture file', key],
      'colour',
      boxOf(width, height),
      (out, _, kernels) =>
        copyRows(pixels(), width, out, kernels.floats(out.pointer, widthOf(out) * heightOf(out) * 4)),
      { wants: ready },
    )
  const first = nodeOf(found.first)
  return found.second ? mixed(first, nodeOf(found.second), found.mix) : first
}

function copyRows(pixels: Float32Array, width: number, out: Raster, to: Float32Array): void {
  const row = widthOf(out) * 4
  for (let y = out.top; y < out.bottom; y++) {
    const from = (y * width + out.left) * 4
    to.set(pixels.subarray(from, from + row), (y - out.top) * row)
  }
}

/** share: of the second. */
const mixed = (first: Node, second: Node, share: number): Node =>
  kernelNode(Mix, { first, second, share }, { window: common(first.window, second.window) })

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
  ) {}

  get file(): PassFile {
    return this.opened.file
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

  /** A light pass with so much of its noise taken out (0..1), where the file has it so. */
  light(names: readonly string[], blank: number, clean: number): Node {
    const cleaned = names.map(name => CLEAN + name)
    if (clean <= 0 || !this.file.planes.has(cleaned[0]!)) return this.colour(names, blank)
    const without = this.colour(cleaned, blank)
    return clean >= 1 ? without : mixed(this.colour(names, blank), without, clean)
  }

  part(part: LightPart, clean = 0): Node {
    // A file with a beauty and no parts (from elsewhere) is built from as if all of it were direct light
    const whole = !LIGHT_PARTS.some(id => this.file.planes.has(`${id}.R`))
    return this.light(
      whole && part === 'diffuse_direct' ? ['R', 'G', 'B'] : [`${part}.R`, `${part}.G`, `${part}.B`],
      0,
      clean,
    )
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
    pixel: 'single' | 'ranks',
    wants: () => Promise<void>,
    start: () => (from: number, out: Float32Array, to: number) => void,
  ): Node {
    const { file, size } = this
    const floats = pixel === 'single' ? 1 : COVERAGE_RANKS * 2
    const { scaleX, offsetX, scaleY, offsetY } = this.opened.map(size.left, size.top, size.shrink)
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

/** How far away what passes show is. */
export const distancesOf = (passes: PassNodes): Pick<Picture, 'depth' | 'byDepth'> => {
  const depth = (): Node => passes.single('depth.Z')
  return { depth, byDepth: say => say(depth()) }
}

/** A plate, fitted to the width, in the middle of the height (it keeps its shape). pixelAspect: width of its pixels to their height. */
export function letterboxed(own: Node, size: Size, pixelAspect: number): Node {
  // A small picture that is just as large as what is asked for
  if (pixelAspect === 1 && widthOf(own.window) === size.width && heightOf(own.window) === size.height) return own
  const scale = widthOf(own.window) / (size.width * size.shrink)
  const tall = scale * pixelAspect
  return atSize(own, size, [scale, 0, tall, heightOf(own.window) / 2 - (size.height * size.shrink * tall) / 2], {
    same: pixelAspect === 1,
    edge: false,
  })
}

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

/** Scale and offset across, then down; then shrunk by halves. edge: repeats it beyond. */
function atSize(
  own: Node,
  size: Size,
  [scaleX, offsetX, scaleY, offsetY]: readonly [number, number, number, number],
  { same, edge }: { same: boolean; edge: boolean },
): Node {
  const full = boxOf(size.width * size.shrink, size.height * size.shrink)
  let node = own
  if (!same || widthOf(own.window) !== full.right || heightOf(own.window) !== full.bottom) {
    const map = [scaleX, 0, offsetX, 0, scaleY, offsetY]
    const [a, b, c, d, e, f] = map as [number, number, number, number, number, number]
    node = kernelNode(
      Place,
      { source: own, a, b, c, d, e, f, edge: edge ? 1 : 0 },
      {
        window: full,
        // Beyond its edge the edge itself is wanted
        needs: area => {
          const box = mappedBox(area, map)
          if (!edge) return box
          const { right, bottom } = own.window
          return {
            left: Math.min(box.left, right - 1),
            top: Math.min(box.top, bottom - 1),
            right: Math.max(box.right, 1),
            bottom: Math.max(box.bottom, 1),
          }
        },
      },
    )
  }
  let { right: width, bottom: height } = full
  for (let factor: number = size.shrink; factor > 1; factor /= 2) {
    width = factor === 2 ? size.width : Math.floor(width / 2)
    height = factor === 2 ? size.height : Math.floor(height / 2)
    node = kernelNode(
      Halve,
      { source: node },
      {
        window: boxOf(width, height),
        needs: ({ left, top, right, bottom }) => ({
          left: left * 2,
          top: top * 2,
          right: right * 2,
          bottom: bottom * 2,
        }),
      },
    )
  }
  return node
}
