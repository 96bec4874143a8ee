// A pass as a picture for the eye. The pass itself is never changed by how it is looked at.
import { nameHash } from '../engine/murmur'
import { namesOf } from '../render/openpasses'
import { passOf } from '../render/passes'
import { heightOf, sameBox, widthOf } from '../engine/box'
import { kernelNode, scriptNode, type Node } from '../plan/node'
import { COVERAGE_RANKS } from '../../kernels/assembly/layout'
import { Clear, Grey } from '../../kernels/records'
import { PIXEL_BYTES, type Raster } from '../../kernels/record'
import type { PassNodes } from '../render/passnodes'
import { boxOfSize } from '../plan/size'

/** A colour of its own for a name: even steps around the hue circle by the golden angle, three lightnesses. */
export function nameColour(name: string): [number, number, number] {
  const hash = nameHash(name)
  const hue = ((hash * 0.61803398875) % 1) * 6
  const light = 0.25 + (hash >>> 28) / 40
  const part = (offset: number): number =>
    light * (0.35 + 0.65 * Math.min(1, Math.max(0, Math.abs(((hue + offset) % 6) - 3) - 1)))
  return [part(0), part(4), part(2)]
}

type Put = (out: Float32Array, i: number) => unknown

/** near, far: metres shown as white and black of a depth. Throws StillPacked. */
export function showPass(passes: PassNodes, show: { id: string; near?: number; far?: number }): Node {
  const window = boxOfSize(passes.size)
  const pass = passOf(show.id)
  if (!pass) return kernelNode(Clear, {}, { window })
  /** An opaque picture of which a function puts the colour of each pixel, given the numbers of others. */
  const perPixel = (inputs: readonly Node[], parts: readonly unknown[], start: (values: Float32Array[]) => Put): Node =>
    scriptNode(
      ['show', 3, show.id, ...parts],
      'colour',
      window,
      (raster, rasters, kernels) => {
        const count = widthOf(raster) * heightOf(raster)
        const out = kernels.floats(raster.pointer, count * 4)
        const put = start(
          rasters.map((input, k) =>
            rowsOf(input, raster, (at, length) => kernels.floats(at, length), PIXEL_BYTES[inputs[k]!.pixel] / 4),
          ),
        )
        for (let i = 0; i < count; i++) {
          put(out, i)
          out[i * 4 + 3] = 1
        }
      },
      { inputs },
    )
  if (pass.kind === 'metres') {
    const near = show.near ?? 1
    const far = Math.max(near + 1e-3, show.far ?? 20)
    return perPixel([passes.single(pass.channels[0]!)], [near, far], ([metres]) => (out, i) => {
      const value = 1 - Math.min(1, Math.max(0, (metres![i]! - near) / (far - near)))
      out.fill(value, i * 4, i * 4 + 3)
    })
  }
  if (pass.coverage) {
    const { of, seen } = pass.coverage
    const coverage = passes.coverage(of, seen)
    const colours = [[0, 0, 0] as [number, number, number], ...namesOf(passes.file, of).map(nameColour)]
    return perPixel([coverage], [namesOf(passes.file, of)], ([held]) => (out, i) => {
      for (let c = 0; c < 3; c++) {
        let sum = 0
        for (let rank = 0; rank < COVERAGE_RANKS; rank++)
          sum += held![(i * COVERAGE_RANKS + rank) * 2 + 1]! * colours[held![(i * COVERAGE_RANKS + rank) * 2]!]![c]!
        out[i * 4 + c] = sum
      }
    })
  }
  if (pass.kind === 'id') {
    const names = pass.id === 'material_id' ? passes.file.materialNames : passes.file.objectNames
    const colours = [[0, 0, 0] as [number, number, number], ...names.map(nameColour)]
    return perPixel([passes.single(pass.channels[0]!)], [names], ([ids]) => (out, i) => {
      out.set(colours[ids![i]!] ?? [1, 0, 1], i * 4)
    })
  }
  if (pass.kind === 'place' || pass.kind === 'uv' || pass.kind === 'motion') {
    // Places repeat each metre, texture places each tile; motion is grey at rest, a tenth of the range for each pixel a
    // frame
    const tone =
      pass.kind === 'motion'
        ? (value: number): number => 0.5 + value * 0.05
        : (value: number): number => value - Math.floor(value)
    const axes = pass.channels.slice(0, 3)
    return perPixel(
      [passes.single('A'), ...axes.map(name => passes.single(name))],
      [],
      ([covered, x, y, z]) =>
        (out, i) => {
          if (!(covered![i]! > 0)) return out.fill(0, i * 4, i * 4 + 3)
          out[i * 4] = tone(x![i]!)
          out[i * 4 + 1] = tone(y![i]!)
          out[i * 4 + 2] = z ? tone(z[i]!) : pass.kind === 'motion' ? 0.5 : 0
        },
    )
  }
  if (pass.kind === 'share') return kernelNode(Grey, { source: passes.single(pass.channels[0]!) }, { window })
  const colour = passes.colour(pass.channels, pass.kind === 'ratio' ? 1 : 0)
  if (pass.kind !== 'direction') return colour
  // No direction where nothing is seen, or nothing behind glass or mirrored there
  return perPixel([colour], [], ([held]) => (out, i) => {
    const at = i * 4
    const there = held![at + 3]! > 0 && (held![at] !== 0 || held![at + 1] !== 0 || held![at + 2] !== 0)
    for (let c = 0; c < 3; c++) out[at + c] = there ? held![at + c]! * 0.5 + 0.5 : 0
  })
}

/** The numbers of a picture in an area, row after row: those that lie there where that is the very area. */
function rowsOf(
  input: Raster,
  area: Raster,
  floats: (pointer: number, length: number) => Float32Array,
  count: number,
): Float32Array {
  const across = widthOf(input) * count
  const all = floats(input.pointer, across * heightOf(input))
  if (sameBox(input, area)) return all
  const row = widthOf(area) * count
  const out = new Float32Array(row * heightOf(area))
  for (let y = area.top; y < area.bottom; y++) {
    const from = (y - input.top) * across + (area.left - input.left) * count
    out.set(all.subarray(from, from + row), (y - area.top) * row)
  }
  return out
}
