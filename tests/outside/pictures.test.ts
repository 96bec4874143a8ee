// PNG, TIFF, JPEG and Radiance HDR against OpenImageIO's tools.
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { encode } from 'fast-png'
import jpegJs from 'jpeg-js'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { BadInput } from '../../core/formats/errors'
import { encodingOf } from '../../core/colour/encoding'
import { lensOf, sensorWidth35 } from '../../core/formats/picture/exif'
import { guessAlpha, guessEncoding } from '../../core/formats/picture/describe'
import { readPicture, toWorking, writePicture } from '../../core/formats/picture/picture'
import { pictureSize } from '../../core/formats/picture/size'
import { readJpeg } from '../../core/formats/jpeg/jpeg'
import { emptyWindow, writeExr } from '../../core/formats/exr/exr'
import { useNode } from '../../host/engine'
import { python, scratchFolder } from '../python'

useNode()
const folder = scratchFolder()
const VALUES = `
import sys, json, numpy as np, OpenImageIO as o
b = o.ImageBuf(sys.argv[1]); a = b.get_pixels(o.FLOAT)
print(json.dumps({'channels': b.nchannels, 'values': [float(v) for v in a.reshape(-1)]}))`
const make = (file: string, ...args: string[]): string => {
  const path = join(folder, file)
  execFileSync('oiiotool', [
    '--pattern',
    'fill:topleft=.1,.2,.9,1:topright=.9,.4,.1,.5:bottomleft=.3,.8,.2,.8:bottomright=1,.02,.6,.3',
    '41x23',
    '4',
    ...args,
    '-o',
    path,
  ])
  return path
}

describe('files of oiiotool are read to the code', () => {
  it.each([
    ['a8.png', ['--ch', 'R,G,B,A', '-d', 'uint8']],
    ['a16.png', ['-d', 'uint16']],
    ['a8.tif', ['--ch', 'R,G,B', '-d', 'uint8']],
    ['a16.tif', ['--ch', 'R,G,B', '-d', 'uint16', '--compression', 'lzw']],
    ['af.tif', ['--ch', 'R,G,B', '-d', 'float', '--compression', 'zip']],
    ['a.hdr', ['--ch', 'R,G,B']],
    ['grey.png', ['--ch', 'R', '-d', 'uint8']],
  ] as [string, string[]][])('%s', async (name, args) => {
    const path = make(name, ...args)
    const expected = python<{ channels: number; values: number[] }>(VALUES, path)
    const picture = await readPicture(readFileSync(path))
    expect([picture.width, picture.height]).toEqual([41, 23])
    for (let i = 0; i < 41 * 23; i++) {
      const alpha = picture.pixels[i * 4 + 3]!
      for (let c = 0; c < Math.min(3, expected.channels); c++) {
        // OpenImageIO hands PNG out premultiplied
        const ours = expected.channels === 4 ? picture.pixels[i * 4 + c]! * alpha : picture.pixels[i * 4 + c]!
        expect(Math.abs(ours - expected.values[i * expected.channels + c]!)).toBeLessThan(
          expected.channels === 4 ? 1.01 / 255 : 2e-6,
        )
      }
    }
  })
})

describe('our files are read by OpenImageIO to the code', () => {
  const pixels = Float32Array.from({ length: 19 * 13 * 4 }, (_, i) => (i % 4 === 3 ? 1 : (Math.sin(i) + 1) / 2))
  it.each([
    ['png', 8, 1 / 255],
    ['png', 16, 1 / 65535],
    ['tiff', 8, 1 / 255],
    ['tiff', 16, 1 / 65535],
    ['tiff', 32, 1e-7],
    ['exr', 32, 1e-7],
    ['hdr', 32, 0.004],
  ] as const)('%s %d', (format, bits, tolerance) => {
    const path = join(folder, `ours-${bits}.${format === 'tiff' ? 'tif' : format}`)
    writeFileSync(path, writePicture(19, 13, pixels, { format, bits, encoding: 'linear' }))
    const { channels, values } = python<{ channels: number; values: number[] }>(VALUES, path)
    for (let i = 0; i < 19 * 13; i++)
      for (let c = 0; c < 3; c++)
        expect(Math.abs(values[i * channels + c]! - pixels[i * 4 + c]!)).toBeLessThanOrEqual(
          tolerance * 0.51 + 1e-7 + (format === 'hdr' ? 0.002 : 0),
        )
  })
})

it('a JPEG, which has no alpha, shows light over black as it is, where that is half covered too', () => {
  const path = join(folder, 'half.jpg')
  const pixels = Float32Array.from({ length: 16 * 16 * 4 }, (_, i) => [0.4, 0.3, 0.2, 0.5][i % 4]!)
  writeFileSync(path, writePicture(16, 16, pixels, { format: 'jpeg', bits: 8, encoding: 'linear', alpha: true }))
  const { channels, values } = python<{ channels: number; values: number[] }>(VALUES, path)
  expect(channels).toBe(3)
  values.forEach((value, i) => expect(Math.abs(value - pixels[Math.floor(i / 3) * 4 + (i % 3)]!)).toBeLessThan(0.01))
})

describe('TIFF alpha is what the file says (TIFF 6.0, ExtraSamples)', () => {
  // A ramp of alpha over one colour: read by OpenImageIO as associated whatever the file holds
  const pixels = Float32Array.from({ length: 16 * 4 * 4 }, (_, i) => {
    const alpha = ((Math.floor(i / 4) % 16) + 1) / 16
    return i % 4 === 3 ? alpha : [0.8, 0.4, 0.2][i % 4]! * alpha
  })
  it.each([8, 16, 32] as const)('%d bits', async bits => {
    const path = join(folder, `alpha-${bits}.tif`)
    writeFileSync(path, writePicture(16, 4, pixels, { format: 'tiff', bits, encoding: 'linear', alpha: true }))
    const { values } = python<{ channels: number; values: number[] }>(VALUES, path)
    values.forEach((value, i) => expect(Math.abs(value - pixels[i]!)).toBeLessThan(bits === 8 ? 0.006 : 1e-4))
    const back = await readPicture(readFileSync(path))
    expect(back.alphaSaid).toBe(bits === 32 ? 'premultiplied' : 'straight')
    const working = toWorking(back, encodingOf('linear'), guessAlpha(back, 'unclear'))
    working.forEach((value, i) => expect(Math.abs(value - pixels[i]!)).toBeLessThan(bits === 8 ? 0.006 : 1e-4))
  })
  it('of oiiotool is associated', async () => {
    const back = await readPicture(readFileSync(make('assoc.tif', '--ch', 'R,G,B,A', '-d', 'uint16')))
    expect(back.alphaSaid).toBe('premultiplied')
  })
})

describe('the lens of a photograph', () => {
  it('is read from the Exif that OpenImageIO wrote, in JPEG and TIFF', async () => {
    for (const name of ['lens.jpg', 'lens.tif'])
      expect(
        await lensOf(
          readFileSync(
            make(
              name,
              '--ch',
              'R,G,B',
              '-d',
              'uint8',
              '--attrib:type=float',
              'Exif:FocalLength',
              '24',
              '--attrib:type=int',
              'Exif:FocalLengthIn35mmFilm',
              '36',
            ),
          ),
        ),
        name,
      ).toEqual({ focalLength: 24, focalLength35: 36 })
    expect(await lensOf(readFileSync(make('none.png', '--ch', 'R,G,B', '-d', 'uint8')))).toEqual({
      focalLength: undefined,
      focalLength35: undefined,
    })
  })
  it('nonsense in it is left alone, damage is no error', async () => {
    expect(
      (
        await lensOf(
          readFileSync(make('odd.jpg', '--ch', 'R,G,B', '-d', 'uint8', '--attrib:type=float', 'Exif:FocalLength', '0')),
        )
      ).focalLength,
    ).toBeUndefined()
    expect(await lensOf(new Uint8Array([0xff, 0xd8, 0xff, 0xe1, 0, 20, 69, 120]))).toEqual({})
  })
  it('35 mm film compares diagonals: 36 mm wide at 3:2, 34.6 at 4:3 (CIPA DCG-001, from memory)', () => {
    expect(sensorWidth35(1800, 1200)).toBeCloseTo(36, 9)
    expect(sensorWidth35(1600, 1200)).toBeCloseTo(34.61, 2)
  })
})

it('encodings are guessed with a reason', async () => {
  expect(guessEncoding(await readPicture(readFileSync(make('g.png', '--ch', 'R,G,B', '-d', 'uint8')))).encoding).toBe(
    'srgb',
  )
  expect(guessEncoding(await readPicture(readFileSync(make('g.hdr', '--ch', 'R,G,B')))).encoding).toBe('linear')
})

describe('bad files', () => {
  it('cut off are refused with a sentence', async () => {
    for (const name of ['b8.png', 'b8.jpg', 'b.hdr', 'b16.tif']) {
      const bytes = readFileSync(make(name, '--ch', 'R,G,B', '-d', name.includes('16') ? 'uint16' : 'uint8'))
      await expect(readPicture(bytes.subarray(0, Math.floor(bytes.length / 3))), name).rejects.toBeInstanceOf(BadInput)
    }
  })
  it('a PNG bomb is refused by its header', async () => {
    const bytes = Buffer.from(readFileSync(make('bomb.png', '--ch', 'R,G,B', '-d', 'uint8')))
    bytes.writeUInt32BE(60000, 16)
    await expect(readPicture(bytes)).rejects.toThrow(/at most/)
  })
  it('what is no picture is told by content, not by name', async () => {
    await expect(readPicture(new TextEncoder().encode('not a picture at all'))).rejects.toThrow(/no picture/)
  })
})

describe('which way up a photograph was taken', () => {
  // Corners that are told apart, with each orientation written by OpenImageIO; OpenCV 4.6 turns a JPEG right by itself
  // (OpenImageIO 2.4's own --reorient takes 5 for 7)
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('orientation %d is turned as OpenCV turns it', async orientation => {
    const path = (ending: string): string => join(folder, `way-${orientation}.${ending}`)
    for (const ending of ['jpg', 'tif'])
      execFileSync('oiiotool', [
        ...['--create', '48x32', '3', '--fill:color=1,0,0', '16x16+0+0', '--fill:color=0,1,0', '16x16+32+0'],
        ...['--fill:color=0,0,1', '16x16+0+16', '--attrib', 'Orientation', String(orientation), '-d', 'uint8'],
        ...['-o', path(ending)],
      ])
    const theirs = python<number[][][]>(
      'import sys, json, cv2; print(json.dumps(cv2.imread(sys.argv[1])[:, :, ::-1].tolist()))',
      path('jpg'),
    )
    for (const ending of ['jpg', 'tif']) {
      const bytes = readFileSync(path(ending))
      const ours = await readPicture(bytes)
      expect([ours.height, ours.width]).toEqual([theirs.length, theirs[0]!.length])
      expect(pictureSize(bytes)).toEqual({ width: ours.width, height: ours.height })
      // In the middle of each patch: JPEG smears colour over its borders
      for (let y = 8; y < ours.height; y += 16)
        for (let x = 8; x < ours.width; x += 16)
          theirs[y]![x]!.forEach((value, c) =>
            expect(Math.abs(ours.pixels[(y * ours.width + x) * 4 + c]! - value / 255)).toBeLessThan(0.03),
          )
    }
  })
})

describe('channels of OpenEXR that are a picture', () => {
  const written = (...names: string[]): Uint8Array =>
    writeExr({
      dataWindow: emptyWindow(2, 1),
      displayWindow: emptyWindow(2, 1),
      compression: 'none',
      attributes: [],
      channels: names.map((name, c) => ({
        name,
        type: 'float' as const,
        linear: false,
        data: Float32Array.from([c + 1, c + 1]),
      })),
    })
  it.each([
    [
      ['a', 'b', 'g', 'r'],
      [4, 3, 2, 1],
    ],
    [
      ['Blue', 'Green', 'Red'],
      [3, 2, 1, 1],
    ],
    [['luma'], [1, 1, 1, 1]],
    [['Y'], [1, 1, 1, 1]],
    [['brightness'], [1, 1, 1, 1]],
    [
      ['depth.Z', 'diffuse.B', 'diffuse.G', 'diffuse.R'],
      [4, 3, 2, 1],
    ],
    [
      ['A', 'B', 'G', 'R', 'diffuse.B', 'diffuse.G', 'diffuse.R'],
      [4, 3, 2, 1],
    ],
  ])('%j', async (names, expected) => {
    expect([...(await readPicture(written(...names))).pixels.slice(0, 4)]).toEqual(expected)
  })
  it.each([[['Z']], [['X', 'Y', 'Z']], [['object_id']]])('%j is data, not a picture', async names => {
    await expect(readPicture(written(...names))).rejects.toThrow(/no colour picture/)
  })
})

describe('chroma of JPEG', () => {
  // Smooth colours with an edge, of odd size, written by OpenImageIO with each sampling and read by OpenCV (libjpeg)
  const [width, height] = [187, 133]
  const picture = join(folder, 'chroma.png')
  const original = Uint8Array.from({ length: width * height * 3 }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % width, Math.floor(i / 3 / width)]
    return Math.round(128 + 100 * Math.sin(x / (9 + (i % 3) * 7) + y / 23) * (x > 90 ? 1 : 0.4))
  })
  writeFileSync(picture, encode({ width, height, channels: 3, data: original }))
  const written = (sampling: string): string => {
    const path = join(folder, `chroma-${sampling.replaceAll(':', '')}.jpg`)
    execFileSync('oiiotool', [
      ...[picture, '--attrib', 'jpeg:subsampling', sampling, '--compression', 'jpeg:96', '-o', path],
    ])
    return path
  }
  const byOpenCv = (path: string): Uint8Array => {
    python(
      `
import sys, cv2, json
cv2.imread(sys.argv[1])[..., ::-1].tofile(sys.argv[1] + '.bin')
print(json.dumps(0))`,
      path,
    )
    return new Uint8Array(readFileSync(`${path}.bin`))
  }
  const apart = (a: Uint8Array, b: Uint8Array): { mean: number; most: number } => {
    let sum = 0
    let most = 0
    for (let i = 0; i < a.length; i++) {
      const off = Math.abs(a[i]! - b[i]!)
      sum += off
      most = Math.max(most, off)
    }
    return { mean: sum / a.length, most }
  }
  const decibels = (a: Uint8Array): number => {
    let sum = 0
    for (let i = 0; i < a.length; i++) sum += (a[i]! - original[i]!) ** 2
    return 10 * Math.log10(255 ** 2 / (sum / a.length))
  }
  it.each(['4:4:4', '4:2:2', '4:2:0'])('%s is what libjpeg makes of it, to rounding', sampling => {
    const path = written(sampling)
    const ours = readJpeg(new Uint8Array(readFileSync(path)))
    expect([ours.width, ours.height]).toEqual([width, height])
    const { mean, most } = apart(ours.data as Uint8Array, byOpenCv(path))
    expect(mean).toBeLessThan(0.5)
    expect(most).toBeLessThanOrEqual(4)
  })
  it('interpolated chroma comes nearer to the picture than repeated chroma does', () => {
    const bytes = new Uint8Array(readFileSync(written('4:2:0')))
    const repeated = jpegJs.decode(bytes, { useTArray: true, formatAsRGBA: false }).data as Uint8Array
    expect(decibels(readJpeg(bytes).data as Uint8Array)).toBeGreaterThan(decibels(repeated) + 0.5)
  })
  it('an Adobe marker that says RGB is believed, as libjpeg does', () => {
    const plain = new Uint8Array(readFileSync(written('4:4:4')))
    // Without its JFIF marker, with an Adobe one in its place: transform 0
    expect([...plain.subarray(2, 4)]).toEqual([0xff, 0xe0])
    const jfif = 2 + plain[4]! * 256 + plain[5]!
    const marker = [0xff, 0xee, 0, 14, ...new TextEncoder().encode('Adobe'), 0, 100, 0, 0, 0, 0, 0]
    const changed = Uint8Array.from([0xff, 0xd8, ...marker, ...plain.subarray(2 + jfif)])
    const path = join(folder, 'adobe.jpg')
    writeFileSync(path, changed)
    expect(apart(readJpeg(changed).data as Uint8Array, byOpenCv(path)).most).toBeLessThanOrEqual(3)
  })
})
