// Video files to frames by ffmpeg (Debian's package), and what ffprobe says of them. Only containers that hold their
// own data are opened, so that no file can name another.
import { spawn } from 'node:child_process'
import { mkdtemp, readdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { checkSize, BadInput } from '../core/formats/errors'
import { MAXIMUM_FRAMES, type ClipManifest } from '../core/shot/clip'
import { rateOf, perSecond, type Rate } from '../core/time/rate'
import { IMPORTING, type BlobStore } from './blobs'
import { proxyWidth } from './proxies'

const GUARD = ['-format_whitelist', 'mov,matroska,webm,avi', '-protocol_whitelist', 'file']

export interface VideoFacts {
  codec: string
  width: number
  height: number
  rate: Rate
  pixelFormat: string
  bits: number
  alpha: boolean
  pixelAspect: Rate
  rotation: number
  interlaced: boolean
  timecode?: string
  transfer?: string
  primaries?: string
  matrix?: string
  /** Seconds of each frame from the first, when they are not even. */
  times?: number[]
  frames: number
}

/** Runs a tool; its output bounded. Throws BadInput when it is missing or fails. */
function output(command: string, args: string[], most = 64 * 2 ** 20): Promise<string> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'] })
    let text = ''
    let fault = ''
    child.stdout.on('data', chunk => {
      text += chunk
      if (text.length > most) child.kill()
    })
    child.stderr.on('data', chunk => {
      fault = (fault + chunk).slice(-2000)
    })
    child.on('error', () => reject(new BadInput(`${command} is not installed: sudo apt-get install ffmpeg`)))
    child.on('close', code =>
      code === 0 ? resolve(text) : reject(new BadInput(fault.trim().split('\n').pop() ?? 'it cannot be read')),
    )
  })
}

interface Stream {
  codec_type: string
  codec_name?: string
  width?: number
  height?: number
  pix_fmt?: string
  field_order?: string
  r_frame_rate?: string
  avg_frame_rate?: string
  sample_aspect_ratio?: string
  color_transfer?: string
  color_primaries?: string
  color_space?: string
  time_base?: string
  tags?: Record<string, string>
  side_data_list?: { rotation?: number }[]
}

const ratio = (text: string | undefined): [number, number] | undefined => {
  const found = /^(\d+)[/:](\d+)$/.exec(text ?? '')
  return found && Number(found[1]) > 0 && Number(found[2]) > 0 ? [Number(found[1]), Number(found[2])] : undefined
}
const said = (text: string | undefined): string | undefined =>
  !text || text === 'unknown' || text === 'reserved' ? undefined : text

/** What a video file says and what its packets show. Throws BadInput with what is wrong. */
export async function probeVideo(path: string): Promise<VideoFacts> {
  const refuse = (error: unknown): never => {
    throw new BadInput(
      `This video cannot be read: ${(error as Error).message
        .replace(path, 'it')
        .replace(/^it: /, '')
        .replace(/^\[[^\]]*\]\s*/, '')}.`,
    )
  }
  const text = await output('ffprobe', [
    '-v',
    'error',
    ...GUARD,
    '-show_streams',
    '-show_format',
    '-of',
    'json',
    path,
  ]).catch(refuse)
  const { streams = [], format } = JSON.parse(text) as {
    streams?: Stream[]
    format?: { tags?: Record<string, string> }
  }
  const stream = streams.find(entry => entry.codec_type === 'video')
  if (!stream || !stream.width || !stream.height) throw new BadInput('This file holds no picture track.')
  checkSize('This video', stream.width, stream.height)
  const times = await packetTimes(path).catch(refuse)
  if (!times.length) throw new BadInput('This video holds no frame.')
  if (times.length > MAXIMUM_FRAMES)
    throw new BadInput(`This video has ${times.length} frames; at most ${MAXIMUM_FRAMES} are taken. Cut it first.`)
  const pixelFormat = stream.pix_fmt ?? 'unknown'
  const base = ratio(stream.time_base)
  const even = evenness(times, base ? base[0] / base[1] : 0)
  const average = ratio(stream.avg_frame_rate)
  const nominal = ratio(stream.r_frame_rate)
  const [numerator, denominator] = (even ? (nominal ?? average) : (average ?? nominal)) ?? [25, 1]
  return {
    codec: stream.codec_name ?? 'unknown',
    width: stream.width,
    height: stream.height,
    rate: tidy(numerator, denominator),
    pixelFormat,
    bits: bitsOf(pixelFormat),
    alpha: /^(yuva|rgba|bgra|argb|abgr|gbrap|ya)/.test(pixelFormat),
    pixelAspect: rateOf(...(ratio(stream.sample_aspect_ratio) ?? [1, 1])),
    rotation:
      ((Math.round(stream.side_data_list?.find(entry => entry.rotation !== undefined)?.rotation ?? 0) % 360) + 360) %
      360,
    interlaced: ['tt', 'bb', 'tb', 'bt'].includes(stream.field_order ?? ''),
    timecode:
      stream.tags?.timecode ?? streams.map(entry => entry.tags?.timecode).find(Boolean) ?? format?.tags?.timecode,
    transfer: said(stream.color_transfer),
    primaries: said(stream.color_primaries),
    matrix: said(stream.color_space),
    times: even ? undefined : times,
    frames: times.length,
  }
}

const bitsOf = (pixelFormat: string): number =>
  Number(/p(9|10|12|14|16)(le|be)?$/.exec(pixelFormat)?.[1] ?? (/48|64|16/.test(pixelFormat) ? 16 : 8))

/** Lowest terms; a rate of a thousandth of rounding becomes the ratio it stands for. */
function tidy(numerator: number, denominator: number): Rate {
  const value = numerator / denominator
  for (const nominal of [24, 25, 30, 48, 50, 60, 100, 120, 12, 15]) {
    if (Math.abs(value - nominal) < 1e-4) return rateOf(nominal)
    if (Math.abs(value - (nominal * 1000) / 1001) < 1e-3) return rateOf(nominal * 1000, 1001)
  }
  return numerator <= 1e6 && denominator <= 1e6
    ? rateOf(numerator, denominator)
    : rateOf(Math.round(value * 1000), 1000)
}

async function packetTimes(path: string): Promise<number[]> {
  const text = await output('ffprobe', [
    '-v',
    'error',
    ...GUARD,
    '-select_streams',
    'v:0',
    '-show_entries',
    'packet=pts_time,flags',
    '-of',
    'csv=p=0',
    path,
  ])
  // Discarded packets (edit lists) are not shown
  const times = text
    .split('\n')
    .filter(line => line && !/D/.test(line.split(',')[1] ?? ''))
    .map(line => Number(line.split(',')[0]))
    .filter(Number.isFinite)
    .sort((a, b) => a - b)
  return times.map(time => time - times[0]!)
}

/** Whether frames are evenly spaced, up to the rounding of the file's own clock (Matroska counts milliseconds). */
function evenness(times: number[], clock: number): boolean {
  if (times.length < 3) return true
  const step = times[times.length - 1]! / (times.length - 1)
  return times.every((time, i) => Math.abs(time - i * step) <= Math.max(clock * 1.5, step * 0.02))
}

export interface ImportOptions {
  steady?: boolean
  wholeFrames?: boolean
}
export interface ImportReport {
  /** preview: a picture of how far it is. */
  progress(share: number, message: string, preview?: Uint8Array): void
  cancelled(): boolean
}
export class ImportCancelled extends Error {}
/** Milliseconds from one picture of how far an import is to the next; the first comes as soon as there is one. */
const SHOWN_EVERY = 1000

/**
 * Every frame of a video as a 16-bit PNG in the store, and the manifest that lists them. YUV without a stated matrix is
 * read as BT.709 from 720 lines on, BT.601 below (common practice, no source). Rotation is undone.
 */
export async function importVideo(
  store: BlobStore,
  path: string,
  name: string,
  report: ImportReport,
  options: ImportOptions = {},
): Promise<{ manifest: ClipManifest; facts: VideoFacts }> {
  const facts = await probeVideo(path)
  const folder = await mkdtemp(join(store.folder, IMPORTING))
  const filters: string[] = []
  if (options.wholeFrames) filters.push('bwdif=mode=send_frame')
  if (options.steady) filters.push(`fps=${facts.rate.numerator}/${facts.rate.denominator}`)
  const matrix = facts.matrix ? 'auto' : facts.height >= 720 ? 'bt709' : 'smpte170m'
  filters.push(
    `scale=in_color_matrix=${matrix}:flags=accurate_rnd+full_chroma_int+bicubic`,
    `format=${facts.alpha ? 'rgba64be' : 'rgb48be'}`,
  )
  const total =
    options.steady && facts.times
      ? Math.round((facts.times[facts.times.length - 1] ?? 0) * perSecond(facts.rate)) + 1
      : facts.frames
  const frames: string[] = []
  const proxies: string[] = []
  // For playing: at most so wide, 8 bits, coded as it is shown; JPEG's own matrix is BT.601, full range (ITU-T T.871)
  const small = facts.alpha
    ? []
    : [
        '-map',
        '0:v:0',
        '-vf',
        [
          ...filters.slice(0, -2),
          `scale=${proxyWidth(facts.rotation === 90 || facts.rotation === 270 ? facts.height : facts.width)}:-1:in_color_matrix=${matrix}:out_color_matrix=smpte170m:out_range=pc:flags=area+accurate_rnd`,
          'format=yuvj444p',
        ].join(','),
        '-fps_mode',
        options.steady ? 'cfr' : 'passthrough',
        '-frames:v',
        String(MAXIMUM_FRAMES),
        '-c:v',
        'mjpeg',
        '-q:v',
        '2',
        '-f',
        'image2',
        join(folder, 'p%06d.jpg'),
      ]
  try {
    const child = spawn(
      'ffmpeg',
      [
        '-v',
        'error',
        '-nostdin',
        '-xerror',
        ...GUARD,
        '-i',
        path,
        '-map',
        '0:v:0',
        '-vf',
        filters.join(','),
        '-fps_mode',
        options.steady ? 'cfr' : 'passthrough',
        '-frames:v',
        String(MAXIMUM_FRAMES),
        '-compression_level',
        '1',
        '-f',
        'image2',
        join(folder, '%06d.png'),
        ...small,
      ],
      { stdio: ['ignore', 'ignore', 'pipe'] },
    )
    let fault = ''
    let ended = false
    child.stderr.on('data', chunk => {
      fault = (fault + chunk).slice(-2000)
    })
    const closed = new Promise<number>((resolve, reject) => {
      child.on('close', code => {
        ended = true
        resolve(code ?? 1)
      })
      child.on('error', () => {
        ended = true
        reject(new BadInput('ffmpeg is not installed: sudo apt-get install ffmpeg'))
      })
    })
    closed.catch(() => {})
    // Frames are taken over while the next ones are decoded; the newest may still be written to
    let shownAt = 0
    for (;;) {
      const last = ended
      const files = (await readdir(folder)).sort()
      for (const [ending, into] of [
        ['.png', frames],
        ['.jpg', proxies],
      ] as const) {
        const own = files.filter(file => file.endsWith(ending))
        for (const file of last ? own : own.slice(0, -2)) into.push(await store.adopt(join(folder, file)))
      }
      const newest = Date.now() - shownAt > SHOWN_EVERY ? proxies.at(-1) : undefined
      if (newest) shownAt = Date.now()
      report.progress(
        Math.min(0.99, frames.length / total),
        `${frames.length} of ${total} frames`,
        newest ? await store.get(newest) : undefined,
      )
      if (report.cancelled()) {
        child.kill('SIGKILL')
        throw new ImportCancelled()
      }
      if (last) break
      await Promise.race([closed, new Promise(resolve => setTimeout(resolve, 150))])
    }
    if ((await closed) !== 0)
      throw new BadInput(
        `This video breaks off after ${frames.length} of ${total} frames: ${
          fault
            .trim()
            .split('\n')
            .pop()
            ?.replace(/^\[[^\]]*\]\s*/, '') ?? 'it is damaged'
        }.`,
      )
    if (!frames.length) throw new BadInput('This video holds no frame that can be decoded.')
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
  const turned = facts.rotation === 90 || facts.rotation === 270
  const { codec, pixelFormat, bits, alpha, transfer, primaries, rotation, interlaced } = facts
  const manifest: ClipManifest = {
    northmist: 'clip',
    version: 1,
    name,
    width: turned ? facts.height : facts.width,
    height: turned ? facts.width : facts.height,
    rate: facts.rate,
    first: 0,
    frames,
    proxies: proxies.length === frames.length ? proxies : undefined,
    timecode: facts.timecode,
    pixelAspect: turned ? rateOf(facts.pixelAspect.denominator, facts.pixelAspect.numerator) : facts.pixelAspect,
    source: {
      kind: 'video',
      codec,
      pixelFormat,
      bits,
      alpha,
      transfer,
      primaries,
      rotation: rotation || undefined,
      interlaced: interlaced && !options.wholeFrames,
      times: options.steady ? undefined : facts.times,
      steady: options.steady,
      wholeFrames: options.wholeFrames,
    },
  }
  return { manifest, facts }
}
