// Gradients against their definition, and the hand on what is told by values.
import { describe, expect, it } from 'vitest'
import { onAxis, project } from '../core/match/project'
import type { Handles } from '../core/matte/handles'
import { matteKindOf } from '../core/matte/registry'
import type { Vector3 } from '../core/scene/vector'
import { newDocument } from '../core/shot/document'
import { cameraAt } from '../core/shot/scene'
import { randomFrom } from './compose/random'
import { near, ramp } from './compose/ramps'
import { COUNT, DEPTH, held, term, useMattes, WIDTH } from './heldMatte'

useMattes()

const ENDS = { from_x: 5, from_y: 3, to_x: 25, to_y: 18 }
describe('a gradient', () => {
  const values = ENDS
  const smooth = (t: number): number => ramp(t, 1, 1e9, 1)
  const at = (left = 0, shrink = 1) =>
    Array.from(
      { length: COUNT },
      (_, i) => [((i % WIDTH) + 0.5 - left) * shrink, (Math.floor(i / WIDTH) + 0.5) * shrink] as const,
    )
  const line = ([x, y]: readonly [number, number]): number => smooth(((x - 5) * 20 + (y - 3) * 15) / 625)
  it('is 0 where it begins and 1 where it ends, along the line; round it is 1 in the middle', async () => {
    near(await held(term('gradient', values)), at().map(line))
    near(
      await held(term('gradient', { ...values, shape: 'round' })),
      at().map(([x, y]) => smooth(1 - Math.hypot(x - 5, y - 3) / 25)),
    )
  })
  it('stands at its place of the frame at any size, and where there is room round the frame', async () => {
    near(await held(term('gradient', values), { shrink: 2 }), at(0, 2).map(line))
    near(await held(term('gradient', values), { left: 7 }), at(7).map(line))
  })
})

it('an ellipse is its half axis to the end, and a share of that aside', async () => {
  const [dx, dy, aside] = [20, 15, 0.4]
  const turn = Math.atan2(dy, dx)
  const far = ([x, y]: readonly [number, number]): number => {
    // Turned back so that its half axis lies along the row: x'^2/a^2 + y'^2/b^2
    const along = (x - 5) * Math.cos(-turn) - (y - 3) * Math.sin(-turn)
    const side = (x - 5) * Math.sin(-turn) + (y - 3) * Math.cos(-turn)
    return Math.sqrt((along / 25) ** 2 + (side / (25 * aside)) ** 2)
  }
  const places = Array.from({ length: COUNT }, (_, i) => [(i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5] as const)
  near(
    await held(term('gradient', { ...ENDS, shape: 'ellipse', aside })),
    places.map(place => ramp(1 - far(place), 1, 1e9, 1)),
  )
})
it('with depth it is nothing at one distance and all at another, either way; what has no distance is beyond', async () => {
  const depth = DEPTH.map((metres, i) => (i % 11 ? metres : Infinity))
  const share = (metres: number, from: number, to: number): number => {
    const t = metres === Infinity ? Math.sign(to - from) : (metres - from) / (to - from)
    const inside = Math.min(1, Math.max(0, t))
    return inside * inside * (3 - 2 * inside)
  }
  for (const [near_, far] of [
    [8, 22],
    [25, 4],
  ] as const)
    near(
      await held(term('gradient', { shape: 'depth', near: near_, far }), { depth }),
      depth.map(metres => share(metres, near_, far)),
    )
})

describe('the hand on what is told by values', () => {
  const random = randomFrom(77)
  const at = (low: number, high: number): number => low + random() * (high - low)
  const told = (kind: string, values: Record<string, unknown>): Handles => matteKindOf(kind).handles!(values as never)!
  const cases = (): [string, Record<string, unknown>][] => [
    ...['line', 'round', 'ellipse'].map((shape): [string, Record<string, unknown>] => [
      'gradient',
      { shape, from_x: at(0, 900), from_y: at(0, 500), to_x: at(0, 900), to_y: at(0, 500), aside: at(0.1, 3) },
    ]),
    ...['box', 'ball'].map((shape): [string, Record<string, unknown>] => [
      'place',
      { shape, x: at(-5, 5), y: at(0, 3), z: at(-20, 0), across: at(0.5, 4), up: at(0.5, 4), deep: at(0.5, 4) },
    ]),
  ]
  it('brings a grip where it is taken, and nothing else but what goes along with it', () => {
    for (let round = 0; round < 40; round++)
      for (const [kind, values] of cases()) {
        const before = told(kind, values)
        for (const [index, grip] of before.grips.entries()) {
          const along = 'along' in grip ? grip.along : undefined
          const far = at(0.1, 3)
          const to = grip.at.map((value, axis) =>
            before.of === 'frame'
              ? value + at(-60, 60)
              : along
                ? value + along[axis]! * far
                : value + at(-3, 3) * (axis === 1 ? 0 : 1),
          )
          const after = told(kind, { ...values, ...before.moved(grip.id, to as never) })
          if (grip.id === 'aside') {
            // As far away as it was brought, to its own side
            const long = (handles: Handles): number =>
              Math.hypot(...handles.grips[2]!.at.map((value, axis) => value - handles.grips[0]!.at[axis]!))
            expect(long(after)).toBeCloseTo(
              Math.hypot(...to.map((value, axis) => value - before.grips[0]!.at[axis]!)),
              6,
            )
            continue
          }
          for (const [axis, value] of after.grips[index]!.at.entries()) expect(value).toBeCloseTo(to[axis]!, 6)
          const still =
            kind === 'place' && along
              ? before.grips.find(other => 'along' in other && other.along?.every((way, axis) => way === -along[axis]!))
              : kind === 'gradient' && (values.shape === 'line' || grip.id === 'to')
                ? before.grips[1 - index]
                : undefined
          if (!still) continue
          const where = after.grips.find(({ id }) => id === still.id)!
          for (const [axis, value] of where.at.entries()) expect(value).toBeCloseTo(still.at[axis]!, 6)
        }
      }
  })
  it('has lines where what is told ends', () => {
    for (const [kind, values] of cases().slice(1)) {
      const v = values as Record<string, number>
      const { lines } = told(kind, values)
      if (kind === 'place')
        for (const [x, y, z] of lines.flat() as [number, number, number][]) {
          const out = [(x - v.x!) / v.across!, (y - v.y!) / v.up!, (z - v.z!) / v.deep!].map(one => one * 2)
          expect(values.shape === 'box' ? Math.max(...out.map(Math.abs)) : Math.hypot(...out)).toBeCloseTo(1, 9)
        }
      else {
        const [dx, dy] = [v.to_x! - v.from_x!, v.to_y! - v.from_y!]
        for (const [x, y] of lines.find(line => line.length > 10) as [number, number][]) {
          const along = ((x - v.from_x!) * dx + (y - v.from_y!) * dy) / Math.hypot(dx, dy) ** 2
          const side = ((y - v.from_y!) * dx - (x - v.from_x!) * dy) / Math.hypot(dx, dy) ** 2
          expect(Math.hypot(along, side / (values.shape === 'round' ? 1 : v.aside!))).toBeCloseTo(1, 9)
        }
      }
    }
  })
  it('finds on a line of the scene what is seen there', () => {
    const camera = cameraAt(newDocument(640, 360).scene.camera, 1)
    for (let i = 0; i < 50; i++) {
      const from: Vector3 = [at(-3, 3), at(0, 3), at(-20, -5)]
      const along: Vector3 = [at(-1, 1), at(-1, 1), at(-1, 1)]
      const far = at(-2, 2) / Math.hypot(...along)
      const place = from.map((value, axis) => value + along[axis]! * far) as Vector3
      const { u, v } = project(camera, 640 / 360, place)
      const found = onAxis(camera, 640 / 360, u, v, from, along)!
      for (const axis of [0, 1, 2]) expect(found[axis]).toBeCloseTo(place[axis]!, 5)
    }
  })
})
