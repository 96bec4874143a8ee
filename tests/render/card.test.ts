// Figures that stand in the scene: what their cards do to light, to what is wet and to what is seen, from the shot's
// document through the render as the server makes it. Places by hand, from the direction of the sun and the camera.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../../core/compose/evaluate'
import { readExr } from '../../core/formats/exr/exr'
import { halvesToFloats } from '../../core/formats/exr/half'
import { writePng } from '../../core/formats/png/png'
import { project } from '../../core/match/project'
import type { Part, Texture } from '../../core/scene/scene'
import { newDocument, newTreatment, type FigureLayer, type ShotDocument } from '../../core/shot/document'
import { bringFigure } from '../../core/shot/figures'
import { addStandIn } from '../../core/shot/objects'
import { addRow } from '../../core/shot/rows'
import { sightOf } from '../../core/shot/scene'
import { slipOf, valuedTerm } from '../../core/shot/slip'
import { passStamps, sceneStamp, touchedPasses } from '../../core/shot/stamp'
import { documentFaults } from '../../shared/validate'
import { BlobStore } from '../../host/blobs'
import { startEngine, type Engine } from '../../host/engine'
import { renderPasses } from '../../host/work'
import { ground, lookAt, material, object, renderScene, scene } from '../scenes'
import { scratchFolder } from '../python'

let engine: Engine
let store: BlobStore
beforeAll(async () => {
  engine = await startEngine(2)
  store = new BlobStore(scratchFolder())
})
afterAll(() => engine.stop())

const [WIDTH, HEIGHT] = [160, 100]
const [TALL, FAR] = [1.8, 7]
/** 40 by 100 pixels: sRGB red of 188 (linear 0.503); nothing in its upper half where it is halved. */
const picture = async (halved = false) => ({
  blob: await store.put(
    writePng({
      ...{ width: 40, height: 100, channels: 4, maximum: 255 },
      data: Uint8Array.from(
        Array.from({ length: 4000 }, (_, i) => (halved && i < 2000 ? [0, 0, 0, 0] : [188, 0, 0, 255])).flat(),
      ),
    }),
  ),
  ...{ name: 'someone.png', encoding: 'srgb', alpha: 'straight' as const, width: 40, height: 100 },
})
/** Someone 7 m before the camera on an endless ground, the sun behind them at 40 degrees. */
async function shot(change: (figure: FigureLayer, document: ShotDocument) => void = () => {}, halved = false) {
  const document = newDocument(WIDTH, HEIGHT)
  document.scene.camera.pitch = -12
  const plane = { shape: 'plane' as const, width: 400, height: 0.001, depth: 400, points: [] }
  const name = addStandIn(document, [], plane, [0, 0, 0], 0)
  expect(name).toBe('plane')
  addRow(document.scene.lights, {
    ...{ id: 'l', name: 'sun', kind: 'sun' as const, on: true },
    ...{ azimuth: 0, elevation: 40, kelvin: 5600, stops: 2, diameter: 0.2 },
    ...{ width: 1, height: 1, distance: 1, target: [0, 0, 0] as [number, number, number] },
  })
  const figure = bringFigure(document, await picture(halved), 1, 'figure')
  Object.assign(figure, { x: 0.3, z: -FAR, height: TALL, world: 'scene' })
  document.passes.selected = ['beauty', 'alpha', 'depth', 'shadow', 'crypto_object', 'wet', 'occlusion']
  document.passes.samples = 48
  change(figure, document)
  expect(documentFaults(document)).toEqual([])
  return document
}
async function rendered(document: ShotDocument) {
  const evaluator = new Evaluator(engine.pool, blob => store.get(blob), 2 ** 28)
  const told = { progress: () => {}, cancelled: () => false }
  const { blob, passFile } = await renderPasses(engine, evaluator, store, document, 1, told)
  const { channels } = readExr(await store.get(blob))
  const plane = (name: string): Float32Array => {
    const found = channels.find(channel => channel.name === name)
    if (!found) throw new Error(`${name} of ${channels.map(channel => channel.name).join(' ')}`)
    const { type, data } = found
    return type === 'half' ? halvesToFloats(data as Uint16Array) : (data as Float32Array)
  }
  const at = (name: string, x: number, y: number, z: number): number => {
    const { u, v } = project(sightOf(document, 1).camera(), WIDTH / HEIGHT, [x, y, z])
    return plane(name)[Math.floor(v * HEIGHT) * WIDTH + Math.floor(u * WIDTH)]!
  }
  return { at, plane, passFile: passFile! }
}
/** How far on the ground the shadow of such a height reaches. */
const reach = (height: number): number => height / Math.tan((40 * Math.PI) / 180)

describe('its shadow', () => {
  it('falls on the ground away from the sun, as long and as wide as it is', async () => {
    const { at } = await rendered(await shot())
    // Before it by what its height throws; its picture is 0.4 of its height wide
    for (const share of [0.05, 0.5, 0.93]) expect(at('shadow.G', 0.3, 0, -FAR + reach(TALL * share))).toBeLessThan(0.1)
    expect(at('shadow.G', 0.3, 0, -FAR + reach(TALL * 1.08))).toBeGreaterThan(0.95)
    for (const side of [-1, 1]) {
      expect(at('shadow.G', 0.3 + side * 0.16 * TALL, 0, -FAR + 1)).toBeLessThan(0.1)
      expect(at('shadow.G', 0.3 + side * 0.26 * TALL, 0, -FAR + 1)).toBeGreaterThan(0.95)
    }
  })
  it('is that of what its picture covers', async () => {
    const { at } = await rendered(await shot(undefined, true))
    expect(at('shadow.G', 0.3, 0, -FAR + reach(TALL * 0.4))).toBeLessThan(0.1)
    expect(at('shadow.G', 0.3, 0, -FAR + reach(TALL * 0.6))).toBeGreaterThan(0.95)
  })
  it('falls into the picture from behind the camera', async () => {
    const { at } = await rendered(
      await shot((figure, document) => {
        Object.assign(figure, { x: 0, z: 1.2 })
        document.scene.lights.l!.azimuth = 180
        document.scene.lights.l!.elevation = 15
      }),
    )
    const far = (height: number): number => 1.2 - height / Math.tan((15 * Math.PI) / 180)
    expect(at('shadow.G', 0, 0, far(TALL * 0.9))).toBeLessThan(0.1)
    expect(at('shadow.G', 0, 0, far(TALL * 1.1))).toBeGreaterThan(0.95)
  })
})

it('is not seen itself: its layer lays it', async () => {
  const { plane, passFile } = await rendered(await shot())
  expect(Math.max(...plane('A'))).toBe(0)
  expect(Math.min(...plane('depth.Z'))).toBeGreaterThan(1e9)
  expect(passFile.standIns).toEqual(expect.arrayContaining(['plane', 'someone']))
})

it('wet ground mirrors it with its light, lines and all, where its mirror image stands', async () => {
  const wet = async (change: (figure: FigureLayer) => void = () => {}) =>
    rendered(
      await shot((figure, document) => {
        Object.assign(document.scene.objects.plane!, { wet: 1, wetRoughness: 0 })
        change(figure)
      }),
    )
  const { at } = await wet()
  const [low, high] = [at('wet.R', 0.3, -0.2 * TALL, -FAR), at('wet.R', 0.3, -0.9 * TALL, -FAR)]
  expect(low).toBeGreaterThan(0.01)
  // Steeper views mirror less (Fresnel)
  expect(high).toBeLessThan(low)
  for (const place of [-1.1, -0.5].map((y, i) => [i ? 0.3 + 0.26 * TALL : 0.3, y * TALL, -FAR] as const))
    expect(at('wet.R', ...place)).toBeLessThan(low * 0.02)
  const brighter = await wet(figure => addRow(figure.treatments, newTreatment('exposure', { stops: 1 }, 'e')))
  expect(brighter.at('wet.R', 0.3, -0.5 * TALL, -FAR) / at('wet.R', 0.3, -0.5 * TALL, -FAR)).toBeCloseTo(2, 1)
  // What a line holds of the frame it cannot hold of the card
  const held = await wet(figure => {
    const line = addRow(figure.treatments, newTreatment('exposure', { stops: 1 }, 'e'))
    // All that is as bright as this: everything
    line.matte = slipOf({ ...valuedTerm('brightness'), values: { low: 0, high: 1000, soft: 0 } } as never)
  })
  expect(held.at('wet.R', 0.3, -0.5 * TALL, -FAR) / at('wet.R', 0.3, -0.5 * TALL, -FAR)).toBeCloseTo(1, 1)
})

it('a line that softens its picture softens it where it ends, and leaves the card where it is', async () => {
  const looks = async (change: (figure: FigureLayer) => void) => {
    const evaluator = new Evaluator(engine.pool, blob => store.get(blob), 2 ** 28)
    return (await evaluator.cards(await shot(change, true), 1)).get('figure')!
  }
  const plain = await looks(() => {})
  const soft = await looks(figure => addRow(figure.treatments, newTreatment('blur', { radius: 3 }, 'b')))
  expect([soft.width, soft.height, soft.covers]).toEqual([40, 100, plain.covers])
  // Its picture ends in its middle: as much is lost below that as is seen above
  const alpha = (y: number): number => soft.pixels[(y * 40 + 20) * 4 + 3]!
  for (let y = 0; y < 50; y++) expect(alpha(y)).toBeCloseTo(1 - alpha(99 - y), 2)
  expect(alpha(50)).toBeGreaterThan(0.5)
  expect(alpha(50)).toBeLessThan(0.9)
})

describe('what is rendered again', () => {
  const touched = async (change: (figure: FigureLayer) => unknown) => {
    const document = await shot()
    document.passes.file = {
      ...{ blob: 'x', name: 'p', width: WIDTH, height: HEIGHT, objects: [], materials: [], of: '' },
      ...{ passes: document.passes.selected, stamps: passStamps(document, 1) },
    }
    const stamp = sceneStamp(document)
    change(document.build.layers.figure as FigureLayer)
    const again = touchedPasses(document, 1)
    expect(sceneStamp(document) !== stamp).toBe(again.length > 0)
    return again
  }
  it('is light, shadow, occlusion and what is mirrored, when it moves or its picture is another', async () => {
    const all = ['beauty', 'shadow', 'wet', 'occlusion']
    const sorted = (ids: string[]): string[] => [...ids].sort()
    expect(sorted(await touched(figure => (figure.x = 1)))).toEqual(sorted(all))
    expect(sorted(await touched(figure => (figure.picture.blob = 'other')))).toEqual(sorted(all))
    expect(sorted(await touched(figure => (figure.world = 'picture')))).toEqual(sorted(all))
    expect(sorted(await touched(figure => (figure.on = false)))).toEqual(sorted(all))
  })
  it('is nothing where only what lays it changes, or where it stands in the picture', async () => {
    expect(await touched(figure => (figure.shadow = 0.2))).toEqual([])
    expect(await touched(figure => (figure.note = 'Waits for the boat'))).toEqual([])
    // Nor where a line changes that is not on its card
    const line = { ...newTreatment('exposure', { stops: 1 }, 'e'), matte: slipOf(valuedTerm('brightness')) }
    expect(await touched(figure => addRow(figure.treatments, line as never))).toEqual([])
    const document = await shot(figure => delete figure.world)
    const before = [sceneStamp(document), passStamps(document, 1)]
    ;(document.build.layers.figure as FigureLayer).x = 2
    expect([sceneStamp(document), passStamps(document, 1)]).toEqual(before)
  })
})

describe('a picture of floats on a surface', () => {
  const camera = lookAt([0, 0, 3], [0, 0, 0], 40)
  const part: Part = {
    positions: Float32Array.from([-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0]),
    uvs: Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0]),
    indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    material: 0,
  }
  const cut = (pixels: Float32Array, width: number) => {
    const texture: Texture = { pixels, width, height: pixels.length / 4 / width, wrapS: 'clamp', wrapT: 'clamp' }
    return material({
      ...{ baseColour: [0, 0, 0, 1], baseTexture: texture, specular: { strength: 0, colour: [0, 0, 0] } },
      ...{ emission: [1, 1, 1], emissionTexture: texture, alphaMode: 'blend' },
    })
  }
  it('has the colour of what covers up to its last trace, beyond white too', () => {
    const { light, alpha } = renderScene(
      scene([object('card', part)], { materials: [cut(Float32Array.from([4, 2, 1, 1, 0, 0, 0, 0]), 2)] }),
      { camera, width: 32, height: 32, samples: 64, passes: ['beauty', 'alpha'] },
    )
    let soft = 0
    for (let i = 0; i < 32 * 32; i++) {
      if (!(alpha[i]! > 0.05)) continue
      if (alpha[i]! < 0.95) soft++
      const sent = Object.values(light!).reduce((sum, plane) => sum + plane[i * 3]!, 0)
      expect(sent / alpha[i]!).toBeCloseTo(4, 3)
    }
    expect(soft).toBeGreaterThan(100)
  })
  it('what is half there sends half the light', () => {
    const lit = (alpha: number): number => {
      const pixels = Float32Array.from([alpha, alpha, alpha, alpha])
      const { light } = renderScene(
        scene([object('floor', ground(20, -1.2, 1)), object('card', part, { hidden: true })], {
          materials: [cut(pixels, 1), material()],
        }),
        {
          ...{ camera: lookAt([0, 1, 3], [0, -1, 0], 40), width: 24, height: 24, samples: 256 },
          ...{ passes: ['beauty'], maxBounces: 1 },
        },
      )
      return Object.values(light!).reduce((sum, plane) => plane.reduce((total, value) => total + value, sum), 0)
    }
    expect(lit(0.5) / lit(1)).toBeCloseTo(0.5, 2)
  })
})
