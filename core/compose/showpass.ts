// A pass as a picture for the eye. The pass itself is never changed by how it is looked at.
import { nameHash } from '../engine/murmur'
import { namesOf } from '../render/openpasses'
import { passOf } from '../render/passes'
import type { Evaluator, Keyed } from './evaluate'
import type { Size } from './size'
import { COVERAGE_RANKS } from '../../kernels/assembly/layout'

/** A colour of its own for a name: even steps around the hue circle by the golden angle, three lightnesses. */
export function nameColour(name: string): [number, number, number] {
  const hash = nameHash(name)
  const hue = ((hash * 0.61803398875) % 1) * 6
  const light = 0.25 + (hash >>> 28) / 40
  const part = (offset: number): number =>
    light * (0.35 + 0.65 * Math.min(1, Math.max(0, Math.abs(((hue + offset) % 6) - 3) - 1)))
  return [part(0), part(4), part(2)]
}

/** near, far: metres shown as white and black of a depth. */
export function showPass(evaluator: Evaluator, show: { id: string; near?: number; far?: number }, size: Size): Keyed {
  const pass = passOf(show.id)
  if (!pass) return evaluator.black(size)
  const { sources } = evaluator
  const memory = evaluator.pool.kernels
  const pixels = size.width * size.height
  const perPixel = (parts: unknown[], put: (out: Float32Array, i: number) => unknown): Keyed =>
    evaluator.operator(size, ['show', 2, show.id, ...parts], raster => {
      const out = memory.floats(raster.pointer, pixels * 4)
      for (let i = 0; i < pixels; i++) {
        put(out, i)
        out[i * 4 + 3] = 1
      }
    })
  if (pass.kind === 'metres') {
    const depth = sources.single(pass.channels[0]!, size)
    const metres = memory.floats(depth.raster.pointer, pixels)
    const near = show.near ?? 1
    const far = Math.max(near + 1e-3, show.far ?? 20)
    return perPixel([depth.key, near, far], (out, i) => {
      const value = 1 - Math.min(1, Math.max(0, (metres[i]! - near) / (far - near)))
      out.fill(value, i * 4, i * 4 + 3)
    })
  }
  if (pass.coverage) {
    const { of, seen } = pass.coverage
    const coverage = sources.coverage(of, size, seen)
    const colours = [[0, 0, 0] as [number, number, number], ...namesOf(sources.passes!, of).map(nameColour)]
    const held = memory.floats(coverage.raster.pointer, pixels * COVERAGE_RANKS * 2)
    return perPixel([coverage.key], (out, i) => {
      for (let c = 0; c < 3; c++) {
        let sum = 0
        for (let rank = 0; rank < COVERAGE_RANKS; rank++)
          sum += held[(i * COVERAGE_RANKS + rank) * 2 + 1]! * colours[held[(i * COVERAGE_RANKS + rank) * 2]!]![c]!
        out[i * 4 + c] = sum
      }
    })
  }
  if (pass.kind === 'id') {
    const ids = sources.single(pass.channels[0]!, size)
    const names = pass.id === 'material_id' ? sources.passes!.materialNames : sources.passes!.objectNames
    const colours = [[0, 0, 0] as [number, number, number], ...names.map(nameColour)]
    const held = memory.floats(ids.raster.pointer, pixels)
    return perPixel([ids.key], (out, i) => {
      out.set(colours[held[i]!] ?? [1, 0, 1], i * 4)
    })
  }
  if (pass.kind === 'place' || pass.kind === 'uv' || pass.kind === 'motion') {
    const [x, y, z] = pass.channels.map(name => {
      const { key, raster } = sources.single(name, size)
      return { key, values: memory.floats(raster.pointer, pixels) }
    })
    const alpha = sources.single('A', size)
    const covered = memory.floats(alpha.raster.pointer, pixels)
    // Places repeat each metre, texture places each tile; motion is grey at rest, a tenth of the range for each pixel a
    // frame
    const tone =
      pass.kind === 'motion'
        ? (value: number): number => 0.5 + value * 0.05
        : (value: number): number => value - Math.floor(value)
    return perPixel([x!.key, alpha.key], (out, i) => {
      if (!(covered[i]! > 0)) return out.fill(0, i * 4, i * 4 + 3)
      out[i * 4] = tone(x!.values[i]!)
      out[i * 4 + 1] = tone(y!.values[i]!)
      out[i * 4 + 2] = z ? tone(z.values[i]!) : pass.kind === 'motion' ? 0.5 : 0
    })
  }
  if (pass.kind === 'share') return evaluator.grey(sources.single(pass.channels[0]!, size), size)
  const colour = sources.colour(pass.channels, pass.kind === 'ratio' ? 1 : 0, size)
  if (pass.kind !== 'direction') return colour
  const held = memory.floats(colour.raster.pointer, pixels * 4)
  // No direction where nothing is seen, or nothing behind glass or mirrored there
  return perPixel([colour.key], (out, i) => {
    const there = held[i * 4 + 3]! > 0 && (held[i * 4] !== 0 || held[i * 4 + 1] !== 0 || held[i * 4 + 2] !== 0)
    for (let c = 0; c < 3; c++) out[i * 4 + c] = there ? held[i * 4 + c]! * 0.5 + 0.5 : 0
  })
}
