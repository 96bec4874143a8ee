// What stands at one pixel: for the readout and for picking.
import { NO_DEPTH } from '../render/passes'
import type { PassFile } from '../render/passfile'

export interface Probe { metres?: number; /** Objects and materials there, greatest share first. */ objects: { name: string; share: number }[]; materials: { name: string; share: number }[] }

/** u, v: place in the frame, 0..1. */
export function probe(file: PassFile, u: number, v: number): Probe {
  const x = Math.min(file.width - 1, Math.max(0, Math.floor(u * file.width))), y = Math.min(file.height - 1, Math.max(0, Math.floor(v * file.height)))
  const pixel = y * file.width + x
  const depth = file.planes.get('depth.Z')?.[pixel]
  const list = (coverage: PassFile['cryptoObject'], names: string[]): Probe['objects'] => {
    if (!coverage) return []
    const out: Probe['objects'] = []
    for (let rank = 0; rank < coverage.ranks; rank++) {
      const index = coverage.index[pixel * coverage.ranks + rank]!
      if (index) out.push({ name: names[index - 1]!, share: coverage.weight[pixel * coverage.ranks + rank]! })
    }
    return out
  }
  return { metres: depth !== undefined && depth < NO_DEPTH / 2 ? depth : undefined, objects: list(file.cryptoObject, file.objectNames), materials: list(file.cryptoMaterial, file.materialNames) }
}

/** How the render's surfaces are spread over distance, and how tall they stand: for the soundings. */
export function depthSpread(file: PassFile, bins: number, near: number, far: number): Float32Array {
  const out = new Float32Array(bins), depth = file.planes.get('depth.Z'), alpha = file.planes.get('A')
  if (!depth) return out
  const low = Math.log(near), span = Math.log(far) - low
  for (let i = 0; i < depth.length; i++) {
    const metres = depth[i]!
    if (metres > NO_DEPTH / 2 || metres <= 0) continue
    const bin = Math.floor((Math.log(metres) - low) / span * bins)
    if (bin >= 0 && bin < bins) out[bin]! += alpha ? alpha[i]! : 1
  }
  for (let bin = 0; bin < bins; bin++) out[bin]! /= depth.length
  return out
}
