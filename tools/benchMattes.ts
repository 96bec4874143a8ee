// Speed of mattes at 1920x1080 on one thread, against OpenCV on one thread where it has the same.
import { execFileSync } from 'node:child_process'
import { cutOut } from '../core/compose/mattes'
import { boxOf } from '../core/engine/box'
import { refinerOf } from '../core/matte/refine/registry'
import { scriptNode, type Node } from '../core/plan/node'
import { Runner } from '../core/plan/runner'
import { sized } from '../core/plan/size'
import type { Contour } from '../core/matte/drawn/contour'
import type { DrawnStroke } from '../core/matte/matte'
import { joined } from '../core/matte/join'
import { contourNode, strokesNode } from '../core/matte/drawn/node'
import { slipOf, valuedTerm } from '../core/shot/slip'
import { startEngine } from '../host/engine'
import { medianLater, type Figure } from './figures'

const WIDTH = 1920
const HEIGHT = 1080

/** Milliseconds of OpenCV (Debian's python3-opencv) for a line of Python, with a picture I, a matte P and a disc D(r). */
const opencv = (line: string): number =>
  Number(
    execFileSync('/usr/bin/python3', [
      '-c',
      `
import cv2, numpy as np, time
cv2.setNumThreads(1)
y, x = np.mgrid[0:${HEIGHT}, 0:${WIDTH}].astype(np.float32)
far = np.hypot(x - 960, y - 540)
P = np.clip((400 + 60 * np.sin(np.arctan2(y - 540, x - 960) * 9) - far) / 3, 0, 1).astype(np.float32)
I = np.stack([0.3 + 0.4 * P, 0.5 - 0.2 * P, 0.2 + 0.1 * np.sin(x / 9)], -1).astype(np.float32)
D = lambda r: cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * r + 1, 2 * r + 1))
times = []
for i in range(6):
    t = time.perf_counter(); ${line}; times.append(time.perf_counter() - t)
print(sorted(times[1:])[2] * 1000)`,
    ]).toString(),
  )

export async function matteFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  const out: Figure[] = []
  const names = [
    'matte.guided.8',
    'matte.guided.60',
    'matte.grow.5',
    'matte.grow.30',
    'matte.grow.120',
    'matte.key',
    'matte.shape',
    'matte.brush',
  ]
  if (!names.some(wanted)) return out
  const engine = await startEngine(1)
  const runner = new Runner(engine.pool, 2 ** 30)
  const size = sized({ width: WIDTH, height: HEIGHT, left: 0, top: 0 }, 1)
  const area = boxOf(WIDTH, HEIGHT)
  let round = 0
  const made = (pixel: 'colour' | 'single', fill: (data: Float32Array) => void): Node =>
    scriptNode(['bench', pixel], pixel, area, (to, _, kernels) =>
      fill(kernels.floats(to.pointer, WIDTH * HEIGHT * (pixel === 'colour' ? 4 : 1))),
    )
  const shape = (i: number): number => {
    const [dx, dy] = [(i % WIDTH) - 960, Math.floor(i / WIDTH) - 540]
    return Math.min(1, Math.max(0, (400 + 60 * Math.sin(Math.atan2(dy, dx) * 9) - Math.hypot(dx, dy)) / 3))
  }
  const matte = made('single', data => data.forEach((_, i) => (data[i] = shape(i))))
  const picture = made('colour', data => {
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      const share = shape(i)
      data.set([0.05 + 0.35 * share, 0.45 - 0.25 * share, 0.08 + 0.1 * share, 1], i * 4)
    }
  })
  await runner.run(matte, area)
  await runner.run(picture, area)
  // What is dragged is laid where the picture before it was: fresh memory costs as much as a simple shape
  const dragging = new Runner(engine.pool, 5 * WIDTH * HEIGHT * 4)
  const figure = async (name: string, make: (by: number) => Node, line: string, on = runner): Promise<void> => {
    if (!wanted(name)) return
    // A little more or less each time, so that nothing is there already
    const mine = await medianLater(on === dragging ? 25 : 5, () => on.run(make(round++ * 1e-6), area))
    out.push({ name, value: mine, unit: 'ms', against: 'OpenCV, one thread', ratio: opencv(line) / mine })
  }
  const refined = (id: string, values: (by: number) => Record<string, number>) => (by: number) =>
    refinerOf(id).plan({ matte, picture, width: WIDTH, height: HEIGHT }, values(by) as never)
  for (const radius of [8, 60])
    await figure(
      `matte.guided.${radius}`,
      refined('follow', by => ({ radius, smooth: 0.05 + by })),
      `cv2.ximgproc.guidedFilter(I, P, ${radius}, 0.0025)`,
    )
  for (const pixels of [5, 30, 120])
    await figure(
      `matte.grow.${pixels}`,
      refined('grow', by => ({ pixels: pixels + by })),
      `cv2.dilate(P, D(${pixels}))`,
    )
  // A star of 100 points with an edge soft over 12 pixels, all of it made anew each time
  const star = (by: number): Contour => ({
    closed: true,
    points: Array.from({ length: 100 }, (_, i) => {
      const angle = (i / 100) * 2 * Math.PI
      const far = 330 + 130 * Math.sin(angle * 9) + by
      const along = 9
      const handle = [-Math.sin(angle) * along, Math.cos(angle) * along] as const
      const [outX, outY] = handle
      const place = { x: 960 + far * Math.cos(angle), y: 540 + far * Math.sin(angle) }
      return { ...place, inX: -outX, inY: -outY, outX, outY, radius: 0, outer: 6, inner: 6 }
    }),
  })
  const SOFT =
    'M = np.zeros((1080, 1920), np.uint8); cv2.fillPoly(M, [Q], 255, cv2.LINE_AA); cv2.GaussianBlur(M.astype(np.float32), (0, 0), 4)'
  const points =
    'A = np.arange(3000) / 3000 * 2 * np.pi; F = 330 + 130 * np.sin(A * 9); Q = np.stack([960 + F * np.cos(A), 540 + F * np.sin(A)], -1).astype(np.int32); '
  await figure('matte.shape', by => contourNode(star(by), area), points + SOFT, dragging)
  // A dab on the picture: one more place of a stroke after 40 others of 25 places each
  const stroke = (i: number, by: number): Contour => ({
    closed: false,
    points: Array.from({ length: 25 }, (_, k) => {
      const corner = { inX: 0, inY: 0, outX: 0, outY: 0, outer: 0 }
      return { x: 100 + k * 65 + by, y: 60 + i * 24 + 30 * Math.sin(k), ...corner, radius: 30, inner: 15 }
    }),
  })
  const drawn = (contour: Contour, takes = false): DrawnStroke => ({
    name: JSON.stringify(contour),
    contour: () => contour,
    flow: 0.6,
    takes,
  })
  const before = strokesNode(
    Array.from({ length: 40 }, (_, i) => drawn(stroke(i, 0), i % 5 === 4)),
    area,
  )
  if (wanted('matte.brush')) await dragging.run(before, area)
  await figure(
    'matte.brush',
    by => joined(before, strokesNode([drawn(stroke(40, by))], area), 'also'),
    'M = np.zeros((1080, 1920), np.float32); [cv2.circle(M, (100 + k * 13, 560), 30, 0.6, -1) for k in range(125)]; cv2.max(M, P)',
    dragging,
  )
  if (wanted('matte.key')) {
    const by = { frame: 1, size, passes: undefined, relative: false, mattes: {} }
    const whole = { colour: picture, depth: (): Node => picture, byDepth: (): Node => picture }
    const keyed = (): Node => {
      const term = valuedTerm('key', { width: WIDTH, height: HEIGHT })
      const screen = [0.05, 0.45 + round++ * 1e-6, 0.08]
      return cutOut(slipOf({ ...term, values: { ...term.values, screen } }), whole, by)!.colour
    }
    const mine = await medianLater(3, () => runner.run(keyed(), area))
    out.push({
      name: 'matte.key',
      value: mine,
      unit: 'ms',
      against: 'a threshold of hue softened by OpenCV, one thread',
      ratio:
        opencv(
          'H = cv2.cvtColor(I, cv2.COLOR_RGB2HSV); cv2.GaussianBlur(((np.abs(H[..., 0] - 120) < 25)).astype(np.float32), (0, 0), 1)',
        ) / mine,
    })
  }
  runner.clear()
  dragging.clear()
  engine.stop()
  return out
}
