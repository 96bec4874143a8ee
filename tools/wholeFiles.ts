// Whole files of every kind that is read from outside, to be damaged.
import { zlibSync } from 'fflate'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { BadInput } from '../core/formats/errors'
import { readCube } from '../core/formats/cube/cube'
import { emptyWindow, readExr, WRITTEN, writeExr, writeExrParts, type ExrImage } from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import { readFont } from '../core/formats/font/font'
import { readGltf } from '../core/formats/gltf/gltf'
import { writeHdr } from '../core/formats/hdr/hdr'
import { writeJpeg } from '../core/formats/jpeg/jpeg'
import { readPicture } from '../core/formats/picture/picture'
import { writePng, type CodedPicture } from '../core/formats/png/png'
import { writeTiff } from '../core/formats/tiff/tiff'
import { readManifest } from '../core/shot/clip'
import { newDocument } from '../core/shot/document'
import { readTrack, writeTrack } from '../core/track/track'
import { typeset, type TypeSettings } from '../core/words/typeset'
import { projectRoot } from '../host/root'
import { documentFaults } from '../shared/validate'
import { unsound } from '../shared/sound'

const TYPE: TypeSettings = {
  ...{ weight: 400, tracking: 0, lineHeight: 1.2, align: 'left', baseline: { runs: 'straight' } },
}

export interface Seed {
  kind: string
  bytes: Uint8Array
  /** Reads it, or throws BadInput. */
  read(bytes: Uint8Array): unknown
}

export function seeds(): Seed[] {
  const width = 37
  const height = 29
  const image = (compression: ExrImage['compression']): ExrImage => ({
    dataWindow: emptyWindow(width, height),
    displayWindow: emptyWindow(width, height),
    compression,
    attributes: [],
    channels: ['A', 'B', 'G', 'R'].map((name, c) => ({
      name,
      type: 'half' as const,
      linear: false,
      data: floatsToHalves(Float32Array.from({ length: width * height }, (_, i) => Math.sin(i * 0.1 + c) + 1)),
    })),
  })
  const exr = (kind: string, bytes: Uint8Array): Seed => ({ kind, bytes, read: readExr })
  const folder = join(projectRoot(), 'demo/assets')
  const woff2 = join(projectRoot(), 'node_modules/@fontsource-variable/oswald/files/oswald-latin-ext-wght-normal.woff2')
  /** Read, and words set in it at two weights. */
  const font = (kind: string, path: string): Seed => ({
    kind,
    bytes: new Uint8Array(readFileSync(path)),
    read: async bytes => {
      const face = await readFont(bytes)
      for (const weight of [400, 700]) typeset('Ğvory fi Ž\u0301', [face], { ...TYPE, weight })
    },
  })
  const codes: CodedPicture = {
    width,
    height,
    channels: 3,
    maximum: 255,
    data: new Uint8Array(width * height * 3).map((_, i) => i % 251),
  }
  const picture = (kind: string, bytes: Uint8Array): Seed => ({ kind, bytes, read: readPicture })
  const text = (kind: string, value: string, read: Seed['read']): Seed => ({
    kind,
    bytes: new TextEncoder().encode(value),
    read,
  })
  const blob = (i: number): string => i.toString(16).padStart(64, '0')
  const listOf = (kind: string, own: object): Seed => {
    const one = { numerator: 1, denominator: 1 }
    const rate = { numerator: 25, denominator: 1 }
    const list = { northmist: 'clip', version: 1, name: 'a', width: 8, height: 8, rate, pixelAspect: one, ...own }
    return text(kind, JSON.stringify(list), bytes => readManifest(bytes, blob(9)))
  }
  return [
    ...WRITTEN.map(compression => exr(`exr ${compression}`, writeExr(image(compression)))),
    exr(
      'exr parts',
      writeExrParts(['zip', 'piz'].map((compression, i) => ({ name: `part${i}`, image: image(compression as 'zip') }))),
    ),
    picture('png', writePng(codes)),
    picture('jpeg', writeJpeg(codes)),
    picture('tiff', writeTiff(codes)),
    picture('tiff lzw', packedTiff(writeTiff(codes), 5, lzw)),
    picture('tiff deflate', packedTiff(writeTiff(codes), 8, zlibSync)),
    picture('hdr', writeHdr({ width, height, pixels: new Float32Array(width * height * 4).fill(0.7) })),
    font('font truetype', '/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf'),
    font('font woff2', woff2),
    text('cube', `LUT_3D_SIZE 2\n${'0.1 0.5 0.9\n'.repeat(8)}`, readCube),
    text(
      'track',
      writeTrack({
        rate: { numerator: 25, denominator: 1 },
        first: 1,
        sensorWidth: 36,
        frames: [1, 2, 3].map(x => ({ x, y: 1, z: 0, heading: 0, pitch: 0, bank: 0, focalLength: 35 })),
        points: [{ name: 'a', place: [0, 1, 2] }],
      }),
      readTrack,
    ),
    listOf('list of a clip', {
      first: 1,
      frames: [blob(1), null, blob(3)],
      source: { kind: 'sequence', bits: 8, alpha: false },
    }),
    listOf('list of a video', {
      first: 0,
      video: {
        blob: blob(1),
        clock: { numerator: 90000, denominator: 1 },
        ticks: [0, 3600, 7200, 10800],
        keys: [0, 2],
        shown: [0, 1, 1, 3],
        matrix: 'bt709',
      },
      source: { kind: 'video', bits: 8, alpha: false },
    }),
    text('shot', JSON.stringify(newDocument()), readShot),
    ...readdirSync(folder)
      .filter(name => name.endsWith('.glb'))
      .map(name => ({
        kind: 'glb',
        bytes: new Uint8Array(readFileSync(join(folder, name))),
        read: (bytes: Uint8Array) => readGltf(bytes),
      })),
  ]
}

/** A shot as it comes in a bundle or by the server's door. */
function readShot(bytes: Uint8Array): void {
  let value: unknown
  try {
    value = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new BadInput('It is not JSON.')
  }
  const fault = unsound(value) ?? documentFaults(value)[0]
  if (fault) throw new BadInput(`It ${fault}.`)
}

/** A plain TIFF of one strip with that packed: the strip is the end of the file. */
function packedTiff(plain: Uint8Array, compression: number, pack: (bytes: Uint8Array) => Uint8Array): Uint8Array {
  const view = new DataView(plain.buffer, plain.byteOffset)
  const directory = view.getUint32(4, true)
  let start = 0
  const entries = Array.from({ length: view.getUint16(directory, true) }, (_, i) => directory + 2 + i * 12)
  for (const at of entries) if (view.getUint16(at, true) === 273) start = view.getUint32(at + 8, true)
  const strip = pack(plain.subarray(start))
  const out = new Uint8Array(start + strip.length)
  out.set(plain.subarray(0, start))
  out.set(strip, start)
  const to = new DataView(out.buffer)
  for (const at of entries) {
    if (to.getUint16(at, true) === 259) to.setUint16(at + 8, compression, true)
    if (to.getUint16(at, true) === 279) to.setUint32(at + 8, strip.length, true)
  }
  return out
}

/** LZW as TIFF 6.0, section 13 has it, without finding anything: bytes as they are, cleared before codes grow. */
function lzw(bytes: Uint8Array): Uint8Array {
  const codes: number[] = []
  bytes.forEach((byte, i) => {
    if (i % 200 === 0) codes.push(256)
    codes.push(byte)
  })
  codes.push(257)
  const out = new Uint8Array(Math.ceil((codes.length * 9) / 8))
  codes.forEach((code, i) => {
    for (let bit = 0; bit < 9; bit++) {
      const at = i * 9 + bit
      if ((code >> (8 - bit)) & 1) out[at >> 3]! |= 128 >> (at & 7)
    }
  })
  return out
}
