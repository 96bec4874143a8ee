// Compiles kernels/assembly to kernels/build/northmist.wasm, unless that is newer than every source. What each kernel is
// given is declared in kernels/records.ts; the classes that read it and the dispatch are made here.
import { existsSync, mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const source = join(root, 'kernels/assembly')
const target = join(root, 'kernels/build/northmist.wasm')

const records = readdirSync(join(root, 'kernels'))
  .filter(file => /^(record|.*[rR]ecords)\.ts$/.test(file))
  .map(file => join(root, 'kernels', file))

/** AssemblyScript made from the records: classes of arguments, and what starts a kernel by its number. */
async function declarations() {
  const { build } = await import('esbuild')
  const { outputFiles } = await build({
    stdin: {
      contents: "export { KERNELS } from './records'; export { layoutOf } from './record'",
      resolveDir: join(root, 'kernels'),
      loader: 'ts',
    },
    bundle: true,
    write: false,
    format: 'esm',
    logLevel: 'warning',
  })
  const { KERNELS, layoutOf } = await import(
    `data:text/javascript;base64,${Buffer.from(outputFiles[0].contents).toString('base64')}`
  )
  const types = { number: 'f32', whole: 'i32', pointer: 'usize', four: 'v128', splat: 'v128' }
  const classes = KERNELS.map(kernel => {
    const { places } = layoutOf(kernel.arguments)
    const fields = [...places].map(([name, at]) => {
      const { kind } = kernel.arguments[name]
      return kind === 'raster'
        ? `  @inline get ${name}(): Raster { return changetype<Raster>(changetype<usize>(this) + ${at}) }`
        : `  @inline get ${name}(): ${types[kind]} { return ${types[kind] === 'v128' ? 'v128.load' : `load<${types[kind]}>`}(changetype<usize>(this), ${at}) }`
    })
    return `@unmanaged\nexport class ${kernel.name}Arguments {\n${fields.join('\n')}\n}\n`
  })
  const fileOf = name => name[0].toLowerCase() + name.slice(1)
  const cases = KERNELS.map(({ name, traversal }, number) => {
    const own = `changetype<${name}>(args)`
    const call =
      traversal === 'block' ? `${own}.block(x0, y0, x1, y1)` : `for (let y = y0; y < y1; y++) ${own}.row(x0, x1, y)`
    return `    case ${number}:\n      ${call}\n      break\n`
  })
  const made = '// Made by tools/build-kernels.mjs from kernels/records.ts.\n'
  return {
    'arguments.ts': `${made}import { Raster } from '../assembly/raster'\n\n${classes.join('\n')}`,
    'dispatch.ts': `${made}${KERNELS.map(({ name }) => `import { ${name} } from '../assembly/image/${fileOf(name)}'\n`).join('')}\nexport function dispatch(kernel: i32, args: usize, x0: i32, y0: i32, x1: i32, y1: i32): void {\n  switch (kernel) {\n${cases.join('')}  }\n}\n`,
  }
}

export async function buildKernels() {
  const newest = Math.max(
    ...readdirSync(source, { recursive: true }).map(file => statSync(join(source, file)).mtimeMs),
    ...records.map(file => statSync(file).mtimeMs),
    statSync(fileURLToPath(import.meta.url)).mtimeMs,
  )
  if (existsSync(target) && statSync(target).mtimeMs > newest) return false
  mkdirSync(dirname(target), { recursive: true })
  for (const [file, text] of Object.entries(await declarations())) writeFileSync(join(dirname(target), file), text)
  const asc = await import('assemblyscript/asc')
  // The compiler takes its files by where it is run
  const before = process.cwd()
  process.chdir(root)
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
      '--importTable',
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
  process.chdir(before)
  if (error) throw new Error(`The kernels do not compile: ${error.message}\n${stderr.toString().slice(0, 6000)}`)
  return true
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  console.log((await buildKernels()) ? 'kernels compiled' : 'kernels up to date')
