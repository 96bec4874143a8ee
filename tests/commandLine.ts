// The command line called in this process: a process of its own for each call takes a second (tests/commandline.test.ts
// has those).
import { expect, vi } from 'vitest'
import { main } from '../cli/main'

async function call(args: string[]): Promise<{ status: number; stdout: string; stderr: string }> {
  const said = { stdout: '', stderr: '' }
  const spies = (['stdout', 'stderr'] as const).map(stream =>
    vi.spyOn(process[stream], 'write').mockImplementation(text => {
      said[stream] += String(text)
      return true
    }),
  )
  try {
    return { status: await main(args), ...said }
  } finally {
    for (const spy of spies) spy.mockRestore()
  }
}
export async function works(...args: string[]): Promise<string> {
  const { status, stderr, stdout } = await call(args)
  expect([status, stderr]).toEqual([0, ''])
  return stdout
}
export async function fails(says: RegExp, ...args: string[]): Promise<void> {
  const { status, stderr } = await call(args)
  expect(stderr).toMatch(says)
  expect([status, stderr.trim().split('\n').length]).toEqual([2, 1])
}
