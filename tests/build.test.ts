// Building: order by depth, desk, mattes, caching, and the same bytes whatever the number of threads.
import { namesTerm, slipOf } from '../core/shot/slip'
import { addRow, rowsOf, type Unplaced } from '../core/shot/rows'
import { ownRender } from '../core/shot/tree'
import { describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { deliver } from '../core/compose/deliver'
import { writePng } from '../core/formats/png/png'
import { compileScene } from '../core/render/compile'
import { passesToExr } from '../core/render/passfile'
import { PASS_IDS } from '../core/render/passes'
import { Render } from '../core/render/render'
import { newTreatment, type PictureLayer, type ShotDocument, type TreatmentSettings } from '../core/shot/document'
import { documentFaults } from '../shared/validate'
import { ball, constantEnvironment, material, object, scene } from './scenes'
import {
  WIDTH,
  HEIGHT,
  files,
  keep,
  load,
  one,
  two,
  document,
  camera,
  render,
  changed,
  pixels,
  pixelOf,
  NEAR,
  FARTHER,
} from './buildShot'

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
      newTreatment('distance_tint', { amount: 0.5 }, 'h'),
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
