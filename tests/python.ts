// Debian's python3 with the reference libraries (OpenImageIO, OpenColorIO, numpy), for checks from outside.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll } from 'vitest'

/** Runs a script; arguments arrive as sys.argv[1:]. Returns what it printed, parsed as JSON. */
export function python<T>(script: string, ...args: string[]): T {
  const printed = execFileSync('/usr/bin/python3', ['-c', script, ...args], { encoding: 'utf8', maxBuffer: 1 << 28 })
  return JSON.parse(printed) as T
}

/** The same with numbers that it reads as JSON from sys.stdin. */
export function pythonOf<T>(script: string, given: unknown): T {
  const printed = execFileSync('/usr/bin/python3', ['-c', script], {
    encoding: 'utf8',
    maxBuffer: 1 << 28,
    input: JSON.stringify(given),
  })
  return JSON.parse(printed) as T
}

/** A folder that goes away after the tests of a file. */
export function scratchFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'northmist-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}
