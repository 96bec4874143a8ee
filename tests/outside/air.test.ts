// What air and ground do to a picture: closed forms, and sums along the ray.
import { describe, expect, it } from 'vitest'
import { project } from '../../core/match/project'
import { ANY_CAMERA, type Camera } from '../../core/scene/scene'
import { at, HEIGHT, made, treat, WIDTH } from './made'

describe('fog', () => {
  const grey = made(() => 0.5)
  const flat = { by: [1, 1, 1], colour: [0.1, 0.2, 0.3], most: 1 }
  it('loses half of the light every half distance (Beer–Lambert law), along the ray, not the axis', async () => {
    const camera: Camera = { ...ANY_CAMERA, focalLength: 20, sensorWidth: 36 }
    const depth = Array.from({ length: WIDTH * HEIGHT }, (_, i) => 1 + (i % WIDTH) / 4)
    // Blue goes twice as far
    const out = await treat('fog', { ...flat, by: [1, 1, 2], half: 7 }, grey, { depth, camera })
    for (const [x, y] of [
      [5, 5],
      [48, 32],
      [90, 60],
    ] as const) {
      const along = Math.hypot(1, ((x + 0.5 - 48) * 36) / 20 / 96, ((y + 0.5 - 32) * 36) / 20 / 96)
      const left = 2 ** (-((1 + x / 4) * along) / 7)
      expect(at(out, x, y)).toBeCloseTo(0.5 * left + 0.1 * (1 - left), 5)
      const blue = Math.sqrt(left)
      expect(at(out, x, y, 2)).toBeCloseTo(0.5 * blue + 0.3 * (1 - blue), 5)
    }
  })
  it('thinning with height is the sum along the ray, over ground and below it', async () => {
    // Looking down by 20 degrees from 3 m, turned to a side and tilted
    const [pitch, roll] = [-0.35, 0.2]
    const [c, s, cr, sr] = [Math.cos(pitch), Math.sin(pitch), Math.cos(roll), Math.sin(roll)]
    const camera: Camera = {
      ...ANY_CAMERA,
      matrix: [cr, sr * c, sr * s, 0, -sr, cr * c, cr * s, 0, 0, -s, c, 0, 0, 3, 0, 1],
      shiftX: 0.1,
      shiftY: -0.2,
    }
    const depth = Array.from({ length: WIDTH * HEIGHT }, (_, i) => 2 + (i % 37))
    const out = await treat('fog', { ...flat, half: 9, thinning: 2.5, ground: 0.4, from: 1.5 }, grey, { depth, camera })
    for (const [x, y] of [
      [3, 3],
      [40, 10],
      [60, 40],
      [90, 62],
      [11, 50],
    ] as const) {
      // Where the ray goes: found by asking where points of the world are seen
      const metres = depth[y * WIDTH + x]!
      const tangent = 36 / 2 / 35
      const px = ((2 * (x + 0.5)) / WIDTH - 1 + 0.1) * tangent
      const py = ((1 - (2 * (y + 0.5)) / HEIGHT - 0.2) * tangent * HEIGHT) / WIDTH
      const m = camera.matrix
      const end = [0, 1, 2].map(k => m[12 + k]! + (m[k]! * px + m[4 + k]! * py - m[8 + k]!) * metres) as [
        number,
        number,
        number,
      ]
      const seen = project(camera, WIDTH / HEIGHT, end)
      expect(seen.u).toBeCloseTo((x + 0.5) / WIDTH, 9)
      expect(seen.v).toBeCloseTo((y + 0.5) / HEIGHT, 9)
      const far = Math.hypot(end[0] - m[12]!, end[1] - m[13]!, end[2] - m[14]!)
      let air = 0
      const steps = 20000
      for (let i = 0; i < steps; i++) {
        const way = ((i + 0.5) / steps) * far
        if (way < 1.5) continue
        const height = 3 + ((end[1] - 3) * way) / far - 0.4
        air += (far / steps) * (height <= 0 ? 1 : 2 ** (-height / 2.5))
      }
      const left = 2 ** (-air / 9)
      expect(Math.abs(at(out, x, y) - (0.5 * left + 0.1 * (1 - left)))).toBeLessThan(2e-4)
    }
  })
})

describe('creases and mist', () => {
  it('takes light to the tint as far as it is closed in', async () => {
    const grey = made(() => 0.5)
    const occlusion = Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH) / WIDTH)
    const values = { amount: 0.8, tint: [0.5, 0.25, 0], power: 1, shadow: 0 }
    const out = await treat('crease_tint', values, grey, { shares: { occlusion } })
    for (const x of [0, 30, 90]) {
      const closed = (1 - x / WIDTH) * 0.8
      expect(at(out, x, 9, 0)).toBeCloseTo(0.5 * (1 - 0.5 * closed), 5)
      expect(at(out, x, 9, 2)).toBeCloseTo(0.5 * (1 - closed), 5)
    }
    expect(await treat('crease_tint', values, grey)).toEqual(grey)
  })
  it('the mist adds light where it is, and none is lost in softening it', async () => {
    const mist = Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH >= 40 && i % WIDTH < 56 ? 0.5 : 0))
    const values = { amount: 0.4, size: 3, colour: [0.1, 0.1, 0.1] }
    const out = await treat(
      'mist_glow',
      values,
      made(() => 0.3),
      { shares: { mist } },
    )
    expect(out.reduce((sum, value, i) => (i % 4 === 0 ? sum + value - 0.3 : sum), 0)).toBeCloseTo(
      16 * HEIGHT * 0.5 * 0.4 * 0.4,
      0,
    )
    expect(at(out, 48, 30)).toBeCloseTo(0.3 + 0.08, 2)
  })
})

describe('on the ground', () => {
  it('lies where the camera sees the plane', async () => {
    const camera: Camera = {
      ...ANY_CAMERA,
      matrix: [1, 0, 0, 0, 0, 0.94, -0.342, 0, 0, 0.342, 0.94, 0, 0.3, 1.7, 0.5, 1],
    }
    const across = made(x => x / WIDTH)
    const down = made((_, y) => y / HEIGHT)
    const values = { level: 0.1, x: 0.4, z: -4, wide: 5, turn: 30, filter: 'straight' }
    const [u, v] = [await treat('ground', values, across, { camera }), await treat('ground', values, down, { camera })]
    const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)]
    let count = 0
    for (const [px, py] of [
      [0.3, 0.4],
      [0.7, 0.6],
      [0.5, 0.5],
      [0.2, 0.8],
    ] as const) {
      // A place of the picture on the plane; turned counter-clockwise from above, its top away from the viewer
      const [across, away] = [(px - 0.5) * 5, ((py - 0.5) * 5 * HEIGHT) / WIDTH]
      const seen = project(camera, WIDTH / HEIGHT, [0.4 + c * across + s * away, 0.1, -4 - s * across + c * away])
      const [x, y] = [Math.floor(seen.u * WIDTH), Math.floor(seen.v * HEIGHT)]
      if (x < 1 || y < 1 || x >= WIDTH - 1 || y >= HEIGHT - 1) continue
      count++
      expect(Math.abs(at(u, x, y) - px)).toBeLessThan(0.04)
      expect(Math.abs(at(v, x, y) - py)).toBeLessThan(0.08)
    }
    expect(count).toBeGreaterThan(2)
    // Above the horizon there is none
    expect(at(u, 48, 1, 3)).toBe(0)
  })
})
