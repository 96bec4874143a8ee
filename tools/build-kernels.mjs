// Compiles kernels/assembly to kernels/build/northmist.wasm, unless that is newer than every source.
import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const source = join(root, 'kernels/assembly')
const target = join(root, 'kernels/build/northmist.wasm')

export async function buildKernels() {
  const newest = Math.max(
    ...readdirSync(source, { recursive: true }).map(file => statSync(join(source, file)).mtimeMs),
    statSync(fileURLToPath(import.meta.url)).mtimeMs,
  )
  if (existsSync(target) && statSync(target).mtimeMs > newest) return false
  mkdirSync(dirname(target), { recursive: true })
  const asc = await import('assemblyscript/asc')
  const { error, stderr } = await asc.main(
    [
      'kernels/assembly/index.ts',
      '--outFile',
      'kernels/build/northmist.wasm',
      '--optimizeLevel',
      '3',
      '--shrinkLevel',
      '0',
      '--converge',
      '--noAssert',
      '--runtime',
      'stub',
      '--importMemory',
      '--sharedMemory',
      '--initialMemory',
      '16',
      '--maximumMemory',
      '32768',
      '--memoryBase',
      '4096',
      '--enable',
      'simd',
      '--enable',
      'threads',
      '--enable',
      'bulk-memory',
      '--enable',
      'nontrapping-f2i',
      '--use',
      'abort=',
    ],
    { baseDir: root },
  )
  if (error) throw new Error(`The kernels do not compile: ${error.message}\n${stderr.toString().slice(0, 6000)}`)
  return true
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  console.log((await buildKernels()) ? 'kernels compiled' : 'kernels up to date')
