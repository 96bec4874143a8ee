// What jobs made becomes part of the shot.
import jsonPatch from 'fast-json-patch'
import { bringAgain, bringLayer, bringPlate } from '../../core/shot/bring'
import { bringElement } from '../../core/shot/elements'
import type { PictureReference, ShotDocument } from '../../core/shot/document'
import { drawPicture, type Spot } from '../../core/shot/stuck'
import type { StartImport } from '../../shared/requests'
import { changeShot, getShot, Stale } from './shots'

/** What a job made becomes part of the shot, as a change of its own; a writer in between makes it try again. */
export async function attach(shotId: string, label: string, mutate: (document: ShotDocument) => void): Promise<void> {
  for (let attempt = 0; attempt < 20; attempt++) {
    const shot = await getShot(shotId).catch(() => undefined)
    if (!shot) return
    const next = structuredClone(shot.document)
    mutate(next)
    const patch = jsonPatch.compare(shot.document, next)
    if (!patch.length) return
    try {
      await changeShot(shotId, shot.revision, label, patch)
      return
    } catch (error) {
      if (!(error instanceof Stale)) throw error
    }
  }
}

const spotOf = ({ x, y, side }: NonNullable<StartImport['drawing']>): Spot | undefined =>
  x === undefined || y === undefined || side === undefined ? undefined : { x, y, side }

export async function attachClip(
  row: { id: string; shotId: string; settings: unknown },
  clip: PictureReference,
): Promise<void> {
  const { as, frame, layer: id, steady, wholeFrames, drawing } = row.settings as StartImport
  const again = steady || wholeFrames
  await attach(row.shotId, `${as === 'plate' ? 'New plate' : 'Add'}: ${clip.name}`.slice(0, 200), document => {
    const { layers } = document.build
    if (as === 'plate') {
      // A server that was killed after this and before it could note it does it again
      if (document.plate?.blob === clip.blob) return
      if (again && document.plate) document.plate = bringAgain(document.plate, clip)
      else bringPlate(document, clip)
      return
    }
    const layer = id === undefined ? undefined : layers[id]
    if (layer && 'picture' in layer && layer.picture) layer.picture = bringAgain(layer.picture, clip)
    else if (!layers[row.id] && !(drawing && drawPicture(document, drawing.id, clip, frame, spotOf(drawing), row.id)))
      // Also where the drawing is gone: a layer of its own is not lost
      (as === 'element' ? bringElement : bringLayer)(document, clip, frame, row.id)
  })
}

/** A clip that turned out to be another than was told takes its place wherever it stands. */
export async function attachFound(shotId: string, before: PictureReference, found: PictureReference): Promise<void> {
  const label = `${found.name}: ${found.clip!.count - found.clip!.gaps} frames are there`.slice(0, 200)
  await attach(shotId, label, document => {
    if (document.plate?.blob === before.blob) document.plate = bringAgain(document.plate, found)
    for (const layer of Object.values(document.build.layers))
      if ('picture' in layer && layer.picture?.blob === before.blob) layer.picture = bringAgain(layer.picture, found)
  })
}
