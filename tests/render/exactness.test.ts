// Where numbers run out: far from the origin, at the border of shadow on coarse meshes, and placements that mirror.
import { describe, expect, it } from 'vitest'
import { beautyOf } from '../../core/render/planes'
import { degreesFromRotation, multiply, rotationFromDegrees, turnAndSizes, type Vector3 } from '../../core/scene/vector'
import { placedMatrix } from '../../core/shot/scene'
import { ball, ground, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

describe('far from the origin', () => {
  // A wall beside level ground shuts out a quarter of the sky at its foot, less with distance: at x off a wall of height
  // h that never ends, (1 - x / sqrt(x² + h²)) / 2 is shut out (configuration factor of a perpendicular strip; J. R.
  // Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", B-5, for an endless one). Within the reach of
  // occlusion only what is near counts, so the reach is far.
  const open = (far: number, x: number): number => {
    const passes = renderScene(
      scene([
        object(
          'ground',
          quad([far - 4, 0, 4 - far], [far + 4, 0, 4 - far], [far + 4, 0, -4 - far], [far - 4, 0, -4 - far]),
        ),
        object('wall', quad([far, 0, 40 - far], [far, 0.5, 40 - far], [far, 0.5, -40 - far], [far, 0, -40 - far])),
      ]),
      {
        camera: lookAt([far + x, 1, -far], [far + x, 0, -far], 4000),
        width: 8,
        height: 8,
        samples: 256,
        passes: ['occlusion'],
        occlusionReach: 60,
      },
    )
    return mean(passes.occlusion, 1)
  }
  it.each([0, 1000, 6000, 20000])('occlusion beside a wall is its closed form %d m out', far => {
    for (const x of [0.2, 0.5, 1]) {
      const expected = 1 - (1 - x / Math.hypot(x, 0.5)) / 2
      expect(Math.abs(open(far, x) / expected - 1)).toBeLessThan(far > 10000 ? 0.02 : 0.01)
    }
  })
  it('no ground darkens itself: open ground, level and tilted, small and wide, is open', () => {
    for (const far of [0, 6000])
      for (const size of [0.1, 5, 3000]) {
        const tilt: Vector3 = [0.3, 1, 0.2]
        const at = (x: number, z: number): Vector3 => [
          far + x * size,
          -(x * tilt[0] + z * tilt[2]) * size,
          z * size - far,
        ]
        const { occlusion, alpha } = renderScene(
          scene([object('ground', quad(at(-1, 1), at(1, 1), at(1, -1), at(-1, -1)))]),
          {
            camera: lookAt([far, 2, -far], [far, 0, -far], 2000),
            width: 16,
            height: 16,
            samples: 64,
            passes: ['occlusion', 'alpha'],
            occlusionReach: 100,
          },
        )
        expect(mean(alpha, 1)).toBeGreaterThan(0.9)
        expect(Math.min(...occlusion)).toBe(1)
      }
  })
})

describe('the border of shadow on a coarse ball with smooth normals', () => {
  it('has no dark blocks: it falls off as Lambert says of the true ball', () => {
    // The border lies in the middle of facets, which as flat ones would be dark from end to end
    const turn = (12.5 * Math.PI) / 180
    const sun: Vector3 = [Math.cos(turn), 0, -Math.sin(turn)]
    const coarse = beautyOf(
      renderScene(
        scene([object('ball', ball([0, 0, 0], 1, 8))], {
          materials: [material({ specular: { strength: 0, colour: [1, 1, 1] } })],
          lights: [
            {
              kind: 'sun',
              name: 'sun',
              direction: sun.map(value => -value) as Vector3,
              diameter: 0.1,
              irradiance: [3, 3, 3],
            },
          ],
        }),
        {
          camera: lookAt([0, 0, 60], [0, 0, 0], 900),
          samples: 32,
          width: 48,
          height: 48,
          maxBounces: 0,
          passes: ['beauty'],
        },
      ),
    )
    let blocks = 0
    let light = 0
    for (let y = 0; y < 48; y++)
      for (let x = 0; x < 48; x++) {
        const u = (((x + 0.5) / 48) * 2 - 1) * 60 * (18 / 900)
        const v = (1 - ((y + 0.5) / 48) * 2) * 60 * (18 / 900)
        if (Math.hypot(u, v) > 0.9) continue
        const cosine = u * sun[0] + Math.sqrt(1 - u * u - v * v) * sun[2]
        if (cosine < 0.05) continue
        light++
        if (coarse[(y * 48 + x) * 3]! < 0.25 * (3 / Math.PI) * cosine) blocks++
      }
    expect(light).toBeGreaterThan(300)
    expect(blocks / light).toBeLessThan(0.002)
  })
})

describe('a mirrored thing', () => {
  const mirrored = multiply(rotationFromDegrees(20, 10, 5), [-2, 0, 0, 0, 0, 1, 0, 0, 0, 0, 3, 0, 0, 0, 0, 1])
  mirrored[12] = 4
  const thing = object('thing', ground(1), { matrix: mirrored })
  it('keeps its mirroring when it is turned, and its turn when nothing is changed', () => {
    const { turn, sizes } = turnAndSizes(mirrored)
    expect(sizes.map(value => Number(value.toFixed(9)))).toEqual([-2, 1, 3])
    const { heading, tilt, bank } = degreesFromRotation(turn)
    expect([heading, tilt, bank].map(value => Number(value.toFixed(6)))).toEqual([20, 10, 5])
    // Turned to where it is: it stays as it is; elsewhere, it is still mirrored
    const same = placedMatrix(thing, { rotation: [20, 10, 5] }, 1)
    same.forEach((value, i) => expect(value).toBeCloseTo(mirrored[i]!, 9))
    const turned = placedMatrix(thing, { rotation: [120, 0, 0] }, 1)
    expect(turnAndSizes(turned).sizes[0]).toBeCloseTo(-2, 9)
  })
})
