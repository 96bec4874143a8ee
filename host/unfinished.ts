// Renders that were stopped, or whose server was killed, kept so that they go on where they were. The newest few only:
// they are large.
import { createHash } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'

const MOST = 4

/** A render is kept under its key in parts of their own names. */
export class Unfinished {
  constructor(private folder: string) {}
  private name(key: string): string {
    return createHash('sha256').update(key).digest('hex')
  }
  private path(key: string, part: string): string {
    return join(this.folder, `${this.name(key)}.${part}`)
  }

  async read(key: string, part: string): Promise<Uint8Array | undefined> {
    return readFile(this.path(key, part)).catch(() => undefined)
  }
  async forget(key: string): Promise<void> {
    for (const file of await this.files())
      if (file.startsWith(this.name(key))) await rm(join(this.folder, file), { force: true })
  }
  private files(): Promise<string[]> {
    return readdir(this.folder).catch(() => [])
  }

  /** Written beside and renamed: a break leaves the one before. */
  async write(key: string, part: string, bytes: Uint8Array): Promise<void> {
    await mkdir(this.folder, { recursive: true })
    const path = this.path(key, part)
    await writeFile(`${path}.new`, bytes)
    await rename(`${path}.new`, path)
    const newest = new Map<string, number>()
    for (const file of await this.files()) {
      const render = file.split('.')[0]!
      const at = (await stat(join(this.folder, file)).catch(() => undefined))?.mtimeMs ?? 0
      newest.set(render, Math.max(at, newest.get(render) ?? 0))
    }
    const old = [...newest]
      .sort(([, a], [, b]) => b - a)
      .slice(MOST)
      .map(([render]) => render)
    for (const file of await this.files())
      if (old.includes(file.split('.')[0]!)) await rm(join(this.folder, file), { force: true })
  }
}
