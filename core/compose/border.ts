// The border of a matte as lines, finer than its pixels.
import { contours } from 'd3-contour'

/**
 * Where a matte (width x height floats, 0..1) crosses a half, as an SVG path in pixels of the frame that lies in it at
 * left, top. Pixel centres are at halves; crumbs of less than two square pixels are left out.
 */
export function borderPath(
  matte: ArrayLike<number>,
  { width, height, left, top }: { width: number; height: number; left: number; top: number },
  frame: { width: number; height: number },
): string {
  const { coordinates } = contours()
    .size([width, height])
    .contour(matte as number[], 0.5)
  const parts: string[] = []
  for (const polygon of coordinates)
    for (const ring of polygon) {
      if (Math.abs(areaOf(ring)) < 2) continue
      let path = ''
      for (const [x, y] of ring)
        path += `${path ? 'L' : 'M'}${within(x! - left, frame.width)} ${within(y! - top, frame.height)}`
      parts.push(`${path}Z`)
    }
  return parts.join('')
}
/** What lies in the margin runs along the frame's edge. */
const within = (value: number, end: number): number => Math.round(Math.min(end, Math.max(0, value)) * 100) / 100

function areaOf(ring: readonly number[][]): number {
  let sum = 0
  for (let i = 0, j = ring.length - 1; i < ring.length; j = i++)
    sum += ring[j]![0]! * ring[i]![1]! - ring[i]![0]! * ring[j]![1]!
  return sum / 2
}
