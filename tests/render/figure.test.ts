// Figures against our renderer, which traces a card in the same place: where they stand, the shadow that they throw, what
// a smooth ground mirrors of them.
import { writeFileSync } from 'node:fs'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { cardOf, inWorld, type Card } from '../../core/layer/card'
import { figure } from '../../core/layer/figure'
import { contactOf, FIGURE_VALUES, stanceOf, type FigureValues } from '../../core/layer/figureValues'
import { flat, type LayerInput, type Shown } from '../../core/layer/layer'
import { project, rayThrough } from '../../core/match/project'
import { kernelNode, type Node } from '../../core/plan/node'
import { Runner } from '../../core/plan/runner'
import { boxOfSize, sized } from '../../core/plan/size'
import { NO_DEPTH } from '../../core/render/passes'
import type { Light, Part, Texture } from '../../core/scene/scene'
import { surroundingsOf } from '../../core/scene/surroundings'
import { dot, normalized, type Vector3 } from '../../core/scene/vector'
import { beautyOf } from '../../core/render/planes'
import { firstValues } from '../../core/declare/values'
import { startEngine, type Engine } from '../../host/engine'
import { Wash } from '../../kernels/records'
import { given } from '../compose/treat'
import { constantEnvironment, ground, lookAt, material, object, renderScene, scene } from '../scenes'

let engine: Engine
let runner: Runner
beforeAll(async () => {
  engine = await startEngine(2)
  runner = new Runner(engine.pool, 2 ** 27)
})
afterAll(() => engine.stop())

// A part of a picture of 360 by 240, where the shadow and the mirror image lie
const SIZE = sized({ width: 216, height: 136, left: 0, top: 0 }, 1)
const ASPECT = SIZE.width / SIZE.height
const seen = lookAt([0, 3.4, 0], [0.8, 0.5, -5.4], 40)
const camera = { ...seen, focalLength: (40 * 360) / 216, shiftX: 0.41667, shiftY: -0.8088 }

// Someone of 120 by 300 pixels: a round head, a coat, two legs apart; a bag at one side, so that it is not the same both ways
const [WIDE, TALL] = [120, 300]
const isBody = (x: number, y: number): boolean =>
  Math.hypot(x - 60, y - 28) < 22 ||
  (y > 55 && y < 190 && Math.abs(x - 60) < 24 + (y - 55) / 8) ||
  (y >= 190 && y < 290 && (Math.abs(x - 45) < 9 || Math.abs(x - 76) < 9)) ||
  (x > 92 && x < 112 && y > 120 && y < 170)
const bytes = new Uint8Array(WIDE * TALL * 4)
for (let y = 0; y < TALL; y++)
  for (let x = 0; x < WIDE; x++) {
    let inside = 0
    for (let k = 0; k < 16; k++) if (isBody(x + ((k % 4) + 0.5) / 4, y + (Math.floor(k / 4) + 0.5) / 4)) inside++
    bytes.set(
      [y < 55 ? 255 : 0, y >= 55 && y < 190 ? 255 : 0, y >= 190 ? 255 : 0, Math.round((inside / 16) * 255)],
      (y * WIDE + x) * 4,
    )
  }
const texture: Texture = { pixels: bytes, width: WIDE, height: TALL, wrapS: 'clamp', wrapT: 'clamp' }
/** Its pixels, scene-linear and premultiplied: full channels are 1 in both. */
const own = (): Node =>
  given(
    Float32Array.from(bytes, (value, i) =>
      i % 4 === 3 ? value / 255 : (value / 255) * (bytes[i - (i % 4) + 3]! / 255),
    ),
    WIDE,
  )
const PICTURE = { width: WIDE, height: TALL, pixelAspect: 1 }
const VALUES: FigureValues = {
  ...(firstValues(FIGURE_VALUES) as unknown as FigureValues),
  ...{ x: 0.4, z: -6, height: 1.75, foot_across: 0.5, foot_down: 290 / TALL, head_down: 6 / TALL, round: 0 },
}
const SUN: Light = {
  ...{ kind: 'sun', name: 'sun', diameter: 4, irradiance: [3, 2.5, 2] },
  direction: normalized([0.5, -0.8, 0.75]),
}
const inputOf = (change: Partial<LayerInput> = {}): LayerInput =>
  ({
    ...{ frame: 1, size: SIZE, camera: () => camera, lights: () => [SUN], surroundings: () => undefined },
    picture: () => ({ node: own(), ...PICTURE }),
    valuesAt: () => VALUES,
    ...change,
  }) as unknown as LayerInput
const valuesOf = async (node: Node): Promise<Float32Array> => {
  const { pointer, left, top, right, bottom } = await runner.run(node, node.window)
  const pixels = engine.kernels.floats(pointer, (right - left) * (bottom - top) * 4)
  const all = new Float32Array(SIZE.width * SIZE.height * 4)
  for (let y = top; y < bottom; y++)
    all.set(
      pixels.subarray((y - top) * (right - left) * 4, (y - top + 1) * (right - left) * 4),
      (y * SIZE.width + left) * 4,
    )
  return all
}
/** A card as a part of a scene: the rectangle of the whole picture. */
function partOf(card: Card, index: number): Part {
  const corners = [[0, TALL], [WIDE, TALL], [WIDE, 0], [0, 0]].map(([x, y]) => inWorld(card, x!, y!)) // prettier-ignore
  return {
    positions: Float32Array.from(corners.flat()),
    uvs: Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0]),
    indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    material: index,
  }
}
const cut = material({
  name: 'cut',
  baseColour: [0, 0, 0, 1],
  alphaMode: 'blend',
  baseTexture: texture,
  roughness: 1,
  specular: { strength: 0, colour: [0, 0, 0] },
})
const cardFor = (values: FigureValues, by = camera): Card => cardOf(stanceOf(values), contactOf(values), PICTURE, by)
const plate = (light: readonly [number, number, number]): Shown =>
  flat(kernelNode(Wash, { colour: [...light, 1] }, { window: boxOfSize(SIZE) }), NO_DEPTH, SIZE)
/** What is cast on a plate of such a light. */
async function castOn(
  values: FigureValues,
  input: LayerInput,
  light: readonly [number, number, number],
): Promise<Float32Array> {
  const casts = figure.casts!(input, values as never, {
    opacity: 1,
    mode: 'over',
    lined: picture => picture.colour,
    where: () => 'everywhere',
  })
  const all = casts.reduce((below, cast) => cast.lay(below), plate(light))
  return valuesOf(all.colour)
}
const keep = (name: string, values: ArrayLike<number>, stride: number): void => {
  if (!process.env.LOOK) return
  const out = Buffer.alloc(SIZE.width * SIZE.height * 3)
  for (let i = 0; i < SIZE.width * SIZE.height; i++)
    for (let c = 0; c < 3; c++)
      out[i * 3 + c] = Math.min(255, Math.max(0, Math.round(values[i * stride + c]! ** (1 / 2.2) * 255)))
  writeFileSync(`/tmp/${name}.ppm`, Buffer.concat([Buffer.from(`P6 ${SIZE.width} ${SIZE.height} 255\n`), out]))
}

it('its foot and head are where the camera projects them, and its picture lies between', async () => {
  for (const [x, z, height] of [
    [0.4, -6, 1.75],
    [1.2, -5, 1.1],
    [-0.5, -9, 2.2],
  ] as const) {
    // prettier-ignore
    const values = { ...VALUES, x, z, height }
    const shown = figure.plan(inputOf({ camera: () => seen }), values as never)!
    const pixels = await valuesOf(shown.colour)
    const alpha = (px: number, py: number): number => pixels[(Math.floor(py) * SIZE.width + Math.floor(px)) * 4 + 3]!
    const at = (px: number, py: number): [number, number] => {
      const { u, v } = project(seen, ASPECT, inWorld(cardFor(values, seen), px, py))
      return [u * SIZE.width, v * SIZE.height]
    }
    // By the pinhole alone: the foot on the ground, the head as high over it
    const foot = project(seen, ASPECT, [x, 0, z])
    const head = project(seen, ASPECT, [x, height, z])
    const tall = (foot.v - head.v) * SIZE.height
    expect(Math.abs(at(60, 290)[1] - foot.v * SIZE.height)).toBeLessThan(tall * 0.001)
    expect(Math.abs(at(60, 6)[1] - head.v * SIZE.height)).toBeLessThan(tall * 0.001)
    // A row of its picture: how far it is covered there adds up to where its edges are
    const [, row] = at(60, 100)
    const [left, right] = [at(60 - 24 - 45 / 8, 100)[0], at(60 + 24 + 45 / 8, 100)[0]]
    let covered = 0
    for (let px = 0; px < SIZE.width; px++) covered += alpha(px, row)
    expect(covered).toBeGreaterThan((right - left) * 0.97)
    expect(covered).toBeLessThan((right - left) * 1.03)
    expect(shown.span.near).toBeCloseTo(foot.metres, 6)
  }
})

it('goes where its keys and the camera bring it: from where it was seen a frame ago to where it is a frame on', async () => {
  // It walks 8 cm a frame to the right, and the camera comes 5 cm nearer
  const at = (frame: number): { values: FigureValues; by: typeof seen } => ({
    values: { ...VALUES, x: 0.4 + 0.08 * (frame - 1) },
    by: { ...seen, matrix: seen.matrix.map((value, i) => (i === 14 ? value - 0.05 * (frame - 1) : value)) },
  })
  const input = inputOf({ camera: (frame = 1) => at(frame).by, valuesAt: frame => at(frame).values as never })
  const shown = figure.plan(input, VALUES as never)!
  const motion = await valuesOf(shown.motion!())
  const of = (frame: number): [number, number] => {
    const { values, by } = at(frame)
    const { u, v } = project(by, ASPECT, inWorld(cardFor(values, by), 60, 120))
    return [u * SIZE.width, v * SIZE.height]
  }
  const [now, next, before] = [of(1), of(2), of(0)]
  const pixel = Math.floor(now[1]) * SIZE.width + Math.floor(now[0])
  expect(motion[pixel * 4]).toBeCloseTo(next[0] - now[0], 1)
  expect(motion[pixel * 4 + 1]).toBeCloseTo(next[1] - now[1], 1)
  expect(motion[pixel * 4 + 2]).toBeCloseTo(before[0] - now[0], 1)
  expect(motion[pixel * 4 + 3]).toBeCloseTo(before[1] - now[1], 1)
  expect(Math.abs(motion[pixel * 4]!)).toBeGreaterThan(0.5)
  // What stays has no motion
  expect(figure.plan(inputOf(), VALUES as never)!.motion).toBeUndefined()
})

describe('its shadow', () => {
  const catcher = object('ground', ground(60, 0, 0), { role: 'catcher' })
  const traced = (lights: Light[], environment: boolean, values: FigureValues): Float32Array =>
    renderScene(
      scene([catcher, object('card', partOf(cardFor(values), 1), { hidden: true })], {
        ...{ materials: [material(), cut], lights },
        ...(environment ? { environment: constantEnvironment(0.4) } : {}),
      }),
      { camera, width: SIZE.width, height: SIZE.height, samples: 128, passes: ['shadow'] },
    ).shadow
  const LAMP: Light = {
    kind: 'disc',
    name: 'lamp',
    centre: [-1.2, 3.6, -8.5],
    normal: normalized([0.4, -0.7, 0.6]),
    radius: 0.25,
    radiance: [30, 20, 12],
  }
  it.each([
    ['a sun', SUN],
    ['a lamp', LAMP],
  ])('from %s lies and softens as a traced one does', async (name, light) => {
    const real = traced([light], false, VALUES)
    const laid = await castOn(VALUES, inputOf({ lights: () => [light] }), [1, 1, 1])
    keep(`shadow-${name}-traced`, real, 3)
    keep(`shadow-${name}-laid`, laid, 4)
    let [both, either, softReal, softLaid] = [0, 0, 0, 0]
    const isSoft = (ratio: number): number => Number(ratio > 0.1 && ratio < 0.9)
    for (let i = 0; i < SIZE.width * SIZE.height; i++) {
      const [a, b] = [real[i * 3]!, laid[i * 4]!]
      both += Number(a < 0.5 && b < 0.5)
      either += Number(a < 0.5 || b < 0.5)
      softReal += isSoft(a)
      softLaid += isSoft(b)
    }
    expect(either).toBeGreaterThan(1000)
    expect(both / either).toBeGreaterThan(0.97)
    expect(softLaid / softReal).toBeGreaterThan(0.9)
    expect(softLaid / softReal).toBeLessThan(1.1)
  })
  it('takes of each colour as much as the lights that it stops give, of the sky too', async () => {
    const lights = [SUN, LAMP]
    const surroundings = {
      light: surroundingsOf(constantEnvironment(0.4).pixels, 16, 8),
      turn: 0,
      gain: [1, 1, 1] as Vector3,
    }
    const real = traced(lights, true, VALUES)
    const laid = await castOn(VALUES, inputOf({ lights: () => lights, surroundings: () => surroundings }), [1, 1, 1])
    keep('shadow-all-traced', real, 3)
    keep('shadow-all-laid', laid, 4)
    let [sum, count] = [0, 0]
    for (let i = 0; i < SIZE.width * SIZE.height; i++)
      for (let c = 0; c < 3; c++) {
        if (real[i * 3 + c]! > 0.98) continue
        sum += (real[i * 3 + c]! - laid[i * 4 + c]!) ** 2
        count++
      }
    expect(count).toBeGreaterThan(10000)
    expect(Math.sqrt(sum / count)).toBeLessThan(0.03)
  })
})

/** Fresnel's share of what is mirrored at a border to such an index, and Schlick's, as glTF 2.0 and so the renderer have it. */
function mirroredShare(cosine: number, n: number): { fresnel: number; schlick: number } {
  const into = Math.sqrt(1 - (1 - cosine ** 2) / n ** 2)
  const fresnel =
    (((cosine - n * into) / (cosine + n * into)) ** 2 + ((into - n * cosine) / (into + n * cosine)) ** 2) / 2
  const straight = ((n - 1) / (n + 1)) ** 2
  return { fresnel, schlick: straight + (1 - straight) * (1 - cosine) ** 5 }
}
/** What a smooth dark plane of such an index mirrors of the card, traced, as Fresnel would have it. */
function tracedMirror(
  by: typeof camera,
  values: FigureValues,
  plane: Part,
  normal: Vector3,
  ior: number,
): Float32Array {
  const mirror = material({ name: 'mirror', baseColour: [0, 0, 0, 1], roughness: 0, ior })
  const shining = material({ ...cut, emission: [1, 1, 1], emissionTexture: texture })
  const real = beautyOf(
    renderScene(
      scene([object('mirror', plane), object('card', partOf(cardFor(values, by), 1), { hidden: true })], {
        materials: [mirror, shining],
      }),
      { camera: by, width: SIZE.width, height: SIZE.height, samples: 64, passes: ['beauty'] },
    ),
  )
  for (let i = 0; i < SIZE.width * SIZE.height; i++) {
    const u = ((i % SIZE.width) + 0.5) / SIZE.width
    const d = rayThrough(by, ASPECT, u, (Math.floor(i / SIZE.width) + 0.5) / SIZE.height)
    const { fresnel, schlick } = mirroredShare(Math.abs(dot(d, normal)), ior)
    for (let c = 0; c < 3; c++) real[i * 3 + c]! *= fresnel / schlick
  }
  return real
}
/** Of each colour the middle of its light lies at the same place, and there is as much of it. */
function expectAlike(real: Float32Array, laid: Float32Array, within: { pixels: number; share: number }): void {
  for (const c of [0, 1, 2]) {
    const of = (pixels: Float32Array, stride: number): [number, number, number] => {
      let [sum, x, y] = [0, 0, 0]
      for (let i = 0; i < SIZE.width * SIZE.height; i++) {
        const light = pixels[i * stride + c]!
        sum += light
        x += light * (i % SIZE.width)
        y += light * Math.floor(i / SIZE.width)
      }
      return [sum, x / sum, y / sum]
    }
    const [a, b] = [of(real, 3), of(laid, 4)]
    expect(a[0]).toBeGreaterThan(0.3)
    expect(Math.hypot(a[1] - b[1], a[2] - b[2])).toBeLessThan(within.pixels)
    expect(Math.abs(a[0] / b[0] - 1)).toBeLessThan(within.share)
  }
}

it('still water mirrors it where a traced mirror does, and as much', async () => {
  const values = { ...VALUES, shadow: 0, mirror: 1 }
  const real = tracedMirror(camera, values, ground(60, 0, 0), [0, 1, 0], 1.333)
  const laid = await castOn(values, inputOf(), [0, 0, 0])
  keep('mirror-traced', real.map(value => value * 20), 3) // prettier-ignore
  keep('mirror-laid', laid.map(value => value * 20), 4) // prettier-ignore
  expectAlike(real, laid, { pixels: 0.25, share: 0.05 })
})
it('a window behind it mirrors it where a traced pane does, and as much, however it is turned', async () => {
  const by = lookAt([0, 1.9, 0], [0.6, 0.9, -7], 30)
  for (const wall_turn of [24, -35]) {
    const values = {
      ...{ ...VALUES, shadow: 0, wall: 'upright' as const, mirror_wall: 1 },
      ...{ wall_x: 0.4, wall_z: -7.6, wall_turn },
    }
    const angle = (wall_turn * Math.PI) / 180
    // Along the wall, counter-clockwise from above, and what stands up from it toward the camera
    const along: Vector3 = [Math.cos(angle), 0, -Math.sin(angle)]
    const normal: Vector3 = [Math.sin(angle), 0, Math.cos(angle)]
    const corner = (s: number, y: number): number[] => [0.4 + along[0] * s, y, -7.6 + along[2] * s]
    const pane: Part = {
      positions: Float32Array.from([corner(-9, -5), corner(9, -5), corner(9, 9), corner(-9, 9)].flat()),
      uvs: Float32Array.from([0, 0, 1, 0, 1, 1, 0, 1]),
      indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
      material: 0,
    }
    const real = tracedMirror(by, values, pane, normal, 1.5)
    const laid = await castOn(values, inputOf({ camera: () => by }), [0, 0, 0])
    keep(`window${wall_turn}-traced`, real.map(value => value * 20), 3) // prettier-ignore
    keep(`window${wall_turn}-laid`, laid.map(value => value * 20), 4) // prettier-ignore
    expectAlike(real, laid, { pixels: 0.25, share: 0.05 })
  }
})
