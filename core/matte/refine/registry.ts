// Every line that refines a matte. To add one: a file beside this, its line here, its test.
import { clip } from './clip'
import { grow } from './grow'
import { edge } from './edge'
import { drop, fill } from './fill'
import { follow } from './follow'
import type { Refiner } from './refiner'
import { soften } from './soften'
import { steady } from './steady'

export const REFINERS: readonly Refiner[] = [grow, soften, edge, fill, drop, clip, follow, steady]

/** The refining line of that id. Throws when there is none. */
export function refinerOf(id: string): Refiner {
  const found = REFINERS.find(refiner => refiner.id === id)
  if (!found) throw new Error(`There is no way “${id}” to refine a matte.`)
  return found
}
