// The footage and elements of the survey balloon: rendered or drawn frame by frame, coded by ffmpeg.
import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { encodingOf } from '../core/colour/encoding'
import { compileScene } from '../core/render/compile'
import { beautyOf, type RenderedPasses } from '../core/render/planes'
import { Render } from '../core/render/render'
import type { Camera, Scene } from '../core/scene/scene'
import type { Vector3 } from '../core/scene/vector'
import { rayThrough } from '../core/match/project'
import { cameraAt } from '../core/shot/scene'
import { wander } from '../core/engine/wander'
import { perSecond } from '../core/time/rate'
import type { Engine } from '../host/engine'
import { photograph } from './lens'
import { fractal, random, smooth } from './noise'
import { fogColour, shoreMaker, SURVEY, surveyCamera, throughFog } from './shore'

const FPS = perSecond(SURVEY.rate)
/** Frames of raw pixels through ffmpeg into a file. */
async function coded(
  path: string,
  width: number,
  height: number,
  pixels: string,
  args: string[],
  frames: (i: number) => Uint8Array,
): Promise<void> {
  const child = spawn(
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      '-f',
      'rawvideo',
      '-pix_fmt',
      pixels,
      '-s',
      `${width}x${height}`,
      '-r',
      `${SURVEY.rate.numerator}/${SURVEY.rate.denominator}`,
      '-i',
      '-',
      ...args,
      path,
    ],
    { stdio: ['pipe', 'inherit', 'inherit'] },
  )
  const ended = new Promise<void>((resolve, reject) => {
    child.on('error', reject)
    child.on('close', code => (code === 0 ? resolve() : reject(new Error(`ffmpeg ended with ${code}`))))
  })
  for (let i = 0; i < SURVEY.frames; i++) {
    if (!child.stdin.write(frames(i))) await new Promise(resolve => child.stdin.once('drain', resolve))
    process.stdout.write(`\r${path.split('/').at(-1)} ${i + 1} `)
  }
  child.stdin.end()
  await ended
  console.log()
}
const H264 = (quality: number): string[] => [
  '-c:v',
  'libx264',
  '-preset',
  'slow',
  '-crf',
  String(quality),
  '-pix_fmt',
  'yuv420p',
  '-vf',
  'scale=out_color_matrix=bt709:out_range=tv',
  '-color_primaries',
  'bt709',
  '-color_trc',
  'bt709',
  '-colorspace',
  'bt709',
  '-movflags',
  '+faststart',
]

export const cameraOf = (i: number): Camera => cameraAt({ ...surveyCamera(i), sensorWidth: SURVEY.sensorWidth }, 1)

function trace(engine: Engine, scene: Scene, camera: Camera, samples: number, seed: number): RenderedPasses {
  const compiled = compileScene(engine.kernels, scene)
  const { width, height } = SURVEY
  const render = new Render(engine.pool, compiled, {
    width,
    height,
    samples,
    seed,
    camera,
    passes: ['beauty', 'alpha', 'depth'],
    seeEnvironment: scene.environment?.seenByCamera,
    clampIndirect: 4,
    maxBounces: 3,
  })
  while (!render.done) render.step(8)
  const passes = render.snapshot()
  render.dispose()
  compiled.dispose()
  return passes
}

/** The footage: shore and sea, fog by distance, lens, grain. */
export async function makeFootage(engine: Engine, path: string, quick: number): Promise<void> {
  const shore = shoreMaker()
  const { width, height } = SURVEY
  const encode = encodingOf('rec709').encode!
  await coded(path, width, height, 'rgb24', [...H264(18), '-timecode', '10:20:00:00'], i => {
    const camera = cameraOf(i)
    const passes = trace(engine, shore(i), camera, Math.max(4, Math.round(24 / quick)), 1 + i)
    const light = beautyOf(passes)
    const eye: Vector3 = [camera.matrix[12]!, camera.matrix[13]!, camera.matrix[14]!]
    const back: Vector3 = [camera.matrix[8]!, camera.matrix[9]!, camera.matrix[10]!]
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const k = y * width + x
        const d = rayThrough(camera, width / height, (x + 0.5) / width, (y + 0.5) / height)
        const along = -(d[0] * back[0] + d[1] * back[1] + d[2] * back[2])
        const clear = throughFog(eye, d, passes.depth[k]! > 1e9 ? 1e10 : passes.depth[k]! / along, i / FPS)
        // Soft edges of near things: their share only
        for (let c = 0; c < 3; c++) light[k * 3 + c] = light[k * 3 + c]! * clear + fogColour[c]! * (1 - clear)
      }
    }
    const seen = photograph(width, height, light, { k1: 0, vignette: 0.2, cornerBlur: 0.9, grain: 0.008 }, 100 + i)
    const out = new Uint8Array(width * height * 3)
    for (let k = 0; k < out.length; k++) out[k] = Math.round(Math.min(1, encode(soft(seen[k]! * 1.05))) * 255)
    return out
  })
}
/** Bright haze keeps its tones below white. */
const soft = (value: number): number => (value < 0.6 ? value : 0.6 + 0.4 * (1 - Math.exp(-(value - 0.6) / 0.4)))

interface Puff {
  x: number
  y: number
  size: number
  light: number
}
/** Soft round puffs added up, with a mottle, on black. */
function drawn(
  width: number,
  height: number,
  puffs: Puff[],
  tint: readonly [number, number, number],
  time: number,
  mottle: number,
): Uint8Array {
  const light = new Float32Array(width * height)
  const encode = encodingOf('rec709').encode!
  for (const { x, y, size, light: own } of puffs) {
    const reach = size * 2.4
    for (let py = Math.max(0, Math.floor(y - reach)); py < Math.min(height, y + reach); py++)
      for (let px = Math.max(0, Math.floor(x - reach)); px < Math.min(width, x + reach); px++)
        light[py * width + px]! += own * Math.exp(-((px - x) ** 2 + (py - y) ** 2) / (size * size))
  }
  const out = new Uint8Array(width * height * 3)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x
      const warp = (fractal(x / 46, y / 46 + time * 0.7, 3, 3) - 0.5) * 34
      const speck = Math.max(
        0,
        1 + mottle * (fractal((x + warp) / 19 - time * 0.8, (y + warp * 0.6) / 19 + time * 1.9, 5, 11) - 0.5) * 4.4,
      )
      // Nothing is cut off by the frame
      const fade =
        smooth(0, 0.08, x / width) *
        smooth(0, 0.08, 1 - x / width) *
        smooth(0, 0.06, y / height) *
        smooth(0.02, 0.12, 1 - y / height)
      for (let c = 0; c < 3; c++)
        out[i * 3 + c] = Math.round(Math.min(1, encode(Math.max(0, light[i]! * speck * tint[c]! * fade))) * 255)
    }
  }
  return out
}

/** Spray of a breaking wave: thrown up, hanging, falling; it begins on frame 6 and is gone by 40. */
export async function makeSpray(path: string): Promise<void> {
  const width = 320
  const height = 240
  const next = random(5)
  const drops = Array.from({ length: 2600 }, () => {
    const side = (next() - 0.5) * 2
    const up = next()
    return {
      start: (5 + next() * 9) / FPS,
      x: width / 2 + side * 34 + (next() - 0.5) * 12,
      vx: side * 52 + (next() - 0.5) * 30,
      vy: -(60 + up ** 1.6 * 400) * (1 - Math.abs(side) ** 1.5 * 0.7) * (0.7 + 0.5 * fractal(side * 3 + 9, 1, 3, 4)),
      size: 0.7 + next() ** 5 * 6,
      light: 0.04 + next() * 0.12,
    }
  })
  await coded(path, width, height, 'rgb24', H264(20), i =>
    drawn(
      width,
      height,
      drops.flatMap(drop => {
        const t = i / FPS - drop.start
        if (t < 0 || t > 1.5) return []
        // Air holds the fine drops back
        const slow = (1 - Math.exp(-t * 1.6)) / 1.6
        const y = height - 18 + drop.vy * slow + 120 * t * t
        return y > height - 8
          ? []
          : [
              {
                x: drop.x + drop.vx * slow + t * 10,
                y,
                size: drop.size * (1 + t * 1.6),
                light: (drop.light * (1 - smooth(0.7, 1.5, t))) / (1 + t * 1.4),
              },
            ]
      }),
      [0.96, 0.98, 1],
      i / FPS,
      0.55,
    ),
  )
}

/** Smoke of a small fire, leaning with the wind; it was burning before and goes on after. */
export async function makeSmoke(path: string): Promise<void> {
  const width = 320
  const height = 240
  const next = random(9)
  const puffs = Array.from({ length: 150 }, (_, k) => ({
    born: -4 + (k * 6.2) / 150,
    x: (next() - 0.5) * 7,
    seed: k,
    size: 4 + next() * 4.5,
    light: 0.03 + next() ** 2 * 0.09,
  }))
  await coded(path, width, height, 'rgb24', H264(20), i =>
    drawn(
      width,
      height,
      puffs.flatMap(puff => {
        const t = i / FPS - puff.born
        if (t < 0 || t > 4) return []
        return [
          {
            x:
              width * 0.28 +
              puff.x +
              14 * t +
              8 * t ** 1.5 +
              wander(t * 0.9 + puff.seed * 0.09, 7) * 15 * t +
              wander(t * 0.9, puff.seed) * 5 * t,
            y: height - 18 - 46 * t + wander(t * 0.8, puff.seed + 400) * 7 * t,
            size: puff.size * (1 + t * 1.35),
            light: puff.light * smooth(0, 0.15, t) * (1 - smooth(1.6, 4, t)),
          },
        ]
      }),
      [0.9, 0.93, 1],
      i / FPS,
      0.7,
    ),
  )
}

export const bytesOf = (path: string): Uint8Array => readFileSync(path)
