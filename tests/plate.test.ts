// The demo's photograph matched from its own pixels: lines drawn roughly along the crates on its quay, laid on the
// edges, straightened, solved, and held against the camera it was taken with (demo/assets/quay.camera.json). And laying
// lines on edges, against edges whose place is known exactly.
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { encodingOf } from '../core/colour/encoding'
import { readPng } from '../core/formats/png/png'
import { solveLines, type DrawnLine } from '../core/match/lines'
import { project } from '../core/match/project'
import { matrixOf, rotationOf } from '../core/match/rotation'
import { heightFromUpright } from '../core/match/scale'
import { edgePicture, snapLine } from '../core/match/snap'
import { degreesFromRotation, type Vector3 } from '../core/scene/vector'
import { DEFAULT_CAMERA } from '../core/shot/document'
import { cameraAt } from '../core/shot/scene'
import { CRATES } from '../demo/harbour'
import { seeded } from '../demo/textures'

/**
 * A half plane whose border runs through two places, in light and shade, each pixel by its covered share (16 x 16
 * places), with noise.
 */
function halfPlane(
  width: number,
  height: number,
  a: [number, number],
  b: [number, number],
  noise: number,
): Float32Array {
  const out = new Float32Array(width * height)
  const next = seeded(5)
  const long = Math.hypot(b[0] - a[0], b[1] - a[1])
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let covered = 0
      for (let j = 0; j < 16; j++)
        for (let i = 0; i < 16; i++)
          if (((x + (i + 0.5) / 16 - a[0]) * (b[1] - a[1]) - (y + (j + 0.5) / 16 - a[1]) * (b[0] - a[0])) / long > 0)
            covered++
      out[y * width + x] = 0.25 + (0.3 * covered) / 256 + (next() - 0.5) * noise
    }
  }
  return out
}
const off = (p: [number, number], a: [number, number], b: [number, number]): number =>
  Math.abs((p[0] - a[0]) * (b[1] - a[1]) - (p[1] - a[1]) * (b[0] - a[0])) / Math.hypot(b[0] - a[0], b[1] - a[1])

describe('a line laid on the edge under it', () => {
  it.each([
    [
      [20.3, 30.1],
      [130.7, 52.9],
    ],
    [
      [40.2, 10.4],
      [44.9, 108.8],
    ],
    [
      [15.5, 100.2],
      [140.1, 20.6],
    ],
  ] as [[number, number], [number, number]][])('meets it to a tenth of a pixel through noise: %j to %j', (a, b) => {
    const picture = halfPlane(160, 120, a, b, 0.1)
    const found = snapLine(picture, 160, 120, [a[0] + 1.6, a[1] - 1.2], [b[0] - 1.1, b[1] + 1.9])!
    expect(off(found.from, a, b)).toBeLessThan(0.1)
    expect(off(found.to, a, b)).toBeLessThan(0.1)
    expect(found.clearness).toBeGreaterThan(10)
  })
  it('is left alone where nothing stands out, where it is too short, and outside', () => {
    const empty = halfPlane(160, 120, [-500, 0], [-500, 10], 0.1)
    expect(snapLine(empty, 160, 120, [20, 30], [130, 52])).toBeUndefined()
    const slope = new Float32Array(160 * 120).map((_, i) => (i % 160) / 320)
    expect(snapLine(slope, 160, 120, [80, 20], [82, 100])).toBeUndefined()
    const picture = halfPlane(160, 120, [20, 30], [130, 52], 0)
    expect(snapLine(picture, 160, 120, [20, 30], [28, 31])).toBeUndefined()
    expect(snapLine(picture, 160, 120, [-300, 30], [-20, 30])).toBeUndefined()
    expect(snapLine(picture, 160, 120, [NaN, 30], [100, 30])).toBeUndefined()
  })
})

describe('the photograph of the demo', () => {
  const png = readPng(readFileSync(new URL('../demo/assets/quay.png', import.meta.url)))
  const { width, height } = png
  const truth = JSON.parse(readFileSync(new URL('../demo/assets/quay.camera.json', import.meta.url), 'utf8')) as {
    camera: Record<'focalLength' | 'sensorWidth' | 'x' | 'y' | 'z' | 'heading' | 'pitch' | 'bank', number>
    lens: { k1: number }
  }
  const { decode } = encodingOf('srgb')
  const light = new Float32Array(width * height * 4)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) light[i * 4 + c] = decode!(png.data[i * 3 + c]! / 255)
  const picture = edgePicture(light, width, height)
  const camera = cameraAt({ ...DEFAULT_CAMERA, ...truth.camera }, 1)
  /**
   * The lens of the photograph: where it was taken from a place of the bent picture, and back (one step is enough at
   * 0.008).
   */
  const radius2 = (x: number, y: number): number =>
    (((x - width / 2) ** 2 + (y - height / 2) ** 2) / (width ** 2 + height ** 2)) * 4
  const scaled = (x: number, y: number, k: number): [number, number] => [
    width / 2 + (x - width / 2) * k,
    height / 2 + (y - height / 2) * k,
  ]
  const straight = ([x, y]: [number, number]): [number, number] => scaled(x, y, 1 - truth.lens.k1 * radius2(x, y))
  const bent = ([x, y]: [number, number]): [number, number] => scaled(x, y, 1 + truth.lens.k1 * radius2(x, y))
  const turn = (CRATES.turn * Math.PI) / 180
  const seen = (x: number, y: number, z: number): [number, number] => {
    const place: Vector3 = [
      CRATES.at[0] + Math.cos(turn) * x + Math.sin(turn) * z,
      y,
      CRATES.at[2] - Math.sin(turn) * x + Math.cos(turn) * z,
    ]
    const { u, v } = project(camera, width / height, place)
    return bent([u * width, v * height])
  }
  const w = CRATES.width / 2
  const d = CRATES.depth / 2
  // Lower edges of slats are lines without thickness from above; tier and row counted from below
  const edges = [
    [0, 1],
    [0, 2],
    [1, 0],
    [1, 1],
    [1, 2],
  ].map(([tier, row]) => tier! * CRATES.tier + 0.03 + row! * 0.108)
  function solve(hand: number) {
    const next = seeded(hand)
    /** As a hand draws it: on whole pixels, up to a pixel beside the edge. */
    const shaky = (p: [number, number]): [number, number] => [
      Math.round(p[0] + next() * 2 - 1),
      Math.round(p[1] + next() * 2 - 1),
    ]
    const lines = edges.flatMap((y): DrawnLine[] =>
      (
        [
          ['x', seen(-w + 0.01, y, d), seen(w - 0.01, y, d)],
          ['z', seen(w, y, d - 0.02), seen(w, y, -d + 0.02)],
        ] as const
      ).flatMap(([axis, from, to]) => {
        const found = snapLine(picture, width, height, shaky(from), shaky(to), 3)
        return found ? [{ axis, from: straight(found.from), to: straight(found.to) }] : []
      }),
    )
    const solution = solveLines(lines, {
      width,
      height,
      near: rotationOf(cameraAt({ ...DEFAULT_CAMERA, heading: -CRATES.turn - 20 }, 1).matrix),
    })
    return {
      lines,
      rms: solution.rms,
      focal: (solution.focal / width) * truth.camera.sensorWidth,
      ...degreesFromRotation(matrixOf(solution.rotation, [0, 0, 0])),
    }
  }

  it.each([1, 2, 3, 4, 5])(
    'is solved from its own lines: focal length within 2 %%, how it is held within 0.6 degree (hand %i)',
    hand => {
      const { lines, rms, focal, tilt, bank, heading } = solve(hand)
      expect(lines).toHaveLength(10)
      expect(Math.abs(focal / truth.camera.focalLength - 1)).toBeLessThan(0.02)
      expect(Math.abs(tilt - truth.camera.pitch)).toBeLessThan(0.5)
      expect(Math.abs(bank - truth.camera.bank)).toBeLessThan(0.5)
      expect(Math.abs(heading - (truth.camera.heading - CRATES.turn))).toBeLessThan(0.6)
      expect(rms).toBeLessThan(0.2)
    },
  )
  it('has its eye level by the height of the crates within 3 cm', () => {
    const { focal, heading, tilt, bank } = solve(1)
    const found = cameraAt(
      { ...DEFAULT_CAMERA, focalLength: focal, sensorWidth: truth.camera.sensorWidth, heading, pitch: tilt, bank },
      1,
    )
    const share = (p: [number, number]): { u: number; v: number } => {
      const [x, y] = straight(p)
      return { u: x / width, v: y / height }
    }
    const height1 = heightFromUpright(
      found,
      width / height,
      share(seen(w, 0, d)),
      share(seen(w, CRATES.tier * CRATES.tiers, d)),
      CRATES.tier * CRATES.tiers,
    )
    expect(Math.abs(height1 - truth.camera.y)).toBeLessThan(0.03)
  })
})
