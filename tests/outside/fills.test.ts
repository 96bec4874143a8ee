// What drawn shapes cover of each pixel, against Chromium's own canvas (Skia, through Debian's chromium) filling the same
// curves. It takes four lines of a pixel itself (a box whose edges lie at quarters and halves is up to an eighth off), so
// it fills at 16 times the size, of which means are taken. Its curves are a few hundredths of a pixel off their own
// (tests/drawn.test.ts holds ours to 0.002), straight edges less.
import { chromium, type Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { contourNode } from '../../core/matte/drawn/node'
import type { ContourPoint } from '../../core/matte/drawn/contour'
import { boxOf } from '../../core/engine/box'
import { Runner } from '../../core/plan/runner'
import { startEngine, type Engine } from '../../host/engine'
import { randomFrom } from '../compose/random'

let engine: Engine
let browser: Browser
beforeAll(async () => {
  engine = await startEngine(2)
  browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--headless=new', '--no-sandbox', '--disable-gpu'],
  })
})
afterAll(async () => {
  await browser.close()
  engine.stop()
})

const [WIDTH, HEIGHT] = [240, 160]
const TIMES = 16
const AREA = boxOf(WIDTH, HEIGHT)
const point = (x: number, y: number, handle: readonly [number, number] = [0, 0]): ContourPoint => ({
  ...{ x, y, inX: 0 - handle[0], inY: 0 - handle[1], outX: handle[0], outY: handle[1] },
  ...{ radius: 0, outer: 0, inner: 0 },
})
const ours = async (points: readonly ContourPoint[]): Promise<Float32Array> => {
  const { pointer } = await new Runner(engine.pool, 2 ** 28).run(contourNode({ closed: true, points }, AREA), AREA)
  return engine.kernels.floats(pointer, WIDTH * HEIGHT).slice()
}
const theirs = async (points: readonly ContourPoint[]): Promise<number[]> => {
  const page = await browser.newPage()
  try {
    return await page.evaluate(
      ({ points, width, height, times }) => {
        const canvas = new OffscreenCanvas(width * times, height * times)
        const context = canvas.getContext('2d', { willReadFrequently: true })!
        context.fillStyle = '#fff'
        context.scale(times, times)
        context.beginPath()
        context.moveTo(points[0]!.x, points[0]!.y)
        points.forEach((from, i) => {
          const to = points[(i + 1) % points.length]!
          context.bezierCurveTo(from.x + from.outX, from.y + from.outY, to.x + to.inX, to.y + to.inY, to.x, to.y)
        })
        context.fill()
        const { data } = context.getImageData(0, 0, width * times, height * times)
        const out = new Array<number>(width * height).fill(0)
        for (let y = 0; y < height * times; y++)
          for (let x = 0; x < width * times; x++)
            out[Math.floor(y / times) * width + Math.floor(x / times)]! +=
              data[(y * width * times + x) * 4 + 3]! / 255 / times ** 2
        return out
      },
      { points, width: WIDTH, height: HEIGHT, times: TIMES },
    )
  } finally {
    await page.close()
  }
}
/** Round a middle, each point's handle along the circle, more or less far off: none of them crosses itself. */
const blob = (seed: number, count: number, bent: number): ContourPoint[] => {
  const random = randomFrom(seed)
  return Array.from({ length: count }, (_, i) => {
    const angle = ((i + 0.3 * random()) / count) * 2 * Math.PI
    const far = 30 + 40 * random()
    const long = (bent * far) / count
    return point(120.3 + far * Math.cos(angle), 80.1 + far * Math.sin(angle), [
      -Math.sin(angle) * long,
      Math.cos(angle) * long,
    ])
  })
}
const SHAPES: readonly (readonly [string, readonly ContourPoint[]])[] = [
  ['a thin slanted triangle', [point(10.2, 20.7), point(229.6, 31.4), point(12.1, 23.9)]],
  ['a box off the grid', [point(40.25, 30.5), point(180.75, 30.5), point(180.75, 120.125), point(40.25, 120.125)]],
  ['beyond the frame on three sides', [point(-50, 40.5), point(120, -60.25), point(400.5, 90), point(100, 130.75)]],
  ...[3, 5, 8, 13, 24].map(count => [`${count} points, bent`, blob(count, count, 2)] as const),
  ...[4, 9].map(count => [`${count} points, far bent`, blob(count + 50, count, 3.4)] as const),
]

describe('what a shape covers of each pixel is what a canvas fills', () => {
  it.each(SHAPES)('%s', async (_, points) => {
    const [own, canvas] = [await ours(points), await theirs(points)]
    let [most, sum, edges] = [0, 0, 0]
    own.forEach((value, i) => {
      const off = Math.abs(value - canvas[i]!)
      most = Math.max(most, off)
      if ((value > 0 && value < 1) || off > 1e-6) {
        sum += off
        edges++
      }
    })
    expect(edges).toBeGreaterThan(100)
    expect(most).toBeLessThan(0.045)
    expect(sum / edges).toBeLessThan(0.012)
  })
})
