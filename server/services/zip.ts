// Files of the store as one ZIP (stored, not packed again), as a stream that waits for its reader and ends with it.
import { Zip, ZipPassThrough } from 'fflate'
import { once } from 'node:events'
import { PassThrough, type Readable } from 'node:stream'
import { BadInput } from '../../core/formats/errors'
import type { BlobStore } from '../../host/blobs'

/** A ZIP of the plain kind ends at 4 GiB. */
const MOST = 0xfff00000

export interface ZipEntry {
  name: string
  content: { blob: string } | { text: string }
}

/** Throws BadInput when it would be too large. */
export async function zipOf(store: BlobStore, entries: readonly ZipEntry[]): Promise<Readable> {
  let bytes = 0
  for (const { content } of entries) bytes += 'blob' in content ? await store.size(content.blob) : content.text.length
  if (bytes > MOST) throw new BadInput('These files are more than 4 GiB together, which one ZIP does not hold.')
  const out = new PassThrough()
  void (async () => {
    let full = false
    const zip = new Zip((error, chunk, final) => {
      if (error) {
        out.destroy(error)
        return
      }
      full = !out.write(chunk)
      if (final) out.end()
    })
    for (const { name, content } of entries) {
      const file = new ZipPassThrough(name)
      zip.add(file)
      if ('text' in content) file.push(new TextEncoder().encode(content.text), true)
      else {
        for await (const chunk of store.stream(content.blob)) {
          file.push(new Uint8Array(chunk as Buffer))
          // A reader that went away takes nothing more: leaving the loop closes the file
          if (full && !out.destroyed) await Promise.race([once(out, 'drain'), once(out, 'close')])
          if (out.destroyed) return
          full = false
        }
        file.push(new Uint8Array(), true)
      }
    }
    zip.end()
  })().catch(error => out.destroy(error as Error))
  return out
}
