// What is said of the things that cover a pixel: how far away a thing is that no pixel about shows alone.
import { afterAll, expect, it } from 'vitest'
import { boxOf, widthOf } from '../core/engine/box'
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { kernelNode, scriptNode } from '../core/plan/node'
import { Runner } from '../core/plan/runner'
import { kernelModule } from '../host/engine'
import { COVERAGE_RANKS, CUT_REACH } from '../kernels/assembly/layout'
import { ShareByCover } from '../kernels/records'
import { given } from './compose/treat'

const pool = new Pool(new Kernels(kernelModule()))
afterAll(() => pool.stop())

type Cover = readonly (readonly [object: number, share: number])[]
let count = 0
/** Metres of each pixel of a row, counted by what covers it. */
async function metresOf(row: readonly { cover: Cover; metres: number }[]): Promise<number[]> {
  const window = boxOf(row.length, 1)
  const coverage = scriptNode(['cover', count++], 'ranks', window, (out, _, kernels) => {
    const to = kernels.floats(out.pointer, widthOf(out) * COVERAGE_RANKS * 2).fill(0)
    for (let x = out.left; x < out.right; x++)
      row[x]!.cover.forEach((pair, rank) => to.set(pair, ((x - out.left) * COVERAGE_RANKS + rank) * 2))
  })
  const share = given(
    row.map(({ metres }) => metres),
    row.length,
    'single',
  )
  const node = kernelNode(ShareByCover, { coverage, share }, { window, reach: CUT_REACH })
  const { pointer } = await new Runner(pool, 2 ** 24).run(node, window)
  return [...pool.kernels.floats(pointer, row.length)]
}
const near = { cover: [[1, 1]] as Cover, metres: 2 }
const far = { cover: [[3, 1]] as Cover, metres: 20 }
const sliver = {
  cover: [
    [1, 0.6],
    [2, 0.4],
  ] as Cover,
  metres: 2,
}
const mostly = (metres: number): typeof sliver => ({
  cover: [
    [2, 0.7],
    [3, 0.3],
  ],
  metres,
})

it('a thing that is nowhere alone is where a pixel stands that mostly shows it', async () => {
  const found = await metresOf([near, near, sliver, mostly(10), far, far])
  expect(found[2]).toBeCloseTo(0.6 * 2 + 0.4 * 10, 5)
  // And such a pixel itself where it stands
  expect(found[3]).toBeCloseTo(0.7 * 10 + 0.3 * 20, 5)
})
it('unless pixels about do not agree where that is: then it counts where the pixel stands', async () => {
  const found = await metresOf([near, near, sliver, mostly(10), mostly(14), far])
  expect(found[2]).toBeCloseTo(2, 5)
})
it('a pixel that shows it alone says it before all others', async () => {
  const found = await metresOf([near, near, sliver, mostly(10), { cover: [[2, 1]], metres: 9 }, far])
  expect(found[2]).toBeCloseTo(0.6 * 2 + 0.4 * 9, 5)
})
