// Files that a shot refers to, read and decoded once.
import { decodePixels, encodingOf, type Encoding } from '../colour/encoding'
import { throughLut, type Lut } from '../colour/lut'
import { readCube } from '../formats/cube/cube'
import { readPicture, toWorking, type PictureFile } from '../formats/picture/picture'
import { openPassFile, type PassFile } from '../render/openpasses'
import { passBlobAt } from '../shot/passFrames'
import { clipFrame, frameThere, readManifest, SMALL_CURVE, type ClipManifest } from '../shot/clip'
import type { PictureReference, ShotDocument } from '../shot/document'
import { inOrder } from '../shot/rows'
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

export interface Decoded {
  width: number
  height: number
  pixels: Float32Array
}
/** Pictures kept decoded outside the kernels' memory. */
const DECODED_BYTES = 512 * 1048576

export class Files {
  private pictures = new Map<string, Decoded>()
  private held = 0
  private small = false
  private luts = new Map<string, Lut>()
  private manifests = new Map<string, ClipManifest>()
  /** What was read, and the same under the names that its objects have now; how far it reaches beyond the frame. */
  private passFile?: {
    blob: string
    stored: PassFile
    file: PassFile
    margin: [number, number]
    frame: { width: number; height: number }
  }

  constructor(private load: LoadBlob) {}

  private pictureKey(blob: string, { encoding, alpha, lut }: PictureReference): string {
    return lut
      ? operatorKey('picture', 1, blob, encoding, alpha, lut.blob)
      : operatorKey('picture', 1, blob, encoding, alpha)
  }

  /** How a picture's numbers become light. */
  private async encodingOf({ encoding, lut }: PictureReference): Promise<Encoding> {
    if (!lut) return encodingOf(encoding)
    if (!this.luts.has(lut.blob)) this.luts.set(lut.blob, readCube(await this.load(lut.blob)))
    return throughLut(this.luts.get(lut.blob)!, encodingOf(encoding))
  }

  /** The file or two that stand for a reference at a frame; none where a clip shows nothing. */
  filesAt(
    reference: PictureReference,
    frame: number,
    shotRate: Rate,
  ): { first: string; second?: string; mix: number; small?: boolean } | undefined {
    if (!reference.clip) return { first: reference.blob, mix: 0 }
    const manifest = this.manifests.get(reference.blob)!
    const found = clipAt(reference.clip.timing, manifest.frames.length, frame, reference.clip.rate, shotRate)
    if (!found) return undefined
    // What has alpha is played as it is: JPEG holds none
    const small = this.small && !manifest.source.alpha
    const blobOf = (index: number): string => {
      const there = frameThere(manifest, index)
      return small ? clipFrame(reference.blob, there.index, true) : there.blob
    }
    const first = blobOf(found.frame)
    const second = found.mix > 0 ? blobOf(found.next) : first
    return { first, second: second === first ? undefined : second, mix: found.mix, small }
  }

  /**
   * Reads what the document's build needs at a frame and is not read yet; only the plate when nothing else will be
   * asked for.
   */
  async prepare(
    document: ShotDocument,
    frame: number,
    { plateOnly = false, small = false }: { plateOnly?: boolean; small?: boolean } = {},
  ): Promise<void> {
    this.small = small
    const references = [
      document.plate,
      ...(plateOnly
        ? []
        : inOrder(document.build.layers).map(layer => (layer.kind === 'picture' ? layer.picture : null))),
    ].filter((reference): reference is PictureReference => !!reference)
    const needed = new Set<string>()
    for (const reference of references) {
      if (reference.clip && !this.manifests.has(reference.blob))
        this.manifests.set(reference.blob, readManifest(await this.load(reference.blob), reference.blob))
      const files = this.filesAt(reference, frame, document.rate)
      for (const blob of files ? [files.first, files.second] : []) {
        if (!blob) continue
        const key = this.pictureKey(blob, reference)
        needed.add(key)
        const known = this.pictures.get(key)
        // Last used stands last
        if (known) {
          this.pictures.delete(key)
          this.pictures.set(key, known)
          continue
        }
        const bytes = await this.load(blob)
        // A small picture that is not there is answered by the frame itself
        const isSmall = files!.small && bytes[0] === 0xff && bytes[1] === 0xd8
        const read = (isSmall ? await smallDecoder?.(bytes) : undefined) ?? (await readPicture(bytes))
        const file = isSmall && reference.facts?.float ? asLight(read) : read
        const decoded = {
          width: file.width,
          height: file.height,
          pixels: toWorking(file, await this.encodingOf(reference), reference.alpha),
        }
        this.pictures.set(key, decoded)
        this.held += decoded.pixels.byteLength
      }
    }
    for (const [key, decoded] of this.pictures) {
      if (this.held <= DECODED_BYTES) break
      if (needed.has(key)) continue
      this.pictures.delete(key)
      this.held -= decoded.pixels.byteLength
    }
    if (plateOnly) return
    const passes = document.passes.file
    const blob = passes && passBlobAt(passes, frame).blob
    if (blob && this.passFile?.blob !== blob)
      this.passFile = {
        blob,
        stored: await openPassFile(await this.load(blob)),
        file: undefined as unknown as PassFile,
        margin: [0, 0],
        frame: { width: 1, height: 1 },
      }
    if (!passes || !this.passFile) {
      this.passFile = undefined
      return
    }
    const { names } = passes
    const { stored } = this.passFile
    // Asked for each time: a file from elsewhere may turn out to hold more names than it says
    this.passFile.file = names
      ? {
          ...stored,
          get objectNames() {
            return stored.objectNames.map(name => names[name] ?? name)
          },
        }
      : stored
    this.passFile.margin = passes.margin ?? [0, 0]
    this.passFile.frame = document.frame
  }

  /** The pass file of the prepared document. */
  get passes(): PassFile | undefined {
    return this.passFile?.file
  }
  /** What names the pass file and where it lies, for keys. */
  get passKey(): string {
    return `${this.passFile!.blob}/${this.passFile!.margin.join('x')}`
  }

  /** How pixels of the frame, counted from a place beyond its corner, stand in the pass file. */
  passMap(
    left: number,
    top: number,
    shrink: number,
  ): { scaleX: number; offsetX: number; scaleY: number; offsetY: number } {
    const { file, margin, frame } = this.passFile!
    const wide = file.width / (frame.width + 2 * margin[0])
    const tall = file.height / (frame.height + 2 * margin[1])
    return {
      scaleX: shrink * wide,
      offsetX: (margin[0] - left) * wide,
      scaleY: shrink * tall,
      offsetY: (margin[1] - top) * tall,
    }
  }

  /** A decoded file of a picture, with what names it. Throws where it was not prepared. */
  decoded(blob: string, reference: PictureReference): { key: string; decoded: Decoded } {
    const key = this.pictureKey(blob, reference)
    const decoded = this.pictures.get(key)
    if (!decoded) throw new Error(`The picture “${reference.name}” was not prepared.`)
    return { key, decoded }
  }
}
