// Thousands of damaged files: each must be read or refused with a sentence, soon, and in bounded memory.
import { BadInput } from '../core/formats/errors'
import { useNode } from '../host/engine'
import { seeds } from './wholeFiles'

/** Longest that one file may take, and most that the process may hold. */
const SLOW = 10_000
const LARGE = 3 * 2 ** 30

/**
 * most: minutes that it goes on, or files that are tried; seed: where the changes begin. Throws at the first file that is
 * neither read nor refused. Returns how many were.
 */
export async function fuzz(
  most: { minutes: number } | { files: number },
  seed: number,
): Promise<{ read: number; refused: number }> {
  useNode()
  let state = seed >>> 0
  const random = (below: number): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 4294967296) * below)
  }
  const all = seeds()
  for (const { kind, bytes, read } of all)
    try {
      await read(bytes.slice())
    } catch (error) {
      throw new Error(`${kind} is refused though nothing is wrong with it: ${(error as Error).message}`)
    }
  const begun = Date.now()
  const goesOn = (round: number): boolean =>
    'files' in most ? round < most.files : Date.now() < begun + most.minutes * 60000
  const counts = { read: 0, refused: 0 }
  for (let round = 0; goesOn(round); round++) {
    const { kind, bytes, read } = all[round % all.length]!
    const began = state
    let changed = bytes.slice()
    // The head is where sizes and places stand: half of the changes fall there
    for (let k = 1 + random(6); k > 0; k--) {
      const at = random(2) ? random(Math.min(changed.length, 2048)) : random(changed.length)
      changed[at] = random(3) === 0 ? 255 : random(2) ? changed[at]! ^ (1 << random(8)) : random(256)
    }
    if (random(4) === 0) changed = changed.slice(0, random(changed.length))
    const start = performance.now()
    try {
      await read(changed)
      counts.read++
    } catch (error) {
      if (!(error instanceof BadInput)) throw new Error(`${kind}, state ${began}: ${(error as Error).stack}`)
      counts.refused++
    }
    const took = performance.now() - start
    const held = process.memoryUsage().rss
    if (took > SLOW) throw new Error(`${kind}, state ${began}: took ${Math.round(took)} ms`)
    if (held > LARGE) throw new Error(`${kind}, state ${began}: the process holds ${Math.round(held / 2 ** 20)} MiB`)
  }
  return counts
}
