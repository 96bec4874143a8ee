// Lines round things: their length, width and side against geometry.
import { describe, expect, it } from 'vitest'
import { nearestSeed, OUTLINE } from '../../core/render/outline'
import type { OutlineSettings } from '../../core/shot/schema/passes'
import type { Part, Scene } from '../../core/scene/scene'
import { rotationFromDegrees } from '../../core/scene/vector'
import { ball, lookAt, material, object, quad, renderScene, scene } from '../scenes'

const SIZE = 96
const far = lookAt([0, 0, 100], [0, 0, 0], (36 / 4) * 100)
const draw = (description: Scene, change: Partial<OutlineSettings> = {}, camera = far) =>
  renderScene(description, {
    camera,
    width: SIZE,
    height: SIZE,
    samples: 8,
    passes: ['outline', 'alpha', 'object_id'],
    outline: { ...OUTLINE, ...change },
  })
const total = (plane: Float32Array): number => plane.reduce((sum, value) => sum + value, 0)
const one = scene([object('ball', ball([0, 0, 0], 1, 96))])
/** The picture is 4 m wide: so many pixels a metre. */
const PIXELS = SIZE / 4

it('the nearest seed is the nearest, by trying all', () => {
  const width = 23
  const height = 17
  const seeds = Uint8Array.from({ length: width * height }, (_, i) => ((i * 7919) % 41 === 0 ? 1 : 0))
  const found = nearestSeed(seeds, width, height)
  const distance = (a: number, b: number): number =>
    ((a % width) - (b % width)) ** 2 + (Math.floor(a / width) - Math.floor(b / width)) ** 2
  for (let at = 0; at < seeds.length; at++) {
    let best = Infinity
    seeds.forEach((seed, other) => {
      if (seed) best = Math.min(best, distance(at, other))
    })
    expect(distance(at, found[at]!)).toBe(best)
  }
  expect([...nearestSeed(new Uint8Array(12), 4, 3)].every(value => value === -1)).toBe(true)
})

describe('round a ball', () => {
  it.each([1, 2, 5, 10])(
    'a line of %d px is as long as its outline, to what four places to a pixel can tell',
    width => {
      expect(Math.abs(total(draw(one, { width }).outline) / (2 * Math.PI * PIXELS * width) - 1)).toBeLessThan(
        width < 2 ? 0.1 : 0.06,
      )
    },
  )
  it('lies on the chosen side', () => {
    const inside = draw(one, { width: 4, side: 'inside' })
    const outside = draw(one, { width: 4, side: 'outside' })
    let within = 0
    let without = 0
    for (let i = 0; i < SIZE * SIZE; i++) {
      within += inside.outline[i]! * inside.alpha[i]!
      without += outside.outline[i]! * (1 - outside.alpha[i]!)
    }
    expect(within / total(inside.outline)).toBeGreaterThan(0.93)
    expect(without / total(outside.outline)).toBeGreaterThan(0.93)
    expect(Math.abs(total(inside.outline) / (Math.PI * (PIXELS ** 2 - (PIXELS - 4) ** 2)) - 1)).toBeLessThan(0.06)
    expect(Math.abs(total(outside.outline) / (Math.PI * ((PIXELS + 4) ** 2 - PIXELS ** 2)) - 1)).toBeLessThan(0.06)
  })
  it('has soft edges, is never beyond 0 and 1, and is empty where nothing is', () => {
    const { outline } = draw(one, { width: 3 })
    expect([...outline].filter(value => value > 0.05 && value < 0.95).length).toBeGreaterThan(100)
    expect(Math.max(...outline)).toBeLessThanOrEqual(1)
    expect(total(draw(scene([])).outline)).toBe(0)
    expect(outline[(SIZE / 2) * SIZE + SIZE / 2]).toBe(0)
  })
  it('does not depend on strips: a tall picture has no seams', () => {
    const tall = renderScene(scene([object('bar', quad([-0.5, -50, 0], [0.5, -50, 0], [0.5, 50, 0], [-0.5, 50, 0]))]), {
      camera: far,
      width: 32,
      height: 200,
      samples: 1,
      passes: ['outline'],
      outline: { ...OUTLINE, width: 6 },
    })
    const row = [...tall.outline.subarray(0, 32)]
    for (let y = 1; y < 200; y++) expect([...tall.outline.subarray(y * 32, y * 32 + 32)]).toEqual(row)
  })
})

describe('within things', () => {
  const cube: Part[] = [
    quad([-1, -1, 1], [1, -1, 1], [1, 1, 1], [-1, 1, 1]),
    quad([1, -1, 1], [1, -1, -1], [1, 1, -1], [1, 1, 1]),
    quad([-1, 1, 1], [1, 1, 1], [1, 1, -1], [-1, 1, -1]),
  ]
  const box = (materials = [0, 0, 0]): Scene =>
    scene(
      [
        {
          ...object('box', cube[0]!),
          parts: cube.map((part, i) => ({ ...part, material: materials[i]! })),
          matrix: rotationFromDegrees(-40, 0, 0),
        },
      ],
      { materials: [material(), material({ name: 'other' })] },
    )
  const along = (description: Scene, change: Partial<OutlineSettings>): number => {
    const lines = draw(description, change).outline
    const edges = draw(description, { ...change, crease: 180, materials: false }).outline
    return total(lines) - total(edges)
  }
  it('draws folds from the chosen angle on', () => {
    // Seen from the front, turned: one upright edge of 2 m between two faces
    expect(Math.abs(along(box(), { crease: 80 }) / (2 * PIXELS * 2) - 1)).toBeLessThan(0.2)
    expect(along(box(), { crease: 100 })).toBe(0)
  })
  it('draws where materials meet, when asked', () => {
    expect(along(box([0, 1, 0]), { crease: 180, materials: true })).toBeGreaterThan(PIXELS * 3)
    expect(along(box([0, 1, 0]), { crease: 180, materials: false })).toBe(0)
  })
  it('draws one thing before another, and a thing before a part of itself', () => {
    // A bent sheet: its upper half stands a metre before its lower half
    const step = scene([
      {
        ...object('sheet', quad([-3, -3, 0], [3, -3, 0], [3, 0, 0], [-3, 0, 0])),
        parts: [
          quad([-3, -3, 0], [3, -3, 0], [3, 0, 0], [-3, 0, 0]),
          quad([-3, 0, 60], [3, 0, 60], [3, 3, 60], [-3, 3, 60]),
        ],
      },
    ])
    expect(total(draw(step, { crease: 180 }).outline)).toBeGreaterThan(SIZE * 1.6)
    // A level sheet seen almost along itself is one surface all the way
    const slope = scene([object('floor', quad([-300, 0, 200], [300, 0, 200], [300, 0, -4000], [-300, 0, -4000]))])
    const low = draw(slope, { crease: 180 }, lookAt([0, 1, 100], [0, 0.5, 0], 50)).outline
    for (let y = 60; y < SIZE; y++) expect(low[y * SIZE + SIZE / 2]).toBe(0)
  })
})

it('lines grow with nearness, and waver when asked', () => {
  const two = scene([object('near', ball([-0.5, 0, 50], 0.25, 64)), object('far', ball([2, 0, -100], 1, 64))])
  const half = (plane: Float32Array, right: boolean): number => {
    let sum = 0
    for (let y = 0; y < SIZE; y++)
      for (let x = 0; x < SIZE / 2; x++) sum += plane[y * SIZE + x + (right ? SIZE / 2 : 0)]!
    return sum
  }
  // Seen as large as each other (0.25 m at 50 m, 1 m at 200 m), lines of one are four times as wide
  const even = draw(two, { width: 2 }).outline
  const grown = draw(two, { width: 2, distance: 100 }).outline
  expect(Math.abs(half(even, false) / half(even, true) - 1)).toBeLessThan(0.1)
  expect(Math.abs(half(grown, false) / half(grown, true) / 4 - 1)).toBeLessThan(0.15)
  const wavering = draw(one, { width: 6, waver: 0.8, waverSize: 0.3 }).outline
  const plain = draw(one, { width: 6 }).outline
  expect(Math.abs(total(wavering) / total(plain) - 1)).toBeLessThan(0.25)
  let differs = 0
  for (let i = 0; i < plain.length; i++) differs += Math.abs(plain[i]! - wavering[i]!)
  expect(differs / total(plain)).toBeGreaterThan(0.1)
})

describe('a fold whose edge is cut off', () => {
  // Two faces at 45 degrees to the view meet along x = 0, with a strip between them that looks straight at it, so many
  // pixels wide
  const roof = (wide: number, tilt: number): Part[] => {
    const h = wide / PIXELS / 2
    const turned = (part: Part): Part => {
      const c = Math.cos(tilt)
      const s = Math.sin(tilt)
      const spin = (data: Float32Array): Float32Array =>
        data.map((_, i) =>
          i % 3 === 0 ? data[i]! * c - data[i + 1]! * s : i % 3 === 1 ? data[i - 1]! * s + data[i]! * c : data[i]!,
        )
      return { ...part, positions: spin(part.positions), normals: part.normals && spin(part.normals) }
    }
    return [
      quad([-1 - h, -3, -1], [-h, -3, 0], [-h, 3, 0], [-1 - h, 3, -1]),
      quad([-h, -3, 0], [h, -3, 0], [h, 3, 0], [-h, 3, 0]),
      quad([h, -3, 0], [1 + h, -3, -1], [1 + h, 3, -1], [h, 3, 0]),
    ].map(turned)
  }
  it.each([
    [0, 0],
    [0.3, 0.05],
    [0.6, 0],
    [0.6, 0.31],
    [0.9, 0.05],
  ])('of %d px, turned by %d, is one line without gaps', (wide, tilt) => {
    const { outline } = draw(scene([{ ...object('roof', roof(wide, tilt)[0]!), parts: roof(wide, tilt) }]), {
      width: 2,
    })
    for (let y = 20; y < 76; y++) {
      // Where the edge is on this row
      const x = SIZE / 2 + (y + 0.5 - SIZE / 2) * Math.tan(tilt)
      const row = Array.from({ length: 13 }, (_, k) => outline[y * SIZE + Math.floor(x) - 6 + k]!)
      expect(Math.max(...row), `row ${y}`).toBeGreaterThan(0.85)
      expect(row.reduce((sum, value) => sum + value, 0) * Math.cos(tilt)).toBeGreaterThan(1.2)
      expect(row.reduce((sum, value) => sum + value, 0) * Math.cos(tilt)).toBeLessThan(3.2)
    }
  })
  it('of many pixels is two edges of a wide strip, neither of them sharp enough', () => {
    expect(
      total(
        draw(scene([{ ...object('roof', roof(8, 0)[0]!), parts: roof(8, 0) }]), { width: 2 }).outline.map((value, i) =>
          Math.abs((i % SIZE) - SIZE / 2) < 10 ? value : 0,
        ),
      ),
    ).toBe(0)
  })
})
