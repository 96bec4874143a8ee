import { existsSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, dirname, extname, join, resolve, sep } from 'node:path'
import { deliver } from '../core/compose/deliver'
import { frameFormatOf, isMovie, type DeliveryFormat, type MovieFormat } from '../core/compose/deliveries'
import { Evaluator } from '../core/compose/evaluate'
import { BadInput } from '../core/formats/errors'
import type { ShotDocument } from '../core/shot/document'
import { ofToday } from '../core/shot/migrate'
import { timecodeAt } from '../core/shot/timecode'
import { frameName, parseFrames } from '../core/time/frameList'
import { parseClipFrame } from '../core/shot/clip'
import { ClipFrames } from '../host/clipFrames'
import { writeMovie } from '../host/movie'
import { unsound } from '../shared/sound'
import { documentFaults } from '../shared/validate'
import { startEngine } from '../host/engine'
import { parse, readInput, requireOption, whole, writeOutput } from './arguments'
import type { Command } from './command'

const FORMATS: Record<string, DeliveryFormat> = {
  '.png': 'png16',
  '.tif': 'tiff16',
  '.tiff': 'tiff16',
  '.jpg': 'jpeg',
  '.jpeg': 'jpeg',
  '.exr': 'exr16',
}

/** Movies by their ending, with what they are made with unless --codec says otherwise. */
const CODECS: Record<string, readonly MovieFormat[]> = {
  '.mp4': ['h264', 'hevc10'],
  '.mov': ['prores4444'],
  '.mkv': ['ffv1'],
}
function movieOf(ending: string, codec: string | undefined): MovieFormat | undefined {
  const known = CODECS[ending]
  if (!known) {
    if (codec !== undefined) throw new BadInput(`--codec is for movies: ${Object.keys(CODECS).join(', ')}`)
    return undefined
  }
  const wanted = codec ?? known[0]!
  if (!isMovie(wanted) || !known.includes(wanted))
    throw new BadInput(`${ending} is written with --codec ${known.join(' or ')}, not “${wanted}”`)
  return wanted
}

export const build: Command = {
  usage: 'build SHOT.json --out F [--frame N] [--frames LIST] [--bits 8|16|32] [--codec h264|hevc10|prores4444|ffv1]',
  help: 'The finished picture of a shot saved from the application, with its files beside it: in the folder SHOT.files by the names that the shot says, or by their SHA-256. --frames 1-24,30,40-48x2 makes numbered files, # in F standing for the number, or a movie where F ends in .mp4, .mov or .mkv.',
  async run(args) {
    const options = parse(args, ['SHOT.json'], ['out', 'frame', 'frames', 'bits', 'codec', 'workers'])
    const out = requireOption('out', options.out)
    const file = options.files[0]!
    const ending = extname(out).toLowerCase()
    const movie = movieOf(ending, options.codec)
    let format = movie ? frameFormatOf(movie) : FORMATS[ending]
    if (!format)
      throw new BadInput(
        `the ending of ${out} names no format that is written; ${[...Object.keys(FORMATS), ...Object.keys(CODECS)].join(', ')} do`,
      )
    if (options.bits && !movie) {
      const bits = whole('bits', options.bits, 8, 32)
      const wanted = `${format.replace(/\d+$/, '')}${bits}`
      if (!['png8', 'png16', 'tiff8', 'tiff16', 'tiff32', 'exr16', 'exr32'].includes(wanted))
        throw new BadInput(`${extname(out)} is not written with ${bits} bits`)
      format = wanted as DeliveryFormat
    }
    let value: unknown
    try {
      value = JSON.parse(new TextDecoder().decode(await readInput(file)))
    } catch (error) {
      throw error instanceof BadInput ? error : new BadInput(`${file} is not JSON`)
    }
    const unfit = unsound(value)
    if (unfit) throw new BadInput(`${file} ${unfit}`)
    const document = ofToday((value as { document?: unknown } | null)?.document ?? value) as ShotDocument
    const faults = documentFaults(document)
    if (faults.length) throw new BadInput(`${file} is no valid shot: ${faults.slice(0, 3).join('; ')}`)
    if (options.frame !== undefined && options.frames !== undefined)
      throw new BadInput('--frame and --frames both name frames; give one of them')
    const frames =
      options.frames !== undefined
        ? parseFrames(options.frames)
        : [options.frame === undefined ? document.frames.first : whole('frame', options.frame, -1e6, 1e6)]
    const places = [
      join(dirname(file), `${file.replace(/^.*[\\/]/, '').replace(/\.json$/i, '')}.files`),
      dirname(file),
    ].map(place => resolve(place))
    const scratch = await mkdtemp(join(tmpdir(), 'northmist-frames-'))
    const engine = await startEngine(
      options.workers === undefined ? undefined : whole('workers', options.workers, 1, 256),
    )
    try {
      const fileOf = (blob: string): string => findFile(places, blob, namesOf(document, blob))
      const decoded = new ClipFrames(scratch, { path: fileOf, get: blob => readInput(fileOf(blob)) })
      const evaluator = new Evaluator(engine.pool, blob =>
        parseClipFrame(blob) ? decoded.get(blob) : readInput(fileOf(blob)),
      )
      const made = (frame: number): Promise<Uint8Array> =>
        deliver(evaluator, { document, frame, show: { kind: 'finish' } }, format)
      if (movie)
        await writeMovie(
          out,
          (async function* () {
            for (const frame of frames) yield await made(frame)
          })(),
          { format: movie, rate: document.rate, timecode: timecodeAt(document, frames[0]!), count: frames.length },
          { progress: () => {}, cancelled: () => false },
        )
      else
        for (const frame of frames) {
          const name = basename(out).slice(0, -ending.length)
          const file = frameName(name, frame, ending.slice(1), options.frames !== undefined)
          await writeOutput(options.frames === undefined ? out : join(dirname(out), file), await made(frame))
        }
    } finally {
      engine.stop()
      await rm(scratch, { recursive: true, force: true })
    }
  },
}

/** Names that the document gives a blob. */
function namesOf(document: ShotDocument, blob: string): string[] {
  const names: string[] = []
  JSON.stringify(document, (_key, value) => {
    if (value && typeof value === 'object' && value.blob === blob && typeof value.name === 'string')
      names.push(value.name)
    return value
  })
  return names
}

function findFile(places: string[], blob: string, names: string[]): string {
  for (const place of places) {
    for (const name of [blob, ...names]) {
      const path = resolve(place, name)
      // A name from the document must not lead out of the folder
      if (path.startsWith(place + sep) && existsSync(path)) return path
    }
  }
  throw new BadInput(
    `the file ${names[0] ? `“${names[0]}”` : blob} is not beside the shot (looked in ${places.join(' and ')})`,
  )
}
