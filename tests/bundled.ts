// A test and all of ours that it imports as one module: they are found and evaluated at once, not one after another for
// every file of tests. Packages stay outside, and each module knows where its own file is.
import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join, relative } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { build, type Plugin as EsbuildPlugin } from 'esbuild'
import type { Plugin } from 'vite'

const ROOT = fileURLToPath(new URL('..', import.meta.url))
/** Where they are, which Node.js imports by itself. */
export const BUNDLES = join(ROOT, '.build/tests')

/** Files of ours that ask for their address: only those are looked into, all else esbuild reads by itself. */
const ASKING = ['core', 'kernels', 'shared', 'server', 'cli', 'host', 'app', 'tests', 'tools', 'demo'].flatMap(folder =>
  readdirSync(join(ROOT, folder), { recursive: true, encoding: 'utf8' })
    .map(name => join(ROOT, folder, name))
    .filter(path => path.endsWith('.ts') && readFileSync(path, 'utf8').includes('import.meta')),
)
const escaped = (path: string): string => path.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
const ownAddress: EsbuildPlugin = {
  name: 'own address',
  setup({ onLoad }) {
    onLoad({ filter: new RegExp(`^(${ASKING.map(escaped).join('|')})$`) }, ({ path }) => ({
      contents: readFileSync(path, 'utf8')
        .replaceAll('import.meta.url', JSON.stringify(pathToFileURL(path).href))
        .replaceAll('import.meta.dirname', JSON.stringify(dirname(path))),
      loader: 'ts',
    }))
  },
}

export const bundled: Plugin = {
  name: 'northmist:bundled',
  enforce: 'pre',
  async load(id) {
    if (!id.endsWith('.test.ts')) return undefined
    const outfile = join(BUNDLES, relative(ROOT, id).replaceAll('/', '.').replace(/ts$/, 'mjs'))
    await build({
      ...{ entryPoints: [id], bundle: true, outfile, format: 'esm', platform: 'node', target: 'es2022' },
      ...{
        packages: 'external',
        alias: { '~': join(ROOT, 'app') },
        sourcemap: true,
        plugins: [ownAddress],
        logLevel: 'silent',
      },
      tsconfigRaw: { compilerOptions: { experimentalDecorators: true } },
    })
    return `import ${JSON.stringify(outfile)}`
  },
}
