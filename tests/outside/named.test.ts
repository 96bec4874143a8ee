// Names of a Cryptomatte out of the file beside it (“manif_file”, Cryptomatte specification 1.2): files that OpenImageIO
// (Debian) writes, with the names put in, read by it again: the same pixels, and the names in their metadata.
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { namesApart, withNames } from '../../core/formats/cryptomatte/named'
import { readExr } from '../../core/formats/exr/exr'
import { openPassFile } from '../../core/render/openpasses'
import { theirsOf } from '../../core/render/theirs'
import { useNode } from '../../host/engine'
import { python, scratchFolder } from '../python'

useNode()
const folder = scratchFolder()
// IDs of two names by the reference MurmurHash3 (A. Appleby), as tests/outside/cryptomatte.test.ts has it for others
const MANIFEST = JSON.stringify({ 'far pier': hash('far pier'), störtebeker: hash('störtebeker') })
function hash(name: string): string {
  return python<string>(
    `
import sys, json
def mmh3(data, seed=0):
    m = 0xffffffff; h = seed; n = len(data) // 4 * 4
    def k_(k): k = k * 0xcc9e2d51 & m; k = (k << 15 | k >> 17) & m; return k * 0x1b873593 & m
    for i in range(0, n, 4):
        h ^= k_(int.from_bytes(data[i:i+4], 'little')); h = (h << 13 | h >> 19) & m; h = h * 5 + 0xe6546b64 & m
    t = int.from_bytes(data[n:], 'little')
    if data[n:]: h ^= k_(t)
    h ^= len(data); h ^= h >> 16; h = h * 0x85ebca6b & m; h ^= h >> 13; h = h * 0xc2b2ae35 & m; return h ^ h >> 16
h = mmh3(sys.argv[1].encode('utf8')); e = h >> 23 & 255
if e in (0, 255): h ^= 1 << 23
print(json.dumps('%08x' % h))`,
    name,
  )
}
/** Left the pier, right the other, in 40 by 30 pixels; kind: how it is stored. */
function written(kind: 'lines' | 'tiles' | 'parts', names: readonly string[] = ['sidecar/names of it.json']): string {
  const path = join(folder, `${kind}${names.length}.exr`)
  python(
    `
import sys, json, struct, numpy as np, OpenImageIO as o
path, kind, manifest, files = sys.argv[1], sys.argv[2], json.loads(sys.argv[3]), json.loads(sys.argv[4])
H, W = 30, 40
ids = [struct.unpack('<f', struct.pack('<I', int(v, 16)))[0] for v in manifest.values()]
def spec(names):
    s = o.ImageSpec(W, H, len(names), o.FLOAT); s.channelnames = names; s.attribute('compression', 'zip')
    return s
picture = np.random.default_rng(5).random((H, W, 4)).astype('f4')
def sets(s):
    for k, file in enumerate(files):
        key = 'cryptomatte/%07x/' % (0xabc0 + k)
        s.attribute(key + 'name', 'Thing%d' % k); s.attribute(key + 'hash', 'MurmurHash3_32')
        s.attribute(key + 'conversion', 'uint32_to_float32'); s.attribute(key + 'manif_file', file)
ranks = np.zeros((H, W, 4), 'f4'); ranks[:, :W // 2, 0] = ids[0]; ranks[:, W // 2:, 0] = ids[1]; ranks[..., 1] = 1
crypto = [n for k in range(len(files)) for n in ('Thing%d00.%s' % (k, c) for c in 'RGBA')]
data = np.concatenate([ranks] * len(files), axis=2)
out = o.ImageOutput.create(path)
if kind == 'parts':
    a, b = spec(('R', 'G', 'B', 'A')), spec(tuple(crypto)); a.attribute('oiio:subimagename', 'picture'); b.attribute('oiio:subimagename', 'names'); sets(b)
    out.open(path, (a, b)); out.write_image(picture); out.open(path, b, 'AppendSubimage'); out.write_image(data)
else:
    s = spec(('R', 'G', 'B', 'A') + tuple(crypto)); sets(s)
    if kind == 'tiles': s.tile_width = s.tile_height = 16
    out.open(path, s); out.write_image(np.concatenate([picture, data], axis=2))
out.close(); assert not out.geterror(), out.geterror()
print('0')`,
    path,
    kind,
    MANIFEST,
    JSON.stringify(names),
  )
  return path
}
const NAMES = { name: 'NAMES OF IT.json', text: MANIFEST }

describe('names put into a file', () => {
  it.each(['lines', 'tiles', 'parts'] as const)('of %s are read by another program, with the same pixels', kind => {
    const path = written(kind)
    const bytes = new Uint8Array(readFileSync(path))
    const named = withNames(bytes, [NAMES])
    const after = `${path}.named.exr`
    writeFileSync(after, named)
    const told = python<{ same: boolean; manifest: string; parts: number }>(
      `
import sys, json, numpy as np, OpenImageIO as o
def read(path):
    parts = []
    while True:
        b = o.ImageBuf(path, len(parts), 0)
        if b.has_error or len(parts) >= b.nsubimages: break
        parts.append((b.get_pixels(o.FLOAT), {a.name: a.value for a in b.spec().extra_attribs}, b.spec().tile_width))
        if len(parts) == b.nsubimages: break
    return parts
a, b = read(sys.argv[1]), read(sys.argv[2])
same = len(a) == len(b) and all(np.array_equal(x[0].view('u4'), y[0].view('u4')) and x[2] == y[2] for x, y in zip(a, b))
print(json.dumps(dict(same=same, parts=len(b), manifest=[v for p in b for k, v in p[1].items() if k.endswith('/manifest')][0])))`,
      path,
      after,
    )
    expect(told).toEqual({ same: true, parts: kind === 'parts' ? 2 : 1, manifest: MANIFEST })
    // And by ourselves: nothing but that attribute is more
    expect(readExr(named).channels).toEqual(readExr(bytes).channels)
    expect(namesApart(bytes)).toMatchObject([{ id: '000abc0', name: 'Thing0', beside: 'sidecar/names of it.json' }])
    expect(namesApart(named)).toEqual([])
    expect(withNames(named, [NAMES])).toBe(named)
  })
  it('make a set of passes with its names, which said before where they are', async () => {
    const bytes = new Uint8Array(readFileSync(written('parts')))
    const before = (await theirsOf(bytes))!
    expect(before.sets).toEqual([{ name: 'Thing0', names: 0, beside: 'sidecar/names of it.json' }])
    const named = withNames(bytes, [NAMES])
    const after = (await theirsOf(named))!
    expect(after.sets).toEqual([{ name: 'Thing0', names: 2 }])
    expect((await openPassFile(named, after.likely)).objectNames.slice(0, 2)).toEqual(['far pier', 'störtebeker'])
  })
  it('come to the set that asks for them, and an only list to an only set whatever it is called', () => {
    const bytes = new Uint8Array(readFileSync(written('lines', ['one.json', 'two.json'])))
    const setsOf = (files: Parameters<typeof withNames>[1]) =>
      namesApart(withNames(bytes, files)).map(({ name }) => name)
    expect(setsOf([{ ...NAMES, name: 'C:\\renders\\two.json' }])).toEqual(['Thing0'])
    expect(setsOf([{ ...NAMES, name: 'any.json' }])).toEqual(['Thing0', 'Thing1'])
    const alone = new Uint8Array(readFileSync(written('lines')))
    expect(namesApart(withNames(alone, [{ ...NAMES, name: 'any.json' }]))).toEqual([])
  })
  it('are refused where they are none', () => {
    const bytes = new Uint8Array(readFileSync(written('lines')))
    const given = (text: string) => () => withNames(bytes, [{ name: 'names.json', text }])
    expect(given('{')).toThrow('“names.json” is not JSON')
    for (const text of ['[]', 'null', '3', '{"a":1}', '{"a":"xyz"}', '{"a":"123456789"}'])
      expect(given(text)).toThrow('is no list of names of a Cryptomatte')
  })
})

it('the command line takes them from beside the passes, whose layers are called otherwise than ours', () => {
  const path = written('lines')
  const beside = join(folder, 'names of it.json')
  const run = () =>
    execFileSync(
      process.execPath,
      ['bin/northmist.mjs', 'treat', path, '--passes', path, '--line', 'exposure stops=1', '--matte', 'names names=störtebeker', '--out', join(folder, 'out.exr')], // prettier-ignore
      { stdio: 'pipe' },
    )
  if (existsSync(beside)) rmSync(beside)
  expect(run).toThrow(/have no objects “störtebeker”/)
  writeFileSync(beside, MANIFEST)
  run()
  const red = (file: string) => readExr(readFileSync(file)).channels.find(({ name }) => name === 'R')!.data
  const [before, after] = [red(path), red(join(folder, 'out.exr'))]
  expect(Number(after[5]) / Number(before[5])).toBeCloseTo(1, 2)
  expect(Number(after[35]) / Number(before[35])).toBeCloseTo(2, 2)
})
