#!/usr/bin/env node
// The command line. Compiles itself first when a source is newer than what was compiled last.
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { bundle, root } from '../tools/bundle.mjs'
import { buildKernels } from '../tools/build-kernels.mjs'

process.env.NORTHMIST_ROOT ??= root
if (!existsSync(join(root, 'node_modules/esbuild'))) {
  process.stderr.write(
    'northmist: its packages are not installed yet: run “npm ci” (or “npm start”) in its folder first.\n',
  )
  process.exit(2)
}
await buildKernels()
await bundle()
const { main } = await import(new URL('../.build/cli.mjs', import.meta.url).href)
process.exitCode = await main(process.argv.slice(2))
