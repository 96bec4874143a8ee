// One Northmist at a time on a data folder: who runs there, and what a dead one left.
import { closeSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, writeFileSync, writeSync } from 'node:fs'
import { join } from 'node:path'

/** When a process was started, in ticks since boot (proc(5), field 22 of stat), so that a number used again is told. */
function startOf(pid) {
  try {
    const text = readFileSync(`/proc/${pid}/stat`, 'utf8')
    return text.slice(text.lastIndexOf(')') + 2).split(' ')[19]
  } catch {
    return undefined
  }
}
const same = entry => !!entry?.pid && startOf(entry.pid) === entry.start
export const entryOf = pid => ({ pid, start: startOf(pid) })

/**
 * Takes the folder. Returns { lock } or, where another runs, { other } with what it said of itself. What a dead starter
 * left running is ended first.
 */
export async function takeLock(folder) {
  mkdirSync(folder, { recursive: true })
  const path = join(folder, 'northmist.lock')
  for (let attempt = 0; attempt < 5; attempt++) {
    try {
      const file = openSync(path, 'wx')
      const held = { starter: entryOf(process.pid) }
      writeSync(file, JSON.stringify(held))
      closeSync(file)
      return { lock: lockAt(path, held) }
    } catch (error) {
      if (error.code !== 'EEXIST') throw error
    }
    let found
    try {
      found = JSON.parse(readFileSync(path, 'utf8'))
    } catch {
      // Being written, or torn by a power cut
      await new Promise(resolve => setTimeout(resolve, 200))
      if (attempt < 3) continue
    }
    if (same(found?.starter)) return { other: found }
    await endLeft(found?.server)
    // Of two that find a dead one, one moves it away
    try {
      renameSync(path, `${path}.${process.pid}`)
      rmSync(`${path}.${process.pid}`, { force: true })
    } catch {
      /* the other did */
    }
  }
  throw new Error(`The lock ${path} cannot be taken; remove it if no Northmist runs.`)
}

function lockAt(path, held) {
  return {
    /** Says more of what runs here: address, server. */
    say(more) {
      Object.assign(held, more)
      writeFileSync(`${path}.new`, JSON.stringify(held))
      renameSync(`${path}.new`, path)
    },
    release() {
      rmSync(path, { force: true })
    },
  }
}

/** Ends a server that outlived its starter: politely, then not. */
async function endLeft(server) {
  if (!same(server)) return
  for (const [signal, tries] of [
    ['SIGTERM', 50],
    ['SIGKILL', 30],
  ]) {
    try {
      process.kill(server.pid, signal)
    } catch {
      return
    }
    for (let i = 0; i < tries && same(server); i++) await new Promise(resolve => setTimeout(resolve, 100))
    if (!same(server)) return
  }
}
