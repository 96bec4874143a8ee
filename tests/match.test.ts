// Solving cameras on synthetic pictures: what was put in must come out.
import { addRow, rowsOf } from '../core/shot/rows'
import { describe, expect, it } from 'vitest'
import { solveLines, type Axis, type DrawnLine } from '../core/match/lines'
import { project, rayThrough } from '../core/match/project'
import { heightFromLength, heightFromUpright, poleLine } from '../core/match/scale'
import { matrixOf, rotationOf, turned } from '../core/match/rotation'
import { degreesFromRotation, type Vector3 } from '../core/scene/vector'
import { cameraAt } from '../core/shot/scene'
import { identifier, DEFAULT_CAMERA, newDocument, type MatchLine } from '../core/shot/document'
import { matchLines, noMatch } from '../core/shot/match'

const WIDTH = 1800
const HEIGHT = 1200
let seed = 1
const random = (): number => {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
  return seed / 4294967296
}
const gauss = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
const cameraOf = (heading: number, pitch: number, bank: number, focalLength: number) =>
  cameraAt({ ...DEFAULT_CAMERA, heading, pitch, bank, focalLength, y: 1.7 }, 1)
const pixelOf = (camera: ReturnType<typeof cameraOf>, p: Vector3): [number, number] => {
  const { u, v } = project(camera, WIDTH / HEIGHT, p)
  return [u * WIDTH, v * HEIGHT]
}

/** Edges of boxes about, along the axes asked for, with noise at their ends. */
function edges(camera: ReturnType<typeof cameraOf>, axes: Axis[], each: number, noise = 0): DrawnLine[] {
  const out: DrawnLine[] = []
  const m = camera.matrix
  while (axes.some(axis => out.filter(line => line.axis === axis).length < each)) {
    const distance = 4 + random() * 8
    const side = (random() - 0.5) * distance
    const up = (random() - 0.5) * distance * 0.7
    const start = [0, 1, 2].map(k => m[12 + k]! - m[8 + k]! * distance + m[k]! * side + m[4 + k]! * up) as Vector3
    const axis = axes[Math.floor(random() * axes.length)]!
    const end = [...start] as Vector3
    end['xyz'.indexOf(axis)]! += 1.5 + random() * 2
    const a = project(camera, WIDTH / HEIGHT, start)
    const b = project(camera, WIDTH / HEIGHT, end)
    if (
      ![a, b].every(p => p.metres > 1 && p.u > 0.02 && p.u < 0.98 && p.v > 0.02 && p.v < 0.98) ||
      out.filter(line => line.axis === axis).length >= each
    )
      continue
    const from = pixelOf(camera, start)
    const to = pixelOf(camera, end)
    if (Math.hypot(from[0] - to[0], from[1] - to[1]) < 120) continue
    out.push({
      axis,
      from: [from[0] + gauss() * noise, from[1] + gauss() * noise],
      to: [to[0] + gauss() * noise, to[1] + gauss() * noise],
    })
  }
  return out
}
const anglesOf = (rotation: Parameters<typeof matrixOf>[0]): number[] => {
  const { heading, tilt, bank } = degreesFromRotation(matrixOf(rotation, [0, 0, 0]))
  return [heading, tilt, bank]
}

describe('a camera from lines', () => {
  const cases: [number, number, number, number][] = [
    [35, -6, 0.5, 35],
    [-50, -12, -2, 24],
    [20, 4, 1, 50],
    [60, -25, 3, 28],
    [-30, -3, 0, 85],
  ]
  it.each(cases)('heading %d, pitch %d, bank %d, %d mm: exact lines give it back', (heading, pitch, bank, focal) => {
    const camera = cameraOf(heading, pitch, bank, focal)
    const truth = (focal / 36) * WIDTH
    for (const axes of [
      ['x', 'z'],
      ['x', 'y', 'z'],
      ['y', 'x'],
    ] as Axis[][]) {
      const near = rotationOf(cameraOf(heading + 25, 0, 0, 35).matrix)
      const solved = solveLines(edges(camera, axes, 3), { width: WIDTH, height: HEIGHT, near })
      expect(solved.focal / truth, axes.join()).toBeCloseTo(1, 6)
      anglesOf(solved.rotation).forEach((angle, i) => expect(angle).toBeCloseTo([heading, pitch, bank][i]!, 5))
      expect(solved.rms).toBeLessThan(1e-6)
    }
  })
  it('with a pixel of noise the mean of many comes within 1 % and a fifth of a degree; errors say the noise', () => {
    const camera = cameraOf(35, -8, 1, 35)
    const truth = (35 / 36) * WIDTH
    const all = Array.from({ length: 40 }, () =>
      solveLines(edges(camera, ['x', 'y', 'z'], 6, 1), {
        width: WIDTH,
        height: HEIGHT,
        near: rotationOf(cameraOf(20, 0, 0, 35).matrix),
      }),
    )
    const mean = (pick: (solution: (typeof all)[number]) => number): number =>
      all.reduce((sum, solution) => sum + pick(solution), 0) / all.length
    expect(Math.abs(mean(solution => solution.focal) / truth - 1)).toBeLessThan(0.01)
    anglesOf(all[0]!.rotation).forEach((_, i) =>
      expect(Math.abs(mean(solution => anglesOf(solution.rotation)[i]!) - [35, -8, 1][i]!)).toBeLessThan(0.2),
    )
    // Of a line of two noisy ends the half difference remains: sigma / sqrt 2, less what the fit takes up
    expect(mean(solution => solution.rms)).toBeGreaterThan(0.4)
    expect(mean(solution => solution.rms)).toBeLessThan(0.75)
  })
  it('a line of a wrong edge stands out', () => {
    const camera = cameraOf(35, -8, 1, 35)
    const lines = edges(camera, ['x', 'z'], 6, 0.3)
    const wrong = lines[2]!
    wrong.to = [wrong.to[0] + 30, wrong.to[1] - 30]
    const { errors } = solveLines(lines, { width: WIDTH, height: HEIGHT, near: rotationOf(camera.matrix) })
    expect(errors.indexOf(errors.reduce((worst, error) => (error.pixels > worst.pixels ? error : worst)))).toBe(2)
  })
  it('three directions give the optical centre too', () => {
    const camera = { ...cameraOf(40, -20, 2, 28), shiftX: 0, shiftY: 0 }
    const lines = edges(camera, ['x', 'y', 'z'], 4).map(line => ({
      ...line,
      from: [line.from[0] + 60, line.from[1] - 35] as [number, number],
      to: [line.to[0] + 60, line.to[1] - 35] as [number, number],
    }))
    const solved = solveLines(lines, { width: WIDTH, height: HEIGHT, centre: true, near: rotationOf(camera.matrix) })
    expect(solved.centre[0]).toBeCloseTo(WIDTH / 2 + 60, 2)
    expect(solved.centre[1]).toBeCloseTo(HEIGHT / 2 - 35, 2)
    expect(solved.focal / ((28 / 36) * WIDTH)).toBeCloseTo(1, 5)
  })
  it('one direction is enough when the focal length is known: uprights give pitch and bank, level edges heading and pitch', () => {
    const camera = cameraOf(30, -9, 2, 35)
    const focal = (35 / 36) * WIDTH
    const upright = solveLines(edges(camera, ['y'], 4), {
      width: WIDTH,
      height: HEIGHT,
      focal,
      near: rotationOf(cameraOf(30, 0, 0, 35).matrix),
    })
    anglesOf(upright.rotation)
      .slice(1)
      .forEach((angle, i) => expect(angle).toBeCloseTo([-9, 2][i]!, 4))
    const level = cameraOf(30, -9, 0, 35)
    const solved = solveLines(edges(level, ['z'], 4), {
      width: WIDTH,
      height: HEIGHT,
      focal,
      near: rotationOf(cameraOf(10, 0, 0, 35).matrix),
    })
    anglesOf(solved.rotation).forEach((angle, i) => expect(angle).toBeCloseTo([30, -9, 0][i]!, 3))
  })
  it('where lines leave a choice the attitude at hand decides', () => {
    const camera = cameraOf(130, -8, 1, 35)
    const lines = edges(camera, ['x', 'z'], 4)
    const there = solveLines(lines, { width: WIDTH, height: HEIGHT, near: rotationOf(cameraOf(120, 0, 0, 35).matrix) })
    expect(anglesOf(there.rotation)[0]).toBeCloseTo(130, 4)
    const turn = turned(rotationOf(camera.matrix), [0.05, 0.1, 0.02])
    expect(anglesOf(solveLines(lines, { width: WIDTH, height: HEIGHT, near: turn }).rotation)[0]).toBeCloseTo(130, 4)
  })
  it('too few lines, parallel ones and those that cannot be are refused, each with a sentence', () => {
    const near = rotationOf(cameraOf(0, 0, 0, 35).matrix)
    const options = { width: WIDTH, height: HEIGHT, near }
    const line = (axis: Axis, ...ends: number[]): DrawnLine => ({
      axis,
      from: [ends[0]!, ends[1]!],
      to: [ends[2]!, ends[3]!],
    })
    expect(() => solveLines([line('x', 0, 0, 100, 10)], options)).toThrow(/Two lines at least/)
    expect(() => solveLines([line('x', 0, 0, 100, 10), line('x', 0, 100, 100, 90)], options)).toThrow(
      /One direction alone/,
    )
    expect(() => solveLines([line('x', 0, 0, 1, 0), line('x', 0, 100, 100, 90)], options)).toThrow(
      /shorter than two pixels/,
    )
    expect(() =>
      solveLines(
        [
          line('x', 100, 100, 800, 100),
          line('x', 100, 600, 800, 600),
          line('y', 100, 100, 100, 900),
          line('y', 700, 100, 700, 900),
        ],
        options,
      ),
    ).toThrow(/nearly parallel/)
    expect(() =>
      solveLines(
        [
          line('x', 900, 600, 1200, 500),
          line('x', 900, 700, 1200, 560),
          line('z', 900, 500, 1300, 420),
          line('z', 900, 650, 1300, 470),
        ],
        options,
      ),
    ).toThrow(/right angles/)
    expect(() => solveLines(edges(cameraOf(30, -5, 0, 35), ['x', 'z'], 3), { ...options, centre: true })).toThrow(
      /all three directions/,
    )
  })
})

describe('scale from what is known', () => {
  const camera = cameraOf(20, -10, 1, 35)
  const aspect = WIDTH / HEIGHT
  const at = (p: Vector3) => project(camera, aspect, p)
  it('a length on the ground, wherever it lies', () => {
    for (const [a, b] of [
      [
        [-1, 0, -6],
        [1.5, 0, -6],
      ],
      [
        [-3, 0, -9],
        [-2, 0, -5],
      ],
    ] as [Vector3, Vector3][])
      expect(heightFromLength(camera, aspect, at(a), at(b), Math.hypot(a[0] - b[0], a[2] - b[2]))).toBeCloseTo(1.7, 9)
  })
  it('something upright, shorter or taller than the eye', () => {
    for (const tall of [0.4, 1.7, 3.2])
      expect(heightFromUpright(camera, aspect, at([-2, 0, -6]), at([-2, tall, -6]), tall)).toBeCloseTo(1.7, 9)
  })
  it('what is not on the ground, or of no size, is refused', () => {
    expect(() => heightFromLength(camera, aspect, { u: 0.5, v: 0.01 }, at([0, 0, -5]), 2)).toThrow(/horizon/)
    expect(() => heightFromLength(camera, aspect, at([0, 0, -5]), at([0, 0, -5]), 2)).toThrow(/Two different/)
    expect(() => heightFromUpright(camera, aspect, at([0, 0, -5]), at([0, 0, -3]), 2)).toThrow(/above/)
  })
  it('heads of poles of eye height lie on the horizon, however far (common practice, no source)', () => {
    const level = cameraOf(20, 0, 0, 35)
    for (const away of [3, 8, 40]) expect(poleLine(level, aspect, -away * 0.4, -away, 1.7)!.head.v).toBeCloseTo(0.5, 9)
    expect(poleLine(level, aspect, 0, 5, 1.7)).toBeUndefined()
  })
})

it('the demo’s plate is solved from its own lines and agrees with its true camera', () => {
  // Joints of the quay and uprights of the house as its camera sees them; drawn to a quarter of a pixel
  const truth = { ...DEFAULT_CAMERA, y: 1.62, pitch: -2.1, bank: 0.5 }
  const camera = cameraAt(truth, 1)
  const document = newDocument(1200, 800)
  document.scene.camera = { ...truth, pitch: 0, bank: 0, focalLength: 50 }
  const line = (axis: Axis, a: Vector3, b: Vector3): void => {
    const p = project(camera, 1.5, a)
    const q = project(camera, 1.5, b)
    addRow((document.match ??= noMatch()).lines, {
      id: identifier(),
      axis,
      from: [p.u * 1200 + gauss() * 0.25, p.v * 800 + gauss() * 0.25],
      to: [q.u * 1200 + gauss() * 0.25, q.v * 800 + gauss() * 0.25],
    })
  }
  for (const x of [-1.5, 0.4, 1.6]) line('z', [x, 0, -4.5], [x, 0, -9])
  for (const x of [1.2, 3.1]) line('y', [x, 0.7, -7], [x, 2.9, -7])
  const { camera: found } = matchLines(document, 1)
  expect(Math.abs(Number(found.pitch) + 2.1)).toBeLessThan(0.15)
  expect(Math.abs(Number(found.bank) - 0.5)).toBeLessThan(0.15)
  expect(Math.abs(Number(found.heading))).toBeLessThan(0.3)
  // Uprights seen from almost level vanish far away: focal length from them is loose, and said as solved all the same
  expect(Number(found.focalLength)).toBeGreaterThan(20)
  document.match!.focal = 'keep'
  document.scene.camera.focalLength = 35
  expect(matchLines(document, 1).camera.focalLength).toBe(35)
})

describe('the optical centre off the middle', () => {
  const shifted = cameraAt({ ...DEFAULT_CAMERA, heading: 32, pitch: -7, bank: 1.5, shiftX: 0.12, shiftY: -0.08 }, 1)
  const width = 1500
  const height = 1000
  it('places and rays agree, and the axis meets the picture there', () => {
    const axis = project(
      shifted,
      1.5,
      [0, 1, 2].map(k => shifted.matrix[12 + k]! - shifted.matrix[8 + k]! * 5) as [number, number, number],
    )
    expect([axis.u, axis.v]).toEqual([expect.closeTo(0.44, 9), expect.closeTo(0.46, 9)])
    const p: [number, number, number] = [-3, 0, -7]
    const { u, v } = project(shifted, 1.5, p)
    const d = rayThrough(shifted, 1.5, u, v)
    const far = Math.hypot(...p.map((value, k) => value - shifted.matrix[12 + k]!))
    p.forEach((value, k) => expect(shifted.matrix[12 + k]! + d[k]! * far).toBeCloseTo(value, 9))
  })
  it('comes out of lines along three directions, with the focal length, into the camera', () => {
    const document = newDocument(width, height)
    document.scene.camera = { ...DEFAULT_CAMERA, heading: 25 }
    const line = (axis: 'x' | 'y' | 'z', start: [number, number, number], length: number, i: number) => {
      const end = [...start] as [number, number, number]
      end['xyz'.indexOf(axis)]! += length
      const at = (p: [number, number, number]): [number, number] => {
        const { u, v } = project(shifted, 1.5, p)
        return [u * width, v * height]
      }
      return { id: String(i), axis, from: at(start), to: at(end) }
    }
    document.match = {
      lines: rowsOf<MatchLine>([
        line('x', [-6, 0, -6], 3, 1),
        line('x', [-6, 2, -8], 3, 2),
        line('z', [-5, 0, -5], -3, 3),
        line('z', [-3, 2, -5], -4, 4),
        line('y', [-5, 0, -6], 2, 5),
        line('y', [-3, 0, -5], 2, 6),
      ]),
      focal: 'solve',
      poles: {},
      centre: true,
    }
    const { camera } = matchLines(document, 1)
    expect(Number(camera.focalLength)).toBeCloseTo(35, 1)
    expect([Number(camera.shiftX), Number(camera.shiftY)]).toEqual([expect.closeTo(0.12, 2), expect.closeTo(-0.08, 2)])
    for (const id of ['5', '6']) delete document.match.lines[id]
    expect(() => matchLines(document, 1)).toThrow(/all three directions/)
  })
})
