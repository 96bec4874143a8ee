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

/** Metres to each thing that is seen, on the mean of the pixels that it covers most of; by its name. */
export function thingsAway(file: PassFile): Record<string, number> {
  const coverage = coverageOf(file, 'objects', 'straight')
  const depth = file.planes.get('depth.Z')
  if (!coverage || !depth) return {}
  const names = namesOf(file, 'objects')
  const [sums, weights] = [new Float64Array(names.length + 1), new Float64Array(names.length + 1)]
  const { index, weight, ranks } = coverage
  for (let i = 0, at = 0; i < depth.length; i++, at += ranks) {
    const metres = depth[i]!
    const share = weight[at]!
    if (!(share > 0) || !isThere(metres)) continue
    sums[index[at]!]! += metres * share
    weights[index[at]!]! += share
  }
  return Object.fromEntries(
    names.flatMap((name, i) => (weights[i + 1]! > 0 ? [[name, sums[i + 1]! / weights[i + 1]!]] : [])),
  )
}
