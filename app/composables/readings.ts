// What the layers of a set of passes from elsewhere are: asked once, remembered for files with the same layers.
import { operatorKey } from '../../core/engine/key'
import type { Theirs } from '../../core/render/theirs'
import type { PassReading } from '../../core/shot/document'
import type { PassDescription } from '~/workers/messages'
import { engine } from './engine'

const KEPT = 'northmist/readings'
/** Kinds of files that are remembered, the last first. */
const MOST_KEPT = 100
type Kept = [key: string, reading: PassReading][]

function kept(): Kept {
  try {
    const found = JSON.parse(localStorage.getItem(KEPT) ?? '[]') as unknown
    return Array.isArray(found) ? (found as Kept) : []
  } catch {
    return []
  }
}
const keyOf = ({ layers, sets }: Theirs): string =>
  operatorKey(layers.map(({ name }) => name).sort(), sets.map(({ name }) => name).sort())
function remember(theirs: Theirs, reading: PassReading) {
  const key = keyOf(theirs)
  const list = [[key, reading], ...kept().filter(([other]) => other !== key)].slice(0, MOST_KEPT)
  try {
    localStorage.setItem(KEPT, JSON.stringify(list))
  } catch {
    // A full or closed store of the browser costs the remembering only: the shot holds the reading
  }
}

export interface AskedReading {
  file: File
  theirs: Theirs
  /** What it is read as at first, and why. */
  reading: PassReading
  from: 'names' | 'remembered' | 'now'
  done(answer: PassDescription | 'picture' | null): void
}
const asked = shallowRef<AskedReading | null>(null)

export function useReadings() {
  /**
   * Asks what is what. now: how it is read so far. The answer is what the file holds then; 'picture' where only its picture is
   * wanted, null where nothing is.
   */
  async function ask(file: File, theirs: Theirs, now?: PassReading): Promise<PassDescription | 'picture' | null> {
    const remembered = kept().find(([key]) => key === keyOf(theirs))?.[1]
    asked.value?.done(null)
    const answer = await new Promise<PassDescription | 'picture' | null>(resolve => {
      asked.value = {
        file,
        theirs,
        reading: now ?? remembered ?? theirs.likely,
        from: now ? 'now' : remembered ? 'remembered' : 'names',
        done: resolve,
      }
    })
    asked.value = null
    if (answer && answer !== 'picture') remember(theirs, answer.reading!)
    return answer
  }
  /** What a file of passes is; 'picture' for what is none, null where one was asked and wants nothing. */
  async function passesOf(file: File): Promise<PassDescription | 'picture' | null> {
    if (!/\.exr$/i.test(file.name)) return 'picture'
    const theirs = await engine.theirs(file)
    if (theirs) return ask(file, theirs)
    return (await engine.describePasses(file)) ?? 'picture'
  }
  return { asked, ask, passesOf }
}
