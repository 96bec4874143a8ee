// Fonts that ship, and outlines as polygons that can be measured and asked.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Outline } from '../core/words/outline'
import type { TypeSettings } from '../core/words/typeset'

const root = join(import.meta.dirname, '..')
export const fileOf = (family: string, part: string): Uint8Array =>
  new Uint8Array(
    readFileSync(join(root, `node_modules/@fontsource-variable/${family}/files/${family}-${part}-wght-normal.woff2`)),
  )
export const SETTINGS: TypeSettings = {
  ...{ weight: 400, tracking: 0, lineHeight: 1.2, align: 'left', baseline: { runs: 'straight' } },
}
/** All of it as corners of closed polygons, curves in so many steps. */
export function polygons(outline: Outline, steps = 12): number[][] {
  return outline.map(contour => {
    const out = [contour[0]!, contour[1]!]
    for (let i = 2; i < contour.length; i += 6) {
      const p = [out.at(-2)!, out.at(-1)!, ...contour.slice(i, i + 6)]
      const isStraight = Math.hypot(p[2]! * 3 - p[0]! * 2 - p[6]!, p[3]! * 3 - p[1]! * 2 - p[7]!) < 1e-9
      for (let k = isStraight ? steps : 1; k <= steps; k++) {
        const [t, u] = [k / steps, 1 - k / steps]
        for (const d of [0, 1])
          out.push(u ** 3 * p[d]! + 3 * u * u * t * p[2 + d]! + 3 * u * t * t * p[4 + d]! + t ** 3 * p[6 + d]!)
      }
    }
    return out
  })
}
export const measures = (all: readonly number[][]): number[] => {
  let [area, left, right, top, bottom, momentX, momentY] = [0, Infinity, -Infinity, Infinity, -Infinity, 0, 0]
  for (const polygon of all)
    for (let i = 0; i < polygon.length; i += 2) {
      const j = (i + 2) % polygon.length
      const [ax, ay, bx, by] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
      const cross = ax * by - bx * ay
      area += cross / 2
      momentX += ((ax + bx) * cross) / 6
      momentY += ((ay + by) * cross) / 6
      ;[left, right, top, bottom] = [Math.min(left, ax), Math.max(right, ax), Math.min(top, ay), Math.max(bottom, ay)]
    }
  return [area, momentX / area, momentY / area, left, right, top, bottom]
}

/** How often polygons turn round a place. */
export function winding(all: readonly number[][], x: number, y: number): number {
  let turns = 0
  for (const polygon of all)
    for (let i = 0; i < polygon.length; i += 2) {
      const j = (i + 2) % polygon.length
      const [ax, ay, bx, by] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
      if (ay <= y === by <= y) continue
      if (ax + ((y - ay) / (by - ay)) * (bx - ax) > x) turns += by > ay ? 1 : -1
    }
  return turns
}
