// Specks: where they are, how they move, how much of them is drawn.
import { describe, expect, it } from 'vitest'
import { firstValues } from '../declare/values'
import type { Camera, Light } from '../scene/scene'
import type { Vector3 } from '../scene/vector'
import { project } from '../match/project'
import { placesOf } from './castLights'
import { arriving } from './lightThere'
import { eachSpeck, inSight, MOST_SPECKS, volumeInSight } from './specksSpace'
import { specksSeen } from './specksSeen'
import { SPECKS_VALUES, type SpecksValues } from './specksValues'

const camera = (z = 0, x = 0): Camera => ({
  ...{ name: '', focalLength: 36, sensorWidth: 36, shiftX: 0, shiftY: 0 },
  matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 5, z, 1],
})
const values = (change: Partial<SpecksValues> = {}): SpecksValues =>
  ({ ...(firstValues(SPECKS_VALUES) as unknown as SpecksValues), floor: -1e5, ...change }) as SpecksValues
interface Speck {
  from: Vector3
  to: Vector3
}
const all = (told: SpecksValues, seconds = 0, eye = camera(), open = 0): Speck[] => {
  const found: Speck[] = []
  eachSpeck(told, eye, 1.5, [seconds, open], speck => {
    const [a, b, c, d, e, f] = speck as unknown as number[]
    found.push({ from: [a!, b!, c!], to: [d!, e!, f!] })
  })
  return found
}
const inView = ({ from }: Speck, eye: Camera, { near, far }: SpecksValues): boolean => {
  const { u, v, metres } = project(eye, 1.5, from)
  return u > 0 && u < 1 && v > 0 && v < 1 && metres > near && metres < far
}
const nearest = (list: readonly Speck[], place: Vector3): number =>
  Math.min(...list.map(({ from }) => Math.hypot(from[0] - place[0], from[1] - place[1], from[2] - place[2])))

describe('in space', () => {
  it('there are as many to the cubic metre as is said, evenly', () => {
    const told = values({ density: 12, near: 0.5, far: 12, speeds: 0 })
    // A pyramid less its top: a third of base by height; 1 m wide and 2/3 m high one metre away
    expect(volumeInSight(told, camera(), 1.5)).toBeCloseTo(((2 / 3) * (12 ** 3 - 0.5 ** 3)) / 3, 6)
    const seen = all(told).filter(speck => inView(speck, camera(), told))
    expect(Math.abs(seen.length / (12 * volumeInSight(told, camera(), 1.5)) - 1)).toBeLessThan(0.02)
    // The nearer half of the way has an eighth of the room
    const half = seen.filter(({ from }) => -from[2] < 6).length
    expect(Math.abs(half / seen.length - 1 / 8)).toBeLessThan(0.02)
  })
  it('they are the same whenever they are looked at, wherever from, and others by another seed', () => {
    const told = values({ density: 5, far: 10 })
    expect(all(told, 3)).toEqual(all(told, 3))
    const here = all(told, 3).filter(speck => inView(speck, camera(), told))
    const other = all({ ...told, seed: 2 }, 3)
    expect(nearest(other, here[0]!.from)).toBeGreaterThan(1e-3)
    // A step aside and back: what both see stands in the same places
    const aside = camera(0.7, 1.3)
    const there = all(told, 3, aside)
    const both = here.filter(speck => inView(speck, aside, told))
    expect(both.length).toBeGreaterThan(100)
    for (const { from } of both.slice(0, 60)) expect(nearest(there, from)).toBeLessThan(1e-6)
  })
  it('they fall and go with the wind at their speed', () => {
    const told = values({ density: 2, far: 10, fall: 4, wind: 3, heading: 90, speeds: 0 })
    const gone = ({ from: [x, y, z] }: Speck): Vector3 => [x + 0.3, y - 0.4, z]
    const before = all(told, 1).filter(speck => inView({ ...speck, from: gone(speck) }, camera(), told))
    const after = all(told, 1.1)
    expect(before.length).toBeGreaterThan(40)
    for (const speck of before.slice(0, 40)) expect(nearest(after, gone(speck))).toBeLessThan(1e-6)
    // While the shutter is open they go as far
    for (const { from, to } of all(told, 1, camera(), 0.05).slice(0, 20)) {
      expect(to[0] - from[0]).toBeCloseTo(0.15, 6)
      expect(to[1] - from[1]).toBeCloseTo(-0.2, 6)
    }
  })
  it('more than are drawn are not made, however many are asked for', () => {
    const told = values({ density: 1e6, far: 500 })
    const { count, made } = inSight(told, camera(), 1.5)
    expect(count * made).toBeLessThanOrEqual(MOST_SPECKS)
    expect(count * made).toBeGreaterThan(MOST_SPECKS / 2)
    expect(all(told).filter(speck => inView(speck, camera(), told)).length).toBeLessThan(MOST_SPECKS * 1.05)
  })
  it('whatever is asked for ends soon: no more are looked at than one can', () => {
    for (const change of [
      { density: 1e6, near: 0.01, far: 0.02, sway: 1000 },
      { density: 1e6, far: 1, sway: 5, where: 'in a box', wide: 1e5, tall: 1e5, deep: 1e5 },
    ] as const) {
      let count = 0
      eachSpeck(values(change), camera(), 1.5, [1e6, 0.05], () => count++)
      expect(count).toBeLessThan(3e6)
    }
  })
  it('none is made where farthest is nearer than nearest', () => {
    expect(all(values({ near: 5, far: 4 }))).toEqual([])
  })
})

describe('as they are seen', () => {
  const shot = (eye = camera(), open = 0) => ({
    ...{ opens: eye, middle: eye, closes: eye, seconds: [0, open] as const },
    ...{ width: 300, height: 200, shrink: 1 },
  })
  const seen = (told: SpecksValues, open = 0) =>
    specksSeen(told, shot(camera(), open), (_, __, ___, light) => light.fill(1))
  const field = ({ specks, count }: ReturnType<typeof seen>, which: number): number[] =>
    Array.from({ length: count }, (_, i) => specks[i * 16 + which]!)

  it('from far to near, each where the projection has it', () => {
    const told = values({ density: 3, far: 12, size: 5 })
    const found = seen(told)
    const metres = field(found, 11)
    // To the millimetre
    metres.slice(1).forEach((far, i) => expect(far).toBeLessThan(metres[i]! + 1e-3))
    const places = all(told).map(({ from }) => project(camera(), 1.5, from))
    const [x, y] = [field(found, 0), field(found, 1)]
    for (let i = 0; i < found.count; i += Math.ceil(found.count / 20))
      expect(Math.min(...places.map(({ u, v }) => Math.hypot(u * 300 - x[i]!, v * 200 - y[i]!)))).toBeLessThan(1e-3)
  })
  it('none is under the floor, and in a box none is outside it', () => {
    const told = values({ density: 5, far: 12, floor: 4.2 })
    const lower = (u: number, v: number, metres: number): number => 5 + ((0.5 - v) * metres * 2) / 3 + u * 0
    const found = seen(told)
    const [x, y, metres] = [field(found, 0), field(found, 1), field(found, 11)]
    for (let i = 0; i < found.count; i++)
      expect(lower(x[i]! / 300, y[i]! / 200, metres[i]!)).toBeGreaterThanOrEqual(4.2 - 1e-3)
    const box = seen(values({ density: 20, far: 12, where: 'in a box', x: 0, y: 5, z: -5, wide: 2, tall: 2, deep: 2 }))
    expect(box.count).toBeGreaterThan(60)
    for (const away of field(box, 11)) expect(Math.abs(away - 5)).toBeLessThan(1)
  })
  it('however small, moved or out of focus, each covers as much as it does whole', () => {
    // What each covers: its area as drawn by how much there is of it
    const covered = (told: SpecksValues, open = 0): number => {
      const found = seen(told, open)
      let sum = 0
      for (let i = 0; i < found.count; i++) {
        const [, , wayX, wayY, , radius, soft, share] = found.specks.subarray(i * 16) as unknown as number[]
        // Summed up over a fine grid in place of the formula
        const long = Math.hypot(wayX!, wayY!)
        const out = radius! + soft!
        const step = out / 40
        for (let a = -out; a < long + out; a += step)
          for (let b = -out; b < out; b += step) {
            const d = Math.hypot(a < 0 ? a : a > long ? a - long : 0, b)
            sum += Math.min(1, Math.max(0, (out - d) / (2 * soft!))) * share! * step * step
          }
      }
      return sum
    }
    const told = values({ density: 0.3, near: 2, far: 9, size: 40, sizes: 0, soft: 0.3, fall: 5, speeds: 0 })
    const still = covered(told)
    expect(still).toBeGreaterThan(20)
    expect(covered(told, 0.02) / still).toBeCloseTo(1, 1)
    expect(covered({ ...told, blurred: 'as by a lens', sharp_at: 30, stop: 1.4 }) / still).toBeCloseTo(1, 1)
    // A tenth as large they cover a hundredth
    expect(covered({ ...told, size: 3 }) / still).toBeCloseTo(0.01, 2)
  })
  it('out of focus its disc is as wide as the thin lens says', () => {
    const told = values({ density: 3, near: 1, far: 4, size: 4, blurred: 'as by a lens', sharp_at: 10, stop: 2 })
    const found = seen(told)
    const [radius, metres] = [field(found, 5), field(found, 11)]
    // f 36 mm at f/2: c = A f |z - s| / (z (s - f)), in 300 pixels of 36 mm
    expect(found.count).toBeGreaterThan(5)
    metres.forEach((z, i) => {
      const disc = ((0.018 * 0.036 * Math.abs(z - 10)) / (z * (10 - 0.036)) / 0.036) * 300
      expect(radius[i]!).toBeCloseTo(disc / 2, 3)
    })
  })
})

const arrivingAt = (light: Light, place: Vector3): number[] => {
  const sum = new Float64Array(3)
  arriving(light)(...place, sum)
  return [...sum]
}
it('light arrives as the places of a lamp send it, from afar', () => {
  const front: Vector3 = [0, 0, 1]
  const base = { name: '', radiance: [3, 2, 1] as Vector3, centre: [0, 0, 0] as Vector3 }
  const lights = [
    { ...base, kind: 'ball' as const, radius: 0.2 },
    { ...base, kind: 'disc' as const, radius: 0.2, normal: front },
    { ...base, kind: 'disc' as const, radius: 0.2, normal: front, cone: { inner: 10, outer: 30 } },
    { ...base, kind: 'box' as const, halfU: [0.3, 0, 0] as Vector3, halfV: [0, 0.1, 0] as Vector3, normal: front },
    { ...base, kind: 'tube' as const, half: [0.4, 0, 0] as Vector3, radius: 0.05 },
  ]
  for (const light of lights)
    for (const place of [
      [0.3, 0.5, 6],
      [2.5, 1, 8],
    ] as Vector3[]) {
      const [red, green] = arrivingAt(light, place)
      const sum = placesOf(light, place).reduce((all, { at, power, front: own }) => {
        const way = place.map((value, i) => value - at[i]!)
        const far = Math.hypot(...way)
        const leaves = own ? Math.max(0, (own[0] * way[0]! + own[1] * way[1]! + own[2] * way[2]!) / far) : 1
        return all + (power[0] * leaves) / far ** 2
      }, 0)
      expect(Math.abs(red! / sum - 1), `${light.kind} at ${place.join()}`).toBeLessThan(0.02)
      expect(green! / red!).toBeCloseTo(2 / 3, 6)
    }
  // Behind a disc there is none
  expect(arrivingAt(lights[1]!, [0, 0, -3])).toEqual([0, 0, 0])
})
