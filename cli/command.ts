/** One command of the command line: how it is called, what it does, and doing it. */
export interface Command {
  usage: string
  help: string
  run(args: string[]): Promise<void>
}
