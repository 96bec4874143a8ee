// What ffprobe (Debian's package) says of a video file. Only containers that hold their own data are opened, so that no
// file can name another.
import { spawn } from 'node:child_process'
import { checkSize, BadInput } from '../core/formats/errors'
import { MAXIMUM_FRAMES } from '../core/shot/clip'
import { rateOf, perSecond, type Rate } from '../core/time/rate'

export const GUARD = ['-format_whitelist', 'mov,matroska,webm,avi', '-protocol_whitelist', 'file']

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
  /** Ticks a second of the file's clock, and when each frame is shown by it, ascending. */
  clock: Rate
  ticks: number[]
  /** Frames that can be decoded without those before them. */
  keys: number[]
  /** Seconds of each frame from the first, when they are not even. */
  times?: number[]
  /** Frames that the file says it has, and has not: a copy that broke off. */
  lost: number
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
  nb_frames?: string
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
  const { ticks, keys, packets } = await packetTicks(path).catch(refuse)
  if (!ticks.length) throw new BadInput('This video holds no frame.')
  if (ticks.length > MAXIMUM_FRAMES)
    throw new BadInput(`This video has ${ticks.length} frames; at most ${MAXIMUM_FRAMES} are taken. Cut it first.`)
  const pixelFormat = stream.pix_fmt ?? 'unknown'
  const base = ratio(stream.time_base)
  if (!base) throw new BadInput('This video has no clock.')
  const clock = { numerator: base[1], denominator: base[0] }
  const times = unevenTimes(ticks, clock)
  const average = ratio(stream.avg_frame_rate)
  const nominal = ratio(stream.r_frame_rate)
  const [numerator, denominator] = (times ? (average ?? nominal) : (nominal ?? average)) ?? [25, 1]
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
    clock,
    ticks,
    keys,
    times,
    lost: Math.max(0, Number(stream.nb_frames ?? 0) - packets),
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

async function packetTicks(path: string): Promise<{ ticks: number[]; keys: number[]; packets: number }> {
  const text = await output('ffprobe', [
    '-v',
    'error',
    ...GUARD,
    '-select_streams',
    'v:0',
    '-show_entries',
    'packet=pts,flags',
    '-of',
    'csv=p=0',
    path,
  ])
  const packets = new Map<number, boolean>()
  const lines = text.split('\n').filter(Boolean)
  for (const line of lines) {
    const [tick, flags = ''] = line.split(',')
    // Discarded packets (edit lists) are not shown
    if (tick && Number.isSafeInteger(Number(tick)) && !flags.includes('D'))
      packets.set(Number(tick), flags.includes('K'))
  }
  const ticks = [...packets.keys()].sort((a, b) => a - b)
  const keys = ticks.flatMap((tick, i) => (packets.get(tick) || i === 0 ? [i] : []))
  return { ticks, keys, packets: lines.length }
}

/**
 * Seconds of each frame from the first, where they are not even up to the rounding of the file's own clock (Matroska
 * counts milliseconds).
 */
function unevenTimes(ticks: number[], clock: Rate): number[] | undefined {
  const times = ticks.map(tick => (tick - ticks[0]!) / perSecond(clock))
  if (times.length < 3) return undefined
  const step = times[times.length - 1]! / (times.length - 1)
  const rounding = Math.max(1.5 / perSecond(clock), step * 0.02)
  return times.every((time, i) => Math.abs(time - i * step) <= rounding) ? undefined : times
}

/** The facts with the frames that were decoded in place of those that the packets told. */
export function withTicks(facts: VideoFacts, decoded: readonly number[]): VideoFacts {
  const ticks = [...new Set(decoded.filter(Number.isSafeInteger))].sort((a, b) => a - b)
  const at = new Map(ticks.map((tick, i) => [tick, i]))
  const keys = facts.keys.map(key => at.get(facts.ticks[key]!)).filter((key): key is number => key !== undefined)
  return { ...facts, ticks, keys: keys.length ? keys : [0], times: unevenTimes(ticks, facts.clock) }
}
