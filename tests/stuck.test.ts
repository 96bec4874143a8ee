// What sticks to a thing that turns and bends, held against its texture coordinates: the same point of the skin has the same,
// and they are not looked at by what is tested.
import { describe, expect, it } from 'vitest'
import { RestSurface, seenOn, type RestSeen } from '../core/stuck/surface'
import type { RenderedPasses } from '../core/render/planes'
import { identity } from '../core/scene/vector'
import type { Part, Scene } from '../core/scene/scene'
import { useNode } from '../host/engine'
import { ball, lookAt, object, quad, renderScene, scene } from './scenes'

useNode()
const [WIDTH, HEIGHT] = [160, 120]
const camera = lookAt([0, 0.2, 5], [0, 0, 0], 50)

/** A skin that turns about its upright axis, leans more the higher up, and breathes. */
function skin(frame: number): Part {
  const part = ball([0, 0, 0], 1, 96)
  const turn = frame * 0.05
  const positions = part.positions.slice()
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!]
    const wide = 1 + 0.1 * Math.sin(frame * 0.4 + y * 2)
    positions[i] = (x * Math.cos(turn) + z * Math.sin(turn)) * wide + 0.25 * Math.sin(frame * 0.15) * (y + 1) ** 2 * 0.5
    positions[i + 1] = y * (1 + 0.06 * Math.sin(frame * 0.3))
    positions[i + 2] = (-x * Math.sin(turn) + z * Math.cos(turn)) * wide
  }
  return { ...part, positions }
}
/** A post passes before it. */
function worldAt(frame: number): Scene {
  const x = -1.5 + frame * 0.12
  return scene([
    object('skin', skin(frame), { matrix: identity() }),
    object('post', quad([x - 0.1, -1.4, 1.4], [x + 0.1, -1.4, 1.4], [x + 0.1, 1.4, 1.4], [x - 0.1, 1.4, 1.4])),
  ])
}
const PASSES = ['rest', 'uv', 'alpha', 'depth', 'object_id', 'crypto_object']
const rendered = new Map<number, RenderedPasses>()
function at(frame: number): RenderedPasses {
  let found = rendered.get(frame)
  if (!found)
    rendered.set(
      frame,
      (found = renderScene(
        worldAt(frame),
        { camera, width: WIDTH, height: HEIGHT, samples: 1, passes: PASSES },
        { first: worldAt(0) },
      )),
    )
  return found
}
const seenAt = (frame: number): RestSeen => {
  const { rest, objectId } = at(frame)
  const plane = (c: number): Float32Array => Float32Array.from(objectId, (_, i) => rest![i * 3 + c]!)
  return { width: WIDTH, height: HEIGHT, x: plane(0), y: plane(1), z: plane(2), thing: objectId }
}
/** Texture coordinates of the skin between pixels of a frame; undefined where they do not go on. */
function textureAt(frame: number, x: number, y: number): { uv: [number, number]; slope: number[] } | undefined {
  const { uv, objectId } = at(frame)
  const [left, top] = [Math.floor(x - 0.5), Math.floor(y - 0.5)]
  const [s, t] = [x - 0.5 - left, y - 0.5 - top]
  const four = [0, 1].flatMap(j => [0, 1].map(i => (top + j) * WIDTH + left + i))
  if (left < 0 || top < 0 || left + 1 >= WIDTH || top + 1 >= HEIGHT || four.some(i => objectId[i] !== 1))
    return undefined
  const [a, b, c, d] = four.map(i => [uv![i * 2]!, uv![i * 2 + 1]!] as const) as [
    [number, number],
    [number, number],
    [number, number],
    [number, number],
  ]
  if (Math.abs(a[0] - d[0]) > 0.2 || Math.abs(b[0] - c[0]) > 0.2) return undefined
  const between = (k: 0 | 1): number => (a[k] * (1 - s) + b[k] * s) * (1 - t) + (c[k] * (1 - s) + d[k] * s) * t
  return {
    uv: [between(0), between(1)],
    slope: [
      (b[0] - a[0] + d[0] - c[0]) / 2,
      (c[0] - a[0] + d[0] - b[0]) / 2,
      (b[1] - a[1] + d[1] - c[1]) / 2,
      (c[1] - a[1] + d[1] - b[1]) / 2,
    ],
  }
}

describe('the skin of frame 10 found on others', () => {
  const surface = new RestSurface(seenAt(10))

  it('is each pixel itself on that frame', () => {
    const found = seenOn(surface, seenAt(10))
    const { objectId } = at(10)
    let [missed, all, most] = [0, 0, 0]
    for (let i = 0; i < objectId.length; i++) {
      if (objectId[i] !== 1) continue
      all++
      if (!found[i * 4 + 2]) missed++
      else
        most = Math.max(
          most,
          Math.hypot(found[i * 4]! - (i % WIDTH) - 0.5, found[i * 4 + 1]! - Math.floor(i / WIDTH) - 0.5),
        )
    }
    expect(all).toBeGreaterThan(4000)
    // Slivers of the outline that have no neighbour
    expect(missed / all).toBeLessThan(0.005)
    expect(most).toBeLessThan(1e-3)
  })

  it('is where its texture is, over 48 frames, on the mean within 0.05 pixels', () => {
    let [sum, count, most] = [0, 0, 0]
    for (let frame = 0; frame < 48; frame++) {
      const found = seenOn(surface, seenAt(frame))
      const { uv, objectId } = at(frame)
      for (let i = 0; i < objectId.length; i++) {
        if (objectId[i] !== 1 || !found[i * 4 + 2]) continue
        const there = textureAt(10, found[i * 4]!, found[i * 4 + 1]!)
        if (!there) continue
        const [du, dv] = [uv![i * 2]! - there.uv[0], uv![i * 2 + 1]! - there.uv[1]]
        if (Math.abs(du) > 0.5) continue
        // So many pixels off: by how the texture changes from pixel to pixel there
        const [ux, uy, vx, vy] = there.slope as [number, number, number, number]
        const det = ux * vy - uy * vx
        const off = Math.hypot((du * vy - dv * uy) / det, (dv * ux - du * vx) / det)
        if (!Number.isFinite(off)) continue
        sum += off
        most = Math.max(most, off)
        count++
      }
    }
    expect(count).toBeGreaterThan(80_000)
    expect(sum / count).toBeLessThan(0.05)
    expect(most).toBeLessThan(2)
  })

  it('is found wherever it was seen on both frames, and nowhere else', () => {
    // The back of the skin shows points that frame 10 does not see
    const found = seenOn(surface, seenAt(40))
    const { uv, objectId, rest } = at(40)
    const then = at(10)
    // A point is seen on frame 10 when the pixel there that has its texture coordinates is the skin's
    let neither = 0
    const known = new Map<string, number>()
    then.objectId.forEach((id, i) => {
      if (id === 1) known.set([0, 1, 2].map(c => Math.round(then.rest![i * 3 + c]! * 25)).join(), i)
    })
    let [seen, missed, wrong] = [0, 0, 0]
    for (let i = 0; i < objectId.length; i++) {
      if (objectId[i] !== 1) continue
      const near = known.has([0, 1, 2].map(c => Math.round(rest![i * 3 + c]! * 25)).join())
      if (near) {
        seen++
        if (!found[i * 4 + 2]) missed++
      }
      // A tenth of a turn of the skin and more from all that is seen: nothing may be found
      const u = uv![i * 2]!
      const isFar = ![...known.values()].some(other => {
        const away = Math.abs(then.uv![other * 2]! - u)
        return Math.min(away, 1 - away) < 0.08
      })
      if (isFar) {
        neither++
        if (found[i * 4 + 2]) wrong++
      }
    }
    expect(neither).toBeGreaterThan(200)
    expect(wrong).toBe(0)
    expect(missed / seen).toBeLessThan(0.05)
  })
})

it('a place off the surface, or of another thing beside it, is not on it', () => {
  const count = 20 * 20
  const flat = (of: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: count }, (_, i) => of(i % 20, Math.floor(i / 20)))
  // Two boards side by side in one plane
  const surface = new RestSurface({
    ...{ width: 20, height: 20, x: flat(x => x * 0.1), y: flat((_, y) => -y * 0.1), z: flat(() => 0) },
    thing: flat(x => (x < 10 ? 1 : 2)),
  })
  const near = (found: [number, number] | undefined, x: number, y: number): void => {
    expect(found![0]).toBeCloseTo(x, 5)
    expect(found![1]).toBeCloseTo(y, 5)
  }
  near(surface.find(1, 0.52, -0.73, 0), 5.7, 7.8)
  near(surface.find(1, 0.52, -0.73, 0, [6.5, 7.5]), 5.7, 7.8)
  near(surface.find(2, 1.52, -0.73, 0, [13.5, 9.5]), 15.7, 7.8)
  // Not the other board’s, wherever it is looked for from
  expect(surface.find(1, 1.52, -0.73, 0)).toBeUndefined()
  expect(surface.find(1, 1.52, -0.73, 0, [9.5, 7.5])).toBeUndefined()
  expect(surface.find(2, 0.52, -0.73, 0, [10.5, 7.5])).toBeUndefined()
  // A hand’s breadth before it is another surface
  expect(surface.find(1, 0.52, -0.73, 0.08)).toBeUndefined()
  near(surface.find(1, 0.52, -0.73, 0.01), 5.7, 7.8)
})
