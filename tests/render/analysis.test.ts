// The renderer against closed forms.
import { describe, expect, it } from 'vitest'
import { beautyOf } from '../../core/render/planes'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'
import type { Vector3 } from '../../core/scene/vector'

describe('white furnace: white surfaces in white light vanish', () => {
  // Conservation of energy: what comes in everywhere as 1 goes out as 1
  it.each([
    [0, 1],
    [0, 0.5],
    [0, 0.15],
    [1, 0.9],
    [1, 0.5],
    [1, 0.2],
    [1, 0],
  ])('metallic %d, roughness %d', (metallic, roughness) => {
    const passes = renderScene(
      scene([object('ball', ball([0, 0, 0], 1))], {
        materials: [material({ metallic, roughness })],
        environment: constantEnvironment(),
      }),
      { camera: lookAt([0, 0, 6], [0, 0, 0], 50), samples: 256, width: 24, height: 16, maxBounces: 16 },
    )
    const beauty = beautyOf(passes)
    const covered = mean(beauty, 3, 1, i => passes.alpha[i]! > 0.999)
    expect(Math.abs(covered - 1)).toBeLessThan(0.005)
  })
})

describe('irradiance against published configuration factors', () => {
  // J. R. Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", B-4: differential element to a parallel
  // rectangle from its corner; the element below the middle sees four such.
  const corner = (a: number, b: number, c: number): number => {
    const A = a / c
    const B = b / c
    return (
      ((A / Math.sqrt(1 + A * A)) * Math.atan(B / Math.sqrt(1 + A * A)) +
        (B / Math.sqrt(1 + B * B)) * Math.atan(A / Math.sqrt(1 + B * B))) /
      (2 * Math.PI)
    )
  }
  const matt = material({ metallic: 0, roughness: 1, baseColour: [1, 1, 1, 1] })

  it('a soft box of 2 x 1.2 m at 1.5 m', () => {
    const passes = renderScene(
      scene([object('ground', ground(0.2))], {
        materials: [matt],
        lights: [
          {
            kind: 'box',
            name: 'box',
            centre: [0, 1.5, 0],
            halfU: [1, 0, 0],
            halfV: [0, 0, 0.6],
            normal: [0, -1, 0],
            radiance: [3, 3, 3],
          },
        ],
      }),
      { camera: lookAt([0, 1, 0], [0, 0, 0], 2000), samples: 1024, width: 8, height: 8, maxBounces: 1 },
    )
    // A matt dielectric keeps for diffuse what its sheen leaves: the ratio to a known light, the full sky, cancels that
    const sky = renderScene(
      scene([object('ground', ground(0.2))], { materials: [matt], environment: constantEnvironment() }),
      { camera: lookAt([0, 1, 0], [0, 0, 0], 2000), samples: 1024, width: 8, height: 8, maxBounces: 1 },
    )
    const ratio = mean(passes.light!.diffuse_direct, 3) / mean(sky.light!.diffuse_direct, 3)
    const expected = 3 * 4 * corner(1, 0.6, 1.5)
    expect(Math.abs(ratio / expected - 1)).toBeLessThan(0.01)
  })

  it('an emissive ball of radius 0.5 at 2 m: (r/h)² (catalog B-26, element facing the sphere)', () => {
    const materials = [
      matt,
      material({ name: 'lamp', baseColour: [0, 0, 0, 1], emission: [5, 5, 5], doubleSided: false }),
    ]
    const settings = { camera: lookAt([0, 0.9, 0], [0, 0, 0], 2000), samples: 1024, width: 8, height: 8, maxBounces: 1 }
    const passes = renderScene(
      scene([object('ground', ground(0.2)), object('lamp', flipped(ball([0, 2, 0], 0.5, 64, 1)))], { materials }),
      settings,
    )
    const sky = renderScene(
      scene([object('ground', ground(0.2))], { materials, environment: constantEnvironment() }),
      settings,
    )
    const ratio = mean(passes.light!.diffuse_direct, 3) / mean(sky.light!.diffuse_direct, 3)
    expect(Math.abs(ratio / (5 * (0.5 / 2) ** 2) - 1)).toBeLessThan(0.01)
  })
})

/** Triangles turned round, so that fronts look outwards whatever the maker did. */
function flipped<T extends { indices: Uint32Array; positions: Float32Array; normals?: Float32Array }>(part: T): T {
  const indices = part.indices.slice()
  const at = (i: number): Vector3 => [part.positions[i * 3]!, part.positions[i * 3 + 1]!, part.positions[i * 3 + 2]!]
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [at(indices[i]!), at(indices[i + 1]!), at(indices[i + 2]!)]
    const n = part.normals!
    const k = indices[i]! * 3
    const x = (b[1] - a[1]) * (c[2] - a[2]) - (b[2] - a[2]) * (c[1] - a[1])
    const y = (b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2])
    const z = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
    if (x * n[k]! + y * n[k + 1]! + z * n[k + 2]! < 0) {
      const held = indices[i + 1]!
      indices[i + 1] = indices[i + 2]!
      indices[i + 2] = held
    }
  }
  return { ...part, indices }
}

describe('depth', () => {
  it('of a plane seen straight on is its distance, everywhere', () => {
    const passes = renderScene(
      scene([object('wall', quad([-50, -50, -7.25], [50, -50, -7.25], [50, 50, -7.25], [-50, 50, -7.25]))]),
      { camera: lookAt([0, 0, 0], [0, 0, -1], 24), samples: 1, passes: ['depth'] },
    )
    for (const depth of passes.depth) expect(Math.abs(depth - 7.25)).toBeLessThan(7.25e-4 * 0.1)
  })

  it('of a sphere is where the ray through the pixel middle meets it, within 1e-4', () => {
    const size = 65
    const passes = renderScene(scene([object('ball', ball([0, 0, -4], 1, 512))]), {
      camera: lookAt([0, 0, 0], [0, 0, -1], 50),
      samples: 1,
      width: size,
      height: size,
      passes: ['depth'],
    })
    const tangent = 18 / 50
    let checked = 0
    for (let y = 0; y < size; y++) {
      for (let x = 0; x < size; x++) {
        const dx = (((x + 0.5) / size) * 2 - 1) * tangent
        const dy = (1 - ((y + 0.5) / size) * 2) * tangent
        const a = dx * dx + dy * dy + 1
        const b = -8
        const c = 15
        const discriminant = b * b - 4 * a * c
        // Facets stand off the sphere most at its edge; the middle of the disc is what the bound is for
        if (discriminant < 1) continue
        const depth = (-b - Math.sqrt(discriminant)) / (2 * a)
        expect(Math.abs(passes.depth[y * size + x]! / depth - 1)).toBeLessThan(1e-4)
        checked++
      }
    }
    expect(checked).toBeGreaterThan(100)
  })
})

describe('occlusion', () => {
  const middle = {
    camera: lookAt([0.05, 1, 0], [0.05, 0, 0], 3000),
    samples: 2048,
    width: 4,
    height: 4,
    passes: ['occlusion'],
  }
  it('at the foot of an endless wall is one half', () => {
    const passes = renderScene(
      scene([
        object('ground', ground(1)),
        object('wall', quad([0, 0, -1e4], [0, 0, 1e4], [0, 1e4, 1e4], [0, 1e4, -1e4])),
      ]),
      middle,
    )
    expect(Math.abs(mean(passes.occlusion!, 1) - 0.5)).toBeLessThan(0.005)
  })

  it('below a disc of radius r at height h is 1 - r²/(r² + h²) (Howell B-12)', () => {
    const radius = 0.8
    const height = 2
    const steps = 512
    const positions = [0, height, 0]
    const indices: number[] = []
    for (let i = 0; i <= steps; i++)
      positions.push(radius * Math.cos((2 * Math.PI * i) / steps), height, radius * Math.sin((2 * Math.PI * i) / steps))
    for (let i = 1; i <= steps; i++) indices.push(0, i, i + 1)
    const passes = renderScene(
      scene([
        object('ground', ground(1)),
        object('disc', { positions: Float32Array.from(positions), indices: Uint32Array.from(indices), material: 0 }),
      ]),
      { ...middle, camera: lookAt([0, 1, 0], [0, 0, 0], 3000) },
    )
    const open = 1 - radius ** 2 / (radius ** 2 + height ** 2)
    expect(Math.abs(mean(passes.occlusion!, 1) / open - 1)).toBeLessThan(0.01)
  })

  it('reaches no farther than asked', () => {
    const wall = object('roof', quad([-1, 0.5, -1], [1, 0.5, -1], [1, 0.5, 1], [-1, 0.5, 1]))
    const camera = lookAt([0, 0.4, 0], [0, 0, 0], 3000)
    const near = renderScene(scene([object('ground', ground(1)), wall]), { ...middle, camera, occlusionReach: 0.4 })
    expect(mean(near.occlusion!, 1)).toBe(1)
  })
})

describe('shadow ratio', () => {
  const sun = {
    kind: 'sun' as const,
    name: 'sun',
    direction: [0, -1, 0] as Vector3,
    diameter: 0.5,
    irradiance: [2, 1, 0.5] as Vector3,
  }
  const roof = quad([-0.5, 1, -0.5], [0.5, 1, -0.5], [0.5, 1, 0.5], [-0.5, 1, 0.5])
  it('is exactly 1 where nothing falls, and 0 under an opaque roof', () => {
    const passes = renderScene(
      scene([object('ground', ground(100), { role: 'catcher' }), object('roof', roof, { hidden: true })], {
        lights: [sun],
      }),
      { camera: lookAt([0, 8, 0], [0, 0, 0], 50), width: 48, height: 48, samples: 32, maxBounces: 0 },
    )
    const at = (x: number, y: number): number[] => [...passes.shadow!.slice((y * 48 + x) * 3, (y * 48 + x) * 3 + 3)]
    expect(at(24, 24)).toEqual([0, 0, 0])
    let ones = 0
    for (let i = 0; i < 48 * 48 * 3; i++) if (passes.shadow![i] === 1) ones++
    expect(ones).toBeGreaterThan(48 * 48 * 3 * 0.8)
    expect(Math.max(...passes.shadow!)).toBe(1)
    expect(Math.max(...passes.alpha)).toBe(0)
  })

  it('is exactly 1 under a sky too, when the object is out of sight of the ground', () => {
    const passes = renderScene(
      scene([object('ground', ground(100), { role: 'catcher' }), object('ball', ball([0, -5, 0], 1))], {
        lights: [sun],
        environment: constantEnvironment(0.3),
      }),
      { camera: lookAt([0, 8, 0], [0, 0, 0], 50), samples: 32, maxBounces: 0 },
    )
    expect([...new Set(passes.shadow!)]).toEqual([1])
  })

  it('lets light through in proportion to transparency', () => {
    const passes = renderScene(
      scene(
        [
          object('ground', ground(100), { role: 'catcher' }),
          object('roof', { ...roof, material: 1 }, { hidden: true }),
        ],
        { materials: [material(), material({ alphaMode: 'blend', baseColour: [1, 1, 1, 0.25] })], lights: [sun] },
      ),
      { camera: lookAt([0, 8, 0], [0, 0, 0], 2000), width: 4, height: 4, samples: 64, maxBounces: 0 },
    )
    // Straight from the sun; what ground and veil send each other comes with bounces
    expect(mean(passes.shadow!, 3)).toBeCloseTo(0.75, 3)
  })

  it('takes the light of lamps that the objects bring', () => {
    const lamp = object('lamp', ball([0, 1, 0], 0.1, 16, 1))
    const passes = renderScene(
      scene([object('ground', ground(100), { role: 'catcher' }), lamp], {
        materials: [material(), material({ name: 'lamp', emission: [20, 10, 2] })],
        environment: constantEnvironment(0.1),
      }),
      { camera: lookAt([0.5, 3, 0], [0.5, 0, 0], 300), width: 4, height: 4, samples: 256 },
    )
    expect(mean(passes.shadow!, 3, 0)).toBeGreaterThan(1.2)
    expect(mean(passes.shadow!, 3, 0)).toBeGreaterThan(mean(passes.shadow!, 3, 2))
  })
})

describe('light passes and convergence', () => {
  const materials = [
    material({ roughness: 0.4, baseColour: [0.7, 0.5, 0.3, 1] }),
    material({ name: 'lamp', emission: [4, 3, 2] }),
    material({ name: 'metal', metallic: 1, roughness: 0.3 }),
  ]
  const objects = [
    object('ground', ground(5)),
    object('lamp', ball([1.2, 1, 0], 0.3, 16, 1)),
    object('metal', ball([-0.7, 0.8, 0], 0.8, 32, 2)),
  ]
  const description = scene(objects, {
    materials,
    environment: constantEnvironment(0.2, { seenByCamera: true }),
    lights: [{ kind: 'sun', name: 'sun', direction: [-0.5, -0.8, -0.3316], diameter: 2, irradiance: [1, 1, 1] }],
  })
  const camera = lookAt([0, 2, 6], [0, 0.7, 0], 40)

  it('two seeds converge to one picture, the error falling at least as fast as for random samples', () => {
    const at = (samples: number, seed: number): Float32Array =>
      beautyOf(
        renderScene(description, {
          camera,
          samples,
          seed,
          width: 48,
          height: 32,
          seeEnvironment: true,
          passes: ['beauty'],
        }),
      )
    const difference = (samples: number): number => {
      const a = at(samples, 1)
      const b = at(samples, 2)
      let sum = 0
      for (let i = 0; i < a.length; i++) {
        const d = Math.min(4, a[i]!) - Math.min(4, b[i]!)
        sum += d * d
      }
      return Math.sqrt(sum / a.length)
    }
    const few = difference(16)
    const many = difference(256)
    // Random samples would fall to a quarter
    // Sixteen times as many independent random samples would bring it to a quarter: sqrt(16 / 256)
    expect(many / few).toBeLessThan(0.25)
    expect(many).toBeGreaterThan(0)
  })

  it('coverage of objects adds up to alpha', () => {
    const passes = renderScene(description, { camera, samples: 64, passes: ['alpha', 'crypto_object'] })
    for (let i = 0; i < passes.alpha.length; i++) {
      let sum = 0
      for (let rank = 0; rank < passes.coverage.crypto_object!.ranks; rank++)
        sum += passes.coverage.crypto_object!.weight[i * passes.coverage.crypto_object!.ranks + rank]!
      expect(Math.abs(sum - passes.alpha[i]!)).toBeLessThan(1e-5)
    }
  })
})
