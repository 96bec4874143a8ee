// Layers cut to slips: by the definition of a gradient (3t^2 - 2t^3 along its line), over a wash of 0.5.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { newDocument, newTreatment, type Layer, type ShotDocument, type Slip } from '../core/shot/document'
import { addLayer, makeLayer } from '../core/shot/layers'
import { addRow } from '../core/shot/rows'
import { slipOf, slipsOf, usesOf, valuedTerm, keptTerm } from '../core/shot/slip'
import { startEngine, type Engine } from '../host/engine'
import { documentFaults } from '../shared/validate'
import { Files } from './compose/passes'

const [WIDTH, HEIGHT] = [40, 24]
const files = new Files()
let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())
/** Of the row at 10, the first channel. */
async function row(document: ShotDocument, show: Parameters<Evaluator['evaluate']>[0]['show'] = { kind: 'build' }) {
  expect(documentFaults(document)).toEqual([])
  const evaluator = new Evaluator(engine.pool, files.load, 2 ** 26)
  const { pointer } = await evaluator.evaluate({ document, frame: 1, shrink: 1, show })
  return [...engine.kernels.floats(pointer, WIDTH * HEIGHT * 4)].filter((_, i) => i % 4 === 0).slice(10 * WIDTH)
}
const share = (x: number): number => {
  const t = (x + 0.5) / WIDTH
  return t * t * (3 - 2 * t)
}
/** From nothing at the left to all at the right. */
const rising = (): Slip =>
  slipOf({ ...valuedTerm('gradient'), values: { shape: 'line', from_x: 0, from_y: 0, to_x: WIDTH, to_y: 0 } })
const white = (code = 255): Record<string, unknown> => ({
  picture: {
    blob: files.keep(
      writePng({
        width: WIDTH,
        height: HEIGHT,
        channels: 3,
        maximum: 255,
        data: new Uint8Array(WIDTH * HEIGHT * 3).fill(code),
      }),
    ),
    name: 'white.png',
    encoding: 'linear',
    alpha: 'none',
    width: WIDTH,
    height: HEIGHT,
  },
  x: WIDTH / 2,
  y: HEIGHT / 2,
  scale: 1,
  rotation: 0,
  distance: 5,
})
type Laid = Extract<Layer, { opacity: unknown }>
function shot(kind: Layer['kind'] = 'picture', more: Record<string, unknown> = white()) {
  const document = newDocument(WIDTH, HEIGHT)
  document.build.layers = {}
  addLayer(
    document,
    makeLayer('wash', { id: 'behind', name: 'Behind', colour: [0.5, 0.5, 0.5], distance: 1e6, opacity: 1 }),
  )
  const id = addLayer(document, makeLayer(kind, more))
  return { document, layer: document.build.layers[id] as Laid }
}

describe('a layer', () => {
  it('shows as much of itself as its slip holds, before its lines', async () => {
    const { document, layer } = shot()
    layer.matte = rising()
    const over = (value: number) => (_: unknown, x: number) => share(x) * value + (1 - share(x)) * 0.5
    let now = await row(document)
    Array.from({ length: WIDTH }, over(1)).forEach((value, x) => expect(now[x]).toBeCloseTo(value, 5))
    addRow(layer.treatments, newTreatment('exposure', { stops: -1 }, 'e'))
    now = await row(document)
    Array.from({ length: WIDTH }, over(0.5)).forEach((value, x) => expect(now[x]).toBeCloseTo(value, 5))
    // Its matte by itself, of what comes to it, and that
    now = await row(document, { kind: 'matte', matte: layer.matte, line: layer.id, as: 'grey' })
    for (let x = 0; x < WIDTH; x++) expect(now[x]).toBeCloseTo(share(x), 5)
    now = await row(document, { kind: 'comes', line: layer.id })
    for (let x = 0; x < WIDTH; x++) expect(now[x]).toBe(1)
  })
  it('stays whole where its slip cannot be made, or says nothing', async () => {
    for (const slip of [slipOf(valuedTerm('facing')), slipOf()]) {
      const { document, layer } = shot()
      layer.matte = slip
      expect(new Set((await row(document)).slice(0, WIDTH))).toEqual(new Set([1]))
    }
  })
  it('as a group is cut as a whole', async () => {
    const { document, layer } = shot('group', {})
    addLayer(document, makeLayer('picture', { ...white(), within: layer.id }))
    addLayer(document, makeLayer('picture', { ...white(), within: layer.id, distance: 6 }))
    layer.matte = rising()
    const now = await row(document)
    for (let x = 0; x < WIDTH; x++) expect(now[x]).toBeCloseTo(share(x) + (1 - share(x)) * 0.5, 5)
  })
  it('is told among the uses of a kept matte', () => {
    const { document, layer } = shot()
    addRow(document.mattes, { id: 'm', name: 'right', slip: rising() })
    layer.matte = slipOf(keptTerm('m'))
    expect(usesOf(document, 'm').map(({ label }) => label)).toEqual([`what ${layer.name} is cut to`])
    expect(slipsOf(document)).toHaveLength(2)
  })
})
