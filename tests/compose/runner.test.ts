// Computing what was planned: the same to the bit whatever is asked for first, in whichever parts, with however little
// memory; against plain double precision; and what is kept.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { boxOf, heightOf, widthOf, type Box } from '../../core/engine/box'
import { Stopped } from '../../core/engine/pool'
import { kernelNode, scriptNode, type Node } from '../../core/plan/node'
import { Runner, TooLarge } from '../../core/plan/runner'
import { schedule } from '../../core/plan/schedule'
import { startEngine, type Engine } from '../../host/engine'
import { Gain } from '../../core/treatment/exposure'
import { Shift } from '../../kernels/records'
import type { Raster } from '../../kernels/record'
import { HEIGHT, randomFrom, randomTree, WIDTH, WINDOW } from './random'

let one: Engine
let two: Engine
beforeAll(async () => {
  one = await startEngine(1)
  two = await startEngine(2)
})
afterAll(() => {
  one.stop()
  two.stop()
})

const floats = ({ kernels }: Engine, raster: Raster): Float32Array =>
  kernels.floats(raster.pointer, widthOf(raster) * heightOf(raster) * 4).slice()
async function run(
  engine: Engine,
  node: Node,
  box: Box = node.window,
  budget = 2 ** 28,
  streamFrom?: number,
): Promise<Float32Array> {
  const runner = new Runner(engine.pool, budget, streamFrom)
  const out = floats(engine, await runner.run(node, box))
  runner.clear()
  return out
}
const part = (whole: Float32Array, window: Box, box: Box): Float32Array => {
  const out: number[] = []
  for (let y = box.top; y < box.bottom; y++)
    for (let x = box.left; x < box.right; x++) {
      const at = ((y - window.top) * widthOf(window) + x - window.left) * 4
      out.push(...whole.subarray(at, at + 4))
    }
  return Float32Array.from(out)
}

const TREES = Array.from({ length: 60 }, (_, seed) => ({ seed, ...randomTree(randomFrom(seed + 1), 1 + (seed % 6)) }))

it('sixty random trees are what plain double precision says, within four millionths', async () => {
  for (const { seed, node, at } of TREES) {
    const ours = await run(two, node)
    let i = 0
    for (let y = node.window.top; y < node.window.bottom; y++)
      for (let x = node.window.left; x < node.window.right; x++)
        for (const value of at(x, y)) {
          const error = Math.abs(ours[i++]! - value)
          if (!(error <= 4e-6 * Math.max(1, Math.abs(value))))
            throw new Error(`tree ${seed} at ${x}, ${y}: ${ours[i - 1]} for ${value}`)
        }
  }
})

it('regions, strips, threads and files made as they are read give the same to the bit', async () => {
  const random = randomFrom(99)
  for (const { seed, node } of TREES) {
    const { window } = node
    const whole = await run(two, node)
    expect(await run(one, node), `tree ${seed}, one thread`).toEqual(whole)
    expect(await run(two, node, window, 2 ** 28, 0), `tree ${seed}, streamed`).toEqual(whole)
    const left = window.left + Math.floor(random() * (widthOf(window) - 1))
    const top = window.top + Math.floor(random() * (heightOf(window) - 1))
    const box = {
      left,
      top,
      right: left + 1 + Math.floor(random() * (window.right - left - 1)),
      bottom: top + 1 + Math.floor(random() * (window.bottom - top - 1)),
    }
    expect(await run(two, node, box), `tree ${seed}, a region`).toEqual(part(whole, window, box))
    // Just so much memory that it must be made in strips
    const own = widthOf(window) * heightOf(window) * 16
    let peak = 0
    for (let from = window.top; from < window.bottom; from += 16)
      peak = Math.max(peak, schedule(node, { ...window, top: from, bottom: Math.min(window.bottom, from + 16) }).peak)
    expect(await run(one, node, window, peak + own), `tree ${seed}, strips`).toEqual(whole)
    const runner = new Runner(one.pool, peak)
    const strips: Float32Array[] = []
    await runner.eachStrip(node, window, strip => void strips.push(floats(one, strip)))
    runner.clear()
    expect(Float32Array.from(strips.flatMap(strip => [...strip])), `tree ${seed}, strip by strip`).toEqual(whole)
  }
})

it('what was computed before never shows in what is computed next', async () => {
  const runner = new Runner(two.pool, 600000)
  const random = randomFrom(5)
  for (let i = 0; i < 80; i++) {
    const { node, seed } = TREES[Math.floor(random() * TREES.length)]!
    const left = node.window.left + Math.floor(random() * (widthOf(node.window) - 1))
    const box = { ...node.window, left }
    expect(floats(two, await runner.run(node, box)), `step ${i}, tree ${seed}`).toEqual(
      part(await run(one, node), node.window, box),
    )
  }
  runner.clear()
})

it('gives all memory back', async () => {
  const runner = new Runner(one.pool, 2 ** 26)
  const all = async (): Promise<number> => {
    for (const { node } of TREES) await runner.run(node, node.window)
    runner.clear()
    return one.kernels.used
  }
  // The first time the pool takes its own room
  expect(await all()).toBe(await all())
})

const file = (name: string, made: () => void = () => {}): Node =>
  scriptNode(['file', name], 'colour', boxOf(512, 512), (out, _, kernels) => {
    made()
    kernels.floats(out.pointer, widthOf(out) * heightOf(out) * 4).fill(0.5)
  })
const gain = (source: Node, factor: number): Node =>
  kernelNode(Gain, { source, gain: [factor, factor, factor], strength: 1, straight: 0 }, { window: source.window })
const soft = (source: Node): Node => kernelNode(Shift, { source, dx: 0, dy: 0 }, { window: source.window, reach: 100 })

it('a value that is dragged costs only what follows it; files are read once', async () => {
  const runner = new Runner(two.pool, 2 ** 28)
  let reads = 0
  const before = soft(gain(soft(file('plate', () => reads++)), 2))
  const steps: number[] = []
  for (const factor of [1.1, 1.2, 1.3, 1.4]) {
    const start = runner.computed
    await runner.run(soft(gain(before, factor)), before.window)
    steps.push(runner.computed - start)
  }
  // The plate, what is before, what is soft and the last; then what stays is laid out; then only what follows
  expect(steps.slice(2)).toEqual([2, 2])
  expect(reads).toBe(1)
  runner.clear()
})

it('work that was stopped leaves nothing half done behind', async () => {
  const node = gain(soft(gain(file('plate'), 2)), 3)
  const whole = await run(one, node)
  // How often two threads ask depends on which of them takes the bands: only the first time is certain.
  for (const [machine, counts] of [
    [one, [0, 1, 5, 20]],
    [two, [0]],
  ] as const) {
    const runner = new Runner(machine.pool, 2 ** 28)
    for (const after of counts) {
      let asked = 0
      await expect(runner.run(node, node.window, { stop: () => asked++ >= after })).rejects.toThrow(Stopped)
    }
    expect(floats(machine, await runner.run(node, node.window))).toEqual(whole)
    runner.clear()
  }
})

it('what cannot fit is said before anything is computed', async () => {
  let reads = 0
  const runner = new Runner(one.pool, 512 * 512 * 16 * 1.2)
  const far = kernelNode(
    Shift,
    { source: soft(file('plate', () => reads++)), dx: 0, dy: 0 },
    { window: boxOf(512, 512), needs: () => boxOf(512, 512) },
  )
  await expect(runner.run(far, far.window)).rejects.toThrow(TooLarge)
  expect(reads).toBe(0)
})

it('pictures looked at before take a third of the memory at most, files and what stays the rest', async () => {
  const budget = 40 * 512 * 512 * 16
  const runner = new Runner(one.pool, budget)
  const plate = file('plate')
  for (let i = 0; i < 60; i++) {
    await runner.run(gain(plate, 100 + i), plate.window)
    expect(runner.held).toBeLessThanOrEqual(budget)
  }
  expect(runner.has(plate.key)).toBe(true)
  expect(runner.has(gain(plate, 159).key)).toBe(true)
  expect(runner.has(gain(plate, 155).key)).toBe(true)
  expect(runner.has(gain(plate, 110).key)).toBe(false)
  runner.clear()
})

it('parts of a picture that is there are neither computed again nor kept', async () => {
  const runner = new Runner(two.pool, 2 ** 28)
  let reads = 0
  const node = soft(
    gain(
      file('plate', () => reads++),
      2,
    ),
  )
  const whole = floats(two, await runner.run(node, node.window))
  const held = runner.held
  for (let i = 0; i < 200; i++) {
    const box = { left: i, top: 2 * i, right: i + 1, bottom: 2 * i + 1 }
    expect(floats(two, await runner.run(node, box))).toEqual(part(whole, node.window, box))
    expect(runner.held).toBeLessThanOrEqual(held + 16)
  }
  expect(reads).toBe(1)
  runner.clear()
})

it('gives memory to whoever else works in it', async () => {
  const engine = await startEngine(1)
  const runner = new Runner(engine.pool, 1500 * 1048576)
  const size = boxOf(4096, 2048)
  for (let i = 0; i < 5; i++) {
    const node = scriptNode(['big', i], 'colour', size, () => {})
    await runner.run(node, size)
  }
  expect(runner.held).toBe(3 * 128 * 1048576)
  const pointer = engine.kernels.allocate(1700 * 1048576)
  expect(runner.held).toBeLessThanOrEqual(2 * 128 * 1048576)
  engine.kernels.dispose(pointer)
  expect(() => engine.kernels.allocate(2100 * 1048576)).toThrow(/more than the 2 GiB/)
  engine.stop()
}, 30000)

it('random trees reach every kind of node', () => {
  const names = new Set<string>()
  const visit = (node: Node): void => {
    names.add(node.by === 'kernel' ? node.kernel.name : 'file')
    node.inputs.forEach(visit)
  }
  for (const { node } of TREES) visit(node)
  expect(names.size).toBeGreaterThanOrEqual(11)
  expect([WINDOW.right, WINDOW.bottom]).toEqual([WIDTH, HEIGHT])
})
