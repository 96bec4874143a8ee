// Renders that were stopped, or whose server was killed, kept so that they go on where they were. The newest few only: they are large.
import { createHash } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'

const MOST = 4

export class Unfinished {
  constructor(private folder: string) {}
  private path(key: string): string { return join(this.folder, `${createHash('sha256').update(key).digest('hex')}.render`) }

  async read(key: string): Promise<Uint8Array | undefined> { return readFile(this.path(key)).catch(() => undefined) }
  async forget(key: string): Promise<void> { await rm(this.path(key), { force: true }) }

  /** Written beside and renamed: a break leaves the one before. */
  async write(key: string, bytes: Uint8Array): Promise<void> {
    await mkdir(this.folder, { recursive: true })
    const path = this.path(key)
    await writeFile(`${path}.part`, bytes)
    await rename(`${path}.part`, path)
    const files = await Promise.all((await readdir(this.folder)).map(async name => ({ name, at: (await stat(join(this.folder, name))).mtimeMs })))
    for (const { name } of files.sort((a, b) => b.at - a.at).slice(MOST)) await rm(join(this.folder, name), { force: true })
  }
}
