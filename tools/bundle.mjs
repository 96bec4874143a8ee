// Bundles what runs on Node outside the server (command line, pool threads, demo maker) into .build, when a source is
// newer.
import { existsSync, readdirSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const ENTRIES = {
  cli: 'cli/main.ts',
  bandWorker: 'host/bandWorker.ts',
  demo: 'demo/make.ts',
  bench: 'tools/bench.ts',
  damagedFiles: 'tools/damagedFiles.ts',
  engineThread: 'host/engineThread.ts',
  engineProcess: 'host/engineProcess.ts',
}
const SOURCES = ['cli', 'host', 'core', 'demo', 'kernels', 'shared', 'tools']

const newestIn = folder =>
  Math.max(
    0,
    ...readdirSync(join(root, folder), { recursive: true, withFileTypes: true })
      .filter(entry => entry.isFile() && /\.(ts|mjs)$/.test(entry.name))
      .map(entry => statSync(join(entry.parentPath ?? entry.path, entry.name)).mtimeMs),
  )

export async function bundle(force = false) {
  const entries = Object.entries(ENTRIES).filter(([, file]) => existsSync(join(root, file)))
  const newest = Math.max(
    ...SOURCES.filter(folder => existsSync(join(root, folder))).map(newestIn),
    statSync(join(root, 'package.json')).mtimeMs,
  )
  if (
    !force &&
    entries.every(
      ([name]) =>
        existsSync(join(root, `.build/${name}.mjs`)) && statSync(join(root, `.build/${name}.mjs`)).mtimeMs > newest,
    )
  )
    return false
  const { build } = await import('esbuild')
  await build({
    entryPoints: Object.fromEntries(entries.map(([name, file]) => [name, join(root, file)])),
    outdir: join(root, '.build'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    logLevel: 'warning',
    tsconfigRaw: { compilerOptions: { experimentalDecorators: true, target: 'es2022' } },
  })
  return true
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  console.log((await bundle(process.argv.includes('--force'))) ? 'bundled' : 'bundles up to date')
