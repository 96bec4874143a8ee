// Light seen through glass or mirrored: what of it is left in a picture laid on another, by hand, and each part of a picture
// made by itself and added up.
import { afterAll, describe, expect, it } from 'vitest'
import { beyondOver, eachAtItsDistance } from '../../core/plan/beyond'
import { kernelNode, type Node } from '../../core/plan/node'
import { atDistance, type Picture } from '../../core/plan/picture'
import { Runner } from '../../core/plan/runner'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { boxOf, heightOf, widthOf } from '../../core/engine/box'
import { kernelModule } from '../../host/engine'
import { Blend, Mix } from '../../kernels/records'
import { blendKernel } from '../../core/plan/modes'
import { given } from './treat'

const pool = new Pool(new Kernels(kernelModule()))
const runner = new Runner(pool, 2 ** 26)
afterAll(() => pool.stop())
const [WIDTH, HEIGHT] = [4, 1]
const window = boxOf(WIDTH, HEIGHT)
const even = (...pixel: readonly number[]): Node => given(Array(WIDTH).fill(pixel).flat(), WIDTH)
const valuesOf = async (node: Node): Promise<Float32Array> => {
  const raster = await runner.run(node, node.window)
  const floats = node.pixel === 'colour' ? 4 : 1
  return pool.kernels.floats(raster.pointer, widthOf(raster) * heightOf(raster) * floats).slice()
}
/** Of one colour, of which some is seen through it, so far away. */
const glass = (pixel: readonly number[], share: number, own: number, behind: number): Picture => ({
  colour: even(...pixel),
  ...atDistance(own, window),
  beyond: () => ({ through: { share: even(share, share, share, 1), ...atDistance(behind, window) } }),
})
const laid = (below: Picture, source: Picture, mode: string, opacity: number): Node =>
  kernelNode(
    Blend,
    { backdrop: below.colour, source: source.colour, mode: blendKernel(mode), opacity },
    { window, only: { where: 'source', elsewhere: 'backdrop' } },
  )

describe('a picture over another', () => {
  it.each([
    // Light of both that is seen so, over all: 0.3 · 0.4 · (1 - 0.5 · 0.8) + 0.2 · 0.9 · 0.8 over what is laid
    ['of both', 0.3, 0.9, 0.5, 0.8],
    ['of what covers it whole', 0.3, 0.9, 1, 1],
    ['of what covers nothing', 0.3, 0, 0, 0.5],
  ])('shows %s as much as there is left', async (_, below, over, alpha, opacity) => {
    const backdrop = glass([0.4, 0.2, 0.1, 1], below, 5, 20)
    const source = glass([0.2, 0.2, 0.2, alpha], over, 2, 9)
    const whole = laid(backdrop, source, 'over', opacity)
    const seen = beyondOver(backdrop, source, whole, { opacity, covers: true })!().through!
    const shares = await valuesOf(seen.share)
    for (const [c, light] of [0.4, 0.2, 0.1].entries()) {
      const left = light * below * (1 - alpha * opacity) + 0.2 * over * opacity
      const all = light * (1 - alpha * opacity) + 0.2 * opacity
      expect(shares[c]).toBeCloseTo(left / all, 5)
    }
    const metres = await valuesOf(seen.depth())
    expect(metres[0]).toBe(alpha * opacity > 0.5 ? 9 : 20)
  })
  it('that only changes its light leaves the share as it is', async () => {
    const backdrop = glass([0.4, 0.2, 0.1, 1], 0.3, 5, 20)
    const source: Picture = { colour: even(0.5, 0.5, 0.5, 1), ...atDistance(1, window) }
    const whole = laid(backdrop, source, 'multiply', 1)
    const seen = beyondOver(backdrop, source, whole, { opacity: 1, covers: false })!().through!
    expect((await valuesOf(seen.share))[1]).toBeCloseTo(0.3, 5)
  })
  it('of which nothing is known says nothing', () => {
    const plain: Picture = { colour: even(1, 1, 1, 1), ...atDistance(3, window) }
    expect(beyondOver(plain, plain, plain.colour, { opacity: 1, covers: true })).toBeUndefined()
  })
})

describe('each part by its distance', () => {
  const picture: Picture = {
    ...glass([0.4, 0.2, 0.1, 0.7], 0.25, 5, 20),
    beyond: () => ({
      through: { share: even(0.25, 0.5, 0, 1), ...atDistance(20, window) },
      mirrored: { share: even(0.5, 0.25, 0.125, 1), ...atDistance(9, window) },
    }),
  }
  it('adds up to the picture, cover too', async () => {
    const out = await valuesOf(eachAtItsDistance(picture, ({ colour }) => colour))
    ;[0.4, 0.2, 0.1, 0.7].forEach((value, c) => expect(out[c]).toBeCloseTo(value, 6))
  })
  it('takes its own distance', async () => {
    const metres: number[] = []
    // What stands at 20 m at half its light, what is mirrored at 9 m away whole
    const nothing = even(0, 0, 0, 0)
    const parts: Node[] = []
    const out = eachAtItsDistance(picture, ({ colour, depth }) => {
      parts.push(depth())
      const share = parts.length === 1 ? 0 : parts.length === 2 ? 0.5 : 1
      return kernelNode(Mix, { first: colour, second: nothing, share }, { window })
    })
    for (const part of parts) metres.push((await valuesOf(part))[0]!)
    expect(metres.toSorted((a, b) => a - b)).toEqual([5, 9, 20])
    const shareOf: Record<number, number> = {}
    metres.forEach((at, i) => (shareOf[at] = [1, 0.5, 0][i]!))
    const values = await valuesOf(out)
    const seen = [
      [0.25, 0.5, 0],
      [0.5, 0.25, 0.125],
    ]
    ;[0.4, 0.2, 0.1].forEach((light, c) => {
      const [through, mirrored] = [seen[0]![c]!, seen[1]![c]!]
      const wanted = light * (through * shareOf[20]! + mirrored * shareOf[9]! + (1 - through - mirrored) * shareOf[5]!)
      expect(values[c]).toBeCloseTo(wanted, 5)
    })
  })
})
