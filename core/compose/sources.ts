// Files that a shot refers to, decoded once and laid into the shared memory.
import { decodePixels, encodingOf, type Encoding } from '../colour/encoding'
import { throughLut, type Lut } from '../colour/lut'
import { readCube } from '../formats/cube/cube'
import { readPicture, toWorking, type PictureFile } from '../formats/picture/picture'
import { coverageOf, openPassFile, type PassFile } from '../render/openpasses'
import { CLEAN, LIGHT_PARTS, NO_DEPTH, type LightPart, type NamesOf, type Seen } from '../render/passes'
import { COVERAGE_RANKS, KERNEL_HALVE, KERNEL_MIX, KERNEL_PLACE, BAND_ROWS } from '../../kernels/assembly/layout'
import { passBlobAt } from '../shot/passFrames'
import { clipFrame, frameThere, readManifest, SMALL_CURVE, type ClipManifest } from '../shot/clip'
import type { PictureReference, ShotDocument } from '../shot/document'
import { inOrder } from '../shot/rows'
import type { Rate } from '../time/rate'
import { clipAt } from '../time/retime'
import { float, type Pool } from '../engine/pool'
import { operatorKey } from '../engine/key'
import type { Raster, RasterCache } from './cache'
import type { Size } from './size'

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

interface Decoded {
  width: number
  height: number
  pixels: Float32Array
}
/** Pictures kept decoded outside the kernels' memory. */
const DECODED_BYTES = 512 * 1048576

export class Sources {
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

  constructor(
    private pool: Pool,
    private cache: RasterCache,
    private load: LoadBlob,
  ) {}

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
  private filesAt(
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
  private get passKey(): string {
    return `${this.passFile!.blob}/${this.passFile!.margin.join('x')}`
  }
  /**
   * The place of the file that stands at a pixel of the working size: x = scaleX (px + 0.5) + offsetX, in file pixels.
   */
  private passMap(size: Size): { scaleX: number; offsetX: number; scaleY: number; offsetY: number } {
    const { file, margin, frame } = this.passFile!
    const wide = file.width / (frame.width + 2 * margin[0])
    const tall = file.height / (frame.height + 2 * margin[1])
    return {
      scaleX: size.shrink * wide,
      offsetX: (margin[0] - size.left) * wide,
      scaleY: size.shrink * tall,
      offsetY: (margin[1] - size.top) * tall,
    }
  }

  /** A picture at full size at a frame, premultiplied scene-linear; undefined where a clip shows nothing. */
  picture(reference: PictureReference, frame: number, shotRate: Rate): { key: string; raster: Raster } | undefined {
    const files = this.filesAt(reference, frame, shotRate)
    if (!files) return undefined
    const first = this.decoded(files.first, reference)
    if (!files.second) return first
    return this.mixed(first, this.decoded(files.second, reference), files.mix)
  }

  /** share: of the second. */
  private mixed(
    first: { key: string; raster: Raster },
    second: { key: string; raster: Raster },
    share: number,
  ): { key: string; raster: Raster } {
    const key = operatorKey('mix', 1, first.key, second.key, share)
    const { width, height } = first.raster
    return {
      key,
      raster: this.cache.filled(key, width, height, 16, out =>
        this.pool.run(KERNEL_MIX, Math.ceil(height / BAND_ROWS), [
          width,
          height,
          first.raster.pointer,
          second.raster.pointer,
          out.pointer,
          float(share),
        ]),
      ),
    }
  }

  private decoded(blob: string, reference: PictureReference): { key: string; raster: Raster } {
    const key = this.pictureKey(blob, reference)
    const decoded = this.pictures.get(key)
    if (!decoded) throw new Error(`The picture “${reference.name}” was not prepared.`)
    const { width, height, pixels } = decoded
    return {
      key,
      raster: this.cache.filled(key, width, height, pixels.byteLength / (width * height), out =>
        this.pool.kernels.floats(out.pointer, pixels.length).set(pixels),
      ),
    }
  }

  /**
   * Four floats a pixel of three planes (grey where one is given), alpha from the pass; missing planes give `blank`.
   */
  colour(names: readonly string[], blank: number, size: Size): { key: string; raster: Raster } {
    const { file } = this.passFile!
    const key = operatorKey('passes', 1, this.passKey, names, blank)
    return this.scaled(key, size, file, false, () =>
      this.cache.filled(key, file.width, file.height, 16, ({ pointer }) => {
        const count = file.width * file.height
        const pixels = this.pool.kernels.floats(pointer, count * 4)
        // Plane by plane: a loop over one plane each is what the compiler makes fast
        ;[0, 1, 2, 3].forEach(c => {
          const plane = file.planes.get(c === 3 ? 'A' : names[Math.min(c, names.length - 1)]!)
          if (plane) for (let i = 0, to = c; i < count; i++, to += 4) pixels[to] = plane[i]!
          else for (let i = 0, to = c; i < count; i++, to += 4) pixels[to] = c === 3 ? 1 : blank
        })
      }),
    )
  }

  /** A light pass with so much of its noise taken out (0..1), where the file has it so. */
  light(names: readonly string[], blank: number, size: Size, clean: number): { key: string; raster: Raster } {
    const original = this.colour(names, blank, size)
    const cleaned = names.map(name => CLEAN + name)
    if (clean <= 0 || !this.passFile!.file.planes.has(cleaned[0]!)) return original
    const without = this.colour(cleaned, blank, size)
    return clean >= 1 ? without : this.mixed(original, without, clean)
  }

  part(part: LightPart, size: Size, clean = 0): { key: string; raster: Raster } {
    const { file } = this.passFile!
    // A file with a beauty and no parts (from elsewhere) is built from as if all of it were direct light
    const whole = !LIGHT_PARTS.some(id => file.planes.has(`${id}.R`))
    return this.light(
      whole && part === 'diffuse_direct' ? ['R', 'G', 'B'] : [`${part}.R`, `${part}.G`, `${part}.B`],
      0,
      size,
      clean,
    )
  }

  /** One float a pixel: depth or occlusion, taken from the nearest pixel, never blended. */
  single(name: string, size: Size): { key: string; raster: Raster } {
    const { file } = this.passFile!
    const key = operatorKey('single', 1, this.passKey, name, size)
    return {
      key,
      raster: this.cache.get(key, () => {
        const plane = file.planes.get(name)
        return this.nearest(size, 1, (from, out, to) => {
          out[to] = plane ? plane[from]! : name.endsWith('.Z') ? NO_DEPTH : 1
        })
      }),
    }
  }

  coverage(of: NamesOf, size: Size, seen: Seen = 'straight'): { key: string; raster: Raster } {
    const key = operatorKey('coverage', 2, this.passKey, of, seen, size)
    return {
      key,
      raster: this.cache.get(key, () => {
        const coverage = coverageOf(this.passFile!.file, of, seen)
        return this.nearest(size, COVERAGE_RANKS * 2, (from, out, to) => {
          out.fill(0, to, to + COVERAGE_RANKS * 2)
          if (!coverage) return
          const { index, weight, ranks } = coverage
          for (
            let rank = 0, held = from * ranks;
            rank < COVERAGE_RANKS && rank < ranks && weight[held]! > 0;
            rank++, held++
          ) {
            out[to + rank * 2] = index[held]!
            out[to + rank * 2 + 1] = weight[held]!
          }
        })
      }),
    }
  }

  private nearest(size: Size, floats: number, put: (from: number, out: Float32Array, to: number) => void): Raster {
    const { file } = this.passFile!
    const raster = this.cache.allocate(size.width, size.height, floats * 4)
    const out = this.pool.kernels.floats(raster.pointer, size.width * size.height * floats)
    const { scaleX, offsetX, scaleY, offsetY } = this.passMap(size)
    const within = (at: number, side: number): number => Math.min(side - 1, Math.max(0, Math.floor(at)))
    for (let y = 0; y < size.height; y++) {
      const row = within((y + 0.5) * scaleY + offsetY, file.height) * file.width
      for (let x = 0; x < size.width; x++)
        put(row + within((x + 0.5) * scaleX + offsetX, file.width), out, (y * size.width + x) * floats)
    }
    return raster
  }

  /**
   * A raster of its own size fitted to the frame and shrunk by halves. pixelAspect: width of its pixels to their
   * height.
   */
  scaled(
    key: string,
    size: Size,
    own: { width: number; height: number },
    letterbox: boolean,
    make: () => Raster,
    pixelAspect = 1,
  ): { key: string; raster: Raster } {
    const frameWidth = size.width * size.shrink
    const frameHeight = size.height * size.shrink
    // Passes lie where they were rendered; a plate is fitted to the width, in the middle of the height (it keeps its
    // shape)
    const passes = letterbox ? undefined : this.passMap({ ...size, shrink: 1 })
    const full = operatorKey('fit', 2, key, frameWidth, frameHeight, letterbox, pixelAspect, passes)
    const same =
      own.width === frameWidth &&
      own.height === frameHeight &&
      (passes
        ? passes.offsetX === 0 && passes.offsetY === 0 && passes.scaleX === 1 && passes.scaleY === 1
        : pixelAspect === 1)
    const sx = passes?.scaleX ?? own.width / frameWidth
    const sy = passes?.scaleY ?? sx * pixelAspect
    const atFrame = (): Raster =>
      same
        ? make()
        : this.cache.get(full, () =>
            this.fit(
              make(),
              frameWidth,
              frameHeight,
              [sx, passes?.offsetX ?? 0, sy, passes?.offsetY ?? own.height / 2 - (frameHeight * sy) / 2],
              !letterbox,
            ),
          )
    // A small picture that is just as large as what is asked for
    if (letterbox && pixelAspect === 1 && own.width === size.width && own.height === size.height)
      return { key, raster: make() }
    // Same size: no copy
    if (size.shrink === 1) return { key: same ? key : full, raster: atFrame() }
    const shrunk = operatorKey('shrink', 2, full, size)
    return {
      key: shrunk,
      raster: this.cache.get(shrunk, () => this.halved(atFrame(), size.width, size.height, size.shrink)),
    }
  }

  private fit(
    source: Raster,
    width: number,
    height: number,
    [sx, ox, sy, oy]: readonly [number, number, number, number],
    edge: boolean,
  ): Raster {
    const out = this.cache.allocate(width, height, 16)
    this.pool.run(KERNEL_PLACE, Math.ceil(height / BAND_ROWS), [
      width,
      height,
      source.pointer,
      out.pointer,
      source.width,
      source.height,
      float(sx),
      0,
      float(ox),
      0,
      float(sy),
      float(oy),
      edge ? 1 : 0,
    ])
    return out
  }

  private halved(source: Raster, width: number, height: number, shrink: number): Raster {
    let from = source
    let owned = 0
    for (let factor = shrink; factor > 1; factor /= 2) {
      const last = factor === 2
      const w = last ? width : Math.floor(from.width / 2)
      const h = last ? height : Math.floor(from.height / 2)
      const to = this.cache.allocate(w, h, 16)
      this.pool.run(KERNEL_HALVE, Math.ceil(h / BAND_ROWS), [
        w,
        h,
        from.pointer,
        to.pointer,
        from.width,
        from.height,
        0,
      ])
      this.pool.kernels.dispose(owned)
      owned = to.pointer
      from = to
    }
    return from
  }
}
