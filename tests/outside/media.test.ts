// Video against ffmpeg and ffprobe (Debian 5.1) on clips made here.
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { readPng } from '../../core/formats/png/png'
import { videoContainer } from '../../core/formats/video/video'
import { frameOfTimecode, parseRate, rateText, timecode } from '../../core/time/rate'
import { BlobStore } from '../../host/blobs'
import { checkClip, clipOfVideo, ImportCancelled, type ImportOptions } from '../../host/clips'
import { probeVideo } from '../../host/media'
import { readManifest, type ClipManifest } from '../../core/shot/clip'
import type { PictureReference } from '../../core/shot/document'
import { scratchFolder } from '../python'

const folder = scratchFolder()
const store = new BlobStore(join(folder, 'blobs'))
const quiet = { progress: () => {}, cancelled: () => false }
async function brought(
  path: string,
  name: string,
  options: ImportOptions = {},
): Promise<{ reference: PictureReference; manifest: ClipManifest }> {
  const reference = await clipOfVideo(store, await store.put(new Uint8Array(readFileSync(path))), name, options)
  return { reference, manifest: readManifest(await store.get(reference.blob), reference.blob) }
}
/** Brought in and looked through. */
async function whole(path: string, name: string): Promise<unknown> {
  const { reference } = await brought(path, name)
  return checkClip(store, reference, {}, quiet)
}
function clip(name: string, args: string[], source = 'testsrc2=size=160x96:rate=25:duration=0.4'): string {
  const path = join(folder, name)
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', source, ...args, path])
  return path
}

describe('what a video is', () => {
  it.each([
    ['24000/1001', '24000/1001'],
    ['25', '25'],
    ['30000/1001', '30000/1001'],
    ['60', '60'],
    ['60000/1001', '60000/1001'],
    ['12.5', '25/2'],
  ])('rate %s is exact in MOV, Matroska and AVI', async (rate, exact) => {
    for (const ending of ['mov', 'mkv', 'avi']) {
      const facts = await probeVideo(
        clip(
          `rate.${ending}`,
          ['-c:v', ending === 'avi' ? 'mjpeg' : 'libx264', '-pix_fmt', ending === 'avi' ? 'yuvj420p' : 'yuv420p'],
          `testsrc2=size=64x48:rate=${rate}:duration=1`,
        ),
      )
      expect([rateText(facts.rate), facts.times], ending).toEqual([exact, undefined])
    }
  })
  it('every codec of the trade gives its frames', async () => {
    const codecs: [string, string[], number, boolean][] = [
      ['h264.mp4', ['-c:v', 'libx264', '-pix_fmt', 'yuv420p'], 8, false],
      ['hevc.mov', ['-c:v', 'libx265', '-pix_fmt', 'yuv420p10le', '-x265-params', 'log-level=none'], 10, false],
      ['prores.mov', ['-c:v', 'prores_ks', '-profile:v', '4', '-pix_fmt', 'yuva444p10le'], 12, true],
      ['dnxhr.mov', ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'], 10, false],
      ['vp9.webm', ['-c:v', 'libvpx-vp9', '-pix_fmt', 'yuv420p'], 8, false],
      ['mjpeg.avi', ['-c:v', 'mjpeg', '-pix_fmt', 'yuvj422p'], 8, false],
      ['png.mov', ['-c:v', 'png', '-pix_fmt', 'rgba'], 8, true],
      ['av1.mkv', ['-c:v', 'libsvtav1', '-preset', '12', '-pix_fmt', 'yuv420p'], 8, false],
    ]
    for (const [name, args, bits, alpha] of codecs) {
      const path = clip(name, args, name.startsWith('dnxhr') ? 'testsrc2=size=256x120:rate=25:duration=0.4' : undefined)
      expect(videoContainer(readFileSync(path)), name).toBeDefined()
      const { manifest, reference } = await brought(path, name)
      expect([manifest.frames.length, manifest.source.bits, manifest.source.alpha], name).toEqual([10, bits, alpha])
      expect(await checkClip(store, reference, {}, quiet), name).toEqual({})
    }
  })
  it('start timecode, pixel aspect, rotation and colour are told', async () => {
    const facts = await probeVideo(
      clip(
        'told.mov',
        [
          '-c:v',
          'libx264',
          '-pix_fmt',
          'yuv420p',
          '-timecode',
          '10:11:12;14',
          '-vf',
          'setsar=4/3',
          '-color_trc',
          'smpte2084',
          '-color_primaries',
          'bt2020',
          '-colorspace',
          'bt2020nc',
        ],
        'testsrc2=size=160x96:rate=30000/1001:duration=0.3',
      ),
    )
    expect(facts).toMatchObject({
      timecode: '10:11:12;14',
      pixelAspect: { numerator: 4, denominator: 3 },
      transfer: 'smpte2084',
      primaries: 'bt2020',
      interlaced: false,
    })
    const plain = clip('plain.mp4', ['-c:v', 'libx264', '-pix_fmt', 'yuv420p'])
    const turned = join(folder, 'turned.mp4')
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', plain, '-c', 'copy', '-metadata:s:v', 'rotate=90', turned])
    const { manifest } = await brought(turned, 'turned')
    expect([manifest.width, manifest.height]).toEqual([96, 160])
    expect([90, 270]).toContain(manifest.source.rotation)
    const frame = readPng(await store.get(manifest.frames[0]!))
    expect([frame.width, frame.height]).toEqual([96, 160])
  })
  it('fields are found, and made whole when asked', async () => {
    const path = clip(
      'fields.mov',
      [
        '-vf',
        'tinterlace=interleave_top,setfield=tff',
        '-flags',
        '+ilme+ildct',
        '-c:v',
        'mpeg2video',
        '-top',
        '1',
        '-q:v',
        '2',
      ],
      'testsrc2=size=160x96:rate=50:duration=0.4',
    )
    expect((await probeVideo(path)).interlaced).toBe(true)
    const { manifest } = await brought(path, 'fields', { wholeFrames: true })
    expect([manifest.source.interlaced, manifest.source.wholeFrames]).toEqual([false, true])
  })
  it('uneven times are found, kept frame for frame, and made steady when asked', async () => {
    const path = clip(
      'uneven.mkv',
      ['-vf', "select='not(mod(n,7))+not(mod(n,3))'", '-fps_mode', 'vfr', '-c:v', 'libx264', '-pix_fmt', 'yuv420p'],
      'testsrc2=size=64x48:rate=30:duration=1.5',
    )
    const facts = await probeVideo(path)
    expect(facts.times!.length).toBe(facts.ticks.length)
    const kept = await brought(path, 'uneven')
    expect([kept.manifest.frames.length, kept.manifest.source.times?.length]).toEqual([
      facts.ticks.length,
      facts.ticks.length,
    ])
    const steady = await brought(path, 'steady', { steady: true })
    const seconds = facts.times![facts.times!.length - 1]!
    expect(
      Math.abs(steady.manifest.frames.length - 1 - (seconds * facts.rate.numerator) / facts.rate.denominator),
    ).toBeLessThan(1.6)
  })
})

// A YUV file that states no matrix: BT.601 below 720 lines, BT.709 from there on
it.each([
  ['160x96', 'smpte170m'],
  ['64x720', 'bt709'],
])('frames of %s are ffmpeg’s own through %s, to the code, in order', async (frameSize, matrix) => {
  const path = clip(
    'exact.mov',
    ['-c:v', 'prores_ks', '-profile:v', '3', '-pix_fmt', 'yuv422p10le'],
    `testsrc2=size=${frameSize}:rate=25:duration=0.2`,
  )
  const { manifest } = await brought(path, 'exact')
  const raw = execFileSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-i',
      path,
      '-vf',
      `scale=in_color_matrix=${matrix}:flags=accurate_rnd+full_chroma_int+bicubic,format=rgb48le`,
      '-f',
      'rawvideo',
      '-',
    ],
    { maxBuffer: 2 ** 28 },
  )
  const reference = new Uint16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.byteLength))
  const size = manifest.width * manifest.height * 3
  expect(reference.length).toBe(size * manifest.frames.length)
  for (const [index, name] of manifest.frames.entries()) {
    const { data, maximum } = readPng(await store.get(name!))
    expect(maximum).toBe(65535)
    expect(
      Buffer.compare(
        Buffer.from(Uint16Array.from(data).buffer),
        Buffer.from(reference.slice(index * size, (index + 1) * size).buffer),
      ),
      `frame ${index}`,
    ).toBe(0)
  }
})

it.each([
  ['30000/1001', '00:00:58;25'],
  ['30000/1001', '00:09:58;25'],
  ['30000/1001', '23:59:58;25'],
  ['24000/1001', '00:00:58:20'],
  ['25', '10:59:58:20'],
  ['60000/1001', '00:00:59;50'],
])('timecode at %s from %s counts as libavutil does in the GOP headers of MPEG-2', (text, start) => {
  const path = clip(
    'gop.mpg',
    ['-c:v', 'mpeg2video', '-g', '1', '-timecode', start],
    `testsrc2=size=64x48:rate=${text}:duration=3`,
  )
  const { frames } = JSON.parse(
    execFileSync(
      'ffprobe',
      [
        '-v',
        'error',
        '-show_frames',
        '-select_streams',
        'v',
        '-show_entries',
        'frame_side_data=side_data_type,timecode',
        '-of',
        'json',
        path,
      ],
      { encoding: 'utf8' },
    ),
  ) as { frames: { side_data_list?: { timecode?: string }[] }[] }
  const counted = frames
    .map(frame => frame.side_data_list?.find(entry => entry.timecode)?.timecode)
    .filter(Boolean) as string[]
  expect(counted.length).toBeGreaterThan(60)
  const rate = parseRate(text)
  const first = frameOfTimecode(counted[0]!, rate)
  expect(counted).toEqual(counted.map((_, i) => timecode(first.frame + i, rate, first.drop)))
})

describe('bad videos', () => {
  const sample = (): string => clip('whole.mp4', ['-c:v', 'libx264', '-pix_fmt', 'yuv420p'])
  it('are refused with a sentence, and leave nothing behind', async () => {
    const cut = join(folder, 'cut.mkv')
    const source = clip(
      'long.mkv',
      ['-c:v', 'libx264', '-pix_fmt', 'yuv420p'],
      'testsrc2=size=160x96:rate=25:duration=2',
    )
    const bytes = readFileSync(source)
    writeFileSync(cut, bytes.subarray(0, 900))
    await expect(whole(cut, 'cut')).rejects.toThrow(/video/i)
    const damaged = join(folder, 'damaged.mp4')
    const data = readFileSync(sample())
    data.fill(0x55, 200, 2500)
    writeFileSync(damaged, data)
    await expect(whole(damaged, 'damaged')).rejects.toThrow(/video/i)
    const sound = clip('sound.mov', ['-c:a', 'pcm_s16le'], 'sine=duration=0.2')
    await expect(probeVideo(sound)).rejects.toThrow(/no picture track/)
  })
  it('that name other files are not followed', async () => {
    const list = join(folder, 'list.mov')
    writeFileSync(list, '#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n')
    await expect(probeVideo(list)).rejects.toThrow(/cannot be read/)
    writeFileSync(list, `ffconcat version 1.0\nfile '${sample()}'\n`)
    await expect(probeVideo(list)).rejects.toThrow(/cannot be read/)
  })
  it('stop when cancelled', async () => {
    const path = clip('stopped.mov', ['-c:v', 'prores_ks'], 'testsrc2=size=640x360:rate=25:duration=4')
    const { reference } = await brought(path, 'stopped')
    await expect(checkClip(store, reference, {}, { progress: () => {}, cancelled: () => true })).rejects.toBeInstanceOf(
      ImportCancelled,
    )
  })
})
