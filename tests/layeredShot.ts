// A small shot of layers whose numbers are known, and what they make.
import { afterAll, beforeAll, expect } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import type { Show } from '../core/compose/request'
import { newDocument, type Layer, type ShotDocument } from '../core/shot/document'
import { addLayer, makeLayer } from '../core/shot/layers'
import { startEngine, type Engine } from '../host/engine'
import { writePng } from '../core/formats/png/png'
import { documentFaults } from '../shared/validate'
import { Files, lit, passFile } from './compose/passes'

export const SIZE = [40, 24] as const
export const [WIDTH, HEIGHT] = SIZE
export const files = new Files()
export let engine: Engine
export let evaluator: Evaluator
/** Runs them in this file. */
export function useLayers(): void {
  beforeAll(async () => {
    engine = await startEngine(2)
    evaluator = new Evaluator(engine.pool, files.load, 2 ** 28)
  })
  afterAll(() => engine.stop())
}

export const show: Show = { kind: 'build' }
export async function built(document: ShotDocument, only?: string[]): Promise<Float32Array> {
  expect(documentFaults(document)).toEqual([])
  const raster = await evaluator.evaluate({ document, frame: 1, shrink: 1, show, only })
  return engine.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
}
export const pixel = (pixels: Float32Array, x: number, y = 10): number[] => [
  ...pixels.slice((y * WIDTH + x) * 4, (y * WIDTH + x) * 4 + 4),
]
export const close = (a: ArrayLike<number>, b: ArrayLike<number>, most: number): void => {
  let worst = 0
  for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!))
  expect(worst).toBeLessThan(most)
}

/** Without a plate: what is behind is a wash of 0.5, as far as can be. */
export function shot(): ShotDocument {
  const document = newDocument(WIDTH, HEIGHT)
  delete document.build.layers.plate
  const wall = passFile(
    files,
    SIZE,
    {
      A: x => (x >= 10 && x < 20 ? 1 : 0),
      'depth.Z': x => (x >= 10 && x < 20 ? 10 : 1e10),
      ...lit(x => (x >= 10 && x < 20 ? 0.25 : 0)),
      ...Object.fromEntries(['R', 'G', 'B'].map(c => [`shadow.${c}`, (x: number) => (x >= 20 ? 0.5 : 1)])),
      ...Object.fromEntries(['R', 'G', 'B'].map(c => [`wet.${c}`, (x: number) => (x >= 30 ? 0.1 : 0)])),
      ...Object.fromEntries(['R', 'G', 'B'].map(c => [`volume.${c}`, () => 0.05])),
      'volume.A': () => 0.2,
      'outline.Y': x => (x === 10 ? 1 : 0),
      'occlusion.Y': x => (x >= 35 ? 0.5 : 1),
    },
    { passes: ['beauty', 'alpha', 'depth', 'shadow', 'wet', 'volume', 'outline', 'occlusion'] },
  )
  document.passes.file = wall
  document.build.layers.shadow!.on = false
  add(document, 'wash', { id: 'behind', name: 'Behind', colour: [0.5, 0.5, 0.5], distance: 1e6, opacity: 1 })
  return document
}
export function add(document: ShotDocument, kind: Layer['kind'], more: Record<string, unknown>): string {
  return addLayer(document, makeLayer(kind, more))
}
/** One colour over some columns, at a distance. */
export function strip(
  from: number,
  to: number,
  value: number,
  more: Record<string, unknown> = {},
): Record<string, unknown> {
  const code = Math.round(value * 255)
  const blob = files.keep(
    writePng({
      width: to - from,
      height: HEIGHT,
      channels: 3,
      maximum: 255,
      data: new Uint8Array((to - from) * HEIGHT * 3).fill(code),
    }),
  )
  return {
    picture: { blob, name: 'strip.png', encoding: 'linear', alpha: 'none', width: to - from, height: HEIGHT },
    x: (from + to) / 2,
    y: HEIGHT / 2,
    scale: 1,
    rotation: 0,
    ...more,
  }
}
