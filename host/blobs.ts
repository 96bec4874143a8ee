// Files named by the SHA-256 of their bytes, written beside and renamed, checked when read.
import { createHash, randomBytes } from 'node:crypto'
import { createReadStream, createWriteStream, existsSync, mkdirSync } from 'node:fs'
import { mkdir, open, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { BadInput } from '../core/formats/errors'
import { parseClipFrame } from '../core/shot/clip'
import { ClipFrames } from './clipFrames'

/** Folders in which a movie is being put together. */
export const IMPORTING = 'import-'
export const MAXIMUM_BLOB = 2 * 2 ** 30
const NAME = /^[0-9a-f]{64}$/
export const isBlobName = (name: string): boolean => NAME.test(name)

/** Waits until a file, or what a folder lists, is on the disk. */
async function synced(path: string): Promise<void> {
  const handle = await open(path)
  try {
    await handle.sync()
  } finally {
    await handle.close()
  }
}

/** The first bytes of a file, to tell what it is without reading it whole. */
export async function headOf(path: string, most: number): Promise<Uint8Array> {
  const file = await open(path)
  try {
    const { bytesRead, buffer } = await file.read({
      buffer: Buffer.alloc(Math.min(most, (await file.stat()).size)),
      position: 0,
    })
    return buffer.subarray(0, bytesRead)
  } finally {
    await file.close()
  }
}

export class BlobStore {
  /** Frames of its clips, as they are asked for. */
  readonly frames: ClipFrames

  constructor(readonly folder: string) {
    mkdirSync(folder, { recursive: true })
    this.frames = new ClipFrames(join(folder, 'frames'), this)
  }

  path(blob: string): string {
    if (!isBlobName(blob)) throw new BadInput('That is no name of a stored file.')
    return join(this.folder, blob.slice(0, 2), blob.slice(2))
  }
  has(blob: string): boolean {
    return isBlobName(blob) && existsSync(this.path(blob))
  }

  /**
   * Stores a stream of at most `most` bytes. check sees the path of the whole file before it is one of the store, and
   * may refuse it by throwing. Throws BadInput, and what the disk says.
   */
  async putStream(
    stream: Readable,
    most = MAXIMUM_BLOB,
    check?: (path: string) => Promise<void>,
  ): Promise<{ blob: string; bytes: number }> {
    const hash = createHash('sha256')
    let bytes = 0
    const beside = join(this.folder, `${randomBytes(8).toString('hex')}.part`)
    const meter = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        bytes += chunk.length
        // The rest is read and dropped: breaking the stream off would take the connection down before the answer is
        // sent
        if (bytes > most) return done()
        hash.update(chunk)
        done(null, chunk)
      },
    })
    try {
      await pipeline(stream, meter, createWriteStream(beside, { flush: true }))
      if (bytes > most) throw new BadInput(`The file is larger than ${Math.floor(most / 2 ** 20)} MiB.`)
      if (bytes === 0) throw new BadInput('The file is empty.')
      await check?.(beside)
      const blob = hash.digest('hex')
      await this.settle(beside, blob)
      return { blob, bytes }
    } catch (error) {
      await rm(beside, { force: true })
      throw error
    }
  }

  async put(data: Uint8Array): Promise<string> {
    const blob = createHash('sha256').update(data).digest('hex')
    const beside = join(this.folder, `${randomBytes(8).toString('hex')}.part`)
    try {
      await writeFile(beside, data, { flush: true })
      await this.settle(beside, blob)
    } catch (error) {
      await rm(beside, { force: true })
      throw error
    }
    return blob
  }

  /** Takes over a file that is already on this disk: hashed, then moved. */
  async adopt(path: string): Promise<string> {
    const hash = createHash('sha256')
    await pipeline(createReadStream(path), hash)
    await synced(path)
    const blob = hash.digest('hex')
    await this.settle(path, blob)
    return blob
  }

  /**
   * Gives a whole file its name. One that is there already is replaced: these bytes are known to be right, the others
   * may have been damaged since. On the disk, folder and all, before it is promised.
   */
  private async settle(beside: string, blob: string): Promise<void> {
    const path = this.path(blob)
    const fresh = !existsSync(dirname(path))
    await mkdir(dirname(path), { recursive: true })
    await rename(beside, path)
    await synced(dirname(path))
    if (fresh) await synced(this.folder)
  }

  /** Takes away what broken uploads and imports left behind. Only while nothing is written: at start. Returns how many. */
  async sweepParts(): Promise<number> {
    const parts = (await readdir(this.folder)).filter(name => name.endsWith('.part') || name.startsWith(IMPORTING))
    for (const part of parts) await rm(join(this.folder, part), { recursive: true, force: true })
    return parts.length
  }

  /** The bytes, checked against their name; those of a clip's frame too. */
  async get(blob: string): Promise<Uint8Array> {
    if (parseClipFrame(blob)) return this.frames.get(blob)
    if (!this.has(blob)) throw new BadInput('A file that this shot needs is not in the store.')
    const data = await readFile(this.path(blob))
    if (createHash('sha256').update(data).digest('hex') !== blob)
      throw new BadInput('A stored file is damaged: its bytes no longer match its name.')
    return data
  }

  head(blob: string, most: number): Promise<Uint8Array> {
    return headOf(this.path(blob), most)
  }

  async size(blob: string): Promise<number> {
    return (await stat(this.path(blob))).size
  }
  /** Its bytes, or those from `start` to `end` (both counted). */
  stream(blob: string, range: { start?: number; end?: number } = {}): Readable {
    return createReadStream(this.path(blob), range)
  }
}
