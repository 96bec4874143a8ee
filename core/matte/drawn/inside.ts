// Places within what is drawn.
import { piecesOf, type Contour, type Piece } from './contour'

type Xy = readonly [number, number]
/** Places looked at across and down, at most. */
const SIDE = 24

/** Even places that lie within a contour (even-odd; an open one: within its line), in its pixels; its points where there are none. */
export function placesWithin(contour: Contour): Xy[] {
  const { points, closed } = contour
  const far = 1e9
  const pieces = piecesOf(contour, 0.25, { left: -far, top: -far, right: far, bottom: far })
  const reach = closed ? 0 : Math.max(0, ...points.map(({ radius }) => radius))
  const side = (pick: (piece: Piece) => number[]): [number, number] => {
    const all = pieces.flatMap(pick)
    return [Math.min(...all) - reach, Math.max(...all) + reach]
  }
  const [left, right] = side(({ ax, bx }) => [ax, bx])
  const [top, bottom] = side(({ ay, by }) => [ay, by])
  const found: Xy[] = []
  for (let row = 0; row < SIDE; row++)
    for (let column = 0; column < SIDE; column++) {
      const x = left + ((column + 0.5) / SIDE) * (right - left)
      const y = top + ((row + 0.5) / SIDE) * (bottom - top)
      if (closed ? isAround(pieces, x, y) : pieces.some(piece => isOn(piece, x, y))) found.push([x, y])
    }
  return found.length ? found : points.map(({ x, y }) => [x, y])
}
const isAround = (pieces: readonly Piece[], x: number, y: number): boolean =>
  pieces.filter(({ ax, ay, bx, by }) => ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)).length % 2 > 0
function isOn({ ax, ay, bx, by, radius }: Piece, x: number, y: number): boolean {
  const long = (bx - ax) ** 2 + (by - ay) ** 2
  const t = long > 0 ? Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long)) : 0
  return Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay)) <= radius[0] + (radius[1] - radius[0]) * t
}
