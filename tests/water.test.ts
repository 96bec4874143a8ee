// Standing water: what it mirrors lies where a mirrored ray truly meets it, traced by itself over balls of a known place; it
// bends by its waves, glitters as slopes do, and covers nothing that stands before it.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { flat, type CastBy, type LayerInput, type Shown } from '../core/layer/layer'
import { firstValues } from '../core/declare/values'
import { layerKindOf } from '../core/layer/registry'
import { WATER_VALUES, type WaterValues } from '../core/layer/waterValues'
import { wavesAt } from '../core/layer/waterWaves'
import { project, rayThrough } from '../core/match/project'
import { kernelNode, scriptNode, type Node } from '../core/plan/node'
import { Runner } from '../core/plan/runner'
import { boxOfSize, sized } from '../core/plan/size'
import { NO_DEPTH } from '../core/render/passes'
import type { Light } from '../core/scene/scene'
import { dot, normalized, scaled, subtract, type Vector3 } from '../core/scene/vector'
import { startEngine, type Engine } from '../host/engine'
import { Wash } from '../kernels/records'
import { given } from './compose/treat'
import { lookAt } from './scenes'

let engine: Engine
let runner: Runner
beforeAll(async () => {
  engine = await startEngine(2)
  runner = new Runner(engine.pool, 2 ** 27)
})
afterAll(() => engine.stop())

// At half size each pixel follows one ray: places are told exactly
const SIZE = sized({ width: 480, height: 320, left: 0, top: 0 }, 2)
const ASPECT = 1.5
const camera = lookAt([0.3, 1.7, 0], [0, 0.6, -8], 32)
const eye: Vector3 = [0.3, 1.7, 0]
const BALLS: { at: Vector3; radius: number }[] = [
  { at: [-1.2, 1.1, -7], radius: 0.8 },
  { at: [1.3, 1.6, -9], radius: 1.1 },
]
const SHORE = 40

/** Where a ray first meets a ball, as so many times its way. */
function meets(from: Vector3, way: Vector3): number {
  let first = Infinity
  for (const { at, radius } of BALLS) {
    const off = subtract(from, at)
    const [a, b, c] = [dot(way, way), dot(way, off), dot(off, off) - radius ** 2]
    const under = b * b - a * c
    const t = (-b - Math.sqrt(under)) / a
    if (under > 0 && t > 1e-6 && t < first) first = t
  }
  return first
}
/** The ray of a pixel, one metre along the view axis. */
function rayOf(x: number, y: number): Vector3 {
  const d = rayThrough(camera, ASPECT, (x + 0.5) / SIZE.width, (y + 0.5) / SIZE.height)
  const m = camera.matrix
  return scaled(d, 1 / -(d[0] * m[8]! + d[1] * m[9]! + d[2] * m[10]!))
}
const placed = (from: Vector3, way: Vector3, t: number): Vector3 => [
  from[0] + way[0] * t,
  from[1] + way[1] * t,
  from[2] + way[2] * t,
]
const COUNT = SIZE.width * SIZE.height
/** Each pixel of the picture says where it is: its place is its colour. */
const places = new Float32Array(COUNT * 4)
const depths = new Float32Array(COUNT)
for (let y = 0; y < SIZE.height; y++)
  for (let x = 0; x < SIZE.width; x++) {
    const i = y * SIZE.width + x
    places.set([x + 0.5, y + 0.5, 1, 1], i * 4)
    const t = meets(eye, rayOf(x, y))
    depths[i] = Number.isFinite(t) ? t : NO_DEPTH
  }

const still: Partial<WaterValues> = {
  wave_steep: 0,
  ripple_steep: 0,
  rough: 0,
  clear: 0,
  glitter: 0,
  rim: 0,
  water: [0, 0, 0],
}
const values = (change: Partial<WaterValues> = {}): WaterValues => ({
  ...(firstValues(WATER_VALUES) as unknown as WaterValues),
  ...{ shore: SHORE, level: 0 },
  ...still,
  ...change,
})
const picture = (colour: Node, depth: Node): Shown => {
  const flatly = flat(colour, NO_DEPTH, SIZE)
  return {
    ...flatly,
    depth: () => depth,
    edge: () => depth,
    byDepth: say => say(depth),
    // What stands there is nearer wholly or not at all
    nearer: than =>
      scriptNode(
        ['nearer'],
        'single',
        boxOfSize(SIZE),
        (out, [own, other], kernels) => {
          const [to, a, b] = [out, own!, other!].map(({ pointer }) => kernels.floats(pointer, COUNT))
          for (let i = 0; i < COUNT; i++) to![i] = a![i]! < b![i]! ? 1 : 0
        },
        { inputs: [depth, than as Node], needs: () => boxOfSize(SIZE) },
      ),
  }
}
async function run(node: Node, channels: 1 | 4): Promise<Float32Array> {
  const { pointer } = await runner.run(node, node.window)
  return engine.kernels.floats(pointer, COUNT * channels).slice()
}
const by = (change: Partial<CastBy> = {}): CastBy => ({
  opacity: 1,
  mode: 'over',
  lined: shown => shown.colour,
  where: () => 'everywhere',
  ...change,
})
const plate = (): Node => kernelNode(Wash, { colour: [500, 500, 1, 1] }, { window: boxOfSize(SIZE) })
const inputOf = (change: Partial<LayerInput> = {}): LayerInput =>
  ({
    ...{ frame: 1, rate: 24, size: SIZE, camera: () => camera, lights: () => [], plate },
    ...change,
  }) as unknown as LayerInput
async function laid(
  told: WaterValues,
  input = inputOf(),
  how = by(),
  source: Float32Array = places,
): Promise<Float32Array> {
  const [cast] = layerKindOf('water').casts!(input, told as never, how)
  const shown = cast!.lay(picture(given(source, SIZE.width), given(depths, SIZE.width, 'single')))
  return run(shown.colour, 4)
}

/** Metres along the view axis of level water at a pixel; undefined where none is seen. */
function waterAt(x: number, y: number, level = 0): number | undefined {
  const metres = (level - eye[1]) / rayOf(x, y)[1]
  return metres > 0 && metres < SHORE ? metres : undefined
}
/** Of light that is not polarised, from air into water (Fresnel), by its angles. */
function fresnel(cosine: number): number {
  const [a, b] = [Math.acos(cosine), Math.asin(Math.sin(Math.acos(cosine)) / 1.333)]
  const [s, p] = [(Math.sin(a - b) / Math.sin(a + b)) ** 2, (Math.tan(a - b) / Math.tan(a + b)) ** 2]
  return (s + p) / 2
}
const eachWater = (each: (i: number, x: number, y: number, metres: number) => void): void => {
  for (let y = 0; y < SIZE.height; y++)
    for (let x = 0; x < SIZE.width; x++) {
      const metres = waterAt(x, y)
      const i = y * SIZE.width + x
      if (metres !== undefined && depths[i]! > metres) each(i, x, y, metres)
    }
}

describe('still water', () => {
  it('shows each thing where the mirrored ray meets it: within half a pixel wherever that is seen', async () => {
    const data = await laid(values())
    const found = { ball: [] as number[], shore: [] as number[], hidden: 0 }
    eachWater((i, x, y, metres) => {
      const way = rayOf(x, y)
      const from = placed(eye, way, metres)
      const mirrored: Vector3 = [way[0], -way[1], way[2]]
      const t = meets(from, mirrored)
      // All that no distance is known of stands at the shore
      const away = (place: Vector3): number => project(camera, ASPECT, place).metres
      const ends = Number.isFinite(t) ? t : (SHORE - metres) / (away(placed(from, mirrored, 1)) - metres)
      const seen = project(camera, ASPECT, placed(from, mirrored, ends))
      const [px, py] = [seen.u * SIZE.width, seen.v * SIZE.height]
      if (!(px > 1 && px < SIZE.width - 1 && py > 1 && py < SIZE.height - 1)) return
      const stands = Math.min(SHORE, meets(eye, rayOf(px - 0.5, py - 0.5)))
      if (Math.abs(stands / seen.metres - 1) > 0.005) {
        found.hidden++
        return
      }
      const [gx, gy, one] = data.subarray(i * 4)
      const off = Math.hypot(gx! / one! - px, gy! / one! - py)
      ;(Number.isFinite(t) ? found.ball : found.shore).push(off)
    })
    const all = [...found.ball, ...found.shore].sort((a, b) => a - b)
    expect(found.ball.length).toBeGreaterThan(3000)
    expect(found.shore.length).toBeGreaterThan(8000)
    expect(all[all.length >> 1]).toBeLessThan(0.02)
    // All but one in a hundred, at the rims of the balls: there the front that is known ends
    expect(all[Math.floor(all.length * 0.99)]).toBeLessThan(0.5)
  })
})

describe('what it shows', () => {
  it('is mirrored by Fresnel, and its depth by the rest', async () => {
    const data = await laid(values({ water: [0, 0, 0.5] }))
    eachWater((i, x, y) => {
      const [dx, dy, dz] = rayOf(x, y)
      const shown = fresnel(-dy / Math.hypot(dx, dy, dz))
      // Blue is 1 all over what is mirrored, 0.5 in the depth
      expect(Math.abs(data[i * 4 + 2]! - (shown + 0.5 * (1 - shown)))).toBeLessThan(2e-3)
    })
  })
  it('what is hidden behind something is as the plate is with what is laid on it beside that', async () => {
    // The plate is lighter than what fog has made of all of it
    const fogged = new Float32Array(COUNT * 4).map((_, i) => (i % 4 === 3 ? 1 : 0.2))
    const light = (): Node => kernelNode(Wash, { colour: [0.5, 0.5, 0.5, 1] }, { window: boxOfSize(SIZE) })
    const data = await laid(values(), inputOf({ plate: light }), by(), fogged)
    let count = 0
    eachWater((i, x, y) => {
      const [dx, dy, dz] = rayOf(x, y)
      expect(data[i * 4]! / fresnel(-dy / Math.hypot(dx, dy, dz))).toBeCloseTo(0.2, 2)
      count++
    })
    expect(count).toBeGreaterThan(8000)
  })
  it('leaves all else as it is: what stands before it, and what is above it', async () => {
    const data = await laid(values())
    let [untouched, water] = [0, 0]
    for (let y = 0; y < SIZE.height; y++)
      for (let x = 0; x < SIZE.width; x++) {
        const i = y * SIZE.width + x
        const metres = waterAt(x, y)
        // On the line itself a pixel may be of both
        const near = metres !== undefined && Math.abs(depths[i]! / metres - 1) < 0.01
        const isWater = metres !== undefined && depths[i]! > metres
        if (near || (waterAt(x, y + 1) !== undefined) !== (metres !== undefined)) continue
        if (isWater) water += data[i * 4 + 2]! < 0.999 ? 1 : 0
        else if ([0, 1, 2].every(c => Math.abs(data[i * 4 + c]! - places[i * 4 + c]!) < 1e-3)) untouched++
        else throw new Error(`${x}, ${y} is no water`)
      }
    expect(untouched).toBeGreaterThan(15000)
    expect(water).toBeGreaterThan(10000)
  })
  it('of the full size its borders are nearer to what many rays make of them', async () => {
    const mask = new Float32Array(COUNT * 4)
    for (let i = 0; i < COUNT; i++) mask.set(depths[i]! < 20 ? [1, 1, 1, 1] : [0, 0, 0, 1], i * 4)
    /** How much of the rays of a pixel meets a ball: of 36. */
    const meeting = (x: number, y: number): number => {
      let sum = 0
      for (let k = 0; k < 36; k++) {
        const way = rayOf(x + ((k % 6) + 0.5) / 6 - 0.5, y + (Math.floor(k / 6) + 0.5) / 6 - 0.5)
        const from = placed(eye, way, eye[1] / -way[1])
        if (Number.isFinite(meets(from, [way[0], -way[1], way[2]]))) sum++
      }
      return sum / 36
    }
    const off = async (shrink: 1 | 2): Promise<number> => {
      const size = sized({ width: 240 * shrink, height: 160 * shrink, left: 0, top: 0 }, shrink)
      const black = () => kernelNode(Wash, { colour: [0, 0, 0, 1] }, { window: boxOfSize(SIZE) })
      const data = await laid(values({ thick: 2 }), inputOf({ size, plate: black }), by(), mask)
      let sum = 0
      eachWater((i, x, y) => {
        const [dx, dy, dz] = rayOf(x, y)
        const share = data[i * 4]! / fresnel(-dy / Math.hypot(dx, dy, dz))
        const wanted = meeting(x, y)
        if (wanted > 0.02 && wanted < 0.98) sum += Math.abs(share - wanted)
      })
      return sum
    }
    expect(await off(1)).toBeLessThan((await off(2)) * 0.9)
  })
  it('lies only where its slip says, and not at all seen from below', async () => {
    const left = Float32Array.from({ length: COUNT }, (_, i) => (i % SIZE.width < 120 ? 1 : 0))
    const half = await laid(values(), inputOf(), by({ where: () => given(left, SIZE.width, 'single') }))
    const at = (x: number): number => half[(150 * SIZE.width + x) * 4 + 2]!
    expect(at(60)).toBeLessThan(0.9)
    expect(at(180)).toBe(1)
    expect(layerKindOf('water').casts!(inputOf(), values({ level: 2 }) as never, by())).toEqual([])
  })
  it('what stands in it is wet above it', async () => {
    const white = new Float32Array(COUNT * 4).fill(1)
    const data = await laid(values({ rim: 0.3, rim_dark: 0.5, level: 0.4 }), inputOf(), by(), white)
    const ball = { at: BALLS[0]!.at, radius: BALLS[0]!.radius }
    let [wet, dry, off] = [0, 0, 0]
    for (let y = 0; y < SIZE.height; y++)
      for (let x = 0; x < SIZE.width; x++) {
        const i = y * SIZE.width + x
        if (
          depths[i]! > 20 ||
          Math.hypot(...subtract(placed(eye, rayOf(x, y), depths[i]!), ball.at)) > ball.radius + 0.01
        )
          continue
        const high = placed(eye, rayOf(x, y), depths[i]!)[1] - 0.4
        if (high > 0.32) {
          expect(data[i * 4]).toBe(1)
          dry++
        } else if (high > 0.02) {
          // A smooth step from half to all
          const t = high / 0.3
          wet++
          // At its rim a pixel is of both
          if (Math.abs(data[i * 4]! - (1 - 0.5 * (1 - t * t * (3 - 2 * t)))) > 0.005) off++
        }
      }
    expect(wet).toBeGreaterThan(50)
    expect(off / wet).toBeLessThan(0.05)
    expect(dry).toBeGreaterThan(200)
  })
})

describe('waves', () => {
  const told = values({ wave_steep: 0.08, ripple_steep: 0.05, wave_length: 2, ripple_length: 0.2 })
  const slopesAt = (x: number, z: number, seconds = 0): [number, number] =>
    wavesAt(told, seconds).reduce<[number, number]>(
      (sum, { kx, kz, phase, high }) => {
        const c = high * Math.cos(kx * x + kz * z + phase)
        return [sum[0] + kx * c, sum[1] + kz * c]
      },
      [0, 0],
    )
  it('are as steep as is said', () => {
    let [sum, count] = [0, 0]
    for (let i = 0; i < 4000; i++) {
      const [sx, sz] = slopesAt((i * 0.7548 * 91) % 83, (i * 0.5698 * 89) % 79)
      sum += sx * sx + sz * sz
      count++
    }
    expect(Math.sqrt(sum / count) / Math.hypot(0.08, 0.05)).toBeCloseTo(1, 1)
  })
  it('go as fast as waves of their length on deep water', () => {
    // c = g T / 2 pi: of 1.56 m/s a wave of a second (handbooks of oceanography; from memory)
    const [before, after] = [wavesAt(values({ wave_steep: 0.1, wave_length: 1.56 }), 0), wavesAt(values({ wave_steep: 0.1, wave_length: 1.56 }), 0.01)] // prettier-ignore
    for (const [i, { kx, kz, phase }] of before.entries()) {
      const k = Math.hypot(kx, kz)
      const turned = (phase - after[i]!.phase + 2 * Math.PI) % (2 * Math.PI)
      expect(turned / 0.01 / k / (1.56 * Math.sqrt((2 * Math.PI) / k / 1.56))).toBeCloseTo(1, 1)
    }
  })
  it('bend what is mirrored by their slopes, less where they are finer than a pixel', async () => {
    const data = await laid({ ...told, clear: 0 })
    let [near, far, moved] = [0, 0, 0]
    const flatly = await laid(values())
    eachWater((i, _, __, metres) => {
      const off = Math.abs(data[i * 4]! / data[i * 4 + 2]! - flatly[i * 4]! / flatly[i * 4 + 2]!)
      if (off > 0.3) moved++
      if (metres < 4) near += off
      if (metres > 25) far += off
    })
    expect(moved).toBeGreaterThan(5000)
    expect(near).toBeGreaterThan(far)
    // Some time later they are elsewhere
    const later = await laid({ ...told, clear: 0 }, inputOf({ frame: 9 }))
    let changed = 0
    eachWater(i => (changed += Math.abs(later[i * 4]! - data[i * 4]!) > 0.01 ? 1 : 0))
    expect(changed).toBeGreaterThan(5000)
  })
  it('a sun glitters on them as bright as their slopes are frequent', async () => {
    const direction = normalized([0.1, -0.5, 1])
    const sun = { kind: 'sun', name: 'sun', direction, diameter: 0.5, irradiance: [2, 2, 2] } as Light
    const dark = new Float32Array(COUNT * 4).map((_, i) => (i % 4 === 3 ? 1 : 0))
    const rough = 0.12
    const data = await laid(
      values({ rough, glitter: 1, mirrors: 0 }),
      inputOf({ lights: () => [sun], plate: () => given(dark, SIZE.width) }),
      by(),
      dark,
    )
    let most = 0
    eachWater((i, x, y) => {
      const v = scaled(normalized(rayOf(x, y)), -1)
      const l = scaled(direction, -1)
      const h = normalized([v[0] + l[0], v[1] + l[1], v[2] + l[2]])
      // C. Cox, W. Munk 1954: N = E rho(w) p / (4 cos^4 beta cos mu)
      const p = Math.exp(-((h[0] / h[1]) ** 2 + (h[2] / h[1]) ** 2) / (2 * rough ** 2)) / (2 * Math.PI * rough ** 2)
      const expected = (2 * fresnel(dot(h, v)) * p) / (4 * v[1] * h[1] ** 4)
      most = Math.max(most, expected)
      expect(Math.abs(data[i * 4]! - expected)).toBeLessThan(0.01 + expected * 0.02)
    })
    expect(most).toBeGreaterThan(0.3)
  })
})
