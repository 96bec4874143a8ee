// The true shutter of the renderer against its arithmetic, and motion blur against the true shutter.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { beautyOf } from '../../core/render/planes'
import { startEngine, type Engine } from '../../host/engine'
import { writeFileSync } from 'node:fs'
import { finished, psnr, rendered } from '../focusScenes'
import { codesOf, lightness, ssim, stripOf } from '../likeness'
import { crossing, goingBy, momentsOf, passing, turning, wheel, type Moving } from '../motionScenes'

const FILE = new URL('../../docs/motion.md', import.meta.url)
const PICTURES = new URL('../../docs/lens/', import.meta.url)

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const truth = (moving: Moving, open: number, close: number, count = 32, samples = 128): Float32Array => {
  const { result, end } = rendered(engine, moving(0), samples, { moments: momentsOf(moving, open, close, count) })
  const beauty = beautyOf(result).slice()
  end()
  return beauty
}

describe('the true shutter', () => {
  /** Of all light: sum, middle across and its spread about that. */
  const lightOf = (picture: Float32Array): { sum: number; x: number; variance: number } => {
    let [sum, x, square] = [0, 0, 0]
    for (let i = 0; i < picture.length / 3; i++) sum += picture[i * 3]!
    for (let i = 0; i < picture.length / 3; i++) x += (picture[i * 3]! * ((i % 192) + 0.5)) / sum
    for (let i = 0; i < picture.length / 3; i++) square += (picture[i * 3]! * ((i % 192) + 0.5 - x) ** 2) / sum
    return { sum, x, variance: square }
  }
  it.each([
    [-0.25, 0.25],
    [0, 0.5],
    [-1, 0],
  ])('what goes evenly from %f to %f is spread evenly over its way', (open, close) => {
    const still = lightOf(truth(passing(0), open, close, 32, 512))
    const seen = lightOf(truth(passing(24), open, close, 32, 512))
    const way = 24 * (close - open)
    expect(Math.abs(seen.sum / still.sum - 1)).toBeLessThan(0.015)
    expect(Math.abs(seen.x - still.x - 24 * ((open + close) / 2))).toBeLessThan(0.06)
    // A line of even light spreads by the square of its length over 12
    expect(Math.abs((seen.variance - still.variance) / ((way * way) / 12) - 1)).toBeLessThan(0.015)
  })
})

/** The plain way: each pixel the mean of the line that it goes itself. Four floats a pixel. */
function lineBlur(moving: Moving, open: number, close: number): Float32Array {
  const { width, height, ...view } = moving(0)
  const moves = { previous: moving(-1), next: moving(1) }
  const { result, end } = rendered(engine, { ...view, width, height }, 128, { moves })
  const colour = beautyOf(result).slice()
  const [forward, back] = [result.motionForward!.slice(), result.motionBack!.slice()]
  end()
  const out = new Float32Array(width * height * 4).fill(1)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) {
      let sum = 0
      for (let k = 0; k < 64; k++) {
        const t = open + ((close - open) * (k + 0.5)) / 64
        const by = [0, 1].map(a => (t < 0 ? -t * back[i * 2 + a]! : t * forward[i * 2 + a]!))
        const x = Math.min(width - 1, Math.max(0, Math.round((i % width) - by[0]!)))
        const y = Math.min(height - 1, Math.max(0, Math.round(Math.floor(i / width) - by[1]!)))
        sum += colour[(y * width + x) * 3 + c]! / 64
      }
      out[i * 4 + c] = sum
    }
  return out
}

describe('motion blur', () => {
  const rows: string[] = []
  const names: string[] = []
  const fileOf = (name: string): string => `motion ${name}.png`.replaceAll(/[ ,]+/g, '-')
  afterAll(() => {
    if (process.env.WRITE)
      writeFileSync(
        FILE,
        `# Motion blur beside the true shutter
Scenes that shine by themselves, each rendered once with the passes of its motion and blurred by *Motion blur*, and rendered
through the true shutter (32 moments, 128 samples a pixel), which is the truth; beside it the plain way: each pixel the mean
of the line that it goes itself. PSNR in decibels of sRGB codes, SSIM of lightness (Wang and others, 2004). Where all goes
alike lines are exact. The pictures show, twice as large: the true shutter, *Motion blur*, lines.

| scene | Motion blur dB | lines dB | Motion blur SSIM | lines SSIM |
|---|---|---|---|---|
${rows.join('\n')}

${names.map(name => `![${name}](lens/${fileOf(name)})`).join('\n\n')}
`,
      )
  })
  // Where all goes alike lines are exact: there the noise of the truth is the bound of both
  it.each([
    ['plates that cross', crossing, 38, -0.25, 3],
    ['a bar that turns', wheel, 44, -0.25, 3],
    ['a bar that turns, from the frame on', wheel, 37, 0, 3],
    ['a camera that goes by rods', goingBy, 29, -0.25, 3],
    ['a camera that turns', turning, 43, -0.25, -0.6],
  ] as const)('%s: near to the true shutter, and nearer than lines', async (name, moving, least, open, nearer) => {
    const moves = { previous: moving(-1), next: moving(1) }
    const real = truth(moving, open, open + 0.5)
    const values = { shutter: 180, from: open * 360, most: 100 }
    const own = await finished(engine, moving(0), [['motion_blur', values]], moves)
    const lines = lineBlur(moving, open, open + 0.5)
    const like = (picture: Float32Array): number => ssim(lightness(real, 3), lightness(picture, 4), moving(0).width)
    expect(psnr(real, own)).toBeGreaterThan(least)
    expect(psnr(real, own)).toBeGreaterThan(psnr(real, lines) + nearer)
    expect(like(own)).toBeGreaterThan(like(lines) - 0.002)
    if (!process.env.WRITE) return
    const strip = stripOf([codesOf(real, 3), codesOf(own, 4), codesOf(lines, 4)], moving(0))
    writeFileSync(new URL(fileOf(name), PICTURES), strip)
    names.push(name)
    const figures = [psnr(real, own), psnr(real, lines)].map(value => value.toFixed(1))
    rows.push(`| ${[name, ...figures, ...[like(own), like(lines)].map(value => value.toFixed(4))].join(' | ')} |`)
  })
})
