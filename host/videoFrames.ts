// Frames decoded from a video's own file by ffmpeg (Debian's package): any run of them, from the key frame before it.
import { spawn } from 'node:child_process'
import { setPriority } from 'node:os'
import { PassThrough, type Readable } from 'node:stream'
import { BadInput } from '../core/formats/errors'
import type { ClipManifest } from '../core/shot/clip'
import { perSecond } from '../core/time/rate'
import { GUARD } from './media'
import { smallWidth } from './smallPictures'

/** full: the frame as 16-bit PNG; small: as JPEG for playing; none: only decoded. */
export type FrameKind = 'full' | 'small' | 'none'
export interface VideoFrame {
  /** When it is shown, by the file's clock. */
  tick: number
  /** Of its pixels as they are in the file, by which two decodings are compared. */
  hash: string
  bytes?: Uint8Array
}
export interface FrameRun {
  kind: FrameKind
  /** Frame of the file that is the first wanted, and how many; all from there where that is left out. */
  from: number
  count?: number
  /** Decodes from the file's start, for files in which looking for a place goes wrong. */
  fromStart?: boolean
  /** Lets others have the processor first. */
  gently?: boolean
}

const MOST_FRAME_BYTES = 2 ** 30
/** Lines of about 80 bytes for MAXIMUM_FRAMES. */
const MOST_HASH_BYTES = 2 ** 24
const lastLine = (text: string): string =>
  text
    .trim()
    .split('\n')
    .pop()
    ?.replace(/^\[[^\]]*\]\s*/, '') || 'it is damaged'

/**
 * The filters: fields made whole, then split for the hash and the picture. YUV without a stated matrix is read as
 * BT.709 from 720 lines on, BT.601 below (common practice, no source); ffmpeg undoes rotation by itself.
 */
function filtersOf(manifest: ClipManifest, { kind, from }: FrameRun): string {
  const { video, source, width } = manifest
  const { matrix, clock, ticks } = video!
  // Fields are made whole by those of the frame before
  const first = ticks[source.wholeFrames ? Math.max(0, from - 1) : from]!
  const start = `[0:v:0]select=gte(pts\\,${first})`
  const whole = source.wholeFrames
    ? `,bwdif=mode=send_frame,settb=${clock.denominator}/${clock.numerator},select=gte(pts\\,${ticks[from]})`
    : ''
  if (kind === 'none') return `${start}${whole}[a]`
  const picture =
    kind === 'full'
      ? `scale=in_color_matrix=${matrix}:flags=accurate_rnd+full_chroma_int+bicubic,format=${source.alpha ? 'rgba64be' : 'rgb48be'}`
      : // 8 bits, coded as it is shown; JPEG's own matrix is BT.601, full range (ITU-T T.871)
        `scale=${smallWidth(width)}:-1:in_color_matrix=${matrix}:out_color_matrix=smpte170m:out_range=pc:flags=area+accurate_rnd,format=yuvj444p`
  return `${start}${whole},split[a][c];[c]${picture}[b]`
}

/**
 * Decodes a run of frames in their order. What comes is as the file gives it; whether it is what was wanted its tick
 * and hash tell. Ends early by `return()`. Throws BadInput with what ffmpeg says when it breaks off.
 */
export async function* decodeFrames(path: string, manifest: ClipManifest, run: FrameRun): AsyncGenerator<VideoFrame> {
  const { video } = manifest
  const { ticks, keys, clock } = video!
  const { kind, from, count, fromStart, gently } = run
  const early = Math.max(0, from - (manifest.source.wholeFrames ? 1 : 0))
  const key = keys.filter(frame => frame <= early).pop()
  const seek =
    fromStart || !key ? [] : ['-noaccurate_seek', '-seek_timestamp', '1', '-ss', String(ticks[key]! / perSecond(clock))]
  const much = count === undefined ? [] : ['-frames:v', String(count)]
  const plain = ['-fps_mode', 'passthrough', '-enc_time_base', '-1', '-flush_packets', '1', ...much]
  const child = spawn(
    'ffmpeg',
    [
      ...['-v', 'error', '-nostdin', '-xerror', ...GUARD, ...seek, '-copyts', '-i', path],
      ...['-filter_complex', filtersOf(manifest, run)],
      ...['-map', '[a]', ...plain, '-f', 'framehash', '-hash', 'murmur3', 'pipe:3'],
      ...(kind === 'none'
        ? []
        : [
            ...['-map', '[b]', ...plain],
            ...(kind === 'full' ? ['-c:v', 'png', '-compression_level', '1'] : ['-c:v', 'mjpeg', '-q:v', '2']),
            ...['-f', 'mpjpeg', 'pipe:1'],
          ]),
    ],
    { stdio: ['ignore', 'pipe', 'pipe', 'pipe'] },
  )
  let fault = ''
  child.stderr!.on('data', chunk => {
    fault = (fault + chunk).slice(-2000)
  })
  const closed = new Promise<number | Error>(resolve => {
    child.on('close', code => resolve(code ?? 1))
    child.on('error', () => resolve(new BadInput('ffmpeg is not installed: sudo apt-get install ffmpeg')))
  })
  if (gently && child.pid) {
    try {
      setPriority(child.pid, 10)
    } catch {
      // Only a kindness to others
    }
  }
  // Taken in as they come, also those of pictures that never do: what stays in its pipe holds ffmpeg or its end back
  const lines = hashLines((child.stdio[3] as Readable).pipe(new PassThrough({ highWaterMark: MOST_HASH_BYTES })))
  try {
    if (kind === 'none') {
      for await (const line of lines) yield line
    } else {
      for await (const bytes of parts(child.stdout!)) {
        const { value } = await lines.next()
        if (!value) break
        yield { ...value, bytes }
      }
    }
    const end = await closed
    if (end instanceof Error) throw end
    if (end !== 0) throw new BadInput(lastLine(fault))
  } finally {
    child.kill('SIGKILL')
  }
}

/** Lines of ffmpeg's framehash: stream, dts, pts, duration, size, hash. */
async function* hashLines(stream: Readable): AsyncGenerator<VideoFrame, undefined> {
  let rest = ''
  for await (const chunk of stream) {
    const found = (rest + String(chunk)).split('\n')
    rest = found.pop()!
    for (const line of found) {
      const fields = line.split(',').map(field => field.trim())
      if (fields.length === 6 && !line.startsWith('#')) yield { tick: Number(fields[2]), hash: fields[5]! }
    }
  }
  return undefined
}

/** The pictures of a stream in parts, each with its length before it (multipart, RFC 2046). */
async function* parts(stream: Readable): AsyncGenerator<Uint8Array> {
  let held: Buffer[] = []
  let length = 0
  let wanted = 0
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    held.push(chunk)
    length += chunk.length
    while (length > 0 && length >= wanted) {
      if (held.length > 1) held = [Buffer.concat(held)]
      const [all] = held as [Buffer]
      const end = all.indexOf('\r\n\r\n')
      if (end < 0) break
      const size = Number(/content-length: *(\d+)/i.exec(all.toString('latin1', 0, end))?.[1] ?? NaN)
      if (!(size <= MOST_FRAME_BYTES)) throw new BadInput('A frame is larger than can be taken.')
      wanted = end + 4 + size
      if (length < wanted) break
      yield new Uint8Array(all.subarray(end + 4, wanted))
      held = [all.subarray(wanted)]
      length -= wanted
      wanted = 0
    }
  }
}
