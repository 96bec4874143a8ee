// Every treatment there is. To add one: a file beside this, its line here, its test.
import { average } from './average'
import { blur } from './blur'
import { cdl } from './cdl'
import { exposure } from './exposure'
import { haze } from './haze'
import { levels } from './levels'
import { saturation } from './saturation'
import type { Treatment } from './treatment'
import { vignette } from './vignette'

export const TREATMENTS: readonly Treatment[] = [exposure, cdl, levels, saturation, vignette, blur, haze, average]

/** The treatment of that id. Throws when there is none. */
export function treatmentOf(id: string): Treatment {
  const found = TREATMENTS.find(treatment => treatment.id === id)
  if (!found) throw new Error(`There is no treatment “${id}”.`)
  return found
}
