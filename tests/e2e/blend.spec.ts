// Blending against Chromium's own canvas, which follows W3C Compositing and Blending Level 1 within one 8-bit code.
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

test('W3C blending modes agree with the canvas', async ({ page, stage }) => {
  await page.goto(stage.address)
  const worst = await page.evaluate(async modes => {
    const colours: number[][] = []
    for (let i = 0; i < 60; i++)
      colours.push([(i * 37) % 256, (i * 91) % 256, (i * 151) % 256, [255, 255, 128, 200][i % 4]!])
    const module = await WebAssembly.compileStreaming(fetch('/kernels/northmist.wasm'))
    const memory = new WebAssembly.Memory({ initial: 256, maximum: 32768, shared: true })
    const kernel = new WebAssembly.Instance(module, { env: { memory } }).exports as {
      runBand(kernel: number, band: number): void
    }
    const words = new Int32Array(memory.buffer)
    const floats = new Float32Array(memory.buffer)
    const backdropAt = 1 << 20
    const sourceAt = 2 << 20
    const outAt = 3 << 20
    const base = 16
    const canvas = new OffscreenCanvas(1, 1)
    const context = canvas.getContext('2d', { willReadFrequently: true })!
    const result: Record<string, number> = {}
    modes.forEach((mode, number) => {
      let most = 0
      // In codes; translucent pixels are rounded three times by the canvas, so less than half of theirs counts
      const note = (codes: number, share: number): void => {
        most = Math.max(most, codes * share)
      }
      for (const [i, backdrop] of colours.entries()) {
        const source = colours[(i * 7 + 3) % colours.length]!
        // These two divide: the canvas's rounding of translucent pixels to 8 bits grows there, so they are compared
        // opaque
        if (/dodge|burn/.test(mode) && (backdrop[3] !== 255 || source[3] !== 255)) continue
        context.globalCompositeOperation = 'copy'
        context.fillStyle = `rgba(${backdrop[0]},${backdrop[1]},${backdrop[2]},${backdrop[3]! / 255})`
        context.fillRect(0, 0, 1, 1)
        context.globalCompositeOperation = mode as GlobalCompositeOperation
        context.fillStyle = `rgba(${source[0]},${source[1]},${source[2]},${source[3]! / 255})`
        context.fillRect(0, 0, 1, 1)
        const expected = context.getImageData(0, 0, 1, 1).data
        for (const [at, colour] of [
          [backdropAt, backdrop],
          [sourceAt, source],
        ] as const) {
          const a = colour[3]! / 255
          for (let c = 0; c < 3; c++) floats[at / 4 + c] = (colour[c]! / 255) * a
          floats[at / 4 + 3] = a
        }
        words.set([1, 1, backdropAt, sourceAt, outAt, number], base)
        floats[base + 6] = 1
        words[base + 7] = 0
        kernel.runBand(10, 0)
        const alpha = floats[outAt / 4 + 3]!
        const share = backdrop[3] === 255 && source[3] === 255 ? 1 : 0.4
        note(Math.abs(alpha * 255 - expected[3]!), share)
        for (let c = 0; c < 3; c++)
          note(Math.abs((floats[outAt / 4 + c]! - (expected[c]! / 255) * (expected[3]! / 255)) * 255), share)
      }
      result[mode] = most
    })
    return result
  }, MODES)
  for (const mode of MODES) expect(worst[mode], mode).toBeLessThan(1.01)
})
