// Treatments and mattes from the command line: pictures that OpenImageIO wrote and reads back, numbers by numpy and
// OpenCV, what is listed against what is there, and what is refused.
import { namesTerm, slipOf } from '../core/shot/slip'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { deliver } from '../core/compose/deliver'
import { Evaluator } from '../core/compose/evaluate'
import { writePng } from '../core/formats/png/png'
import { randomFrom } from './compose/random'
import { readExr } from '../core/formats/exr/exr'
import { MATTES } from '../core/matte/registry'
import { bringPlate } from '../core/shot/bring'
import { newDocument, newTreatment, type ShotDocument, type TreatmentSettings } from '../core/shot/document'
import { rowsOf } from '../core/shot/rows'
import { TREATMENTS } from '../core/treatment/registry'
import { demoFile } from '../host/demofile'
import { startEngine } from '../host/engine'
import { fails, works } from './commandLine'
import { python, scratchFolder } from './python'

const folder = scratchFolder()
const at = (name: string): string => join(folder, name)
// A picture of noise whose data window is not its frame, by OpenImageIO
python(
  `
import OpenImageIO as oiio, numpy as np, sys, json
spec = oiio.ImageSpec(60, 40, 4, 'float')
spec.x, spec.y = -6, 9
spec.full_x, spec.full_y, spec.full_width, spec.full_height = 0, 0, 64, 48
spec.channelnames = ('R', 'G', 'B', 'A')
rng = np.random.default_rng(4)
a = rng.random((40, 60, 4)).astype(np.float32) ** 2 * 4
a[..., 3] = 1
buf = oiio.ImageBuf(spec); buf.set_pixels(oiio.ROI(-6, 54, 9, 49, 0, 1, 0, 4), a)
buf.write(sys.argv[1])
np.save(sys.argv[2], a)
for i in range(1, 6):
    s = oiio.ImageSpec(8, 6, 3, 'float'); b = oiio.ImageBuf(s)
    oiio.ImageBufAlgo.fill(b, (i / 10, i * i / 10, 1)); b.write(sys.argv[3] + '/frame.%04d.exr' % i)
print(json.dumps(1))`,
  at('in.exr'),
  at('in.npy'),
  folder,
)

/** A picture of numbers without order. */
function noise(width: number, height: number): Uint8Array {
  const random = randomFrom(8)
  const data = Uint8Array.from({ length: width * height * 3 }, () => 60 + Math.floor(random() * 120))
  return writePng({ width, height, channels: 3, maximum: 255, data })
}

describe('treat', () => {
  it('keeps windows and float values of OpenEXR: each pixel is what numpy makes of it', async () => {
    await works(
      'treat',
      at('in.exr'),
      '--out',
      at('out.exr'),
      '--line',
      'exposure stops=1.5',
      '--line',
      'saturation amount=0.5 strength=0.25',
    )
    const worst = python<number[]>(
      `
import OpenImageIO as oiio, numpy as np, sys, json
a = np.load(sys.argv[2]).astype(np.float64)
b = oiio.ImageBuf(sys.argv[1]); s = b.spec()
assert (s.x, s.y, s.width, s.height, s.full_x, s.full_y, s.full_width, s.full_height) == (-6, 9, 60, 40, 0, 0, 64, 48), s
assert s.format == 'float' and s.channelnames == ('R', 'G', 'B', 'A'), s.channelnames
rgb = a[..., :3] * 2 ** 1.5
grey = (rgb * [0.2126, 0.7152, 0.0722]).sum(-1, keepdims=True)
rgb = rgb + (grey + (rgb - grey) * 0.5 - rgb) * 0.25
got = b.get_pixels(oiio.FLOAT)
print(json.dumps([float(np.abs(got[..., :3] - rgb).max()), float(np.abs(got[..., 3] - 1).max())]))`,
      at('out.exr'),
      at('in.npy'),
    )
    expect(worst[0]).toBeLessThan(5e-6)
    expect(worst[1]).toBe(0)
  })

  it('lays a matte on the line before it', async () => {
    await works(
      'treat',
      at('in.exr'),
      '--out',
      at('part.exr'),
      '--line',
      'exposure stops=2',
      '--matte',
      'brightness low=1 high=1000 soft=0',
    )
    const [inside, outside] = python<number[]>(
      `
import OpenImageIO as oiio, numpy as np, sys, json
a = np.load(sys.argv[2]).astype(np.float64)
got = oiio.ImageBuf(sys.argv[1]).get_pixels(oiio.FLOAT)
y = (a[..., :3] * [0.2126, 0.7152, 0.0722]).sum(-1)
near = np.abs(y - 1) > 1e-5
ratio = got[..., 0] / a[..., 0]
print(json.dumps([float(np.abs(ratio[(y > 1) & near] - 4).max()), float(np.abs(ratio[(y < 1) & near] - 1).max())]))`,
      at('part.exr'),
      at('in.npy'),
    )
    expect(inside).toBeLessThan(1e-5)
    expect(outside).toBeLessThan(1e-5)
  })

  it('joins mattes: and also, but not, only where, apart from what both hold', async () => {
    for (const [join, both, first, second, neither] of [
      ['also', 1, 1, 1, 0],
      ['not', 0, 1, 0, 0],
      ['only', 1, 0, 0, 0],
      ['apart', 0, 1, 1, 0],
    ] as const) {
      await works(
        'treat',
        at('in.exr'),
        '--out',
        at('joined.exr'),
        '--line',
        'exposure stops=1',
        '--matte',
        'brightness low=0.5 high=2 soft=0',
        '--matte',
        `brightness low=1 high=1000 soft=0 join=${join}`,
      )
      const held = python<number[]>(
        `
import OpenImageIO as oiio, numpy as np, sys, json
a = np.load(sys.argv[2]).astype(np.float64)
got = oiio.ImageBuf(sys.argv[1]).get_pixels(oiio.FLOAT)
y = (a[..., :3] * [0.2126, 0.7152, 0.0722]).sum(-1)
far = np.min([np.abs(y - v) for v in (0.5, 1, 2)], axis=0) > 1e-5
held = got[..., 1] / a[..., 1] - 1
one, two = (y > 0.5) & (y < 2), y > 1
parts = [one & two, one & ~two, ~one & two, ~one & ~two]
assert all((p & far).sum() > 20 for p in parts)
print(json.dumps([[float(held[p & far].min()), float(held[p & far].max())] for p in parts]))`,
        at('joined.exr'),
        at('in.npy'),
      )
      ;[both, first, second, neither].forEach((expected, i) => {
        for (const found of held[i] as unknown as number[]) expect(Math.abs(found - expected)).toBeLessThan(1e-5)
      })
    }
  })

  it('averages over numbered files, those that are there', async () => {
    await works(
      'treat',
      at('frame.####.exr'),
      '--frame',
      '3',
      '--out',
      at('mean.exr'),
      '--line',
      'average before=2 after=1',
    )
    const { channels } = readExr(new Uint8Array(readFileSync(at('mean.exr'))))
    const value = (name: string): number => Number(channels.find(channel => channel.name === name)!.data[5])
    expect(value('R')).toBeCloseTo((1 + 2 + 3 + 4) / 40, 6)
    expect(value('G')).toBeCloseTo((1 + 4 + 9 + 16) / 40, 6)
  })

  it('has the numbers that the application has, names and distances from the passes with it', async () => {
    writeFileSync(at('plate.png'), demoFile('quay.png'))
    writeFileSync(at('passes.exr'), demoFile('bell house passes.exr'))
    await works(
      'treat',
      at('plate.png'),
      '--out',
      at('treated.exr'),
      '--passes',
      at('passes.exr'),
      '--line',
      'cdl slope_r=1.3 power_g=0.8',
      '--matte',
      'names names=bell,roof of=objects',
      '--line',
      'blur radius=5',
      '--line',
      'vignette amount=0.4',
    )
    const document: ShotDocument = newDocument(1200, 800)
    bringPlate(document, { blob: 'plate', name: 'quay.png', encoding: 'srgb', alpha: 'none', width: 1200, height: 800 })
    const { passes } = (JSON.parse(demoFile('shots.json').toString()) as { document: ShotDocument }[])[0]!.document
    document.passes.file = { ...passes.file!, blob: 'passes' }
    document.build.layers = rowsOf(Object.values(document.build.layers).filter(({ kind }) => kind === 'plate'))
    document.finish = rowsOf<TreatmentSettings>([
      { ...newTreatment('cdl', { slope_r: 1.3, power_g: 0.8 }, 'a'), matte: slipOf(namesTerm(['bell', 'roof'])) },
      newTreatment('blur', { radius: 5 }, 'b'),
      newTreatment('vignette', { amount: 0.4 }, 'c'),
    ])
    const engine = await startEngine(2)
    const evaluator = new Evaluator(engine.pool, async blob =>
      demoFile(blob === 'plate' ? 'quay.png' : 'bell house passes.exr'),
    )
    const ours = readExr(await deliver(evaluator, { document, frame: 1, show: { kind: 'finish' } }, 'exr32'))
    engine.stop()
    const theirs = readExr(new Uint8Array(readFileSync(at('treated.exr'))))
    for (const name of ['R', 'G', 'B']) {
      const [a, b] = [ours, theirs].map(image =>
        Buffer.from((image.channels.find(channel => channel.name === name)!.data as Float32Array).slice().buffer),
      )
      expect(a!.length).toBe(1200 * 800 * 4)
      expect(a!.equals(b!), name).toBe(true)
    }
  }, 60000)

  it('fog is lit by what the scene’s air scatters, for as much of the way as that air has', async () => {
    python(
      `
import OpenImageIO as oiio, numpy as np, sys, json
names = ('R', 'G', 'B', 'A', 'depth.Z', 'volume.R', 'volume.G', 'volume.B', 'volume.A')
spec = oiio.ImageSpec(16, 12, len(names), 'float')
spec.channelnames = names
buf = oiio.ImageBuf(spec)
oiio.ImageBufAlgo.fill(buf, (0.4, 0.4, 0.4, 1, 10, 0.06, 0.03, 0, 0.3))
buf.write(sys.argv[1])
print(json.dumps(1))`,
      at('air.exr'),
    )
    await works(
      ...['treat', at('air.exr'), '--passes', at('air.exr'), '--out', at('lit.exr')],
      ...['--line', 'fog half=0.01 most=0.5 scatters=the lamps in the air colour=1,1,0.5 spread=1'],
    )
    const { channels } = readExr(new Uint8Array(readFileSync(at('lit.exr'))))
    // Its light by what it takes of the way: 0.06 / 0.3 and 0.03 / 0.3; half of it in place of half of what was there
    for (const [name, light] of [
      ['R', 0.2],
      ['G', 0.1],
      ['B', 0],
    ] as const)
      for (const value of channels.find(channel => channel.name === name)!.data as Float32Array)
        expect(value).toBeCloseTo(0.5 * 0.4 + 0.5 * light, 3)
  })

  it('grain that was taken out comes back after what was done without it; a shape comes from a file', async () => {
    const lines = (...all: string[]): string[] => all.flatMap(line => ['--line', line])
    writeFileSync(at('noise.png'), noise(64, 48))
    await works('convert', at('noise.png'), at('noise.exr'))
    await works(
      ...['treat', at('noise.exr'), '--out', at('back.exr')],
      ...lines('degrain amount=0.5 size=0 search=3', 'exposure stops=0', 'grain_back amount=1'),
    )
    await works('treat', at('noise.exr'), '--out', at('clean.exr'), ...lines('degrain amount=0.5 size=0 search=3'))
    await works(
      ...['treat', at('noise.exr'), '--out', at('shaped.exr')],
      ...lines(`shaped size=8 picture=${at('frame.0003.exr')}`),
    )
    const [back, clean, shaped, before] = ['back', 'clean', 'shaped', 'noise'].map(
      name =>
        readExr(new Uint8Array(readFileSync(at(`${name}.exr`)))).channels.find(channel => channel.name === 'R')!.data,
    ) as [Float32Array, Float32Array, Float32Array, Float32Array]
    const mean = (values: Float32Array): number => values.reduce((sum, value) => sum + value, 0) / values.length
    expect(Math.max(...back.map((value, i) => Math.abs(value - before[i]!)))).toBeLessThan(2e-6)
    expect(mean(clean.map((value, i) => Math.abs(value - before[i]!)))).toBeGreaterThan(0.02)
    const spread = (values: Float32Array): number => mean(values.map(value => (value - mean(values)) ** 2))
    expect(spread(shaped)).toBeLessThan(spread(before) / 8)
  })

  it('refuses what is wrong, by its name, and writes nothing', async () => {
    const none = ['treat', at('in.exr'), '--out', at('never.exr')]
    await fails(/--line is missing/, ...none)
    await fails(/no treatment “glower”; there are exposure, /, ...none, '--line', 'glower radius=1')
    await fails(/exposure has no value “stop”; it has stops, strength/, ...none, '--line', 'exposure stop=1')
    await fails(/stops goes from -10 to 10; 11 does not/, ...none, '--line', 'exposure stops=11')
    await fails(/stops takes a number, not “bright”/, ...none, '--line', 'exposure stops=bright')
    await fails(/before takes a whole number/, ...none, '--line', 'average before=1.5')
    await fails(/colour takes 3 numbers/, ...none, '--line', 'distance_tint colour=1,2')
    await fails(/shaped takes a picture: picture=FILE.png/, ...none, '--line', 'shaped size=9')
    await fails(/glow takes a picture: picture=FILE.png/, ...none, '--line', 'glow amount=1 spread=as measured')
    await fails(/of a shot: here no scene is known/, ...none, '--line', 'halo amount=1 feeds=the shot’s lamps')
    await fails(/in.npy: This file is no picture/, ...none, '--line', `shaped size=9 picture=${at('in.npy')}`)
    await fails(/moved takes 50 numbers \(.*, … point 5.5 down\), not “1,2”/, ...none, '--line', 'mesh moved=1,2')
    await fails(/all takes points X,Y:X,Y, not “0:1”/, ...none, '--line', 'curves all=0:1')
    await fails(/how is one of evenly, sparing, not “much”/, ...none, '--line', 'saturation how=much')
    await fails(/all goes from 0 to 4/, ...none, '--line', 'curves all=0,0:5,1')
    await fails(/“loud” of .* is not name=value/, ...none, '--line', 'exposure loud')
    await fails(/--matte belongs to the --line before it/, ...none, '--matte', 'depth near=1')
    await fails(
      /join is one of also, not, only, apart, not “and”/,
      ...none,
      '--line',
      'exposure stops=1',
      '--matte',
      'depth near=1 join=and',
    )
    await fails(
      /no matte “edge”; there are names, key, change, colour/,
      ...none,
      '--line',
      'exposure stops=1',
      '--matte',
      'edge',
    )
    await fails(
      /takes them from passes: give --passes FILE/,
      ...none,
      '--line',
      'exposure stops=1',
      '--matte',
      'names names=bell',
    )
    await fails(
      /in\.npy is not an OpenEXR file, and gives no passes/,
      ...none,
      '--line',
      'exposure stops=1',
      '--passes',
      at('in.npy'),
    )
    await fails(/there is no option --strength/, ...none, '--strength', '1')
    await fails(/no such file/, 'treat', at('nothing.exr'), '--out', at('never.exr'), '--line', 'exposure stops=1')
    await fails(
      /names no format that is written/,
      'treat',
      at('in.exr'),
      '--out',
      at('never.gif'),
      '--line',
      'exposure stops=1',
    )
    expect([existsSync(at('never.exr')), existsSync(at('never.gif'))]).toEqual([false, false])
  })
})

describe('matte', () => {
  it('by depth is 1 between its ends, soft outside them, and sees each edge as the picture shows it', async () => {
    writeFileSync(at('passes.exr'), demoFile('bell house passes.exr'))
    await works('matte', at('passes.exr'), '--out', at('depth.exr'), '--line', 'depth near=0 far=9 soft=2')
    const worst = python<number>(
      `
import OpenImageIO as oiio, numpy as np, sys, json
def plane(path, want):
    i = 0
    while True:
        b = oiio.ImageBuf(path, i, 0)
        if b.has_error or not b.initialized: raise SystemExit(want)
        names = list(b.spec().channelnames)
        if want in names: return b.get_pixels(oiio.FLOAT)[..., names.index(want)].astype(np.float64)
        i += 1
z = plane(sys.argv[1], 'depth.Z'); a = np.clip(plane(sys.argv[1], 'A'), 0, 1)
t = np.clip(1 - (z - 9) / 2, 0, 1); m = (t * t * (3 - 2 * t)) * a
got = oiio.ImageBuf(sys.argv[2]).get_pixels(oiio.FLOAT)[..., 0]
assert 0.01 < m.mean() < 0.9
print(json.dumps(float(np.abs(got - m).max())))`,
      at('passes.exr'),
      at('depth.exr'),
    )
    expect(worst).toBeLessThan(1e-5)
    // Refined: small specks dropped as OpenCV's components are, then bent
    const refined = ['--refine', 'drop size=400', '--refine', 'clip black=0.25 white=0.75']
    await works('matte', at('passes.exr'), '--out', at('fine.exr'), '--line', 'depth near=0 far=9 soft=2', ...refined)
    const [off, dropped] = python<[number, number]>(
      `
import OpenImageIO as oiio, numpy as np, sys, json, cv2
m, got = [oiio.ImageBuf(path).get_pixels(oiio.FLOAT)[..., 0] for path in sys.argv[1:]]
count, labels, stats, _ = cv2.connectedComponentsWithStats((m > 0.05).astype(np.uint8), connectivity=8)
kept = m.copy()
for i in range(1, count):
    if stats[i, 4] <= np.pi / 4 * 160000: kept[labels == i] = 0
print(json.dumps([float(np.abs(np.clip((kept - 0.25) / 0.5, 0, 1) - got).max()), int((kept != m).sum())]))`,
      at('depth.exr'),
      at('fine.exr'),
    )
    expect(off).toBeLessThan(1e-5)
    expect(dropped).toBeGreaterThan(0)
    await fails(
      /--refine belongs to --line/,
      'matte',
      at('passes.exr'),
      '--out',
      at('x.exr'),
      '--refine',
      'grow pixels=2',
    )
    await fails(
      /no way to refine a matte “sharpen”/,
      ...['matte', at('passes.exr'), '--out', at('x.exr')],
      ...['--line', 'depth', '--refine', 'sharpen'],
    )
  })
  it('of names by a line is the one by --object', async () => {
    await works('matte', at('passes.exr'), '--object', 'iron frame', '--out', at('a.exr'))
    await works('matte', at('passes.exr'), '--line', 'names names=iron frame of=objects', '--out', at('b.exr'))
    const [a, b] = [at('a.exr'), at('b.exr')].map(
      file => readExr(new Uint8Array(readFileSync(file))).channels[0]!.data as Float32Array,
    )
    a!.forEach((value, i) => {
      if (Math.abs(value - b![i]!) > 1e-6) throw new Error(`pixel ${i}: ${value} and ${b![i]}`)
    })
    await fails(
      /have no objects “bel”; they have .*bell/,
      'matte',
      at('passes.exr'),
      '--line',
      'names names=bel',
      '--out',
      at('c.exr'),
    )
    await fails(
      /--line says the whole matte/,
      'matte',
      at('passes.exr'),
      '--object',
      'bell',
      '--line',
      'depth near=1',
      '--out',
      at('c.exr'),
    )
  })
})

it('list tells every treatment and matte with its values as they are declared', async () => {
  const all = JSON.parse(await works('list', '--json')) as Record<
    string,
    {
      id: string
      values?: { id: string; low?: number; high?: number; choices?: string[]; neutral?: number | string }[]
    }[]
  >
  expect(Object.keys(all)).toEqual(['treatments', 'mattes', 'refiners', 'layers', 'passes', 'formats'])
  for (const [list, entries] of [
    [TREATMENTS, all.treatments!],
    [MATTES, all.mattes!],
  ] as const) {
    expect(entries.map(({ id }) => id)).toEqual(list.map(({ id }) => id))
    for (const { id, values } of list)
      for (const told of entries.find(entry => entry.id === id)!.values!) {
        const field = values[told.id]!
        const of = (name: string): unknown => (field as unknown as Record<string, unknown>)[name]
        // Points of a curve have none of these
        const expected = field.kind === 'list' ? [] : ['low', 'high', 'choices', 'neutral'].map(of)
        expect([told.low, told.high, told.choices, told.neutral].filter(value => value !== undefined)).toEqual(
          expected.filter(value => value !== undefined),
        )
      }
  }
  expect(await works('list', 'mattes')).toMatch(
    / {2}depth: Depth\..* Reads depth\.\n {6}near: from, 0 to 1000000 m; a new one 0\./,
  )
  await fails(/no list of “lenses”; there are treatments, mattes/, 'list', 'lenses')
})
