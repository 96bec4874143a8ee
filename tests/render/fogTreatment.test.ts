// Fog laid on a picture by its distances, beside the same air in the renderer: even, thinning out, and in patches.
import { describe, expect, it } from 'vitest'
import type { Volume } from '../../core/scene/scene'
import { treat } from '../compose/treat'
import { lookAt, mean, object, quad, renderScene, scene } from '../scenes'
import { pool } from '../outside/made'

const [width, height] = [48, 32]
const camera = lookAt([0, 1.5, 6], [0, 1, -4], 24)
/** Ground that goes away, and walls at several distances, one behind the other. */
const objects = [
  object('ground', quad([-40, 0, 10], [40, 0, 10], [40, 0, -60], [-40, 0, -60])),
  object('near', quad([-3, 0, 0], [-1, 0, 0], [-1, 3, 0], [-3, 3, 0])),
  object('middle', quad([0, 0, -8], [3, 0, -8], [3, 5, -8], [0, 5, -8])),
  object('far', quad([-40, 0, -55], [40, 0, -55], [40, 60, -55], [-40, 60, -55])),
]
/** Air that takes light and gives none. */
const air = (change: Partial<Volume>): Volume => ({
  ...{ name: 'air', density: Math.LN2 / 12, colour: [0, 0, 0], forward: 0 },
  ...{ noise: 0, noiseSize: 5, seed: 1, base: 0, halfHeight: 0 },
  ...change,
})
type Rendered = ReturnType<typeof renderScene>
const rendered = (volume: Volume, samples: number): Rendered =>
  renderScene(scene(objects, { volumes: [volume] }), {
    ...{ camera, width, height, samples, filterRadius: 0.5 },
    passes: ['volume', 'depth'],
  })
/** By how much both differ in what is lost, the least first. */
async function errors({ depth, volume }: Rendered, values: Record<string, number>): Promise<number[]> {
  const white = new Float32Array(width * height * 4).fill(1)
  const all = { half: 12, by: [1, 1, 1], colour: [0, 0, 0], most: 1, ...values }
  const laid = await treat(pool, 'fog', all, width, height, white, { depth, camera, frame: 1 })
  return Array.from({ length: width * height }, (_, i) => Math.abs(1 - laid[i * 4]! - volume[i * 4 + 3]!)).sort(
    (a, b) => a - b,
  )
}
/** Nine of ten pixels: at edges a pixel has several distances. */
const most = (found: readonly number[]): number => found[Math.floor(found.length * 0.9)]!

describe('what fog takes of light is what the renderer’s own air takes', () => {
  it('everywhere the same', async () => {
    expect(most(await errors(rendered(air({}), 64), {}))).toBeLessThan(0.004)
  })
  it('half as thick every two metres up', async () => {
    const thinning = rendered(air({ halfHeight: 2, base: 0.5 }), 64)
    expect(most(await errors(thinning, { thinning: 2, ground: 0.5 }))).toBeLessThan(0.004)
  })
  it('in patches: the same patches at the same places of the world', async () => {
    const patches = { thinning: 4, uneven: 1, patches: 5, seed: 3, drift: 0 }
    const uneven = rendered(air({ noise: 1, noiseSize: 5, seed: 3, base: 0, halfHeight: 4 }), 96)
    const own = await errors(uneven, patches)
    expect(most(own)).toBeLessThan(0.035)
    // Other patches, or these gone on, are others
    for (const change of [{ seed: 4 }, { drift: 3 }])
      expect(most(await errors(uneven, { ...patches, ...change }))).toBeGreaterThan(3 * most(own))
    expect(mean(uneven.volume, 4, 3)).toBeGreaterThan(0.2)
  })
})
