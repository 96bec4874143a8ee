// npm run fuzz [-- MINUTES [SEED]]: damaged files of every kind by the thousand; ends with an error at the first that is
// neither read nor refused.
import { bundle, root } from './bundle.mjs'
import { buildKernels } from './build-kernels.mjs'

process.env.NORTHMIST_ROOT = root
await buildKernels()
await bundle()
const { fuzz } = await import(new URL('../.build/damagedFiles.mjs', import.meta.url).href)
const [minutes = '2', seed = '1'] = process.argv.slice(2)
if (!(Number(minutes) > 0) || !Number.isInteger(Number(seed))) {
  console.error('npm run fuzz -- MINUTES [SEED]: minutes above 0, a whole number')
  process.exit(2)
}
const { read, refused } = await fuzz({ minutes: Number(minutes) }, Number(seed))
console.log(`${read + refused} damaged files: ${read} read, ${refused} refused with a sentence`)
