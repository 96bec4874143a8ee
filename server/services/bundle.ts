// A shot with all its files as one ZIP (stored, not packed again): what the command line's `build` takes once it is
// unpacked.
import { Zip, ZipPassThrough } from 'fflate'
import { once } from 'node:events'
import { PassThrough, type Readable } from 'node:stream'
import { BadInput } from '../../core/formats/errors'
import { readManifest } from '../../core/shot/clip'
import { blobsOf, type ShotDocument } from '../../core/shot/document'
import { context } from './context'

/** A ZIP of the plain kind ends at 4 GiB. */
const MOST = 0xfff00000

/** Every file that the shot needs: also the frames of its clips. Videos that clips were made from are left out. */
async function filesOf(document: ShotDocument): Promise<string[]> {
  const { store } = await context()
  const made = new Set<string>()
  const found = new Set<string>()
  for (const picture of [
    document.plate,
    ...document.build.layers.map(layer => (layer.kind === 'picture' ? layer.picture : null)),
  ]) {
    if (!picture?.clip) continue
    if (picture.clip.made) made.add(picture.clip.made.blob)
    for (const frame of readManifest(await store.get(picture.blob)).frames) if (frame) found.add(frame)
  }
  for (const blob of blobsOf(document)) if (!made.has(blob)) found.add(blob)
  return [...found]
}

/** The ZIP as a stream that waits for its reader. Throws BadInput when it would be too large. */
export async function bundleOf(name: string, document: ShotDocument): Promise<Readable> {
  const { store } = await context()
  const files = await filesOf(document)
  const plain = name.replace(/[^\p{L}\p{N} ._-]+/gu, ' ').trim() || 'shot'
  let bytes = 0
  for (const blob of files) bytes += await store.size(blob)
  if (bytes > MOST) throw new BadInput('The files of this shot are more than 4 GiB, which one ZIP does not hold.')
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
    const entry = new ZipPassThrough(`${plain}.json`)
    zip.add(entry)
    entry.push(new TextEncoder().encode(JSON.stringify({ name, document }, null, 2)), true)
    for (const blob of files) {
      const file = new ZipPassThrough(`${plain}.files/${blob}`)
      zip.add(file)
      for await (const chunk of store.stream(blob)) {
        file.push(new Uint8Array(chunk as Buffer))
        if (full) {
          await once(out, 'drain')
          full = false
        }
      }
      file.push(new Uint8Array(), true)
    }
    zip.end()
  })().catch(error => out.destroy(error as Error))
  return out
}
