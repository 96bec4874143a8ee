// Contours as paths of SVG, and which way leads out of one.
import type { Contour, ContourPoint } from '../../core/matte/drawn/contour'
import type { Xy } from './overPicture'

const number = (value: number): string => value.toFixed(2)
export function pathOf({ points, closed }: Contour): string {
  if (!points.length) return ''
  const first = points[0]!
  const to = (a: ContourPoint, b: ContourPoint): string =>
    `C${[a.x + a.outX, a.y + a.outY, b.x + b.inX, b.y + b.inY, b.x, b.y].map(number).join(' ')}`
  const line = points.slice(1).map((point, i) => to(points[i]!, point))
  return `M${number(first.x)} ${number(first.y)}${line.join('')}${closed ? `${to(points.at(-1)!, first)}Z` : ''}`
}
/** The unit across the edge at a point, outwards. */
export function across({ points, closed }: Contour, index: number): { nx: number; ny: number } {
  const at = points[index]!
  const count = points.length
  const before = points[(index - 1 + count) % count]!
  const after = points[(index + 1) % count]!
  const goes = (x: number, y: number): Xy => {
    const long = Math.hypot(x, y)
    return long > 0 ? [x / long, y / long] : [0, 0]
  }
  const came = at.inX || at.inY ? goes(-at.inX, -at.inY) : goes(at.x - before.x, at.y - before.y)
  const leaves = at.outX || at.outY ? goes(at.outX, at.outY) : goes(after.x - at.x, after.y - at.y)
  const along = goes(came[0] + leaves[0], came[1] + leaves[1])
  const area = points.reduce((sum, point, i) => {
    const next = points[(i + 1) % count]!
    return sum + point.x * next.y - next.x * point.y
  }, 0)
  const way = closed && area < 0 ? -1 : 1
  return { nx: along[1] * way, ny: -along[0] * way }
}
