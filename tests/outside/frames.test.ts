// Any frame of a video, asked for in any order, against ffmpeg decoding the whole file from its start (Debian 5.1).
import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { mkdir, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { readPng } from '../../core/formats/png/png'
import { clipFrame, readManifest } from '../../core/shot/clip'
import { BlobStore } from '../../host/blobs'
import { ClipFrames } from '../../host/clipFrames'
import { checkClip, clipOfVideo, type ImportOptions } from '../../host/clips'
import { decodeFrames } from '../../host/videoFrames'
import { scratchFolder } from '../python'

const folder = scratchFolder()
const store = new BlobStore(join(folder, 'blobs'))
const quiet = { progress: () => {}, cancelled: () => false }
const ffmpeg = (args: string[]): Buffer =>
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { maxBuffer: 2 ** 30 })
function made(name: string, args: string[], source = 'testsrc2=size=96x64:rate=25:duration=4'): string {
  const path = join(folder, name)
  ffmpeg(['-f', 'lavfi', '-i', source, ...args, path])
  return path
}
const bring = async (path: string, options: ImportOptions = {}) =>
  clipOfVideo(store, await store.put(new Uint8Array(readFileSync(path))), path, options)
/** 16-bit codes of a PNG, as ffmpeg writes them raw. */
const codesOf = (bytes: Uint8Array): Buffer => Buffer.from(Uint16Array.from(readPng(bytes).data).buffer)
/** Frames as ffmpeg gives them from the start on, through filters. */
function reference(path: string, size: number, alpha: boolean, filters = ''): Buffer[] {
  const raw = ffmpeg([
    ...['-i', path, '-map', '0:v:0', '-fps_mode', 'passthrough', '-vf'],
    `${filters}scale=in_color_matrix=smpte170m:flags=accurate_rnd+full_chroma_int+bicubic,format=${alpha ? 'rgba64le' : 'rgb48le'}`,
    ...['-f', 'rawvideo', '-'],
  ])
  const each = size * (alpha ? 8 : 6)
  return Array.from({ length: raw.length / each }, (_, i) => raw.subarray(i * each, (i + 1) * each))
}
/** Back and forth: no two neighbours one after another. */
const mixed = (count: number): number[] => Array.from({ length: count }, (_, i) => (i * 37 + 11) % count)

const x264 = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p']
const CASES: [string, string[], { alpha?: boolean; options?: ImportOptions; filters?: string; source?: string }?][] = [
  ['long.mp4', [...x264, '-g', '80', '-bf', '3']],
  ['open.mkv', [...x264, '-x264-params', 'open-gop=1:keyint=20:bframes=3']],
  ['refresh.mp4', [...x264, '-x264-params', 'intra-refresh=1:keyint=25:bframes=0']],
  ['hevc.mov', ['-c:v', 'libx265', '-pix_fmt', 'yuv420p10le', '-x265-params', 'log-level=none:keyint=25']],
  ['mpeg2.mov', ['-c:v', 'mpeg2video', '-g', '15', '-bf', '2', '-q:v', '3']],
  ['vp9.webm', ['-c:v', 'libvpx-vp9', '-pix_fmt', 'yuv420p', '-g', '40', '-auto-alt-ref', '1', '-lag-in-frames', '16']],
  ['motion.avi', ['-c:v', 'mjpeg', '-pix_fmt', 'yuvj422p']],
  ['alpha.mov', ['-c:v', 'prores_ks', '-profile:v', '4', '-pix_fmt', 'yuva444p10le'], { alpha: true }],
  ['ffv1.mkv', ['-c:v', 'ffv1', '-pix_fmt', 'yuv444p16le']],
  [
    'fields.mov',
    [
      ...['-vf', 'tinterlace=interleave_top,setfield=tff', '-flags', '+ilme+ildct', '-c:v', 'mpeg2video', '-g', '12'],
      ...['-q:v', '2'],
    ],
    {
      options: { wholeFrames: true },
      filters: 'bwdif=mode=send_frame,',
      source: 'testsrc2=size=96x64:rate=50:duration=4',
    },
  ],
  [
    'uneven.mkv',
    ['-vf', "select='not(mod(n,7))+not(mod(n,3))'", '-fps_mode', 'vfr', ...x264, '-g', '10'],
    { source: 'testsrc2=size=96x64:rate=30:duration=5' },
  ],
]
describe('every frame is the same to the code as in a decoding from the start', () => {
  it.each(CASES)('%s', async (name, args, { alpha = false, options, filters, source } = {}) => {
    const path = made(name, args, source)
    const clip = await bring(path, options)
    const frames = reference(path, 96 * 64, alpha, filters)
    expect(clip.clip!.count).toBe(frames.length)
    for (const at of mixed(frames.length).slice(0, 24))
      expect(codesOf(await store.get(clipFrame(clip.blob, at))).equals(frames[at]!), `frame ${at}`).toBe(true)
    // Looked through, it is what it was told to be, and its frames are still the same
    expect(await checkClip(store, clip, options ?? {}, quiet)).toEqual({})
    for (const file of await readdir(join(store.frames.folder, clip.blob)))
      if (file.endsWith('.png')) await rm(join(store.frames.folder, clip.blob, file))
    for (const at of [frames.length - 1, 0, Math.floor(frames.length / 2)])
      expect(codesOf(await store.get(clipFrame(clip.blob, at))).equals(frames[at]!), `frame ${at}`).toBe(true)
  })
})

it('a turned video, and one whose edit list leaves out its beginning, give what a player shows', async () => {
  const plain = made('plain.mp4', [...x264, '-g', '50'])
  const turned = join(folder, 'turned.mp4')
  ffmpeg(['-i', plain, '-c', 'copy', '-metadata:s:v', 'rotate=90', turned])
  const cut = join(folder, 'cut.mp4')
  ffmpeg(['-ss', '0.9', '-i', plain, '-c', 'copy', cut])
  for (const path of [turned, cut]) {
    const clip = await bring(path)
    const frames = reference(path, 96 * 64, false)
    expect(clip.clip!.count, path).toBe(frames.length)
    for (const at of [frames.length - 1, 0, 40])
      expect(codesOf(await store.get(clipFrame(clip.blob, at))).equals(frames[at]!), `${path} ${at}`).toBe(true)
  }
})

it('steady frames are those that ffmpeg’s fps filter shows', async () => {
  const path = made(
    'steady.mkv',
    ['-vf', "select='not(mod(n,7))+not(mod(n,3))'", '-fps_mode', 'vfr', ...x264],
    'testsrc2=size=96x64:rate=30:duration=3',
  )
  const clip = await bring(path, { steady: true })
  const { numerator, denominator } = clip.clip!.rate
  const frames = reference(path, 96 * 64, false, `fps=${numerator}/${denominator},`)
  // The filter holds the last frame for as long as it says it lasts
  expect(Math.abs(clip.clip!.count - frames.length)).toBeLessThanOrEqual(1)
  for (let at = 0; at < Math.min(frames.length, clip.clip!.count); at++)
    expect(codesOf(await store.get(clipFrame(clip.blob, at))).equals(frames[at]!), `frame ${at}`).toBe(true)
})

it('where decoding from a key does not give the frame, it is decoded from the start; so it is where its pixels are not what was noted', async () => {
  // Each of its keys is only the beginning of a picture that is put right strip by strip in the frames after it
  const stream = made('refresh.ts', [...x264, '-x264-params', 'intra-refresh=1:keyint=25:bframes=0'])
  const path = join(folder, 'refresh.mkv')
  ffmpeg(['-i', stream, '-c', 'copy', path])
  const clip = await bring(path)
  const { keys } = readManifest(await store.get(clip.blob), clip.blob).video!
  expect(keys.length).toBeGreaterThan(2)
  const frames = reference(path, 96 * 64, false)
  const same = async (at: number): Promise<boolean> =>
    codesOf(await store.get(clipFrame(clip.blob, at))).equals(frames[at]!)
  const early = keys[2]! + 3
  for (const at of [early, keys[2]! + 20, 99]) expect(await same(at), `frame ${at}`).toBe(true)
  expect(await checkClip(store, clip, {}, quiet)).toEqual({})
  const hashes = join(store.frames.folder, clip.blob, 'hashes')
  writeFileSync(hashes, (await readFile(hashes, 'utf8')).replace(/ [0-9a-f]{8}/g, ' 01234567'))
  expect(await same(10)).toBe(true)
  expect(await readdir(join(store.frames.folder, clip.blob))).not.toContain('hashes')
})

it('a video that breaks off keeps what can be decoded, and says so', async () => {
  const path = made('breaks.mp4', [...x264, '-g', '10'])
  const bytes = readFileSync(path)
  bytes.fill(0xa5, Math.floor(bytes.length * 0.5), Math.floor(bytes.length * 0.7))
  writeFileSync(path, bytes)
  const clip = await bring(path)
  const { clip: found, words } = await checkClip(store, clip, {}, quiet)
  expect(words).toMatch(/^This video breaks off after \d+ of \d+ frames: .+\. Those are there\.$/)
  const { count } = found!.clip!
  expect(count).toBeGreaterThan(20)
  expect(count).toBeLessThan(90)
  expect(await store.get(clipFrame(found!.blob, count - 1))).toHaveProperty('length')
  await expect(store.get(clipFrame(found!.blob, count))).rejects.toThrow(/is none of them/)
  // A copy that ends too early, its index at its front
  const front = made('front.mp4', [...x264, '-g', '10', '-movflags', '+faststart'])
  writeFileSync(front, readFileSync(front).subarray(0, (await stat(front)).size * 0.6))
  const short = await bring(front)
  const told = await checkClip(store, short, {}, quiet)
  expect(told.words).toMatch(/^This video breaks off/)
  expect((told.clip ?? short).clip!.count).toBeLessThan(90)
})

it('a video that breaks off after more hashes than pictures ends as well', async () => {
  const path = made('ahead.mp4', x264)
  const { blob } = await bring(path)
  const manifest = readManifest(await store.get(blob), blob)
  // One that stands for ffmpeg: 3000 hashes (more than a pipe holds), one picture, then it breaks
  const stand = join(folder, 'stand')
  await mkdir(stand)
  await writeFile(
    join(stand, 'ffmpeg'),
    `#!/usr/bin/env node
const { writeSync } = require('node:fs')
for (let i = 0; i < 3000; i++) try {
  writeSync(3, '0, ' + i + ', ' + i + ', 1, 9216, 0123456789abcdef0123456789abcdef\\n')
} catch { break }
writeSync(1, 'Content-type: image/jpeg\\r\\nContent-length: 4\\r\\n\\r\\nabcd')
console.error('it broke')
process.exit(1)
`,
    { mode: 0o755 },
  )
  const { PATH } = process.env
  process.env.PATH = `${stand}:${PATH}`
  try {
    const come: string[] = []
    const all = async (): Promise<void> => {
      for await (const { hash } of decodeFrames(path, manifest, { kind: 'small', from: 0 })) come.push(hash)
    }
    await expect(all()).rejects.toThrow('it broke')
    expect(come).toEqual(['0123456789abcdef0123456789abcdef'])
  } finally {
    process.env.PATH = PATH
  }
}, 20000)

it('what is kept on the disk is bounded, and what was used longest ago goes first', async () => {
  const path = made('bounded.mp4', x264)
  const clip = await bring(path)
  const most = 500_000
  const frames = new ClipFrames(join(folder, 'bounded'), store, most)
  for (let at = 0; at < 100; at += 1) await frames.get(clipFrame(clip.blob, at))
  const { bytes, files } = await frames.used()
  expect(bytes).toBeLessThan(most * 1.2)
  expect(files).toBeGreaterThan(3)
  expect((await readdir(join(folder, 'bounded', clip.blob))).includes('0.png')).toBe(false)
  // One that a power cut left short is decoded again; it is given before it is kept
  const last = join(folder, 'bounded', clip.blob, '99.png')
  await expect.poll(() => existsSync(last)).toBe(true)
  writeFileSync(last, (await readFile(last)).subarray(0, 300))
  expect(readPng(await frames.get(clipFrame(clip.blob, 99))).width).toBe(96)
  await expect.poll(async () => (await stat(last)).size).toBeGreaterThan(300)
})

it('footage takes no more room than its file, its list and what is kept of it', async () => {
  const own = new BlobStore(join(folder, 'room'))
  const path = made('room.mp4', x264, 'testsrc2=size=320x240:rate=25:duration=8')
  const clip = await clipOfVideo(own, await own.put(new Uint8Array(readFileSync(path))), 'room.mp4')
  await checkClip(own, clip, {}, quiet)
  await own.frames.forget(clip.blob)
  const files = (await readdir(own.folder, { recursive: true, withFileTypes: true })).filter(entry => entry.isFile())
  let bytes = 0
  for (const entry of files) bytes += (await stat(join(entry.parentPath, entry.name))).size
  expect(bytes / (await stat(path)).size).toBeLessThan(1.1)
})
