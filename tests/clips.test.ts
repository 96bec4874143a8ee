// Clips from files to frames in the build: sequences with gaps, odd sizes, retiming, rates; and what is said of them.
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../core/compose/evaluate'
import { encodingOf } from '../core/colour/encoding'
import { writePicture } from '../core/formats/picture/picture'
import { writePng } from '../core/formats/png/png'
import { pictureSize } from '../core/formats/picture/size'
import { bringAgain, bringLayer, bringPlate } from '../core/shot/bring'
import { clipFrame, frameThere, readManifest } from '../core/shot/clip'
import { newDocument, type PictureReference, type ShotDocument } from '../core/shot/document'
import { clipFaults, frameFaults, readingFaults } from '../core/shot/faults'
import { rateOf } from '../core/time/rate'
import type { ClipTiming } from '../core/shot/schema/picture'
import { BlobStore } from '../host/blobs'
import { checkClip, clipOfSequence, clipOfVideo } from '../host/clips'
import { startEngine, type Engine } from '../host/engine'
import { documentFaults } from '../shared/validate'
import { scratchFolder } from './python'

const folder = scratchFolder()
const store = new BlobStore(join(folder, 'blobs'))
const report = { progress: () => {}, cancelled: () => false }
let engine: Engine
beforeAll(async () => {
  engine = await startEngine(1)
})
afterAll(() => {
  engine.stop()
})

/** A frame of one grey code. */
const grey = (code: number, width = 8, height = 6): Promise<string> =>
  store.put(writePng({ width, height, channels: 3, maximum: 255, data: new Uint8Array(width * height * 3).fill(code) }))
const sequence = async (
  numbers: number[],
  name = (number: number) => `sea.${String(number).padStart(4, '0')}.png`,
): Promise<PictureReference> =>
  clipOfSequence(
    store,
    await Promise.all(numbers.map(async number => ({ name: name(number), blob: await grey(number % 256) }))),
    rateOf(25),
    report,
  )
const shotOf = (plate: PictureReference): ShotDocument => {
  const document = newDocument(8, 6)
  bringPlate(document, plate)
  return document
}
/** The code shown at a frame, mixes as fractions of a code (in linear light undone). */
async function codeAt(document: ShotDocument, frame: number, small = false): Promise<number> {
  const raster = await new Evaluator(engine.pool, blob => store.get(blob), 2 ** 26).evaluate({
    document,
    frame,
    shrink: 1,
    show: { kind: 'plate' },
    small,
  })
  const light = engine.kernels.floats(raster.pointer, 4)[0]!
  return 255 * (light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055)
}

describe('a sequence', () => {
  it('is listed with its numbers, and stands frame for frame in the shot', async () => {
    const plate = await sequence([101, 102, 103, 104])
    const document = shotOf(plate)
    expect(plate).toMatchObject({
      width: 8,
      height: 6,
      encoding: 'srgb',
      alpha: 'none',
      clip: { count: 4, first: 101, gaps: 0 },
    })
    expect([document.frame, document.frames, documentFaults(document)]).toEqual([
      { width: 8, height: 6 },
      { first: 1, last: 4 },
      [],
    ])
    for (let frame = 1; frame <= 4; frame++) expect(await codeAt(document, frame)).toBeCloseTo(100 + frame, 2)
  })
  it('with gaps keeps them: told by their numbers, the nearest frame stands in, the earlier of two', async () => {
    const plate = await sequence([10, 11, 14, 15])
    const document = shotOf(plate)
    expect(plate.clip).toMatchObject({ count: 6, gaps: 2, missing: '12–13' })
    expect(clipFaults(document, plate).map(fault => fault.text)).toContainEqual(
      expect.stringContaining('Frames 12–13 are missing'),
    )
    expect(await Promise.all([3, 4].map(frame => codeAt(document, frame).then(Math.round)))).toEqual([11, 14])
    const manifest = readManifest(await store.get(plate.blob), plate.blob)
    expect(frameThere(manifest, 2)).toMatchObject({ index: 1, missing: true })
  })
  it('plays from small pictures: codes as they stand, light of any strength to a few per cent; a gap has none', async () => {
    const plate = await sequence([10, 11, 14])
    expect(await checkClip(store, plate, {}, report)).toEqual({})
    const document = shotOf(plate)
    const there = (await readdir(join(store.frames.folder, plate.blob))).sort()
    expect(there).toEqual(['0.jpg', '1.jpg', '4.jpg'])
    const played = async (shot: ShotDocument, frame: number): Promise<number> => {
      const raster = await new Evaluator(engine.pool, blob => store.get(blob), 2 ** 26).evaluate({
        document: shot,
        frame,
        shrink: 1,
        show: { kind: 'plate' },
        small: true,
      })
      return engine.kernels.floats(raster.pointer, 4)[1]!
    }
    expect(Math.abs((await played(document, 2)) - encodingOf('srgb').decode!(11 / 255))).toBeLessThan(0.0006)
    for (const light of [0.004, 0.18, 1, 6.5]) {
      const blob = await store.put(
        writePicture(8, 6, new Float32Array(8 * 6 * 4).fill(light), {
          format: 'exr',
          bits: 16,
          encoding: 'linear',
          alpha: false,
        }),
      )
      const clip = await clipOfSequence(
        store,
        [1, 2].map(number => ({ name: `f${number}.exr`, blob })),
        rateOf(25),
        report,
      )
      await checkClip(store, clip, {}, report)
      const bright = shotOf(clip)
      expect(Math.abs((await played(bright, 1)) / light - 1), `light ${light}`).toBeLessThan(0.06)
    }
  })
  it('of more than one size is refused by the numbers of the odd ones', async () => {
    const files = await Promise.all(
      [1, 2, 3, 4, 5].map(async number => ({
        name: `a${number}.png`,
        blob: await grey(number, number === 3 || number === 4 ? 4 : 8),
      })),
    )
    await expect(clipOfSequence(store, files, rateOf(24), report)).rejects.toThrow(
      'Not all frames have one size: 3–4 are 4 x 6, the others 8 x 6.',
    )
  })
  it('that is none, or more than one, or holds no picture, is refused', async () => {
    await expect(clipOfSequence(store, [{ name: 'a.png', blob: await grey(1) }], rateOf(24), report)).rejects.toThrow(
      /no numbered sequence/,
    )
    await expect(
      clipOfSequence(
        store,
        [
          { name: 'a1.png', blob: await grey(1) },
          { name: 'a2.png', blob: await grey(2) },
          { name: 'b1.png', blob: await grey(3) },
        ],
        rateOf(24),
        report,
      ),
    ).rejects.toThrow(/more than one/)
    const junk = await store.put(Buffer.from('no picture'))
    await expect(
      clipOfSequence(
        store,
        [
          { name: 'a1.png', blob: await grey(1) },
          { name: 'a2.png', blob: junk },
        ],
        rateOf(24),
        report,
      ),
    ).rejects.toThrow(/“a2.png”/)
  })
})

describe('time', () => {
  it('retimed, reversed, looped, frozen and mixed clips show the frames that they should', async () => {
    const plate = await sequence([100, 104, 108, 112, 116].map((_, i) => 100 + i))
    const document = shotOf(plate)
    const seen = async (change: Partial<ClipTiming>, frames: number[]): Promise<number[]> => {
      const next = structuredClone(document)
      Object.assign(next.plate!.clip!.timing, change)
      expect(documentFaults(next)).toEqual([])
      return Promise.all(frames.map(async frame => Number((await codeAt(next, frame)).toFixed(1))))
    }
    expect(await seen({ speed: 0.5 }, [1, 2, 3])).toEqual([100, 100, 101])
    expect(await seen({ reverse: true }, [1, 2, 5])).toEqual([104, 103, 100])
    expect(await seen({ ends: 'loop' }, [5, 6, 7])).toEqual([104, 100, 101])
    expect(await seen({ start: 3, ends: 'nothing' }, [2, 3])).toEqual([0, 100])
    expect(await seen({ frozen: 2 }, [1, 4])).toEqual([102, 102])
    expect(
      await seen(
        {
          retime: {
            keys: [
              { frame: 1, value: 4, ease: 'linear' },
              { frame: 5, value: 0, ease: 'linear' },
            ],
          },
        },
        [1, 3, 5],
      ),
    ).toEqual([104, 102, 100])
    // Between two neighbours of a code's distance light is as good as even
    expect(await seen({ speed: 0.5, blend: true }, [2, 4])).toEqual([100.5, 101.5])
  })
  it('copies of a clip keep their own offset', async () => {
    const picture = await sequence([50, 51, 52])
    const document = newDocument(8, 6)
    const first = bringLayer(document, picture, 5)
    const second = bringLayer(document, picture, 9)
    expect([first.picture.clip!.timing.start, second.picture.clip!.timing.start, picture.clip!.timing.start]).toEqual([
      5, 9, 1,
    ])
  })
})

describe('a video', () => {
  const made = (
    name: string,
    args: string[],
    source = 'testsrc2=size=64x48:rate=24000/1001:duration=1',
  ): Promise<string> => {
    const path = join(folder, name)
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', source, ...args, path])
    return store.put(readFileSync(path))
  }
  it('gives a still shot its length and its exact rate, and says how its colour was read', async () => {
    const document = newDocument()
    const plate = await clipOfVideo(
      store,
      await made('a.mov', ['-c:v', 'prores_ks', '-timecode', '01:00:00:00']),
      'a.mov',
    )
    bringPlate(document, plate)
    expect([document.rate, document.frames, document.frame]).toEqual([
      rateOf(24000, 1001),
      { first: 1, last: 24 },
      { width: 64, height: 48 },
    ])
    expect(plate).toMatchObject({
      encoding: 'rec709',
      guessed: expect.stringContaining('Rec.709'),
      facts: { bits: 16, alpha: 'none' },
      clip: { timecode: '01:00:00:00', made: { name: 'a.mov' } },
    })
    expect([
      ...readingFaults(plate),
      ...clipFaults(document, plate),
      ...frameFaults(document),
      ...documentFaults(document),
    ]).toEqual([])
  })
  it('of another rate than the shot is told with its drift, and each mend ends it', async () => {
    const document = newDocument(64, 48)
    document.frames.last = 1002
    document.rate = rateOf(24000, 1001)
    document.plate = await clipOfVideo(
      store,
      await made('b.mov', ['-c:v', 'libx264'], 'testsrc2=size=64x48:rate=24:duration=0.5'),
      'b.mov',
    )
    const [fault] = clipFaults(document, document.plate)
    expect(fault!.text).toContain('1.0 frames behind by frame 1002')
    for (const mend of fault!.mends) {
      const next = structuredClone(document)
      Object.assign(next.plate!, mend.values ?? {})
      if (mend.rate) next.rate = mend.rate
      expect(clipFaults(next, next.plate!), mend.label).toEqual([])
      expect(documentFaults(next)).toEqual([])
    }
  })
  it('of fields or uneven times is told, and reading it again ends that; its timing stays', async () => {
    const blob = await made(
      'c.mov',
      ['-vf', 'tinterlace=interleave_top,setfield=tff', '-flags', '+ilme+ildct', '-c:v', 'mpeg2video', '-q:v', '2'],
      'testsrc2=size=64x48:rate=50:duration=0.4',
    )
    const before = await clipOfVideo(store, blob, 'c.mov')
    const document = shotOf(before)
    const fault = clipFaults(document, document.plate!).find(entry => entry.mends[0]?.again)!
    expect(fault.text).toMatch(/fields/)
    before.clip!.timing.start = 7
    before.encoding = 'bt1886'
    const after = bringAgain(before, await clipOfVideo(store, blob, 'c.mov', fault.mends[0]!.again!))
    expect(clipFaults(document, after)).toEqual([])
    expect([after.clip!.timing.start, after.encoding]).toEqual([7, 'bt1886'])
  })
  it('of pixels that are not square fills a frame of its true shape', async () => {
    const document = newDocument()
    const plate = await clipOfVideo(store, await made('d.mov', ['-c:v', 'prores_ks', '-vf', 'setsar=4/3']), 'd.mov')
    bringPlate(document, plate)
    expect([document.frame, frameFaults(document)]).toEqual([{ width: 85, height: 48 }, []])
    const raster = await new Evaluator(engine.pool, blob => store.get(blob), 2 ** 26).evaluate({
      document,
      frame: 1,
      shrink: 1,
      show: { kind: 'plate' },
    })
    // Nothing is left blank at its sides
    const pixels = engine.kernels.floats(raster.pointer, 85 * 48 * 4)
    for (const x of [0, 84]) expect(pixels[(24 * 85 + x) * 4 + 3]).toBeGreaterThan(0.4)
  })
})

describe('manifests', () => {
  it('of clips whose frames were made into pictures still show them, and play from them', async () => {
    const frames = await Promise.all([grey(40), grey(90)])
    const old = {
      northmist: 'clip',
      version: 1,
      name: 'old.mp4',
      width: 8,
      height: 6,
      rate: rateOf(25),
      first: 0,
      frames,
      proxies: [await grey(1), await grey(2)],
      pixelAspect: rateOf(1),
      source: { kind: 'video', bits: 8, alpha: false },
    }
    const now = await sequence([1, 2])
    const document = shotOf({ ...now, blob: await store.put(new TextEncoder().encode(JSON.stringify(old))) })
    expect([await codeAt(document, 1), await codeAt(document, 2)].map(Math.round)).toEqual([40, 90])
    expect(Math.round(await codeAt(document, 2, true))).toBe(90)
  })
  it('are not looked for in large files that are none', async () => {
    const large = await store.put(new Uint8Array(3_000_000).fill(0x7b))
    await expect(store.get(clipFrame(large, 0))).rejects.toThrow('That is no clip.')
  })
  it('that are damaged are refused with what is wrong', async () => {
    const own = '0'.repeat(64)
    const good = JSON.parse(new TextDecoder().decode(await store.get((await sequence([1, 2])).blob))) as Record<
      string,
      unknown
    >
    const refused = (change: Record<string, unknown>, says: RegExp): void => {
      expect(() => readManifest(new TextEncoder().encode(JSON.stringify({ ...good, ...change })), own)).toThrow(says)
    }
    expect(readManifest(new TextEncoder().encode(JSON.stringify(good)), own)).toMatchObject({ width: 8 })
    refused({ northmist: 'other' }, /no such list/)
    refused({ width: 0 }, /no size/)
    refused({ frames: ['../../etc/passwd'] }, /not named/)
    refused({ frames: [null, null] }, /no frame/)
    refused({ rate: { numerator: 0, denominator: 1 } }, /rate/)
    expect(() => readManifest(new Uint8Array([1, 2]), own)).toThrow(/JSON/)
  })
})

describe('the small pictures that clips are played from', () => {
  it('look like the frames (34 dB or more), stand in for them only when asked, also in layers', async () => {
    const path = join(folder, 'wide.mov')
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'testsrc2=size=1920x1080:rate=24:duration=0.2',
      '-c:v',
      'libx264',
      '-crf',
      '12',
      '-pix_fmt',
      'yuv420p',
      path,
    ])
    const document = newDocument()
    const plate = await clipOfVideo(store, await store.put(new Uint8Array(readFileSync(path))), 'wide.mov')
    bringPlate(document, plate)
    expect(pictureSize(await store.get(clipFrame(plate.blob, 0, true)))).toEqual({ width: 960, height: 540 })
    const evaluator = new Evaluator(engine.pool, blob => store.get(blob))
    const shown = async (small: boolean): Promise<Float32Array> => {
      const raster = await evaluator.evaluate({ document, frame: 3, shrink: 2, show: { kind: 'finish' }, small })
      return engine.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
    }
    const miss = (a: Float32Array, b: Float32Array): number => {
      let sum = 0
      for (let i = 0; i < a.length; i++) sum += (Math.sqrt(Math.max(0, a[i]!)) - Math.sqrt(Math.max(0, b[i]!))) ** 2
      return 10 * Math.log10(a.length / Math.max(1e-12, sum))
    }
    const whole = await shown(false)
    const small = await shown(true)
    expect(miss(whole, small)).toBeGreaterThan(34)
    expect(small).not.toEqual(whole)
    expect(await shown(false)).toEqual(whole)
    const layer = bringLayer(document, plate, 1)
    Object.assign(layer, { scale: 0.5, rotation: 20, x: 700 })
    expect(miss(await shown(false), await shown(true))).toBeGreaterThan(32)
  })
})
