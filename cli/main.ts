// northmist COMMAND …: the same core as the application, without a server.
import { BadInput } from '../core/formats/errors'
import type { Command } from './command'
import { info } from './info'
import { convert } from './convert'
import { render } from './render'
import { matte } from './matte'
import { build } from './build'
import { listing } from './list'
import { treat } from './treat'

const COMMANDS: Record<string, Command> = { info, convert, render, matte, build, treat, list: listing }

function usage(): string {
  return `Usage: northmist COMMAND …\n\n${Object.values(COMMANDS)
    .map(command => `  ${command.usage}\n      ${command.help}`)
    .join('\n')}\n`
}

/** Exit code: 0, or 2 with one line on standard error. */
export async function main(args: string[]): Promise<number> {
  const [name, ...rest] = args
  if (!name || name === 'help' || name === '--help' || name === '-h') {
    process.stdout.write(usage())
    return 0
  }
  const command = COMMANDS[name]
  try {
    if (!command) throw new BadInput(`there is no command “${name}”; there are ${Object.keys(COMMANDS).join(', ')}`)
    if (rest.includes('--help')) {
      process.stdout.write(`northmist ${command.usage}\n${command.help}\n`)
      return 0
    }
    await command.run(rest)
    return 0
  } catch (error) {
    process.stderr.write(`northmist: ${(error as Error).message.replace(/\s*\n\s*/g, ' ')}\n`)
    if (process.env.NORTHMIST_TRACE) process.stderr.write(`${(error as Error).stack}\n`)
    return 2
  }
}
