// Lamps against published configuration factors (J. R. Howell, "A Catalog of Radiation Heat Transfer Configuration
// Factors"), against integrals done here, and against the same lamp made of shining triangles: the two ways of finding
// a lamp must agree on rough metal.
import { describe, expect, it } from 'vitest'
import { LUMEN_PER_WATT, projectedAngle, radianceOf } from '../../core/scene/flux'
import type { Light, Part } from '../../core/scene/scene'
import type { Vector3 } from '../../core/scene/vector'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, renderScene, scene } from '../scenes'

const matt = material({ metallic: 0, roughness: 1 })
const settings = { camera: lookAt([0, 1, 0], [0, 0, 0], 2000), samples: 1024, width: 8, height: 8, maxBounces: 1 }
/** Irradiance at the origin, facing up, over that of a sky of 1. */
const seenFromGround = (light: Light): number => {
  const ratio = (lights: Light[], sky: boolean): number =>
    mean(
      renderScene(
        scene([object('ground', ground(0.2))], {
          materials: [matt],
          lights,
          environment: sky ? constantEnvironment() : undefined,
        }),
        settings,
      ).light!.diffuse_direct,
      3,
    )
  return ratio([light], false) / ratio([], true)
}

describe('irradiance below a lamp', () => {
  it('a disc facing it: r²/(r² + h²) (catalog B-12)', () => {
    for (const [radius, height] of [
      [0.5, 1.5],
      [1.5, 0.8],
    ] as const)
      expect(
        Math.abs(
          seenFromGround({
            kind: 'disc',
            name: 'disc',
            centre: [0, height, 0],
            normal: [0, -1, 0],
            radius,
            radiance: [3, 3, 3],
          }) /
            ((3 * radius ** 2) / (radius ** 2 + height ** 2)) -
            1,
        ),
      ).toBeLessThan(0.01)
  })
  it('a ball: (r/h)² (catalog B-26)', () => {
    for (const [radius, height] of [
      [0.5, 2],
      [0.02, 1],
    ] as const)
      expect(
        Math.abs(
          seenFromGround({ kind: 'ball', name: 'ball', centre: [0, height, 0], radius, radiance: [4, 4, 4] }) /
            (4 * (radius / height) ** 2) -
            1,
        ),
      ).toBeLessThan(0.01)
  })
  it('a tube lying over it: the integral over its lower side', () => {
    const radius = 0.2
    const height = 1.1
    const half = 0.7
    let sum = 0
    const around = 400
    const along = 400
    for (let i = 0; i < around; i++) {
      const turn = ((i + 0.5) / around) * 2 * Math.PI
      const n: Vector3 = [0, -Math.cos(turn), Math.sin(turn)]
      for (let k = 0; k < along; k++) {
        const p: Vector3 = [(((k + 0.5) / along) * 2 - 1) * half, height + n[1] * radius, n[2] * radius]
        const far = Math.hypot(...p)
        const out = -(p[0] * n[0] + p[1] * n[1] + p[2] * n[2]) / far
        if (out > 0) sum += ((out * (p[1] / far)) / far ** 2) * ((2 * Math.PI * radius) / around) * ((2 * half) / along)
      }
    }
    expect(
      Math.abs(
        seenFromGround({
          kind: 'tube',
          name: 'tube',
          centre: [0, height, 0],
          half: [half, 0, 0],
          radius,
          radiance: [5, 5, 5],
        }) /
          ((5 * sum) / Math.PI) -
          1,
      ),
    ).toBeLessThan(0.01)
  })
  it('a spot is a disc inside its cone, fades through its soft part and is dark beyond', () => {
    const at = (across: number): number =>
      seenFromGround({
        kind: 'disc',
        name: 'spot',
        centre: [across, 4, 0],
        normal: [0, -1, 0],
        radius: 0.02,
        radiance: [1000, 1000, 1000],
        cone: { inner: 10, outer: 20 },
      })
    const open = at(0)
    expect(Math.abs(open / (1000 * (0.02 / 4) ** 2) - 1)).toBeLessThan(0.01)
    expect(at(4 * Math.tan((21 * Math.PI) / 180))).toBe(0)
    const angle = (15 * Math.PI) / 180
    const ramp =
      ((Math.cos(angle) - Math.cos((20 * Math.PI) / 180)) /
        (Math.cos((10 * Math.PI) / 180) - Math.cos((20 * Math.PI) / 180))) **
      2
    expect(Math.abs(at(4 * Math.tan(angle)) / (open * ramp * Math.cos(angle) ** 4) - 1)).toBeLessThan(0.02)
  })
})

describe('the same lamp as a shape of its own and as shining triangles', () => {
  const metal = material({ metallic: 1, roughness: 0.35 })
  const glow = material({ name: 'glow', baseColour: [0, 0, 0, 1], emission: [6, 6, 6], doubleSided: false })
  const camera = lookAt([0, 1.5, 4], [0, 0, 0], 40)
  const reflected = (lights: Light[], part?: Part): number =>
    mean(
      renderScene(
        scene([object('plate', ground(1.2)), ...(part ? [object('lamp', part, { hidden: true })] : [])], {
          materials: [metal, glow],
          lights,
        }),
        { camera, samples: 1536, width: 24, height: 24, maxBounces: 1 },
      ).light!.reflection,
      3,
    )
  it('ball', () => {
    const mesh = ball([0.3, 1.2, -0.4], 0.4, 48, 1)
    // Its triangles face inward in the helper: turned round
    mesh.indices = Uint32Array.from(
      mesh.indices,
      (_, i, all?: Uint32Array) => (all ?? mesh.indices)[i - (i % 3) + (i % 3 === 0 ? 0 : 3 - (i % 3))]!,
    )
    const a = reflected([{ kind: 'ball', name: 'ball', centre: [0.3, 1.2, -0.4], radius: 0.4, radiance: [6, 6, 6] }])
    const sides = [reflected([], mesh), reflected([], ball([0.3, 1.2, -0.4], 0.4, 48, 1))]
    // One of the two windings shines outward
    expect(Math.min(...sides.map(b => Math.abs(a / b - 1)))).toBeLessThan(0.02)
  })
  it('disc', () => {
    const ring = Array.from({ length: 96 }, (_, i) => [
      0.3 + 0.5 * Math.cos((i / 48) * Math.PI),
      1.2,
      -0.4 + 0.5 * Math.sin((i / 48) * Math.PI),
    ])
    const part: Part = {
      positions: Float32Array.from([0.3, 1.2, -0.4, ...ring.flat()]),
      indices: Uint32Array.from(ring.flatMap((_, i) => [0, 1 + i, 1 + ((i + 1) % 96)])),
      material: 1,
    }
    const a = reflected([
      { kind: 'disc', name: 'disc', centre: [0.3, 1.2, -0.4], normal: [0, -1, 0], radius: 0.5, radiance: [6, 6, 6] },
    ])
    expect(Math.abs(a / reflected([], part) - 1)).toBeLessThan(0.02)
  })
  it('tube', () => {
    const steps = 96
    const positions: number[] = []
    const indices: number[] = []
    for (let i = 0; i < steps; i++) {
      const c = Math.cos((i / steps) * 2 * Math.PI) * 0.15
      const s = Math.sin((i / steps) * 2 * Math.PI) * 0.15
      positions.push(-0.6, 1 + c, s, 0.6, 1 + c, s)
    }
    for (let i = 0; i < steps; i++) {
      const a = i * 2
      const b = ((i + 1) % steps) * 2
      indices.push(a, a + 1, b, b, a + 1, b + 1)
    }
    const part: Part = { positions: Float32Array.from(positions), indices: Uint32Array.from(indices), material: 1 }
    const turned: Part = {
      ...part,
      indices: Uint32Array.from(indices.map((_, i) => indices[i - (i % 3) + (i % 3 === 0 ? 0 : 3 - (i % 3))]!)),
    }
    const a = reflected([
      { kind: 'tube', name: 'tube', centre: [0, 1, 0], half: [0.6, 0, 0], radius: 0.15, radiance: [6, 6, 6] },
    ])
    expect(Math.min(...[part, turned].map(mesh => Math.abs(a / reflected([], mesh) - 1)))).toBeLessThan(0.02)
  })
})

describe('powers', () => {
  it('a cone of a half angle a without softness lets pi sin² a through; without a cone, pi', () => {
    expect(projectedAngle()).toBe(Math.PI)
    for (const angle of [5, 20, 60])
      expect(
        Math.abs(
          projectedAngle({ inner: angle * 0.9999, outer: angle }) / (Math.PI * Math.sin((angle * Math.PI) / 180) ** 2) -
            1,
        ),
      ).toBeLessThan(0.02)
  })
  it('are spread over the surface by Lambert’s law: a ball of 1 m of 4 pi² watt shines with 1 W/(m2 sr)', () => {
    expect(radianceOf(4 * Math.PI ** 2, { kind: 'ball', radius: 1 })).toBeCloseTo(1, 12)
    expect(radianceOf(Math.PI * 0.18, { kind: 'flat', area: 0.18 })).toBeCloseTo(1, 12)
    expect(radianceOf(Math.PI * 2 * Math.PI * 0.1 * 2, { kind: 'tube', radius: 0.1, length: 2 })).toBeCloseTo(1, 12)
    // SI brochure: 683 lm/W at 540 THz
    expect(LUMEN_PER_WATT).toBe(683)
  })
})
