// Glass against optics: Fresnel's reflectances, Snell's lateral shift, Beer and Lambert, white furnaces of smooth and
// rough glass, panes as the camera and shadows meet them. Closed forms are written out in the tests in other forms than
// the renderer's.
import { Document, WebIO } from '@gltf-transform/core'
import { KHRMaterialsIOR, KHRMaterialsTransmission, KHRMaterialsVolume } from '@gltf-transform/extensions'
import { describe, expect, it } from 'vitest'
import { readGltf } from '../../core/formats/gltf/gltf'
import { beautyOf } from '../../core/render/planes'
import type { Material, Part } from '../../core/scene/scene'
import { normalized, rotationFromDegrees, type Vector3 } from '../../core/scene/vector'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const RADIANS = Math.PI / 180
/** Reflectance of unpolarised light by the sine and tangent forms (E. Hecht, "Optics", 4.6.2). */
function reflectance(degrees: number, n: number): number {
  if (degrees === 0) return ((n - 1) / (n + 1)) ** 2
  const i = degrees * RADIANS
  const t = Math.asin(Math.sin(i) / n)
  return ((Math.sin(i - t) / Math.sin(i + t)) ** 2 + (Math.tan(i - t) / Math.tan(i + t)) ** 2) / 2
}
const glass = (change: Partial<Material> = {}): Material =>
  material({ name: 'glass', roughness: 0, transmission: 1, ...change })
const solid = (absorption: Vector3 = [0, 0, 0]): Partial<Material> => ({ solid: { absorption }, doubleSided: false })
/** A closed box with faces turned outward. */
function box(w: number, h: number, d: number, materialIndex = 0): Part[] {
  const f = (a: Vector3, b: Vector3, c: Vector3, e: Vector3): Part => quad(a, b, c, e, materialIndex)
  return [
    f([-w, -h, d], [w, -h, d], [w, h, d], [-w, h, d]),
    f([w, -h, -d], [-w, -h, -d], [-w, h, -d], [w, h, -d]),
    f([w, -h, d], [w, -h, -d], [w, h, -d], [w, h, d]),
    f([-w, -h, -d], [-w, -h, d], [-w, h, d], [-w, h, -d]),
    f([-w, h, d], [w, h, d], [w, h, -d], [-w, h, -d]),
    f([-w, -h, -d], [w, -h, -d], [w, -h, d], [-w, -h, d]),
  ]
}
const shining = (value: number): Material =>
  material({ name: 'shining', baseColour: [0, 0, 0, 1], emission: [value, value, value] })
/** A camera from far away through a long lens: rays are parallel to a thousandth. */
const straight = lookAt([0, 0, 1000], [0, 0, 0], (36 / 2) * 1000)

it('Fresnel’s forms give the handbook’s reflectances of n = 1.5 (values from memory: 0.040, 0.0415, 0.050, 0.089, 0.253 at 0, 30, 45, 60, 75 degrees)', () => {
  for (const [angle, value] of [
    [0, 0.04],
    [30, 0.0415],
    [45, 0.0502],
    [60, 0.0892],
    [75, 0.2531],
  ] as const)
    expect(reflectance(angle, 1.5)).toBeCloseTo(value, 3)
})

describe('a pane', () => {
  it.each([
    [0, 1.5],
    [30, 1.5],
    [45, 1.5],
    [60, 1.5],
    [75, 1.5],
    [60, 1.33],
    [60, 2.4],
  ])('at %d degrees, n = %d, covers what its two faces mirror: 2R / (1 + R)', (angle, ior) => {
    const passes = renderScene(
      scene(
        [
          object('pane', quad([-5, -5, 0], [5, -5, 0], [5, 5, 0], [-5, 5, 0]), {
            matrix: rotationFromDegrees(angle, 0, 0),
          }),
        ],
        { materials: [glass({ ior })] },
      ),
      { camera: straight, samples: 4, passes: ['alpha'] },
    )
    const r = reflectance(angle, ior)
    expect(mean(passes.alpha, 1)).toBeCloseTo((2 * r) / (1 + r), 3)
  })
  it('mirrors white light by as much, so that it vanishes in front of white', () => {
    const passes = renderScene(
      scene(
        [
          object('pane', quad([-5, -5, 0], [5, -5, 0], [5, 5, 0], [-5, 5, 0]), {
            matrix: rotationFromDegrees(50, 0, 0),
          }),
        ],
        { materials: [glass()], environment: constantEnvironment() },
      ),
      { camera: straight, samples: 64, passes: ['beauty', 'alpha'] },
    )
    expect(mean(beautyOf(passes), 3) / mean(passes.alpha, 1)).toBeCloseTo(1, 2)
  })
  it('lets the sun through to the ground by (1 - R) / (1 + R), less by its grey', () => {
    const sun = (direction: Vector3) => ({
      kind: 'sun' as const,
      name: 'sun',
      direction: normalized(direction),
      diameter: 0.01,
      irradiance: [3, 3, 3] as Vector3,
    })
    const shadow = (direction: Vector3, grey = 1): number => {
      const passes = renderScene(
        scene([object('ground', ground(2), { role: 'catcher' }), object('pane', ground(40, 1, 1))], {
          materials: [material(), glass({ baseColour: [grey, grey, grey, 1] })],
          lights: [sun(direction)],
        }),
        { camera: lookAt([0, 0.9, 0], [0, 0, 0]), samples: 64, passes: ['shadow'], maxBounces: 0 },
      )
      return mean(passes.shadow, 3)
    }
    for (const angle of [0, 40, 70]) {
      const r = reflectance(angle, 1.5)
      expect(shadow([Math.tan(angle * RADIANS), -1, 0])).toBeCloseTo((1 - r) / (1 + r), 2)
    }
    expect(shadow([0, -1, 0], 0.5)).toBeCloseTo((0.5 * 0.96) / 1.04, 2)
  })
})

describe('a solid slab', () => {
  it.each([
    [30, 1.5],
    [45, 1.5],
    [45, 1.33],
  ])('tilted by %d degrees, n = %d, shifts what is behind it by d sin θ (1 - cos θ / √(n² - sin² θ))', (angle, ior) => {
    const thick = 0.5
    const theta = angle * RADIANS
    const shift = thick * Math.sin(theta) * (1 - Math.cos(theta) / Math.sqrt(ior ** 2 - Math.sin(theta) ** 2))
    // A wall that shines from x = 0 on to the right
    const wall = quad([0, -9, -4], [9, -9, -4], [9, 9, -4], [0, 9, -4], 1)
    const passes = renderScene(
      scene(
        [
          {
            ...object('slab', box(3, 3, thick / 2)[0]!),
            parts: box(3, 3, thick / 2),
            matrix: rotationFromDegrees(angle, 0, 0),
          },
          object('wall', wall),
        ],
        { materials: [glass({ ior, ...solid() }), shining(1)] },
      ),
      { camera: straight, width: 96, height: 8, samples: 64, passes: ['beauty'] },
    )
    const row = Array.from({ length: 96 }, (_, x) => {
      let sum = 0
      for (let y = 0; y < 8; y++) sum += passes.light.refraction[(y * 96 + x) * 3]! / 8
      return sum
    })
    const top = Math.max(...row)
    const at = row.findIndex((value, x) => x > 0 && (value - top / 2) * (row[x - 1]! - top / 2) <= 0)
    const part = (top / 2 - row[at - 1]!) / (row[at]! - row[at - 1]!)
    // A pixel is 2 m / 96 wide at the slab
    const seen = ((at - 1 + part - 47.5) * 2) / 96
    expect(Math.abs(Math.abs(seen) - shift)).toBeLessThan(0.004)
  })
  it('takes light away as Beer and Lambert say, and mirrors within itself', () => {
    const absorption: Vector3 = [0.5, 2, 6]
    const thick = 0.4
    const wall = quad([-9, -9, -4], [9, -9, -4], [9, 9, -4], [-9, 9, -4], 1)
    const passes = renderScene(
      scene([{ ...object('slab', box(3, 3, thick / 2)[0]!), parts: box(3, 3, thick / 2) }, object('wall', wall)], {
        materials: [glass({ ...solid(absorption) }), shining(2)],
      }),
      { camera: straight, samples: 1024, passes: ['beauty'], maxBounces: 12 },
    )
    absorption.forEach((sigma, c) => {
      const kept = Math.exp(-sigma * thick)
      const r = 0.04
      const expected = (2 * (1 - r) ** 2 * kept) / (1 - r * r * kept * kept)
      expect(Math.abs(mean(passes.light.refraction, 3, c) / expected - 1), `channel ${c}`).toBeLessThan(0.02)
    })
  })
})

it('the parts of the light add up, and what is seen through glass is refraction alone', () => {
  const passes = renderScene(
    scene(
      [
        object('ball', ball([0, 0, 0], 1, 64)),
        object('wall', quad([-4, -4, -3], [4, -4, -3], [4, 4, -3], [-4, 4, -3], 1)),
      ],
      {
        materials: [glass({ ...solid() }), material({ name: 'wall', baseColour: [0.7, 0.3, 0.2, 1] })],
        environment: constantEnvironment(),
      },
    ),
    { camera: lookAt([0, 0, 6], [0, 0, 0], 200), samples: 64, passes: ['beauty', 'alpha'] },
  )
  expect(mean(passes.light.diffuse_direct, 3)).toBe(0)
  expect(mean(passes.light.diffuse_indirect, 3)).toBe(0)
  expect(mean(passes.light.refraction, 3)).toBeGreaterThan(0.1)
  expect(mean(passes.alpha, 1)).toBeCloseTo(1, 5)
})

it('glTF says it by transmission, index and volume', async () => {
  const document = new Document()
  const buffer = document.createBuffer()
  const make = document.createExtension(KHRMaterialsTransmission)
  const index = document.createExtension(KHRMaterialsIOR)
  const volume = document.createExtension(KHRMaterialsVolume)
  const bottle = document
    .createMaterial('bottle')
    .setRoughnessFactor(0)
    .setMetallicFactor(0)
    .setExtension('KHR_materials_transmission', make.createTransmission().setTransmissionFactor(0.9))
    .setExtension('KHR_materials_ior', index.createIOR().setIOR(1.33))
    .setExtension(
      'KHR_materials_volume',
      volume.createVolume().setThicknessFactor(1).setAttenuationColor([0.5, 1, 0.25]).setAttenuationDistance(2),
    )
  const position = document
    .createAccessor()
    .setType('VEC3')
    .setArray(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0))
    .setBuffer(buffer)
  document
    .createScene()
    .addChild(
      document
        .createNode('a')
        .setMesh(
          document
            .createMesh()
            .addPrimitive(document.createPrimitive().setMaterial(bottle).setAttribute('POSITION', position)),
        ),
    )
  const {
    materials: [found],
    notes,
  } = await readGltf(
    await new WebIO()
      .registerExtensions([KHRMaterialsTransmission, KHRMaterialsIOR, KHRMaterialsVolume])
      .writeBinary(document),
  )
  expect(found).toMatchObject({ transmission: 0.9, ior: 1.33 })
  expect(found!.solid!.absorption.map(value => Number(value.toFixed(5)))).toEqual([
    Number((Math.LN2 / 2).toFixed(5)),
    0,
    Number((Math.log(4) / 2).toFixed(5)),
  ])
  expect(notes.join()).not.toMatch(/KHR_/)
})
