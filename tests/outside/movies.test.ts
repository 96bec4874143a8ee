// Movies that leave, as ffprobe says them and as ffmpeg decodes them (ffmpeg 5.1): exact rate, timecode, colour tags (ITU-T
// H.273), alpha; lossless ones to the code.
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { MOVIE_ENDINGS, type MovieFormat } from '../../core/compose/deliveries'
import { writePng } from '../../core/formats/png/png'
import { writeMovie } from '../../host/movie'
import { scratchFolder } from '../python'

const folder = scratchFolder()
const WIDTH = 65
const HEIGHT = 49
const COUNT = 5
/** Codes of a frame: ramps that move, and a square that is clear. */
function codes(frame: number, channels: 3 | 4): Uint16Array {
  const out = new Uint16Array(WIDTH * HEIGHT * channels)
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const at = (y * WIDTH + x) * channels
      out[at] = (x * 1000 + frame * 777) % 65536
      out[at + 1] = (y * 1300 + frame * 55) % 65536
      out[at + 2] = 20000 + frame * 3000
      if (channels === 4) out[at + 3] = x < 32 ? 65535 : 32768
    }
  return out
}
async function movie(format: MovieFormat): Promise<string> {
  const path = join(folder, `${format}.${MOVIE_ENDINGS[format]}`)
  const channels = format === 'prores4444' ? 4 : 3
  await writeMovie(
    path,
    (async function* () {
      for (let frame = 0; frame < COUNT; frame++)
        yield writePng({ width: WIDTH, height: HEIGHT, channels, maximum: 65535, data: codes(frame, channels) })
    })(),
    { format, rate: { numerator: 24000, denominator: 1001 }, timecode: '01:02:03:04', count: COUNT },
    { progress: () => {}, cancelled: () => false },
  )
  return path
}
interface Probe {
  streams: Record<string, string | Record<string, string>>[]
  format: { tags?: Record<string, string> }
}
const probe = (path: string): Probe =>
  JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-count_frames', '-show_streams', '-show_format', '-of', 'json', path], {
      encoding: 'utf8',
    }),
  ) as Probe

describe.each([
  ['h264', 'h264', 'yuv420p', 64],
  ['hevc10', 'hevc', 'yuv420p10le', 64],
  ['prores4444', 'prores', 'yuva444p12le', 65],
  ['ffv1', 'ffv1', 'gbrp16le', 65],
] as const)('%s', (format, codec, pixels, width) => {
  it('says its rate, timecode and colours, and has every frame', async () => {
    const path = await movie(format)
    const { streams, format: container } = probe(path)
    const video = streams.find(stream => stream.codec_type === 'video')!
    expect(video).toMatchObject({
      codec_name: codec,
      pix_fmt: pixels,
      width,
      r_frame_rate: '24000/1001',
      avg_frame_rate: '24000/1001',
      nb_read_frames: String(COUNT),
      color_primaries: 'bt709',
      // The header of ProRes has no number for it; its container says it (QuickTime File Format, colour parameter atom)
      ...(format !== 'prores4444' && { color_transfer: 'iec61966-2-1' }),
    })
    if (format === 'prores4444')
      expect(readFileSync(path).includes(Buffer.from('colrnclc\0\x01\0\x0d\0\x01', 'latin1'))).toBe(true)
    if (format !== 'ffv1') expect(video).toMatchObject({ color_space: 'bt709' })
    if (format === 'h264' || format === 'hevc10') expect(video).toMatchObject({ color_range: 'tv' })
    const tags = [container.tags, ...streams.map(stream => stream.tags as Record<string, string> | undefined)]
    const timecode = tags.map(each => Object.entries(each ?? {}).find(([key]) => /^timecode$/i.test(key))?.[1])
    expect(timecode).toContain('01:02:03:04')
  })
})

const decoded = (path: string, pixels: string): Buffer =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'rawvideo', '-pix_fmt', pixels, '-'], { maxBuffer: 1 << 28 })

it('FFV1 gives every code back', async () => {
  const back = decoded(await movie('ffv1'), 'rgb48le')
  const values = new Uint16Array(back.buffer, back.byteOffset, back.length / 2)
  for (let frame = 0; frame < COUNT; frame++) {
    const size = WIDTH * HEIGHT * 3
    expect([...values.subarray(frame * size, (frame + 1) * size)]).toEqual([...codes(frame, 3)])
  }
})

it('ProRes keeps alpha to its twelve bits, and colours nearly, though the ramps leap', async () => {
  const back = decoded(await movie('prores4444'), 'rgba64le')
  const values = new Uint16Array(back.buffer, back.byteOffset, back.length / 2)
  const sent = codes(0, 4)
  let alpha = 0
  let colour = 0
  for (let i = 0; i < sent.length; i += 4) {
    alpha = Math.max(alpha, Math.abs(values[i + 3]! - sent[i + 3]!))
    // Away from where the ramps leap
    const x = (i / 4) % WIDTH
    if (x > 2 && x < 60) colour = Math.max(colour, Math.abs(values[i + 2]! - sent[i + 2]!))
  }
  expect(alpha).toBeLessThan(65536 / 256)
  expect(colour).toBeLessThan(65536 / 25)
})

it('one that is cancelled ends in a moment and says so', async () => {
  const started = Date.now()
  let asked = 0
  await expect(
    writeMovie(
      join(folder, 'cancelled.mp4'),
      (async function* () {
        for (;;) {
          asked++
          yield writePng({ width: WIDTH, height: HEIGHT, channels: 3, maximum: 65535, data: codes(asked, 3) })
        }
      })(),
      { format: 'h264', rate: { numerator: 25, denominator: 1 }, timecode: '00:00:00:00', count: 1e6 },
      { progress: () => {}, cancelled: () => Date.now() - started > 300 },
    ),
  ).rejects.toThrow()
  expect(Date.now() - started).toBeLessThan(3000)
})
