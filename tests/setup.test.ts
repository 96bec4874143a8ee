// A starter that is killed while a step of its own is at work (npm ci, a build): the next one ends what was left.
import { spawn } from 'node:child_process'
import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from 'vitest'

const root = join(import.meta.dirname, '..')
const starter = (seconds: number) =>
  spawn(
    process.execPath,
    ['--input-type=module', '-e', `import { run } from './tools/setup.mjs'; await run('sleep', ['${seconds}'])`],
    { cwd: root, stdio: 'ignore' },
  )
const steps = join(root, '.build/steps')
const left = (): string[] => (existsSync(steps) ? readdirSync(steps) : [])
const isAlive = (pid: number): boolean => {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

it('ends what a killed starter left at work, and nothing of one that lives', async () => {
  const before = new Set(left())
  const added = (): number[] =>
    left()
      .filter(file => !before.has(file))
      .map(Number)
  const [killed, living] = [starter(86400), starter(86401)]
  await expect.poll(() => added().length, { timeout: 10000 }).toBe(2)
  killed.kill('SIGKILL')
  await new Promise(resolve => killed.on('close', resolve))
  const pids = added()
  expect(pids.filter(isAlive)).toHaveLength(2)
  const next = starter(0)
  await new Promise(resolve => next.on('close', resolve))
  // It may take a moment until what has ended is taken in
  await expect.poll(() => pids.filter(isAlive).length, { timeout: 10000 }).toBe(1)
  expect(added()).toHaveLength(1)
  const [last] = added()
  living.kill('SIGKILL')
  process.kill(last!, 'SIGKILL')
})
