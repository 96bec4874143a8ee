import { describe, expect, it } from 'vitest'
import { borderPath } from './border'

const matteOf = (width: number, height: number, at: (x: number, y: number) => number): Float32Array =>
  Float32Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width)))
const placesOf = (path: string): [number, number][] =>
  [...path.matchAll(/([\d.]+) ([\d.]+)/g)].map(([, x, y]) => [Number(x), Number(y)])

describe('the border of a matte', () => {
  it('follows a disc to a twentieth of a pixel: an edge pixel’s share says where the edge is', () => {
    const [cx, cy, radius] = [20.3, 17.8, 11.4]
    // Coverage of each pixel by 16 x 16 places in it
    const disc = matteOf(40, 36, (x, y) => {
      let inside = 0
      for (let i = 0; i < 256; i++)
        inside += Math.hypot(x + ((i % 16) + 0.5) / 16 - cx, y + (Math.floor(i / 16) + 0.5) / 16 - cy) < radius ? 1 : 0
      return inside / 256
    })
    const places = placesOf(borderPath(disc, { width: 40, height: 36, left: 0, top: 0 }, { width: 40, height: 36 }))
    expect(places.length).toBeGreaterThan(40)
    const off = places.map(([x, y]) => Math.abs(Math.hypot(x - cx, y - cy) - radius))
    expect(off.reduce((sum, value) => sum + value, 0) / off.length).toBeLessThan(0.05)
    expect(Math.max(...off)).toBeLessThan(0.2)
  })
  it('a hole has a border of its own, a crumb none, and the frame cuts', () => {
    const ring = matteOf(30, 30, (x, y) => {
      const far = Math.hypot(x - 14, y - 14)
      return (far < 10 && far > 4) || (x === 29 && y === 29) ? 1 : 0
    })
    const path = borderPath(ring, { width: 30, height: 30, left: 8, top: 8 }, { width: 14, height: 14 })
    expect(path.match(/Z/g)).toHaveLength(2)
    for (const [x, y] of placesOf(path)) expect(x >= 0 && x <= 14 && y >= 0 && y <= 14).toBe(true)
    expect(borderPath(new Float32Array(9), { width: 3, height: 3, left: 0, top: 0 }, { width: 3, height: 3 })).toBe('')
  })
})
