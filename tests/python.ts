// Debian's python3 with the reference libraries (OpenImageIO, OpenColorIO, OpenCV, numpy), for checks from outside.
// Loading them takes a second: one process has them loaded (tests/python.py) and runs each script in a fork.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll } from 'vitest'

/** Brings a request there and its answer back: a process, since checks wait for it. It may have to wait for the other. */
const BRING = `
import socket, sys, time
asked = sys.stdin.buffer.read()
for again in range(600):
    try:
        s = socket.socket(socket.AF_UNIX); s.connect(sys.argv[1]); break
    except OSError:
        s.close(); time.sleep(0.1)
else:
    sys.exit('the python of the tests does not answer')
s.sendall(len(asked).to_bytes(8, 'big') + asked)
while part := s.recv(1 << 20):
    sys.stdout.buffer.write(part)`

function run<T>(script: string, args: readonly string[], given: string): T {
  const asked = JSON.stringify({ script, arguments: args, given, folder: process.cwd() })
  const answer = execFileSync('/usr/bin/python3', ['-S', '-E', '-c', BRING, process.env['NORTHMIST_TEST_PYTHON']!], {
    encoding: 'utf8',
    maxBuffer: 1 << 29,
    input: asked,
  })
  const { status, printed, said } = JSON.parse(answer) as { status: number; printed: string; said: string }
  if (status !== 0) throw new Error(`python ended with ${status}: ${said}`)
  return JSON.parse(printed) as T
}

/** Runs a script; arguments arrive as sys.argv[1:]. Returns what it printed, parsed as JSON. */
export const python = <T>(script: string, ...args: string[]): T => run<T>(script, args, '')

/** The same with numbers that it reads as JSON from sys.stdin. */
export const pythonOf = <T>(script: string, given: unknown): T => run<T>(script, [], JSON.stringify(given))

/** A folder that goes away after the tests of a file. */
export function scratchFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'northmist-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}
