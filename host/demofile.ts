// Files that come with Northmist for its demo; large ones are kept in pieces (name.000, name.001, …).
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { projectRoot } from './root'

export const demoFolder = (): string => join(projectRoot(), 'demo/assets')
export const isPieceOf = (file: string, name: string): boolean => file.startsWith(`${name}.`) && /\.\d{3}$/.test(file)

/** A file of the demo by its name; empty when there is none. */
export function demoFile(name: string): Buffer {
  const folder = demoFolder()
  if (existsSync(join(folder, name))) return readFileSync(join(folder, name))
  return Buffer.concat(
    readdirSync(folder)
      .filter(file => isPieceOf(file, name))
      .sort()
      .map(file => readFileSync(join(folder, file))),
  )
}
