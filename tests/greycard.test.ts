// Brightness of a panorama by a known grey: irradiance in closed form, and against our own path tracer.
import { describe, expect, it } from 'vitest'
import { irradianceOn, luminanceOf, meanAbout, stopsToMatch } from '../core/match/greycard'
import { beautyOf } from '../core/render/planes'
import type { Vector3 } from '../core/scene/vector'
import { skyDirection } from '../core/shot/lamps'
import { ground, lookAt, material, object, renderScene, scene } from './scenes'

const WIDTH = 256
const HEIGHT = 128
const panorama = (at: (direction: Vector3) => number): Float32Array => {
  const out = new Float32Array(WIDTH * HEIGHT * 4)
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const value = at(skyDirection(((x + 0.5) / WIDTH - 0.5) * 360, 90 - ((y + 0.5) / HEIGHT) * 180))
      out.set([value, value, value, 1], (y * WIDTH + x) * 4)
    }
  return out
}
const sky = (at: (direction: Vector3) => number, turn = 0) => ({
  pixels: panorama(at),
  width: WIDTH,
  height: HEIGHT,
  turn,
})

describe('irradiance, in closed form', () => {
  it('of an even sphere: pi times its radiance, whichever way', () => {
    for (const normal of [
      [0, 1, 0],
      [1, 0, 0],
      [0, 0, -1],
      [0.6, -0.8, 0],
    ] as Vector3[])
      expect(
        irradianceOn(
          sky(() => 2),
          normal,
        )[1],
      ).toBeCloseTo(2 * Math.PI, 1.9)
  })
  it('of the upper half on a wall: pi over 2', () => {
    expect(
      irradianceOn(
        sky(([, y]) => (y > 0 ? 1 : 0)),
        [0, 0, 1],
      )[1],
    ).toBeCloseTo(Math.PI / 2, 1.9)
  })
  it('of an overcast sky, (1 + 2 sin elevation) / 3 of the zenith (CIE S 011): 7 pi / 9 on the level', () => {
    expect(
      irradianceOn(
        sky(([, y]) => (y > 0 ? (1 + 2 * y) / 3 : 0)),
        [0, 1, 0],
      )[1],
    ).toBeCloseTo((7 * Math.PI) / 9, 1.9)
  })
  it('a light to the right of the picture’s middle shines on what faces right, and turns with it', () => {
    const right = ([x]: Vector3): number => (x > 0.9 ? 10 : 0)
    expect(irradianceOn(sky(right), [1, 0, 0])[1]).toBeGreaterThan(1)
    expect(irradianceOn(sky(right), [-1, 0, 0])[1]).toBeLessThan(1e-6)
    // Turned by 90 it moves right: from +X to +Z, behind the camera
    expect(irradianceOn(sky(right, 90), [0, 0, 1])[1]).toBeCloseTo(irradianceOn(sky(right), [1, 0, 0])[1], 2)
  })
})

it('set by a grey of 18 %, a rendered one is as bright as the plate’s, with a turned, uneven sky', () => {
  const shown: Vector3 = [0.31, 0.33, 0.36]
  const uneven = sky(([x, y, z]) => 0.2 + Math.max(0, x) * 3 + (y > 0.8 ? 6 : 0) + Math.max(0, -z), 37)
  const stops = stopsToMatch(shown, irradianceOn(uneven, [0, 1, 0]), 0.18)
  const gain = 2 ** stops
  const card = scene([object('card', ground(2))], {
    materials: [
      material({ baseColour: [0.18, 0.18, 0.18, 1], roughness: 1, specular: { strength: 0, colour: [1, 1, 1] } }),
    ],
    environment: { ...uneven, gain: [gain, gain, gain], seenByCamera: false },
  })
  const beauty = beautyOf(
    renderScene(card, {
      camera: lookAt([0, 1, 0.2], [0, 0, 0], 60),
      width: 16,
      height: 16,
      samples: 512,
      maxBounces: 0,
      passes: ['beauty'],
    }),
  )
  let sum = 0
  for (const value of beauty) sum += value / beauty.length
  expect(sum / luminanceOf(shown)).toBeCloseTo(1, 1.7)
})

it('what is dark cannot set it, and says so', () => {
  expect(() => stopsToMatch([0, 0, 0], [1, 1, 1], 0.8)).toThrow('black')
  expect(() => stopsToMatch([1, 1, 1], [0, 0, 0], 0.8)).toThrow('no light on that side')
})
it('a few pixels are averaged, at the border too', () => {
  const pixels = Float32Array.from({ length: 4 * 4 * 4 }, (_, i) => (i % 4 === 3 ? 1 : Math.floor(i / 4)))
  expect(meanAbout({ pixels, width: 4, height: 4 }, 0.6, 0.6, 1)[0]).toBeCloseTo(10, 6)
  expect(meanAbout({ pixels, width: 4, height: 4 }, 0, 0, 1)[0]).toBeCloseTo((0 + 1 + 4 + 5) / 4, 6)
})
