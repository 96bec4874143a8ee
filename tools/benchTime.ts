// Speed of what moves: importing, evaluating and matching; the browser's part (frames on screen) is in benchPage.mjs.
import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Evaluator } from '../core/compose/evaluate'
import { displayCodes } from '../core/compose/deliver'
import { solveLines, type DrawnLine } from '../core/match/lines'
import { solvePoints, type KnownPoint } from '../core/match/points'
import { project } from '../core/match/project'
import { rotationOf } from '../core/match/rotation'
import type { Vector3 } from '../core/scene/vector'
import { DEFAULT_CAMERA, newDocument } from '../core/shot/document'
import { bringPlate } from '../core/shot/bring'
import { cameraAt } from '../core/shot/scene'
import { BlobStore } from '../host/blobs'
import { checkClip, clipOfVideo } from '../host/clips'
import { startEngine } from '../host/engine'
import { middle, type Figure } from './figures'

async function timed(work: () => unknown): Promise<number> {
  const start = performance.now()
  await work()
  return performance.now() - start
}

/** A clip of 1920x1080, coded once. */
export function madeClip(folder: string, frames = 48): string {
  const path = join(folder, 'clip.mp4')
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    `testsrc2=size=1920x1080:rate=24:duration=${frames / 24}`,
    '-vf',
    'noise=alls=6:allf=t',
    '-c:v',
    'libx264',
    '-preset',
    'fast',
    '-pix_fmt',
    'yuv420p',
    path,
  ])
  return path
}

async function clips(wanted: (name: string) => boolean): Promise<Figure[]> {
  if (!wanted('clip.import') && !wanted('clip.half')) return []
  const folder = mkdtempSync(join(tmpdir(), 'northmist-bench-'))
  const out: Figure[] = []
  try {
    const path = madeClip(folder)
    const plain: number[] = []
    const ours: number[] = []
    const store = new BlobStore(join(folder, 'store'))
    const report = { progress: () => {}, cancelled: () => false }
    const blob = await store.put(new Uint8Array(await import('node:fs').then(fs => fs.readFileSync(path))))
    let clip = await clipOfVideo(store, blob, 'clip.mp4')
    if (wanted('clip.import')) {
      for (let i = 0; i < 3; i++) {
        const frames = join(folder, `frames${i}`)
        mkdirSync(frames)
        plain.push(
          await timed(() =>
            execFileSync('ffmpeg', [
              '-v',
              'error',
              '-i',
              path,
              '-map',
              '0:v:0',
              '-vf',
              'scale=in_color_matrix=bt709:flags=accurate_rnd+full_chroma_int+bicubic,format=rgb48be',
              '-compression_level',
              '1',
              join(frames, '%06d.png'),
            ]),
          ),
        )
        rmSync(frames, { recursive: true })
        const fresh = new BlobStore(join(folder, `store${i}`))
        const own = await fresh.put(new Uint8Array(await store.get(blob)))
        ours.push(
          await timed(async () => {
            clip = await clipOfVideo(fresh, own, 'clip.mp4')
            await checkClip(fresh, clip, {}, report)
          }),
        )
        rmSync(join(folder, `store${i}`), { recursive: true })
      }
      out.push({
        name: 'clip.import',
        value: middle(ours),
        unit: 'ms',
        against: 'ffmpeg decoding to the frames as 16-bit PNG',
        ratio: middle(plain) / middle(ours),
      })
    }
    if (wanted('clip.half')) {
      const engine = await startEngine(2)
      const document = newDocument()
      clip = await clipOfVideo(store, blob, 'clip.mp4')
      await checkClip(store, clip, {}, report)
      bringPlate(document, clip)
      const evaluator = new Evaluator(engine.pool, name => store.get(name))
      const times: number[] = []
      for (let frame = 1; frame <= 40; frame++)
        times.push(
          await timed(async () =>
            displayCodes(
              engine.pool,
              await evaluator.evaluate({ document, frame, shrink: 2, show: { kind: 'plate' }, small: true }),
              document.view,
            ),
          ),
        )
      engine.stop()
      out.push({
        name: 'clip.half',
        value: 1000 / middle(times),
        unit: 'frames/s',
        against:
          '24 frames a second, each read from its small picture and built for the first time (by the package that reads JPEG here; the browser has its own)',
        ratio: 1000 / middle(times) / 24,
      })
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  return out
}

function cameras(wanted: (name: string) => boolean): Figure[] {
  const camera = cameraAt({ ...DEFAULT_CAMERA, heading: 30, pitch: -8, bank: 1 }, 1)
  const width = 1920
  const height = 1080
  const out: Figure[] = []
  const seen = (p: Vector3): [number, number] => {
    const { u, v } = project(camera, width / height, p)
    return [u * width, v * height]
  }
  const once = (name: string, work: () => void): void => {
    const times: number[] = []
    for (let i = 0; i < 11; i++) {
      const start = performance.now()
      work()
      times.push(performance.now() - start)
    }
    out.push({ name, value: middle(times), unit: 'ms', against: 'aim of 50 ms', ratio: 50 / middle(times) })
  }
  const lines: DrawnLine[] = (
    [
      ['x', [-3, 0, -6]],
      ['x', [-3, 1, -8]],
      ['x', [-5, 2, -9]],
      ['z', [-3, 0, -6]],
      ['z', [-1, 0, -6]],
      ['z', [-4, 2, -7]],
      ['y', [-3, 0, -6]],
      ['y', [-1, 0, -7]],
    ] as [DrawnLine['axis'], Vector3][]
  ).map(([axis, from], i) => {
    const to = [...from] as Vector3
    to[axis === 'x' ? 0 : axis === 'y' ? 1 : 2] += 1.5
    const jitter = (k: number): number => Math.sin(i * 12.9 + k * 4.1)
    return {
      axis,
      from: seen(from).map((value, k) => value + jitter(k)) as [number, number],
      to: seen(to).map((value, k) => value + jitter(k + 2)) as [number, number],
    }
  })
  if (wanted('match.lines'))
    once('match.lines', () => {
      solveLines(lines, { width, height, near: rotationOf(camera.matrix) })
    })
  const points: KnownPoint[] = Array.from({ length: 12 }, (_, i) => {
    const world: Vector3 = [-4 + Math.sin(i * 2.1) * 2, 1 + Math.cos(i * 1.3), -7 + Math.sin(i * 3.7) * 2]
    return { world, pixel: seen(world).map((value, k) => value + Math.sin(i * 7 + k) * 0.7) as [number, number] }
  })
  if (wanted('match.points'))
    once('match.points', () => {
      solvePoints(points, { width, height, focal: (35 / 36) * width, near: rotationOf(camera.matrix) })
    })
  if (wanted('match.points.focal'))
    once('match.points.focal', () => {
      solvePoints(points, { width, height, near: rotationOf(camera.matrix) })
    })
  return out
}

export const timeFigures = async (wanted: (name: string) => boolean): Promise<Figure[]> => [
  ...(await clips(wanted)),
  ...cameras(wanted),
]
