// Fog against the integral of single scattering, done here by small steps: toward the sky, thinning out with height, and
// near lamps. Light L at a place of the ray, s metres on, adds density x phase x L x exp(-what lies before it).
import { describe, expect, it } from 'vitest'
import type { Light, Volume } from '../../core/scene/scene'
import type { Vector3 } from '../../core/scene/vector'
import { constantEnvironment, lookAt, mean, renderScene, scene } from '../scenes'

const fog = (change: Partial<Volume>): Volume => ({
  name: 'fog',
  density: 0.02,
  colour: [1, 1, 1],
  forward: 0,
  noise: 0,
  noiseSize: 1,
  seed: 1,
  base: 0,
  halfHeight: 0,
  ...change,
})
const EVEN = 1 / (4 * Math.PI)
/** Sent to the camera and covered, with its greatest pixel over the mean. */
function seen(
  volumes: Volume[],
  direction: Vector3,
  change: { lights?: Light[]; sky?: boolean },
  samples = 256,
  eye: Vector3 = [0, 1, 0],
): { sent: number; cover: number; worst: number } {
  const passes = renderScene(
    scene([], { volumes, lights: change.lights ?? [], ...(change.sky && { environment: constantEnvironment(1) }) }),
    {
      camera: lookAt(eye, eye.map((value, k) => value + direction[k]!) as Vector3, 20000),
      width: 16,
      height: 16,
      samples,
      passes: ['volume'],
    },
  )
  const sent = mean(passes.volume, 4, 0)
  let worst = 0
  for (let i = 0; i < 256; i++) worst = Math.max(worst, Math.abs(passes.volume[i * 4]! / sent - 1))
  return { sent, cover: mean(passes.volume, 4, 3), worst }
}
function integrate(light: (s: number) => number, density: (s: number) => number, far: number, steps = 400000): number {
  let through = 1
  let sum = 0
  for (let i = 0; i < steps; i++) {
    const s = ((i + 0.5) / steps) * far
    const taken = density(s) * (far / steps)
    sum += through * taken * Math.exp(-taken / 2) * light(s)
    through *= Math.exp(-taken)
  }
  return sum
}

describe('fog toward the sky', () => {
  it.each([0.001, 0.02, 0.3])('that fills all space evenly (%d a metre) is as bright as the sky', density => {
    const { sent, cover, worst } = seen([fog({ density })], [0, 0.2, -1], { sky: true })
    expect(Math.abs(sent - 1)).toBeLessThan(0.01)
    expect(cover).toBeGreaterThan(0.999)
    expect(worst).toBeLessThan(0.05)
  })
  it.each([
    [[0, 1, -1], 3],
    [[0, 0.1, -1], 8],
    [[0, 0, -1], 5],
    [[0, 1, 0.01], 20],
  ] as [Vector3, number][])('along %j, thinning to half every %d m, takes its integral', (direction, halfHeight) => {
    const rise = direction[1] / Math.hypot(...direction)
    const density = 0.1
    const at = (s: number): number => density * 0.5 ** (Math.max(0, 1 + rise * s - 2) / halfHeight)
    const expected = integrate(() => 1, at, rise > 0 ? Math.min(2000, (20 * halfHeight) / rise + 10) : 500)
    const { cover } = seen([fog({ density, base: 2, halfHeight })], direction, { sky: true }, 64)
    expect(Math.abs(cover / expected - 1)).toBeLessThan(0.01)
  })
})

describe('fog near a lamp', () => {
  const lamp = (position: Vector3): Light => ({ kind: 'point', name: 'lamp', position, intensity: [10, 10, 10] })
  it.each([
    [0.02, 0.3, 20],
    [0.02, 2, 20],
    [0.2, 0.3, 5],
    [0.2, 0.3, 30],
    [0.001, 0.05, 8],
  ])('of %d a metre, %d m off the ray and %d m on, sends its integral', (density, off, on) => {
    const far = 60
    const light = (s: number): number => {
      const squared = off ** 2 + (s - on) ** 2
      return (10 / squared) * EVEN * Math.exp(-density * Math.sqrt(squared))
    }
    const expected = integrate(light, () => density, far)
    const box = [4, 0, 0, 0, 0, 4, 0, 0, 0, 0, 120, 0, 0, 1, 0, 1]
    // The box ends 60 m on; the lamp is in it
    const { sent, worst } = seen(
      [fog({ density, box, forward: 0 })],
      [0, 0, -1],
      { lights: [lamp([off, 1, -on])] },
      1024,
    )
    expect(Math.abs(sent / expected - 1)).toBeLessThan(0.01)
    expect(worst).toBeLessThan(0.25)
  })
  it('two lamps far apart along the ray, each as bright as alone', () => {
    const density = 0.05
    const box = [4, 0, 0, 0, 0, 4, 0, 0, 0, 0, 120, 0, 0, 1, 0, 1]
    const each = [lamp([0.5, 1, -4]), lamp([-0.5, 1, -30])]
    const apart = each.map(one => seen([fog({ density, box })], [0, 0, -1], { lights: [one] }, 1024).sent)
    const both = seen([fog({ density, box })], [0, 0, -1], { lights: each }, 1024).sent
    expect(Math.abs(both / (apart[0]! + apart[1]!) - 1)).toBeLessThan(0.02)
  })
})
