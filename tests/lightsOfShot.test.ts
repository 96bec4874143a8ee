// What treatments know of the light of a shot's scene, through its document and its files.
import { Document, WebIO } from '@gltf-transform/core'
import { KHRLightsPunctual, Light } from '@gltf-transform/extensions'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeHdr } from '../core/formats/hdr/hdr'
import { Evaluator } from '../core/compose/evaluate'
import {
  newDocument,
  newTreatment,
  type LightSettings,
  type ShotDocument,
  type TreatmentSettings,
} from '../core/shot/document'
import { addLayer, makeLayer } from '../core/shot/layers'
import { rowsOf } from '../core/shot/rows'
import { startEngine, type Engine } from '../host/engine'
import { Files } from './compose/passes'

const [WIDTH, HEIGHT] = [192, 128]
let engine: Engine
beforeAll(async () => {
  engine = await startEngine(1)
})
afterAll(() => engine.stop())

/** A lamp of a file, and a crate that something may point at. */
async function sceneFile(): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const lights = document.createExtension(KHRLightsPunctual)
  const lamp = lights.createLight('lamp').setType(Light.Type.POINT!).setIntensity(10).setColor([1, 0.5, 0.25])
  const positions = document
    .createAccessor()
    .setType('VEC3')
    .setBuffer(buffer)
    .setArray(Float32Array.from([-0.5, -0.5, 0, 0.5, -0.5, 0, 0.5, 0.5, 0, -0.5, 0.5, 0]))
  const indices = document
    .createAccessor()
    .setBuffer(buffer)
    .setArray(Uint16Array.from([0, 1, 2, 0, 2, 3]))
  const mesh = document
    .createMesh('crate')
    .addPrimitive(document.createPrimitive().setAttribute('POSITION', positions).setIndices(indices))
  const scene = document.createScene()
  scene.addChild(document.createNode('lamp').setTranslation([-1, 2, -6]).setExtension('KHR_lights_punctual', lamp))
  scene.addChild(document.createNode('crate').setTranslation([2, 1, -6]).setMesh(mesh))
  return new WebIO().registerExtensions([KHRLightsPunctual]).writeBinary(document)
}

const lampOf = (values: Partial<LightSettings>): LightSettings => ({
  ...{ id: 'own', order: 'a', name: 'own', kind: 'ball', on: true, azimuth: 90, elevation: 0, kelvin: 6500, stops: 3 },
  ...{ diameter: 1, width: 0.4, height: 1, distance: 1, target: [0, 0, 0] },
  ...values,
})
/** Camera at 1.6 m, level, 36 mm of sensor, 36 of focal length. */
function shot(): ShotDocument {
  const document = newDocument(WIDTH, HEIGHT)
  const camera = { focalLength: 36, sensorWidth: 36, x: 0, y: 1.6, z: 0, heading: 0, pitch: 0, bank: 0 }
  document.scene.camera = camera
  return document
}
const fed = (document: ShotDocument, kind: string, values: object): void => {
  document.finish = rowsOf<TreatmentSettings>([newTreatment(kind, values as never)])
}
async function finished(document: ShotDocument, files: Files): Promise<Float32Array> {
  const raster = await new Evaluator(engine.pool, files.load, 2 ** 28).evaluate({
    ...{ document, frame: 1, shrink: 1, show: { kind: 'finish' } },
  })
  // Nothing beyond the frame is sent
  expect(raster).toMatchObject({ left: 0, top: 0, right: WIDTH, bottom: HEIGHT })
  return engine.kernels.floats(raster.pointer, WIDTH * HEIGHT * 4).slice()
}
/** Sum of light about a place of the world. */
const about = (picture: Float32Array, [x, y, z]: readonly [number, number, number], reach = 12): number[] => {
  const [px, py] = [WIDTH / 2 + (x / -z) * WIDTH, HEIGHT / 2 - ((y - 1.6) / -z) * WIDTH]
  const sums = [0, 0, 0]
  for (let i = 0; i < WIDTH * HEIGHT; i++)
    if (Math.hypot((i % WIDTH) + 0.5 - px, Math.floor(i / WIDTH) + 0.5 - py) < reach)
      for (let c = 0; c < 3; c++) sums[c]! += picture[i * 4 + c]!
  return sums
}

describe('lamps of a shot', () => {
  it('those of its file and its own, also one that points at a thing of the file, stand where they are', async () => {
    const files = new Files()
    const blob = files.keep(await sceneFile())
    const document = shot()
    document.scene.file = { blob, name: 'scene.glb' }
    document.scene.lights = rowsOf<LightSettings>([lampOf({ aim: 'crate', distance: 0.6 })])
    fed(document, 'halo', { feeds: 'the shot’s lamps', shows: 'what feeds it', amount: 1 })
    const picture = await finished(document, files)
    // 10 W/sr at 6.03 m: so much at right angles to the way, over what a pixel of a width of 1/192 sees
    const [red, green, blue] = about(picture, [-1, 2, -6])
    const far = 1 + 0.4 * 0.4 + 36
    const cosine = 6 / Math.sqrt(far)
    expect(red! / ((10 / far) * (WIDTH * WIDTH)) / (1 / cosine ** 3)).toBeCloseTo(1, 1)
    expect([green! / red!, blue! / red!]).toEqual([expect.closeTo(0.5, 3), expect.closeTo(0.25, 3)])
    // 0.6 m to the right of the crate's middle
    const own = about(picture, [2.6, 1, -6])
    // A ball of 0.2 m at that distance, 8 W/(m2 sr)
    const seen = ((0.2 / Math.hypot(2.6, 0.6, 6)) ** 2 * Math.PI * WIDTH * WIDTH) / (6 / Math.hypot(2.6, 0.6, 6)) ** 3
    const light = own[0]! * 0.2126 + own[1]! * 0.7152 + own[2]! * 0.0722
    expect(light / (8 * seen)).toBeCloseTo(1, 1)
    // Off, they give nothing
    document.scene.fileLights = false
    expect(about(await finished(document, files), [-1, 2, -6])[0]).toBe(0)
    document.scene.lights.own!.on = false
    expect(Math.max(...(await finished(document, files)).filter((_, i) => i % 4 < 3))).toBe(0)
  })
  it('fog takes the light of the environment, turned and as strong as it is; without one, its colour', async () => {
    const files = new Files()
    // Bright to the right of the world (+X) alone, as one looks along -Z
    const [width, height] = [64, 32]
    const pixels = Float32Array.from({ length: width * height * 4 }, (_, i) =>
      Math.floor(i / 4) % width > 40 && Math.floor(i / 4) % width < 56 ? 2 : 0.1,
    )
    const blob = files.keep(writeHdr({ width, height, pixels }))
    const document = shot()
    fed(document, 'fog', { scatters: 'the surroundings', half: 1, most: 1, forward: 0.6, colour: [1, 1, 1] })
    // Fog is laid on what is covered
    addLayer(
      document,
      makeLayer('wash', { id: 'behind', name: 'Behind', colour: [0, 0, 0], distance: 1e6, opacity: 1 }),
    )
    const seen = async (turn: number, stops: number): Promise<[number, number]> => {
      document.scene.environment = {
        ...{ blob, name: 'sky.hdr', width, height, encoding: 'linear', alpha: 'straight' },
        ...{ turn, stops, seen: false },
      } as never
      const picture = await finished(document, files)
      return [picture[(64 * WIDTH + 8) * 4]!, picture[(64 * WIDTH + 184) * 4]!]
    }
    const [left, right] = await seen(0, 0)
    expect(right).toBeGreaterThan(left * 1.3)
    // Turned to the right by a half, it shines from the left; a stop more is twice as much
    const [other, less] = await seen(180, 1)
    expect(other).toBeGreaterThan(less * 1.3)
    expect(other / right).toBeCloseTo(2, 0)
    document.scene.environment = null
    expect((await finished(document, files))[(64 * WIDTH + 8) * 4]).toBeCloseTo(1, 2)
  })
})
