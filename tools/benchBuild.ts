// Speed and memory of building a picture: single kernels, rows of treatments, and the demo's bell house.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { displayCodes } from '../core/compose/deliver'
import { Evaluator } from '../core/compose/evaluate'
import { boxOf } from '../core/engine/box'
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { kernelNode, scriptNode, type Node } from '../core/plan/node'
import { Runner } from '../core/plan/runner'
import type { ShotDocument } from '../core/shot/document'
import { ownRender } from '../core/shot/tree'
import { demoFile, demoFolder } from '../host/demofile'
import { kernelModule, startEngine } from '../host/engine'
import { Cdl } from '../core/treatment/cdl'
import { Gain } from '../core/treatment/exposure'
import { Levels } from '../core/treatment/levels'
import { Saturation } from '../core/treatment/saturation'
import { Blend } from '../kernels/records'
import { medians, type Figure } from './figures'

const WIDTH = 1920
const HEIGHT = 1080
const PIXELS = WIDTH * HEIGHT

export function imageFigures(wanted: (name: string) => boolean): Figure[] {
  const out: Figure[] = []
  const pool = new Pool(new Kernels(kernelModule()))
  const { kernels } = pool
  const area = boxOf(WIDTH, HEIGHT)
  const raster = (): { pointer: number } & typeof area => ({ pointer: kernels.allocate(PIXELS * 16), ...area })
  const a = raster()
  const b = raster()
  const c = raster()
  for (const { pointer } of [a, b]) {
    const data = kernels.floats(pointer, PIXELS * 4)
    for (let i = 0; i < data.length; i++) data[i] = ((i * 7919) % 1000) / 1000
  }
  const x = kernels.floats(a.pointer, PIXELS * 4).slice()
  const y = kernels.floats(b.pointer, PIXELS * 4).slice()
  const z = new Float32Array(PIXELS * 4)
  const copy = (): void => {
    z.set(x)
  }
  if (wanted('image.over')) {
    const plain = (): void => {
      for (let i = 0; i < z.length; i += 4) {
        const k = 1 - y[i + 3]!
        z[i] = y[i]! + x[i]! * k
        z[i + 1] = y[i + 1]! + x[i + 1]! * k
        z[i + 2] = y[i + 2]! + x[i + 2]! * k
        z[i + 3] = y[i + 3]! + x[i + 3]! * k
      }
    }
    const ours = (): void => pool.run(Blend, area, { backdrop: a, source: b, out: c, mode: 0, opacity: 1 })
    const [mine, other, copied] = medians(15, ours, plain, copy)
    out.push(
      { name: 'image.over', value: mine, unit: 'ms', against: 'plain typed arrays', ratio: other / mine },
      { name: 'image.over', value: mine, unit: 'ms', against: 'memory copy', ratio: copied / mine },
    )
  }
  if (wanted('image.grade')) {
    const plain = (): void => {
      for (let i = 0; i < z.length; i += 4) {
        const r = Math.max(0, x[i]! * 1.2 + 0.01) ** 1.1
        const g = Math.max(0, x[i + 1]!) ** 0.9
        const bl = Math.max(0, x[i + 2]! * 0.9) ** 1.05
        const l = r * 0.2126 + g * 0.7152 + bl * 0.0722
        z[i] = l + (r - l) * 0.8
        z[i + 1] = l + (g - l) * 0.8
        z[i + 2] = l + (bl - l) * 0.8
        z[i + 3] = x[i + 3]!
      }
    }
    kernels.floats(a.pointer, PIXELS * 4).forEach((_, i, data) => {
      if (i % 4 === 3) data[i] = 1
    })
    const ours = (): void =>
      pool.run(Cdl, area, {
        source: a,
        out: c,
        strength: 1,
        straight: 1,
        slope: [1.2, 1, 0.9],
        offset: [0.01, 0, 0],
        power: [1.1, 0.9, 1.05],
        saturation: 0.8,
      })
    const [mine, other, copied] = medians(7, ours, plain, copy)
    out.push(
      { name: 'image.grade', value: mine, unit: 'ms', against: 'plain typed arrays', ratio: other / mine },
      { name: 'image.grade', value: mine, unit: 'ms', against: 'memory copy', ratio: copied / mine },
    )
  }
  return out
}

/** A row of so many treatments without powers, each with other values. */
function chainOf(source: Node, count: number, round: number): Node {
  let node = source
  const { window } = source
  for (let i = 0; i < count; i++) {
    const gain = 1 + ((i * 7 + round) % 13) / 100
    const common = { source: node, strength: 1, straight: 0 }
    node =
      i % 3 === 0
        ? kernelNode(Gain, { ...common, gain: [gain, gain, 1 / gain] as const }, { window })
        : i % 3 === 1
          ? kernelNode(Saturation, { ...common, amount: gain }, { window })
          : kernelNode(Levels, { ...common, low: 0.01, scale: 1 / gain, outLow: 0, outSpan: 1 }, { window })
  }
  return node
}
const madePicture = (width: number, height: number): Node =>
  scriptNode(['made'], 'colour', boxOf(width, height), (raster, _, kernels) => {
    const data = kernels.floats(raster.pointer, (raster.right - raster.left) * (raster.bottom - raster.top) * 4)
    for (let i = 0; i < data.length; i++) data[i] = i % 4 === 3 ? 1 : ((i * 7919) % 1000) / 1000
  })

async function chain(): Promise<Figure[]> {
  const engine = await startEngine(1)
  const { kernels, pool } = engine
  const source = madePicture(WIDTH, HEIGHT)
  const runner = new Runner(pool, 1100 * 1048576)
  await runner.run(source, source.window)
  const from = kernels.allocate(PIXELS * 16)
  const to = kernels.allocate(PIXELS * 16)
  // Memory that was never written to is one page of nothing, which is copied from the cache
  kernels.floats(from, PIXELS * 4).fill(0.5)
  const times: number[] = []
  const copies: number[] = []
  // Until the pictures of before take all that they may, each lies in fresh memory
  const fresh = 14
  for (let round = 0; round < fresh + 12; round++) {
    const node = chainOf(source, 20, round)
    let start = performance.now()
    await runner.run(node, node.window)
    if (round >= fresh) times.push(performance.now() - start)
    start = performance.now()
    kernels.floats(to, PIXELS * 4).set(kernels.floats(from, PIXELS * 4))
    if (round >= fresh) copies.push(performance.now() - start)
  }
  engine.stop()
  const [mine, copied] = [times, copies].map(list => list.sort((p, q) => p - q)[Math.floor(list.length / 2)]!)
  return [
    {
      name: 'build.chain.points',
      value: mine!,
      unit: 'ms',
      against: 'memory copy (20 treatments of 1920x1080, one thread; aim 0.25)',
      ratio: copied! / mine!,
    },
  ]
}

async function memory(): Promise<Figure[]> {
  const out: Figure[] = []
  let one = 0
  for (const count of [1, 10, 100]) {
    const engine = await startEngine(1)
    const runner = new Runner(engine.pool, 1100 * 1048576)
    const node = chainOf(madePicture(WIDTH, HEIGHT), count, 0)
    const before = engine.kernels.used
    await runner.run(node, node.window)
    const used = (engine.kernels.peak - before) / 1048576
    one ||= used
    engine.stop()
    out.push({
      name: `build.memory.${count}`,
      value: used,
      unit: 'MiB at most',
      against: 'one treatment (1920x1080)',
      ratio: one / used,
    })
  }
  return out
}

export const bellHouse = (): ShotDocument => {
  const [shot] = JSON.parse(readFileSync(join(demoFolder(), 'shots.json'), 'utf8')) as { document: ShotDocument }[]
  return shot!.document
}

/** Milliseconds from a value that moved to display codes. */
async function fader(shrink: 1 | 2): Promise<number> {
  const engine = await startEngine(2)
  const evaluator = new Evaluator(engine.pool, async blob => demoFile(blob.slice(1)))
  const document = { ...bellHouse(), frame: { width: 1280, height: 720 } }
  const times: number[] = []
  for (let i = 0; i < 24; i++) {
    const moved = structuredClone(document)
    const { objects } = ownRender(moved.build.layers)!.desk
    objects.bell = { ...objects.bell, reflection: 1 + i / 40 }
    const start = performance.now()
    displayCodes(
      engine.pool,
      await evaluator.evaluate({ document: moved, frame: 1, shrink, show: { kind: 'finish' } }),
      moved.view,
    )
    if (i > 5) times.push(performance.now() - start)
  }
  engine.stop()
  return times.sort((p, q) => p - q)[Math.floor(times.length / 2)]!
}

async function open(): Promise<number> {
  const engine = await startEngine(2)
  const document = bellHouse()
  const start = performance.now()
  const evaluator = new Evaluator(engine.pool, async blob => demoFile(blob.slice(1)))
  displayCodes(
    engine.pool,
    await evaluator.evaluate({ document, frame: 1, shrink: 1, show: { kind: 'finish' } }),
    document.view,
  )
  engine.stop()
  return performance.now() - start
}

/** The bell house at 3840x2160, whole: seconds, and the most memory. */
async function large(): Promise<Figure[]> {
  const engine = await startEngine(2)
  const document = { ...bellHouse(), frame: { width: 3840, height: 2160 } }
  const evaluator = new Evaluator(engine.pool, async blob => demoFile(blob.slice(1)))
  const start = performance.now()
  await evaluator.evaluate({ document, frame: 1, shrink: 1, show: { kind: 'finish' } })
  const took = (performance.now() - start) / 1000
  const peak = engine.kernels.peak / 1048576
  engine.stop()
  return [
    { name: 'build.uhd', value: took, unit: 's', against: 'aim of 5 s from the files on', ratio: 5 / took },
    { name: 'build.uhd', value: peak, unit: 'MiB at most', against: '1.2 GiB', ratio: 1228.8 / peak },
  ]
}

export async function buildFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  const out: Figure[] = []
  const against = (name: string, aim: number, value: number): void => {
    out.push({ name, value, unit: 'ms', against: `aim of ${aim} ms`, ratio: aim / value })
  }
  if (wanted('build.fader.full')) against('build.fader.full', 40, await fader(1))
  if (wanted('build.fader.half')) against('build.fader.half', 16, await fader(2))
  if (wanted('build.chain.points')) out.push(...(await chain()))
  if (wanted('build.memory')) out.push(...(await memory()))
  if (wanted('build.open')) against('build.open', 1000, await open())
  if (wanted('build.uhd')) out.push(...(await large()))
  return out
}
