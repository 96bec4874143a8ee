// Files that a shot refers to, decoded once and laid into the shared memory.
import { encodingOf } from '../colour/encoding'
import { readPicture, toWorking } from '../formats/picture/picture'
import { readPassFile, type PassFile } from '../render/passfile'
import { LIGHT_PARTS, NO_DEPTH, type LightPart } from '../render/passes'
import { COVERAGE_RANKS, KERNEL_HALVE, KERNEL_MIX, KERNEL_PLACE, BAND_ROWS } from '../../kernels/assembly/layout'
import type { Coverage } from '../render/render'
import { frameThere, readManifest, type ClipManifest } from '../shot/clip'
import type { PictureReference, ShotDocument } from '../shot/document'
import type { Rate } from '../time/rate'
import { clipAt } from '../time/retime'
import { float, type Pool } from '../engine/pool'
import { operatorKey } from '../engine/key'
import type { Raster, RasterCache } from './cache'

export type LoadBlob = (blob: string) => Promise<Uint8Array>

interface Decoded { width: number; height: number; pixels: Float32Array }
/** Pictures kept decoded outside the kernels' memory. */
const DECODED_BYTES = 512 * 1048576

export class Sources {
  private pictures = new Map<string, Decoded>()
  private held = 0
  private manifests = new Map<string, ClipManifest>()
  private passFile?: { blob: string; file: PassFile }

  constructor(private pool: Pool, private cache: RasterCache, private load: LoadBlob) {}

  private pictureKey(blob: string, { encoding, alpha }: PictureReference): string { return operatorKey('picture', 1, blob, encoding, alpha) }

  /** The file or two that stand for a reference at a frame; none where a clip shows nothing. */
  private filesAt(reference: PictureReference, frame: number, shotRate: Rate): { first: string; second?: string; mix: number } | undefined {
    if (!reference.clip) return { first: reference.blob, mix: 0 }
    const manifest = this.manifests.get(reference.blob)!
    const found = clipAt(reference.clip.timing, manifest.frames.length, frame, reference.clip.rate, shotRate)
    if (!found) return undefined
    const first = frameThere(manifest, found.frame).blob, second = found.mix > 0 ? frameThere(manifest, found.next).blob : first
    return { first, second: second === first ? undefined : second, mix: found.mix }
  }

  /** Reads what the document's build needs at a frame and is not read yet; only the plate when nothing else will be asked for. */
  async prepare(document: ShotDocument, frame: number, plateOnly = false): Promise<void> {
    const references = [document.plate, ...plateOnly ? [] : document.build.layers.map(layer => layer.kind === 'picture' ? layer.picture : null)].filter((reference): reference is PictureReference => !!reference)
    const needed = new Set<string>()
    for (const reference of references) {
      if (reference.clip && !this.manifests.has(reference.blob)) this.manifests.set(reference.blob, readManifest(await this.load(reference.blob)))
      const files = this.filesAt(reference, frame, document.rate)
      for (const blob of files ? [files.first, files.second] : []) {
        if (!blob) continue
        const key = this.pictureKey(blob, reference)
        needed.add(key)
        const known = this.pictures.get(key)
        // Last used stands last
        if (known) { this.pictures.delete(key); this.pictures.set(key, known); continue }
        const file = await readPicture(await this.load(blob))
        const decoded = { width: file.width, height: file.height, pixels: toWorking(file, encodingOf(reference.encoding), reference.alpha) }
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
    if (passes && this.passFile?.blob !== passes.blob) this.passFile = { blob: passes.blob, file: await readPassFile(await this.load(passes.blob)) }
    if (!passes) this.passFile = undefined
  }

  /** The pass file of the prepared document. */
  get passes(): PassFile | undefined { return this.passFile?.file }
  private get passKey(): string { return this.passFile!.blob }

  /** A picture at full size at a frame, premultiplied scene-linear; undefined where a clip shows nothing. */
  picture(reference: PictureReference, frame: number, shotRate: Rate): { key: string; raster: Raster } | undefined {
    const files = this.filesAt(reference, frame, shotRate)
    if (!files) return undefined
    const first = this.decoded(files.first, reference)
    if (!files.second) return first
    const second = this.decoded(files.second, reference), { width, height } = first.raster
    const key = operatorKey('mix', 1, first.key, second.key, files.mix)
    return { key, raster: this.cache.get(key, () => {
      const out = this.cache.allocate(width, height, 16)
      this.pool.run(KERNEL_MIX, Math.ceil(height / BAND_ROWS), [width, height, first.raster.pointer, second.raster.pointer, out.pointer, float(files.mix)])
      return out
    }) }
  }

  private decoded(blob: string, reference: PictureReference): { key: string; raster: Raster } {
    const key = this.pictureKey(blob, reference), decoded = this.pictures.get(key)
    if (!decoded) throw new Error(`The picture “${reference.name}” was not prepared.`)
    return { key, raster: this.cache.get(key, () => this.place(decoded.pixels, decoded.width, decoded.height)) }
  }

  private place(pixels: Float32Array, width: number, height: number): Raster {
    const raster = this.cache.allocate(width, height, pixels.byteLength / (width * height))
    this.pool.kernels.floats(raster.pointer, pixels.length).set(pixels)
    return raster
  }

  /** Four floats a pixel of three planes (grey where one is given), alpha from the pass; missing planes give `blank`. */
  colour(names: readonly string[], blank: number, size: { width: number; height: number; shrink: number }): { key: string; raster: Raster } {
    const { file } = this.passFile!
    return this.scaled(operatorKey('passes', 1, this.passKey, names, blank), size, false, () => {
      const raster = this.cache.allocate(file.width, file.height, 16), count = file.width * file.height
      const pixels = this.pool.kernels.floats(raster.pointer, count * 4)
      // Plane by plane: a loop over one plane each is what the compiler makes fast
      ;[0, 1, 2, 3].forEach(c => {
        const plane = file.planes.get(c === 3 ? 'A' : names[Math.min(c, names.length - 1)]!)
        if (plane) for (let i = 0, to = c; i < count; i++, to += 4) pixels[to] = plane[i]!
        else for (let i = 0, to = c; i < count; i++, to += 4) pixels[to] = c === 3 ? 1 : blank
      })
      return raster
    })
  }

  part(part: LightPart, size: { width: number; height: number; shrink: number }): { key: string; raster: Raster } {
    const { file } = this.passFile!
    // A file with a beauty and no parts (from elsewhere) is built from as if all of it were direct light
    const whole = !LIGHT_PARTS.some(id => file.planes.has(`${id}.R`))
    return this.colour(whole && part === 'diffuse_direct' ? ['R', 'G', 'B'] : [`${part}.R`, `${part}.G`, `${part}.B`], 0, size)
  }

  /** One float a pixel: depth or occlusion, taken from the nearest pixel, never blended. */
  single(name: string, size: { width: number; height: number; shrink: number }): { key: string; raster: Raster } {
    const { file } = this.passFile!
    const key = operatorKey('single', 1, this.passKey, name, size)
    return {
      key, raster: this.cache.get(key, () => {
        const plane = file.planes.get(name)
        return this.nearest(size, 1, (from, out, to) => { out[to] = plane ? plane[from]! : name === 'depth.Z' ? NO_DEPTH : 1 })
      }),
    }
  }

  coverage(of: 'objects' | 'materials', size: { width: number; height: number; shrink: number }): { key: string; raster: Raster } {
    const { file } = this.passFile!
    const coverage: Coverage | undefined = of === 'objects' ? file.cryptoObject : file.cryptoMaterial
    const key = operatorKey('coverage', 1, this.passKey, of, size)
    return {
      key, raster: this.cache.get(key, () => this.nearest(size, COVERAGE_RANKS * 2, (from, out, to) => {
        out.fill(0, to, to + COVERAGE_RANKS * 2)
        if (!coverage) return
        const { index, weight, ranks } = coverage
        for (let rank = 0, held = from * ranks; rank < COVERAGE_RANKS && rank < ranks && weight[held]! > 0; rank++, held++) { out[to + rank * 2] = index[held]!; out[to + rank * 2 + 1] = weight[held]! }
      })),
    }
  }

  private nearest(size: { width: number; height: number }, floats: number, put: (from: number, out: Float32Array, to: number) => void): Raster {
    const { file } = this.passFile!
    const raster = this.cache.allocate(size.width, size.height, floats * 4)
    const out = this.pool.kernels.floats(raster.pointer, size.width * size.height * floats)
    for (let y = 0; y < size.height; y++) {
      const row = Math.min(file.height - 1, Math.floor((y + 0.5) * file.height / size.height)) * file.width
      for (let x = 0; x < size.width; x++) put(row + Math.min(file.width - 1, Math.floor((x + 0.5) * file.width / size.width)), out, (y * size.width + x) * floats)
    }
    return raster
  }

  /** A raster fitted to the frame and shrunk by halves. pixelAspect: width of its pixels to their height. */
  scaled(key: string, size: { width: number; height: number; shrink: number }, letterbox: boolean, make: () => Raster, pixelAspect = 1): { key: string; raster: Raster } {
    const frameWidth = size.width * size.shrink, frameHeight = size.height * size.shrink
    const full = operatorKey('fit', 1, key, frameWidth, frameHeight, letterbox, pixelAspect)
    const atFrame = (): Raster => this.cache.get(full, () => {
      const source = this.cache.get(key, make)
      return source.width === frameWidth && source.height === frameHeight ? this.copy(source) : this.fit(source, frameWidth, frameHeight, letterbox, pixelAspect)
    })
    if (size.shrink === 1) {
      const source = this.cache.get(key, make)
      // Same size: no copy
      return source.width === frameWidth && source.height === frameHeight ? { key, raster: source } : { key: full, raster: atFrame() }
    }
    const shrunk = operatorKey('shrink', 1, full, size)
    return { key: shrunk, raster: this.cache.get(shrunk, () => this.halved(atFrameOrSource(this.cache.get(key, make), atFrame, frameWidth, frameHeight), size.width, size.height, size.shrink)) }
  }

  private copy(source: Raster): Raster {
    const raster = this.cache.allocate(source.width, source.height, 16)
    this.pool.kernels.floats(raster.pointer, source.width * source.height * 4).set(this.pool.kernels.floats(source.pointer, source.width * source.height * 4))
    return raster
  }

  private fit(source: Raster, width: number, height: number, letterbox: boolean, pixelAspect: number): Raster {
    const out = this.cache.allocate(width, height, 16)
    // Fitted to the width, in the middle of the height (a plate keeps its shape); passes are stretched to the frame
    const sx = source.width / width, sy = letterbox ? sx * pixelAspect : source.height / height
    this.pool.run(KERNEL_PLACE, Math.ceil(height / BAND_ROWS), [width, height, source.pointer, out.pointer, source.width, source.height, float(sx), 0, 0, 0, float(sy), float(letterbox ? source.height / 2 - height * sy / 2 : 0), letterbox ? 0 : 1])
    return out
  }

  private halved(source: Raster, width: number, height: number, shrink: number): Raster {
    let from = source, owned = 0
    for (let factor = shrink; factor > 1; factor /= 2) {
      const last = factor === 2
      const w = last ? width : Math.floor(from.width / 2), h = last ? height : Math.floor(from.height / 2)
      const to = this.cache.allocate(w, h, 16)
      this.pool.run(KERNEL_HALVE, Math.ceil(h / BAND_ROWS), [w, h, from.pointer, to.pointer, from.width, from.height, 0])
      this.pool.kernels.dispose(owned)
      owned = to.pointer
      from = to
    }
    return from
  }
}

const atFrameOrSource = (source: Raster, atFrame: () => Raster, width: number, height: number): Raster => source.width === width && source.height === height ? source : atFrame()
