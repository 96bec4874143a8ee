// What surfaces do to rays: opacity, textures, roles, hidden things, lamps and environments.
import { describe, expect, it } from 'vitest'
import { beautyOf } from '../../core/render/planes'
import type { Texture } from '../../core/scene/scene'
import { rotationFromDegrees } from '../../core/scene/vector'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const wall = quad([-1, -1, -4], [1, -1, -4], [1, 1, -4], [-1, 1, -4])
const ahead = lookAt([0, 0, 0], [0, 0, -1], 200)
const texture = (width: number, height: number, pixel: (x: number, y: number) => number[]): Texture => {
  const pixels = new Uint8Array(width * height * 4)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) pixels.set(pixel(x, y), (y * width + x) * 4)
  return { pixels, width, height, wrapS: 'repeat', wrapT: 'repeat' }
}

describe('opacity', () => {
  it('by degrees is the alpha of the picture, exactly, whatever the samples', () => {
    const passes = renderScene(
      scene([object('veil', wall)], { materials: [material({ alphaMode: 'blend', baseColour: [1, 1, 1, 0.3] })] }),
      { camera: ahead, samples: 3, width: 4, height: 4 },
    )
    for (const alpha of passes.alpha) expect(alpha).toBeCloseTo(0.3, 6)
  })
  it('layers multiply: two veils of 0.3 leave 0.49', () => {
    const passes = renderScene(
      scene([object('a', wall), object('b', quad([-2, -2, -5], [2, -2, -5], [2, 2, -5], [-2, 2, -5]))], {
        materials: [material({ alphaMode: 'blend', baseColour: [1, 1, 1, 0.3] })],
      }),
      { camera: ahead, samples: 2, width: 4, height: 4 },
    )
    for (const alpha of passes.alpha) expect(alpha).toBeCloseTo(0.51, 6)
    for (let i = 0; i < 16; i++)
      expect(
        [...passes.coverage.crypto_object!.weight.slice(i * 6, i * 6 + 2)].map(value => Number(value.toFixed(5))),
      ).toEqual([0.3, 0.21])
  })
  it('by mask is all or nothing, and cuts the shadow too', () => {
    const half = texture(8, 8, x => [255, 255, 255, x < 4 ? 255 : 0])
    const roof = quad([-1, 2, 1], [1, 2, 1], [1, 2, -1], [-1, 2, -1])
    const passes = renderScene(
      scene([object('ground', ground(20, 0, 1), { role: 'catcher' }), object('net', roof, { hidden: true })], {
        materials: [material({ alphaMode: 'mask', baseTexture: half }), material()],
        lights: [{ kind: 'sun', name: 'sun', direction: [0, -1, 0], diameter: 0.1, irradiance: [1, 1, 1] }],
      }),
      { camera: lookAt([0, 6, 0], [0, 0, 0], 60), samples: 16, width: 40, height: 40, maxBounces: 1 },
    )
    const at = (x: number, z: number): number => {
      const u = 0.5 + x / 6 / (18 / 60) / 2
      const v = 0.5 + z / 6 / (18 / 60) / 2
      return passes.shadow![(Math.floor(v * 40) * 40 + Math.floor(u * 40)) * 3]!
    }
    expect(at(-0.5, 0)).toBeLessThan(0.05)
    expect(at(0.5, 0)).toBe(1)
    expect(at(1.4, 0)).toBe(1)
  })
})

describe('textures', () => {
  it('are decoded from sRGB and lie the right way up', () => {
    // Code 188 is 0.5029 in light (IEC 61966-2-1); the upper row of the picture is the upper edge of the wall
    const two = texture(1, 64, (_x, y) => (y < 32 ? [188, 0, 0, 255] : [0, 188, 0, 255]))
    const passes = renderScene(scene([object('wall', wall)], { materials: [material({ baseTexture: two })] }), {
      camera: ahead,
      samples: 4,
      width: 8,
      height: 8,
    })
    expect(mean(passes.albedo, 3, 0, i => i < 16)).toBeCloseTo(0.5029, 3)
    expect(mean(passes.albedo, 3, 1, i => i >= 48)).toBeCloseTo(0.5029, 3)
    expect(mean(passes.albedo, 3, 0, i => i >= 56)).toBeLessThan(0.01)
  })
  it('of normals tilt the surface by their angle', () => {
    // 45 degrees towards +u: (0.7071, 0, 0.7071) as codes
    const tilted = texture(1, 1, () => [
      Math.round((Math.SQRT1_2 * 0.5 + 0.5) * 255),
      128,
      Math.round((Math.SQRT1_2 * 0.5 + 0.5) * 255),
      255,
    ])
    const passes = renderScene(scene([object('wall', wall)], { materials: [material({ normalTexture: tilted })] }), {
      camera: ahead,
      samples: 2,
      width: 4,
      height: 4,
    })
    expect(passes.normal[0]).toBeCloseTo(Math.SQRT1_2, 2)
    expect(passes.normal[2]).toBeCloseTo(Math.SQRT1_2, 2)
  })
})

describe('roles', () => {
  const behind = object('ball', ball([0, 0, -8], 2, 24))
  it('a holdout cuts out what is behind it and casts no shadow ratio', () => {
    const passes = renderScene(
      scene([object('wall', wall, { role: 'holdout' }), behind], { environment: constantEnvironment() }),
      { camera: ahead, width: 8, height: 8, samples: 4 },
    )
    expect(Math.max(...passes.alpha)).toBe(0)
    expect([...new Set(passes.objectId)]).toEqual([0])
  })
  it('what is hidden from the camera still shades and is mirrored', () => {
    const scenery = [object('floor', ground(20, -1, 1)), object('wall', wall, { hidden: true })]
    const description = scene(scenery, {
      materials: [material({ emission: [2, 0, 0] }), material({ name: 'mirror', metallic: 1, roughness: 0 })],
      environment: constantEnvironment(0.01),
    })
    const passes = renderScene(description, {
      camera: lookAt([0, 0, 0], [0, 0, -1], 40),
      width: 24,
      height: 24,
      samples: 16,
    })
    expect(mean(passes.light!.emission, 3)).toBe(0)
    expect(Math.max(...passes.light!.reflection)).toBeGreaterThan(0.5)
  })
  it('what is left out is not there at all', () => {
    const passes = renderScene(scene([{ ...behind, absent: true }]), { camera: ahead, width: 4, height: 4, samples: 1 })
    expect(Math.max(...passes.alpha)).toBe(0)
  })
})

describe('light', () => {
  const floor = [object('ground', ground(0.2))]
  const down = lookAt([0, 1, 0], [0, 0, 0], 2000)
  const settings = { camera: down, samples: 256, width: 8, height: 8, maxBounces: 1 }
  /** Light that matt white sends back under the full sky of 1, to divide its sheen out. */
  const sky = (): number =>
    mean(renderScene(scene(floor, { environment: constantEnvironment() }), settings).light!.diffuse_direct, 3)
  it('of a sun at an angle falls by its cosine (Lambert)', () => {
    const lit = (elevation: number): number => {
      const e = (elevation * Math.PI) / 180
      return mean(
        renderScene(
          scene(floor, {
            lights: [
              {
                kind: 'sun',
                name: 'sun',
                direction: [-Math.cos(e), -Math.sin(e), 0],
                diameter: 0.53,
                irradiance: [Math.PI, Math.PI, Math.PI],
              },
            ],
          }),
          settings,
        ).light!.diffuse_direct,
        3,
      )
    }
    expect(lit(90) / sky()).toBeCloseTo(1, 2)
    expect(lit(30) / lit(90)).toBeCloseTo(0.5, 2)
  })
  it('of a point lamp falls with the square of the distance', () => {
    const lit = (height: number): number =>
      mean(
        renderScene(
          scene(floor, { lights: [{ kind: 'point', name: 'p', position: [0, height, 0], intensity: [1, 1, 1] }] }),
          settings,
        ).light!.diffuse_direct,
        3,
      )
    expect(lit(0.5) / lit(1)).toBeCloseTo(4, 1)
  })
  it('of an environment with one bright spot is that of the spot, however small (importance sampling)', () => {
    const width = 64
    const height = 32
    const pixels = new Float32Array(width * height * 4)
    // One texel near the zenith: radiance L over its solid angle, bilinear spread keeps the sum
    const row = 5
    const solid =
      ((2 * Math.PI) / width) * (Math.cos((Math.PI * row) / height) - Math.cos((Math.PI * (row + 1)) / height))
    pixels.fill(100, (row * width + 20) * 4, (row * width + 20) * 4 + 3)
    const passes = renderScene(
      scene(floor, { environment: { width, height, pixels, turn: 0, gain: [1, 1, 1], seenByCamera: false } }),
      { ...settings, samples: 1024 },
    )
    const theta = (Math.PI * (row + 0.5)) / height
    const expected = (100 * solid * Math.cos(theta)) / Math.PI
    expect(Math.abs(mean(passes.light!.diffuse_direct, 3) / sky() / expected - 1)).toBeLessThan(0.03)
  })
  it('a turn of the environment turns its shadows', () => {
    const width = 32
    const height = 16
    const pixels = new Float32Array(width * height * 4)
    pixels.fill(50, (4 * width + 16) * 4, (4 * width + 16) * 4 + 3)
    const lit = (turn: number): number => {
      const passes = renderScene(
        scene([object('ball', ball([0, 0, 0], 1, 32))], {
          environment: { width, height, pixels, turn, gain: [1, 1, 1], seenByCamera: false },
        }),
        { camera: lookAt([0, 0, 6], [0, 0, 0], 60), samples: 64, width: 32, height: 32 },
      )
      return mean(beautyOf(passes), 3, 0, i => i % 32 > 16) / mean(beautyOf(passes), 3, 0, i => i % 32 < 15)
    }
    // The spot stands ahead (-Z); a quarter turn brings it to one side, the other quarter to the other
    const right = lit(90)
    const left = lit(-90)
    expect(right > 2 || left > 2).toBe(true)
    expect(right * left).toBeCloseTo(1, 0)
  })
  it('of lamps in a crowd is found: one lamp and the same light from fifty agree', () => {
    const lamps = Array.from({ length: 50 }, (_, i) => ({
      kind: 'box' as const,
      name: `b${i}`,
      centre: [Math.cos(i) * 0.01, 1.5, Math.sin(i) * 0.01] as [number, number, number],
      halfU: [0.2, 0, 0] as [number, number, number],
      halfV: [0, 0, 0.2] as [number, number, number],
      normal: [0, -1, 0] as [number, number, number],
      radiance: [0.1, 0.1, 0.1] as [number, number, number],
    }))
    const many = mean(
      renderScene(scene(floor, { lights: lamps }), { ...settings, samples: 1024 }).light!.diffuse_direct,
      3,
    )
    const one = mean(
      renderScene(scene(floor, { lights: [{ ...lamps[0]!, centre: [0, 1.5, 0], radiance: [5, 5, 5] }] }), {
        ...settings,
        samples: 1024,
      }).light!.diffuse_direct,
      3,
    )
    expect(Math.abs(many / one - 1)).toBeLessThan(0.01)
  })
})

it('a mirrored object keeps its front', () => {
  const lamp = material({ emission: [1, 1, 1], doubleSided: false })
  const mirrored = { ...object('wall', wall), matrix: [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1] }
  const passes = renderScene(scene([mirrored], { materials: [lamp] }), {
    camera: ahead,
    width: 4,
    height: 4,
    samples: 1,
  })
  expect(mean(passes.light!.emission, 3)).toBeCloseTo(1, 6)
  const turned = { ...object('wall', wall), matrix: rotationFromDegrees(180, 0, 0) }
  turned.matrix[14] = -8
  const back = renderScene(scene([turned], { materials: [lamp] }), { camera: ahead, width: 4, height: 4, samples: 1 })
  expect(mean(back.light!.emission, 3)).toBe(0)
})

describe('bounces', () => {
  it('0 are all of the direct light: a wide lamp close by, seen in a matt and a shiny floor, as with four', () => {
    const lamp = {
      kind: 'box' as const,
      name: 'box',
      centre: [0, 0.4, 0] as [number, number, number],
      halfU: [1, 0, 0] as [number, number, number],
      halfV: [0, 0, 1] as [number, number, number],
      normal: [0, -1, 0] as [number, number, number],
      radiance: [2, 2, 2] as [number, number, number],
    }
    for (const roughness of [0.1, 0.4, 1]) {
      const sent = (maxBounces: number): number => {
        const passes = renderScene(
          scene([object('floor', ground(0.2))], { materials: [material({ roughness })], lights: [lamp] }),
          {
            camera: lookAt([0, 0.3, 0.3], [0, 0, 0], 100),
            samples: 512,
            width: 8,
            height: 8,
            maxBounces,
            passes: ['beauty'],
          },
        )
        return mean(beautyOf(passes), 3)
      }
      // Nothing stands around the floor: all of its light is direct
      expect(Math.abs(sent(0) / sent(4) - 1)).toBeLessThan(0.01)
    }
  })
})
