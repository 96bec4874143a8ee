#!/usr/bin/env node
// The command line. Compiles itself first when a source is newer than what was compiled last.
import { spawnSync } from 'node:child_process'
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
// For its checks of bounds V8 sets ten times the kernels' memory aside as addresses. Where those are limited
// (ulimit -v) it can do without, a little slower.
const WITHOUT = '--disable-wasm-trap-handler'
try {
  // One beside another: what is tried here is given back later than the kernels ask for theirs
  Array.from({ length: 3 }, () => new WebAssembly.Memory({ initial: 1, maximum: 32768, shared: true }))
} catch (error) {
  if (process.execArgv.includes(WITHOUT)) {
    process.stderr.write(`northmist: ${error.message}: the limit of addresses (ulimit -v) is too low.\n`)
    process.exit(2)
  }
  const again = spawnSync(process.execPath, [WITHOUT, ...process.execArgv, ...process.argv.slice(1)], {
    stdio: 'inherit',
  })
  process.exit(again.status ?? 2)
}
await buildKernels()
await bundle()
const { main } = await import(new URL('../.build/cli.mjs', import.meta.url).href)
process.exitCode = await main(process.argv.slice(2))
