// Clips made from what came in: a video decoded to frames, or numbered pictures listed. The result is a manifest in the
// store and the reference by which a document names it.
import { factsOf, guessAlpha, guessEncoding } from '../core/formats/picture/describe'
import { readPicture } from '../core/formats/picture/picture'
import { HEADER_BYTES, pictureSize } from '../core/formats/picture/size'
import { BadInput } from '../core/formats/errors'
import { MAXIMUM_FRAMES, type ClipManifest } from '../core/shot/clip'
import type { PictureReference, ShotDocument } from '../core/shot/document'
import { findSequences, spans } from '../core/shot/sequence'
import type { Rate } from '../core/time/rate'
import { plainTiming } from '../core/time/retime'
import type { BlobStore } from './blobs'
import { proxyCurveOf, proxyOf } from './proxies'
import { ImportCancelled, importVideo, type ImportOptions, type ImportReport, type VideoFacts } from './media'

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

async function stored(store: BlobStore, manifest: ClipManifest): Promise<string> {
  return store.put(new TextEncoder().encode(JSON.stringify(manifest)))
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

export async function clipOfVideo(
  store: BlobStore,
  blob: string,
  name: string,
  report: ImportReport,
  options: ImportOptions,
): Promise<PictureReference> {
  if (!store.has(blob)) throw new BadInput('The video is not in the store; send it first.')
  const { manifest, facts } = await importVideo(store, store.path(blob), name, report, options)
  const first = await readPicture(await store.get(manifest.frames[0]!))
  const look = factsOf(first)
  const { encoding, reason } = videoEncoding(facts)
  return {
    blob: await stored(store, manifest),
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

export interface SequenceFile {
  name: string
  blob: string
}

/**
 * Files of one numbered sequence. Gaps are kept as gaps; another size than the first's is refused by name. rate: the
 * shot's, for files hold none.
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
    report.progress((0.3 * ++done) / found.files.size, `${done} of ${found.files.size} frames looked at`)
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
  // What has alpha is played as it is: JPEG holds none
  let proxies: (string | null)[] | undefined
  if (!first.hasAlpha) {
    proxies = []
    for (const [i, frame] of frames.entries()) {
      if (report.cancelled()) throw new ImportCancelled()
      const file =
        frame === null
          ? null
          : await readPicture(await store.get(frame)).catch((error: Error) => {
              throw new BadInput(`Frame ${found.first + i}: ${error.message}`)
            })
      proxies.push(file && (await store.put(proxyOf(file))))
      report.progress(
        0.3 + (0.7 * (i + 1)) / frames.length,
        `${i + 1} of ${frames.length} frames made small for playing`,
      )
      // Lets messages and timers of this thread through
      await new Promise(resolve => setImmediate(resolve))
    }
  }
  const manifest: ClipManifest = {
    northmist: 'clip',
    version: 1,
    name,
    width: first.width,
    height: first.height,
    rate,
    first: found.first,
    frames,
    proxies,
    proxyCurve: proxies && proxyCurveOf(first),
    pixelAspect: { numerator: 1, denominator: 1 },
    source: { kind: 'sequence', bits: look.bits, alpha: first.hasAlpha },
  }
  const { encoding, reason } = guessEncoding(first)
  return {
    blob: await stored(store, manifest),
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
  const layers = []
  for (const layer of document.build.layers)
    layers.push(layer.kind === 'picture' ? { ...layer, picture: await filled(layer.picture) } : layer)
  return { ...document, plate: document.plate && (await filled(document.plate)), build: { ...document.build, layers } }
}
