// Files that a shot refers to, read and decoded once. Whoever plans a picture asks for them; what is not there yet is
// thrown as StillPacked, fetched, and asked for again (see unpacking), so that only what is needed is ever read.
import { decodePixels, encodingOf, type Encoding } from '../colour/encoding'
import { throughLut, type Lut } from '../colour/lut'
import { readCube } from '../formats/cube/cube'
import { readFont, type Typeface } from '../formats/font/font'
import { readPicture, toWorking, type PictureFile } from '../formats/picture/picture'
import { readSmall, type SmallPicture } from '../formats/picture/small'
import { openPassFile, StillPacked, unpacking, type OpenedPasses, type PassFile } from '../render/openpasses'
import { passBlobAt } from '../shot/passFrames'
import { clipFrame, frameThere, readManifest, SMALL_CURVE, type ClipManifest } from '../shot/clip'
import type { PassFileReference, PictureReference, ShotDocument } from '../shot/document'
import { depthFileOf, passFileOf } from '../shot/tree'
import type { Rate } from '../time/rate'
import { clipAt } from '../time/retime'
import { operatorKey } from '../engine/key'

/** Decodes the small pictures of clips by the platform; they are only ever looked at while something plays. */
let smallDecoder: ((bytes: Uint8Array) => Promise<PictureFile | undefined>) | undefined
export const useSmallDecoder = (decoder: typeof smallDecoder): void => {
  smallDecoder = decoder
}

/** The light that the codes of a small picture stand for. */
function asLight(file: PictureFile): PictureFile {
  const pixels = file.pixels.slice()
  decodePixels(pixels, { ...encodingOf(SMALL_CURVE), toWorking: undefined })
  return { ...file, pixels, coded: undefined, float: true }
}

export type LoadBlob = (blob: string) => Promise<Uint8Array>

/** A decoded picture: its size stays known, its pixels may have to be read again. */
export interface Decoded {
  key: string
  width: number
  height: number
  /** Awaited before `pixels` is asked for. */
  ready: () => Promise<void>
  pixels: () => Float32Array
}
/** Pictures kept decoded outside the kernels' memory, in bytes; and pass files kept open. */
const DECODED_BYTES = 512 * 1048576
const OPEN_FILES = 3
/** Shapes that are kept. */
const MOST_SMALLS = 32
/** Fonts that are kept. */
const MOST_FONTS = 32

export class Files {
  /** Those used last stand last. */
  private pixels = new Map<string, Float32Array>()
  private sizes = new Map<string, { width: number; height: number }>()
  private held = 0
  private luts = new Map<string, Lut>()
  private fonts = new Map<string, Typeface>()
  private smalls = new Map<string, SmallPicture>()
  private kept = new Map<string, { key: string; made: unknown }>()
  private manifests = new Map<string, ClipManifest>()
  private opened = new Map<string, PassFile>()

  constructor(private load: LoadBlob) {}

  private pictureKey(blob: string, { encoding, alpha, lut }: PictureReference): string {
    return lut
      ? operatorKey('picture', 1, blob, encoding, alpha, lut.blob)
      : operatorKey('picture', 1, blob, encoding, alpha)
  }

  /** How a picture's numbers become light. */
  private async encodingOf({ encoding, lut }: PictureReference): Promise<Encoding> {
    if (!lut) return encodingOf(encoding)
    return throughLut(await unpacking(() => this.table(lut.blob)), encodingOf(encoding))
  }
  /** A colour table. Throws StillPacked. */
  table(blob: string): Lut {
    const found = this.luts.get(blob)
    if (found) return found
    throw new StillPacked(async () => {
      this.luts.set(blob, readCube(await this.load(blob)))
    })
  }

  /** A small picture that says a shape. Throws StillPacked. */
  small(blob: string): SmallPicture {
    const found = this.smalls.get(blob)
    if (found) return found
    throw new StillPacked(async () => {
      if (this.smalls.size >= MOST_SMALLS) this.smalls.delete(this.smalls.keys().next().value!)
      this.smalls.set(blob, await readSmall(await this.load(blob)))
    })
  }

  /** A font. Throws StillPacked. */
  font(blob: string): Typeface {
    const found = this.fonts.get(blob)
    if (found) return found
    throw new StillPacked(async () => {
      const font = await readFont(await this.load(blob))
      if (this.fonts.size >= MOST_FONTS) this.fonts.delete(this.fonts.keys().next().value!)
      this.fonts.set(blob, font)
    })
  }

  /** What is made of files, of each kind the last one asked for. key: what it depends on. Throws StillPacked. */
  made<T>(kind: string, key: string, make: (load: LoadBlob) => Promise<T>): T {
    const found = this.kept.get(kind)
    if (found?.key === key) return found.made as T
    throw new StillPacked(async () => {
      this.kept.set(kind, { key, made: await make(this.load) })
    })
  }

  /**
   * The file or two that stand for a picture at a frame; none where a clip shows nothing. small: clips by their small
   * pictures where they have them. Throws StillPacked.
   */
  picture(
    reference: PictureReference,
    frame: number,
    shotRate: Rate,
    small = false,
  ): { first: Decoded; second?: Decoded; mix: number } | undefined {
    const { clip, blob } = reference
    if (!clip) return { first: this.decoded(blob, reference, false), mix: 0 }
    const manifest = this.manifests.get(blob)
    if (!manifest)
      throw new StillPacked(async () => {
        this.manifests.set(blob, readManifest(await this.load(blob), blob))
      })
    const found = clipAt(clip.timing, manifest.frames.length, frame, clip.rate, shotRate)
    if (!found) return undefined
    // What has alpha is played as it is: JPEG holds none
    const isSmall = small && !manifest.source.alpha
    const blobOf = (index: number): string => {
      const there = frameThere(manifest, index)
      return isSmall ? clipFrame(blob, there.index, true) : there.blob
    }
    const first = blobOf(found.frame)
    const second = found.mix > 0 ? blobOf(found.next) : first
    return {
      first: this.decoded(first, reference, isSmall),
      second: second === first ? undefined : this.decoded(second, reference, isSmall),
      mix: found.mix,
    }
  }

  private decoded(blob: string, reference: PictureReference, small: boolean): Decoded {
    const key = this.pictureKey(blob, reference)
    const read = async (): Promise<void> => {
      if (!this.pixels.has(key)) await this.decode(key, blob, reference, small)
    }
    const size = this.sizes.get(key)
    if (!size) throw new StillPacked(read)
    return { key, ...size, ready: read, pixels: () => this.pixels.get(key)! }
  }

  private async decode(key: string, blob: string, reference: PictureReference, small: boolean): Promise<void> {
    const bytes = await this.load(blob)
    // A small picture that is not there is answered by the frame itself
    const isSmall = small && bytes[0] === 0xff && bytes[1] === 0xd8
    const read = (isSmall ? await smallDecoder?.(bytes) : undefined) ?? (await readPicture(bytes))
    const file = isSmall && reference.facts?.float ? asLight(read) : read
    const pixels = toWorking(file, await this.encodingOf(reference), reference.alpha)
    this.sizes.set(key, { width: file.width, height: file.height })
    this.pixels.set(key, pixels)
    this.held += pixels.byteLength
    for (const [other, old] of this.pixels) {
      if (this.held <= DECODED_BYTES || other === key) break
      this.pixels.delete(other)
      this.held -= old.byteLength
    }
  }

  /**
   * The shot's passes at a frame, or those of a layer's render; ownDepth: of a plate that has one, its depth. Undefined where
   * there are none. Throws StillPacked.
   */
  passes(document: ShotDocument, frame: number, layer?: string, ownDepth = false): OpenedPasses | undefined {
    const file = (ownDepth ? depthFileOf : passFileOf)(document, layer)
    return file ? this.open(file, document.frame, frame) : undefined
  }

  /** Passes at a frame (`at`) of a shot whose frame has that size. Throws StillPacked. */
  open(reference: PassFileReference, frame: { width: number; height: number }, at: number): OpenedPasses {
    const { blob } = passBlobAt(reference, at)
    const { reading } = reference
    // The same file read in another way is another
    const key = reading ? operatorKey('read', 1, blob, reading) : blob
    const stored = this.opened.get(key)
    if (!stored)
      throw new StillPacked(async () => {
        this.opened.set(key, await openPassFile(await this.load(blob), reading))
        for (const other of [...this.opened.keys()].slice(0, -OPEN_FILES)) this.opened.delete(other)
      })
    // Last used stands last
    this.opened.delete(key)
    this.opened.set(key, stored)
    const { names, margin = [0, 0] } = reference
    const wide = stored.width / (frame.width + 2 * margin[0])
    const tall = stored.height / (frame.height + 2 * margin[1])
    return {
      // Asked for each time: a file from elsewhere may turn out to hold more names than it says
      file: names
        ? {
            ...stored,
            get objectNames() {
              return stored.objectNames.map(name => names[name] ?? name)
            },
          }
        : stored,
      key: `${key}/${margin.join('x')}`,
      map: (left, top, shrink) => ({
        scaleX: shrink * wide,
        offsetX: (margin[0] - left) * wide,
        scaleY: shrink * tall,
        offsetY: (margin[1] - top) * tall,
      }),
    }
  }

  /** The same, fetched where it is not there. */
  async passesAt(
    document: ShotDocument,
    frame: number,
    layer?: string,
    ownDepth = false,
  ): Promise<PassFile | undefined> {
    return (await unpacking(() => this.passes(document, frame, layer, ownDepth)))?.file
  }
}
