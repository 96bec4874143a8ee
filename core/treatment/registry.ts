// Every treatment there is. To add one: a file beside this, its line here, its test.
import { average } from './average'
import { balance } from './balance'
import { blur } from './blur'
import { cdl } from './cdl'
import { channels } from './channels'
import { clamp } from './clamp'
import { contrast } from './contrast'
import { curves } from './curves'
import { exposure } from './exposure'
import { focus } from './focus'
import { gamut } from './gamut'
import { haze } from './haze'
import { hue } from './hue'
import { hues } from './hues'
import { invert } from './invert'
import { look } from './look'
import { lut } from './lut'
import { levels } from './levels'
import { match } from './match'
import { premultiply } from './premultiply'
import { range } from './range'
import { recolour } from './recolour'
import { saturation } from './saturation'
import { shoulder } from './shoulder'
import { tint } from './tint'
import { tones } from './tones'
import type { Treatment } from './treatment'
import { vignette } from './vignette'

export const TREATMENTS: readonly Treatment[] = [
  exposure,
  levels,
  tones,
  contrast,
  curves,
  shoulder,
  balance,
  cdl,
  saturation,
  hue,
  hues,
  range,
  recolour,
  match,
  lut,
  tint,
  channels,
  gamut,
  clamp,
  invert,
  premultiply,
  focus,
  vignette,
  haze,
  blur,
  average,
  look,
]

/** The treatment of that id. Throws when there is none. */
export function treatmentOf(id: string): Treatment {
  const found = TREATMENTS.find(treatment => treatment.id === id)
  if (!found) throw new Error(`There is no treatment “${id}”.`)
  return found
}
