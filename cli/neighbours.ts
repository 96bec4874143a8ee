// Files beside a file that it names: parts of a scene, names of a Cryptomatte.
import { existsSync, readFileSync, statSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import { readInput } from './arguments'
import { namesApart, type NamesFile } from '../core/formats/cryptomatte/named'
import { BadInput } from '../core/formats/errors'
import { readMtl } from '../core/formats/mesh/mtl'

export async function neighbourFiles(bytes: Uint8Array, folder: string): Promise<Record<string, Uint8Array>> {
  if (bytes[0] === 0x67) return {}
  let json: { buffers?: { uri?: string }[]; images?: { uri?: string }[] }
  try {
    json = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new BadInput('the scene is neither a .glb nor JSON')
  }
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

/** Materials that an .obj names, and the pictures that they name, where they are beside it. */
export async function meshNeighbours(path: string): Promise<Record<string, Uint8Array>> {
  if (!/\.obj$/i.test(path)) return {}
  const folder = dirname(path)
  const files: Record<string, Uint8Array> = {}
  const take = async (name: string): Promise<Uint8Array | undefined> =>
    existsSync(join(folder, name)) ? (files[name] = await readInput(join(folder, name))) : undefined
  const named = [...new TextDecoder().decode(await readInput(path)).matchAll(/^mtllib\s+(.+?)\s*$/gm)].map(match =>
    basename(match[1]!.replace(/\\/g, '/')),
  )
  for (const name of named) {
    const bytes = await take(name)
    for (const { colourPicture } of bytes ? readMtl(new TextDecoder().decode(bytes)) : [])
      if (colourPicture) await take(colourPicture)
  }
  return files
}

/** Text beside a file: in its folder only, and of bounded size. */
export function besideFile(file: string, name: string): string | undefined {
  const path = join(dirname(file), basename(name))
  return existsSync(path) && statSync(path).size < 64 * 1048576 ? readFileSync(path, 'utf8') : undefined
}
/** The lists of names that an OpenEXR asks for, where they are beside it. */
export const namesBeside = (file: string, bytes: Uint8Array): NamesFile[] =>
  namesApart(bytes).flatMap(({ beside: name }) => {
    const text = besideFile(file, name)
    return text === undefined ? [] : [{ name, text }]
  })
