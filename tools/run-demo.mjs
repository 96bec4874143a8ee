// Makes the demo's files again: npm run demo -- [what …], as demo/make.ts says
import { bundle, root } from './bundle.mjs'
import { buildKernels } from './build-kernels.mjs'

process.env.NORTHMIST_ROOT = root
await buildKernels()
await bundle()
await import(new URL('../.build/demo.mjs', import.meta.url).href)
