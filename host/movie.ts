// Movies of frames by ffmpeg: rate as an exact ratio, timecode, colour said as it is.
import { spawn } from 'node:child_process'
import type { MovieFormat } from '../core/compose/deliveries'
import { BadInput } from '../core/formats/errors'
import type { Rate } from '../core/time/rate'
import type { ImportReport } from './clips'
import { ImportCancelled } from './clips'

/**
 * What ffmpeg is asked for. Frames come as display codes of Rec.709 primaries (ITU-T H.273: 1) through the sRGB curve
 * (13); video of difference signals has them by the matrix of Rec.709 (1) in its narrow range, as players expect.
 */
const VIDEO = 'scale=out_color_matrix=bt709:out_range=tv:flags=accurate_rnd+full_chroma_int+full_chroma_inp'
const EVEN = 'crop=trunc(iw/2)*2:trunc(ih/2)*2:0:0'
const CODECS: Record<MovieFormat, string[]> = {
  h264: ['-vf', `${EVEN},${VIDEO}`, '-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'medium', '-crf', '14'],
  hevc10: [
    ...['-vf', `${EVEN},${VIDEO}`, '-c:v', 'libx265', '-pix_fmt', 'yuv420p10le', '-preset', 'medium', '-crf', '14'],
    ...['-tag:v', 'hvc1', '-x265-params', 'log-level=error'],
  ],
  prores4444: [
    '-vf',
    VIDEO,
    '-c:v',
    'prores_ks',
    '-profile:v',
    '4',
    '-pix_fmt',
    'yuva444p10le',
    '-vendor',
    'apl0',
    // Its own header knows no sRGB curve: left open there, said by the container
    '-bsf:v',
    'prores_metadata=color_primaries=bt709:colorspace=bt709:color_trc=unknown',
  ],
  ffv1: ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-slicecrc', '1', '-pix_fmt', 'gbrp16le'],
}

export interface MovieSettings {
  format: MovieFormat
  rate: Rate
  /** Of the first frame, as SMPTE writes it. */
  timecode: string
  count: number
}

/** Writes a movie of PNG pictures, one after another, to a path. Throws BadInput with what ffmpeg says. */
export async function writeMovie(
  path: string,
  frames: AsyncIterable<Uint8Array>,
  { format, rate, timecode, count }: MovieSettings,
  report: ImportReport,
): Promise<void> {
  const perSecond = `${rate.numerator}/${rate.denominator}`
  const child = spawn(
    'ffmpeg',
    [
      ...['-v', 'error', '-nostdin', '-y', '-f', 'image2pipe', '-framerate', perSecond, '-c:v', 'png', '-i', 'pipe:0'],
      ...CODECS[format],
      ...['-color_primaries', 'bt709', '-color_trc', 'iec61966-2-1'],
      ...(format === 'ffv1'
        ? ['-colorspace', 'rgb', '-color_range', 'pc']
        : ['-colorspace', 'bt709', '-color_range', 'tv']),
      ...['-r', perSecond, '-timecode', timecode, '-movflags', '+faststart+write_colr', path],
    ],
    { stdio: ['pipe', 'ignore', 'pipe'] },
  )
  let said = ''
  child.stderr.on('data', chunk => {
    said = (said + chunk).slice(-2000)
  })
  // Broken off, it says so by its end
  child.stdin.on('error', () => {})
  const ended = new Promise<void>((resolve, reject) => {
    child.on('error', error =>
      reject(
        (error as NodeJS.ErrnoException).code === 'ENOENT'
          ? new BadInput('ffmpeg is not installed: sudo apt-get install ffmpeg')
          : error,
      ),
    )
    child.on('close', code =>
      code === 0
        ? resolve()
        : reject(
            new BadInput(
              `The movie cannot be written: ${said.trim().split('\n').at(-1) || `ffmpeg ended with ${code}`}`,
            ),
          ),
    )
  })
  ended.catch(() => {})
  const watch = setInterval(() => {
    if (report.cancelled()) child.kill('SIGKILL')
  }, 200)
  try {
    let done = 0
    for await (const frame of frames) {
      if (report.cancelled() || child.exitCode !== null) break
      if (!child.stdin.write(frame))
        await Promise.race([new Promise(resolve => child.stdin.once('drain', resolve)), ended.catch(() => {})])
      report.progress(++done / count, `frame ${done} of ${count} into the movie`)
    }
    child.stdin.end()
    await ended
  } catch (error) {
    if (report.cancelled()) throw new ImportCancelled()
    throw error
  } finally {
    clearInterval(watch)
    child.kill('SIGKILL')
  }
  if (report.cancelled()) throw new ImportCancelled()
}
