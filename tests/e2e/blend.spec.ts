// Blending against Chromium's own canvas, which follows W3C Compositing and Blending Level 1 within one 8-bit code.
import { boxOf } from '../../core/engine/box'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { kernelModule } from '../../host/engine'
import { Blend } from '../../kernels/records'
import { expect, test } from './stage'

// Mode numbers of the kernel, by the names that canvas gives them
const MODES = [
  'source-over',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'color-dodge',
  'color-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'hue',
  'saturation',
  'color',
  'luminosity',
]

const COLOURS = Array.from({ length: 60 }, (_, i) => [
  (i * 37) % 256,
  (i * 91) % 256,
  (i * 151) % 256,
  [255, 255, 128, 200][i % 4]!,
])
const PAIRS = COLOURS.map((backdrop, i) => [backdrop, COLOURS[(i * 7 + 3) % COLOURS.length]!] as const)

test('W3C blending modes agree with the canvas', async ({ page, stage }) => {
  await page.goto(stage.address)
  const canvas = await page.evaluate(
    ({ modes, pairs }) => {
      const context = new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true })!
      return modes.map(mode =>
        pairs.map(([backdrop, source]) => {
          context.globalCompositeOperation = 'copy'
          context.fillStyle = `rgba(${backdrop[0]},${backdrop[1]},${backdrop[2]},${backdrop[3]! / 255})`
          context.fillRect(0, 0, 1, 1)
          context.globalCompositeOperation = mode as GlobalCompositeOperation
          context.fillStyle = `rgba(${source[0]},${source[1]},${source[2]},${source[3]! / 255})`
          context.fillRect(0, 0, 1, 1)
          return [...context.getImageData(0, 0, 1, 1).data]
        }),
      )
    },
    { modes: MODES, pairs: PAIRS },
  )
  const pool = new Pool(new Kernels(kernelModule()))
  const { kernels } = pool
  const area = boxOf(PAIRS.length, 1)
  const premultiplied = (at: 0 | 1): Float32Array =>
    Float32Array.from(
      PAIRS.flatMap(pair => pair[at].map((value, c) => (value / 255) * (c === 3 ? 1 : pair[at][3]! / 255))),
    )
  const backdrop = { pointer: kernels.place(premultiplied(0)), ...area }
  const source = { pointer: kernels.place(premultiplied(1)), ...area }
  const out = { pointer: kernels.allocate(PAIRS.length * 16), ...area }
  MODES.forEach((mode, number) => {
    pool.run(Blend, area, { backdrop, source, out, mode: number, opacity: 1 })
    const ours = kernels.floats(out.pointer, PAIRS.length * 4)
    PAIRS.forEach(([below, above], i) => {
      const opaque = below[3] === 255 && above[3] === 255
      // These two divide: the canvas's rounding of translucent pixels to 8 bits grows there, so they are compared opaque
      if (/dodge|burn/.test(mode) && !opaque) return
      const [r, g, b, a] = canvas[number]![i] as [number, number, number, number]
      // In codes; translucent pixels are rounded three times by the canvas, so less than half of theirs counts
      const share = opaque ? 1 : 0.4
      const expected = [...[r, g, b].map(value => (value / 255) * (a / 255)), a / 255]
      expected.forEach((value, c) =>
        expect(Math.abs(ours[i * 4 + c]! - value) * 255 * share, `${mode} ${i} ${c}`).toBeLessThan(1.01),
      )
    })
  })
})
