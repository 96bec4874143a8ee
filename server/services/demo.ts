// The demo's shots, loaded once into an empty database.
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { shots } from '../database/schema'
import { demoFile, demoFolder } from '../../host/demofile'
import type { PictureReference, ShotDocument } from '../../core/shot/document'
import { clipOfVideo, withClips } from '../../host/clips'
import { sceneStamp } from '../../core/shot/stamp'
import { context } from './context'
import { createShots } from './shots'

export async function loadDemo(): Promise<void> {
  const folder = demoFolder()
  if (!existsSync(join(folder, 'shots.json'))) return
  const { database, store } = await context()
  const [any] = await database.select({ id: shots.id }).from(shots).limit(1)
  if (any) return
  const list = JSON.parse(readFileSync(join(folder, 'shots.json'), 'utf8')) as {
    name: string
    document: ShotDocument
    files: Record<string, string>
    thumbnail: string
  }[]
  const clips = new Map<string, PictureReference>()
  const ready: { name: string; document: ShotDocument; thumbnail: string | null }[] = []
  for (const entry of list) {
    // Files are named in the document by @name, so that the text does not change with every byte of theirs
    const names = new Map<string, string>()
    for (const file of Object.values(entry.files)) names.set(`@${file}`, await store.put(demoFile(file)))
    const found = JSON.parse(JSON.stringify(entry.document), (_key, value) =>
      typeof value === 'string' && names.has(value) ? names.get(value) : value,
    ) as ShotDocument
    const document = await withClips(
      found,
      async file =>
        clips.get(file) ?? clips.set(file, await clipOfVideo(store, await store.put(demoFile(file)), file)).get(file)!,
    )
    // What was rendered for the demo is of its scene as it is
    if (document.passes.file) document.passes.file.of = sceneStamp(document)
    ready.push({ name: entry.name, document, thumbnail: names.get(`@${entry.thumbnail}`) ?? null })
  }
  // All or none: a start that breaks here begins anew
  await createShots(ready)
}
