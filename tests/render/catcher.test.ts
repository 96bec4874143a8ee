// Shadow on real ground against the same ground rendered for real: the ratio of its light with a thing on it to its light
// without. All light counts: by way of mirroring and clear things, and from the ground to the thing and back.
import { describe, expect, it } from 'vitest'
import { beautyOf } from '../../core/render/planes'
import type { Light, Material, Scene } from '../../core/scene/scene'
import { ball, constantEnvironment, ground, lookAt, material, mean, object, renderScene, scene } from '../scenes'

const SIZE = 32
const lamp: Light = {
  kind: 'box',
  name: 'window',
  centre: [-2, 3, 1],
  halfU: [1.6, 0.8, 0],
  halfV: [0, 0, 1.6],
  normal: [0.5547, -0.83205, 0],
  radiance: [2, 2, 2],
}
const things: [string, Partial<Material>][] = [
  ['matt', { roughness: 1, baseColour: [0.7, 0.7, 0.7, 1] }],
  ['metal', { metallic: 1, roughness: 0.25, baseColour: [0.9, 0.9, 0.9, 1] }],
  ['glass', { transmission: 1, roughness: 0, doubleSided: false, solid: { absorption: [0, 0, 0] } }],
]
const settings = { camera: lookAt([0, 3.5, 3.5], [0, 0, 0], 40), width: SIZE, height: SIZE, maxBounces: 8 }

function grounds(albedo: number, own: Partial<Material>, samples: number): { ratio: Float32Array; real: number[] } {
  const base: Partial<Scene> = {
    materials: [
      // The ground is matt through and through, as a catcher's is
      material({ baseColour: [albedo, albedo, albedo, 1], specular: { strength: 0, colour: [1, 1, 1] } }),
      material(own),
    ],
    lights: [lamp],
    environment: constantEnvironment(0.4),
  }
  const thing = object('thing', ball([0, 0.5, 0], 0.5, 48, 1), { hidden: true })
  const floor = (role: 'object' | 'catcher') => object('ground', ground(4), { role })
  const beauty = (objects: Scene['objects']): Float32Array =>
    beautyOf(renderScene(scene(objects, base), { ...settings, samples, passes: ['beauty'] }))
  const withThing = beauty([floor('object'), thing])
  const bare = beauty([floor('object')])
  const { shadow } = renderScene(scene([floor('catcher'), thing], base), { ...settings, samples, passes: ['shadow'] })
  return { ratio: shadow!, real: Array.from({ length: SIZE * SIZE }, (_, i) => withThing[i * 3]! / bare[i * 3]!) }
}
/** Squares of pixels by where they lie: under the thing, in its shadow, beside it, away from it. */
const places: [string, number, number][] = [
  ['under the thing', 16, 16],
  ['in its shadow', 21, 15],
  ['beside it', 12, 16],
  ['before it', 16, 22],
  ['away', 28, 27],
]

describe.each([0.1, 0.6])('ground of %d', albedo => {
  it.each(things)('with a thing of %s on it', (_name, own) => {
    // Light that glass gathers is noisy
    const { ratio, real } = grounds(albedo, own, own.transmission ? 1536 : 768)
    for (const [where, x, y] of places) {
      const there = (i: number): boolean => Math.abs((i % SIZE) - x) <= 3 && Math.abs(Math.floor(i / SIZE) - y) <= 3
      const caught = mean(ratio, 3, 0, there)
      const truth = mean(Float32Array.from(real), 1, 0, there)
      expect(Math.abs(caught / truth - 1), `${where}: ${caught.toFixed(4)} of ${truth.toFixed(4)}`).toBeLessThan(0.02)
    }
  })
})

it('is exactly 1 where nothing changes: below ground things, and stand-ins about it, change nothing', () => {
  const buried = object('buried', ball([0, -3, 0], 0.5, 24, 0))
  const wall = object('wall', ball([0, 0.4, -1], 0.5, 24, 0), { role: 'catcher' })
  const { shadow } = renderScene(
    scene([object('ground', ground(4), { role: 'catcher' }), wall, buried], {
      lights: [lamp],
      environment: constantEnvironment(0.4),
    }),
    { ...settings, samples: 32, passes: ['shadow'] },
  )
  expect(new Set(shadow)).toEqual(new Set([1]))
})
