// Arguments of a command, files in and files out.
import { randomBytes } from 'node:crypto'
import { readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { parseArgs } from 'node:util'
import { BadInput } from '../core/formats/errors'
import type { PictureFormat } from '../core/formats/picture/picture'

/** Pictures by their ending. */
export const PICTURE_ENDINGS: Record<string, PictureFormat> = {
  '.exr': 'exr',
  '.png': 'png',
  '.jpg': 'jpeg',
  '.jpeg': 'jpeg',
  '.tif': 'tiff',
  '.tiff': 'tiff',
  '.hdr': 'hdr',
}
const MAXIMUM_FILE = 4 * 2 ** 30

/** Options with a value, options without, and a fixed number of positionals. Throws BadInput in words. */
export function parse<V extends string, F extends string>(
  args: string[],
  positionals: string[],
  values: readonly V[],
  flags: readonly F[] = [],
): { files: string[] } & { [K in V]?: string } & { [K in F]?: boolean } {
  const options: Record<string, { type: 'string' | 'boolean' }> = {}
  for (const name of values) options[name] = { type: 'string' }
  for (const name of flags) options[name] = { type: 'boolean' }
  let parsed
  try {
    parsed = parseArgs({ args, options, allowPositionals: true, strict: true })
  } catch (error) {
    throw new BadInput((error as Error).message.replace(/\. To specify.*$/s, ''))
  }
  if (parsed.positionals.length !== positionals.length)
    throw new BadInput(
      `expected ${positionals.join(' and ')}, got ${parsed.positionals.length ? parsed.positionals.join(' ') : 'nothing'}`,
    )
  return { files: parsed.positionals, ...parsed.values } as never
}

export async function readInput(file: string): Promise<Uint8Array> {
  let size: number
  try {
    const found = await stat(file)
    if (!found.isFile()) throw new BadInput(`${file} is not a file`)
    size = found.size
  } catch (error) {
    if (error instanceof BadInput) throw error
    throw new BadInput(
      `${file} cannot be read: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'there is no such file' : (error as Error).message}`,
    )
  }
  if (size > MAXIMUM_FILE) throw new BadInput(`${file} is larger than ${MAXIMUM_FILE / 2 ** 30} GiB`)
  return readFile(file)
}

/** Writes beside and renames, so that a failure leaves no half-written file. */
export async function writeOutput(file: string, bytes: Uint8Array): Promise<void> {
  const beside = `${file}.${randomBytes(4).toString('hex')}.part`
  try {
    await writeFile(beside, bytes)
    await rename(beside, file)
  } catch (error) {
    await rm(beside, { force: true })
    throw new BadInput(`${file} cannot be written: ${(error as Error).message}`)
  }
}

export function whole(name: string, text: string, low: number, high: number): number {
  const value = Number(text)
  if (!Number.isInteger(value) || value < low || value > high)
    throw new BadInput(`--${name} takes a whole number from ${low} to ${high}, not “${text}”`)
  return value
}

export function requireOption(name: string, value: string | undefined): string {
  if (!value) throw new BadInput(`--${name} is missing`)
  return value
}

export const list = (text: string): string[] =>
  text
    .split(',')
    .map(part => part.trim())
    .filter(Boolean)
