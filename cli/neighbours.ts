// Files that a .gltf names beside itself.
import { basename, join } from 'node:path'
import { readInput } from './arguments'
import { BadInput } from '../core/formats/errors'

export async function neighbourFiles(bytes: Uint8Array, folder: string): Promise<Record<string, Uint8Array>> {
  if (bytes[0] === 0x67) return {}
  let json: { buffers?: { uri?: string }[]; images?: { uri?: string }[] }
  try { json = JSON.parse(new TextDecoder().decode(bytes)) } catch { throw new BadInput('the scene is neither a .glb nor JSON') }
  const files: Record<string, Uint8Array> = {}
  for (const { uri } of [...(json.buffers ?? []), ...(json.images ?? [])]) {
    if (!uri || uri.startsWith('data:')) continue
    const name = decodeURIComponent(uri)
    // Only files beside the scene: a scene must not reach elsewhere on the disk
    if (basename(name) !== name) throw new BadInput(`the scene names “${name}”, which is not beside it`)
    files[name] = await readInput(join(folder, name))
  }
  return files
}
