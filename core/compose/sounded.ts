// How far away what a render shows is: all of it together, and each thing for itself.
import { coverageOf, namesOf, type PassFile } from '../render/openpasses'
import { NO_DEPTH } from '../render/passes'

const isThere = (metres: number): boolean => metres > 0 && metres <= NO_DEPTH / 2

/**
 * How what a render shows is spread over distance: so many bins between two distances in metres, on a scale of logarithms;
 * each holds the share of the frame that is covered at its distance. names: of those things alone, where they cover most of
 * a pixel (its depth is that of what does).
 */
export function depthSpread(
  file: PassFile,
  bins: number,
  near: number,
  far: number,
  names: readonly string[] = [],
): Float32Array {
  const out = new Float32Array(bins)
  const depth = file.planes.get('depth.Z')
  if (!depth) return out
  const alpha = file.planes.get('A')
  const coverage = names.length ? coverageOf(file, 'objects', 'straight') : undefined
  if (names.length && !coverage) return out
  const chosen = new Set(names.map(name => namesOf(file, 'objects').indexOf(name) + 1).filter(index => index > 0))
  const low = Math.log(near)
  const span = Math.log(far) - low
  for (let i = 0; i < depth.length; i++) {
    const metres = depth[i]!
    if (!isThere(metres)) continue
    const first = coverage ? i * coverage.ranks : 0
    if (coverage && !chosen.has(coverage.index[first]!)) continue
    const bin = Math.floor(((Math.log(metres) - low) / span) * bins)
    if (bin >= 0 && bin < bins) out[bin]! += coverage ? coverage.weight[first]! : alpha ? alpha[i]! : 1
  }
  for (let bin = 0; bin < bins; bin++) out[bin]! /= depth.length
  return out
}

/** Where a thing is seen, on the mean of the pixels that it covers most of. */
export interface ThingSeen {
  metres: number
  /** From the left of the frame to its right, 0..1. */
  across: number
}
/** Things that are seen, by their names. */
export function thingsSeen(file: PassFile): Record<string, ThingSeen> {
  const coverage = coverageOf(file, 'objects', 'straight')
  const depth = file.planes.get('depth.Z')
  if (!coverage || !depth) return {}
  const names = namesOf(file, 'objects')
  const [metres, across, weights] = [0, 1, 2].map(() => new Float64Array(names.length + 1)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ]
  const { index, weight, ranks } = coverage
  for (let i = 0, at = 0; i < depth.length; i++, at += ranks) {
    const away = depth[i]!
    const share = weight[at]!
    if (!(share > 0) || !isThere(away)) continue
    const thing = index[at]!
    metres[thing]! += away * share
    across[thing]! += ((i % file.width) + 0.5) * share
    weights[thing]! += share
  }
  return Object.fromEntries(
    names.flatMap((name, i) => {
      const all = weights[i + 1]!
      return all > 0 ? [[name, { metres: metres[i + 1]! / all, across: across[i + 1]! / all / file.width }]] : []
    }),
  )
}
