// Files brought in: sent to the store, told by content, read for size, encoding and alpha.
import type { PictureReference } from '../../core/shot/document'
import { upload } from './api'
import { engine } from './engine'

export interface BroughtPicture { reference: PictureReference; notes: string[] }

/** Sends a picture file; what is guessed of it comes with its reason. */
export async function bringPicture(file: File, progress?: (share: number) => void): Promise<BroughtPicture> {
  const { width, height, encoding, reason, alpha, facts, notes } = await engine.describe(file)
  const { blob } = await upload(file, progress)
  return { reference: { blob, name: file.name.slice(0, 300), encoding, alpha, width, height, guessed: reason, facts }, notes }
}

export async function bringScene(file: File, progress?: (share: number) => void): Promise<{ blob: string; name: string }> {
  const sent = await upload(file, progress)
  if (sent.kind !== 'gltf') throw new Error(`“${file.name}” is no glTF scene.`)
  return { blob: sent.blob, name: file.name.slice(0, 300) }
}

export const isScene = (file: File): boolean => /\.(glb|gltf)$/i.test(file.name)
