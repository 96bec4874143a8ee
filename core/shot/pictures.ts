// The pictures and clips that a shot has.
import type { PictureReference, ShotDocument } from './document'
import { inOrder } from './rows'

/** The plate and what its layers show, each with what it is called; one file once. */
export function picturesOf(document: ShotDocument): { label: string; picture: PictureReference }[] {
  const found = new Map<string, { label: string; picture: PictureReference }>()
  const add = (label: string, picture: PictureReference | null | undefined): void => {
    if (picture && !found.has(picture.blob)) found.set(picture.blob, { label, picture })
  }
  add('the plate', document.plate)
  for (const layer of inOrder(document.build.layers)) if ('picture' in layer) add(layer.name, layer.picture)
  return [...found.values()]
}
