// The hierarchy against trying every triangle, the samples against their own promises, the memory's bookkeeping.
import bunny from 'bunny'
import { describe, expect, it } from 'vitest'
import { Kernels, OutOfMemory } from '../../core/engine/memory'
import { albedoTable } from '../../core/render/albedo'
import { compileScene } from '../../core/render/compile'
import { filterTable } from '../../core/render/filterTable'
import { material, object, scene } from '../scenes'
import { kernelModule } from '../../host/engine'

const kernels = new Kernels(kernelModule())

describe('rays against the bunny (npm bunny, 3966 triangles)', () => {
  const positions = Float32Array.from(bunny.positions.flat())
  const indices = Uint32Array.from(bunny.cells.flat())
  const compiled = compileScene(
    kernels,
    scene([object('bunny', { positions, indices, material: 0 })], { materials: [material()] }),
  )
  const count = 400
  const rays = new Float32Array(count * 8)
  for (let i = 0; i < count; i++) {
    const angle = i * 2.399963
    const y = 1 - (2 * (i + 0.5)) / count
    const r = Math.sqrt(1 - y * y)
    const from = [Math.cos(angle) * r * 20, 5 + y * 20, Math.sin(angle) * r * 20]
    const to = [Math.sin(i) * 3, 4 + Math.cos(i * 3) * 3, Math.sin(i * 7) * 3]
    const d = to.map((value, k) => value - from[k]!)
    const l = Math.hypot(...d)
    rays.set([...from, 0, ...d.map(value => value / l), 1e30], i * 8)
  }
  const cast = (data: Float32Array, any: number): { floats: Float32Array; words: Int32Array } => {
    const pointer = kernels.place(data)
    const out = kernels.allocate(count * 16)
    kernels.exports.castRays(compiled.pointer, pointer, out, count, any)
    return { floats: kernels.floats(out, count * 4).slice(), words: kernels.words(out, count * 4).slice() }
  }
  /** Möller and Trumbore on every triangle, in float64. */
  const every = (ray: Float32Array): number => {
    let best = Infinity
    const [ox, oy, oz, , dx, dy, dz] = ray as unknown as number[]
    for (let f = 0; f < indices.length; f += 3) {
      const v = [0, 1, 2].map(k => [0, 1, 2].map(c => positions[indices[f + k]! * 3 + c]!)) as [
        number[],
        number[],
        number[],
      ]
      const e1 = v[1].map((value, c) => value - v[0][c]!)
      const e2 = v[2].map((value, c) => value - v[0][c]!)
      const px = dy! * e2[2]! - dz! * e2[1]!
      const py = dz! * e2[0]! - dx! * e2[2]!
      const pz = dx! * e2[1]! - dy! * e2[0]!
      const det = e1[0]! * px + e1[1]! * py + e1[2]! * pz
      const tx = ox! - v[0][0]!
      const ty = oy! - v[0][1]!
      const tz = oz! - v[0][2]!
      const u = (tx * px + ty * py + tz * pz) / det
      const qx = ty * e1[2]! - tz * e1[1]!
      const qy = tz * e1[0]! - tx * e1[2]!
      const qz = tx * e1[1]! - ty * e1[0]!
      const w = (dx! * qx + dy! * qy + dz! * qz) / det
      const t = (e2[0]! * qx + e2[1]! * qy + e2[2]! * qz) / det
      if (u >= 0 && w >= 0 && u + w <= 1 && t > 0 && t < best) best = t
    }
    return best
  }
  const found = cast(rays, 0)
  it('the closest hit is the closest of all', () => {
    let hits = 0
    for (let i = 0; i < count; i++) {
      const exact = every(rays.subarray(i * 8, i * 8 + 8))
      if (exact === Infinity) expect(found.floats[i * 4]).toBe(-1)
      else {
        expect(Math.abs(found.floats[i * 4]! / exact - 1)).toBeLessThan(2e-5)
        hits++
      }
    }
    expect(hits).toBeGreaterThan(count / 4)
  })
  it('any hit agrees, and ends where the segment ends', () => {
    const any = cast(rays, 1)
    for (let i = 0; i < count; i++) expect(any.floats[i * 4]).toBe(found.floats[i * 4]! < 0 ? 1 : 0)
    const short = rays.slice()
    for (let i = 0; i < count; i++) short[i * 8 + 7] = Math.max(1e-3, found.floats[i * 4]! * 0.999)
    const none = cast(short, 1)
    for (let i = 0; i < count; i++) expect(none.floats[i * 4]).toBe(1)
  })
})

it('an empty scene is hit by nothing', () => {
  const compiled = compileScene(kernels, scene([]))
  const pointer = kernels.place(Float32Array.from([0, 0, 0, 0, 0, 0, -1, 1e30]))
  const out = kernels.allocate(16)
  kernels.exports.castRays(compiled.pointer, pointer, out, 1, 0)
  expect(kernels.floats(out, 1)[0]).toBe(-1)
  compiled.dispose()
})

it('triangles that all lie in one place are still sorted into a hierarchy', () => {
  const positions = new Float32Array(9 * 500)
  const indices = new Uint32Array(1500)
  for (let i = 0; i < 500; i++) {
    positions.set([0, 0, -5, 1, 0, -5, 0, 1, -5], i * 9)
    indices.set([i * 3, i * 3 + 1, i * 3 + 2], i * 3)
  }
  const compiled = compileScene(kernels, scene([object('pile', { positions, indices, material: 0 })]))
  const pointer = kernels.place(Float32Array.from([0.2, 0.2, 0, 0, 0, 0, -1, 1e30]))
  const out = kernels.allocate(16)
  kernels.exports.castRays(compiled.pointer, pointer, out, 1, 0)
  expect(kernels.floats(out, 1)[0]).toBeCloseTo(5, 5)
})

describe('samples', () => {
  const points = (n: number, pair: number): [number, number][] =>
    Array.from({ length: n }, (_, i) => [
      kernels.exports.sampleNumber(3, 5, i, 9, pair, 0),
      kernels.exports.sampleNumber(3, 5, i, 9, pair, 1),
    ])
  it('by turns are two sequences, of which a power of two fills every elementary interval ((0, 2)-sequences: I. M. Sobol 1967)', () => {
    for (const pair of [0, 7])
      for (const half of [0, 1]) {
        for (const [columns, rows] of [
          [64, 1],
          [1, 64],
          [8, 8],
          [16, 4],
          [2, 32],
        ] as const) {
          const own = points(128, pair).filter((_, i) => i % 2 === half)
          const seen = new Set(own.map(([x, y]) => Math.floor(x * columns) * rows + Math.floor(y * rows)))
          expect(seen.size).toBe(64)
        }
      }
  })
  it('of other pixels, pairs and seeds are others', () => {
    const a = kernels.exports.sampleNumber(1, 1, 0, 0, 0, 0)
    for (const other of [
      kernels.exports.sampleNumber(2, 1, 0, 0, 0, 0),
      kernels.exports.sampleNumber(1, 2, 0, 0, 0, 0),
      kernels.exports.sampleNumber(1, 1, 0, 1, 0, 0),
      kernels.exports.sampleNumber(1, 1, 0, 0, 1, 0),
    ])
      expect(other).not.toBe(a)
  })
  it('of the filter lie within its radius, symmetrically', () => {
    const table = filterTable(1.5)
    expect(table[0]).toBeCloseTo(-1.5, 1)
    for (let i = 0; i <= 128; i++) expect(table[i]! + table[256 - i]!).toBeCloseTo(0, 2)
    for (let i = 1; i < 257; i++) expect(table[i]!).toBeGreaterThanOrEqual(table[i - 1]!)
  })
})

it('the albedo table is whole for mirrors and loses light with roughness', () => {
  const table = albedoTable()
  const at = (row: number, column: number): number =>
    table[(row * 32 + column) * 2]! + table[(row * 32 + column) * 2 + 1]!
  expect(at(0, 31)).toBeCloseTo(1, 3)
  expect(at(31, 31)).toBeLessThan(at(10, 31))
  for (const value of table) expect(value >= 0 && value <= 1.0001).toBe(true)
})

describe('the shared memory', () => {
  it('gives room back, joins it again, and never twice', () => {
    const own = new Kernels(kernelModule())
    const before = own.used
    const list = Array.from({ length: 50 }, (_, i) => own.allocate(1000 + i * 777))
    for (let i = 0; i < 50; i += 2) own.dispose(list[i]!)
    for (let i = 1; i < 50; i += 2) own.dispose(list[i]!)
    expect(own.used).toBe(before)
    const whole = own.allocate(10_000_000)
    expect(whole % 64).toBe(0)
    own.shrink(whole, 1000)
    expect(own.used - before).toBe(1024)
    own.dispose(whole)
    expect(() => own.dispose(whole)).toThrow(/twice/)
  })
  it('says so when a picture is too large', () => {
    expect(() => new Kernels(kernelModule()).allocate(3 * 2 ** 30)).toThrow(OutOfMemory)
  })
})
