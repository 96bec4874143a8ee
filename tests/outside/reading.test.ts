// Sets of passes from elsewhere: files that OpenImageIO (Debian) writes under names, units and windows of their own, of a
// render whose planes are known, read back as those planes. What depth is comes from its definition: the length of a ray
// is its depth along the axis over the cosine of its angle.
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { BadInput } from '../../core/formats/errors'
import { layersIn, likelyReading } from '../../core/render/layersOfFile'
import { coverageOf, openPassFile, readPassFile, unpacking, type PassFile } from '../../core/render/openpasses'
import { passesToExr } from '../../core/render/passfile'
import { NO_DEPTH, PASS_IDS } from '../../core/render/passes'
import { readSo, theirsOf } from '../../core/render/theirs'
import type { PassReading } from '../../core/shot/document'
import { useNode } from '../../host/engine'
import { ball, constantEnvironment, ground, lookAt, material, object, renderScene, scene } from '../scenes'
import { python, scratchFolder } from '../python'

useNode()
const folder = scratchFolder()
const [WIDTH, HEIGHT, ANGLE] = [60, 44, 48]
const names = ['floor', 'ball', 'second ball']
const rendered = renderScene(
  scene(
    [
      object(names[0]!, ground(3)),
      object(names[1]!, ball([0, 1, 0], 1, 32)),
      object(names[2]!, ball([1.4, 0.6, 0.8], 0.6, 32, 1)),
    ],
    {
      materials: [material({ baseColour: [0.7, 0.3, 0.2, 1] }), material({ name: 'brass' })],
      environment: constantEnvironment(),
    },
  ),
  // Across, not up: the test's own camera takes the angle of its height
  { camera: lookAt([0, 2, 6], [0, 0.7, 0], ANGLE), width: WIDTH, height: HEIGHT, samples: 16, passes: PASS_IDS },
)
const ours = join(folder, 'ours.exr')
writeFileSync(
  ours,
  passesToExr(rendered, {
    passes: PASS_IDS,
    objectNames: names,
    materialNames: ['white', 'brass'],
    lightGroups: ['environment'],
  }),
)
const truth = await readPassFile(new Uint8Array(readFileSync(ours)))

/** Writes channels that a script makes of ours (`ch`, by name) into `out`; windows: x, y of the data in a larger frame. */
function written(name: string, script: string, more = ''): Uint8Array {
  const path = join(folder, `${name}.exr`)
  python(
    `
import sys, json, numpy as np, OpenImageIO as o
i = o.ImageInput.open(sys.argv[1]); s = i.spec()
formats = [str(f) for f in (s.channelformats or [s.format] * s.nchannels)]
ch = {n: np.asarray(i.read_image(0, 0, c, c + 1, o.UINT if 'uint' in formats[c] else o.FLOAT)).reshape(s.height, s.width).astype(np.float32) for c, n in enumerate(s.channelnames)}
out = {}; attributes = {}; x0 = y0 = 0; full = (s.width, s.height)
def rgb(to, data, letters='RGB'):
    for k, l in enumerate(letters): out[to + '.' + l] = data[k]
def of(name, letters='RGB'): return [ch[(name + '.' if name else '') + l] for l in letters]
${script}
order = sorted(out); first = out[order[0]]
t = o.ImageSpec(first.shape[1], first.shape[0], len(order), o.FLOAT); t.channelnames = order
t.x, t.y, t.full_width, t.full_height = x0, y0, full[0], full[1]
for k, v in attributes.items(): t.attribute(k, v)
for a in s.extra_attribs:
    if a.name.startswith('cryptomatte/') and s.get_string_attribute('cryptomatte/%s/name' % a.name.split('/')[1]) == 'cryptoObject':
        ${more || 'pass'}
w = o.ImageOutput.create(sys.argv[2]); w.open(sys.argv[2], t)
w.write_image(np.stack([out[n] for n in order], -1).astype(np.float32)); w.close()
print('0')`,
    ours,
    path,
  )
  return new Uint8Array(readFileSync(path))
}
const PARTS = `
rgb('Main', of('')); out['Main.A'] = ch['A']
rgb('Colour.Diffuse', of('albedo'))
def apart(name): return [np.where(a > 0, c / np.maximum(a, 1e-6), 0) for c, a in zip(of(name), of('albedo'))]
rgb('Light.DiffuseDirect', apart('diffuse_direct')); rgb('Light.DiffuseIndirect', apart('diffuse_indirect'))
rgb('Specular', of('reflection')); rgb('Transmitted', of('refraction')); rgb('Emitted', of('emission')); rgb('Backdrop', of('environment'))
for l in 'XYZ': out['Norm.' + l] = ch['normal.' + l]
`
const NAMED = `t.attribute(a.name, 'Things' if a.name.endswith('/name') else a.value)`
const THINGS = `
for n in ch:
    if n.startswith('cryptoObject'): out['Things' + n[len('cryptoObject'):]] = ch[n]
`
const plane = async (file: PassFile, name: string): Promise<Float32Array> =>
  (await unpacking(() => file.planes.get(name)))!
const known = (name: string): Float32Array => truth.planes.get(name)!
const there = (): boolean[] => Array.from(known('A'), (alpha, i) => alpha > 0 && known('depth.Z')[i]! < NO_DEPTH / 2)
const farthest = (a: ArrayLike<number>, b: ArrayLike<number>, counts: readonly boolean[] = []): number => {
  let most = 0
  for (let i = 0; i < b.length; i++) if (counts[i] ?? true) most = Math.max(most, Math.abs(a[i]! - b[i]!))
  return most
}

describe('a whole set under other names', () => {
  const bytes = written('set', `${PARTS}${THINGS}out['Depth.V'] = ch['depth.Z'] * 100`, NAMED)

  it('is guessed by the words of its names, and whether light is apart from colour by what adds up', async () => {
    const { likely, layers, sets } = (await theirsOf(bytes))!
    expect(sets).toEqual([{ name: 'Things', names: 3 }])
    expect(layers.map(layer => layer.name)).not.toContain('Things00.rgb')
    const taken = Object.fromEntries(
      Object.entries(likely.takes).map(([pass, terms]) => [pass, terms.map(term => [term.layer, term.times])]),
    )
    expect(taken).toEqual({
      beauty: [['Main.RGB', undefined]],
      alpha: [['Main.A', undefined]],
      albedo: [['Colour.Diffuse.RGB', undefined]],
      diffuse_direct: [['Light.DiffuseDirect.RGB', 'Colour.Diffuse.RGB']],
      diffuse_indirect: [['Light.DiffuseIndirect.RGB', 'Colour.Diffuse.RGB']],
      reflection: [['Specular.RGB', undefined]],
      refraction: [['Transmitted.RGB', undefined]],
      emission: [['Emitted.RGB', undefined]],
      environment: [['Backdrop.RGB', undefined]],
      normal: [['Norm.XYZ', undefined]],
      depth: [['Depth.V', undefined]],
    })
    expect(likely.sets).toEqual({ crypto_object: 'Things' })
  })

  it('has the light, depth and names of the render', async () => {
    const { likely } = (await theirsOf(bytes))!
    const reading: PassReading = { ...likely, rest: undefined, depth: { kind: 'metres', unit: 0.01 } }
    delete reading.rest
    const file = await openPassFile(bytes, reading)
    for (const id of ['', 'reflection.', 'environment.', 'albedo.', 'diffuse_direct.', 'diffuse_indirect.'])
      for (const letter of ['R', 'G', 'B'])
        expect(farthest(await plane(file, id + letter), known(id + letter)), id + letter).toBeLessThan(2e-5)
    expect(farthest(await plane(file, 'depth.Z'), known('depth.Z'), there())).toBeLessThan(1e-4)
    const there0 = there()
    const depth = await plane(file, 'depth.Z')
    depth.forEach((metres, i) => {
      if (!there0[i] && !(known('A')[i]! > 0)) expect(metres).toBe(NO_DEPTH)
    })
    const coverage = (await unpacking(() => coverageOf(file, 'objects')))!
    const own = truth.coverage.get('crypto_object')!
    expect([...file.objectNames].sort()).toEqual([...names].sort())
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      for (let rank = 0; rank < own.ranks; rank++) {
        const at = i * own.ranks + rank
        expect(coverage.weight[at]).toBe(own.weight[at])
        if (own.index[at]) expect(file.objectNames[coverage.index[at]! - 1]).toBe(names[own.index[at]! - 1])
      }
  })

  it('says how far its parts are from its beauty, and puts the rest into the direct light', async () => {
    const { likely } = (await theirsOf(bytes))!
    expect((await readSo(bytes, likely)).left).toBeLessThan(1e-4)
    // Without its mirroring
    const { reflection: _, ...fewer } = likely.takes
    const without: PassReading = { ...likely, takes: fewer }
    const light = (name: string): number =>
      known(`${name}.R`).reduce((a, b) => a + b) +
      known(`${name}.G`).reduce((a, b) => a + b) +
      known(`${name}.B`).reduce((a, b) => a + b)
    const whole = ['R', 'G', 'B'].reduce((sum, name) => sum + known(name).reduce((a, b) => a + b), 0)
    expect((await readSo(bytes, without)).left).toBeCloseTo(light('reflection') / whole, 3)
    const file = await openPassFile(bytes, without)
    const direct = await plane(file, 'diffuse_direct.G')
    expect(
      farthest(
        direct,
        known('diffuse_direct.G').map((value, i) => value + known('reflection.G')[i]!),
      ),
    ).toBeLessThan(2e-5)
  })

  it('names a layer that it has not', async () => {
    await expect(openPassFile(bytes, { takes: { depth: [{ layer: 'Far.V' }] } })).rejects.toThrow(
      new BadInput('This file has no layer “Far.V”, which is to be its depth.'),
    )
  })
})

describe('depth of every kind', () => {
  const basic = `rgb('Main', of('')); out['Main.A'] = ch['A']; z = ch['depth.Z']; lit = z < 1e9\n`
  const takes: PassReading['takes'] = {
    beauty: [{ layer: 'Main.RGB' }],
    alpha: [{ layer: 'Main.A' }],
    depth: [{ layer: 'D.V' }],
  }
  const read = async (script: string, depth: PassReading['depth'], name: string): Promise<Float32Array> =>
    plane(await openPassFile(written(name, basic + script), { takes, depth }), 'depth.Z')

  it.each([
    ['in feet', `out['D.V'] = z / 0.3048`, { kind: 'metres', unit: 0.3048 }],
    ['one over metres, nothing at 0', `out['D.V'] = np.where(lit, 1 / z, 0)`, { kind: 'inverse' }],
    [
      'a grey, white near',
      `out['D.V'] = np.where(lit, 1 - (z - 3) / 20, 0)`,
      { kind: 'grey', near: { value: 0.9, metres: 5 }, far: { value: 0.5, metres: 13 } },
    ],
    [
      'a grey, black near, even in one over metres',
      `out['D.V'] = np.where(lit, 1 - 2 / z, 1)`,
      { kind: 'grey', inverse: true, near: { value: 0.5, metres: 4 }, far: { value: 0.8, metres: 10 } },
    ],
    [
      'lengths of rays',
      // From the definition: the picture is 2 tan(angle / 2) wide at a distance of 1
      `
y, x = np.mgrid[0:s.height, 0:s.width]; half = np.tan(np.radians(${ANGLE}) / 2)
u = ((x + .5) / s.width * 2 - 1) * half; v = ((y + .5) - s.height / 2) * 2 / s.width * half
out['D.V'] = z * np.sqrt(1 + u * u + v * v)`,
      { kind: 'metres', angle: ANGLE },
    ],
  ] as const)('%s', async (name, script, depth) => {
    const found = await read(script, depth as PassReading['depth'], name.replaceAll(/\W+/g, '-'))
    const counts = there()
    expect(counts.filter(Boolean).length).toBeGreaterThan(500)
    for (let i = 0; i < found.length; i++)
      if (counts[i]) expect(Math.abs(found[i]! / known('depth.Z')[i]! - 1)).toBeLessThan(2e-5)
      else if (!(known('A')[i]! > 0)) expect(found[i]).toBe(NO_DEPTH)
  })

  it('as a grey without a second distance is nowhere', async () => {
    const found = await read(`out['D.V'] = z`, { kind: 'grey', near: { value: 1, metres: 1 } }, 'half')
    expect(found.every(metres => metres === NO_DEPTH)).toBe(true)
  })
})

it('stands in the frame that its display window says: what was rendered beyond is cut, what was not is empty', async () => {
  const takes: PassReading['takes'] = { beauty: [{ layer: 'RGB' }], alpha: [{ layer: 'A' }], depth: [{ layer: 'Z' }] }
  const body = `
for l in 'RGB': out[l] = ch[l]
out['A'] = ch['A']; out['Z'] = ch['depth.Z']
`
  // Of a frame of 80 x 50, from 12, 4 on
  const cropped = await openPassFile(written('cropped', `${body}x0, y0 = 12, 4; full = (80, 50)`), {
    takes,
    depth: { kind: 'metres' },
  })
  expect([cropped.width, cropped.height]).toEqual([80, 50])
  const green = await plane(cropped, 'G')
  const depth = await plane(cropped, 'depth.Z')
  for (let y = 0; y < 50; y++)
    for (let x = 0; x < 80; x++) {
      const [ox, oy] = [x - 12, y - 4]
      const isIn = ox >= 0 && oy >= 0 && ox < WIDTH && oy < HEIGHT
      expect(green[y * 80 + x]).toBe(isIn ? known('G')[oy * WIDTH + ox] : 0)
      if (!isIn) expect(depth[y * 80 + x]).toBe(NO_DEPTH)
    }
  // Of a frame of 50 x 40, from -5, -2 on
  const wider = await openPassFile(written('wider', `${body}x0, y0 = -5, -2; full = (50, 40)`), { takes })
  expect([wider.width, wider.height]).toEqual([50, 40])
  const red = await plane(wider, 'R')
  for (let y = 0; y < 40; y++)
    for (let x = 0; x < 50; x++) expect(red[y * 50 + x]).toBe(known('R')[(y + 2) * WIDTH + x + 5])
})

it('things that are only numbered are told apart by their numbers', async () => {
  const bytes = written(
    'numbers',
    `rgb('Main', of('')); out['Main.A'] = ch['A']; out['Index.I'] = np.choose(ch['object_id.I'].astype(int), [0, 40, 7, 12])`,
  )
  const { likely } = (await theirsOf(bytes))!
  expect(likely.takes['object_id']).toEqual([{ layer: 'Index.I' }])
  const file = await openPassFile(bytes, likely)
  const coverage = (await unpacking(() => coverageOf(file, 'objects')))!
  expect(file.objectNames).toEqual(['number 7', 'number 12', 'number 40'])
  const ids = known('object_id.I')
  for (let i = 0; i < ids.length; i++) {
    expect(coverage.index[i]).toBe([0, 3, 1, 2][ids[i]!])
    expect(coverage.weight[i]).toBe(ids[i] ? known('A')[i] : 0)
  }
})

it('motion in four letters is two passes, and upwards is turned round', async () => {
  const bytes = written(
    'motion',
    `
rgb('Main', of(''))
y, x = np.mgrid[0:s.height, 0:s.width].astype(np.float32)
rgb('Speed', [x, y, -x, 2 * y], 'XYZW')`,
  )
  const { likely } = (await theirsOf(bytes))!
  expect(likely.takes).toMatchObject({ motion_back: [{ layer: 'Speed.XY' }], motion_forward: [{ layer: 'Speed.ZW' }] })
  const file = await openPassFile(bytes, { ...likely, motionUp: true })
  const at = 5 * WIDTH + 9
  const read = async (name: string): Promise<number> => (await plane(file, name))[at]!
  expect([await read('motion_back.X'), await read('motion_back.Y')]).toEqual([9, -5])
  expect([await read('motion_forward.X'), await read('motion_forward.Y')]).toEqual([-9, -10])
})

it('small letters, whole words, several parts of one light', () => {
  const layers = layersIn([
    'r',
    'g',
    'b',
    'a',
    'z',
    'spec.red',
    'spec.green',
    'spec.blue',
    'coat.R',
    'coat.G',
    'coat.B',
  ])
  expect(layers.map(({ name, channels }) => [name, channels.length])).toEqual([
    ['rgb', 3],
    ['a', 1],
    ['z', 1],
    ['spec.rgb', 3],
    ['coat.RGB', 3],
  ])
  expect(likelyReading(layers, [], false).takes).toEqual({
    beauty: [{ layer: 'rgb' }],
    alpha: [{ layer: 'a' }],
    depth: [{ layer: 'z' }],
    reflection: [{ layer: 'spec.rgb' }, { layer: 'coat.RGB' }],
  })
})

it('a picture, and passes of ours, are not asked about', async () => {
  expect(await theirsOf(written('picture', `for l in 'RGBA': out[l] = ch[l]`))).toBeUndefined()
  expect(await theirsOf(new Uint8Array(readFileSync(ours)))).toBeUndefined()
  expect(
    await theirsOf(written('same names', `for l in 'RGB': out[l] = ch[l]\nout['depth.Z'] = ch['depth.Z']`)),
  ).toBeUndefined()
})
