// Files named by the SHA-256 of their bytes, written beside and renamed, checked when read.
import { createHash, randomBytes } from 'node:crypto'
import { createReadStream, createWriteStream, existsSync, mkdirSync } from 'node:fs'
import { open, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { BadInput } from '../core/formats/errors'

export const MAXIMUM_BLOB = 2 * 2 ** 30
const NAME = /^[0-9a-f]{64}$/
export const isBlobName = (name: string): boolean => NAME.test(name)

export class BlobStore {
  constructor(readonly folder: string) {
    mkdirSync(folder, { recursive: true })
  }

  path(blob: string): string {
    if (!isBlobName(blob)) throw new BadInput('That is no name of a stored file.')
    return join(this.folder, blob.slice(0, 2), blob.slice(2))
  }
  has(blob: string): boolean {
    return isBlobName(blob) && existsSync(this.path(blob))
  }

  /** Stores a stream of at most `most` bytes. fresh: it was not there before. */
  async putStream(stream: Readable, most = MAXIMUM_BLOB): Promise<{ blob: string; bytes: number; fresh: boolean }> {
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
      await pipeline(stream, meter, createWriteStream(beside))
      if (bytes > most) throw new BadInput(`The file is larger than ${Math.floor(most / 2 ** 20)} MiB.`)
      if (bytes === 0) throw new BadInput('The file is empty.')
      const blob = hash.digest('hex')
      const fresh = !this.has(blob)
      await this.settle(beside, blob)
      return { blob, bytes, fresh }
    } catch (error) {
      await rm(beside, { force: true })
      throw error
    }
  }

  async put(data: Uint8Array): Promise<string> {
    const blob = createHash('sha256').update(data).digest('hex')
    if (this.has(blob)) return blob
    const beside = join(this.folder, `${randomBytes(8).toString('hex')}.part`)
    await writeFile(beside, data)
    await this.settle(beside, blob)
    return blob
  }

  /** Takes over a file that is already on this disk: hashed, then moved. */
  async adopt(path: string): Promise<string> {
    const hash = createHash('sha256')
    await pipeline(createReadStream(path), hash)
    const blob = hash.digest('hex')
    await this.settle(path, blob)
    return blob
  }

  private async settle(beside: string, blob: string): Promise<void> {
    const path = this.path(blob)
    if (existsSync(path)) return rm(beside)
    mkdirSync(dirname(path), { recursive: true })
    await rename(beside, path)
  }

  /** The bytes, checked against their name. */
  async get(blob: string): Promise<Uint8Array> {
    if (!this.has(blob)) throw new BadInput('A file that this shot needs is not in the store.')
    const data = await readFile(this.path(blob))
    if (createHash('sha256').update(data).digest('hex') !== blob)
      throw new BadInput('A stored file is damaged: its bytes no longer match its name.')
    return data
  }

  /** The first bytes, to tell what a file is without reading it whole. */
  async head(blob: string, most: number): Promise<Uint8Array> {
    const file = await open(this.path(blob))
    try {
      const { bytesRead, buffer } = await file.read(Buffer.alloc(most), 0, most, 0)
      return buffer.subarray(0, bytesRead)
    } finally {
      await file.close()
    }
  }

  /** Takes a file out of the store: only one that nothing refers to. */
  async remove(blob: string): Promise<void> {
    await rm(this.path(blob), { force: true })
  }

  async size(blob: string): Promise<number> {
    return (await stat(this.path(blob))).size
  }
  stream(blob: string): Readable {
    return createReadStream(this.path(blob))
  }
}
