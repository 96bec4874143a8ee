// Building: order by depth, desk, mattes, caching, and the same bytes whatever the number of threads.
import { namesTerm, slipOf } from '../core/shot/slip'
import { addRow, rowsOf, type Unplaced } from '../core/shot/rows'
import { ownRender } from '../core/shot/tree'
import { createHash } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { deliver } from '../core/compose/deliver'
import { writePng } from '../core/formats/png/png'
import { compileScene } from '../core/render/compile'
import { passesToExr } from '../core/render/passfile'
import { PASS_IDS } from '../core/render/passes'
import { Render } from '../core/render/render'
import {
  newDocument,
  newTreatment,
  type PictureLayer,
  type ShotDocument,
  type LightSettings,
  type Pin,
  type TreatmentSettings,
} from '../core/shot/document'
import { sceneStamp } from '../core/shot/stamp'
import { startEngine, type Engine } from '../host/engine'
import { documentFaults } from '../shared/validate'
import { ball, constantEnvironment, ground, lookAt, material, object, scene } from './scenes'

const WIDTH = 48
const HEIGHT = 32
const files = new Map<string, Uint8Array>()
const keep = (bytes: Uint8Array): string => {
  const name = createHash('sha256').update(bytes).digest('hex')
  files.set(name, bytes)
  return name
}
const load = async (blob: string): Promise<Uint8Array> => files.get(blob)!
let one: Engine
let two: Engine
let document: ShotDocument

const description = scene(
  [
    object('quay', ground(20), { role: 'catcher' }),
    object('near', ball([-0.8, 0.7, -4], 0.7, 24)),
    object('far', ball([0.9, 0.8, -8], 0.8, 24, 1)),
  ],
  {
    materials: [material(), material({ name: 'red', baseColour: [0.8, 0.1, 0.1, 1], roughness: 0.4 })],
    environment: constantEnvironment(0.7),
  },
)
const camera = lookAt([0, 1.5, 0], [0, 0.8, -6], 35)

function render(engine: Engine): Uint8Array {
  const compiled = compileScene(engine.kernels, description)
  const job = new Render(engine.pool, compiled, {
    width: WIDTH,
    height: HEIGHT,
    samples: 16,
    passes: PASS_IDS,
    camera,
    seed: 3,
  })
  while (!job.done) job.step(5)
  const bytes = passesToExr(job.snapshot(), {
    passes: PASS_IDS,
    objectNames: ['quay', 'near', 'far'],
    materialNames: ['white', 'red'],
    lightGroups: compiled.lightGroups,
  })
  job.dispose()
  compiled.dispose()
  return bytes
}

beforeAll(async () => {
  one = await startEngine(1)
  two = await startEngine(2)
  document = newDocument(WIDTH, HEIGHT)
  const plate = new Uint8Array(WIDTH * HEIGHT * 3).fill(120)
  document.plate = {
    blob: keep(writePng({ width: WIDTH, height: HEIGHT, channels: 3, maximum: 255, data: plate })),
    name: 'plate.png',
    encoding: 'srgb',
    alpha: 'none',
    width: WIDTH,
    height: HEIGHT,
  }
  document.passes.file = {
    blob: keep(render(one)),
    name: 'passes.exr',
    width: WIDTH,
    height: HEIGHT,
    passes: [...PASS_IDS],
    objects: ['quay', 'near', 'far'],
    materials: ['white', 'red'],
    of: '',
  }
})
afterAll(() => {
  one.stop()
  two.stop()
})

const changed = (mutate: (document: ShotDocument) => void): ShotDocument => {
  const next = structuredClone(document)
  mutate(next)
  return next
}
async function pixels(
  next: ShotDocument,
  engine = one,
  show: Parameters<Evaluator['evaluate']>[0]['show'] = { kind: 'finish' },
): Promise<Float32Array> {
  const raster = await new Evaluator(engine.pool, load, 2 ** 28).evaluate({ document: next, frame: 1, shrink: 1, show })
  return engine.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
}
/** The pixel where the ray to a world place meets the picture. */
function pixelOf(x: number, y: number, z: number): number {
  const m = camera.matrix
  const d = [x - m[12]!, y - m[13]!, z - m[14]!]
  const along = (at: number): number => d[0]! * m[at]! + d[1]! * m[at + 1]! + d[2]! * m[at + 2]!
  const tangent = 18 / 35
  const depth = -along(8)
  return (
    Math.floor((0.5 - along(4) / depth / ((tangent * HEIGHT) / WIDTH) / 2) * HEIGHT) * WIDTH +
    Math.floor((0.5 + along(0) / depth / tangent / 2) * WIDTH)
  )
}
const NEAR = (): number => pixelOf(-0.8, 0.7, -3.4)
const FARTHER = (): number => pixelOf(0.9, 0.8, -7.3)

describe('the number of threads changes nothing', () => {
  it('a render has the same bytes with one and two', () => {
    expect(Buffer.compare(Buffer.from(render(two)), Buffer.from(files.get(document.passes.file!.blob)!))).toBe(0)
  })
  it('a build has the same bytes with one and two', async () => {
    const next = changed(d => {
      d.finish = rowsOf<TreatmentSettings>([
        newTreatment('cdl', {
          slope_r: 1.2,
          slope_g: 1,
          slope_b: 0.9,
          offset_r: 0,
          offset_g: 0,
          offset_b: 0,
          power_r: 1.1,
          power_g: 1,
          power_b: 0.9,
          saturation: 0.7,
        }),
        newTreatment('vignette', { amount: 0.5, size: 0.3, softness: 20 }),
      ])
    })
    expect(Buffer.from((await pixels(next)).buffer).equals(Buffer.from((await pixels(next, two)).buffer))).toBe(true)
  })
})

it('the plate comes through untouched where nothing falls, darker under the objects', async () => {
  const built = await pixels(
    changed(d => {
      d.build.layers.render!.on = false
    }),
  )
  const withRender = await pixels(document)
  // 8-bit code 120 in scene-linear (IEC 61966-2-1)
  expect(built[0]).toBeCloseTo(((120 / 255 + 0.055) / 1.055) ** 2.4, 6)
  const contact = pixelOf(-0.8, 0.0, -3.9)
  expect(withRender[contact * 4 + 1]!).not.toBe(built[contact * 4 + 1]!)
})

describe('a flat layer by its distance', () => {
  const layer = (distance: number): ShotDocument =>
    changed(d => {
      const cover = new Uint8Array(16 * 16 * 3)
      for (let i = 0; i < 256; i++) cover.set([0, 255, 0], i * 3)
      addRow(d.build.layers, {
        id: 'cover',
        kind: 'picture',
        name: 'cover',
        on: true,
        opacity: 1,
        mode: 'over',
        treatments: {},
        distance,
        x: WIDTH / 2,
        y: HEIGHT / 2,
        scale: 8,
        rotation: 0,
        picture: {
          blob: keep(writePng({ width: 16, height: 16, channels: 3, maximum: 255, data: cover })),
          name: 'cover.png',
          encoding: 'srgb',
          alpha: 'none',
          width: 16,
          height: 16,
        },
      } satisfies Unplaced<PictureLayer>)
    })
  const isGreen = (data: Float32Array, pixel: number): boolean => data[pixel * 4 + 1]! > 0.99 && data[pixel * 4]! < 0.01
  it('covers all at 1 m, lies between the balls at 6 m, behind both at 30 m', async () => {
    const [front, between, behind] = await Promise.all([pixels(layer(1)), pixels(layer(6)), pixels(layer(30))])
    expect([isGreen(front!, NEAR()), isGreen(front!, FARTHER())]).toEqual([true, true])
    expect([isGreen(between!, NEAR()), isGreen(between!, FARTHER())]).toEqual([false, true])
    expect([isGreen(behind!, NEAR()), isGreen(behind!, FARTHER())]).toEqual([false, false])
    // Away from the objects it lies over the plate at any distance
    expect(isGreen(behind!, 0)).toBe(true)
  })
})

it('on the border of two objects a layer between them takes the place of the farther one only', async () => {
  // The truth: near object alone over the layer over the far object alone, each from a render of its own with the same
  // samples
  const wall = object('wall', ball([0, 0.8, -9], 2.2, 24), {})
  const post = object('post', ball([-0.3, 0.8, -4], 0.6, 24))
  post.parts[0]!.material = 1
  const lamp = constantEnvironment(0.7)
  const renderOf = (objects: (typeof wall)[], only?: string): { bytes: Uint8Array; names: string[] } => {
    const compiled = compileScene(
      one.kernels,
      scene(
        objects.map(entry => ({ ...entry, hidden: !!only && entry.name !== only })),
        {
          materials: [material(), material({ name: 'red', baseColour: [0.8, 0.1, 0.1, 1], roughness: 0.4 })],
          environment: lamp,
        },
      ),
    )
    const job = new Render(one.pool, compiled, {
      width: WIDTH,
      height: HEIGHT,
      samples: 256,
      passes: PASS_IDS,
      camera,
      seed: 5,
    })
    while (!job.done) job.step(64)
    const names = compiled.objects.map(entry => entry.name)
    const bytes = passesToExr(job.snapshot(), {
      passes: PASS_IDS,
      objectNames: names,
      materialNames: ['white', 'red'],
      lightGroups: compiled.lightGroups,
    })
    job.dispose()
    compiled.dispose()
    return { bytes, names }
  }
  const green = keep(
    writePng({
      width: 64,
      height: 64,
      channels: 3,
      maximum: 255,
      data: Uint8Array.from({ length: 64 * 64 * 3 }, (_, i) => (i % 3 === 1 ? 255 : 0)),
    }),
  )
  const built = async (
    { bytes, names }: { bytes: Uint8Array; names: string[] },
    layer: boolean,
  ): Promise<Float32Array> =>
    pixels(
      changed(d => {
        d.plate = null
        d.passes.file = { ...d.passes.file!, blob: keep(bytes), objects: names }
        if (layer)
          addRow(d.build.layers, {
            id: 'cover',
            kind: 'picture',
            name: 'cover',
            on: true,
            opacity: 1,
            mode: 'over',
            treatments: {},
            distance: 6,
            x: WIDTH / 2,
            y: HEIGHT / 2,
            scale: 1,
            rotation: 0,
            picture: { blob: green, name: 'g', encoding: 'srgb', alpha: 'none', width: 64, height: 64 },
          })
      }),
    )
  const near = await built(renderOf([wall, post], 'post'), false)
  const sliced = await built(renderOf([wall, post]), true)
  const off = (i: number): number =>
    Math.max(...[0, 1, 2].map(c => Math.abs(sliced[i + c]! - (near[i + c]! + (c === 1 ? 1 : 0) * (1 - near[i + 3]!)))))
  const places = Array.from({ length: WIDTH * HEIGHT }, (_, i) => i * 4)
  const border = places.filter(i => near[i + 3]! > 0.02 && near[i + 3]! < 0.98)
  expect(border.length).toBeGreaterThan(20)
  // Away from borders it is exact; on them nearly
  for (const i of places.filter(i => near[i + 3]! >= 0.999)) expect(off(i)).toBeLessThan(1e-4)
  expect(border.reduce((sum, i) => sum + off(i), 0) / border.length).toBeLessThan(0.02)
  expect(border.filter(i => off(i) > 0.06).length / border.length).toBeLessThan(0.03)
}, 60000)

describe('the desk and mattes', () => {
  it('neutral, the parts give the beauty', async () => {
    const built = await pixels(
      changed(d => {
        d.plate = null
      }),
    )
    const beauty = await pixels(document, one, { kind: 'pass', id: 'beauty' })
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      for (let c = 0; c < 3; c++) expect(Math.abs(built[i * 4 + c]! - beauty[i * 4 + c]!)).toBeLessThan(1e-5)
  })
  it('a fader changes its object and no other', async () => {
    const before = await pixels(document)
    const after = await pixels(
      changed(d => {
        ownRender(d.build.layers)!.desk.objects.far = { exposure: 1 }
      }),
    )
    expect(after[FARTHER() * 4]! / before[FARTHER() * 4]!).toBeCloseTo(2, 4)
    expect(after[NEAR() * 4]).toBe(before[NEAR() * 4])
  })
  it('a matte is 1 inside, 0 outside, between at the edge; inverted it is the rest', async () => {
    const matte = await pixels(document, one, { kind: 'matte', matte: slipOf(namesTerm(['near'])) })
    const rest = await pixels(document, one, { kind: 'matte', matte: slipOf({ ...namesTerm(['near']), invert: true }) })
    expect([matte[NEAR() * 4], matte[FARTHER() * 4]]).toEqual([1, 0])
    for (let i = 0; i < matte.length; i += 4) expect(matte[i]! + rest[i]!).toBeCloseTo(1, 6)
    expect([...matte].some((value, i) => i % 4 === 0 && value > 0.05 && value < 0.95)).toBe(true)
  })
})

it('only what changed is computed again', async () => {
  const evaluator = new Evaluator(one.pool, load, 2 ** 28)
  const ask = (d: ShotDocument) => evaluator.evaluate({ document: d, frame: 1, shrink: 1, show: { kind: 'finish' } })
  const graded = changed(d => {
    d.finish = rowsOf<TreatmentSettings>([
      newTreatment('exposure', { stops: 1 }, 'e'),
      newTreatment('saturation', { amount: 0.5 }, 's'),
    ])
  })
  await ask(graded)
  const first = evaluator.runner.computed
  await ask(structuredClone(graded))
  expect(evaluator.runner.computed).toBe(first)
  const drag = (amount: number) =>
    ask({ ...structuredClone(graded), finish: { ...graded.finish, s: { ...graded.finish.s!, values: { amount } } } })
  // The first step of a drag finds out what stays, the others cost only what follows
  await drag(0.6)
  const second = evaluator.runner.computed
  for (const amount of [0.61, 0.62, 0.63]) await drag(amount)
  expect(evaluator.runner.computed).toBe(second + 3)
})

it('values that are curves take their value at the frame', async () => {
  const moving = changed(d => {
    d.frames.last = 11
    d.finish = rowsOf<TreatmentSettings>([newTreatment('exposure', {}, 'e')])
    d.finish.e!.values.stops = {
      keys: [
        { frame: 1, value: 0, ease: 'linear' },
        { frame: 11, value: 2, ease: 'linear' },
      ],
    }
  })
  expect(documentFaults(moving)).toEqual([])
  const evaluator = new Evaluator(one.pool, load, 2 ** 28)
  const at = async (frame: number): Promise<number> => {
    const raster = await evaluator.evaluate({ document: moving, frame, shrink: 1, show: { kind: 'finish' } })
    return one.kernels.floats(raster.pointer, 4)[0]!
  }
  expect((await at(6)) / (await at(1))).toBeCloseTo(2, 5)
})

it('half and quarter size look like the full picture made smaller', async () => {
  const evaluator = new Evaluator(one.pool, load, 2 ** 28)
  for (const shrink of [2, 4] as const) {
    const raster = await evaluator.evaluate({ document, frame: 1, shrink, show: { kind: 'finish' } })
    expect([raster.width, raster.height]).toEqual([WIDTH / shrink, HEIGHT / shrink])
    const small = one.kernels.floats(raster.pointer, raster.width * raster.height * 4)
    expect(small[0]).toBeCloseTo((await pixels(document))[0]!, 4)
  }
})

it('16-bit and float deliveries hold the picture’s own numbers', async () => {
  const evaluator = new Evaluator(one.pool, load, 2 ** 28)
  const picture = await evaluator.evaluate({ document, frame: 1, shrink: 1, show: { kind: 'finish' } })
  const { readPicture } = await import('../core/formats/picture/picture')
  const held = one.kernels.floats(picture.pointer, WIDTH * HEIGHT * 4).slice()
  const float = await readPicture(await deliver(evaluator, { document, frame: 1, show: { kind: 'finish' } }, 'exr32'))
  for (let i = 0; i < held.length; i++) expect(float.pixels[i]).toBe(held[i])
})

it('what is sent is the same to the bit in strips, with a fraction of the memory; what cannot fit says what does', async () => {
  const graded = changed(d => {
    d.finish = rowsOf<TreatmentSettings>([
      newTreatment('blur', { radius: 2 }, 'b'),
      newTreatment('exposure', { stops: 1 }, 'e'),
      newTreatment('haze', { amount: 0.5 }, 'h'),
    ])
  })
  const asked = { document: graded, frame: 1, show: { kind: 'finish' } } as const
  const whole = await deliver(new Evaluator(one.pool, load, 2 ** 28), asked, 'exr32')
  const used: number[] = []
  for (const budget of [700000, 350000, 250000]) {
    const evaluator = new Evaluator(one.pool, load, budget)
    let strips = 0
    await evaluator.eachStrip({ ...asked, shrink: 1 }, () => void strips++)
    used.push(strips)
    expect(await deliver(evaluator, asked, 'exr32')).toEqual(whole)
    evaluator.runner.clear()
  }
  expect(used[0]).toBe(1)
  expect(used.at(-1)).toBeGreaterThan(1)
  await expect(deliver(new Evaluator(one.pool, load, 60000), asked, 'exr32')).rejects.toThrow(
    /48x32 is too large for what this picture is built of: it needs 1 MiB at a time, and there are 0\. A frame of \d+x\d+ fits\./,
  )
})

it('passes are out of date when what they were rendered from changes, and only then', () => {
  const stamp = sceneStamp(document)
  // A database may hand the keys back in another order
  const reversed = (value: unknown): unknown =>
    Array.isArray(value)
      ? value.map(reversed)
      : typeof value === 'object' && value !== null
        ? Object.fromEntries(
            Object.entries(value)
              .reverse()
              .map(([key, entry]) => [key, reversed(entry)]),
          )
        : value
  expect(sceneStamp(reversed(document) as ShotDocument)).toBe(stamp)
  expect(
    sceneStamp(
      changed(d => {
        d.finish = rowsOf<TreatmentSettings>([newTreatment('exposure', { stops: 1 })])
      }),
    ),
  ).toBe(stamp)
  expect(
    sceneStamp(
      changed(d => {
        d.scene.camera.y = 2
      }),
    ),
  ).not.toBe(stamp)
  expect(
    sceneStamp(
      changed(d => {
        d.passes.samples = 7
      }),
    ),
  ).not.toBe(stamp)
})

describe('what is laid on the passes afterwards', () => {
  const at = (list: Float32Array, i: number): number[] => [...list.subarray(i * 4, i * 4 + 3)]
  /** The ground beside the near ball, which takes some of its sky. */
  it('a catcher’s shadow has its own density and tint; nothing else changes', async () => {
    const plain = await pixels(document)
    const none = await pixels(
      changed(next => {
        next.scene.objects.quay = { shadowDensity: 0 }
      }),
    )
    const twice = await pixels(
      changed(next => {
        next.scene.objects.quay = { shadowDensity: 1.5 }
      }),
    )
    const blue = await pixels(
      changed(next => {
        next.scene.objects.quay = { shadowColour: [0, 0, 0.5] }
      }),
    )
    const whole = await pixels(document, one, { kind: 'plate' })
    // Where the shadow is deepest: ground alone, for without its shadow it is the plate
    const ground = Array.from({ length: whole.length / 4 }, (_, i) => i).filter(i =>
      at(none, i).every((value, c) => Math.abs(value - at(whole, i)[c]!) < 1e-5),
    )
    const shade = (i: number): number => at(plain, i)[0]! / at(whole, i)[0]!
    const i = ground.reduce((deepest, other) => (shade(other) < shade(deepest) ? other : deepest))
    const plate = at(whole, i)
    const ratio = shade(i)
    expect(ratio).toBeLessThan(0.95)
    at(none, i).forEach((value, c) => expect(value).toBeCloseTo(plate[c]!, 5))
    expect(at(twice, i)[0]! / plate[0]!).toBeCloseTo(Math.max(0, 1 + 1.5 * (ratio - 1)), 2)
    expect(at(blue, i)[0]).toBeCloseTo(at(plain, i)[0]!, 6)
    expect(at(blue, i)[2]!).toBeGreaterThan(at(plain, i)[2]!)
    const ball = NEAR()
    expect(at(twice, ball)).toEqual(at(plain, ball))
    const other = await pixels(
      changed(next => {
        next.scene.objects.near = { shadowDensity: 0 }
      }),
    )
    expect(other).toEqual(plain)
  })
  it('an object renamed since the render is found under its new name', async () => {
    const exposed = (name: string, names?: Record<string, string>) =>
      pixels(
        changed(next => {
          next.passes.file!.names = names
          ownRender(next.build.layers)!.desk.objects[name] = { exposure: 1 }
        }),
      )
    expect(await exposed('great ball', { near: 'great ball' })).toEqual(await exposed('near'))
  })
  it('trims, pins, locks and groups leave the passes current; lens, stand-ins and lamps do not', () => {
    const stamp = sceneStamp(document)
    const of = (mutate: (next: ShotDocument) => void): string => sceneStamp(changed(mutate))
    expect(
      of(next => {
        next.scene.objects.near = {
          shadowDensity: 0.5,
          shadowColour: [0, 0, 0.1],
          locked: true,
          group: 'g',
          pins: rowsOf<Pin>([{ id: 'p', local: [0, 0, 0], pixel: [1, 1] }]),
        }
      }),
    ).not.toBe('')
    expect(
      of(next => {
        next.scene.objects.near = { shadowDensity: 0.5, locked: true }
      }),
    ).toBe(
      of(next => {
        next.scene.objects.near = {}
      }),
    )
    expect(
      of(next => {
        next.lens = { k1: -0.1, k2: 0, on: true }
      }),
    ).not.toBe(stamp)
    expect(
      of(next => {
        next.lens = { k1: -0.1, k2: 0, on: false }
      }),
    ).toBe(stamp)
    expect(
      of(next => {
        next.scene.lights = rowsOf<LightSettings>([
          {
            id: 'a',
            name: 'a',
            kind: 'ball',
            on: true,
            azimuth: 0,
            elevation: 9,
            kelvin: 3000,
            stops: 0,
            diameter: 1,
            width: 1,
            height: 1,
            distance: 1,
            target: [0, 0, 0],
          },
        ])
      }),
    ).not.toBe(stamp)
  })
  it('passes rendered with room round the frame lie where they belong', async () => {
    // The same file said to reach 8 pixels beyond on each side: its middle fills the frame, larger
    const wide = await pixels(
      changed(next => {
        next.passes.file!.margin = [8, 8]
        next.plate = null
      }),
      one,
      { kind: 'build' },
    )
    const plain = await pixels(
      changed(next => {
        next.plate = null
      }),
      one,
      { kind: 'build' },
    )
    // Frame pixel x stands at (x + 8) / (W + 16) of the file
    const sample = (x: number, y: number): number => wide[(y * WIDTH + x) * 4 + 3]!
    const from = (x: number, y: number): number =>
      plain[
        (Math.floor(((y + 8.5) * HEIGHT) / (HEIGHT + 16)) * WIDTH + Math.floor(((x + 8.5) * WIDTH) / (WIDTH + 16))) *
          4 +
          3
      ]!
    let same = 0
    let count = 0
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        count++
        if (Math.abs(sample(x, y) - from(x, y)) < 0.5) same++
      }
    expect(same / count).toBeGreaterThan(0.97)
  })
})
