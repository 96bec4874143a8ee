// Clips made from what came in: a video with an index of its frames, or numbered pictures listed. The result is a
// manifest in the store and the reference by which a document names it. Looking through all frames comes after that.
import { factsOf, guessAlpha, guessEncoding } from '../core/formats/picture/describe'
import { readPicture } from '../core/formats/picture/picture'
import { HEADER_BYTES, pictureSize } from '../core/formats/picture/size'
import { BadInput } from '../core/formats/errors'
import {
  clipFrame,
  MAXIMUM_FRAMES,
  readManifest,
  writeManifest,
  type ClipManifest,
  type NewManifest,
} from '../core/shot/clip'
import type { PictureReference, ShotDocument } from '../core/shot/document'
import { findSequences, spans } from '../core/shot/sequence'
import { perSecond, rateOf, type Rate } from '../core/time/rate'
import { plainTiming } from '../core/time/retime'
import type { BlobStore } from './blobs'
import { probeVideo, withTicks, type VideoFacts } from './media'
import { smallPicture } from './smallPictures'
import { decodeFrames, type VideoFrame } from './videoFrames'

export interface ImportOptions {
  steady?: boolean
  wholeFrames?: boolean
}
export interface ImportReport {
  progress(share: number, message: string): void
  cancelled(): boolean
}
export class ImportCancelled extends Error {}

/**
 * Why a video is read as it is: what it says of its transfer and primaries (ITU-T H.273, tables 2 and 3), else as video
 * is as a rule.
 */
export function videoEncoding({ transfer, primaries }: Pick<VideoFacts, 'transfer' | 'primaries'>): {
  encoding: string
  reason: string
} {
  const wide = primaries === 'bt2020'
  const why = (text: string): string => `the file says ${text}`
  if (transfer === 'smpte2084') return { encoding: 'pq', reason: why('SMPTE ST 2084 (PQ)') }
  if (transfer === 'arib-std-b67') return { encoding: 'hlg', reason: why('HLG') }
  if (transfer === 'iec61966-2-1') return { encoding: primaries === 'smpte432' ? 'p3' : 'srgb', reason: why('sRGB') }
  if (transfer === 'linear') return { encoding: 'linear', reason: why('linear') }
  if (wide) return { encoding: 'rec2020', reason: why('BT.2020 primaries') }
  if (primaries === 'smpte432') return { encoding: 'p3', reason: why('P3 primaries') }
  return transfer
    ? { encoding: 'rec709', reason: why(transfer) }
    : { encoding: 'rec709', reason: 'video that says nothing of its colour is Rec.709 as a rule' }
}

function use(manifest: ClipManifest): PictureReference['clip'] {
  const { frames, rate, pixelAspect, first, timecode, source } = manifest
  const missing = frames.flatMap((frame, i) => (frame === null ? [first + i] : []))
  return {
    count: frames.length,
    rate,
    timing: plainTiming(frames.length),
    pixelAspect,
    first,
    timecode,
    gaps: missing.length,
    missing: missing.length ? spans(missing) : undefined,
    interlaced: source.interlaced || undefined,
    uneven: source.times ? true : undefined,
  }
}

/** The frame that is seen at each even step of the rate: the last one shown by then, times rounded to the step. */
function steadyFrames(times: number[], rate: Rate): number[] {
  const steps = times.map(time => Math.round(time * perSecond(rate)))
  const shown: number[] = []
  for (let at = 0, frame = 0; at <= steps[steps.length - 1]!; at++) {
    while (frame + 1 < steps.length && steps[frame + 1]! <= at) frame++
    shown.push(frame)
  }
  return shown
}

function manifestOf(blob: string, name: string, facts: VideoFacts, options: ImportOptions): NewManifest {
  const { codec, pixelFormat, bits, alpha, transfer, primaries, rotation, interlaced, clock, ticks, keys, times } =
    facts
  const turned = rotation === 90 || rotation === 270
  return {
    northmist: 'clip',
    version: 1,
    name,
    width: turned ? facts.height : facts.width,
    height: turned ? facts.width : facts.height,
    rate: facts.rate,
    first: 0,
    video: {
      blob,
      clock,
      ticks,
      keys,
      shown: options.steady && times ? steadyFrames(times, facts.rate) : undefined,
      matrix: facts.matrix ? 'auto' : facts.height >= 720 ? 'bt709' : 'smpte170m',
    },
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
      times: options.steady ? undefined : times,
      lost: facts.lost || undefined,
      steady: options.steady,
      wholeFrames: options.wholeFrames,
    },
  }
}

/** A clip of a video, ready as soon as its first frame is decoded. Throws BadInput with what is wrong. */
export async function clipOfVideo(
  store: BlobStore,
  blob: string,
  name: string,
  options: ImportOptions = {},
): Promise<PictureReference> {
  if (!store.has(blob)) throw new BadInput('The video is not in the store; send it first.')
  return referenceOf(store, blob, name, await probeVideo(store.path(blob)), options)
}

async function referenceOf(
  store: BlobStore,
  blob: string,
  name: string,
  facts: VideoFacts,
  options: ImportOptions,
): Promise<PictureReference> {
  const bytes = writeManifest(manifestOf(blob, name, facts, options))
  const clip = await store.put(bytes)
  const manifest = readManifest(bytes, clip)
  const first = await store
    .get(clipFrame(clip, 0))
    .then(readPicture)
    .catch((error: Error) => {
      throw new BadInput(`This video cannot be read: ${error.message}`)
    })
  const look = factsOf(first)
  const { encoding, reason } = videoEncoding(facts)
  return {
    blob: clip,
    name,
    width: manifest.width,
    height: manifest.height,
    encoding,
    guessed: reason,
    alpha: facts.alpha ? guessAlpha(first, look.alpha) : 'none',
    facts: { ...look, bits: facts.bits > 8 ? 16 : 8, alpha: facts.alpha ? look.alpha : 'none' },
    clip: { ...use(manifest)!, made: { blob, name } },
  }
}

/** What looking through a clip found. */
export interface ClipCheck {
  /** The clip as it is, where that is not as it was told. */
  clip?: PictureReference
  /** What is wrong with it, as a sentence. */
  words?: string
}

/**
 * Looks through all frames of a clip: what each one is, which ones are there; small pictures for playing are made
 * meanwhile. Throws BadInput where no frame can be decoded, ImportCancelled.
 */
export async function checkClip(
  store: BlobStore,
  reference: PictureReference,
  options: ImportOptions,
  report: ImportReport,
): Promise<ClipCheck> {
  const manifest = readManifest(await store.get(reference.blob), reference.blob)
  if (!manifest.video) return checkSequence(store, reference, manifest, report)
  const { blob, ticks, shown } = manifest.video
  const places = new Map<number, number[]>()
  for (const [at, frame] of (shown ?? ticks.map((_, i) => i)).entries())
    places.set(frame, [...(places.get(frame) ?? []), at])
  const found: Pick<VideoFrame, 'tick' | 'hash'>[] = []
  const run = { kind: manifest.source.alpha ? 'none' : 'small', from: 0, fromStart: true, gently: true } as const
  let fault = ''
  try {
    for await (const { tick, hash, bytes } of decodeFrames(store.path(blob), manifest, run)) {
      if (report.cancelled()) throw new ImportCancelled()
      const asTold = tick === ticks[found.length]
      if (bytes && asTold)
        for (const at of places.get(found.length) ?? []) await store.frames.keep(reference.blob, at, true, bytes)
      found.push({ tick, hash })
      report.progress(
        Math.min(0.99, found.length / ticks.length),
        `${found.length} of ${ticks.length} frames looked through`,
      )
    }
  } catch (error) {
    if (!(error instanceof BadInput)) throw error
    fault = error.message.replace(/\.$/, '')
  }
  if (!found.length) throw new BadInput(`This video holds no frame that can be decoded: ${fault || 'it is empty'}.`)
  if (found.length === ticks.length && found.every(({ tick }, i) => tick === ticks[i])) {
    await store.frames.keepHashes(reference.blob, found)
    if (fault) return { words: `Something is wrong with this video after its last frame: ${fault}.` }
    const { lost } = manifest.source
    return lost ? { words: `This video breaks off: ${lost} of the frames that it should have are not in it.` } : {}
  }
  // Two fields in packets of their own are one frame; what breaks off ends earlier
  const facts = withTicks(
    await probeVideo(store.path(blob)),
    found.map(({ tick }) => tick),
  )
  const clip = await referenceOf(store, blob, reference.name, facts, options)
  await store.frames.forget(reference.blob)
  await store.frames.keepHashes(clip.blob, found)
  return {
    clip,
    words: fault
      ? `This video breaks off after ${found.length} of ${ticks.length} frames: ${fault}. Those are there.`
      : undefined,
  }
}

export interface SequenceFile {
  name: string
  blob: string
}

/**
 * A clip of the files of one numbered sequence, ready as soon as their sizes are known. Gaps are kept as gaps; another
 * size than the first's is refused by name. rate: the shot's, for files hold none.
 */
export async function clipOfSequence(
  store: BlobStore,
  files: SequenceFile[],
  rate: Rate,
  report: ImportReport,
): Promise<PictureReference> {
  const { sequences, singles } = findSequences(files.map(file => file.name))
  const [found, ...others] = sequences
  if (!found || others.length || singles.length)
    throw new BadInput(
      found
        ? 'These files are more than one numbered sequence; bring them in one at a time.'
        : 'These files are no numbered sequence.',
    )
  const length = found.last - found.first + 1
  if (length > MAXIMUM_FRAMES)
    throw new BadInput(
      `This sequence runs from ${found.first} to ${found.last}; at most ${MAXIMUM_FRAMES} frames are taken.`,
    )
  const frames: (string | null)[] = Array.from({ length }, () => null)
  const sizes = new Map<string, number[]>()
  let done = 0
  for (const [number, index] of found.files) {
    const { blob, name } = files[index]!
    if (!store.has(blob)) throw new BadInput(`“${name}” is not in the store; send it first.`)
    let size: { width: number; height: number }
    try {
      size = pictureSize(await store.head(blob, HEADER_BYTES))
    } catch (error) {
      throw new BadInput(`“${name}”: ${(error as Error).message}`)
    }
    const key = `${size.width} x ${size.height}`
    sizes.set(key, [...(sizes.get(key) ?? []), number])
    frames[number - found.first] = blob
    report.progress(++done / found.files.size, `${done} of ${found.files.size} frames looked at`)
  }
  if (sizes.size > 1) {
    const [[size], ...odd] = [...sizes].sort((a, b) => b[1].length - a[1].length) as [
      [string, number[]],
      ...[string, number[]][],
    ]
    throw new BadInput(
      `Not all frames have one size: ${odd.map(([other, numbers]) => `${spans(numbers)} ${numbers.length > 1 ? 'are' : 'is'} ${other}`).join('; ')}, the others ${size}.`,
    )
  }
  const first = await readPicture(await store.get(frames[0]!))
  const look = factsOf(first)
  const name = `${found.before}${'#'.repeat(Math.max(1, found.padding))}${found.after}`
  const manifest: ClipManifest = {
    northmist: 'clip',
    version: 1,
    name,
    width: first.width,
    height: first.height,
    rate,
    first: found.first,
    frames,
    pixelAspect: { numerator: 1, denominator: 1 },
    source: { kind: 'sequence', bits: look.bits, alpha: first.hasAlpha },
  }
  const { encoding, reason } = guessEncoding(first)
  return {
    blob: await store.put(writeManifest(manifest)),
    name,
    width: first.width,
    height: first.height,
    encoding,
    guessed: reason,
    alpha: guessAlpha(first, look.alpha),
    facts: look,
    clip: use(manifest),
  }
}

/** Reads every frame; those that cannot be read become gaps. What has alpha is played as it is: JPEG holds none. */
async function checkSequence(
  store: BlobStore,
  reference: PictureReference,
  manifest: ClipManifest,
  report: ImportReport,
): Promise<ClipCheck> {
  const { first, source } = manifest
  const frames = [...manifest.frames]
  const faults: { number: number; message: string }[] = []
  for (const [i, frame] of manifest.frames.entries()) {
    if (report.cancelled()) throw new ImportCancelled()
    if (frame !== null)
      try {
        const file = await readPicture(await store.get(frame))
        if (!source.alpha) await store.frames.keep(reference.blob, i, true, smallPicture(file))
      } catch (error) {
        if (!(error instanceof BadInput)) throw error
        faults.push({ number: first + i, message: (error as Error).message })
        frames[i] = null
      }
    report.progress((i + 1) / frames.length, `${i + 1} of ${frames.length} frames looked through`)
    // Lets messages and timers of this thread through
    await new Promise(resolve => setImmediate(resolve))
  }
  const [fault] = faults
  if (!fault) return {}
  const blob = await store.put(writeManifest({ ...manifest, frames }))
  await store.frames.move(reference.blob, blob)
  const { gaps, missing } = use({ ...manifest, frames })!
  const many = faults.length > 1
  return {
    clip: { ...reference, blob, clip: { ...reference.clip!, gaps, missing } },
    words: `${many ? 'Frames' : 'Frame'} ${spans(faults.map(({ number }) => number))} cannot be read; ${many ? 'their' : 'its'} neighbours stand in. ${fault.message}`,
  }
}

/** Videos named @clip:file become clips; the timing that the document gives stays. */
export async function withClips(
  document: ShotDocument,
  clipOf: (file: string) => Promise<PictureReference>,
): Promise<ShotDocument> {
  const filled = async (reference: PictureReference): Promise<PictureReference> => {
    const file = /^@clip:(.+)$/.exec(reference.blob)?.[1]
    if (!file) return reference
    const clip = await clipOf(file)
    return {
      ...clip,
      alpha: reference.alpha,
      clip: { ...clip.clip!, timing: { ...clip.clip!.timing, ...reference.clip?.timing } },
    }
  }
  const layers = { ...document.build.layers }
  for (const layer of Object.values(layers))
    if ('picture' in layer && layer.picture) layers[layer.id] = { ...layer, picture: await filled(layer.picture) }
  return { ...document, plate: document.plate && (await filled(document.plate)), build: { ...document.build, layers } }
}
