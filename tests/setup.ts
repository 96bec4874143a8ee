// Before any test: kernels compiled and bundles made, as the start command does it, and a python with the reference
// libraries loaded.
import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export default async function setup(): Promise<() => void> {
  const folder = mkdtempSync(join(tmpdir(), 'northmist-python-'))
  const socket = join(folder, 'socket')
  const script = new URL('./python.py', import.meta.url).pathname
  const child = spawn('/usr/bin/python3', [script, socket], { stdio: ['pipe', 'inherit', 'inherit'] })
  process.env['NORTHMIST_TEST_PYTHON'] = socket
  const { buildKernels } = await import('../tools/build-kernels.mjs' as string)
  await buildKernels()
  const { bundle } = await import('../tools/bundle.mjs' as string)
  await bundle()
  return () => {
    child.kill()
    rmSync(folder, { recursive: true, force: true })
  }
}
