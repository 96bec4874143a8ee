// What is seen through glass and what is mirrored, against rays traced by hand through the same geometry.
import { describe, expect, it } from 'vitest'
import { meantBy, probe } from '../../core/compose/probe'
import { readPassFile, coverageOf } from '../../core/render/openpasses'
import { passesToExr } from '../../core/render/passfile'
import { NO_DEPTH, PASS_IDS } from '../../core/render/passes'
import type { Material, Part } from '../../core/scene/scene'
import { add, dot, normalized, scaled, type Vector3 } from '../../core/scene/vector'
import { ball, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const SIZE = 48
const lens = (change: Partial<Material> = {}): Material =>
  material({
    name: 'lens',
    roughness: 0,
    transmission: 1,
    solid: { absorption: [0, 0, 0] },
    doubleSided: false,
    ...change,
  })
/** A disc that faces +Z. */
function disc(centre: Vector3, radius: number, materialIndex: number): Part {
  const steps = 256
  const positions = [...centre]
  const indices: number[] = []
  for (let i = 0; i < steps; i++) {
    const a = (i / steps) * 2 * Math.PI
    positions.push(centre[0] + radius * Math.cos(a), centre[1] + radius * Math.sin(a), centre[2])
    indices.push(0, 1 + i, 1 + ((i + 1) % steps))
  }
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(positions, (_, i) => (i % 3 === 2 ? 1 : 0)),
    indices: Uint32Array.from(indices),
    material: materialIndex,
  }
}

/**
 * Snell's law in vector form (E. Hecht, "Optics", 4.4): d and n unit, n against d; ratio of the indices before and
 * behind.
 */
function refracted(d: Vector3, n: Vector3, ratio: number): Vector3 | undefined {
  const cosine = -dot(d, n)
  const inside = 1 - ratio ** 2 * (1 - cosine ** 2)
  return inside < 0 ? undefined : normalized(add(scaled(d, ratio), scaled(n, ratio * cosine - Math.sqrt(inside))))
}
/** Where a ray through a ball of glass at the origin meets the plane z; undefined when it does not meet the ball. */
function throughBall(
  from: Vector3,
  d: Vector3,
  radius: number,
  ior: number,
  z: number,
): { place: Vector3; way: number } | undefined {
  const b = dot(from, d)
  const inside = b * b - dot(from, from) + radius ** 2
  if (inside <= 0) return undefined
  const t = -b - Math.sqrt(inside)
  const p = add(from, scaled(d, t))
  const e = refracted(d, normalized(p), 1 / ior)!
  const t2 = -2 * dot(p, e)
  const q = add(p, scaled(e, t2))
  const f = refracted(e, scaled(normalized(q), -1), ior)!
  const t3 = (z - q[2]) / f[2]
  return { place: add(q, scaled(f, t3)), way: t + t2 + t3 }
}

describe('a disc behind a ball of glass', () => {
  const eye: Vector3 = [0, 0, 8]
  const far = -3
  const target: Vector3 = [0.4, 0.2, far]
  const camera = lookAt(eye, [0, 0, 0], 60)
  const wanted = ['alpha', 'depth', 'crypto_object', ...PASS_IDS.filter(id => id.startsWith('through_'))]
  const disc1 = disc(target, 0.7, 1)
  const around = ball([0, 0, 0], 30, 32, 2)
  const things = scene([object('lens', ball([0, 0, 0], 1, 192)), object('disc', disc1), object('wall', around)], {
    materials: [
      lens(),
      material({ name: 'red', baseColour: [0.8, 0.1, 0.1, 1] }),
      material({ name: 'grey', baseColour: [0.5, 0.5, 0.5, 1] }),
    ],
  })
  const passes = renderScene(things, {
    camera,
    width: SIZE,
    height: SIZE,
    samples: 256,
    passes: wanted,
    filterRadius: 0.5,
  })
  const ray = (px: number, py: number): Vector3 => {
    const tangent = 18 / 60
    return normalized([((px / SIZE) * 2 - 1) * tangent, (1 - (py / SIZE) * 2) * tangent, -1])
  }
  // By geometry alone: inside the ball's outline what the bent ray meets, outside what the straight one meets
  const meets = (px: number, py: number): { disc: boolean; lens: boolean; metres: number } => {
    const d = ray(px, py)
    const bent = throughBall(eye, d, 1, 1.5, far)
    const lens = !!bent
    const straight = (eye[2] - far) / -d[2]
    const place = bent?.place ?? add(eye, scaled(d, straight))
    const on = Math.hypot(place[0] - target[0], place[1] - target[1]) < 0.7
    return { disc: on, lens, metres: (bent?.way ?? straight) * -d[2] }
  }
  const share = (name: string): number[] => {
    const coverage = passes.coverage.through_crypto_object!
    const number = ['lens', 'disc', 'wall'].indexOf(name) + 1
    return Array.from({ length: SIZE * SIZE }, (_, i) => {
      let sum = 0
      for (let rank = 0; rank < 6; rank++)
        if (coverage.index[i * 6 + rank] === number) sum += coverage.weight[i * 6 + rank]!
      return sum
    })
  }

  it('covers each pixel by as much as rays traced by hand say, bends and edges included', () => {
    // Expected: a grid of rays under the same filter, a Blackman-Harris window of half a pixel to each side, by its
    // weight
    const window = (t: number): number =>
      0.35875 -
      0.48829 * Math.cos(2 * Math.PI * t) +
      0.14128 * Math.cos(4 * Math.PI * t) -
      0.01168 * Math.cos(6 * Math.PI * t)
    const n = 16
    const seen = share('disc')
    let worst = 0
    let total = 0
    let expectedTotal = 0
    for (let y = 0; y < SIZE; y++)
      for (let x = 0; x < SIZE; x++) {
        let sum = 0
        let weights = 0
        for (let j = 0; j < n; j++)
          for (let i = 0; i < n; i++) {
            const u = (i + 0.5) / n
            const v = (j + 0.5) / n
            const w = window(u) * window(v)
            weights += w
            if (meets(x + u, y + v).disc) sum += w
          }
        const expected = sum / weights
        const got = seen[y * SIZE + x]!
        worst = Math.max(worst, Math.abs(got - expected))
        total += got
        expectedTotal += expected
      }
    expect(expectedTotal).toBeGreaterThan(40)
    expect(Math.abs(total / expectedTotal - 1)).toBeLessThan(0.01)
    expect(worst).toBeLessThan(0.12)
  })
  it('leaves the glass itself out, and everything of the pixel in', () => {
    expect(Math.max(...share('lens'))).toBe(0)
    const disc = share('disc')
    const wall = share('wall')
    for (let i = 0; i < SIZE * SIZE; i++) expect(disc[i]! + wall[i]!).toBeGreaterThan(0.97)
  })
  it('measures the way that light takes along the view axis, and numbers what the middle meets', () => {
    let checked = 0
    for (let y = 0; y < SIZE; y++)
      for (let x = 0; x < SIZE; x++) {
        const hit = meets(x + 0.5, y + 0.5)
        const corners = [
          [0, 0],
          [1, 0],
          [0, 1],
          [1, 1],
        ].map(([i, j]) => meets(x + i!, y + j!))
        if (!hit.disc || !corners.every(corner => corner.disc && corner.lens === hit.lens)) continue
        expect(passes.through.objectId[y * SIZE + x]).toBe(2)
        expect(Math.abs(passes.through.depth[y * SIZE + x]! - hit.metres)).toBeLessThan(0.02)
        checked++
      }
    expect(checked).toBeGreaterThan(30)
  })
  it('gives colour and normals of what is behind', () => {
    const disc = share('disc')
    const i = disc.findIndex((value, i) => value > 0.999 && passes.depth[i]! < 7.5)
    expect(i).toBeGreaterThan(0)
    expect([...passes.through.albedo.subarray(i * 3, i * 3 + 3)].map(value => Number(value.toFixed(3)))).toEqual([
      0.8, 0.1, 0.1,
    ])
    expect(passes.through.normal[i * 3 + 2]).toBeCloseTo(1, 3)
    // The ordinary passes know only the lens there
    expect(passes.coverage.crypto_object!.index[i * 6]).toBe(1)
  })
  it('comes back from the file under the same names, and a click there may mean either', async () => {
    const file = await readPassFile(
      passesToExr(passes, {
        passes: wanted,
        objectNames: ['lens', 'disc', 'wall'],
        materialNames: ['lens', 'red', 'grey'],
      }),
    )
    const disc = share('disc')
    const i = disc.findIndex((value, i) => value > 0.999 && passes.depth[i]! < 7.5)
    expect(coverageOf(file, 'objects', 'through')!.index[i * 6]).toBe(2)
    expect(coverageOf(file, 'materials', 'through')!.index[i * 6]).toBe(2)
    expect(meantBy(probe(file, ((i % SIZE) + 0.5) / SIZE, (Math.floor(i / SIZE) + 0.5) / SIZE))).toEqual([
      { name: 'lens', seen: 'straight' },
      { name: 'disc', seen: 'through' },
    ])
    // A clear pane before something: the thing first, then the pane that is seen through, and all of the thing behind it
    expect(
      meantBy({
        objects: [
          { name: 'bell', share: 0.8 },
          { name: 'pane', share: 0.2 },
        ],
        materials: [],
        through: [{ name: 'bell', share: 1 }],
        mirrored: [],
      }),
    ).toEqual([
      { name: 'bell', seen: 'straight' },
      { name: 'pane', seen: 'straight' },
      { name: 'bell', seen: 'through' },
    ])
    // The edge of two solid things offers no choice
    expect(
      meantBy({
        objects: [
          { name: 'bell', share: 0.6 },
          { name: 'wall', share: 0.4 },
        ],
        materials: [],
        through: [
          { name: 'bell', share: 0.6 },
          { name: 'wall', share: 0.4 },
        ],
        mirrored: [],
      }),
    ).toHaveLength(1)
    expect(meantBy(probe(file, 0.01, 0.01))).toEqual([{ name: 'wall', seen: 'straight' }])
  })
})

it('rough glass spreads what is behind it, and keeps its amount', () => {
  const camera = lookAt([0, 0, 8], [0, 0, 0], 60)
  const wall = quad([-40, -40, -2], [40, -40, -2], [40, 40, -2], [-40, 40, -2], 2)
  const total = (roughness: number): { sum: number; full: number } => {
    const sheet = quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0])
    const passes = renderScene(
      scene([object('sheet', sheet), object('disc', disc([0, 0, -1.5], 0.8, 1)), object('wall', wall)], {
        materials: [material({ name: 'sheet', roughness, transmission: 1 }), material(), material()],
      }),
      { camera, width: SIZE, height: SIZE, samples: 64, passes: ['through_crypto_object'] },
    )
    const coverage = passes.coverage.through_crypto_object!
    let sum = 0
    let full = 0
    for (let i = 0; i < SIZE * SIZE; i++)
      for (let rank = 0; rank < 6; rank++)
        if (coverage.index[i * 6 + rank] === 2) {
          sum += coverage.weight[i * 6 + rank]!
          if (coverage.weight[i * 6 + rank]! > 0.98) full++
        }
    return { sum, full }
  }
  const clear = total(0)
  const rough = total(0.4)
  expect(Math.abs(rough.sum / clear.sum - 1)).toBeLessThan(0.08)
  expect(rough.full).toBeLessThan(clear.full * 0.7)
})

describe('partly glass', () => {
  const camera = lookAt([0, 0, 8], [0, 0, 0], 60)
  const wall = quad([-40, -40, -2], [40, -40, -2], [40, 40, -2], [-40, 40, -2], 1)
  const shares = (change: Partial<Material>): [number, number] => {
    const passes = renderScene(
      scene([object('pane', quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0])), object('wall', wall)], {
        materials: [material({ name: 'pane', roughness: 0, ...change }), material()],
      }),
      { camera, samples: 64, passes: ['through_crypto_object'] },
    )
    const coverage = passes.coverage.through_crypto_object!
    const sums: [number, number] = [0, 0]
    for (let i = 0; i < coverage.index.length; i++)
      if (coverage.index[i]) sums[coverage.index[i]! - 1]! += coverage.weight[i]! / (32 * 32)
    return sums
  }
  it.each([
    [{ transmission: 0.25 }, 0.75],
    [
      {
        transmission: 0.5,
        alphaMode: 'blend' as const,
        baseColour: [1, 1, 1, 0.5] as [number, number, number, number],
      },
      0.25,
    ],
    [
      {
        transmission: 0.5,
        solid: { absorption: [0, 0, 0] as Vector3 },
        alphaMode: 'blend' as const,
        baseColour: [1, 1, 1, 0.5] as [number, number, number, number],
      },
      0.25,
    ],
    [{ alphaMode: 'blend' as const, baseColour: [1, 1, 1, 0.3] as [number, number, number, number] }, 0.3],
  ])('%j keeps %d for itself', (change, own) => {
    const [pane, behind] = shares(change)
    expect(pane).toBeCloseTo(own, 3)
    expect(behind).toBeCloseTo(1 - own, 2)
  })
})

describe('in a mirror', () => {
  // A level mirror at y = 0, a ball over it: its image stands at y = -1
  const camera = lookAt([0, 1.2, 6], [0, 0, 0], 50)
  const passesOf = (roughness: number, metallic: number) =>
    renderScene(
      scene([object('floor', ground(40)), object('ball', ball([0, 1.6, 0], 0.5, 64, 1))], {
        materials: [
          material({ name: 'floor', roughness, metallic, baseColour: [0.9, 0.9, 0.9, 1] }),
          material({ name: 'ball', baseColour: [0.1, 0.2, 0.7, 1] }),
        ],
      }),
      {
        camera,
        width: SIZE,
        height: SIZE,
        samples: 64,
        passes: ['depth', 'object_id', ...PASS_IDS.filter(id => id.startsWith('mirrored_'))],
      },
    )
  const passes = passesOf(0, 1)
  it('the ball’s image has the outline, distance and colour of a ball below the floor', () => {
    const image = renderScene(scene([object('ball', ball([0, -1.6, 0], 0.5, 64))]), {
      camera,
      width: SIZE,
      height: SIZE,
      samples: 64,
      passes: ['alpha', 'depth'],
    })
    let worst = 0
    let checked = 0
    for (let i = 0; i < SIZE * SIZE; i++) {
      let share = 0
      const coverage = passes.coverage.mirrored_crypto_object!
      for (let rank = 0; rank < 6; rank++)
        if (coverage.index[i * 6 + rank] === 2) share += coverage.weight[i * 6 + rank]!
      // The ball itself stands before none of it
      worst = Math.max(worst, Math.abs(share - image.alpha[i]!))
      if (image.alpha[i]! > 0.999) {
        checked++
        expect(passes.mirrored.depth[i]!).toBeCloseTo(image.depth[i]!, 2)
        expect(passes.mirrored.objectId[i]).toBe(2)
        expect(Math.abs(passes.mirrored.albedo[i * 3 + 2]! - 0.7)).toBeLessThan(0.02)
      }
    }
    expect(checked).toBeGreaterThan(40)
    expect(worst).toBeLessThan(0.15)
  })
  it('nothing is mirrored where the sky is, nor off a rough floor', () => {
    expect(Math.max(...passes.mirrored.depth)).toBe(Math.fround(NO_DEPTH))
    expect(mean(passesOf(0.6, 0).coverage.mirrored_crypto_object!.weight, 1)).toBe(0)
    // A floor that mirrors little mirrors the same things
    expect(
      passesOf(0.1, 0).coverage.mirrored_crypto_object!.weight.reduce((sum, value) => sum + value, 0),
    ).toBeGreaterThan(30)
  })
})
