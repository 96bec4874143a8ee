// What bright points do in a lens: stars against the far field of an opening (NumPy), rings and ghosts against where optics
// has them.
import { describe, expect, it } from 'vitest'
import { armsOf } from '../../core/treatment/stars'
import { treat as treated } from '../compose/treat'
import { pythonOf } from '../python'
import { made, pool } from './made'

const [WIDTH, HEIGHT] = [240, 160]
type Values = Parameters<typeof treated>[2]
const lit = (id: string, values: Values, at: readonly [number, number], options = {}): Promise<Float32Array> =>
  treated(
    pool,
    id,
    { feeds: 'all light', shows: 'the glow', ...values },
    WIDTH,
    HEIGHT,
    made((x, y) => (x === at[0] + 0.5 && y === at[1] + 0.5 ? 100 : 0), WIDTH, HEIGHT),
    options,
  )
/** Of one channel: sum and middle, of what a condition holds. */
function light(out: Float32Array, channel: number, of = (_x: number, _y: number): boolean => true) {
  let [sum, x, y] = [0, 0, 0]
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const [px, py] = [(i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5]
    if (!of(px, py)) continue
    const value = out[i * 4 + channel]!
    sum += value
    x += value * px
    y += value * py
  }
  return { sum, x: x / sum, y: y / sum }
}

describe('stars', () => {
  it.each([
    [5, 0],
    [6, 0],
    [6, 20],
    [7, -35],
    [8, 11],
  ])('of %i blades turned by %i have their arms where the far field of that opening has them', (blades, turn) => {
    // A corner lies at `turn`, counter-clockwise from the right; rows go down
    const theirs = pythonOf<number[]>(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin); n = 1024
a = np.deg2rad(d['turn'] + np.arange(d['blades']) * 360 / d['blades'])
corners = np.stack([n / 2 + 90 * np.cos(a), n / 2 - 90 * np.sin(a)], 1)
opening = cv2.fillPoly(np.zeros((n, n), np.uint8), [np.round(corners * 16).astype(np.int32)], 1, cv2.LINE_8, 4).astype(float)
far = np.abs(np.fft.fftshift(np.fft.fft2(opening))) ** 2
y, x = np.mgrid[:n, :n] - n // 2; r = np.hypot(x, y); angle = np.rad2deg(np.arctan2(-y, x)) % 360
inside = (r > 60) & (r < 400)
sums = np.bincount((angle[inside] * 2).astype(int) % 720, weights=(far * r ** 2)[inside], minlength=720)
sums = np.convolve(np.r_[sums[-4:], sums, sums[:4]], np.ones(5) / 5, 'same')[4:-4] * (1 + 1e-6 * np.arange(720))
peaks = [i for i in range(720) if sums[i] == sums[np.arange(i - 12, i + 13) % 720].max() and sums[i] > 0.3 * sums.max()]
print(json.dumps([p / 2 + 0.25 for p in peaks]))`,
      { blades, turn },
    )
    const ours = armsOf(blades, turn).map(angle => ((((angle * 180) / Math.PI) % 360) + 360) % 360)
    expect(ours).toHaveLength(theirs.length)
    for (const arm of ours) {
      const apart = theirs.map(peak => Math.abs(((arm - peak + 540) % 360) - 180))
      expect(Math.min(...apart)).toBeLessThan(1.5)
    }
  })
  it('lie along those arms, with the light that is said, red farther out than blue in proportion to their waves', async () => {
    const at = [120, 80] as const
    const out = await lit('stars', { amount: 0.5, blades: 4, turn: 0, length: 6, colour: 1 }, at)
    const [red, green, blue] = [0, 1, 2].map(c => light(out, c).sum)
    for (const sum of [red!, green!, blue!]) expect(Math.abs(sum / 50 - 1)).toBeLessThan(0.02)
    // A corner at 0°: sides look to 45°, 135° and so on. Each arm alone, and how far its light lies from the point
    const far = (channel: number): number => {
      const arm = light(out, channel, (x, y) => x > 121 && y < 80)
      expect(Math.abs(arm.x - 120.5 + (arm.y - 80.5))).toBeLessThan(0.3)
      expect(arm.sum).toBeGreaterThan(8)
      return Math.hypot(arm.x - 120.5, arm.y - 80.5)
    }
    expect(far(0)).toBeGreaterThan(far(1))
    expect(far(1)).toBeGreaterThan(far(2))
    // Beside the arms there is none
    expect(light(out, 1, (x, y) => Math.abs(x - 120.5) > 6 && Math.abs(y - 80.5) < 2).sum).toBeLessThan(0.05)
  })
})

describe('glow', () => {
  it('stays about its spark, wherever that lies between the pixels of smaller pictures', async () => {
    for (let i = 0; i < 8; i++) {
      const at = [110 + i, 77 + ((i * 3) % 8)] as const
      const { x, y, sum } = light(await lit('glow', { amount: 1, size: 10, colour: 0 }, at), 1)
      expect(Math.abs(sum / 100 - 1)).toBeLessThan(1e-3)
      expect(Math.hypot(x - at[0] - 0.5, y - at[1] - 0.5)).toBeLessThan(0.02)
    }
  })
})

describe('halos', () => {
  it('are rings of the radius that is said, as soft as is said, red in proportion to its wave, with the light that is said', async () => {
    const out = await lit('halo', { amount: 0.5, rings: 1, radius: 40, width: 3, colour: 1 }, [120, 80])
    const radial = (channel: number) => {
      let [sum, mean, square] = [0, 0, 0]
      for (let i = 0; i < WIDTH * HEIGHT; i++) {
        const value = out[i * 4 + channel]!
        const r = Math.hypot((i % WIDTH) - 120, Math.floor(i / WIDTH) - 80)
        sum += value
        mean += value * r
        square += value * r * r
      }
      mean /= sum
      return { sum, mean, soft: Math.sqrt(square / sum - mean * mean) }
    }
    const [red, green, blue] = [radial(0), radial(1), radial(2)]
    for (const { sum, soft } of [red, green, blue]) {
      expect(Math.abs(sum / 50 - 1)).toBeLessThan(0.01)
      expect(Math.abs(soft - 3)).toBeLessThan(0.12)
    }
    expect(Math.abs(green.mean - 40)).toBeLessThan(0.5)
    expect(Math.abs(red.mean / green.mean - 610 / 550)).toBeLessThan(0.01)
    expect(Math.abs(blue.mean / green.mean - 465 / 550)).toBeLessThan(0.01)
    // Round: as bright in all directions
    const bright = Array.from({ length: 24 }, (_, i) => {
      const angle = (i * Math.PI) / 12
      return out[(Math.round(80 + 40 * Math.sin(angle)) * WIDTH + Math.round(120 + 40 * Math.cos(angle))) * 4 + 1]!
    })
    expect(Math.min(...bright) / Math.max(...bright)).toBeGreaterThan(0.85)
  })
})

describe('ghosts', () => {
  it('lie on the line from the lamp through the middle, with the light that is said, as large as is said', async () => {
    // The first lies 0.62 times as far beyond the middle
    const lamp = [150, 60] as const
    const values = { amount: 0.4, ghosts: 1, size: 20, reach: 1, blades: 0, rim: 0, colour: 0 }
    const out = await lit('flare', values, lamp)
    const ghost = light(out, 1)
    expect(Math.abs(ghost.sum / 40 - 1)).toBeLessThan(0.02)
    expect(Math.abs(ghost.x - (120 - 0.62 * 30.5))).toBeLessThan(0.6)
    expect(Math.abs(ghost.y - (80 - 0.62 * (60.5 - 80)))).toBeLessThan(0.6)
    // Wherever the lamp lies between the pixels that it is laid in: a ghost does not flicker while that moves
    const sums: number[] = []
    for (let i = 0; i < 8; i++) sums.push(light(await lit('flare', values, [150 + i, 60 + (i % 3)]), 1).sum / 40)
    expect(Math.max(...sums) / Math.min(...sums)).toBeLessThan(1.015)
    // An even disc of radius r spreads by r²/2 about its middle
    let square = 0
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const [dx, dy] = [(i % WIDTH) + 0.5 - ghost.x, Math.floor(i / WIDTH) + 0.5 - ghost.y]
      square += (out[i * 4 + 1]! * (dx * dx + dy * dy)) / ghost.sum
    }
    expect(Math.abs(Math.sqrt(square * 2) / (20 * 0.8) - 1)).toBeLessThan(0.08)
    const nearer = light(await lit('flare', { ...values, reach: 0.5 }, lamp), 1)
    expect(Math.abs(nearer.x - (120 - 0.31 * 30.5))).toBeLessThan(0.6)
    // A layer that has pixels about its lamp only throws its ghost across the frame all the same
    const about = { left: 140, top: 50, right: 160, bottom: 70 }
    const small = await lit('flare', values, lamp, {
      window: about,
      area: { left: 0, top: 0, right: WIDTH, bottom: HEIGHT },
    })
    expect(light(small, 1).sum / ghost.sum).toBeCloseTo(1, 2)
    // What is hidden mirrors nothing: a matte that holds none of it
    const none = await lit('flare', values, lamp, { matte: new Float32Array(WIDTH * HEIGHT) })
    expect(light(none, 1).sum).toBe(0)
  })
})

describe('the shadow at the foot', () => {
  // A board from 60 to 90 across, 40 tall, on a line at 120 of 160
  const board = made((x, y, c) => (x > 60 && x < 90 && y > 80 && y < 120 ? [0.4, 0.3, 0.2][c]! : 0), WIDTH, HEIGHT)
  for (let i = 0; i < WIDTH * HEIGHT; i++) board[i * 4 + 3] = board[i * 4]! > 0 ? 1 : 0
  const thrown = (values: Values): Promise<Float32Array> =>
    treated(pool, 'contact', { amount: 0.75, foot: 0.75, tint: [0, 0, 0], size: 0, ...values }, WIDTH, HEIGHT, board)
  const alpha = (out: Float32Array, x: number, y: number): number => out[(y * WIDTH + x) * 4 + 3]!

  it('lies where the board is laid over on the ground, as dark as is said, and not on the board', async () => {
    const out = await thrown({ length: 0.5, lean: 0.25 })
    // 40 tall: 20 long toward the viewer, its far edge 10 to the right
    const corner = (x: number, y: number): [number, number] => [x + 0.25 * (120 - y), 120 + 0.5 * (120 - y)]
    expect(corner(60, 80)).toEqual([70, 140])
    // Half of the dark is that of all of it, half is at the foot alone
    const half = 1 - Math.sqrt(0.25)
    expect(alpha(out, 85, 137)).toBeCloseTo(half, 3)
    expect(alpha(out, 71, 137)).toBeCloseTo(half, 3)
    expect(alpha(out, 66, 137)).toBeCloseTo(0, 3)
    expect(alpha(out, 100, 137)).toBeCloseTo(0, 3)
    expect(alpha(out, 85, 142)).toBeCloseTo(0, 3)
    expect(alpha(out, 75, 120)).toBeCloseTo(0.75, 2)
    expect([...out.slice((100 * WIDTH + 75) * 4, (100 * WIDTH + 75) * 4 + 4)]).toEqual([
      ...board.slice((100 * WIDTH + 75) * 4, (100 * WIDTH + 75) * 4 + 4),
    ])
    // Away from the viewer it is behind the board, and seen beside it
    const away = await thrown({ length: -0.5, lean: 1 })
    expect(alpha(away, 115, 105)).toBeCloseTo(half, 3)
    expect(alpha(away, 115, 125)).toBeCloseTo(0, 3)
  })
  it('is softer as is said, and of its colour', async () => {
    const out = await thrown({ length: 0.5, lean: 0, size: 4, tint: [0.2, 0.3, 0.4] })
    const far = [130, 134, 138, 142, 146].map(y => alpha(out, 75, y))
    expect([...far].sort((a, b) => b - a)).toEqual(far)
    // At the far edge half of what it is within
    expect(Math.abs(alpha(out, 75, 139) - 0.25 - (alpha(out, 75, 140) - 0.25)) / 2).toBeLessThan(0.05)
    for (const c of [0, 1, 2])
      expect(out[(134 * WIDTH + 75) * 4 + c]! / alpha(out, 75, 134)).toBeCloseTo([0.2, 0.3, 0.4][c]!, 4)
  })
})
