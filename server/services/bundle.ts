// A shot with all its files as one ZIP (stored, not packed again): what the command line's `build` takes once it is
// unpacked.
import type { Readable } from 'node:stream'
import { readManifest } from '../../core/shot/clip'
import { blobsOf, type ShotDocument } from '../../core/shot/document'
import { context } from './context'
import { zipOf } from './zip'

/** Every file that the shot needs: also the numbered frames of its clips, or the videos that they are decoded from. */
async function filesOf(document: ShotDocument): Promise<string[]> {
  const { store } = await context()
  const found = new Set<string>()
  for (const picture of [
    document.plate,
    ...Object.values(document.build.layers).map(layer => ('picture' in layer ? layer.picture : null)),
  ]) {
    if (!picture?.clip) continue
    const { frames, video } = readManifest(await store.get(picture.blob), picture.blob)
    for (const file of video ? [video.blob] : frames) if (file) found.add(file)
  }
  for (const blob of blobsOf(document)) found.add(blob)
  return [...found]
}

/** The ZIP as a stream. Throws BadInput when it would be too large. */
export async function bundleOf(name: string, document: ShotDocument): Promise<Readable> {
  const { store } = await context()
  const plain = name.replace(/[^\p{L}\p{N} ._-]+/gu, ' ').trim() || 'shot'
  return zipOf(store, [
    { name: `${plain}.json`, content: { text: JSON.stringify({ name, document }, null, 2) } },
    ...(await filesOf(document)).map(blob => ({ name: `${plain}.files/${blob}`, content: { blob } })),
  ])
}
