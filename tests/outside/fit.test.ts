// The fit check on photographs (Debian's opencv-doc): silent where a part of one is held against the rest of it; what
// is changed by a known amount, by OpenCV, numpy and culori, is found, and mended by the line that it offers.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { converter } from 'culori'
import { besideInDetail, besideInTone, UNSEEN, type Beside, type MeasureId } from '../../core/measure/beside'
import { edgesOf, sharpnessOf } from '../../core/measure/edgeSpread'
import { lineToFit } from '../../core/shot/fitMends'
import { fitDifference } from '../../core/shot/fitWords'
import { startEngine, type Engine } from '../../host/engine'
import { firstValues } from '../../core/declare/values'
import { treatmentOf } from '../../core/treatment/registry'
import { treat } from '../compose/treat'
import { python, scratchFolder } from '../python'

let engine: Engine
beforeAll(async () => {
  engine = await startEngine(2)
})
afterAll(() => engine.stop())

const folder = scratchFolder()
/**
 * Photographs no wider than 640 pixels, as light; and the first of them softened, noisy, with red and blue drawn apart.
 */
const PHOTOGRAPHS = `
import sys, json, numpy as np, cv2
folder = sys.argv[1]
base = '/usr/share/doc/opencv-doc/examples/'
names = ['data/' + n for n in ['home', 'fruits', 'leuvenA', 'leuvenB', 'aloeL', 'messi5', 'butterfly', 'building', 'baboon',
  'board', 'squirrel_cls', 'aero1', 'ela_original', 'starry_night']] + ['alphamat/input_images/plant', 'hfs/data/000',
  'text/scenetext01', 'text/scenetext02', 'text/scenetext03', 'text/scenetext05']
def light(codes):
    f = codes.astype(np.float64)[..., ::-1] / 255
    return np.where(f <= 0.04045, f / 12.92, ((f + 0.055) / 1.055) ** 2.4)
def keep(name, picture):
    np.dstack([picture, np.ones(picture.shape[:2])]).astype(np.float32).tofile(f'{folder}/{name}.f32')
out = []
for n in names:
    im = cv2.imread(base + n + '.jpg')
    h, w = im.shape[:2]
    name = n.split('/')[-1]
    most = 640 if name in ('leuvenA', 'building') else 440
    if w > most:
        im = cv2.resize(im, (most, round(h * most / w)), interpolation=cv2.INTER_AREA)
    h, w = im.shape[:2]
    l = light(im)
    keep(name, l)
    out.append({'name': name, 'width': w, 'height': h})
    if name in ('leuvenA', 'building'):
        keep(name + ' soft', cv2.GaussianBlur(l, (0, 0), 1.5, borderType=cv2.BORDER_REPLICATE))
        rng = np.random.default_rng(5)
        calm = cv2.GaussianBlur(l, (0, 0), 12)
        keep(name + ' calm', calm)
        keep(name + ' noisy', calm + rng.normal(0, 0.1 * 0.18, calm.shape) * np.sqrt(np.maximum(calm, 0.001) / 0.18))
        y, x = np.mgrid[0:h, 0:w].astype(np.float32)
        dx, dy = x + 0.5 - w / 2, y + 0.5 - h / 2
        corner = np.hypot(w, h) / 2
        apart = l.copy()
        # Red lies farther out by two pixels in the corner, blue farther in by two: by the cube of the distance from the middle
        for c, by in ((0, 2), (2, -2)):
            share = (np.hypot(dx, dy) / corner) ** 2 * by / corner
            apart[..., c] = cv2.remap(l[..., c].astype(np.float32), (x - dx * share).astype(np.float32),
              (y - dy * share).astype(np.float32), cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        keep(name + ' apart', apart)
print(json.dumps(out))`
interface Photograph {
  name: string
  width: number
  height: number
}
let photographs: Photograph[] = []
beforeAll(() => {
  photographs = python<Photograph[]>(PHOTOGRAPHS, folder)
})
const pixelsOf = (name: string): Float32Array => {
  const bytes = readFileSync(join(folder, `${name}.f32`))
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length))
}
const called = (name: string): Photograph => photographs.find(photograph => photograph.name === name)!
const oval = ({ width, height }: Photograph, [x, y, a, b]: readonly number[]): Uint8Array =>
  Uint8Array.from({ length: width * height }, (_, i) =>
    (((i % width) / width - x!) / a!) ** 2 + ((Math.floor(i / width) / height - y!) / b!) ** 2 < 1 ? 1 : 0,
  )
const MIDDLE = [0.5, 0.55, 0.3, 0.35] as const
const row = (rows: readonly Beside[], id: MeasureId): Beside => rows.find(found => found.id === id)!

it('is silent on twenty photographs, of which a part is held against the rest', () => {
  expect(photographs).toHaveLength(20)
  const said: string[] = []
  let told = 0
  const PLACES = [
    [0.3, 0.7, 0.2, 0.22],
    [0.62, 0.38, 0.18, 0.3],
  ] as const
  for (const [i, photograph] of photographs.entries())
    for (const place of [PLACES[i % 2]!]) {
      const { name, width } = photograph
      const render = pixelsOf(name)
      const mask = oval(photograph, place)
      // What is under it is not seen by the plate: the same place of the picture the other way round stands there
      const plate = render.slice()
      for (let i = 0; i < mask.length; i++) {
        const other = i - (i % width) + width - 1 - (i % width)
        if (mask[i]) plate.set(render.subarray(other * 4, other * 4 + 4), i * 4)
      }
      const pair = { plate, render, mask, width }
      for (const found of [...besideInTone(pair).rows, ...besideInDetail(pair).rows]) {
        if (found.sure !== 'unknown') told++
        if (found.sure === 'likely' || found.sure === 'certain')
          said.push(`${name}: ${found.id} ${fitDifference(found)} (${found.sure})`)
      }
    }
  expect(said).toEqual([])
  // Most of what it looks at it can tell of
  expect(told).toBeGreaterThan(20 * 6)
}, 120_000)

describe('what is changed by a known amount is found', () => {
  const oklab = converter('oklab')
  const rgb = converter('lrgb')
  /** Each pixel changed in culori's OKLab. */
  const changed = (pixels: Float32Array, change: (lab: { l: number; a: number; b: number }) => void): Float32Array => {
    const out = pixels.slice()
    for (let i = 0; i < out.length; i += 4) {
      const lab = oklab({ mode: 'lrgb', r: out[i]!, g: out[i + 1]!, b: out[i + 2]! })!
      change(lab)
      const { r, g, b } = rgb(lab)!
      out.set([r, g, b], i)
    }
    return out
  }
  const tones = (name: string, render: Float32Array): Beside[] => {
    const photograph = called(name)
    const { width } = photograph
    return besideInTone({ plate: pixelsOf(name), render, mask: oval(photograph, MIDDLE), width }).rows
  }
  const NAMES = ['leuvenA', 'building'] as const

  it('levels, colour and contrast, each within a hundredth of white or what is not seen', () => {
    for (const name of NAMES) {
      const photo = pixelsOf(name)
      const before = tones(name, photo)
      const of = (rows: Beside[], id: MeasureId): number[] => row(rows, id).render!
      const lifted = tones(
        name,
        changed(photo, lab => {
          lab.l = lab.l * 0.7 + 0.25
        }),
      )
      for (const id of ['blacks', 'whites'] as const)
        expect(of(lifted, id)[0]! - (of(before, id)[0]! * 0.7 + 0.25), `${name} ${id}`).toBeCloseTo(0, 2)
      const paler = tones(
        name,
        changed(photo, lab => {
          lab.a *= 0.4
          lab.b *= 0.4
        }),
      )
      expect(of(paler, 'colourfulness')[0]! / of(before, 'colourfulness')[0]!, name).toBeCloseTo(0.4, 2)
      const tinted = tones(
        name,
        changed(photo, lab => {
          lab.a += 0.02
          lab.b -= 0.05
        }),
      )
      for (const id of ['shadows', 'lights'] as const) {
        expect(of(tinted, id)[0]! - of(before, id)[0]!, `${name} ${id} a`).toBeCloseTo(0.02, 3)
        expect(of(tinted, id)[1]! - of(before, id)[1]!, `${name} ${id} b`).toBeCloseTo(-0.05, 3)
      }
      // Light to a power: as many times the stops (what is darker than ten stops under grey counts as that)
      const steep = photo.map((value, i) => (i % 4 === 3 ? value : 0.18 * (Math.max(1e-4, value) / 0.18) ** 1.5))
      const grey = (pixels: Float32Array): Float32Array =>
        pixels.map((value, i) => (i % 4 === 3 ? value : pixels[i - (i % 4) + 1]!))
      const contrast = (pixels: Float32Array): number => of(tones(name, grey(pixels)), 'contrast')[0]!
      expect(contrast(steep) / contrast(photo), name).toBeCloseTo(1.5, 1)
    }
  })
  it('says so, where no part of the photograph is like it', () => {
    const shout = (name: string, change: (lab: { l: number; a: number; b: number }) => void): string[] =>
      tones(name, changed(pixelsOf(name), change))
        .filter(({ sure }) => sure === 'likely' || sure === 'certain')
        .map(({ id }) => id)
    for (const name of NAMES) {
      expect(
        shout(name, lab => void (lab.l = lab.l * 0.6 + 0.4)),
        name,
      ).toContain('blacks')
      expect(
        shout(name, lab => void (lab.l *= 1.4)),
        name,
      ).toContain('whites')
      expect(
        shout(name, lab => void (lab.b += 0.12)),
        name,
      ).toEqual(expect.arrayContaining(['shadows', 'lights']))
      expect(
        shout(name, () => undefined),
        name,
      ).toEqual([])
    }
  })
  it('softness within a sixth, noise of a tenth of grey within a fifth of itself, colours drawn apart within a quarter', () => {
    for (const name of NAMES) {
      const photograph = called(name)
      const { width } = photograph
      const mask = oval(photograph, MIDDLE)
      const detail = (render: string, plate: string = name): Beside[] =>
        besideInDetail({ plate: pixelsOf(plate), render: pixelsOf(render), mask, width }).rows
      // Softness adds up by its squares
      const [sharp, soft] = [row(detail(name), 'sharpness'), row(detail(`${name} soft`), 'sharpness')]
      const expected = Math.hypot(sharp.render![0]!, 1.5)
      expect(soft.render![0]! / expected, name).toBeGreaterThan(5 / 6)
      expect(soft.render![0]! / expected, name).toBeLessThan(1.1)
      const noisy = row(detail(`${name} noisy`, `${name} calm`), 'grain')
      expect(noisy.plate, name).toEqual([0])
      expect(noisy.render![0]!, name).toBeGreaterThan(0.1 * (4 / 5))
      expect(noisy.render![0]!, name).toBeLessThan(0.1 * (6 / 5))
      expect(noisy.sure, JSON.stringify(noisy)).toBe('certain')
      const all = new Uint8Array(mask.length).fill(1)
      const apart = besideInTone({ plate: pixelsOf(name), render: pixelsOf(`${name} apart`), mask: all, width })
      const fringes = row(apart.rows, 'fringing')
      expect(Math.abs(fringes.difference - 4), `${name} fringes ${fringes.difference}`).toBeLessThan(4 / 4)
      expect(['likely', 'certain'], name).toContain(fringes.sure)
    }
  })
  it('is mended by the line that it offers', async () => {
    for (const name of NAMES.slice(0, 1)) {
      const photograph = called(name)
      const { width, height } = photograph
      const mask = oval(photograph, MIDDLE)
      const plate = pixelsOf(name)
      const measured = (of: MeasureId, render: Float32Array, there = plate): Parameters<typeof lineToFit>[1] => {
        const pair = { plate: there, render, mask, width }
        if (of === 'sharpness') return besideInDetail(pair)
        return { ...besideInTone(pair), grain: {} }
      }
      const soft = pixelsOf(`${name} soft`)
      // What it is made of, and what it is to be like where that is not the photograph
      const CHANGES: [MeasureId, Float32Array, Float32Array?][] = [
        ['blacks', changed(plate, lab => void (lab.l = lab.l * 0.7 + 0.25))],
        ['whites', changed(plate, lab => void (lab.l *= 1.3))],
        ['contrast', plate.map((value, i) => (i % 4 === 3 ? value : 0.18 * (Math.max(1e-4, value) / 0.18) ** 0.6))],
        ['colourfulness', changed(plate, lab => void Object.assign(lab, { a: lab.a * 1.8, b: lab.b * 1.8 }))],
        ['shadows', plate.map((value, i) => value * [1.3, 1, 0.6, 1][i % 4]!)],
        ['lights', plate.map((value, i) => value * [1.3, 1, 0.6, 1][i % 4]!)],
        ['sharpness', soft],
        ['sharpness', plate, soft],
        ['fringing', pixelsOf(`${name} apart`)],
      ]
      for (const [id, render, there] of CHANGES) {
        const before = measured(id, render, there)
        const line = lineToFit(row(before.rows, id), before)!
        const values = { ...firstValues(treatmentOf(line.kind).values), ...line.values }
        const after = measured(id, await treat(engine.pool, line.kind, values as never, width, height, render), there)
        const [was, is] = [row(before.rows, id), row(after.rows, id)]
        if (id === 'blacks' || id === 'whites') {
          // No further than to where the plate has them somewhere
          expect(is.sure, `${name} ${id}`).toBe('fits')
          const end = was.render![0]! > was.ends![1] ? was.ends![1] : was.plate![0]!
          expect(is.render![0]!, `${name} ${id}`).toBeCloseTo(end, 2)
          continue
        }
        // Colours of shadows and lights change from border to border, and a softness is undone in part
        const left = Math.max(UNSEEN[id] * 1.5, Math.abs(was.difference) * (render === soft ? 0.75 : 0.5))
        expect(
          Math.abs(is.difference),
          `${name} ${id}: ${JSON.stringify(was)} ${JSON.stringify(line)} became ${JSON.stringify(is)}`,
        ).toBeLessThan(left)
      }
    }
  }, 120_000)
})

it('an edge askew that OpenCV softened is as soft as that within 6 %, and 10 % where there is noise', () => {
  const EDGES = `
import sys, json, numpy as np, cv2
out = []
for sigma in (0.5, 0.8, 1.2, 2):
    for degrees in (12, 44):
        for noise in (0, 0.01):
            s, w, h = 8, 160, 120
            a = np.deg2rad(degrees)
            y, x = np.mgrid[0:h * s, 0:w * s]
            im = np.where((x - w * s / 2) * np.cos(a) + (y - h * s / 2) * np.sin(a) > 0, 0.6, 0.1)
            im = cv2.GaussianBlur(im, (0, 0), sigma * s).reshape(h, s, w, s).mean((1, 3))
            im = im + np.random.default_rng(1).normal(0, noise, im.shape)
            name = f'edge {sigma} {degrees} {noise}'
            im.astype(np.float32).tofile(f'{sys.argv[1]}/{name}.f32')
            out.append({'name': name, 'sigma': sigma, 'noise': noise})
print(json.dumps(out))`
  for (const { name, sigma, noise } of python<{ name: string; sigma: number; noise: number }[]>(EDGES, folder)) {
    // A pixel's own width softens it, too
    const expected = Math.hypot(sigma, Math.sqrt(1 / 12))
    const edges = edgesOf(pixelsOf(name), 160)
    const median = edges.map(edge => edge.sigma).sort((a, b) => a - b)[edges.length >> 1]!
    const share = noise ? 0.1 : 0.06
    expect(Math.abs(median / expected - 1), `${name}: ${median}`).toBeLessThan(share)
    expect(sharpnessOf(edges)!).toBeLessThanOrEqual(median)
  }
})
