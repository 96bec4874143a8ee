// Where the checkout lies: bundles run from several depths below it.
import { existsSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

let found: string | undefined

export function projectRoot(): string {
  if (found) return found
  const starts = [
    process.env.NORTHMIST_ROOT,
    process.cwd(),
    import.meta.url.startsWith('file:') ? dirname(fileURLToPath(import.meta.url)) : undefined,
  ]
  for (const start of starts) {
    for (let folder = start; folder; folder = dirname(folder)) {
      if (existsSync(join(folder, 'kernels/assembly/layout.ts'))) return (found = folder)
      if (folder === dirname(folder)) break
    }
  }
  throw new Error('The files of Northmist were not found: start it from its folder.')
}
