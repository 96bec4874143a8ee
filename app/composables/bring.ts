// Files brought in: sent to the store, told by content, read for size and encoding.
import { guessEncoding, readPicture } from '../../core/formats/picture/picture'
import type { PictureReference } from '../../core/shot/document'
import { upload } from './api'

export interface BroughtPicture { reference: PictureReference; notes: string[] }

/** Sends a picture file; what is guessed of it comes with its reason. */
export async function bringPicture(file: File, progress?: (share: number) => void): Promise<BroughtPicture> {
  const picture = await readPicture(new Uint8Array(await file.arrayBuffer()))
  const { blob } = await upload(file, progress)
  const { encoding, reason } = guessEncoding(picture)
  const alpha = !picture.hasAlpha ? 'none' : picture.float ? 'premultiplied' : 'straight'
  const notes: string[] = []
  if (picture.bits === 8) notes.push('8 bits a channel: strong grades of smooth areas may show bands.')
  if (picture.dataWindow && picture.displayWindow && JSON.stringify(picture.dataWindow) !== JSON.stringify(picture.displayWindow)) notes.push('Its pixels cover another area than its frame; the frame is used.')
  return { reference: { blob, name: file.name.slice(0, 300), encoding, alpha, width: picture.width, height: picture.height, guessed: reason }, notes }
}

export async function bringScene(file: File, progress?: (share: number) => void): Promise<{ blob: string; name: string }> {
  const sent = await upload(file, progress)
  if (sent.kind !== 'gltf') throw new Error(`“${file.name}” is no glTF scene.`)
  return { blob: sent.blob, name: file.name.slice(0, 300) }
}

export const isScene = (file: File): boolean => /\.(glb|gltf)$/i.test(file.name)
