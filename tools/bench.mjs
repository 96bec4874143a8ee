// npm run bench [-- NAME] [--json]: each figure as a ratio against a named reference measured in the same run.
import { bundle, root } from './bundle.mjs'
import { buildKernels } from './build-kernels.mjs'

process.env.NORTHMIST_ROOT = root
await buildKernels()
await bundle()
const { bench } = await import(new URL('../.build/bench.mjs', import.meta.url).href)
const { pageFigures } = await import('./benchPage.mjs')
await bench(process.argv.slice(2), pageFigures)
