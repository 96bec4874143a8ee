// Speed of what sees its neighbourhood at 1920x1080 on one thread, against OpenCV on one thread on the same picture.
import { execFileSync } from 'node:child_process'
import { appliedNode } from '../core/compose/treatments'
import type { EntryValue } from '../core/declare/field'
import { valuesAt } from '../core/declare/values'
import { boxOf, widthOf, heightOf } from '../core/engine/box'
import { ANY_CAMERA } from '../core/scene/scene'
import { scriptNode, type Node } from '../core/plan/node'
import { Runner } from '../core/plan/runner'
import { valueAt } from '../core/time/curve'
import { treatmentOf } from '../core/treatment/registry'
import { startEngine } from '../host/engine'
import type { Figure } from './figures'

/** Milliseconds of OpenCV (Debian's python3-opencv) for a line of Python, with a picture I of four channels. */
const opencv = (line: string, width: number, height: number): number =>
  Number(
    execFileSync('/usr/bin/python3', [
      '-c',
      `
import cv2, numpy as np, time
cv2.setNumThreads(1)
y, x = np.mgrid[0:${height}, 0:${width}].astype(np.float32)
I = np.stack([0.3 + 0.2 * np.sin(x / 7), 0.5 - 0.2 * np.sin(y / 5), 0.2 + 0.1 * np.sin(x / 9 + y / 4), x * 0 + 1], -1).astype(np.float32)
disc = lambda r: cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * r + 1, 2 * r + 1)).astype(np.float32) / (3.14159 * r * r)
times = []
for i in range(4):
    t = time.perf_counter(); ${line}; times.append(time.perf_counter() - t)
print(sorted(times[1:])[1] * 1000)`,
    ]).toString(),
  )

const FOCUS = { distance: 6, factor: 1, blades: 7, turn: 0, squeeze: 1, rim: 0, catsEye: 0 }
/** f-number at which what is far has a circle of that radius, pixels of a picture so wide. */
const fNumberFor = (radius: number, width: number): number => (35 * 35 * width) / 36 / (2 * radius * 6000)

const shown = (x: number, y: number, c: number): number =>
  c === 3 ? 1 : [0.3 + 0.2 * Math.sin(x / 7), 0.5 - 0.2 * Math.sin(y / 5), 0.2 + 0.1 * Math.sin(x / 9 + y / 4)][c]!
const DISC = {
  ...{ width: 32, height: 32, key: 'disc' },
  pixels: Float32Array.from({ length: 32 * 32 * 4 }, (_, i) =>
    Math.hypot(((i >> 2) % 32) - 15.5, (i >> 7) - 15.5) < 15.5 ? 1 : 0,
  ),
}

interface Case {
  name: string
  id: string
  values: (width: number) => Record<string, EntryValue>
  line: (width: number) => string
  widths?: readonly number[]
}
const plain = (name: string, id: string, values: Record<string, EntryValue>, line: string): Case => ({
  ...{ name, id, values: () => values, line: () => line },
})
const CASES: Case[] = [
  ...[0.25, 0.5, 1, 1.5, 3].map(share => ({
    name: `lens.focus.${share}`,
    id: 'focus',
    values: (width: number) => ({
      ...FOCUS,
      fNumber: fNumberFor((width * share) / 100, width),
      most: (width * share) / 100,
    }),
    line: (width: number) => `cv2.filter2D(I, -1, disc(${Math.round((width * share) / 100)}))`,
    widths: share === 1.5 ? [1920, 960] : [1920],
  })),
  plain('lens.box.20', 'box', { radius: 20 }, 'cv2.blur(I, (41, 41))'),
  plain('lens.median.3x3', 'median', { radius: 1 }, 'cv2.medianBlur(I, 3)'),
  plain('lens.median.5x5', 'median', { radius: 2 }, 'cv2.medianBlur(I, 5)'),
  plain('lens.bilateral', 'bilateral', { radius: 3, alike: 0.2 }, 'cv2.bilateralFilter(I[..., :3].copy(), 13, 0.1, 3)'),
  plain(
    'lens.nlm',
    'nlm',
    { alike: 0.05, search: 5, patch: 1 },
    'cv2.fastNlMeansDenoisingColored((I[..., :3] * 255).astype(np.uint8), None, 13, 13, 3, 11)',
  ),
  plain(
    'lens.warp',
    'move',
    { turn: 7, across: 1.1, down: 1.1 },
    'cv2.warpAffine(I, cv2.getRotationMatrix2D((960, 540), 7, 1.1), (1920, 1080), flags=cv2.INTER_LANCZOS4)',
  ),
  plain('lens.glow', 'glow', { amount: 0.3, threshold: 0, size: 40 }, 'cv2.GaussianBlur(I, (0, 0), 40)'),
  plain('lens.fog', 'fog', { half: 30, by: [1.1, 1, 0.9], thinning: 3, most: 0.9 }, 'cv2.exp(I)'),
  plain('lens.grain', 'grain', { amount: 0.04, size: 0.7 }, 'cv2.randn(I.copy(), 0, 1)'),
  plain('lens.stars', 'stars', { amount: 0.3, threshold: 0 }, 'cv2.GaussianBlur(I, (0, 0), 40)'),
  plain('lens.flare', 'flare', { amount: 0.3, threshold: 0 }, 'cv2.GaussianBlur(I, (0, 0), 40)'),
  plain('lens.halo', 'halo', { amount: 0.3, threshold: 0 }, 'cv2.GaussianBlur(I, (0, 0), 40)'),
  plain('lens.shaped.24', 'shaped', { size: 24 }, 'cv2.filter2D(I, -1, disc(12))'),
  plain('lens.hatch', 'hatch', { amount: 0.9, size: 5, length: 50 }, 'cv2.GaussianBlur(I, (0, 0), 40)'),
  plain('lens.motion_blur', 'motion_blur', { shutter: 180, from: -90, most: 60 }, 'cv2.GaussianBlur(I, (0, 0), 40)'),
  plain(
    'lens.degrain',
    'degrain',
    { amount: 0.1, search: 5, patch: 1, smoothing: 1.2 },
    'cv2.fastNlMeansDenoisingColored((I[..., :3] * 255).astype(np.uint8), None, 13, 13, 3, 11)',
  ),
  {
    name: 'lens.over_frames',
    id: 'over_frames',
    values: () => ({ amount: 0.1, search: 2, patch: 1, smoothing: 1.3, before: 2, after: 2 }),
    line: () =>
      'cv2.fastNlMeansDenoisingColoredMulti([(I[..., :3] * 255).astype(np.uint8)] * 5, 2, 5, None, 13, 13, 7, 21)',
    widths: [480],
  },
  plain('lens.kuwahara', 'kuwahara', { radius: 5 }, 'cv2.bilateralFilter(I[..., :3].copy(), 13, 0.1, 3)'),
]

export async function lensFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  const out: Figure[] = []
  if (!CASES.some(({ name }) => wanted(name))) return out
  const engine = await startEngine(1)
  const runner = new Runner(engine.pool, 2 ** 30)
  const pictures = new Map<string, Float32Array>()
  for (const { name, id, values, line, widths = [1920] } of CASES.filter(({ name }) => wanted(name)))
    for (const width of widths) {
      const height = (width * 9) / 16
      const window = boxOf(width, height)
      const made = (
        round: number,
        pixel: 'colour' | 'single',
        say: (x: number, y: number, c: number) => number,
        what: string = pixel,
      ): Node => {
        const floats = pixel === 'colour' ? 4 : 1
        const data = pictures.get(`${width} ${what}`) ?? new Float32Array(width * height * floats)
        if (!pictures.has(`${width} ${what}`)) {
          pictures.set(`${width} ${what}`, data)
          for (let i = 0; i < data.length; i++) {
            const at = Math.floor(i / floats)
            data[i] = say(at % width, Math.floor(at / width), i % floats)
          }
        }
        return scriptNode(['bench', name, width, what, round], pixel, window, (raster, _, kernels) =>
          kernels.floats(raster.pointer, widthOf(raster) * heightOf(raster) * floats).set(data),
        )
      }
      const treatment = treatmentOf(id)
      const times: number[] = []
      for (let round = 0; round < 4; round++) {
        const colour = made(round, 'colour', shown)
        // Ground that goes away, with columns on it at several distances, and sky
        const depth = made(round, 'single', (x, y) => {
          const column = Math.floor((x / width) * 23)
          const at = 2 + ((column * 7) % 13) * 1.7
          const ground = y > height * 0.55 ? (0.3 * height) / (y - height * 0.5) : 1e10
          return column % 3 === 0 && y > height * 0.2 && y < height * (0.5 + 0.3 / at) ? Math.min(at, ground) : ground
        })
        const motion = made(
          round,
          'colour',
          (x, _, c) => (c % 2 ? 0 : x % 90 < 40 ? 16 : -6) * (c < 2 ? 1 : -1),
          'motion',
        )
        const standing = {
          depth: () => depth,
          byDepth: (say: (depth: Node) => Node) => say(depth),
          motion: () => motion,
        }
        const picture = { colour, ...standing }
        const others = [0, 1, 2, 3].map(other => ({
          ...standing,
          colour: made(round * 10 + other + 100, 'colour', shown),
        }))
        const node = appliedNode(
          treatment,
          {
            ...{ ...picture, strength: 1, matte: undefined, width, height, frame: 1, shrink: 1 },
            ...{
              at: (other: number) => (other === 1 ? picture : others[((other % 4) + 4) % 4]!),
              camera: () => ANY_CAMERA,
            },
            ...{ lines: undefined, pass: () => undefined, small: () => DISC },
          },
          valuesAt(treatment.values, values(width), 1, valueAt),
        )
        // A picture of its own each time, so that nothing is there already; making that does not count, and neither does
        // memory that nobody has used yet: what the round before took is given back, as where a value is dragged
        runner.clear()
        await runner.run(colour, window)
        if (treatment.reads?.includes('depth')) await runner.run(depth, window)
        const begun = performance.now()
        await runner.run(node, window)
        times.push(performance.now() - begun)
      }
      const mine = times.slice(1).sort((a, b) => a - b)[1]!
      out.push({
        name: widths.length > 1 ? `${name}.at${width}` : name,
        value: mine,
        unit: 'ms',
        against: 'OpenCV, one thread',
        ratio: opencv(line(width), width, height) / mine,
      })
    }
  await engine.stop()
  return out
}
