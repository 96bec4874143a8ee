// The tree that lamps are picked by: what it says of a pick is true, and nothing that gives light is ever left out.
import { beforeAll, describe, expect, it } from 'vitest'
import { Kernels } from '../../core/engine/memory'
import { compileScene, type CompiledScene } from '../../core/render/compile'
import { coneOf, lightTree, type TreeLight } from '../../core/render/lighttree'
import { beautyOf } from '../../core/render/planes'
import type { Light } from '../../core/scene/scene'
import { add, cross, dot, normalized, scaled, type Vector3 } from '../../core/scene/vector'
import { kernelModule } from '../../host/engine'
import { TREE_STRIDE } from '../../kernels/assembly/layout'
import { ball, ground, lookAt, material, object, quad, renderScene, scene } from '../scenes'

let seed = 11
const random = (): number => {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
  return seed / 4294967296
}
const way = (): Vector3 => {
  const z = random() * 2 - 1
  const a = random() * 2 * Math.PI
  const r = Math.sqrt(1 - z * z)
  return [r * Math.cos(a), r * Math.sin(a), z]
}
const place = (size: number): Vector3 => [(random() - 0.5) * size, (random() - 0.5) * size, (random() - 0.5) * size]
/** Lamps of every kind here and there. */
function lamps(count: number): Light[] {
  return Array.from({ length: count }, (_, i): Light => {
    const at = place(20)
    const normal = way()
    const u = normalized(cross(Math.abs(normal[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0], normal))
    const radiance: Vector3 = [random() * 5 + 0.1, 1, 1]
    const name = `lamp ${i}`
    switch (i % 6) {
      case 0:
        return {
          kind: 'box',
          name,
          centre: at,
          normal,
          halfU: scaled(u, 0.4),
          halfV: scaled(cross(normal, u), 0.2),
          radiance,
        }
      case 1:
        return {
          kind: 'disc',
          name,
          centre: at,
          normal,
          radius: 0.3,
          radiance,
          ...(i % 12 === 1 ? { cone: { inner: 20, outer: 50 } } : {}),
        }
      case 2:
        return { kind: 'ball', name, centre: at, radius: 0.25, radiance }
      case 3:
        return { kind: 'tube', name, centre: at, half: scaled(normal, 0.5), radius: 0.1, radiance }
      case 4:
        return { kind: 'point', name, position: at, intensity: radiance }
      default:
        return { kind: 'spot', name, position: at, direction: normal, intensity: radiance, inner: 15, outer: 40 }
    }
  })
}
/**
 * Whether a place may get light from a lamp, by its shape: some point of it faces the place, and the place faces it.
 */
function reaches(light: Light, from: Vector3, facing: Vector3): boolean {
  const seen = (p: Vector3): boolean => dot(add(p, scaled(from, -1)), facing) > 1e-3
  const shines = (p: Vector3, axis: Vector3, cosine: number): boolean => {
    const d = normalized(add(from, scaled(p, -1)))
    return dot(d, axis) > cosine + 1e-3
  }
  if (light.kind === 'box')
    return [
      [1, 1],
      [1, -1],
      [-1, 1],
      [-1, -1],
    ].some(([a, b]) => {
      const p = add(light.centre, add(scaled(light.halfU, a!), scaled(light.halfV, b!)))
      return seen(p) && shines(p, light.normal, 0)
    })
  if (light.kind === 'disc')
    return (
      seen(light.centre) &&
      shines(light.centre, light.normal, light.cone ? Math.cos((light.cone.outer * Math.PI) / 180) : 0)
    )
  if (light.kind === 'ball' || light.kind === 'tube') return seen(light.centre)
  if (light.kind === 'spot')
    return seen(light.position) && shines(light.position, light.direction, Math.cos((light.outer * Math.PI) / 180))
  return light.kind === 'point' && seen(light.position)
}

describe.each([[1], [7], [60], [400]])('of %d lamps', count => {
  const kernels = new Kernels(kernelModule())
  const lights = lamps(count)
  if (count > 1)
    lights.push({ kind: 'sun', name: 'sun', direction: [0, -1, 0], diameter: 0.5, irradiance: [0.02, 0.02, 0.02] })
  let compiled: CompiledScene
  beforeAll(() => {
    compiled = compileScene(kernels, scene([], { lights }))
  })
  // Suns stand first in the list
  const numberOf = (i: number): number => (count === 1 ? 0 : i === count ? 0 : i + 1)
  it('no place leaves out a lamp that reaches it', () => {
    for (let k = 0; k < 60; k++) {
      const from = place(24)
      const facing = k % 4 === 3 ? ([0, 0, 0] as Vector3) : way()
      lights.forEach((light, i) => {
        if (
          light.kind === 'sun'
            ? dot(facing, [0, 1, 0]) <= 0
            : !(facing.some(value => value)
                ? reaches(light, from, facing)
                : reaches(
                    light,
                    from,
                    normalized(add('centre' in light ? light.centre : light.position, scaled(from, -1))),
                  ))
        )
          return
        expect(
          kernels.exports.lightChance(compiled.pointer, ...from, ...facing, numberOf(i)),
          `${light.kind} at ${JSON.stringify(from)}`,
        ).toBeGreaterThan(0)
      })
    }
  })
  it('chances add up, and are how often each is picked', () => {
    for (let k = 0; k < 12; k++) {
      const from = place(24)
      const facing = way()
      const chances = lights.map((_, i) => kernels.exports.lightChance(compiled.pointer, ...from, ...facing, i))
      const sum = chances.reduce((a, b) => a + b, 0)
      // A branch that may give something may hold lamps that give nothing there: what is lost of the whole is never
      // picked
      expect(sum).toBeLessThan(1 + 1e-4)
      const picked = new Map<number, number>()
      const picks = 4096
      for (let i = 0; i < picks; i++) {
        const light = kernels.exports.lightPicked(compiled.pointer, ...from, ...facing, (i + 0.5) / picks)
        picked.set(light, (picked.get(light) ?? 0) + 1 / picks)
      }
      chances.forEach((chance, i) => expect(Math.abs((picked.get(i) ?? 0) - chance)).toBeLessThan(2e-3))
      expect(Math.abs((picked.get(-1) ?? 0) - (1 - sum))).toBeLessThan(5e-3)
    }
  })
})

it('a hundred lamps together give what each gives alone', () => {
  seed = 5
  const lights = lamps(100)
  const floor = object('floor', ground(14, -4))
  const thing = object('ball', ball([0, 0, 0], 2, 24))
  const settings = {
    camera: lookAt([3, 6, 14], [0, -1, 0], 30),
    width: 12,
    height: 8,
    passes: ['beauty'],
    maxBounces: 1,
  } as const
  const all = beautyOf(renderScene(scene([floor, thing], { lights }), { ...settings, samples: 4096 }))
  const sum = new Float32Array(all.length)
  for (const light of lights)
    beautyOf(renderScene(scene([floor, thing], { lights: [light] }), { ...settings, samples: 256 })).forEach(
      (value, i) => {
        sum[i]! += value
      },
    )
  const total = (plane: Float32Array, row?: number): number =>
    plane.reduce((whole, value, i) => (row === undefined || Math.floor(i / 36) === row ? whole + value : whole), 0)
  expect(Math.abs(total(all) / total(sum) - 1)).toBeLessThan(0.01)
  for (let row = 0; row < 8; row++)
    if (total(sum, row) > 0.5) expect(Math.abs(total(all, row) / total(sum, row) - 1), `row ${row}`).toBeLessThan(0.04)
})

it('of many shining triangles those that face a place light it: less noise than from as many by chance', () => {
  // A shining ball's light on the floor: half of its triangles look away
  const bulb = object('bulb', ball([0, 2, 0], 0.5, 16, 1))
  const materials = [material(), material({ emission: [4, 4, 4], doubleSided: false })]
  const settings = {
    camera: lookAt([0, 6, 6], [0, 0, 0], 30),
    width: 12,
    height: 8,
    passes: ['beauty'],
    maxBounces: 1,
  } as const
  const [few, many] = [64, 4096].map(
    samples =>
      renderScene(scene([object('floor', ground(8)), bulb], { materials }), { ...settings, samples, seed: samples })
        .light.diffuse_direct,
  ) as [Float32Array, Float32Array]
  let error = 0
  let count = 0
  many.forEach((value, i) => {
    if (value > 0.01) {
      error += (few[i]! / value - 1) ** 2
      count++
    }
  })
  // Picked by power alone it was 0.109 (measured before there was a tree)
  expect(Math.sqrt(error / count)).toBeLessThan(0.08)
})

describe('the tree itself', () => {
  it('cones hold both that they are made of', () => {
    for (let k = 0; k < 200; k++) {
      const a = { axis: way(), cone: random() * 1.5 }
      const b = { axis: way(), cone: random() * 1.5 }
      const whole = coneOf(a, b)
      for (const { axis, cone } of [a, b])
        expect(Math.acos(Math.min(1, Math.max(-1, dot(axis, whole.axis)))) + cone).toBeLessThan(whole.cone + 1e-6)
    }
  })
  it('paths of a hundred thousand lights fit a word, each leads to its light', () => {
    const lights = Array.from({ length: 100_000 }, (_, index): TreeLight => {
      const p = place(index % 3 ? 1 : 100)
      return { index, low: p, high: p, axis: way(), cone: 0, emits: Math.PI / 2, power: random() }
    })
    const { nodes, trails } = lightTree(lights)
    const words = new Int32Array(nodes)
    const stride = TREE_STRIDE / 4
    expect(trails.size).toBe(lights.length)
    for (let i = 0; i < lights.length; i += 997) {
      let node = 0
      let trail = trails.get(i)!
      while (words[node * stride + 10]! >= 0) {
        node = words[node * stride + (trail & 1 ? 11 : 10)]!
        trail >>>= 1
      }
      expect(words[node * stride + 12]).toBe(i)
    }
  }, 60_000)
  it('lights all in one place are halved', () => {
    const lights = Array.from({ length: 1000 }, (_, index): TreeLight => ({
      index,
      low: [1, 1, 1],
      high: [1, 1, 1],
      axis: [0, 1, 0],
      cone: 0,
      emits: Math.PI / 2,
      power: 1,
    }))
    expect(lightTree(lights).trails.size).toBe(1000)
  })
})

it('a lamp that gives nothing, and one in a room of its own, do no harm', () => {
  const dark: Light = { kind: 'point', name: 'dark', position: [0, 3, 0], intensity: [0, 0, 0] }
  const lit: Light = { kind: 'point', name: 'lit', position: [0, 3, 0], intensity: [9, 9, 9] }
  const view = { camera: lookAt([0, 2, 4], [0, 0, 0], 60), width: 4, height: 4, samples: 16 }
  const floor = object('floor', quad([-5, 0, 5], [5, 0, 5], [5, 0, -5], [-5, 0, -5]))
  expect([...beautyOf(renderScene(scene([floor], { lights: [dark] }), view))].every(value => value === 0)).toBe(true)
  const both = beautyOf(renderScene(scene([floor], { lights: [dark, lit] }), view))
  const one = beautyOf(renderScene(scene([floor], { lights: [lit] }), view))
  for (let i = 0; i < one.length; i++) expect(both[i]).toBeCloseTo(one[i]!, 5)
})
